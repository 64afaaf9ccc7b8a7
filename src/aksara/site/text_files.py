"""Text in files that are no pages: templates, Markdown, data, catalogues of translations, scripts.

What face it will be set in is not known, so it counts for the families of running text. Tags and expressions of
templates are stepped over; where it is not clear what is text, it counts as text.
"""

from __future__ import annotations

import csv
import json
import re
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from aksara.limits import MAX_DATA_DEPTH
from aksara.site.contents import PAGE_SUFFIXES, TEMPLATE_SUFFIXES
from aksara.site.page.templates import EXPRESSIONS, template_markup
from aksara.site.spans import find_spans, without
from aksara.site.tree import parse_html

_STRING = re.compile(r"\"((?:[^\"\\\n]|\\.)*)\"|'((?:[^'\\\n]|\\.)*)'|`((?:[^`\\]|\\.)*)`")
_SCRIPT_COMMENT = re.compile(r"/\*.*?\*/|(?<![:\"'\w])//[^\n]*", re.DOTALL)
#: Expressions of components, in a line.
_BRACES = re.compile(r"\{[A-Za-z_@/:#!][^{}\n]*\}")
_ESCAPE = re.compile(r"\\u\{([0-9A-Fa-f]{1,6})\}|\\u([0-9A-Fa-f]{4})|\\x([0-9A-Fa-f]{2})|\\(.)", re.DOTALL)
_CSS_ESCAPE = re.compile(r"\\([0-9A-Fa-f]{1,6})[ \t\n\r\f]?")
_SHOWN_ATTRIBUTES = ("alt", "title", "placeholder", "value", "label", "summary", "aria-label", "content")


def file_text(source: str, suffix: str) -> str:
    """The text of a file, by its suffix (".md"); files of unknown kinds are text as they stand."""
    return _KINDS.get(suffix.lower(), str)(source)


def _markup(source: str) -> str:
    """Text and shown attributes of HTML, SVG and templates; scripts count by their strings."""
    expressions = list(find_spans(source, EXPRESSIONS, to_the_end=("<?php",)))
    strings = [_strings(source[start:end]) for start, end in expressions if not source.startswith(("{#", "<#"), start)]
    document = parse_html(_BRACES.sub(" ", without(source, iter(expressions))))
    words: list[str] = []
    for element in document.root.everything():
        if element.tag == "style":
            words.append(_css(element.text))
        elif element.tag == "script":
            words.append(_strings(element.text))
        else:
            words += [child for child in element.children if isinstance(child, str)]
            words += [child for child in element.content if isinstance(child, str)]
        words += [element.attributes[name] for name in _SHOWN_ATTRIBUTES if name in element.attributes]
    return " ".join([*words, *strings])


def _strings(source: str) -> str:
    """The strings of a script, including those that only it uses (paths, names of modules)."""
    found = []
    for match in _STRING.finditer(_SCRIPT_COMMENT.sub(" ", source)):
        text = next(group for group in match.groups() if group is not None)
        found.append(_unescaped(re.sub(r"\$\{[^}]*\}", " ", text)))
    return " ".join(found)


def _unescaped(text: str) -> str:
    def character(match: re.Match[str]) -> str:
        code = match[1] or match[2] or match[3]
        if code:
            code_point = int(code, 16)
            return chr(code_point) if code_point <= 0x10FFFF and not 0xD800 <= code_point <= 0xDFFF else ""
        return {"n": "\n", "t": "\t", "r": "\n"}.get(match[4], match[4])

    return _ESCAPE.sub(character, text)


def _script(source: str) -> str:
    """Strings, and the text between tags where the script has markup in it."""
    between = re.findall(r">([^<>{}=;]+)<", source)
    return " ".join([_strings(source), *between])


def _markdown(source: str) -> str:
    text = re.sub(r"(?s)\A---\n.*?\n---\n", lambda match: _yaml(match[0]), source)
    text = re.sub(r"\]\([^)\s]*", "](", re.sub(r"(?m)^\[[^\]]+\]:.*$", "", text))
    return _markup(re.sub(r"<(https?:[^>]*)>", r"\1", text))


def _json(source: str) -> str:
    try:
        data = json.loads(source)
    except (ValueError, RecursionError):
        return source
    return " ".join(_values(data, 0))


def _values(data: Any, depth: int) -> Iterator[str]:
    if isinstance(data, dict | list) and depth < MAX_DATA_DEPTH:
        for value in data.values() if isinstance(data, dict) else data:
            yield from _values(value, depth + 1)
    elif isinstance(data, str):
        yield data
    elif isinstance(data, int | float) and not isinstance(data, bool):
        yield str(data)


def _yaml(source: str) -> str:
    """The strings without keys and comments, unescaped."""
    lines = []
    for line in source.split("\n"):
        text = re.sub(r"(^|\s)#.*$", "", line) if "'" not in line and '"' not in line else line
        text = re.sub(r"^\s*(?:- +)*[\w.\"'-]+\s*:(?=\s|$)", "", text)
        lines.append(_unescaped(text) if '"' in text else text)
    return "\n".join(lines)


def _csv(source: str) -> str:
    try:
        dialect: Any = csv.Sniffer().sniff(source[:4096], delimiters=",;\t")
    except csv.Error:
        dialect = "excel"
    try:
        return " ".join(cell for row in csv.reader(source.splitlines(), dialect) for cell in row)
    except csv.Error:
        return source


def _catalogue(source: str) -> str:
    """The translations of a PO file; untranslated entries count by their source text."""
    texts: list[str] = []
    entry: dict[str, str] = {}
    keyword = ""
    for line in [*source.splitlines(), ""]:
        match = re.match(r"\s*(msgid|msgid_plural|msgstr|msgctxt)?(?:\[\d+\])?\s*\"(.*)\"\s*$", line)
        if match:
            keyword = match[1] or keyword
            if match[1] == "msgid":
                texts.append(entry.get("msgstr") or entry.get("msgid", ""))
                entry = {}
            entry[keyword] = entry.get(keyword, "") + _unescaped(match[2])
    texts.append(entry.get("msgstr") or entry.get("msgid", ""))
    return " ".join(texts[2:] if len(texts) > 1 and "Content-Type" in texts[1] else texts)


def _css(source: str) -> str:
    """What `content` may write: strings, and code points that are escaped."""
    codes = (int(match[1], 16) for match in _CSS_ESCAPE.finditer(source))
    escaped = "".join(chr(code) for code in codes if 0x20 <= code <= 0x10FFFF and not 0xD800 <= code <= 0xDFFF)
    strings = (match[1] or match[2] or "" for match in _STRING.finditer(source))
    return escaped + " ".join(_CSS_ESCAPE.sub("", text) for text in strings)


_KINDS: dict[str, Callable[[str], str]] = {
    **dict.fromkeys((".md", ".markdown", ".mdx"), _markdown),
    ".json": _json,
    **dict.fromkeys((".yaml", ".yml"), _yaml),
    **dict.fromkeys((".csv", ".tsv"), _csv),
    **dict.fromkeys((".po", ".pot"), _catalogue),
    **dict.fromkeys((".js", ".mjs", ".cjs", ".ts", ".jsx", ".tsx"), _script),
    **dict.fromkeys((".pug", ".jade"), lambda source: _markup(template_markup(source, ".pug"))),
    ".css": _css,
    **dict.fromkeys(
        (".php", ".twig", ".liquid", ".njk", ".hbs", ".mustache", ".ejs", ".erb", ".jinja", ".j2", ".vue", ".svelte",
         ".astro", ".xml", ".svg", ".ftl", ".cshtml", ".html", ".htm", ".xhtml"),
        _markup,
    ),
}  # fmt: skip

#: All files that may hold text of a site, by suffix.
TEXT_SUFFIXES = frozenset(_KINDS) | PAGE_SUFFIXES | TEMPLATE_SUFFIXES | {".txt", ".toml"}


# What Markdown and markup emphasise: by style ("em"), by weight ("strong") or by both.
_TAGGED: Mapping[str, re.Pattern[str]] = {
    "em": re.compile(r"<(?:em|i|cite|dfn|var|address)[\s>]", re.IGNORECASE),
    "strong": re.compile(r"<(?:strong|b|th|h[1-6]|dt)[\s>]", re.IGNORECASE),
}
# Marks beside white space are none (CommonMark 0.31, section 6.2), nor are underscores inside of words.
_MARKED: Mapping[str, re.Pattern[str]] = {
    "both": re.compile(r"(?<![*\\])\*{3}(?=[^\s*])[^*\n]+\*{3}|(?<![\w\\])_{3}(?=[^\s_])[^_\n]+_{3}(?!\w)"),
    "em": re.compile(r"(?<![*\\])\*(?=[^\s*])[^*\n]+(?<=\S)\*(?!\*)|(?<![\w\\])_(?=[^\s_])[^_\n]+(?<=\S)_(?!\w)"),
    "strong": re.compile(
        r"(?<![*\\])\*\*(?=[^\s*])[^*\n]+\*\*|(?<![\w\\])__(?=[^\s_])[^_\n]+__(?!\w)|(?m:^ {0,3}#{1,6} )"
    ),
}
_CODE = re.compile(r"(?ms)^ {0,3}(```|~~~).*?^ {0,3}\1|`[^`\n]+`|^(?: {4}|\t).*?$")


def emphasis_in(source: str, suffix: str) -> dict[str, int]:
    """Which kinds of emphasis a file's text has, each with the line of the first.

    A template sets it in a bold or an italic that its own text may not show.
    """
    found: dict[str, int] = {}
    patterns = [*_TAGGED.items()]
    if _KINDS.get(suffix.lower()) is _markdown:
        # What is code keeps its lines, and none of its marks.
        source = _CODE.sub(lambda code: "\n" * code[0].count("\n"), source)
        patterns += _MARKED.items()
    elif _KINDS.get(suffix.lower()) not in (_json, _yaml, _csv, _catalogue):
        return {}
    for kind, pattern in patterns:
        if (match := pattern.search(source)) is not None:
            found.setdefault(kind, source.count("\n", 0, match.start()) + 1)
    return found

"""Templates as markup: expressions stepped over, the words in them kept, lines where they were.

What a template is rendered to is not known, but its elements, classes and own words are. An expression in an attribute
that quotes a file (`href="{{ 'css/site.css' | asset_url }}"`) becomes that file.
"""

from __future__ import annotations

import html
import re
from collections.abc import Callable

from aksara.site.page.pug import pug_markup
from aksara.site.spans import find_spans, without

#: Expressions of the common kinds of templates, from sign to sign.
EXPRESSIONS = (
    ("{{!--", "--}}"), ("{{{", "}}}"), ("{{", "}}"), ("{%", "%}"), ("{#", "#}"), ("<?php", "?>"), ("<?=", "?>"),
    ("<%", "%>"), ("${", "}"), ("<#", ">"),
)  # fmt: skip
#: Directives in the text: @if(…), @yield('title').
_DIRECTIVE = re.compile(
    r"(?<![\w@])@(?:extends|section|include|yield|foreach|endforeach|if|endif|else|elseif|endsection|csrf|method|push|"
    r"endpush|stack|component|endcomponent|slot|endslot|lang|for|endfor|isset|endisset|auth|endauth|guest|endguest|php|"
    r"endphp|props|vite)\b(?:[ \t]*\([^()\n]{0,500}(?:\([^()\n]{0,200}\)[^()\n]{0,200}){0,9}\))?"
)
#: Blocks that are no markup.
_BLOCKS = tuple(
    (f"{{%{space} {name} {other}%}}", f"end{name}")
    for name in ("schema", "javascript", "stylesheet", "comment")
    for space, other in (("", ""), ("-", "-"), ("-", ""), ("", "-"))
)
_STRING = re.compile(r"\"((?:[^\"\\\n]|\\.)*)\"|'((?:[^'\\\n]|\\.)*)'", re.DOTALL)
#: Calls whose strings are shown: translations, and what is written out.
_SHOWN = re.compile(
    r"(?:\b_{1,2}|\b_[enx]{1,2}|\besc_(?:html|attr)_{1,2}[ex]?|\btrans|\btranslate|\bgettext|\bt|\becho|\bprint|=)\s*\(?\s*"
    r"(?:\"((?:[^\"\\\n]|\\.)*)\"|'((?:[^'\\\n]|\\.)*)')",
)
#: What is translated by a filter: {{ "Read more" | t }}.
_TRANSLATED = re.compile(r"(?:\"([^\"\n]*)\"|'([^'\n]*)')\s*(?:\||\))?\s*\|?\s*(?:t|trans|translate|i18n|_)\b")
_CLASSES = re.compile(r"[A-Za-z][\w-]*(?: [A-Za-z][\w-]*)*")
_FILE = re.compile(r"[^\"'\s]+\.[A-Za-z0-9]{2,5}")
_RAZOR = re.compile(r"(?<![\w.])@(?:model|using|inject|page|addTagHelper)\b[^\n]*|(?<![\w.])@[\w.]+(?:\([^()\n]*\))?")
_STYLE = (("<style", "</style>"),)
_KEY = re.compile(r"[A-Za-z0-9_-]+(?:\.[A-Za-z0-9_-]+)+")
_FRONT_MATTER = re.compile(r"\A---\s*\n.*?\n---\s*\n", re.DOTALL)
#: A tag among a script's text, with expressions in braces as values, and signs that text is code.
_JSX_TAG = re.compile(
    r"</?[A-Za-z][\w.:-]*(?:\s(?:[^<>\"'{}]|\"[^\"]*\"|'[^']*'|\{(?:[^{}]|\{[^{}]*\})*\}|=>)*)?/?>|</?>"
)
_CODE = re.compile(r"[;=]|\b(?:return|const|function|import|export)\b")
#: Attributes that are expressions (`:class="…"`), and shorthands of components.
_BOUND = re.compile(
    r"\s(?:v-[\w:.-]+|[:@#][\w:.-]+|(?:on|bind|use|in|out|transition|class):[\w|:-]+)=(?:\"[^\"]*\"|'[^']*')"
)


def template_markup(source: str, suffix: str) -> str:
    """A template as HTML, by its suffix (".twig")."""
    convert = _KINDS.get(suffix.lower(), _expressions_out)
    return convert(source)


def _blank(text: str) -> str:
    """As many lines, and nothing in them."""
    return "\n" * text.count("\n") or " "


def _expressions_out(source: str) -> str:
    """HTML with expressions of any common kind."""
    source = _FRONT_MATTER.sub(lambda match: _blank(match[0]), source)
    source = without(source, find_spans(source, _BLOCKS))
    pieces: list[str] = []
    end = 0
    inside = _InsideTag()
    for start, stop in find_spans(source, EXPRESSIONS, to_the_end=("<?php",)):
        inside.follow(source[end:start])
        pieces.append(_DIRECTIVE.sub(_directive, source[end:start]))
        expression, end = source[start:stop], stop
        words = _file_in(expression) if inside.tag else html.escape(_words_in(expression), quote=True)
        pieces.append((words or ("" if inside.tag else " ")) + "\n" * expression.count("\n"))
    pieces.append(_DIRECTIVE.sub(_directive, source[end:]))
    return "".join(pieces)


def _directive(match: re.Match[str]) -> str:
    return html.escape(_words_in(match[0]), quote=True) or " "


class _InsideTag:
    """Whether what comes next is inside a tag; follows the text between expressions."""

    def __init__(self) -> None:
        self.tag = False
        self._quote = ""

    def follow(self, text: str) -> None:
        """Continue after this text."""
        for sign in re.findall(r"<[A-Za-z/!]|[>\"']", text):
            if self._quote:
                if sign == self._quote:
                    self._quote = ""
            elif not self.tag:
                self.tag = sign[0] == "<" and len(sign) > 1
            elif sign in "\"'":
                self._quote = sign
            elif sign == ">":
                self.tag = False


def _file_in(expression: str) -> str:
    """The file that an expression in an attribute quotes, or the words that may be classes."""
    files = [text for match in _STRING.finditer(expression) if _FILE.fullmatch(text := match[1] or match[2] or "")]
    if len(files) == 1:
        return html.escape(files[0], quote=True)
    words = (match[1] or match[2] or "" for match in _STRING.finditer(expression))
    return " ".join(word for word in words if _CLASSES.fullmatch(word))


def _words_in(expression: str) -> str:
    """The quoted words that an expression outputs."""
    if expression.startswith(("{#", "{{!", "<#")):
        return ""
    pattern = _SHOWN if expression.startswith(("<", "@")) else _TRANSLATED
    words = (match[1] or match[2] or "" for match in pattern.finditer(expression))
    return " ".join(word for word in words if not _KEY.fullmatch(word) and "<" not in word)


def _component(source: str) -> str:
    """A Vue or Svelte component: its markup and styles, without its scripts."""
    source = without(source, find_spans(source, (("<script", "</script>"),)))
    start, end = source.find("<template"), source.rfind("</template>")
    if 0 <= start < end:
        rest = source[end:]
        styles = "".join(rest[first:last] for first, last in find_spans(rest, _STYLE))
        source = _blank(source[:start]) + source[start + len("<template") : end].partition(">")[2] + styles
    return _braces_out(_expressions_out(_BOUND.sub(lambda match: _blank(match[0]), source)))


def _braces_out(source: str) -> str:
    """Without `{…}` outside of style sheets, as far as braces pair; strings in them are words."""
    pieces: list[str] = []
    depth = start = 0
    styles = list(find_spans(source, _STYLE))
    for match in re.finditer(r"[{}]", source):
        while styles and styles[0][1] <= match.start():
            del styles[0]
        if styles and styles[0][0] < match.start():
            continue
        if match[0] == "{":
            if not depth:
                pieces.append(source[start : match.start()])
                start = match.start()
            depth += 1
        elif depth:
            depth -= 1
            if not depth:
                pieces.append(_braces(source[start : match.end()]))
                start = match.end()
    # An unclosed brace is not an expression.
    return "".join(pieces) + source[start:]


def _braces(expression: str) -> str:
    """The markup, or the words, inside of an expression in braces."""
    inner = expression[1:-1]
    if re.search(r"<[A-Za-z>]", inner):
        return _jsx(inner)
    lines = "\n" * expression.count("\n")
    if match := re.fullmatch(r"\s*(?:\"([^\"]*)\"|'([^']*)'|`([^`$]*)`)\s*", inner):
        return (match[1] or match[2] or match[3] or "") + lines
    return lines or " "


def _jsx(source: str) -> str:
    """The tags of a script with markup in it, and the text between them."""
    pieces: list[str] = []
    end = 0
    for match in _JSX_TAG.finditer(source):
        between = source[end : match.start()]
        is_code = not pieces or bool(_CODE.search(_without_braces(between)))
        pieces.append(_blank(between) if is_code else _without_braces(between))
        tag = re.sub(r"\{(?:[^{}]|\{[^{}]*\})*\}", _attribute_value, match[0])
        pieces.append("" if tag in ("<>", "</>") else re.sub(r"\bclassName=", "class=", tag))
        end = match.end()
    return "".join(pieces)


def _attribute_value(match: re.Match[str]) -> str:
    strings = [text for string in _STRING.finditer(match[0]) if (text := string[1] or string[2])]
    return '"' + html.escape(" ".join(strings), quote=True) + '"' + "\n" * match[0].count("\n")


def _without_braces(text: str) -> str:
    text = re.sub(r"\{(?:[^{}]|\{[^{}]*\})*\}", lambda match: _braces(match[0]), text)
    # What is left of an expression around a tag: {ready ? <b>Go</b> : "Wait"}
    code, brace, rest = text.rpartition("}")
    strings = " ".join(match[1] or match[2] or "" for match in _STRING.finditer(code)) if brace else ""
    return strings + rest.partition("{")[0]


def _razor(source: str) -> str:
    """Without `@` expressions and code blocks."""
    source = re.sub(r"@\{(?:[^{}]|\{[^{}]*\})*\}|@\*.*?\*@", lambda match: _blank(match[0]), source, flags=re.DOTALL)
    return _expressions_out(_RAZOR.sub(" ", source))


def _pug(source: str) -> str:
    """Pug: tags by indentation."""
    source = _FRONT_MATTER.sub(lambda match: _blank(match[0]), source)
    return pug_markup(source, lambda expression: _words_in(f"<{expression}"))


_KINDS: dict[str, Callable[[str], str]] = {
    **dict.fromkeys((".pug", ".jade"), _pug),
    **dict.fromkeys((".vue", ".svelte"), _component),
    ".astro": lambda source: _braces_out(_component(_FRONT_MATTER.sub(lambda match: _blank(match[0]), source))),
    **dict.fromkeys((".jsx", ".tsx", ".js", ".mjs", ".cjs", ".ts"), _jsx),
    **dict.fromkeys((".cshtml", ".razor"), _razor),
}

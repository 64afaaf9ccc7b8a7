"""What is written on the pages of a site: their text and their languages."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field

# Attributes that readers see, too (HTML, "global attributes" and those of forms, images and tables).
_SHOWN = frozenset({"alt", "title", "placeholder", "value", "label", "summary", "aria-label", "data-label"})
_INLINE = frozenset(
    {
        *(
            "a",
            "abbr",
            "b",
            "bdi",
            "bdo",
            "cite",
            "code",
            "data",
            "dfn",
            "em",
            "font",
            "i",
            "ins",
            "del",
            "kbd",
            "mark",
        ),
        *("q", "s", "samp", "small", "span", "strong", "sub", "sup", "time", "u", "var", "wbr"),
    }
)
_CSS_ESCAPE = re.compile(r"\\([0-9A-Fa-f]{1,6})[ \t\n\r\f]?")
_HTML = frozenset({".html", ".htm", ".xhtml"})
#: Files whose text may be shown, by suffix: pages and templates, style sheets (`content`), data, scripts.
TEXT_SUFFIXES = _HTML | {
    *(".css", ".txt", ".md", ".json", ".yaml", ".yml", ".toml", ".csv", ".xml", ".svg", ".js", ".mjs", ".ts", ".jsx"),
    *(".tsx", ".vue", ".svelte", ".php", ".twig", ".liquid", ".njk", ".hbs", ".ejs", ".erb", ".jinja", ".j2", ".po"),
}


@dataclass(slots=True)
class PageText:
    """`text` is running text; `more` are characters that may be shown besides; `languages` counts `lang` attributes."""

    text: str = ""
    more: set[str] = field(default_factory=set)
    languages: Counter[str] = field(default_factory=Counter)


def read_page(source: str, suffix: str) -> PageText:
    """What a page says. Of a file that is not HTML all characters may be shown, for all we know.

    Style sheets bring `content`, so code points escaped in them count.
    """
    if suffix.lower() not in _HTML:
        return PageText(more=set(source) | _escaped(source))
    # A parser that takes time in proportion to the page, whatever is in it.
    from lxml import etree

    page = _Page()
    parser = etree.HTMLParser(target=page, huge_tree=True)
    parser.feed(source)
    parser.close()
    more = "".join(page.more)
    return PageText(" ".join("".join(page.text).split()), set(more) | _escaped(more), page.languages)


def _escaped(style: str) -> set[str]:
    codes = (int(match[1], 16) for match in _CSS_ESCAPE.finditer(style))
    return {chr(code) for code in codes if 0x20 <= code <= 0x10FFFF and not 0xD800 <= code <= 0xDFFF}


class _Page:
    """Gathers text, attributes that are shown, and style sheets; not scripts, which say more than they show.

    It is called with the parts of a page in turn (the target interface of lxml).
    """

    def __init__(self) -> None:
        self.text: list[str] = []
        self.more: list[str] = []
        self.languages: Counter[str] = Counter()
        self._inside = ""

    def start(self, tag: str, attributes: Mapping[str, str]) -> None:
        self._inside = tag if tag in ("script", "style") else ""
        self._part(tag)
        for name, value in attributes.items():
            if name in _SHOWN:
                self.more.append(value)
            elif name in ("lang", "xml:lang") and value.strip():
                self.languages[value.strip()] += 1

    def end(self, tag: str) -> None:
        self._inside = ""
        self._part(tag)

    def data(self, text: str) -> None:
        if self._inside == "style":
            self.more.append(text)
        elif self._inside != "script":
            self.text.append(text)

    def close(self) -> None:
        """All has been seen."""

    def _part(self, tag: str) -> None:
        """Words on both sides of an element are two, unless it stands in the line."""
        if tag not in _INLINE:
            self.text.append(" ")

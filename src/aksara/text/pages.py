"""What is written on the pages of a site: their text and their languages."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, field
from html.parser import HTMLParser

# Attributes that readers see, too (HTML, "global attributes" and those of forms, images and tables).
_SHOWN = frozenset({"alt", "title", "placeholder", "value", "label", "summary", "aria-label", "data-label"})
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
    parser = _Page()
    parser.feed(source)
    parser.close()
    text = " ".join(" ".join(parser.text).split())
    return PageText(text, set("".join(parser.more)) | _escaped("".join(parser.more)), parser.languages)


def _escaped(style: str) -> set[str]:
    codes = (int(match[1], 16) for match in _CSS_ESCAPE.finditer(style))
    return {chr(code) for code in codes if 0x20 <= code <= 0x10FFFF and not 0xD800 <= code <= 0xDFFF}


class _Page(HTMLParser):
    """Gathers text, attributes that are shown, and style sheets; not scripts, which say more than they show."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.text: list[str] = []
        self.more: list[str] = []
        self.languages: Counter[str] = Counter()
        self._inside = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self._inside = tag if tag in ("script", "style") else ""
        for name, value in attrs:
            if value and name in _SHOWN:
                self.more.append(value)
            elif value and name in ("lang", "xml:lang"):
                self.languages[value.strip()] += 1

    def handle_endtag(self, tag: str) -> None:
        self._inside = ""

    def handle_data(self, data: str) -> None:
        if self._inside == "style":
            self.more.append(data)
        elif self._inside != "script":
            self.text.append(data)

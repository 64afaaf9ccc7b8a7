"""The tables and keys of `aksara.toml`: what each means and may be. Reader, schema and drafts all follow this list."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from aksara.build.request import DISPLAYS, STYLES
from aksara.container import EFFORTS, FORMATS

Kind = Literal["text", "texts", "size", "number", "switch", "date", "tables"]


@dataclass(slots=True, frozen=True)
class Key:
    """`words` say what it is for, `example` is a value as written, `choices` are all that there are."""

    name: str
    kind: Kind
    words: str
    example: str
    choices: tuple[str, ...] = ()
    required: bool = False


#: What a value of each kind is, in words.
KINDS: dict[Kind, str] = {
    "text": "a text in quotes",
    "texts": 'a list of texts, as ["…", "…"]',
    "size": 'a size, as "120 KB"',
    "number": "a whole number",
    "switch": "true or false",
    "date": "a date, as 2028-01-31",
    "tables": "tables of their own",
}

_CHARACTERS = (
    Key("pages", "texts", "pages, templates and data whose characters are kept", '["site/**/*.html"]'),
    Key("languages", "texts", "keep what these languages are written with", '["en", "id", "vi"]'),
    Key("scripts", "texts", "keep all of these scripts", '["Latn"]'),
    Key("ranges", "texts", "keep these characters", '["U+20-7E"]'),
    Key("text", "text", "keep the characters of this text", '"→ € ©"'),
)

TABLES: dict[str, tuple[Key, ...]] = {
    "site": _CHARACTERS,
    "output": (
        Key("folder", "text", "where everything goes", '"web-fonts"'),
        Key("css", "text", "where the style sheet goes; faces.css in the folder if not given", '"css/type.css"'),
        Key("url", "text", "how the CSS refers to a font: <path> from the CSS to it, <file> its name", '"<path>"'),
        Key("formats", "texts", "in the order in which browsers shall try them", '["woff2", "woff"]',
            FORMATS),
        Key("effort", "text", "how hard to press the files", '"normal"', EFFORTS),
        Key("preload", "texts", "faces that pages ask for early", '["Regular"]'),
        Key("budget", "size", "what a page's first view may fetch", '"120 KB"'),
        Key("zip", "text", "pack everything into this file, too", '"fonts.zip"'),
        Key("families", "texts", "only these families; all if not given", '["Penyu Sans"]'),
        *_CHARACTERS,
    ),
    "licence": (
        Key("web", "switch", "state that a licence for the web is held", "true"),
        Key("holder", "text", "by whom", '"Penyu Ferries"'),
        Key("file", "texts", "licence texts to travel with the fonts, besides those found beside them",
            '["fonts/LICENCE.txt"]'),
        Key("domains", "texts", "for which sites", '["penyu.example"]'),
        Key("until", "date", "until when", "2028-01-31"),
        Key("css", "text", "CSS that the licence demands; it is placed first",
            '"@import url(\\"https://count.example/penyu\\");"'),
    ),
    "family": (
        Key("name", "text", "one name for these fonts; by their own names if not given", '"Penyu Sans"'),
        Key("fonts", "texts", "files, folders, ZIPs, or patterns of these", '["fonts/PenyuSans-*.ttf"]',
            required=True),
        Key("stack", "texts", "the families behind it; chosen by its class if not given", '["Arial", "sans-serif"]'),
        Key("display", "text", "font-display", '"swap"', DISPLAYS),
        Key("local", "switch", "try an installed copy first", "false"),
        Key("features", "texts", "OpenType features to keep, over the default; \"all\" for every one", '["tnum"]'),
        Key("no-features", "texts", "OpenType features to leave out", '["liga"]'),
        Key("hinting", "text", "hints for small sizes on old screens", '"keep"', ("keep", "drop")),
        Key("uses", "texts", "weights and styles that the site uses; told if there is none", '["400", "700 italic"]'),
        Key("budget", "size", "what all its faces may take", '"60 KB"'),
        Key("face", "tables", "what a font is, if it says so wrongly", ""),
    ),
    "family.face": (
        Key("file", "text", "the font's file name", '"Odd-File.ttf"', required=True),
        Key("weight", "number", "1 to 1000", "700", required=True),
        Key("style", "text", "its style", '"italic"', STYLES),
    ),
}  # fmt: skip

#: Tables that may stand there several times, as [[family]].
REPEATED = frozenset({"output", "family", "family.face"})
#: What each table is for.
WORDS = {
    "site": "whose characters are kept",
    "output": "where things go; [[output]] several times makes several sites from the same fonts",
    "licence": "what allows it",
    "family": "fonts, one table a family",
    "family.face": "a font that says wrongly what it is",
}

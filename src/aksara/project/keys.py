"""The tables and keys of `aksara.toml`: what each means and may be. Reader, schema and drafts all follow this list."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from aksara.checking.kinds import KINDS
from aksara.container import EFFORTS
from aksara.faces import STYLES
from aksara.pipeline.planning.colour_formats import COLOUR_FORMATS
from aksara.pipeline.request import DISPLAYS, VARIABLE
from aksara.slicing.slice_choice import WAYS
from aksara.web.formats import WEB_FORMATS

ValueType = Literal[
    "text",
    "texts",
    "size",
    "inline",
    "number",
    "weights",
    "switch",
    "date",
    "axes",
    "slices",
    "palettes",
    "addresses",
    "tables",
]


class Key(Struct, frozen=True, kw_only=True):
    """`words` describe it, `example` is a value as written, `choices` are all possible values.

    `parameter` is what it sets in a request, by which errors of a build find their line in the file.
    """

    name: str
    value_type: ValueType
    words: str
    example: str
    choices: tuple[str, ...] = ()
    required: bool = False
    parameter: str = ""


#: What a value of each type is, in words.
VALUE_TYPES: dict[ValueType, str] = {
    "text": "text in quotes",
    "texts": 'a list of texts, as ["…", "…"]',
    "size": 'a size, as "120 KB"',
    "inline": 'a size, as "4 KB", or "all" or "none"',
    "addresses": "file names, each with its address in quotes",
    "number": "a whole number",
    "weights": "a weight, as 400, or a range, as [100, 900]",
    "switch": "true or false",
    "date": "a date, as 2028-01-31",
    "palettes": 'palettes by name, as { night = { base = 1, colours = { 3 = "#0b4f6c" } } }',
    "axes": "axes with a value or a range each, as { wght = [400, 700], opsz = 14 }",
    "slices": "a way to cut in quotes, or a whole number",
    "tables": "a table of its own",
}


def _key(name: str, value_type: ValueType, parameter: str, words: str, example: str, *choices: str) -> Key:
    return Key(name=name, value_type=value_type, parameter=parameter, words=words, example=example, choices=choices)


_CHARACTERS = (
    _key(
        "pages",
        "texts",
        "CharacterRequest.pages",
        "keep only the faces and characters that these pages use",
        '["site/**/*.html"]',
    ),
    _key(
        "languages",
        "texts",
        "CharacterRequest.languages",
        "keep the characters of these languages",
        '["en", "id", "vi"]',
    ),
    _key("scripts", "texts", "CharacterRequest.scripts", "keep all characters of these scripts", '["Latn"]'),
    _key("emoji", "texts", "CharacterRequest.emoji", "keep all emoji of Unicode: basic or all", '["basic"]'),
    _key("icons", "texts", "CharacterRequest.icons", "keep only these icons of icon fonts", '["home", "search"]'),
    _key("ranges", "texts", "CharacterRequest.ranges", "keep the characters in these ranges", '["U+20-7E"]'),
    _key(
        "data",
        "texts",
        "CharacterRequest.data",
        "files whose text may appear on pages: data, translations, drafts",
        '["content/*.json"]',
    ),
    _key(
        "exclude",
        "texts",
        "CharacterRequest.exclude",
        "files and folders of the site that are not read",
        '["drafts", "old/**"]',
    ),
    _key(
        "root",
        "text",
        "CharacterRequest.root",
        "the folder that addresses such as /fonts/x.woff2 count from",
        '"public"',
    ),
    _key("also", "texts", "CharacterRequest.texts", "text that is in no file, such as names and prices", '["→ € ©"]'),
    _key(
        "exact",
        "switch",
        "CharacterRequest.exact",
        "keep only what pages show, without the other letters of their languages",
        "false",
    ),
    _key("all-faces", "switch", "BuildRequest.all_faces", "make faces that the pages do not use, too", "false"),
)

_SLICES = "one file per face (none), or split by use (auto), by language, by script, or into a number of files"

TABLES: dict[str, tuple[Key, ...]] = {
    "site": _CHARACTERS,
    "output": (
        _key("folder", "text", "BuildRequest.folder", "output folder", '"web-fonts"'),
        _key("fonts", "text", "BuildRequest.fonts",
             "the font folder, relative to the output folder; by default fonts, or . in a folder called fonts or type",
             '"fonts"'),
        _key("css", "text", "BuildRequest.css", "the style sheet; by default faces.css in the output folder",
             '"css/type.css"'),
        _key("css-into", "text", "BuildRequest.css_into",
             "write the rules into this style sheet of yours, between marks, and leave the rest", '"theme/style.css"'),
        _key("rules", "text", "BuildRequest.rules",
             "take families, faces and font files from the rules in this style sheet of yours, and replace these",
             '"theme/style.css"'),
        _key("links", "texts", "BuildRequest.links",
             "pages, templates or a fragment in which links to the style sheet and fonts are kept, between marks",
             '["site/*.html"]'),
        _key("proof", "text", "BuildRequest.proof", 'where the proof goes; "none" for none', '"tests/proof.html"'),
        _key("manifest", "text", "BuildRequest.manifest", "where the manifest goes", '"build/faces.json"'),
        _key("inline", "inline", "BuildRequest.inline",
             "put font files up to this size into the CSS as data; all or none of them", '"4 KB"'),
        _key("addresses", "addresses", "BuildRequest.addresses",
             "where a host has put the font files; a build lists them, you fill in the addresses",
             '{ "PenyuSans-Regular.3f9a2c1b.woff2" = "https://files.example/a1.woff2" }'),
        _key("url", "text", "BuildRequest.url",
             "how the CSS refers to a font: <path> is the path from the CSS, <file> its name", '"<path>"'),
        _key("formats", "texts", "BuildRequest.formats", "font formats, in the order in which browsers try them",
             '["woff2", "woff"]', *WEB_FORMATS),
        _key("effort", "text", "BuildRequest.effort", "compression effort", '"normal"', *EFFORTS),
        _key("preload", "texts", "BuildRequest.preload", "faces that pages should preload", '["Regular"]'),
        _key("budget", "size", "BuildRequest.budget", "the most that a page's first view may download", '"120 KB"'),
        _key("slices", "slices", "FamilyRequest.slices", _SLICES, '"auto"', *WAYS),
        _key("zip", "text", "BuildRequest.archive", "also write everything into this ZIP", '"fonts.zip"'),
        _key("template", "tables", "BuildRequest.templates", "a file that your template makes from the manifest", ""),
        _key("families", "texts", "BuildRequest.families", "only these families; by default all", '["Penyu Sans"]'),
        *_CHARACTERS,
    ),
    "output.template": (
        Key(name="from", value_type="text", words="the Jinja2 template", example='"menu.json.j2"', required=True),
        Key(name="to", value_type="text", words="the output file; FILE#/POINTER sets a value in a JSON file",
            example='"theme/menu.json"', required=True),
    ),
    "licence": (
        _key("web", "switch", "WebLicence.stated", "state that you hold a web licence", "true"),
        _key("holder", "text", "WebLicence.holder", "who holds it", '"Penyu Ferries"'),
        _key("publish", "texts", "BuildRequest.published_licences", "licence texts to publish beside the fonts",
             '["fonts/LICENCE.txt"]'),
        _key("domains", "texts", "WebLicence.domains", "the sites that the licence covers", '["penyu.example"]'),
        _key("until", "date", "WebLicence.until", "when it ends", "2028-01-31"),
        _key("name-agreed", "text", "WebLicence.name_agreed",
             "where the maker agrees that changed fonts keep a reserved name",
             '"mail of 3 May 2026"'),
        _key("css", "text", "WebLicence.css", "CSS that the licence demands, placed first in the style sheet",
             '"@import url(\\"https://count.example/penyu\\");"'),
    ),
    "family": (
        _key("name", "text", "FamilyRequest.name", "one family name for these fonts; by default their own",
             '"Penyu Sans"'),
        Key(name="fonts", value_type="texts", parameter="FamilyRequest.fonts",
            words="files, folders, ZIPs, or patterns", example='["fonts/PenyuSans-*.ttf"]', required=True),
        _key("stack", "texts", "FamilyRequest.stack",
             "the families that follow in the stack; by default chosen for you", '["Arial", "sans-serif"]'),
        _key("display", "text", "FamilyRequest.display", "font-display", '"swap"', *DISPLAYS),
        _key("local", "switch", "FamilyRequest.local", "try an installed copy first", "false"),
        _key("features", "texts", "FamilyRequest.features",
             'OpenType features to keep besides the default; "all" for all', '["tnum"]'),
        _key("no-features", "texts", "FamilyRequest.features", "OpenType features to leave out", '["liga"]'),
        _key("hinting", "text", "FamilyRequest.hints", "hints for small sizes on old screens", '"keep"',
             "keep", "drop"),
        _key("uses", "texts", "FamilyRequest.uses",
             "weights and styles in use, where no pages show them; the build warns if one is missing",
             '["400", "700 italic"]'),
        _key("replaces", "texts", "FamilyRequest.replaces",
             "families of the present CSS that this one replaces; where these fonts are of several, "
             "say which, as OLD=NEW", '["Arial"]'),
        _key("variable", "text", "FamilyRequest.variable",
             "variable fonts stay variable, become static, or are skipped for static ones", '"keep"', *VARIABLE),
        _key("axes", "axes", "FamilyRequest.axes", "limits for the axes of variable fonts",
             "{ wght = [400, 700], opsz = 14 }"),
        _key("slices", "slices", "FamilyRequest.slices", _SLICES, '"auto"', *WAYS),
        _key("colour-format", "text", "FamilyRequest.colour_format",
             "which tables colour fonts with several keep", '"auto"', *COLOUR_FORMATS),
        _key("palettes", "palettes", "FamilyRequest.palettes",
             "palettes of your own for a colour font: the one that each rests on, and other colours by number",
             '{ night = { base = 1, colours = { 3 = "#0b4f6c" } } }'),
        _key("budget", "size", "FamilyRequest.budget", "the most that all faces of the family may take", '"60 KB"'),
        _key("face", "tables", "FamilyRequest.overrides", "overrides a font's weight, style and width", ""),
    ),
    "family.face": (
        Key(name="file", value_type="text", words="the font's file name", example='"Odd-File.ttf"', required=True),
        Key(name="weight", value_type="weights", words="1 to 1000, or the weights that it stands for", example="700"),
        Key(name="style", value_type="text", words="its style", example='"italic"', choices=STYLES),
        Key(name="width", value_type="number", words="its width in percent", example="125"),
    ),
    "check": (
        _key("accept", "tables", "", "a finding of aksara check that is accepted", ""),
    ),
    "check.accept": (
        Key(name="finding", value_type="text", words="the kind of finding", example='"face-unused"', required=True,
            choices=tuple(KINDS)),
        Key(name="reason", value_type="text", words="why it is accepted", example='"kept for the winter timetable"',
            required=True),
        Key(name="file", value_type="text", words="the file that it is in, or a pattern", example='"site/old/*.css"'),
        Key(name="family", value_type="text", words="the family that it is about", example='"Penyu Sans"'),
        Key(name="characters", value_type="text", words="the characters that it is about", example='"U+2192"'),
        Key(name="until", value_type="date", words="the last day on which it is accepted", example="2028-01-31"),
    ),
}  # fmt: skip

#: Parameter → what its key is for.
PARAMETER_WORDS = {key.parameter: key.words for keys in TABLES.values() for key in keys if key.parameter}
#: Tables that may stand there several times, as [[family]].
REPEATED = frozenset({"output", "output.template", "family", "family.face", "check.accept"})
#: What each table is for.
WORDS = {
    "site": "which characters are kept",
    "output": "where the output goes; repeat [[output]] to make several sites from the same fonts",
    "output.template": "a file that your template makes from the manifest",
    "licence": "the licence under which the fonts are used",
    "check": "findings that aksara check accepts",
    "check.accept": "a finding that is accepted",
    "family": "fonts, one table per family",
    "family.face": "a font whose weight, style or width is not what it says",
}

"""Make src/aksara/data/system_families.json: how wide the letters of families are that computers come with.

    apt-get install fonts-liberation fonts-crosextra-carlito fonts-crosextra-caladea fonts-urw-base35 \
        fonts-croscore fonts-roboto-unhinted fonts-noto-core fonts-noto-cjk \
        fonts-noto-mono fonts-cantarell fonts-dejavu fonts-wine
    python tools/make_system_families.py > src/aksara/data/system_families.json

Each family is measured in itself or, where it is not free, in a free one made to take the same room letter by letter
("metric-compatible"). A family for which there is neither is left out: its measures would be guesses.
"""

from __future__ import annotations

import json
import struct
import unicodedata
from collections.abc import Iterator, Sequence
from functools import cache
from importlib.resources import files
from pathlib import Path

import freetype
from msgspec import Struct

from aksara.errors import InputError
from aksara.faces import identify
from aksara.faces.metrics import face_metrics
from aksara.font import open_font
from aksara.tables import Name
from aksara.tables.name import FULL_NAME
from aksara.text.languages import all_languages
from aksara.text.scripts import scripts_of
from aksara.text_widths import widths_in_text
from aksara.web.system_families import ALIKE, widths_row

# As in the order of the data: upright and italic, regular and bold.
STYLES = ("Regular", "Italic", "Bold", "Bold Italic")
FOLDERS = (Path("/usr/share/fonts"), Path("/usr/share/wine/fonts"))
SCRIPTS = ("Latn", "Grek", "Cyrl", "Hebr")
# Spaces, digits and signs that fonts for one script may have, too.
SIGNS = (*range(0x20, 0x41), 0x5B, 0x5D, 0xA0, 0xAB, 0xBB, 0x2013, 0x2014, 0x2018, 0x2019, 0x201C, 0x201D, 0x2026)
# Punctuation, kana, and the signs of ASCII in full width.
EAST_ASIAN = (range(0x3000, 0x3021), range(0x3041, 0x3100), range(0xFF01, 0xFF5F))
MORE = "‐–—‘’‚“”„•…‰‹›€−→©®°±·×÷§¿¡«»"
WINDOWS, MACOS, IOS, ANDROID, LINUX = "windows", "macos", "ios", "android", "linux"


class Family(Struct, frozen=True):
    """`names` are what local() knows a style by, `measured` the family that is measured, `alike` others as wide.

    `platforms` are where it or its like is usually there: Linux has the free ones. `scripts` are those that it is
    measured for where it is not one of the usual ones, `language` is that of its ideographs.
    """

    name: str
    generic: str
    platforms: tuple[str, ...]
    names: tuple[tuple[str, ...], ...]
    measured: str
    alike: tuple[str, ...] = ()
    scripts: tuple[str, ...] = ()
    language: str = ""


def _names(family: str, postscript: str, styles: str = "Regular,Italic,Bold,BoldItalic", suffix: str = "") -> tuple:
    """Full and PostScript names, as in ("Arial Bold", "Arial-BoldMT")."""
    full = [family, f"{family} Italic", f"{family} Bold", f"{family} Bold Italic"]
    behind = [f"-{style}" if style else "" for style in styles.split(",")]
    return tuple((name, f"{postscript}{style}{suffix}") for name, style in zip(full, behind, strict=True))


FAMILIES = (
    Family("Arial", "sans-serif", (WINDOWS, MACOS, IOS, LINUX),
           _names("Arial", "Arial", ",Italic,Bold,BoldItalic", "MT"), "Liberation Sans", ("Arimo",)),
    Family("Helvetica", "sans-serif", (MACOS, IOS),
           (("Helvetica",), ("Helvetica Oblique", "Helvetica-Oblique"), ("Helvetica Bold", "Helvetica-Bold"),
            ("Helvetica Bold Oblique", "Helvetica-BoldOblique")), "Nimbus Sans"),
    Family("Calibri", "sans-serif", (WINDOWS,), _names("Calibri", "Calibri", ",Italic,Bold,BoldItalic"), "Carlito"),
    Family("Tahoma", "sans-serif", (WINDOWS, MACOS), _names("Tahoma", "Tahoma", ",Italic,Bold,BoldItalic"), "Tahoma"),
    Family("Roboto", "sans-serif", (ANDROID,), _names("Roboto", "Roboto"), "Roboto"),
    Family("Noto Sans", "sans-serif", (LINUX,), _names("Noto Sans", "NotoSans"), "Noto Sans"),
    Family("Cantarell", "sans-serif", (LINUX,), _names("Cantarell", "Cantarell"), "Cantarell"),
    Family("DejaVu Sans", "sans-serif", (LINUX,), _names("DejaVu Sans", "DejaVuSans", ",Oblique,Bold,BoldOblique"),
           "DejaVu Sans"),
    Family("Times New Roman", "serif", (WINDOWS, MACOS, IOS, LINUX),
           (("Times New Roman", "TimesNewRomanPSMT"), ("Times New Roman Italic", "TimesNewRomanPS-ItalicMT"),
            ("Times New Roman Bold", "TimesNewRomanPS-BoldMT"),
            ("Times New Roman Bold Italic", "TimesNewRomanPS-BoldItalicMT")), "Liberation Serif", ("Tinos",)),
    Family("Times", "serif", (MACOS,), _names("Times", "Times", "Roman,Italic,Bold,BoldItalic"), "Nimbus Roman"),
    Family("Cambria", "serif", (WINDOWS,), _names("Cambria", "Cambria", ",Italic,Bold,BoldItalic"), "Caladea"),
    Family("Palatino", "serif", (MACOS, IOS), _names("Palatino", "Palatino", "Roman,Italic,Bold,BoldItalic"), "P052"),
    Family("Noto Serif", "serif", (ANDROID, LINUX), _names("Noto Serif", "NotoSerif"), "Noto Serif"),
    Family("DejaVu Serif", "serif", (LINUX,), _names("DejaVu Serif", "DejaVuSerif", ",Italic,Bold,BoldItalic"),
           "DejaVu Serif"),
    Family("Courier New", "monospace", (WINDOWS, MACOS, IOS, LINUX),
           (("Courier New", "CourierNewPSMT"), ("Courier New Italic", "CourierNewPS-ItalicMT"),
            ("Courier New Bold", "CourierNewPS-BoldMT"),
            ("Courier New Bold Italic", "CourierNewPS-BoldItalicMT")), "Liberation Mono", ("Cousine",)),
    Family("Courier", "monospace", (MACOS,),
           (("Courier",), ("Courier Oblique", "Courier-Oblique"), ("Courier Bold", "Courier-Bold"),
            ("Courier Bold Oblique", "Courier-BoldOblique")), "Nimbus Mono PS"),
    Family("Noto Sans Mono", "monospace", (ANDROID, LINUX), _names("Noto Sans Mono", "NotoSansMono"),
           "Noto Sans Mono"),
    Family("DejaVu Sans Mono", "monospace", (LINUX,),
           _names("DejaVu Sans Mono", "DejaVuSansMono", ",Oblique,Bold,BoldOblique"), "DejaVu Sans Mono"),
    Family("Noto Naskh Arabic", "serif", (ANDROID, LINUX), _names("Noto Naskh Arabic", "NotoNaskhArabic"),
           "Noto Naskh Arabic", scripts=("Arab",)),
    Family("Noto Sans Arabic", "sans-serif", (LINUX,), _names("Noto Sans Arabic", "NotoSansArabic"),
           "Noto Sans Arabic", scripts=("Arab",)),
    *(
        Family(f"Noto {kind} {script}", generic, (ANDROID, LINUX),
               _names(f"Noto {kind} {script}", f"Noto{kind}{script}"), f"Noto {kind} {script}", scripts=(code,))
        for code, script in (
            ("Armn", "Armenian"), ("Beng", "Bengali"), ("Deva", "Devanagari"), ("Ethi", "Ethiopic"),
            ("Geor", "Georgian"), ("Gujr", "Gujarati"), ("Guru", "Gurmukhi"), ("Hebr", "Hebrew"), ("Khmr", "Khmer"),
            ("Knda", "Kannada"), ("Laoo", "Lao"), ("Mlym", "Malayalam"), ("Mymr", "Myanmar"), ("Sinh", "Sinhala"),
            ("Taml", "Tamil"), ("Telu", "Telugu"), ("Thai", "Thai"),
        )
        for kind, generic in (("Sans", "sans-serif"), ("Serif", "serif"))
    ),
    *(
        Family(f"Noto {kind} CJK {region}", generic, (ANDROID, LINUX),
               _names(f"Noto {kind} CJK {region}", f"Noto{kind}CJK{region.lower()}"), f"Noto {kind} CJK {region}",
               scripts=scripts, language=language)
        for region, language, scripts in (
            ("JP", "ja", ("Hani", "Hira", "Kana")), ("KR", "ko", ("Hang", "Hani")),
            ("SC", "zh-Hans", ("Hani", "Bopo")), ("TC", "zh-Hant", ("Hani", "Bopo")),
        )
        for kind, generic in (("Sans", "sans-serif"), ("Serif", "serif"))
    ),
)  # fmt: skip


def characters(scripts: tuple[str, ...] = SCRIPTS) -> str:
    """What is measured: the letters and marks that known languages have in these scripts; for the usual scripts with
    ASCII and some signs, for others with those of their own. One ideograph and one Hangul syllable stand for all."""
    table = json.loads(files("aksara.data").joinpath("frequencies.json").read_text(encoding="utf-8"))
    letters = {c for row in table.values() for c in row[0] if unicodedata.category(c)[0] == "L"}
    both = {other for c in letters for other in (c.upper(), c.lower()) if len(other) == 1}
    if scripts == SCRIPTS:
        return "".join(sorted({chr(code) for code in range(0x20, 0x7F)} | set(MORE) | _of_scripts(both, scripts)))
    listed = {chr(code) for language in all_languages() for code in language.characters}
    more = {chr(code) for span in EAST_ASIAN if set(scripts) & {"Hani", "Hang"} for code in span}
    return "".join(
        sorted({chr(code) for code in SIGNS} | more | _of_scripts(listed - {*map(chr, _repeated())}, scripts))
    )


def _of_scripts(letters: set[str], scripts: tuple[str, ...]) -> set[str]:
    return {letter for letter in letters if scripts_of(ord(letter)) & set(scripts)}


def _repeated() -> set[int]:
    """The characters that another stands for."""
    return {code for first, spans in ALIKE.items() for span in spans for code in span if code != first}


@cache
def installed() -> dict[tuple[str, int, str], Path]:
    """The system's fonts of normal width by family, weight and style."""
    found: dict[tuple[str, int, str], Path] = {}
    for folder in FOLDERS:
        for path in _fonts_in(folder):
            try:
                face = identify(open_font(path))
            except InputError:
                continue
            if face.width == 100 and not face.axes and not face.variant:
                found.setdefault((face.family, face.weight, "normal" if face.style == "normal" else "italic"), path)
    return found


def _fonts_in(folder: Path) -> Iterator[Path]:
    for path in sorted(folder.rglob("*.?t[fc]")):
        if path.suffix == ".ttc":
            (count,) = struct.unpack(">L", path.read_bytes()[8:12])
            yield from (path.with_name(f"{path.name}#{index}") for index in range(1, count + 1))
        else:
            yield path


def fonts_of(family: str) -> dict[str, Path]:
    """The four styles, as far as they are there."""
    places = zip(STYLES, ((400, "normal"), (400, "italic"), (700, "normal"), (700, "italic")), strict=True)
    return {style: installed()[family, *place] for style, place in places if (family, *place) in installed()}


def row(fonts: Sequence[Path], measured: str) -> str:
    """The widths in the first of the fonts, and in the others of what it lacks."""
    widths: dict[int, float] = {}
    for font in map(open_font, fonts):
        widths = widths_in_text(font, face_metrics(font).widths) | widths
    for first, spans in ALIKE.items():
        if chr(first) in measured:
            others = {round(widths[code] * 2048) for span in spans for code in span if code in widths}
            assert len(others) < 2, f"{fonts[0]}: not all are as wide as {chr(first)}"
    return widths_row(widths, map(ord, measured))


def x_height(path: Path) -> float:
    """The height of the letter x in ems, as drawn: not every font says it, and not every font says it right."""
    name, _, member = str(path).partition("#")
    face = freetype.Face(name, int(member or 1) - 1)
    if not face.get_char_index("x"):
        return 0.5
    face.load_char("x", freetype.FT_LOAD_NO_SCALE)
    return round(float(face.glyph.outline.get_bbox().yMax / face.units_per_EM), 3)


def full_name(path: Path) -> str:
    return open_font(path).table(Name).get(FULL_NAME) or ""


def entry(family: Family) -> dict[str, object]:
    paths = fonts_of(family.measured)
    measured = characters(family.scripts or SCRIPTS)
    assert "Regular" in paths, f"install the font {family.measured} first"
    faces = {}
    for style, names in zip(STYLES, family.names, strict=True):
        if style not in paths:
            continue
        fonts = [paths[style], *(fonts_of(other)[style] for other in family.alike)]
        local = list(dict.fromkeys([*names, *map(full_name, fonts)]))
        faces[style] = {"local": local, "widths": row(fonts, measured)}
    own = {"characters": measured, "scripts": family.scripts} if family.scripts else {}
    return (
        own
        | ({"language": family.language} if family.language else {})
        | {
            "family": family.name,
            "generic": family.generic,
            "platforms": list(family.platforms),
            "measured_in": family.measured,
            "x_height": x_height(paths["Regular"]),
            "faces": faces,
        }
    )


def main() -> None:
    data = {"characters": characters(), "families": [entry(family) for family in FAMILIES]}
    print(json.dumps(data, ensure_ascii=False, indent=0))


if __name__ == "__main__":
    main()

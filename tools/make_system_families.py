"""Make src/aksara/data/system_families.json: how wide the letters of families are that computers come with.

    apt-get install fonts-liberation fonts-crosextra-carlito fonts-crosextra-caladea fonts-urw-base35 \
        fonts-roboto-unhinted fonts-noto-core fonts-noto-mono fonts-cantarell fonts-dejavu-core fonts-wine
    python tools/make_system_families.py > src/aksara/data/system_families.json

Each family is measured in itself or, where it is not free, in a free one made to take the same room letter by letter
("metric-compatible"). A family for which there is neither is left out: its measures would be guesses.
"""

from __future__ import annotations

import json
import unicodedata
from functools import cache
from importlib.resources import files
from pathlib import Path

import freetype
from msgspec import Struct

from aksara.errors import InputError
from aksara.faces import identify
from aksara.faces.metrics import face_metrics
from aksara.font import Font, open_font
from aksara.tables import Name
from aksara.tables.name import FULL_NAME

# As in the order of the data: upright and italic, regular and bold.
STYLES = ("Regular", "Italic", "Bold", "Bold Italic")
FOLDERS = (Path("/usr/share/fonts"), Path("/usr/share/wine/fonts"))
SCRIPTS = ("LATIN", "GREEK", "CYRILLIC")
MORE = "‐–—‘’‚“”„•…‰‹›€−→©®°±·×÷§¿¡«»"
# Two digits of this alphabet are an advance in 1/2048 em; "--" stands for a character that the font lacks.
DIGITS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_."
WINDOWS, MACOS, IOS, ANDROID, LINUX = "windows", "macos", "ios", "android", "linux"


class Family(Struct, frozen=True):
    """`names` are what local() knows a style by, `measured` the family that is measured, `alike` others as wide.

    `platforms` are where it or its like is usually there: Linux has the free ones.
    """

    name: str
    generic: str
    platforms: tuple[str, ...]
    names: tuple[tuple[str, ...], ...]
    measured: str
    alike: tuple[str, ...] = ()


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
)  # fmt: skip


def characters() -> str:
    """What is measured: ASCII, some signs, and the Latin, Greek and Cyrillic letters of known languages."""
    table = json.loads(files("aksara.data").joinpath("frequencies.json").read_text(encoding="utf-8"))
    letters = {c for row in table.values() for c in row[0] if unicodedata.name(c, "").startswith(SCRIPTS)}
    both = {other for c in letters for other in (c.upper(), c.lower()) if len(other) == 1}
    return "".join(sorted({chr(code) for code in range(0x20, 0x7F)} | set(MORE) | both))


@cache
def installed() -> dict[tuple[str, int, str], Path]:
    """The system's fonts of normal width by family, weight and style."""
    found: dict[tuple[str, int, str], Path] = {}
    for folder in FOLDERS:
        for path in sorted(folder.rglob("*.?tf")):
            try:
                face = identify(open_font(path))
            except InputError:
                continue
            if face.width == 100 and not face.axes and not face.variant:
                found.setdefault((face.family, face.weight, "normal" if face.style == "normal" else "italic"), path)
    return found


def fonts_of(family: str) -> dict[str, Path]:
    """The four styles, as far as they are there."""
    places = zip(STYLES, ((400, "normal"), (400, "italic"), (700, "normal"), (700, "italic")), strict=True)
    return {style: installed()[family, *place] for style, place in places if (family, *place) in installed()}


def row(font: Font, measured: str) -> str:
    widths = face_metrics(font).widths
    digits = (round(widths[ord(c)] * 2048) if ord(c) in widths else None for c in measured)
    return "".join("--" if n is None else DIGITS[min(n, 4095) // 64] + DIGITS[min(n, 4095) % 64] for n in digits)


def x_height(path: Path) -> float:
    """The height of the letter x in ems, as drawn: not every font says it, and not every font says it right."""
    face = freetype.Face(str(path))
    face.load_char("x", freetype.FT_LOAD_NO_SCALE)
    return round(float(face.glyph.outline.get_bbox().yMax / face.units_per_EM), 3)


def full_name(path: Path) -> str:
    return open_font(path).table(Name).get(FULL_NAME) or ""


def entry(family: Family, measured: str) -> dict[str, object]:
    paths = fonts_of(family.measured)
    assert "Regular" in paths, f"install the font {family.measured} first"
    faces = {}
    for style, names in zip(STYLES, family.names, strict=True):
        if style not in paths:
            continue
        own = [full_name(paths[style])]
        own += [full_name(fonts_of(other)[style]) for other in family.alike]
        faces[style] = {"local": list(dict.fromkeys([*names, *own])), "widths": row(open_font(paths[style]), measured)}
    return {
        "family": family.name,
        "generic": family.generic,
        "platforms": list(family.platforms),
        "measured_in": family.measured,
        "x_height": x_height(paths["Regular"]),
        "faces": faces,
    }


def main() -> None:
    measured = characters()
    data = {"characters": measured, "families": [entry(family, measured) for family in FAMILIES]}
    print(json.dumps(data, ensure_ascii=False, indent=0))


if __name__ == "__main__":
    main()

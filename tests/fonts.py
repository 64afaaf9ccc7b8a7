"""The fonts that tests run on: real ones of the system, the demo's, and small ones made here."""

from __future__ import annotations

import re
import struct
from collections.abc import Mapping
from functools import cache
from pathlib import Path

import numpy as np

from aksara.container import sfnt
from aksara.font import Font
from aksara.tables import OS2, Cmap, Glyf, Head, Hhea, Hmtx, Maxp, Name, Post, Table
from aksara.tables.cmap import unicode_subtables
from aksara.tables.name import NameRecord
from aksara.tables.post import PostHeader
from aksara.truetype.points import Points, encode_simple
from places import ROOT

SYSTEM = Path("/usr/share/fonts/truetype")
DEMO_FONTS = sorted((ROOT / "src/aksara/demo/fonts").glob("PenyuSans-*.ttf"))
DEMO_SLABS = sorted(DEMO_FONTS[0].parent.glob("*.otf"))
DEJAVU = sorted((SYSTEM / "dejavu").glob("*.ttf"))
LIBERATION = sorted((SYSTEM / "liberation").glob("*.ttf"))
# Where the packages of tools/system_packages.sh put their fonts; whatever else a machine has is not tested on.
_PLACES = (
    *(SYSTEM / name for name in ("dejavu", "liberation", "karla", "karla-variable", "karlatamilinclined")),
    *(SYSTEM / name for name in ("karlatamilupright", "inter-vf", "padauk", "lohit-kannada", "mingzat", "open-sans")),
    *(SYSTEM / name for name in ("fonts-oldstandard", "fonts-taml-tscu", "unifont")),
    *(SYSTEM.parent / "opentype" / name for name in ("fonts-hosny-amiri", "asana-math", "sora", "unifont")),
    *(Path("/usr/share") / name for name in ("fonts-sil-mingzat", "fonts-sil-padauk", "wine/fonts")),
)


@cache
def corpus() -> tuple[Path, ...]:
    """Every font of the test packages that has a file of its own, in any container."""
    suffixes = {".ttf", ".otf", ".woff", ".woff2"}
    found = {p for place in _PLACES for p in place.rglob("*") if p.suffix.lower() in suffixes and p.is_file()}
    assert len(found) > 60, "the font packages of tools/system_packages.sh are not installed"
    return tuple(sorted(found))


@cache
def one_of_each() -> tuple[Path, ...]:
    """One font of each family in each container, the smallest: the others are built alike."""
    families: dict[tuple[Path, str, str], Path] = {}
    for path in sorted(corpus(), key=lambda path: (path.stat().st_size, path)):
        families.setdefault((path.parent, re.split(r"[-_[]", path.stem)[0], path.suffix), path)
    return tuple(sorted(families.values()))


@cache
def truetype() -> tuple[Path, ...]:
    """Those that Aksara makes web fonts of."""
    return tuple(path for path in corpus() if _is_static_truetype(path))


def _is_static_truetype(path: Path) -> bool:
    font = Font.read(path.read_bytes(), path.name)
    return "glyf" in font and len(font.raw("glyf")) > 0


def words(*numbers: int) -> bytes:
    """16-bit numbers, signed or not, as bytes."""
    return struct.pack(f">{len(numbers)}H", *(number & 0xFFFF for number in numbers))


def box(width: int, height: int = 700) -> tuple[bytes, tuple[int, int, int, int]]:
    """A rectangle as a glyph: its bytes and its bounding box."""
    points = Points(
        np.array([1]),
        np.array([4]),
        np.ones(4, bool),
        np.array([0, 0, width, 0]),
        np.array([0, height, 0, -height]),
        np.zeros(1, bool),
        [b""],
    )
    bounds = (0, 0, width, height)
    return encode_simple(points, np.array([bounds]))[0], bounds


def small_font(
    characters: Mapping[int, int] | None = None,
    glyphs: list[bytes] | None = None,
    *,
    names: Mapping[int, str] | None = None,
    weight: int = 400,
    selection: int = 1 << 6,
    mac_style: int = 0,
    width_class: int = 5,
    fs_type: int = 0,
    angle: float = 0.0,
    extra: Mapping[str, bytes] | None = None,
    without: tuple[str, ...] = (),
) -> bytes:
    """A whole TTF of boxes: "A" to "C" unless told otherwise."""
    characters = {0x41: 1, 0x42: 2, 0x43: 3} if characters is None else characters
    glyphs = (
        [box(400 + 50 * n)[0] for n in range(max(characters.values(), default=0) + 1)] if glyphs is None else glyphs
    )
    glyf = Glyf(glyphs)
    loca = glyf.loca()
    advances = np.array([600 + 10 * (n % 1000) for n in range(len(glyphs))], np.uint16)
    hmtx = Hmtx(advances, np.zeros(len(glyphs), np.int16))
    texts = {1: "Kotak", 2: "Regular", 4: "Kotak", 6: "Kotak-Regular"} if names is None else names
    header = PostHeader(version=0x30000, italic_angle=round(angle * 65536), underline_position=-100,
                        underline_thickness=50, is_fixed_pitch=0)  # fmt: skip
    tables: list[Table] = [
        _head(mac_style, long=loca.long),
        _hhea(hmtx.stored_advances),
        Maxp(0x10000, len(glyphs), (8, 2, 8, 2, 2, 0, 0, 0, 0, 0, 0, 2, 2)),
        _os2(weight, width_class, fs_type, selection),
        Name(tuple(NameRecord(3, 1, 0x409, k, v.encode("utf-16-be", "surrogatepass")) for k, v in texts.items())),
        Post(header),
        Cmap(unicode_subtables(characters)),
        hmtx,
        loca,
        glyf,
    ]
    data = {table.TAG: table.compile() for table in tables} | dict(extra or {})
    return sfnt.write({tag: body for tag, body in data.items() if tag not in without}, "\0\1\0\0")


def _head(mac_style: int, *, long: bool) -> Head:
    return Head(
        version=0x10000, font_revision=0x10000, checksum_adjustment=0, magic=0x5F0F3CF5, flags=3, units_per_em=1000,
        created=0, modified=0, x_min=0, y_min=0, x_max=1000, y_max=800, mac_style=mac_style, lowest_rec_ppem=8,
        font_direction_hint=2, index_to_loc_format=int(long), glyph_data_format=0,
    )  # fmt: skip


def _hhea(advances: int) -> Hhea:
    return Hhea(
        version=0x10000, ascender=800, descender=-200, line_gap=0, advance_width_max=2000, min_left_side_bearing=0,
        min_right_side_bearing=0, x_max_extent=2000, caret_slope_rise=1, caret_slope_run=0, caret_offset=0, reserved=0,
        metric_data_format=0, number_of_h_metrics=advances,
    )  # fmt: skip


def _os2(weight: int, width_class: int, fs_type: int, selection: int) -> OS2:
    scripts = ("subscript", "superscript")
    sizes = {f"y_{script}_{axis}_{what}": 0 for script in scripts for axis in "xy" for what in ("size", "offset")}
    return OS2(
        version=4, x_avg_char_width=500, weight_class=weight, width_class=width_class, fs_type=fs_type, **sizes,
        y_strikeout_size=0, y_strikeout_position=0, family_class=0, panose=bytes(10), unicode_range1=1,
        unicode_range2=0, unicode_range3=0, unicode_range4=0, vendor=b"TEST", fs_selection=selection,
        first_char_index=0x41, last_char_index=0x43, typo_ascender=800, typo_descender=-200, typo_line_gap=0,
        win_ascent=800, win_descent=200, code_page_range1=1, code_page_range2=0, x_height=500, cap_height=700,
        default_char=0, break_char=32, max_context=1,
    )  # fmt: skip

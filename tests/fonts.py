"""The fonts that tests run on: real ones of the system, the demo's, and small ones made here."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from pathlib import Path

import numpy as np

from aksara.container import sfnt
from aksara.font import Font
from aksara.tables import OS2, Cmap, Glyf, Head, Hhea, Hmtx, Maxp, Name, Post
from aksara.tables.base import Table
from aksara.tables.cmap import unicode_subtables
from aksara.tables.name import NameRecord
from aksara.truetype import Points, encode_simple

SYSTEM = Path("/usr/share/fonts/truetype")
DEMO_FONTS = sorted((Path(__file__).parent.parent / "src/aksara/demo/fonts").glob("*.ttf"))
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
def truetype() -> tuple[Path, ...]:
    """Those that Aksara makes web fonts of."""
    return tuple(path for path in corpus() if _is_static_truetype(path))


def _is_static_truetype(path: Path) -> bool:
    font = Font.read(path.read_bytes(), path.name)
    return font.kinds_not_yet_handled is None and "glyf" in font and len(font.raw("glyf")) > 0


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
    advances = np.array([600 + 10 * n for n in range(len(glyphs))], np.uint16)
    hmtx = Hmtx(advances, np.zeros(len(glyphs), np.int16))
    texts = {1: "Kotak", 2: "Regular", 4: "Kotak", 6: "Kotak-Regular"} if names is None else names
    vertical = (800, -200, 0, 800, 200)
    tables: list[Table] = [
        Head(0x10000, 0x10000, 0, 0x5F0F3CF5, 3, 1000, 0, 0, 0, 0, 1000, 800, mac_style, 8, 2, int(loca.long), 0),
        Hhea(0x10000, 800, -200, 0, 2000, 0, 0, 2000, 1, 0, 0, 0, 0, hmtx.stored_advances),
        Maxp(0x10000, len(glyphs), (8, 2, 8, 2, 2, 0, 0, 0, 0, 0, 0, 2, 2)),
        OS2(4, 500, weight, width_class, fs_type, *(0,) * 10, 0, bytes(10), 1, 0, 0, 0, b"TEST", selection, 0x41, 0x43,
            *vertical, 1, 0, 500, 700, 0, 32, 1),
        Name(tuple(NameRecord(3, 1, 0x409, k, v.encode("utf-16-be", "surrogatepass")) for k, v in texts.items())),
        Post(0x30000, round(angle * 65536), -100, 50, 0),
        Cmap(unicode_subtables(characters)),
        hmtx,
        loca,
        glyf,
    ]  # fmt: skip
    data = {table.TAG: table.compile() for table in tables} | dict(extra or {})
    return sfnt.write({tag: body for tag, body in data.items() if tag not in without}, "\0\1\0\0")

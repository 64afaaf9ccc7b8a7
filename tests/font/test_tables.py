"""Tables: parsing and compiling are inverse, on real fonts and on forms that few real fonts have."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from msgspec.structs import replace

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.faces import font_variation
from aksara.font import Font
from aksara.tables import OS2, Cmap, Fvar, Glyf, Head, Hhea, Hmtx, Loca, Name, Table
from aksara.tables.cmap import format4, format12, variation_sequences
from aksara.tables.cmap.reading import READERS
from aksara.tables.cmap.variation_sequences import VariationSequences
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.name import NameRecord, clean
from aksara.tables.registry import CLASSES
from aksara.tables.subsetting import SubsetContext
from aksara.truetype.components import Composite
from aksara.truetype.points import decode_simple, encode_simple
from fonts import one_of_each, small_font, words


@pytest.mark.parametrize("path", one_of_each(), ids=lambda path: path.name)
def test_every_table_of_every_real_font_compiles_to_what_it_was(path: Path) -> None:
    font = Font.read(path.read_bytes(), path.name)
    checked = 0
    for tag, kind in CLASSES.items():
        if tag not in font or (tag == "glyf" and "loca" not in font):
            continue
        first: Table = font.table(kind)
        # What a table needs from its siblings is compiled along with it.
        changed = [first]
        if isinstance(first, Hmtx):
            changed.append(replace(font.table(Hhea), number_of_h_metrics=first.stored_advances))
        if isinstance(first, Glyf):
            loca = first.loca()
            changed += [loca, replace(font.table(Head), index_to_loc_format=int(loca.long))]
        again = font.with_tables(changed).table(kind)
        assert again == first, tag
        checked += 1
    assert checked >= 8


@pytest.mark.parametrize("path", [p for p in one_of_each() if p.suffix == ".ttf"], ids=lambda path: path.name)
def test_every_glyph_of_every_real_font_packs_to_what_it_was(path: Path) -> None:
    font = Font.read(path.read_bytes(), path.name)
    glyf = font.table(Glyf)
    numbers = range(len(glyf.glyphs))
    simple = [n for n in numbers if glyf.contours(n) > 0]
    points = glyf.simple(simple)
    again = decode_simple(encode_simple(points, glyf.boxes()[simple]), simple)
    assert all(
        np.array_equal(getattr(points, f), getattr(again, f)) for f in ("counts", "on_curve", "dx", "dy", "overlap")
    )
    assert points.instructions == again.instructions
    for number in (n for n in numbers if glyf.is_composite(n)):
        composite = glyf.composite(number)
        assert Composite.parse(composite.compile(), number) == composite


_CODES = st.dictionaries(st.integers(0, 0xFFFF) | st.integers(0x40, 0x90), st.integers(1, 0xFFFF), max_size=120)


@given(_CODES)
@example({0xFFFE: 1, 0xFFFF: 2})
def test_format_4_holds_any_mapping(mapping: dict[int, int]) -> None:
    body = format4.compile(mapping)
    assert body is not None
    assert struct.unpack(">H", body[2:4])[0] == len(body)
    assert READERS[4](Reader(body)) == mapping
    # Browsers insist on a last segment of U+FFFF alone.
    segments = int.from_bytes(body[6:8], "big") // 2
    assert body[14 + 2 * segments - 2 :][:2] == body[16 + 4 * segments - 2 :][:2] == b"\xff\xff"


@given(st.dictionaries(st.integers(0, 0x10FFFF), st.integers(1, 0xFFFF), max_size=60))
def test_format_12_holds_any_mapping(mapping: dict[int, int]) -> None:
    assert READERS[12](Reader(format12.compile(mapping))) == mapping


@given(
    st.dictionaries(
        st.integers(0xFE00, 0xFE0F),
        st.dictionaries(st.integers(0, 0xFFFF), st.none() | st.integers(1, 0xFFFF), min_size=1),
        max_size=4,
    )
)
def test_format_14_holds_any_sequences(sequences: dict[int, dict[int, int | None]]) -> None:
    body = variation_sequences.compile(VariationSequences(sequences))
    assert variation_sequences.parse(Reader(body)).sequences == sequences


@pytest.mark.parametrize(
    ("mapping", "size"),
    [
        ({0x41: 1, 0x42: 2, 0x43: 3}, 16 + 16),
        # Three neighbours in no order: one segment that lists them beats three of eight bytes.
        ({0x41: 9, 0x42: 2, 0x43: 5}, 16 + 16 + 6),
        # A long even run is worth a segment of its own between two uneven neighbours.
        ({0x30: 9} | {0x31 + k: 40 + k for k in range(20)} | {0x45: 3}, 16 + 4 * 8),
        ({}, 16 + 8),
        ({0xFFFF: 7}, 16 + 8),
    ],
)
def test_format_4_is_as_short_as_can_be(mapping: dict[int, int], size: int) -> None:
    body = format4.compile(mapping)
    assert body is not None
    assert len(body) == size


@pytest.mark.parametrize(
    ("body", "mapping"),
    [
        (words(0, 262, 0) + bytes(65) + b"\5" + bytes(190), {65: 5}),
        (words(6, 16, 0, 0x20, 3, 7, 0, 9), {0x20: 7, 0x22: 9}),
        (words(10, 0) + struct.pack(">IIII", 24, 0, 0x1F600, 2) + words(3, 4), {0x1F600: 3, 0x1F601: 4}),
        (words(13, 0) + struct.pack(">III3I", 28, 0, 1, 0x30, 0x32, 8), {0x30: 8, 0x31: 8, 0x32: 8}),
        # Format 4: range offset 0xFFFF in the last segment, as some fonts have it.
        (words(4, 32, 0, 4, 4, 1, 0, 0x42, 0xFFFF, 0, 0x41, 0xFFFF, 0xFFC0, 1, 0, 0xFFFF), {0x41: 1, 0x42: 2}),
    ],
    ids=["0", "6", "10", "13", "4"],
)
def test_formats_that_are_only_read(body: bytes, mapping: dict[int, int]) -> None:
    assert READERS[int.from_bytes(body[:2], "big")](Reader(body)) == mapping


def test_a_symbol_font_answers_to_ascii_too() -> None:
    body = format4.compile({0xF041: 1, 0xF042: 2})
    assert body is not None
    cmap = Cmap.parse(words(0, 1, 3, 0, 0, 12) + body, Font({}))
    assert cmap.characters() == {0xF041: 1, 0x41: 1, 0xF042: 2, 0x42: 2}
    context = SubsetContext(Font({}), GlyphMap([0, 1]), {0x41: 1}, frozenset())
    kept = Cmap.parse(cmap.subset(context).compile(), Font({}))
    assert kept.is_symbol
    assert kept.characters() == {0xF041: 1, 0x41: 1}


@pytest.mark.parametrize(("version", "size"), [(0, 68), (0, 78), (1, 86), (2, 96), (4, 96), (5, 100), (5, 96)])
def test_os2_of_every_version_and_length(version: int, size: int) -> None:
    full = (struct.pack(">HhH", version, 500, 700) + bytes(range(120)))[:size]
    os2 = OS2.parse(full, Font({}))
    assert os2.compile() == full
    assert (os2.version, os2.weight_class) == (version, 700)
    assert (os2.lower_optical_point_size is None) == (size < 100)


def test_names_in_odd_encodings_are_read_and_made_safe() -> None:
    records = (
        NameRecord(1, 0, 0, 1, "Fête".encode("mac_roman")),
        NameRecord(3, 1, 0x40C, 4, "Complète".encode("utf-16-be")),
        NameRecord(3, 1, 0x409, 2, b"\x00A\xd8\x00\x00B"),
        NameRecord(3, 10, 0x409, 6, "\U0001f422\u202e<b>\x07".encode("utf-16-be")),
        NameRecord(3, 1, 0x409, 13, b""),
    )
    name = Name.parse(Name(records).compile(), Font({}))
    assert name.records == records
    assert name.get(1) == "Fête"
    assert name.get(4) == "Complète"
    assert name.get(2) == "A\N{REPLACEMENT CHARACTER}B"
    assert name.get(6) == "\U0001f422<b>"
    assert name.get(13) is None
    assert clean("a\n\t b\u2028c\ud800") == "a b c"


def test_equal_and_contained_names_are_stored_once() -> None:
    records = tuple(NameRecord(3, 1, 0x409, n, t.encode("utf-16-be")) for n, t in ((1, "Penyu Sans"), (4, "Penyu")))
    assert len(Name(records).compile()) == 6 + 24 + 20


def test_a_loca_without_its_last_offset_empties_the_last_glyph() -> None:
    data = Font.read(small_font())
    short = Font({**{tag: data.raw(tag) for tag in data}, "loca": data.raw("loca")[:-2]})
    assert short.table(Loca).offsets[-1] == short.table(Loca).offsets[-2]
    assert short.table(Glyf).glyphs[-1] == b""


def test_components_are_followed_however_deep_and_never_in_a_circle(penyu: dict[str, Path]) -> None:
    font = Font.read(penyu["Regular"].read_bytes())
    glyph = font.characters[ord("ẫ")]
    assert len(font.table(Glyf).component_closure({glyph})) == 4
    part = struct.pack(">hhhhhHHbb", -1, 0, 0, 9, 9, 0x0002, 1, 0, 0)
    circle = Font.read(small_font(glyphs=[b"", part, b"", b""]))
    with pytest.raises(FontError, match="contain itself"):
        circle.table(Glyf).component_closure({1})
    beyond = Font.read(small_font(glyphs=[b"", part[:12] + b"\0\x99" + part[14:], b"", b""]))
    with pytest.raises(FontError, match="only 4"):
        beyond.table(Glyf).component_closure({1})


def _fvar(axes: list[tuple[float, float, float]], instances: bytes = b"", *, count: int = 0, size: int = 8) -> bytes:
    records = b"".join(b"wght" + struct.pack(">iiiHH", *(int(v * 65536) for v in axis), 0, 0) for axis in axes)
    return struct.pack(">IHHHHHH", 0x10000, 16, 2, len(axes), 20, count, size) + records + instances


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (_fvar([(100, 90, 900)]), "byte 16: the default of axis 'wght' is not between"),
        (_fvar([(900, 400, 100)]), "byte 16: the default of axis 'wght' is not between"),
        (_fvar([(100, 400, 900)] * 1000), "byte 8: it claims 1000 axes"),
        (_fvar([(100, 400, 900)], bytes(8), count=2), "byte 44: "),
        (_fvar([(100, 400, 900)], bytes(90), count=3, size=6), "byte 14: its instances of 6 bytes have no room"),
        (_fvar([(100, 400, 900)])[:30], "byte"),
    ],
    ids=[
        "outside",
        "turned round",
        "a thousand",
        "instances cut short",
        "small instances",
        "axes cut short",
    ],
)
def test_contradictory_axes_are_refused(data: bytes, message: str) -> None:
    with pytest.raises(FontError, match=message):
        Font.read(small_font(extra={"fvar": data}), "a.ttf").table(Fvar)


def test_axes_and_instances_without_names_are_shown_by_what_they_are() -> None:
    data = _fvar([(100, 400, 900)], struct.pack(">HHi", 999, 0, 700 << 16), count=1)
    variation = font_variation(Font.read(small_font(extra={"fvar": data, "cvar": b"", "MVAR": b""}), "a.ttf"))
    assert variation is not None
    assert [(axis.name, axis.default) for axis in variation.axes] == [("Weight", 400)]
    assert [each.name for each in variation.instances] == ["wght 700"]
    assert variation.varies == ("line metrics", "hinting")
    assert font_variation(Font.read(small_font(), "a.ttf")) is None

"""Tables against bytes written by hand from the specification: a parser and a compiler can agree and both be wrong."""

from __future__ import annotations

import struct
from collections.abc import Mapping

import numpy as np
import pytest

from aksara.binary import Reader
from aksara.container import sfnt
from aksara.errors import FontError
from aksara.font import Font
from aksara.offsets import OffsetReader, serialize
from aksara.tables import (
    OS2,
    Avar,
    Base,
    Cff,
    Cff2,
    Cmap,
    Cvar,
    Fvar,
    Gasp,
    Gdef,
    Glyf,
    Gpos,
    Gsub,
    Gvar,
    Hdmx,
    Head,
    Hhea,
    Hmtx,
    Hvar,
    Kern,
    Loca,
    Ltsh,
    Math,
    Maxp,
    Mvar,
    Name,
    Post,
    Stat,
    Table,
    Vhea,
    Vmtx,
    Vorg,
    Vvar,
)
from aksara.tables.cff import FontDict
from aksara.tables.cff.commands import Operand, parse_program, write_program
from aksara.tables.cff.dicts import Blend, read_dict, write_dict
from aksara.tables.cff.font_dicts import read_select
from aksara.tables.device_metrics import DeviceWidths
from aksara.tables.fvar import NamedInstance, VariationAxis
from aksara.tables.hinting import ControlValues, FontProgram
from aksara.tables.layout import gpos, gsub
from aksara.tables.layout.baseline import BaselineAxis, BaseScript, Coordinate, Extents
from aksara.tables.layout.devices import SizeDevice
from aksara.tables.layout.features import AxisCondition, FeatureRecord, FeatureVariation
from aksara.tables.layout.gdef import Caret
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.tables.math import Constants, Construction, Kerns, MathValue, Variants
from aksara.tables.name import NameRecord
from aksara.tables.registry import CLASSES
from aksara.tables.stat import AxisValue, DesignAxis
from aksara.tables.variation.item_variation_store import ItemVariationData, ItemVariationStore, VariationIndex
from aksara.tables.variation.regions import ONE, AxisRegion
from aksara.tables.variation.tuples import TupleVariation
from fonts import box, small_font, words

# Field, offset in the table, size in bytes; a minus sign before the size: signed (OpenType 1.9.1).
FIELDS: dict[type[Table], str] = {
    Head: "version:0:4 font_revision:4:4 checksum_adjustment:8:4 magic:12:4 flags:16:2 units_per_em:18:2 created:20:-8 "
    "modified:28:-8 x_min:36:-2 y_min:38:-2 x_max:40:-2 y_max:42:-2 mac_style:44:2 lowest_rec_ppem:46:2 "
    "font_direction_hint:48:-2 index_to_loc_format:50:-2 glyph_data_format:52:-2",
    Hhea: "version:0:4 ascender:4:-2 descender:6:-2 line_gap:8:-2 advance_width_max:10:2 min_left_side_bearing:12:-2 "
    "min_right_side_bearing:14:-2 x_max_extent:16:-2 caret_slope_rise:18:-2 caret_slope_run:20:-2 caret_offset:22:-2 "
    "metric_data_format:32:-2 number_of_h_metrics:34:2",
    Vhea: "version:0:4 ascender:4:-2 descender:6:-2 line_gap:8:-2 advance_height_max:10:-2 min_top_side_bearing:12:-2 "
    "min_bottom_side_bearing:14:-2 y_max_extent:16:-2 caret_slope_rise:18:-2 caret_slope_run:20:-2 caret_offset:22:-2 "
    "metric_data_format:32:-2 number_of_v_metrics:34:2",
    OS2: "version:0:2 x_avg_char_width:2:-2 weight_class:4:2 width_class:6:2 fs_type:8:2 y_subscript_x_size:10:-2 "
    "y_subscript_y_size:12:-2 y_subscript_x_offset:14:-2 y_subscript_y_offset:16:-2 y_superscript_x_size:18:-2 "
    "y_superscript_y_size:20:-2 y_superscript_x_offset:22:-2 y_superscript_y_offset:24:-2 y_strikeout_size:26:-2 "
    "y_strikeout_position:28:-2 family_class:30:-2 unicode_range1:42:4 unicode_range2:46:4 unicode_range3:50:4 "
    "unicode_range4:54:4 fs_selection:62:2 first_char_index:64:2 last_char_index:66:2 typo_ascender:68:-2 "
    "typo_descender:70:-2 typo_line_gap:72:-2 win_ascent:74:2 win_descent:76:2 code_page_range1:78:4 "
    "code_page_range2:82:4 x_height:86:-2 cap_height:88:-2 default_char:90:2 break_char:92:2 max_context:94:2 "
    "lower_optical_point_size:96:2 upper_optical_point_size:98:2",
}
SIZES: dict[type[Table], int] = {Head: 54, Hhea: 36, Vhea: 36, OS2: 100}
#: What a table must have to be one at all.
FIXED: dict[type[Table], dict[int, bytes]] = {
    Head: {12: b"\x5f\x0f\x3c\xf5", 18: words(1000), 50: words(1)},
    OS2: {0: words(5)},
}


@pytest.mark.parametrize("kind", FIELDS, ids=lambda kind: kind.TAG)
def test_every_field_stands_where_the_specification_puts_it(kind: type[Table]) -> None:
    data = bytearray(0x80 + n for n in range(SIZES[kind]))  # all different, and as signed numbers negative
    for offset, value in FIXED.get(kind, {}).items():
        data[offset : offset + len(value)] = value
    table = kind.parse(bytes(data), Font({}))
    for field in FIELDS[kind].split():
        name, offset, size = field.split(":")
        part = data[int(offset) : int(offset) + abs(int(size))]
        assert getattr(table, name) == int.from_bytes(part, "big", signed=int(size) < 0), name
    assert table.compile() == bytes(data)


_DEVICE = words(11, 13, 2, 0x1234)  # sizes 11 to 13, four bits each
_STORE = (
    words(1) + struct.pack(">IHI", 12, 1, 22)  # format, offset of regions, one subtable, its offset
    + words(1, 1) + words(0, 0x2000, 0x4000)  # one axis, one region
    + words(2, 1, 1, 0) + words(300, -2)  # two items, one of them a word; region 0
)  # fmt: skip


def _store() -> ItemVariationStore:
    data = ItemVariationData((0,), np.array([[300], [-2]], np.int32))
    return ItemVariationStore(1, ((AxisRegion(0, 0x2000, 0x4000),),), (data,))


_SCRIPTS = words(1) + b"latn" + words(8) + words(4, 0) + words(0, 0xFFFF, 1, 0)  # 20 bytes; feature 0 for all
_LIGA = words(1) + b"liga" + words(8) + words(0, 1, 0)  # 14 bytes; lookup 0


def _layout(lookup: bytes, tag: bytes = b"liga") -> bytes:
    """A layout table of one script, one feature and one lookup."""
    lists = _SCRIPTS + _LIGA.replace(b"liga", tag) + words(1, 4) + lookup
    return words(1, 0, 10, 30, 44) + lists


def _expected(kind: type[Gsub] | type[Gpos], lookup: Lookup, tag: str = "liga") -> Gsub | Gpos:
    return kind({"latn": Script(LanguageSystem(None, (0,)))}, [FeatureRecord(tag, (0,))], [lookup])


# The variations of a glyph: points 0 and 2 move by the shared peak, all eight between 1/4 and 3/4, most at 1/2.
_MOVED = (
    words(2, 18) + words(8, 0x2000) + words(11, 0xE000, 0x2000, 0x1000, 0x3000)
    + bytes((2, 1, 0, 2)) + bytes((1, 5, 0xFE, 0x81))
    + bytes((0,)) + bytes((0x87, 0x07, 1, 2, 3, 4, 5, 6, 7, 8))
)  # fmt: skip
# A charstring: to 10, and 5 more where the region counts, then a line upwards.
_BLENDED = bytes((149, 144, 140, 16, 22, 142, 7))

# Tag → bytes by hand, and what they say.
TABLES: dict[str, tuple[bytes, object]] = {
    "maxp": (
        struct.pack(">I14H", 0x10000, 4, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13),
        Maxp(0x10000, 4, (1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13)),
    ),
    "name": (
        words(0, 2, 30) + words(3, 1, 0x409, 1, 4, 2) + words(1, 0, 0, 4, 2, 0) + b"ab\0c\0d",
        Name((NameRecord(3, 1, 0x409, 1, b"\0c\0d"), NameRecord(1, 0, 0, 4, b"ab"))),
    ),
    "gasp": (words(1, 2, 8, 2, 0xFFFF, 15), Gasp(1, ((8, 2), (0xFFFF, 15)))),
    "hdmx": (words(0, 1) + struct.pack(">I", 8) + bytes((12, 9, 5, 6, 7, 8, 0, 0)),
             Hdmx({12: DeviceWidths(9, bytes((5, 6, 7, 8)))})),
    "LTSH": (words(0, 4) + bytes((1, 20, 30, 40)), Ltsh(bytes((1, 20, 30, 40)))),
    "VORG": (words(1, 0, 880, 2, 1, 801, 3, -5), Vorg(880, {1: 801, 3: -5})),
    "hmtx": (words(600, 10, 700, -20) + words(30, 40),
             Hmtx(np.array([600, 700, 700, 700], np.uint16), np.array([10, -20, 30, 40], np.int16))),
    "vmtx": (words(1000, 1, 900, 2) + words(3, 4),
             Vmtx(np.array([1000, 900, 900, 900], np.uint16), np.array([1, 2, 3, 4], np.int16))),
    "loca": (words(0, 0, 3, 3, 9), Loca(np.array([0, 0, 6, 6, 18], np.int64), long=False)),
    "kern": (
        words(0, 1) + words(0, 26, 1) + words(2, 12, 1, 0) + words(1, 2, -200, 1, 3, 50),
        [(1, [[1, 2, -200], [1, 3, 50]])],
    ),
    "fvar": (
        struct.pack(">IHHHHHH", 0x10000, 16, 2, 1, 20, 2, 10) + b"wght"
        + struct.pack(">iiiHH", 100 << 16, 400 << 16, 900 << 16, 1, 256)
        + struct.pack(">HHiH", 257, 0, 700 << 16, 300) + struct.pack(">HHiH", 258, 0, -1, 0xFFFF),
        Fvar((VariationAxis(int.from_bytes(b"wght", "big"), 100 << 16, 400 << 16, 900 << 16, 1, 256),),
             (NamedInstance(257, 0, (700 << 16,), 300), NamedInstance(258, 0, (-1,), 0xFFFF))),
    ),
    "STAT": (
        struct.pack(">HHHHIHIH", 1, 1, 8, 1, 20, 2, 28, 2) + b"wght" + words(256, 0)
        + words(4, 16) + words(1, 0, 0, 257) + struct.pack(">i", 700 << 16)
        + words(2, 0, 2, 258) + struct.pack(">iii", 400 << 16, 350 << 16, 450 << 16),
        Stat((DesignAxis(int.from_bytes(b"wght", "big"), 256, 0),),
             (AxisValue(1, 0, 257, ((0, (700 << 16,)),)),
              AxisValue(2, 2, 258, ((0, (400 << 16, 350 << 16, 450 << 16)),))), 2),
    ),
    "avar": (words(1, 0, 0, 1, 4, -0x4000, -0x4000, 0, 0, 0x2000, 0x1000, 0x4000, 0x4000),
             Avar((((-0x4000, -0x4000), (0, 0), (0x2000, 0x1000), (0x4000, 0x4000)),))),
    "gvar": (struct.pack(">IHHIHHI", 0x10000, 1, 1, 28, 3, 0, 30) + words(0, 0, 19, 19, 0x4000) + _MOVED + b"\0",
             Gvar(1, ((0x4000,),), [b"", _MOVED + b"\0", b""])),
    "cvar": (
        struct.pack(">I", 0x10000) + words(1, 14) + words(6, 0x8000 | 0x2000, 0x4000) + bytes((1, 0, 1, 0x40, 1, 44)),
        Cvar((TupleVariation((AxisRegion(0, 0x4000, 0x4000),), np.array([1]), np.array([[300]])),)),
    ),
    "HVAR": (
        struct.pack(">IIIII", 0x10000, 20, 54, 0, 0) + _STORE + bytes((0, 0, 0, 2, 0, 1)),
        Hvar(_store(), ((VariationIndex(0, 0), VariationIndex(0, 1)), None, None)),
    ),
    "VVAR": (
        struct.pack(">IIIIII", 0x10000, 24, 0, 0, 0, 58) + _STORE + bytes((0, 0x10, 0, 1, 0, 2)),
        Vvar(_store(), (None, None, None, (VariationIndex(1, 0),))),
    ),
    "MVAR": (
        struct.pack(">IHHHH", 0x10000, 0, 8, 1, 20) + b"xhgt" + words(0, 1) + _STORE,
        Mvar(_store(), {"xhgt": VariationIndex(0, 1)}),
    ),
    "CFF2": (
        bytes((2, 0, 5, 0, 13)) + bytes((28, 0, 22, 24, 28, 0, 58, 17, 28, 0, 72, 12, 36)) + bytes(4)
        + words(34) + _STORE + bytes((0, 0, 0, 1, 1, 1, 8)) + _BLENDED + bytes((0, 0, 0, 1, 1, 1, 4, 139, 139, 18)),
        Cff2({}, [_BLENDED], [FontDict({}, {}, [])], [0], [], _store()),
    ),
    "GSUB": (
        _layout(words(4, 8, 1, 8) + words(1, 8, 1, 14) + words(1, 1, 5) + words(1, 4) + words(90, 3, 6, 7)),
        _expected(Gsub, Lookup(4, 8, (gsub.LigatureSubstitution({5: (((6, 7), 90),)}),))),
    ),
    "GPOS": (
        # Pairs by glyph, the advance of the first and a device that corrects it.
        _layout(words(2, 0, 1, 8) + words(1, 12, 0x44, 0, 1, 18) + words(1, 1, 5) + words(1, 6, -30, 8) + _DEVICE,
                b"kern"),
        _expected(
            Gpos,
            Lookup(2, 0, (gpos.GlyphPairs((0x44, 0), {5: {6: ((-30, SizeDevice(11, 13, 2, (0x1234,))), ())}}),)),
            "kern",
        ),
    ),
    "GDEF": (
        struct.pack(">IHHHHHI", 0x10003, 18, 0, 26, 0, 0, 54)
        + words(1, 3, 1, 2)  # glyph 3 is a ligature
        + words(6, 1, 12) + words(1, 1, 3) + words(1, 4) + words(3, 250, 6) + words(0, 1, 0x8000)
        + _STORE,
        Gdef({3: 2}, carets={3: (Caret(250, device=VariationIndex(0, 1)),)}, variations=_store()),
    ),
    "BASE": (
        struct.pack(">IHH", 0x10000, 8, 0) + words(4, 10) + words(1) + b"romn" + words(1) + b"latn" + words(8)
        + words(6, 16, 0) + words(0, 1, 6) + words(1, -120) + words(0, 6, 0) + words(1, 900),
        None,
    ),
    # Of a program and of control values nothing is told apart before they are cut down.
    "fpgm": (bytes((0xB0, 0, 0x2C, 0x2D)), FontProgram(bytes((0xB0, 0, 0x2C, 0x2D)))),
    "cvt ": (words(10, 20), ControlValues(words(10, 20))),
    "MATH": (
        struct.pack(">IHHH", 0x10000, 0, 10, 0) + words(8, 0, 0, 0) + words(8, 1, 70, 0) + words(1, 1, 4),
        Math(None, {4: MathValue(70)}, {}, frozenset(), {}, None),
    ),
}  # fmt: skip


def _font(extra: Mapping[str, bytes]) -> Font:
    """Four glyphs, and headers that say that two advances are stored."""
    tables = sfnt.read(small_font())[1]
    tables["hhea"] = tables["hhea"][:34] + words(2)
    tables["vhea"] = bytes(34) + words(2)
    tables["fvar"] = TABLES["fvar"][0]
    tables["cvt "] = words(10, 20)
    return Font({**tables, **extra})


@pytest.mark.parametrize("tag", TABLES)
def test_bytes_written_by_hand_mean_what_the_specification_says(tag: str) -> None:
    data, expected = TABLES[tag]
    table = CLASSES[tag].parse(data, _font({}))
    if isinstance(table, Kern):
        assert [(each.coverage, each.pairs.tolist()) for each in table.subtables] == expected
    elif isinstance(table, Base):
        assert table.vertical is None
        axis = table.horizontal
        assert isinstance(axis, BaselineAxis)
        assert axis.tags == ("romn",)
        assert axis.scripts == {"latn": BaseScript(0, (Coordinate(-120),), Extents((None, Coordinate(900))))}
    else:
        assert table == expected
    # Where the specification leaves a choice, ours may be another; where it does not, the bytes are the same.
    again = CLASSES[tag].parse(table.compile(), _font({}))
    assert again == table
    if tag not in ("name", "GDEF", "BASE", "GSUB", "GPOS", "MATH", "HVAR", "VVAR", "MVAR", "CFF2"):
        assert table.compile() == data


def test_a_math_table_has_its_constants_kerns_and_variants_in_order() -> None:
    values = b"".join(words(100 + n, 0) for n in range(51))
    constants = words(80, 60, 1500, 1300) + values + words(60)
    variants = words(50, 12, 0, 1, 0, 18) + words(1, 1, 4) + words(0, 1, 5, 700)
    kerns = words(12, 1, 18, 0, 0, 0) + words(1, 1, 4) + words(1, 10, 0, -5, 0, -9, 0)
    info = words(0, 0, 0, 8) + kerns
    data = struct.pack(">IHHH", 0x10000, 10, 10 + len(constants), 10 + len(constants) + len(info))
    table = Math.parse(data + constants + info + variants, _font({}))
    assert table.constants == Constants((80, 60, 1500, 1300), tuple(MathValue(100 + n) for n in range(51)), 60)
    corner = Kerns((MathValue(10),), (MathValue(-5), MathValue(-9)))
    assert table.kerns == {4: (corner, None, None, None)}
    assert table.variants == Variants(50, {4: Construction(((5, 700),), None)}, {})
    assert Math.parse(table.compile(), _font({})) == table


def test_outlines_and_characters_as_the_specification_writes_them() -> None:
    # A triangle: (0, 0), (100, 0), (0, 200) on the curve, in whole words and with flags written out.
    triangle = words(1, 0, 0, 100, 200) + words(2, 0) + bytes((0x31, 0x33, 0x27)) + bytes((100, 100, 200))
    font = Font.read(small_font(glyphs=[b"", triangle, box(200)[0], box(300)[0]]))
    points = font.table(Glyf).simple([1])
    assert (points.dx.tolist(), points.dy.tolist()) == ([0, 100, -100], [0, 0, 200])
    cmap = words(0, 1, 3, 1, 0, 12) + words(4, 32, 0, 4, 4, 1, 0, 0x42, 0xFFFF, 0, 0x41, 0xFFFF, -0x40, 1, 0, 0)
    assert Cmap.parse(cmap, font).characters() == {0x41: 1, 0x42: 2}
    post = struct.pack(">IihhI", 0x30000, -12 << 16, -100, 50, 1) + bytes(16)
    assert Post.parse(post, font).italic_degrees == -12
    assert Post.parse(post, font).compile() == post


def test_feature_variations_as_the_specification_writes_them() -> None:
    lookups = words(2, 6, 14) + words(1, 0, 0) + words(0) + words(1, 0, 0)
    variation = struct.pack(">IIII", 0x10000, 1, 16, 30)
    variation += words(1) + struct.pack(">I", 6) + words(1, 2, 0x1000, 0x4000)
    variation += struct.pack(">IHHI", 0x10000, 1, 0, 12) + words(0, 1, 1)
    head = struct.pack(">IHHHI", 0x10001, 14, 34, 48, 48 + len(lookups))
    table = Gsub.parse(head + _SCRIPTS + _LIGA + lookups + variation, _font({}))
    replaced = FeatureRecord("liga", (1,))
    assert table.variations == [FeatureVariation((AxisCondition(2, 0x1000, 0x4000),), {0: replaced})]
    assert Gsub.parse(table.compile(), _font({})) == table


@pytest.mark.parametrize(
    ("deltas", "row"),
    [([[1, -2]], 2), ([[300, -2]], 3), ([[1, 300]], 4), ([[70_000, 1]], 6), ([[70_000, 70_000]], 8), ([], 0)],
)
def test_item_variations_take_the_fewest_bytes(deltas: list[list[int]], row: int) -> None:
    data = ItemVariationData((0, 1), np.array(deltas, np.int32).reshape(-1, 2))
    body = serialize(data.block())
    assert len(body) == 6 + 4 + row
    assert ItemVariationData.parse(OffsetReader(body)) == data


def test_the_variations_of_a_glyph_as_the_specification_writes_them() -> None:
    table = Gvar.parse(TABLES["gvar"][0], _font({}))
    first, second = table.variations(1, 8)
    assert first == TupleVariation((AxisRegion(0, ONE, ONE),), np.array([0, 2]), np.array([[5, 0], [-2, 0]]))
    assert second.points is None
    assert second.region == (AxisRegion(0x1000, 0x2000, 0x3000),)
    assert second.deltas.tolist() == [[0, n] for n in range(1, 9)]
    assert Gvar.of(1, [(), (first, second), ()]).variations(1, 8) == (first, second)
    with pytest.raises(FontError, match="it moves point 2, but there are 2"):
        table.variations(1, 2)


def test_numbers_of_cff2_are_blended_as_the_specification_says() -> None:
    program = parse_program(_BLENDED, [1], 0)
    assert [(each.operator, each.operands) for each in program.commands] == [
        (22, [Operand(10, (5,))]),
        (7, [Operand(3)]),
    ]
    assert write_program(program, 0) == _BLENDED
    dictionary = bytes((149, 144, 140, 23, 10))  # 10 and 5 blended: a stem width
    assert read_dict(dictionary, [1]) == {10: (Blend(10, (5,)),)}
    assert write_dict(read_dict(dictionary, [1])) == dictionary
    select = Reader(
        bytes((4, 0, 0, 0, 2)) + bytes((0, 0, 0, 0, 0, 1)) + bytes((0, 0, 0, 3, 0, 0)) + bytes((0, 0, 0, 5))
    )
    assert read_select(select, 5) == [1, 1, 1, 0, 0]


def test_every_table_has_a_row_here() -> None:
    elsewhere = {Glyf.TAG, Cmap.TAG, Post.TAG}  # above, and 'CFF ' in test_odd_fonts.py
    # Against bytes of their own in test_colour.py and test_colour_pictures.py.
    elsewhere |= {"COLR", "CPAL", "SVG ", "sbix", "CBDT", "CBLC"}
    assert CLASSES.keys() == {kind.TAG for kind in FIELDS} | TABLES.keys() | elsewhere | {Cff.TAG}

"""Adding a table is adding one module: a made-up one is read, cut down and written by nothing but its class."""

from __future__ import annotations

import struct
from collections.abc import Collection, Iterator, Mapping
from typing import ClassVar, Self

import pytest

from aksara.binary import Reader, Writer
from aksara.errors import FontError
from aksara.font import Font
from aksara.subsetting import SubsetOptions, subset
from aksara.tables import FontTables, Kern, Maxp, Table
from aksara.tables.registry import CLASSES
from aksara.tables.subsetting import SubsetContext, SubsetScope
from fonts import box, small_font


class Hues(Table, frozen=True):
    """Glyph → hue, and the glyph that shadows it. Made up."""

    TAG: ClassVar[str] = "HUES"
    OPTIONAL: ClassVar[bool] = True

    hues: Mapping[int, tuple[int, int]]
    glyph_count: int = 0

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        return cls({reader.u16(): (reader.u16(), reader.u16()) for _ in range(reader.u16())}, reader.u16())

    def compile(self) -> bytes:
        writer = Writer().u16(len(self.hues))
        for glyph, (hue, shadow) in sorted(self.hues.items()):
            writer.u16(glyph, hue, shadow)
        return bytes(writer.u16(self.glyph_count))

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return None if ord("A") in scope.characters else "nothing has a hue"

    def substitution_closure(self, glyphs: set[int], features: Collection[str]) -> set[int]:
        return glyphs | {self.hues[glyph][1] for glyph in glyphs if glyph in self.hues}

    def subset(self, context: SubsetContext) -> Self | None:
        glyphs = context.glyphs
        kept = {new: (hue, glyphs[shadow]) for new, (hue, shadow) in glyphs.keys_of(self.hues).items()}
        maxp = context.subset(Maxp)  # what becomes of another table
        return type(self)(kept, maxp.num_glyphs if maxp else 0) if kept else None


@pytest.fixture
def hues(monkeypatch: pytest.MonkeyPatch) -> Iterator[type[Hues]]:
    monkeypatch.setitem(CLASSES, Hues.TAG, Hues)
    yield Hues


def _font(body: bytes) -> Font:
    glyphs = [box(100 + 50 * n)[0] for n in range(6)]
    return Font.read(small_font(glyphs=glyphs, extra={"HUES": body}), "a.ttf")


HUES = Hues({1: (30, 5), 3: (60, 4)}, 6)


def test_a_table_is_read_cut_down_and_written_by_its_class_alone(hues: type[Hues]) -> None:
    font = _font(HUES.compile())
    assert font.table(hues) == HUES
    cut = subset(font, {0x41, 0x42})
    # A, B, and the glyph that only this table leads to; the hue of C is gone.
    assert cut.glyphs == (0, 1, 2, 5)
    assert Font.read(cut.font.write("woff2")).table(hues) == Hues({1: (30, 3)}, 4)
    assert "HUES" not in subset(font, {0x42}).font
    assert {table.tag: table.reason for table in subset(font, {0x42}).dropped}["HUES"] == "nothing has a hue"


def test_an_unknown_table_is_dropped_and_reported(capsys: pytest.CaptureFixture[str]) -> None:
    cut = subset(_font(HUES.compile()), {0x41})
    assert "HUES" not in cut.font
    assert "unknown table: 'HUES'" in cut.warnings[0]


def test_an_optional_table_that_is_damaged_is_left_out_and_another_is_an_error(
    hues: type[Hues], monkeypatch: pytest.MonkeyPatch
) -> None:
    damaged = _font(struct.pack(">H", 500))
    cut = subset(damaged, {0x41})
    assert "HUES" not in cut.font
    assert "table 'HUES' is damaged" in cut.warnings[0]
    monkeypatch.setattr(hues, "OPTIONAL", False)
    with pytest.raises(FontError, match=r"a\.ttf: .*table 'HUES'"):
        subset(_font(struct.pack(">H", 500)), {0x41})


# ---- tables that are kept as bytes, or not at all


def test_apple_tables_and_their_glyph_ids_stay_without_opentype_ones() -> None:
    glyphs = [box(100 + 50 * n)[0] for n in range(6)]
    apple = {"morx": b"\0\2\0\0\0\0\0\0", "kerx": b"\0\2\0\0\0\0\0\0"}
    alone = subset(Font.read(small_font(glyphs=glyphs, extra=apple)), {0x42})
    assert {tag: alone.font.raw(tag) for tag in apple} == apple
    assert alone.glyphs == (0, None, 2)
    gsub = b"\0\1\0\0" + struct.pack(">HHH", 10, 12, 14) + bytes(6)
    beside = subset(Font.read(small_font(glyphs=glyphs, extra=apple | {"GSUB": gsub, "GPOS": gsub})), {0x42})
    assert not set(apple) & set(beside.font)
    assert {table.tag: table.reason for table in beside.dropped}["morx"] == "'GSUB' does the same"
    assert beside.glyphs == (0, 2)


def test_graphite_is_dropped_and_reported_if_nothing_else_shapes_the_font() -> None:
    graphite = dict.fromkeys(("Silf", "Glat", "Gloc", "Feat", "Sill"), b"\0\5\0\0")
    cut = subset(Font.read(small_font(extra=graphite)), {0x41})
    assert not set(graphite) & set(cut.font)
    assert any("Graphite only" in warning for warning in cut.warnings)
    gsub = b"\0\1\0\0" + struct.pack(">HHH", 10, 12, 14) + bytes(6)
    assert not subset(Font.read(small_font(extra=graphite | {"GSUB": gsub})), {0x41}).warnings


def test_kerning_is_skipped_where_gpos_kerns_everything() -> None:
    kern = struct.pack(">HH", 0, 1) + struct.pack(">HHHHHHH", 0, 20, 1, 1, 6, 0, 0) + struct.pack(">HHh", 1, 2, -50)
    scripts = struct.pack(">H4sHHHHHHH", 1, b"DFLT", 8, 4, 0, 0, 0xFFFF, 1, 0)
    features = struct.pack(">H4sHHHH", 1, b"kern", 8, 0, 1, 0)
    lookups = struct.pack(">HHHHHHHHHHHHH", 1, 4, 1, 0, 1, 8, 1, 8, 4, 20, 1, 1, 1)
    gpos = struct.pack(">IHHH", 0x10000, 10, 30, 44) + scripts + features + lookups
    assert subset(Font.read(small_font(extra={"kern": kern})), {0x41, 0x42}).font.find(Kern) is not None
    both = subset(Font.read(small_font(extra={"kern": kern, "GPOS": gpos})), {0x41, 0x42})
    assert both.font.find(Kern) is None
    assert "GPOS" in both.font


def test_tables_of_hints_go_together() -> None:
    hints = {"cvt ": b"\0\1", "fpgm": b"\x2c\x2d", "prep": b"\xb0\0", "VDMX": b"\0\0\0\0\0\0"}
    font = Font.read(small_font(extra=hints))
    assert set(hints) <= set(subset(font, {0x41}).font)
    without = subset(font, {0x41}, SubsetOptions(hints=False))
    assert not set(hints) & set(without.font)
    assert {table.reason for table in without.dropped} == {"hints are dropped"}

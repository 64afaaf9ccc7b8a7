"""Offsets that do not reach: extension lookups, halved subtables, and tables that stay whole."""

from __future__ import annotations

import struct

import numpy as np
import pytest

from aksara.font import Font
from aksara.offsets import Block, OffsetOverflow, OffsetReader, serialize
from aksara.subsetting import subset
from aksara.tables import Gpos, Gsub
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout import gpos, gsub, layout_table
from aksara.tables.layout.anchors import Anchor
from aksara.tables.layout.devices import SizeDevice
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.tables.layout.subtable import Subtable
from aksara.tables.variation.item_variation_store import VariationIndex
from comparison import Comparison
from fonts import small_font


def _table(kind: type[Gsub] | type[Gpos], *lookups: Lookup) -> Gsub | Gpos:
    everything = tuple(range(len(lookups)))
    return kind({"latn": Script(LanguageSystem(None, (0,)))}, [FeatureRecord("liga", everything)], list(lookups))


def _stored_types(data: bytes) -> list[int]:
    """The lookup types as they stand in the table."""
    start = struct.unpack_from(">H", data, 8)[0]
    (count,) = struct.unpack_from(">H", data, start)
    offsets = struct.unpack_from(f">{count}H", data, start + 2)
    return [struct.unpack_from(">H", data, start + offset)[0] for offset in offsets]


def _sequences(first: int, count: int) -> gsub.MultipleSubstitution:
    """A subtable in which every glyph has a sequence of its own, so that nothing can be shared."""
    return gsub.MultipleSubstitution({first + n: (first + n, n + 1) for n in range(count)})


def test_lookups_out_of_reach_become_extension_lookups() -> None:
    small = Lookup(2, 0, (_sequences(0, 10),))
    table = _table(Gsub, small, *(Lookup(2, 0, (_sequences(6000 * n, 5000),)) for n in range(3)))
    data = table.compile()
    assert len(data) > 0x10000
    assert _stored_types(data) == [2, 7, 7, 7], "as many as it takes, not all"
    assert Gsub.parse(data, Font({})) == table


def test_small_tables_have_no_extension_lookups() -> None:
    assert _stored_types(_table(Gsub, Lookup(2, 0, (_sequences(0, 900),))).compile()) == [2]


@pytest.mark.parametrize(
    "subtable",
    [
        _sequences(0, 9000),
        gsub.LigatureSubstitution({n: (((n + 1, n + 2), n),) for n in range(9000)}),
        gpos.GlyphPairs((4, 0), {n: {m: ((n + m,), ()) for m in range(3)} for n in range(5000)}),
        gpos.SingleAdjustment(0x44, {n: (n, SizeDevice(10, 11, 3, (n,))) for n in range(6000)}),
        gpos.MarkAttachment(1, {9001: (0, Anchor(1, 2))}, {n: (Anchor(n, 7),) for n in range(9000)}),
        gpos.LigatureAttachment(1, {9001: (0, Anchor(1, 2))}, {n: ((Anchor(n, 7),),) for n in range(12_000)}),
        gpos.ClassPairs(
            (0x44, 0),
            frozenset(range(6000)),
            {n: n for n in range(1, 6000)},
            {1: 1},
            np.zeros((6000, 2, 2), np.int16),
            {(n, 1, 1): SizeDevice(10, 11, 3, (n,)) for n in range(6000)},
        ),
    ],
    ids=lambda subtable: type(subtable).__name__,
)
def test_a_subtable_too_large_for_its_offsets_is_halved(subtable: Subtable) -> None:
    kind = Gsub if type(subtable).__module__.startswith(gsub.__name__) else Gpos
    with pytest.raises(OffsetOverflow):
        serialize(subtable.block())
    lookup_type = next(number for number in range(1, 9) if _reads(kind, number, subtable))
    data = _table(kind, Lookup(lookup_type, 0, (subtable,))).compile()
    again = kind.parse(data, Font({}))
    parts = again.lookups[0].subtables
    assert len(parts) > 1
    # Together they say what the whole did: cut down to some glyphs, both give the same.
    some = GlyphMap.identity([*range(0, 6000, 170), 1, 2, 3, 172, 9001])
    kept = [part for part in (each.subset(some) for each in parts) if part is not None]
    assert _merged(kept) == _merged([cut] if (cut := subtable.subset(some)) else [])


def _reads(kind: type[Gsub] | type[Gpos], number: int, subtable: Subtable) -> bool:
    small = subtable.subset(GlyphMap.identity([1, 2, 3, 9001]))
    assert small is not None
    if number not in kind.LOOKUPS.parsers:
        return False
    try:
        return isinstance(kind.LOOKUPS.parsers[number](OffsetReader(serialize(small.block()))), type(subtable))
    except Exception:
        return False


def _merged(parts: list[Subtable]) -> object:
    """What the subtables say of each glyph, whichever of them says it."""
    found: dict[object, object] = {}
    for part in parts:
        if isinstance(part, gpos.ClassPairs):
            for glyph in part.covered:
                row = part.classes1.get(glyph, 0)
                for second in part.classes2:
                    column = part.classes2[second]
                    found[glyph, second] = (*part.values[row, column].tolist(), part.devices.get((row, column, 1)))
            continue
        maps = [getattr(part, name) for name in part.__slots__ if isinstance(getattr(part, name), dict)]
        for each in maps or [part.sequences]:  # type: ignore[attr-defined]
            found |= each
    return found


def test_an_indivisible_subtable_overflows() -> None:
    joints = gpos.CursiveAttachment({n: (Anchor(n, 1), Anchor(n, 2)) for n in range(6000)})
    with pytest.raises(OffsetOverflow):
        _table(Gpos, Lookup(3, 0, (joints,))).compile()


def test_a_table_that_does_not_fit_once_cut_down_is_kept_whole(monkeypatch: pytest.MonkeyPatch) -> None:
    single = Lookup(1, 0, (gsub.SingleSubstitution({1: 3}),))
    font = Font.read(small_font(extra={"GSUB": _table(Gsub, single).compile()}), "a.ttf")

    def overflow(root: Block, sharing: object) -> bytes:
        raise OffsetOverflow

    with monkeypatch.context() as patch:
        patch.setattr(layout_table, "serialize", overflow)
        cut = subset(font, {0x41})
    assert "kept whole" in " ".join(cut.warnings)
    assert cut.font.raw("GSUB") == font.raw("GSUB")
    assert cut.font.raw("glyf") == font.raw("glyf"), "under the glyph IDs that it names"
    assert set(cut.font.characters) == {0x41}


@pytest.mark.parametrize("size", [2, 3, 4])
def test_offsets_of_every_size_lead_to_their_targets(size: int) -> None:
    leaf = Block(b"leaf")
    root = Block(b"root")
    {2: root.offset16, 3: root.offset24, 4: root.offset32}[size](leaf)
    {2: root.offset16, 3: root.offset24, 4: root.offset32}[size](None)
    {2: root.offset16, 3: root.offset24, 4: root.offset32}[size](Block(b"leaf"))
    data = serialize(root)
    offset = (4 + 3 * size).to_bytes(size, "big")
    assert data == b"root" + offset + bytes(size) + offset + b"leaf", "equal blocks are written once"
    reader = OffsetReader(data, 0)
    reader.take(4)
    follow = {2: reader.offset16, 3: reader.offset24, 4: reader.offset32}[size]
    first, none, second = follow(), follow(), follow()
    assert first is not None and second is not None and none is None
    assert first.take(4) == second.take(4) == b"leaf"


def test_long_offsets_reach_where_short_ones_do_not() -> None:
    far = [Block(bytes((n,)) * 40_000) for n in range(3)]
    root = Block()
    for block in far:
        root.offset24(block)
    data = serialize(root)
    assert [data[int.from_bytes(data[3 * n : 3 * n + 3], "big")] for n in range(3)] == [0, 1, 2]
    short = Block()
    for block in far:
        short.offset16(block)
    with pytest.raises(OffsetOverflow):
        serialize(short)


def _devices() -> tuple[Gpos, str]:
    """Corrections at the size that the comparison sets text in, in every record that can hold one."""
    device, other = SizeDevice(36, 38, 2, (0x5550,)), VariationIndex(0, 1)
    pairs = gpos.GlyphPairs((0x44, 0), {1: {2: ((-80, device), ())}})
    matrix = gpos.ClassPairs(
        (0x44, 0), frozenset({2}), {}, {3: 1}, np.array([[[0, 0], [60, 0]]], np.int16), {(0, 1, 1): device}
    )
    single = gpos.SingleAdjustment(0x44, {3: (40, device)})
    marks = gpos.MarkAttachment(
        1, {4: (0, Anchor(10, 20, None, device, None))}, {1: (Anchor(5, 6, None, None, other),)}
    )
    lookups = [Lookup(2, 0, (pairs,)), Lookup(2, 0, (matrix,)), Lookup(1, 0, (single,)), Lookup(4, 0, (marks,))]
    features = [FeatureRecord("kern", (0, 1, 2)), FeatureRecord("mark", (3,))]
    return Gpos({"DFLT": Script(LanguageSystem(None, (0, 1)))}, features, lookups), "ABCD"


def test_device_tables_of_gpos_stay_with_their_values() -> None:
    table, letters = _devices()
    characters = {ord(letter): number for number, letter in enumerate(letters, 1)}
    font = Font.read(small_font(characters, extra={"GPOS": table.compile()}), "a.ttf")
    assert font.table(Gpos) == table
    cut = subset(font, {ord("A"), ord("B"), ord("D")})
    kept = cut.font.table(Gpos)
    assert [type(lookup.subtables[0]) for lookup in kept.lookups] == [gpos.GlyphPairs, gpos.MarkAttachment]
    original = table.lookups[0].subtables[0]
    assert kept.lookups[0].subtables == (original,)
    (marks,) = kept.lookups[1].subtables
    assert isinstance(marks, gpos.MarkAttachment)
    assert marks.bases[1] == (Anchor(5, 6, None, None, VariationIndex(0, 1)),)
    assert Comparison(font, cut).run() == []
    assert Comparison(font, subset(font)).run() == []

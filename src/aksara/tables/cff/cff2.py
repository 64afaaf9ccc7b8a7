"""The table 'CFF2': PostScript outlines that vary (OpenType 1.9.1, 'CFF2')."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Self, cast

from msgspec import field
from msgspec.structs import replace

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.offsets import OffsetReader, serialize
from aksara.records import ComparedByField
from aksara.tables.base import FontTables, Table
from aksara.tables.cff.charstrings import draws
from aksara.tables.cff.dicts import Dict, integer, offset_of, read_dict, without, write_dict
from aksara.tables.cff.flattening import Flattener
from aksara.tables.cff.font_dicts import FontDict, private_body, read_font_dict, read_select, write_select
from aksara.tables.cff.index import read_index, write_index
from aksara.tables.cff.operators import (
    CHARSTRINGS,
    FD_ARRAY,
    FD_SELECT,
    HINTS,
    PRIVATE,
    VARIATION_DATA,
    VARIATION_STORE,
)
from aksara.tables.cff.subroutines import hint_size, with_subroutines
from aksara.tables.cff.variable_charstrings import VariableRunner
from aksara.tables.subsetting import SubsetContext
from aksara.tables.variation.item_variation_store import ItemVariationStore

_HEADER_SIZE = 5
_MAX_FONT_DICTS = 0x10000
_OFFSETS = frozenset((CHARSTRINGS, FD_ARRAY, FD_SELECT, VARIATION_STORE))


class Cff2(ComparedByField, Table, frozen=True):
    """The one font of the table: its glyphs, their font dictionaries (by index in `font_dict_of`), global subroutines,
    and the store whose data say in which regions numbers vary. `with_subroutines` draws the same."""

    TAG: ClassVar[str] = "CFF2"
    NOT_COMPARED: ClassVar[tuple[str, ...]] = ("with_subroutines", "hint_bytes", "_flatteners")

    top: Dict
    charstrings: list[bytes]
    font_dicts: list[FontDict]
    font_dict_of: list[int]
    subroutines: list[bytes]
    store: ItemVariationStore | None
    with_subroutines: Cff2 | None = None
    #: Bytes of the charstrings that are hints, of a table that was cut down.
    hint_bytes: int = 0
    # What writes charstrings without calls, once that was asked for.
    _flatteners: list[Flattener] = field(default_factory=list)

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        major, _, header, top_size = reader.u8(), reader.u8(), reader.u8(), reader.u16()
        if major != 2:
            raise FontError(f"its version is {major}, but only 2 is known here")
        reader.position = header
        top = read_dict(reader.take(top_size, "the Top DICT"))
        subroutines = read_index(reader, wide_count=True)
        store = None
        if VARIATION_STORE in top:
            # The store's length stands before it.
            store = ItemVariationStore.parse(OffsetReader(data, offset_of(top, VARIATION_STORE) + 2))
        charstrings = read_index(reader.at(offset_of(top, CHARSTRINGS)), wide_count=True)
        if not charstrings:
            raise FontError("it holds no glyphs")
        counts = _region_counts(store)
        stored = read_index(reader.at(offset_of(top, FD_ARRAY)), wide_count=True)[:_MAX_FONT_DICTS]
        font_dicts = [read_font_dict(reader, read_dict(data), counts, wide_count=True) for data in stored]
        select = [0] * len(charstrings)
        if FD_SELECT in top:
            select = read_select(reader.at(offset_of(top, FD_SELECT)), len(charstrings))
        if max(select) >= len(font_dicts):
            raise FontError(f"a glyph has font dictionary {max(select)}, but there are {len(font_dicts)}")
        return cls(without(top, _OFFSETS), charstrings, font_dicts, select, subroutines, store)

    def compile(self) -> bytes:
        """The table, its offsets in as few bytes as do."""
        subroutines = write_index(self.subroutines, wide_count=True)
        store = serialize(self.store.block()) if self.store is not None else b""
        stored = len(store).to_bytes(2, "big") + store if store else b""
        charstrings = write_index(self.charstrings, wide_count=True)
        select = write_select(self.font_dict_of) if len(self.font_dicts) > 1 else b""
        bodies = [private_body(font_dict, wide_count=True) for font_dict in self.font_dicts]
        top: Dict = self.top
        # Offsets take one to five bytes, and so move what they point at: until they stand still.
        while True:
            text = write_dict(top)
            offset = _HEADER_SIZE + len(text) + len(subroutines)
            new: Dict = dict(self.top)
            if stored:
                new[VARIATION_STORE] = (offset,)
                offset += len(stored)
            if select:
                new[FD_SELECT] = (offset,)
                offset += len(select)
            new[CHARSTRINGS] = (offset,)
            offset += len(charstrings)
            dicts = []
            for font_dict, (size, body) in zip(self.font_dicts, bodies, strict=True):
                dicts.append(write_dict(font_dict.values | {PRIVATE: (size, offset)}))
                offset += len(body)
            new[FD_ARRAY] = (offset,)
            if new == top:
                break
            top = new
        head = bytes((2, 0, _HEADER_SIZE)) + len(text).to_bytes(2, "big")
        array = write_index(dicts, wide_count=True)
        return b"".join((head, text, subroutines, stored, select, charstrings, *(body for _, body in bodies), array))

    def subset(self, context: SubsetContext) -> Self:
        """The kept glyphs without subroutines, and an alternative with those subroutines that are worth it."""
        order, hints = context.glyphs.order, context.hints
        flat = self._flattener().flatten(order, hints=hints)
        used = sorted({self.font_dict_of[old] for old in order if old is not None})
        new_dict = {old: new for new, old in enumerate(used)}
        dicts = [replace(self.font_dicts[dict_index], subroutines=[]) for dict_index in used]
        if not hints:
            dicts = [replace(font_dict, private=without(font_dict.private, HINTS)) for font_dict in dicts]
        plain = replace(
            self,
            _flatteners=[],
            charstrings=[b"" if glyph is None else glyph.charstring for glyph in flat.glyphs],
            font_dicts=dicts,
            font_dict_of=[0 if old is None else new_dict[self.font_dict_of[old]] for old in order],
            subroutines=[],
        )
        plain = replace(plain, hint_bytes=flat.hint_bytes if hints else 0)
        calling = with_subroutines(flat.runner, order, dict(zip(used, dicts, strict=True))) if hints else None
        if calling is None:
            return plain
        charstrings, font_dicts, shared = calling
        alternative = replace(plain, charstrings=charstrings, font_dicts=font_dicts, subroutines=shared, _flatteners=[])
        return replace(plain, with_subroutines=alternative)

    def forget(self) -> None:
        self._flatteners.clear()

    def alternatives(self) -> tuple[Self, ...]:
        return (cast(Self, self.with_subroutines),) if self.with_subroutines is not None else ()

    def draws(self, glyph: int) -> bool:
        """Whether the glyph has an outline."""
        return draws(self.charstrings[glyph])

    def hint_size(self) -> int:
        """Bytes that hints take: stems and masks of the glyphs, and what the font dictionaries say of them."""
        return hint_size(self.runner(), self.font_dict_of, self.font_dicts)

    def variation_data_of(self, font_dict: int) -> int:
        """By which item variation data the glyphs of a font dictionary vary, unless they say otherwise."""
        return integer(self.font_dicts[font_dict].private, VARIATION_DATA, 0)

    def region_counts(self) -> Sequence[int]:
        """For each item variation data in how many regions numbers vary."""
        return _region_counts(self.store)

    def _flattener(self) -> Flattener:
        flattener = self._flatteners[0] if self._flatteners else Flattener(self.runner(), self.font_dict_of)
        self._flatteners[:] = [flattener]
        return flattener

    def runner(self) -> VariableRunner:
        """What runs the charstrings of this font."""
        local = [font_dict.subroutines for font_dict in self.font_dicts]
        defaults = [self.variation_data_of(dict_index) for dict_index in range(len(self.font_dicts))]
        return VariableRunner(self.charstrings, local, self.subroutines, self.region_counts(), defaults)


def _region_counts(store: ItemVariationStore | None) -> list[int]:
    return [len(data.regions) if data is not None else 0 for data in store.data] if store is not None else []

"""The table 'CFF ' as a value: read, written, cut down."""

from __future__ import annotations

import re
from collections.abc import Sequence, Set
from typing import ClassVar, Self, cast

from msgspec import field
from msgspec.structs import replace

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.records import ComparedByField
from aksara.tables.base import FontTables, Table
from aksara.tables.cff.accents import Accents
from aksara.tables.cff.charsets import STANDARD_STRINGS, read_charset, standard_names, write_charset
from aksara.tables.cff.charstrings import EMPTY_GLYPH, Runner, draws, outline_size, without_width
from aksara.tables.cff.dicts import Dict, integer, offset_of, only, read_dict, without, write_dict
from aksara.tables.cff.flattening import Flattener
from aksara.tables.cff.font_dicts import FontDict, private_body, read_font_dict, read_select, write_select
from aksara.tables.cff.index import read_index, write_index
from aksara.tables.cff.operators import (
    CHARSET,
    CHARSTRING_TYPE,
    CHARSTRINGS,
    CID_COUNT,
    FD_ARRAY,
    FD_SELECT,
    HINTS,
    KEPT,
    OFFSETS,
    PRIVATE,
    PRIVATE_OPERATORS,
    ROS,
)
from aksara.tables.cff.subroutines import hint_size, with_subroutines
from aksara.tables.subsetting import SubsetContext

_MAX_FONT_DICTS = 256
#: The registry and ordering of CIDs that mean nothing but themselves.
_IDENTITY = (b"Adobe", b"Identity")
#: What a font's name cannot hold (section 7), and the bytes that it can have.
_NAME, _LONGEST_NAME = re.compile(rb"[^!-~]|[\[\](){}<>/%]"), 127


class Cff(ComparedByField, Table, frozen=True):
    """The one font of the table.

    `charset` has, for each glyph, the string that names it (SID), or its CID in a CID-keyed font; `font_dict_of` the
    index of its font dictionary. `subroutines` are the global ones. `with_subroutines` draws the same.
    """

    TAG: ClassVar[str] = "CFF "
    NOT_COMPARED: ClassVar[tuple[str, ...]] = ("with_subroutines", "hint_bytes", "_accents", "_flatteners", "_size")

    name: bytes
    top: Dict
    strings: list[bytes]
    charset: list[int]
    charstrings: list[bytes]
    font_dicts: list[FontDict]
    font_dict_of: list[int]
    subroutines: list[bytes]
    with_subroutines: Cff | None = None
    #: Bytes of the charstrings that are hints, of a table that was cut down.
    hint_bytes: int = 0
    # What finds the parts of accented letters, and what writes charstrings without calls, once that was asked for.
    _accents: list[Accents] = field(default_factory=list)
    _flatteners: list[Flattener] = field(default_factory=list)
    # And how many bytes its charstrings and subroutines take.
    _size: list[int] = field(default_factory=list)

    @property
    def is_cid_keyed(self) -> bool:
        """Whether glyphs are known by CIDs, and may have different font dictionaries."""
        return ROS in self.top

    # ---- reading

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        major, _, header = reader.u8(), reader.u8(), reader.u8()
        if major != 1:
            raise FontError(f"its version is {major}, but only 1 is known here")
        reader.position = header
        names, tops, strings, subroutines = (read_index(reader) for _ in range(4))
        if not names or not tops:
            raise FontError("it holds no font")
        top = read_dict(tops[0])
        if top.get(CHARSTRING_TYPE, (2,)) != (2,):
            raise FontError("its charstrings are not of type 2, the only one that fonts on the web have")
        charstrings = read_index(reader.at(offset_of(top, CHARSTRINGS)))
        if not charstrings:
            raise FontError("it holds no glyphs")
        glyphs = len(charstrings)
        cid_keyed = ROS in top
        charset = read_charset(reader, integer(top, CHARSET, 0), glyphs, cid_keyed=cid_keyed)
        if cid_keyed:
            dicts = [read_dict(data) for data in read_index(reader.at(offset_of(top, FD_ARRAY)))[:_MAX_FONT_DICTS]]
            select = read_select(reader.at(offset_of(top, FD_SELECT)), glyphs)
            if max(select) >= len(dicts):
                raise FontError(f"a glyph has font dictionary {max(select)}, but there are {len(dicts)}")
        else:
            dicts, select = [{PRIVATE: top.get(PRIVATE, (0, 0))}], [0] * glyphs
        font_dicts = [read_font_dict(reader, values) for values in dicts]
        top = {operator: operands for operator, operands in top.items() if operator not in OFFSETS}
        return cls(names[0], top, strings, charset, charstrings, font_dicts, select, subroutines)

    # ---- writing

    def compile(self) -> bytes:
        """The table, its offsets in as few bytes as do."""
        head = b"\1\0\4\4" + write_index([self.name])
        middle = write_index(self.strings) + write_index(self.subroutines)
        charset = write_charset(self.charset, cid_keyed=self.is_cid_keyed)
        charstrings = write_index(self.charstrings)
        select = write_select(self.font_dict_of) if self.is_cid_keyed else b""
        bodies = [private_body(font_dict) for font_dict in self.font_dicts]
        # What makes a font CID-keyed comes first (section 18): browsers refuse it elsewhere.
        plain: Dict = {ROS: self.top[ROS]} | self.top if self.is_cid_keyed else self.top
        top, offset = plain, 0
        # Offsets take one to five bytes, and so move what they point at: until they stand still.
        while True:
            index = write_index([write_dict(top)])
            start = len(head) + len(index) + len(middle)
            offset = start + len(charset or b"")
            select_at = offset
            charstrings_at = offset + len(select)
            offset = charstrings_at + len(charstrings)
            private_ranges = []
            for private, body in bodies:
                private_ranges.append((private, offset))
                offset += len(body)
            new: Dict = dict(plain)
            if charset:
                new[CHARSET] = (start,)
            new[CHARSTRINGS] = (charstrings_at,)
            array = b""
            if self.is_cid_keyed:
                dicts = [
                    font_dict.values | {PRIVATE: where}
                    for font_dict, where in zip(self.font_dicts, private_ranges, strict=True)
                ]
                array = write_index([write_dict(font_dict) for font_dict in dicts])
                new |= {FD_ARRAY: (offset,), FD_SELECT: (select_at,)}
            else:
                new[PRIVATE] = private_ranges[0]
            if new == top:
                break
            top = new
        return b"".join((head, index, middle, charset or b"", select, charstrings, *(b for _, b in bodies), array))

    # ---- subsetting

    def component_closure(self, glyphs: set[int]) -> set[int]:
        """These glyphs and those that accented letters are composed of (endchar with four numbers)."""
        if self.is_cid_keyed:
            return glyphs
        accents = self._accents[0] if self._accents else Accents(self.charset, self.runner())
        self._accents[:] = [accents]
        return accents.closure(glyphs)

    def subset(self, context: SubsetContext) -> Self:
        """The kept glyphs without subroutines, and an alternative with those subroutines that are worth it.

        Without subroutines, charstrings have no widths either: of OpenType fonts 'hmtx' has those that count.
        """
        order, hints = context.glyphs.order, context.hints
        flat = self._flattener().flatten(order, hints=hints)
        needed = {sid for glyph in flat.glyphs if glyph is not None for sid in standard_names(glyph.accent)}
        used = sorted({self.font_dict_of[old] for old in order if old is not None})
        new_dict = {old: new for new, old in enumerate(used)}
        dicts = [
            replace(font_dict, values=only(font_dict.values, KEPT), private=only(font_dict.private, PRIVATE_OPERATORS))
            for font_dict in (self.font_dicts[dict_index] for dict_index in used)
        ]
        if not hints:
            dicts = [replace(font_dict, private=without(font_dict.private, HINTS)) for font_dict in dicts]
        plain = replace(
            self._renamed(order, needed, dicts),
            _accents=[],
            _flatteners=[],
            _size=[],
            name=_NAME.sub(b"", self.name)[:_LONGEST_NAME] or b"Font",
            charstrings=[EMPTY_GLYPH if glyph is None else without_width(glyph.charstring) for glyph in flat.glyphs],
            font_dict_of=[0 if old is None else new_dict[self.font_dict_of[old]] for old in order],
            subroutines=[],
        )
        plain = replace(plain, hint_bytes=flat.hint_bytes if hints else 0)
        dicts_by_index = dict(zip(used, plain.font_dicts, strict=True))
        calling = with_subroutines(flat.runner, order, dicts_by_index) if hints else None
        if calling is None:
            return plain
        charstrings, font_dicts, shared = calling
        alternative = replace(
            plain,
            charstrings=charstrings,
            font_dicts=font_dicts,
            subroutines=shared,
            _accents=[],
            _flatteners=[],
            _size=[],
        )
        return replace(plain, with_subroutines=alternative)

    def _renamed(self, order: Sequence[int | None], needed: Set[int], dicts: Sequence[FontDict]) -> Self:
        """Glyph names without bytes of their own: browsers do not use them, but each must be unique.

        Glyphs that accented letters are composed of are found by name, and keep it (`needed`, SIDs). CIDs become the
        new font's own, so that its registry is nobody's.
        """
        glyphs, top = len(order), only(self.top, KEPT)
        dicts = [replace(font_dict, subroutines=[]) for font_dict in dicts]
        if self.is_cid_keyed:
            first = len(STANDARD_STRINGS)
            top |= {ROS: (first, first + 1, 0), CID_COUNT: (glyphs,)}
            cids = list(range(glyphs))
            return replace(self, top=top, strings=list(_IDENTITY), charset=cids, font_dicts=dicts)
        fixed = {
            new: self.charset[old] for new, old in enumerate(order) if old is not None and self.charset[old] in needed
        }
        taken = set(fixed.values())
        spare = (sid for sid in range(1, 0x10000) if sid not in taken)
        charset = [0] + [fixed[new] if new in fixed else next(spare) for new in range(1, glyphs)]
        strings = [b""] * (max(charset) + 1 - len(STANDARD_STRINGS))
        return replace(self, top=top, strings=strings, charset=charset, font_dicts=dicts)

    def forget(self) -> None:
        self._accents.clear()
        self._flatteners.clear()

    def alternatives(self) -> tuple[Self, ...]:
        return (cast(Self, self.with_subroutines),) if self.with_subroutines is not None else ()

    def draws(self, glyph: int) -> bool:
        """Whether the glyph has an outline."""
        return draws(self.charstrings[glyph])

    def hint_size(self) -> int:
        """Bytes that hints take: stems and masks of the glyphs, and what the font dictionaries say of them."""
        return hint_size(self.runner(), self.font_dict_of, self.font_dicts)

    def _flattener(self) -> Flattener:
        flattener = self._flatteners[0] if self._flatteners else Flattener(self.runner(), self.font_dict_of)
        self._flatteners[:] = [flattener]
        return flattener

    def runner(self) -> Runner:
        """What runs the charstrings of this font."""
        outlines = self.charstrings, [font_dict.subroutines for font_dict in self.font_dicts], self.subroutines
        if not self._size:
            self._size.append(outline_size(*outlines))
        return Runner(*outlines, self._size[0])

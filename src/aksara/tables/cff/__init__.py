"""'CFF ': PostScript outlines (Adobe Technical Notes 5176, the format, and 5177, the charstrings)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Self

import numpy as np

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.cff.charsets import STANDARD_ENCODING, STANDARD_STRINGS, read_charset, write_charset
from aksara.tables.cff.charstrings import Runner, draws, may_be_composed, with_subroutines
from aksara.tables.cff.dicts import Dict, Number, read_dict, write_dict
from aksara.tables.cff.index import read_index, write_index

# Operators of the Top DICT (section 9), 12 << 8 | second byte where there are two.
_CHARSET, _ENCODING, _CHARSTRINGS, _PRIVATE = 15, 16, 17, 18
_CHARSTRING_TYPE, _ROS, _CID_COUNT, _FD_ARRAY, _FD_SELECT = 0x0C06, 0x0C1E, 0x0C22, 0x0C24, 0x0C25
_FONT_NAME = 0x0C26
# Operators of a Private DICT (section 15).
_SUBRS, _DEFAULT_WIDTH, _NOMINAL_WIDTH = 19, 20, 21
#: Hints for the whole font: alignment zones, stem widths and how they are used.
_HINTS = frozenset((6, 7, 8, 9, 10, 11, *(0x0C00 | n for n in (9, 10, 11, 12, 13, 14, 15, 17, 18))))
#: Strings and numbers of the Top DICT that nobody needs on the web: version, names, notices (kept in 'name'), old IDs.
_NAMES = frozenset((0, 1, 2, 3, 4, 13, 14, 0x0C00, 0x0C15, 0x0C16))
#: Operators whose operands are offsets, which are written anew.
_OFFSETS = frozenset((_CHARSET, _ENCODING, _CHARSTRINGS, _PRIVATE, _FD_ARRAY, _FD_SELECT))
#: The registry and ordering of CIDs that mean nothing but themselves.
_IDENTITY = (b"Adobe", b"Identity")
_MAX_FONT_DICTS = 256


@dataclass(slots=True, frozen=True)
class FontDict:
    """What some glyphs share: a Font DICT (empty if not CID-keyed), its Private DICT, and its subroutines."""

    values: Dict
    private: Dict
    subroutines: list[bytes]


@dataclass(slots=True, frozen=True)
class Cff:
    """The one font of the table.

    `charset` has, for each glyph, the string that names it (SID), or its CID in a CID-keyed font; `font_dict_of` the
    number of its font dictionary.
    """

    TAG: ClassVar[str] = "CFF "

    name: bytes
    top: Dict
    strings: list[bytes]
    charset: list[int]
    charstrings: list[bytes]
    font_dicts: list[FontDict]
    font_dict_of: list[int]
    subroutines: list[bytes]

    @property
    def is_cid_keyed(self) -> bool:
        return _ROS in self.top

    # ---- reading

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        reader = Reader(data)
        major, _, header = reader.u8(), reader.u8(), reader.u8()
        if major != 1:
            raise FontError(f"its version is {major}, but only 1 is known here")
        reader.position = header
        names, tops, strings, subroutines = (read_index(reader) for _ in range(4))
        if not names or not tops:
            raise FontError("it holds no font")
        top = read_dict(tops[0])
        if top.get(_CHARSTRING_TYPE, (2,)) != (2,):
            raise FontError("its charstrings are not of type 2, the only one that fonts on the web have")
        charstrings = read_index(reader.at(_offset(top, _CHARSTRINGS)))
        if not charstrings:
            raise FontError("it holds no glyphs")
        glyphs = len(charstrings)
        cid_keyed = _ROS in top
        charset = read_charset(reader, _integer(top, _CHARSET, 0), glyphs, cid_keyed=cid_keyed)
        if cid_keyed:
            dicts = [read_dict(each) for each in read_index(reader.at(_offset(top, _FD_ARRAY)))[:_MAX_FONT_DICTS]]
            select = _read_select(reader.at(_offset(top, _FD_SELECT)), glyphs)
            if max(select) >= len(dicts):
                raise FontError(f"a glyph has font dictionary {max(select)}, but there are {len(dicts)}")
        else:
            dicts, select = [{_PRIVATE: top.get(_PRIVATE, (0, 0))}], [0] * glyphs
        font_dicts = [_read_font_dict(reader, values) for values in dicts]
        top = {operator: operands for operator, operands in top.items() if operator not in _OFFSETS}
        return cls(names[0], top, strings, charset, charstrings, font_dicts, select, subroutines)

    # ---- writing

    def compile(self) -> bytes:
        """The table, its offsets in as few bytes as do."""
        head = b"\1\0\4\4" + write_index([self.name])
        middle = write_index(self.strings) + write_index(self.subroutines)
        charset = write_charset(self.charset, cid_keyed=self.is_cid_keyed)
        charstrings = write_index(self.charstrings)
        select = _write_select(self.font_dict_of) if self.is_cid_keyed else b""
        bodies = [_private_body(each) for each in self.font_dicts]
        top, at = self.top, 0
        # Offsets take one to five bytes, and so move what they point at: until they stand still.
        while True:
            index = write_index([write_dict(top)])
            start = len(head) + len(index) + len(middle)
            at = start + len(charset or b"")
            select_at = at
            charstrings_at = at + len(select)
            at = charstrings_at + len(charstrings)
            places = []
            for private, body in bodies:
                places.append((private, at))
                at += len(body)
            new: Dict = dict(self.top)
            if charset:
                new[_CHARSET] = (start,)
            new[_CHARSTRINGS] = (charstrings_at,)
            array = b""
            if self.is_cid_keyed:
                dicts = [each.values | {_PRIVATE: place} for each, place in zip(self.font_dicts, places, strict=True)]
                array = write_index([write_dict(each) for each in dicts])
                new |= {_FD_ARRAY: (at,), _FD_SELECT: (select_at,)}
            else:
                new[_PRIVATE] = places[0]
            if new == top:
                break
            top = new
        return b"".join((head, index, middle, charset or b"", select, charstrings, *(b for _, b in bodies), array))

    # ---- subsetting

    def closure(self, glyphs: set[int]) -> set[int]:
        """These glyphs and those that accented letters are composed of (endchar with four numbers)."""
        runner = self._runner()
        named = {sid: glyph for glyph, sid in reversed(list(enumerate(self.charset)))}
        found = set(glyphs)
        for glyph in glyphs:
            if not self.is_cid_keyed and may_be_composed(self.charstrings[glyph]):
                accent = runner.run(glyph, self.font_dict_of[glyph])[1]
                found |= {named[sid] for sid in _standard_names(accent) if sid in named}
        return found

    def subset(self, order: Sequence[int | None], *, hints: bool = True, names: bool = False) -> CffForms:
        """For the glyphs of `order`, new number → old; None is a glyph that is there only for its number.

        With `names` those of the font stay (where the 'name' table cannot tell who made it). What was written is the
        same outlines in two forms: with subroutines, and without.
        """
        runner = self._runner()
        flat: list[bytes] = []
        accents: dict[int, tuple[int, int]] = {}
        for new, old in enumerate(order):
            if old is None:
                flat.append(b"\x0e")
                continue
            text, accent = runner.run(old, self.font_dict_of[old], hints=hints)
            flat.append(text)
            if accent is not None:
                accents[new] = accent
        used = sorted({self.font_dict_of[old] for old in order if old is not None})
        new_dict = {old: new for new, old in enumerate(used)}
        kept = self._renamed(
            order, {sid for accent in accents.values() for sid in _standard_names(accent)}, names=names
        )
        dicts = [kept.font_dicts[number] for number in used]
        if not hints:
            dicts = [replace(each, private=_without(each.private, _HINTS)) for each in dicts]
        plain = replace(
            kept,
            charstrings=flat,
            font_dicts=[replace(each, subroutines=[]) for each in dicts],
            font_dict_of=[0 if old is None else new_dict[self.font_dict_of[old]] for old in order],
            subroutines=[],
        )
        outlining = with_subroutines(runner, [old for old in order if old is not None]) if hints else None
        if outlining is None:
            return CffForms(plain, None)
        texts = iter(outlining.charstrings)
        return CffForms(
            plain,
            replace(
                plain,
                charstrings=[b"\x0e" if old is None else next(texts) for old in order],
                font_dicts=[
                    replace(each, subroutines=outlining.local[number]) for number, each in zip(used, dicts, strict=True)
                ],
                subroutines=outlining.shared,
            ),
        )

    def draws(self, glyph: int) -> bool:
        """Whether the glyph has an outline."""
        return draws(self.charstrings[glyph])

    def hint_size(self) -> int:
        """Bytes that hints take: stems and masks of the glyphs, and what the font dictionaries say of them."""
        with_hints, without = self._runner(), self._runner()
        glyphs = enumerate(self.font_dict_of)
        size = sum(
            len(with_hints.run(glyph, number)[0]) - len(without.run(glyph, number, hints=False)[0])
            for glyph, number in glyphs
        )
        private = (each.private for each in self.font_dicts)
        return size + sum(len(write_dict({op: v for op, v in each.items() if op in _HINTS})) for each in private)

    def _runner(self) -> Runner:
        return Runner(self.charstrings, [each.subroutines for each in self.font_dicts], self.subroutines)

    def _renamed(self, order: Sequence[int | None], needed: set[int], *, names: bool) -> Self:
        """Names that take no room: no browser asks for a glyph's name, but each must have one of its own.

        Glyphs that accented letters are composed of are found by name, and keep it (`needed`, SIDs).
        """
        glyphs = len(order)
        top = self.top if names else _without(self.top, _NAMES)
        if self.is_cid_keyed:
            # These CIDs are the new font's own, so that its registry is nobody's.
            strings = list(_IDENTITY)
            first = len(STANDARD_STRINGS)
            top = _without(self.top, _NAMES) | {_ROS: (first, first + 1, 0), _CID_COUNT: (glyphs,)}
            dicts = [replace(each, values=_without(each.values, {_FONT_NAME, _PRIVATE})) for each in self.font_dicts]
            return replace(self, top=top, strings=strings, charset=list(range(glyphs)), font_dicts=dicts)
        strings = [] if not names else self.strings
        fixed = {
            new: self.charset[old] for new, old in enumerate(order) if old is not None and self.charset[old] in needed
        }
        taken = set(fixed.values())
        spare = (sid for sid in range(1, 0x10000) if sid not in taken)
        charset = [0] + [fixed[new] if new in fixed else next(spare) for new in range(1, glyphs)]
        strings = strings + [b""] * (max(charset) + 1 - len(STANDARD_STRINGS) - len(strings))
        return replace(self, top=top, strings=strings, charset=charset)


@dataclass(slots=True, frozen=True)
class CffForms:
    """The same outlines written without subroutines and, where that can be done, with them (else None)."""

    plain: Cff
    with_subroutines: Cff | None


def _standard_names(codes: tuple[int, int] | None) -> list[int]:
    """The SIDs of characters of the standard encoding."""
    return [STANDARD_ENCODING[code] for code in codes or () if 0 <= code < 256 and STANDARD_ENCODING[code]]


def _without(values: Mapping[int, tuple[Number, ...]], operators: frozenset[int] | set[int]) -> Dict:
    return {operator: operands for operator, operands in values.items() if operator not in operators}


def _integer(values: Dict, operator: int, default: int) -> int:
    operands = values.get(operator, (default,))
    if len(operands) != 1 or not isinstance(operands[0], int):
        raise FontError(f"operator {operator} of a DICT has no whole number")
    return operands[0]


def _offset(values: Dict, operator: int) -> int:
    offset = _integer(values, operator, 0)
    if offset <= 0:
        raise FontError(f"operator {operator} of the Top DICT, an offset, is missing or wrong")
    return offset


def _read_font_dict(reader: Reader, values: Dict) -> FontDict:
    place = values.get(_PRIVATE, (0, 0))
    if len(place) != 2 or not all(isinstance(number, int) for number in place):
        raise FontError("a Private DICT has no size and offset")
    size, offset = (number for number in place if isinstance(number, int))
    private = read_dict(reader.at(offset).take(size, "a Private DICT"))
    subroutines = []
    if _SUBRS in private:
        subroutines = read_index(reader.at(offset + _integer(private, _SUBRS, 0)))
    return FontDict(_without(values, {_PRIVATE}), _without(private, {_SUBRS}), subroutines)


def _private_body(font_dict: FontDict) -> tuple[int, bytes]:
    """The size of the Private DICT, and it with its subroutines behind it."""
    private = write_dict(font_dict.private)
    if not font_dict.subroutines:
        return len(private), private
    size = len(private)
    while len(text := write_dict(font_dict.private | {_SUBRS: (size,)})) != size:
        size = len(text)
    return size, text + write_index(font_dict.subroutines)


def _read_select(reader: Reader, glyphs: int) -> list[int]:
    """FDSelect: the font dictionary of each glyph (section 19)."""
    start, form = reader.position, reader.u8()
    if form == 0:
        return list(reader.take(glyphs, "font dictionaries"))
    if form != 3:
        raise FontError(f"an FDSelect of format {form}; only 0 and 3 exist", offset=start)
    records = [(reader.u16(), reader.u8()) for _ in range(reader.u16())]
    ends = [first for first, _ in records[1:]] + [reader.u16()]
    select: list[int] = []
    for (first, number), end in zip(records, ends, strict=True):
        if first != len(select) or end < first:
            raise FontError("the ranges of FDSelect do not follow one another", offset=start)
        select += [number] * (end - first)
    if len(select) < glyphs:
        raise FontError(f"FDSelect speaks of {len(select)} glyphs, but there are {glyphs}", offset=start)
    return select[:glyphs]


def _write_select(select: Sequence[int]) -> bytes:
    array = np.array(select, np.uint8)
    starts = np.flatnonzero(np.concatenate(([True], array[1:] != array[:-1])))
    if 3 * len(starts) + 4 >= len(select):
        return b"\0" + array.tobytes()
    ranges = b"".join(start.to_bytes(2, "big") + bytes((select[start],)) for start in starts.tolist())
    return b"\3" + len(starts).to_bytes(2, "big") + ranges + len(select).to_bytes(2, "big")

"""'CPAL': palettes (OpenType 1.9.1)."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable, Set
from typing import ClassVar, Self

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader, serialize
from aksara.tables.base import FontTables, Table
from aksara.tables.subsetting import SubsetContext, SubsetScope

_NO_NAME = 0xFFFF
_FOR_LIGHT, _FOR_DARK = 1, 2


class Colour(Struct, frozen=True):
    """A colour in sRGB and its opacity, 0 to 255."""

    red: int
    green: int
    blue: int
    alpha: int

    @property
    def css(self) -> str:
        """As CSS writes it: "#0b4f6c", or with two digits more if it is not opaque."""
        return f"#{self.red:02x}{self.green:02x}{self.blue:02x}" + (f"{self.alpha:02x}" if self.alpha < 0xFF else "")


_NOTHING = Colour(0, 0, 0, 0)


class Palette(Struct, frozen=True):
    """Its `colours` by entry, whether it is meant `for_light` or `for_dark` backgrounds, and the ID of its name."""

    colours: tuple[Colour, ...]
    for_light: bool = False
    for_dark: bool = False
    name_id: int | None = None


class Cpal(Table, frozen=True):
    """The palettes; `entry_names` are the IDs of the names of their entries, () for none."""

    TAG: ClassVar[str] = "CPAL"
    OPTIONAL: ClassVar[bool] = True

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return None if {"COLR", "SVG "} & set(scope.tags) else "nothing is painted with its colours"

    palettes: tuple[Palette, ...]
    entry_names: tuple[int | None, ...] = ()

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        version, entries, count, stored = reader.u16s(4)
        colours_at = reader.offset32()
        firsts = reader.u16s(count)
        types, labels, entry_labels = (reader.offset32() for _ in range(3)) if version >= 1 else (None, None, None)
        if colours_at is None and entries and count:
            raise FontError("its palettes have no colours", offset=8)
        if any(first + entries > stored for first in firsts):
            raise FontError("a palette has fewer colours than entries", offset=12)
        colours = []
        for _ in range(stored if colours_at is not None else 0):
            assert colours_at is not None
            blue, green, red, alpha = colours_at.take(4, "a colour")
            colours.append(Colour(red, green, blue, alpha))
        kinds = [types.u32() for _ in range(count)] if types is not None else [0] * count
        names = labels.u16s(count) if labels is not None else (_NO_NAME,) * count
        palettes = tuple(
            Palette(
                tuple(colours[first : first + entries]), bool(kind & _FOR_LIGHT), bool(kind & _FOR_DARK), _name(name)
            )
            for first, kind, name in zip(firsts, kinds, names, strict=True)
        )
        return cls(palettes, tuple(map(_name, entry_labels.u16s(entries))) if entry_labels is not None else ())

    @property
    def entry_count(self) -> int:
        """How many entries each palette has."""
        return len(self.palettes[0].colours) if self.palettes else 0

    @property
    def name_ids(self) -> set[int]:
        """The IDs of the names of palettes and entries."""
        name_ids = (*(palette.name_id for palette in self.palettes), *self.entry_names)
        return {name for name in name_ids if name is not None}

    def compile(self) -> bytes:
        stored: list[Colour] = []
        firsts = [_place(stored, palette.colours) for palette in self.palettes]
        colours = Block()
        for colour in stored:
            colours.u8(colour.blue, colour.green, colour.red, colour.alpha)
        named = any(palette.name_id is not None for palette in self.palettes)
        meant = any(palette.for_light or palette.for_dark for palette in self.palettes)
        version = 1 if named or meant or self.entry_names else 0
        root = Block().u16(version, self.entry_count, len(self.palettes), len(stored)).offset32(colours).u16(*firsts)
        if version:
            kinds = [palette.for_light * _FOR_LIGHT + palette.for_dark * _FOR_DARK for palette in self.palettes]
            root.offset32(Block().u32(*kinds) if meant else None)
            root.offset32(_names(palette.name_id for palette in self.palettes) if named else None)
            root.offset32(_names(self.entry_names) if self.entry_names else None)
        return serialize(root)

    def subset(self, context: SubsetContext) -> Self | None:
        """The palettes with the colours that kept glyphs are painted with.

        Entries keep their numbers, by which style sheets name them (CSS Fonts 4, "override-colors"); those that nothing
        is painted with become nothing, and go from the end.
        """
        if context.original_by_tag("SVG ") is not None:
            # Drawings may name any of them ("var(--color0)").
            return self
        colr = context.original_by_tag("COLR")
        if not isinstance(colr, Painted):
            return None
        used = {entry for entry in colr.colours_of(context.glyphs) if entry < self.entry_count}
        return self.of_entries(used) if used else None

    def of_entries(self, used: Set[int]) -> Self:
        """The palettes with these entries alone."""
        entries = range(max(used) + 1)
        palettes = tuple(
            replace(palette, colours=tuple(palette.colours[entry] if entry in used else _NOTHING for entry in entries))
            for palette in self.palettes
        )
        names = tuple(self.entry_names[entry] if entry in used else None for entry in entries if self.entry_names)
        return type(self)(palettes, names if any(name is not None for name in names) else ())


class Painted(Table, frozen=True):
    """What paints with entries of palettes."""

    @abstractmethod
    def colours_of(self, glyphs: Iterable[int]) -> set[int]:
        """The entries that these glyphs are painted with."""


def _place(stored: list[Colour], colours: tuple[Colour, ...]) -> int:
    """The index of these consecutive colours, which are appended if they do not exist yet."""
    size = len(colours)
    for start in range(len(stored) - size + 1):
        if tuple(stored[start : start + size]) == colours:
            return start
    stored += colours
    return len(stored) - size


def _names(names: Iterable[int | None]) -> Block:
    return Block().u16(*(_NO_NAME if name is None else name for name in names))


def _name(name: int) -> int | None:
    return None if name == _NO_NAME else name

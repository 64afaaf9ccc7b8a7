"""'glyf' and 'loca': TrueType outlines, and where each of them lies (OpenType 1.9.1).

Glyphs stay the bytes they were until something needs their points or components.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import ClassVar, Self

import numpy as np

from aksara.errors import FontError
from aksara.limits import MAX_COMPONENT_DEPTH
from aksara.records import ComparedByField
from aksara.tables.base import FontTables, Table
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.head import Head
from aksara.tables.maxp import Maxp
from aksara.tables.subsetting import SubsetContext
from aksara.truetype import glyph_data
from aksara.truetype.components import Composite, component_ids, split_composite, with_component_ids
from aksara.truetype.glyph_data import HEADER_SIZE
from aksara.truetype.outlines import EMPTY, Outline, outlines_of
from aksara.truetype.points import Ints, Points, decode_simple

#: Glyphs whose programs are sampled to estimate the size of hints.
HINT_SAMPLE = 8_000


class Loca(ComparedByField, Table, frozen=True):
    """Byte offsets of the glyphs, one more than there are glyphs; `long` is the format in which they are stored."""

    TAG: ClassVar[str] = "loca"

    offsets: Ints
    long: bool

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        long = font.table(Head).index_to_loc_format == 1
        return cls(glyph_data.read_offsets(data, font.table(Maxp).num_glyphs, long=long), long)

    def compile(self) -> bytes:
        return glyph_data.write_offsets(self.offsets, long=self.long)

    def subset(self, context: SubsetContext) -> Loca | None:
        glyf = context.subset(Glyf)
        return glyf.loca() if glyf is not None else None


class Glyf(Table, frozen=True):
    """The glyphs, each as its bytes; an empty glyph has none."""

    TAG: ClassVar[str] = "glyf"

    glyphs: list[bytes]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls(glyph_data.split(data, font.table(Loca).offsets))

    def compile(self) -> bytes:
        return glyph_data.join(self.glyphs, alignment=1 if self.loca().long else 2)[0]

    def loca(self) -> Loca:
        """The 'loca' for the result of `compile`: short offsets (in units of two bytes) if they suffice."""
        _, offsets = glyph_data.join(self.glyphs, alignment=2)
        if not glyph_data.needs_long_offsets(int(offsets[-1])):
            return Loca(offsets, long=False)
        return Loca(glyph_data.join(self.glyphs, alignment=1)[1], long=True)

    def subset(self, context: SubsetContext) -> Glyf | None:
        """The kept glyphs, components under their new IDs; without hints they lose their programs.

        A font of pictures alone has no outlines: with empty ones some browsers take it for a font of blanks.
        """
        if not any(self.glyphs) and any(tag in context.source for tag in ("CBDT", "sbix")):
            return None
        return Glyf([self._kept(old, context.glyphs, hints=context.hints) for old in context.glyphs.order])

    def _kept(self, old: int | None, glyphs: GlyphMap, *, hints: bool) -> bytes:
        glyph = self.glyphs[old] if old is not None else b""
        # A glyph without contours may have a header, a box and a program. It draws nothing, and a WOFF2 has no place
        # for its box (section 5.1): readers other than those of browsers refuse one that has it.
        if not glyph or old is None or glyph_data.contour_count(glyph) == 0:
            return b""
        if self.is_composite(old):
            return with_component_ids(glyph, glyphs, keep_program=hints)
        return glyph if hints else without_program(glyph)

    def hint_size(self) -> int:
        """Bytes that the glyphs' programs take; of a font with many glyphs an estimate from glyphs at even steps."""
        step = max(-(-len(self.glyphs) // HINT_SAMPLE), 1)
        sampled = len(range(0, len(self.glyphs), step))
        return sum(map(len, self.programs(step))) * len(self.glyphs) // max(sampled, 1)

    def programs(self, step: int = 1) -> Iterator[bytes]:
        """The programs of every `step`th glyph, those of composite glyphs included."""
        for index in range(0, len(self.glyphs), step):
            glyph = self.glyphs[index]
            if glyph and not glyph_data.is_composite(glyph):
                offset = _program_length_at(glyph)
                yield glyph[offset + 2 : offset + 2 + int.from_bytes(glyph[offset : offset + 2], "big")]
            elif glyph:
                yield split_composite(glyph, index)[1] or b""

    def contours(self, glyph: int) -> int:
        """Number of contours; negative for a composite glyph, 0 for an empty one."""
        return glyph_data.contour_count(self.glyphs[glyph])

    def is_composite(self, glyph: int) -> bool:
        """Whether the glyph is composite."""
        return glyph_data.is_composite(self.glyphs[glyph])

    def composite(self, glyph: int) -> Composite:
        """The composite glyph, parsed."""
        return Composite.parse(self.glyphs[glyph], glyph)

    def simple(self, glyphs: Iterable[int]) -> Points:
        """The points of these simple glyphs."""
        wanted = list(glyphs)
        return decode_simple([self.glyphs[glyph] for glyph in wanted], wanted)

    def outlines(self, glyphs: Iterable[int]) -> list[Outline]:
        """The outlines of these glyphs, as variations see them."""
        wanted = list(glyphs)
        simple = [glyph for glyph in dict.fromkeys(wanted) if self.contours(glyph) > 0]
        by_glyph = dict(zip(simple, outlines_of(self.simple(simple)), strict=True))
        return [by_glyph[glyph] if glyph in by_glyph else self._other_outline(glyph) for glyph in wanted]

    def _other_outline(self, glyph: int) -> Outline:
        if not self.glyphs[glyph] or not self.is_composite(glyph):
            return EMPTY
        offsets = [component.offset for component in self.composite(glyph).components]
        return Outline(np.array(offsets, np.int64), np.zeros(0, np.int64))

    def boxes(self) -> Ints:
        """Bounding box of every glyph (G by 4: xMin, yMin, xMax, yMax), as its header has it; zeros if empty."""
        return glyph_data.bounding_boxes(self.glyphs)

    def draws(self, glyph: int) -> bool:
        """Whether the glyph has an outline."""
        return bool(self.glyphs[glyph])

    def component_closure(self, glyphs: set[int]) -> set[int]:
        """These glyphs and all their components, at any depth.

        Raises `FontError` for a composite that contains itself or a glyph that does not exist.
        """
        done: set[int] = set()
        count = len(self.glyphs)
        for glyph in sorted(glyphs):
            if glyph < count and not glyph_data.is_composite(self.glyphs[glyph]):
                done.add(glyph)
            else:
                self._add_components(glyph, done, [])
        return done

    def _add_components(self, glyph: int, done: set[int], path: list[int]) -> None:
        if glyph in path or len(path) > MAX_COMPONENT_DEPTH:
            raise FontError("it is made of components that contain itself", glyph=path[0])
        if glyph >= len(self.glyphs):
            raise FontError(
                f"one of its components is glyph {glyph}, but there are only {len(self.glyphs)}", glyph=path[-1]
            )
        if glyph in done:
            return
        if self.is_composite(glyph):
            for component in component_ids(self.glyphs[glyph]):
                self._add_components(component, done, [*path, glyph])
        done.add(glyph)


def _program_length_at(glyph: bytes) -> int:
    """Where a simple glyph says how long its program is: behind the ends of its contours."""
    return HEADER_SIZE + 2 * glyph_data.contour_count(glyph)


def without_program(glyph: bytes) -> bytes:
    offset = _program_length_at(glyph)
    size = int.from_bytes(glyph[offset : offset + 2], "big")
    return glyph[:offset] + b"\0\0" + glyph[offset + 2 + size :]

"""'gvar': how the points of TrueType glyphs move along the axes (OpenType 1.9.1).

Glyphs stay the bytes they were until something needs their deltas.
"""

from __future__ import annotations

import struct
from collections import Counter
from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import ClassVar, Self

import numpy as np

from aksara.binary import Reader, Writer
from aksara.errors import FontError, located
from aksara.limits import Work
from aksara.records import FixedRecord
from aksara.tables.base import FontTables, Table
from aksara.tables.fvar import Fvar
from aksara.tables.glyf import Glyf
from aksara.tables.subsetting import SubsetContext
from aksara.tables.variation.packed import write_deltas
from aksara.tables.variation.sparse import GlyphVariations, sparse_variations
from aksara.tables.variation.tuples import MAX_SHARED_PEAKS, Peak, TupleVariation, compile_tuples, parse_tuples
from aksara.truetype.glyph_data import join
from aksara.truetype.points import Ints, starts_of

_VERSION = 0x00010000
_LONG_OFFSETS = 0x0001
_SHORT_REACH = 0x1FFFE
#: Glyphs whose variations are rewritten at once.
_AT_ONCE = 256


class _Header(FixedRecord, frozen=True, kw_only=True):
    LAYOUT: ClassVar[struct.Struct] = struct.Struct(">IHHIHHI")

    version: int = _VERSION
    axis_count: int
    shared_count: int
    shared_offset: int
    glyph_count: int
    flags: int
    data_offset: int


class Gvar(Table, frozen=True):
    """`shared_peaks` are named by several tuples; `glyphs` has each glyph's variations as bytes, or none."""

    TAG: ClassVar[str] = "gvar"

    axis_count: int
    shared_peaks: tuple[Peak, ...]
    glyphs: list[bytes]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        header = _Header.read(reader, "the header of 'gvar'")
        if header.version >> 16 != 1:
            raise FontError(f"its version is {header.version >> 16}, but only 1 exists")
        if header.axis_count != len(font.table(Fvar).axes):
            raise FontError(f"it has {header.axis_count} axes, but 'fvar' has {len(font.table(Fvar).axes)}", offset=4)
        long = bool(header.flags & _LONG_OFFSETS)
        dtype = np.dtype(np.uint32) if long else np.dtype(np.uint16)
        offsets = reader.array(dtype, header.glyph_count + 1, "glyph offsets").astype(np.int64) * (1 if long else 2)
        part = reader.at(header.shared_offset)
        flat = part.array(np.int16, header.axis_count * header.shared_count, "shared tuples").tolist()
        axes = header.axis_count
        peaks = tuple(tuple(flat[n * axes : (n + 1) * axes]) for n in range(header.shared_count))
        return cls(axes, peaks, _split(data, offsets + header.data_offset))

    def compile(self) -> bytes:
        size = sum(map(len, self.glyphs))
        long = size + len(self.glyphs) > _SHORT_REACH
        body, offsets = join(self.glyphs, 1 if long else 2)
        stored = offsets.astype(">u4") if long else (offsets // 2).astype(">u2")
        shared = Writer()
        for peak in self.shared_peaks:
            shared.i16(*peak)
        start = _Header.LAYOUT.size + stored.nbytes
        header = _Header(
            axis_count=self.axis_count,
            shared_count=len(self.shared_peaks),
            shared_offset=start,
            glyph_count=len(self.glyphs),
            flags=_LONG_OFFSETS if long else 0,
            data_offset=start + len(shared),
        )
        return header.compile() + stored.tobytes() + bytes(shared) + body

    def variations(self, glyph: int, points: int, work: Work | None = None) -> tuple[TupleVariation, ...]:
        """The variations of a glyph of `points` points (of a composite one: components), and four phantom points.

        `work` is what may still be done for this glyph and others. Raises `FontError` for data that break the format.
        """
        if glyph >= len(self.glyphs) or not self.glyphs[glyph]:
            return ()
        with located(table=self.TAG, glyph=glyph):
            reader = Reader(self.glyphs[glyph], 0, work)
            return parse_tuples(reader, 0, self.axis_count, points, 2, self.shared_peaks)

    def of_glyphs(self, glyf: Glyf, glyphs: Iterable[int], work: Work | None = None) -> list[GlyphVariations]:
        """The variations of these glyphs that move anything, with the outlines that they move.

        `work` is what may still be done for them, and for others.
        """
        listed = list(glyphs)
        outlines = glyf.outlines(listed)
        work = work or Work(sum(map(len, self.glyphs)))
        return [
            GlyphVariations(outline, self.variations(glyph, outline.point_count, work))
            for glyph, outline in zip(listed, outlines, strict=True)
        ]

    @classmethod
    def of(cls, axis_count: int, glyphs: Sequence[Sequence[TupleVariation]]) -> Self:
        """The table for these variations of each glyph; peaks that several tuples have are shared."""
        uses = Counter(variation.peak for variations in glyphs for variation in variations)
        ranked = sorted(uses, key=lambda peak: (-uses[peak], peak))
        peaks = [peak for peak in ranked if uses[peak] > 1][:MAX_SHARED_PEAKS]
        numbers = {peak: index for index, peak in enumerate(peaks)}
        compiled: list[bytes] = []
        for start in range(0, len(glyphs), _AT_ONCE):
            some = glyphs[start : start + _AT_ONCE]
            packed = iter(_packed([variation for variations in some for variation in variations]))
            compiled += [
                compile_tuples(variations, numbers, [next(packed) for _ in variations]) if variations else b""
                for variations in some
            ]
        return cls(axis_count, tuple(peaks), compiled)

    def subset(self, context: SubsetContext) -> Self | None:
        """The variations of the kept glyphs, in as few bytes as possible; None if none of them varies."""
        glyf = context.original(Glyf)
        if glyf is None:
            return None
        order = context.glyphs.order
        kept = [old for old in order if old is not None]
        work = Work(sum(map(len, self.glyphs)))
        found: dict[int, tuple[TupleVariation, ...]] = {}
        # Some at a time: the deltas of all would take a hundred times their bytes.
        for start in range(0, len(kept), _AT_ONCE):
            some = kept[start : start + _AT_ONCE]
            found.update(zip(some, sparse_variations(self.of_glyphs(glyf, some, work)), strict=True))
        return self.of(self.axis_count, [found[old] if old is not None else () for old in order])


def _split(data: bytes, offsets: Ints) -> list[bytes]:
    """Each glyph's bytes."""
    backwards = np.flatnonzero((np.diff(offsets) < 0) | (offsets[1:] > len(data)))
    if len(backwards):
        glyph = int(backwards[0])
        raise FontError("its variations lie beyond the end of the table", glyph=glyph, offset=int(offsets[glyph]))
    return [data[start:end] for start, end in pairwise(offsets.tolist())]


def _packed(variations: Sequence[TupleVariation]) -> list[bytes]:
    """The packed deltas of each, all packed at once."""
    if not variations:
        return []
    values = np.concatenate([variation.deltas.T.reshape(-1) for variation in variations])
    counts = np.repeat([len(variation.deltas) for variation in variations], 2)
    data, sizes = write_deltas(values, counts)
    sizes = sizes.reshape(-1, 2).sum(axis=1)
    return [data[start : start + size] for start, size in zip(starts_of(sizes).tolist(), sizes.tolist(), strict=True)]

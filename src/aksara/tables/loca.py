"""'loca': where each glyph lies in 'glyf' (OpenType 1.9.1)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.head import Head
from aksara.tables.maxp import Maxp
from aksara.tables.record import ArrayRecord

_SHORT_LIMIT = 0x1FFFE


@dataclass(slots=True, frozen=True, eq=False)
class Loca(ArrayRecord):
    """Byte offsets of the glyphs, one more than there are glyphs."""

    TAG: ClassVar[str] = "loca"

    offsets: NDArray[np.int64]
    long: bool

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Loca:
        long = font.table(Head).index_to_loc_format == 1
        wanted, stored = font.table(Maxp).num_glyphs + 1, len(data) // (4 if long else 2)
        # Fonts with one offset too few exist: their last glyph is taken to be empty, as browsers do.
        count = wanted if stored != wanted - 1 else stored
        reader = Reader(data)
        kind = np.dtype(np.uint32) if long else np.dtype(np.uint16)
        offsets = reader.array(kind, count, "glyph offsets").astype(np.int64) * (1 if long else 2)
        backwards = np.flatnonzero(np.diff(offsets) < 0)
        if len(backwards):
            raise FontError(
                f"glyph {int(backwards[0])} ends before it starts", offset=int(backwards[0]) * (4 if long else 2)
            )
        if count < wanted:
            offsets = np.append(offsets, offsets[-1:])
        return cls(offsets, long)

    @classmethod
    def of_sizes(cls, sizes: list[int], *, long: bool = False) -> Loca:
        """For glyphs of these sizes, one after the other: in the short form (for even sizes) if it reaches."""
        offsets = np.cumsum([0, *sizes]).astype(np.int64)
        return cls(offsets, long or bool(offsets[-1] > _SHORT_LIMIT))

    def compile(self) -> bytes:
        if self.long:
            return self.offsets.astype(">u4").tobytes()
        return (self.offsets // 2).astype(">u2").tobytes()

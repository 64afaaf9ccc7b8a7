"""'cvar': how the control values of hinted outlines change along the axes (OpenType 1.9.1)."""

from __future__ import annotations

from typing import ClassVar, Self

import numpy as np

from aksara.binary import Reader, Writer
from aksara.errors import FontError
from aksara.tables.base import FontTables, Table
from aksara.tables.fvar import Fvar
from aksara.tables.subsetting import SubsetScope
from aksara.tables.variation.packed import write_deltas
from aksara.tables.variation.tuples import TupleVariation, compile_tuples, parse_tuples

_VERSION = 0x00010000
_HEADER_SIZE = 4
_VALUES = "cvt "


class Cvar(Table, frozen=True):
    """The variations of the control values of 'cvt '."""

    TAG: ClassVar[str] = "cvar"
    IS_HINTING: ClassVar[bool] = True

    variations: tuple[TupleVariation, ...]

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = Reader(data)
        if reader.u32() >> 16 != 1:
            raise FontError("its version does not exist")
        count = len(font.raw(_VALUES)) // 2 if _VALUES in font else 0
        return cls(parse_tuples(reader, 0, len(font.table(Fvar).axes), count, 1))

    def compile(self) -> bytes:
        packed = [
            write_deltas(variation.deltas[:, 0], np.array([len(variation.deltas)]))[0] for variation in self.variations
        ]
        return bytes(Writer().u32(_VERSION)) + compile_tuples(self.variations, {}, packed, _HEADER_SIZE)

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        if _VALUES not in scope.tags:
            return "there are no control values that it could change"
        # Plain super() does not work in a class of slots that a decorator has made again.
        return super().reason_to_drop(scope)

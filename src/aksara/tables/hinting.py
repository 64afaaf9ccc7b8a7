"""'fpgm' and 'cvt ': what the programs of all glyphs share, functions and control values (OpenType 1.9.1).

Makers give every font the same library of functions, of which it uses a few. Those that no program can come to are
emptied, and control values that none can use become 0; numbers and indices stay.
"""

from __future__ import annotations

import itertools
from typing import ClassVar, Self

from aksara.tables.base import FontTables, Table
from aksara.tables.glyf import Glyf
from aksara.tables.subsetting import SubsetContext
from aksara.truetype.programs import ProgramUse, without_functions

_PREPARATION, _VARIATIONS = "prep", "cvar"
_VALUE = 2


class _Bytes(Table, frozen=True):
    """A table that is kept as bytes until it is cut down."""

    IS_HINTING: ClassVar[bool] = True

    data: bytes

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        return cls(data)

    def compile(self) -> bytes:
        return self.data


class FontProgram(_Bytes, frozen=True):
    """The program that defines the functions, as its bytes."""

    TAG: ClassVar[str] = "fpgm"

    def subset(self, context: SubsetContext) -> Self:
        """Without the bodies of functions that no program of the kept glyphs can call."""
        use = _use(context)
        if use is None:
            return self
        return type(self)(without_functions(self.data, use.functions, use.functions.keys() - use.called))


class ControlValues(_Bytes, frozen=True):
    """The control values, 16 bits each, as their bytes."""

    TAG: ClassVar[str] = "cvt "

    def subset(self, context: SubsetContext) -> Self:
        """With 0 for each that no program of the kept glyphs can use."""
        use = _use(context)
        if use is None or use.control_values is None or _VARIATIONS in context.source:
            return self
        values = bytearray(self.data)
        for index in range(len(values) // _VALUE):
            if index not in use.control_values:
                values[_VALUE * index : _VALUE * (index + 1)] = bytes(_VALUE)
        return type(self)(bytes(values))


def _use(context: SubsetContext) -> ProgramUse | None:
    """What the programs of the kept glyphs use; None if that is unknown."""
    return context.once("use of programs", lambda: _found_use(context))


def _found_use(context: SubsetContext) -> ProgramUse | None:
    glyf, program = context.subset(Glyf), context.original(FontProgram)
    if glyf is None or program is None:
        return None
    use = ProgramUse(program.data)
    # Programs of glyphs first: they are the most likely to be unclear.
    preparation = (context.source.raw(_PREPARATION),) if _PREPARATION in context.source else ()
    for code in itertools.chain(glyf.programs(), preparation):
        if not use.known:
            return None
        use.run(code)
    return use if use.known else None

"""CFF2 charstrings: like those of type 2, but for numbers that vary, and without widths and ends (OpenType 1.9.1,
"CFF2 charstring format")."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import ClassVar, Self

from aksara.errors import FontError
from aksara.tables.cff.charstrings import Runner, State, count_numbers, whole_value
from aksara.tables.cff.grammar import NUMBER, NUMBERS

VARIATION_DATA, BLEND = 15, 16
# As in `charstrings`, but 15 and 16 say how numbers vary, and what ended glyphs and subroutines has no meaning.
_DRAWING = rb"(?:[\x00\x02\x04-\x09\x0b\x0d\x0e\x11\x15\x16\x18-\x1b\x1e\x1f]|\x0c[\x00\x22-\x25])"
_STEP = re.compile(rb"((?:" + NUMBER + rb"*+" + _DRAWING + rb")*+)(" + NUMBER + rb"*+)", re.DOTALL)


class _VariableState(State):
    """`variation_data` is by which item variation data numbers vary, `last` the number that was pushed last."""

    variation_data: int = 0
    last: int | None = None


class VariableRunner(Runner):
    """Runs CFF2 charstrings.

    `region_counts` says for each item variation data in how many regions it has; `defaults` by which data the glyphs of
    each font dictionary vary unless they say otherwise.
    """

    STEP: ClassVar[re.Pattern[bytes]] = _STEP
    CLOSING: ClassVar[bytes] = b""
    HAS_WIDTHS: ClassVar[bool] = False
    EMPTY_GLYPH: ClassVar[bytes] = b""

    def __init__(
        self,
        charstrings: Sequence[bytes],
        local: Sequence[Sequence[bytes]],
        shared: Sequence[bytes],
        region_counts: Sequence[int],
        defaults: Sequence[int],
    ) -> None:
        super().__init__(charstrings, local, shared)
        self._region_counts = region_counts
        self._defaults = defaults

    def fresh(self) -> Self:
        return type(self)(self.charstrings, self.local, self.shared, self._region_counts, self._defaults)

    def start(self, font_dict: int) -> State:
        return _VariableState(font_dict, width_seen=True, variation_data=self._defaults[font_dict])

    def operate(self, operator: int, data: bytes, offset: int, numbers: bytes, state: State, hints: bool) -> int:
        assert isinstance(state, _VariableState)
        if operator not in (VARIATION_DATA, BLEND):
            return super().operate(operator, data, offset, numbers, state, hints)
        self.work.spend_bulk(len(state.out) - state.stack_at)
        pushed = NUMBERS.findall(numbers or bytes(state.out[state.stack_at :]))
        if not pushed:
            raise FontError("it blends, or says how, without a number")
        last = whole_value(pushed[-1])
        depth = state.depth + count_numbers(numbers)
        state.out.append(operator)
        if operator == VARIATION_DATA:
            state.variation_data, state.depth = last, 0
            state.stack_at = len(state.out)
            return offset + 1
        state.depth = depth - 1 - last * self._regions(state.variation_data)
        if last < 0 or state.depth < last:
            raise FontError("it has too few numbers to blend")
        return offset + 1

    def _regions(self, variation_data: int) -> int:
        if not 0 <= variation_data < len(self._region_counts):
            raise FontError(
                f"it varies by item variation data {variation_data}, but there are {len(self._region_counts)}"
            )
        return self._region_counts[variation_data]

"""Type 2 charstrings: the outlines of CFF glyphs, as far as subsetting needs (Adobe Technical Note 5177).

A charstring is numbers and operators. Which of its bytes are operators can
only be told by running it: the length of a hint mask depends on the stems
before it, perhaps in a subroutine. `Runner` runs charstrings without drawing
and writes them out with every subroutine in place of its call; it notes where
calls stand, so that charstrings can be written with chosen subroutines, too (`subroutines`).
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from typing import ClassVar, Literal, NamedTuple, Self

from msgspec import Struct, field

from aksara.errors import BeyondBounds, FontError, located
from aksara.limits import BULK, MAX_CALL_DEPTH, MAX_KNOWN_CALLS, Work
from aksara.tables.cff.grammar import NUMBER, NUMBERS, check_charstring

CALL_LOCAL, RETURN, _ESCAPE, _ENDCHAR, CALL_GLOBAL = 10, 11, 12, 14, 29
#: The charstring of a glyph that draws nothing.
EMPTY_GLYPH = bytes((_ENDCHAR,))
_STEMS, _MASKS = frozenset((1, 3, 18, 23)), frozenset((19, 20))
#: Bytes of real charstrings for each that a step through them takes; fewer in small fonts.
_BYTES_PER_STEP = 8
#: Numbers on the stack; the specification has 48, variable fonts 513.
_MAX_STACK = 513


#: A charstring that composes two glyphs has four numbers, perhaps a width, and perhaps stems; it may call for these.
#: What is behind a mask is not looked at.
_LONGEST_COMPOSED = 64
_MAY_BE_COMPOSED = re.compile(
    rb"(?:" + NUMBER + rb"*+[\x01\x03\x0a\x0b\x0e\x12\x17\x1d])*+(?:" + NUMBER + rb"*+[\x13\x14].*+)?+", re.DOTALL
)

# Operators that empty the stack: moves, lines, curves, flexes, and codes without meaning, which renderers ignore.
_DRAWING = rb"(?:[\x00\x02\x04-\x09\x0d\x0f-\x11\x15\x16\x18-\x1b\x1e\x1f]|\x0c[\x00\x22-\x25])"
_STEP = re.compile(rb"((?:" + NUMBER + rb"*+" + _DRAWING + rb")*+)(" + NUMBER + rb"*+)", re.DOTALL)
_BEFORE_OPERATOR = re.compile(NUMBER + rb"*+", re.DOTALL)
# Of the operators that may come first, those with a fixed count of numbers (and a width), and those that take pairs.
_COUNTS_WITH_WIDTH = {0x15: 3, 0x16: 2, 0x04: 2, _ENDCHAR: 1}
_PAIRED = _STEMS | _MASKS
# What arithmetic operators (12 and this byte) leave more or less on the stack.
_ARITHMETIC = {
    **dict.fromkeys((3, 4, 10, 11, 12, 15, 18, 24), -1),
    **dict.fromkeys((5, 9, 14, 21, 26, 28, 29), 0),
    **{20: -2, 22: -3, 23: 1, 27: 1, 30: -2},
}


class Body(NamedTuple):
    """Names a charstring, or a local or global subroutine: its owner, font dictionary, and number."""

    owner: Literal["glyph", "local", "global"]
    font_dict: int
    number: int


class Call(NamedTuple):
    """A call in a body: the bytes from `start` (of the operand) to `end`, and the target."""

    start: int
    end: int
    target: Body


#: Of a call: the numbers that it leaves on the stack, the bytes of the one that it takes, and what is called.
_Target = tuple[int, int, Body]


class State(Struct):
    """Of one glyph: its bytes so far, numbers on the stack, stems.

    `stack_at` is where in `out` the stack's numbers start, `masks` where the bytes of hint masks start and end.
    """

    font_dict: int
    out: bytearray = field(default_factory=bytearray)
    depth: int = 0
    stems: int = 0
    stack_at: int = 0
    width_seen: bool = False
    accent: tuple[int, int] | None = None
    masks: list[tuple[int, int]] = field(default_factory=list)


def outline_size(charstrings: Sequence[bytes], local: Sequence[Sequence[bytes]], shared: Sequence[bytes]) -> int:
    """The bytes of charstrings and subroutines; of a large font it takes as long as cutting out a few glyphs."""
    return sum(map(len, charstrings)) + sum(map(len, itertools.chain(shared, *local)))


class Runner:
    """Runs the charstrings of one font. `local` are the subroutines of each font dictionary; `size` is the bytes of
    all these, if that is known (`outline_size`)."""

    #: Matches what can be skipped at once: numbers and operators that draw; then numbers before another operator.
    STEP: ClassVar[re.Pattern[bytes]] = _STEP
    #: What closes a subroutine.
    CLOSING: ClassVar[bytes] = bytes((RETURN,))
    HAS_WIDTHS: ClassVar[bool] = True
    EMPTY_GLYPH: ClassVar[bytes] = EMPTY_GLYPH

    def __init__(
        self,
        charstrings: Sequence[bytes],
        local: Sequence[Sequence[bytes]],
        shared: Sequence[bytes],
        size: int | None = None,
    ) -> None:
        self.charstrings = charstrings
        self.local = local
        self.shared = shared
        #: Body → the calls in it, and where it ends (a closing return is beyond). Glyphs without calls are left out.
        self.calls: dict[Body, tuple[Call, ...]] = {}
        self.ends: dict[Body, int] = {}
        #: Whether some body was cut into operators differently by different callers.
        self.ambiguous = False
        #: Bytes of the stems and masks that were come across.
        self.hint_bytes = 0
        # What was called before, by font dictionary, operator, and the numbers before it.
        self._targets: dict[tuple[int, int, bytes], _Target] = {}
        self._size = outline_size(charstrings, local, shared) if size is None else size
        self.work = Work(self._size // _BYTES_PER_STEP)

    def fresh(self) -> Self:
        """Another for the same charstrings, which has run nothing yet."""
        return type(self)(self.charstrings, self.local, self.shared, self._size)

    def run(self, glyph: int, font_dict: int, *, hints: bool = True) -> tuple[bytes, tuple[int, int] | None]:
        """The glyph's charstring without calls, and the codes of base and accent if it is composed of these.

        Without `hints` stems and masks are left out.
        """
        state = self.start(font_dict)
        with located(glyph=glyph):
            self._body(Body("glyph", 0, glyph), self.charstrings[glyph], state, 0, hints)
            if self.HAS_WIDTHS:
                check_charstring(bytes(state.out), state.masks, state.stems if hints else 0)
        return bytes(state.out), state.accent

    def accent(self, glyph: int) -> tuple[int, int] | None:
        """The codes of base and accent if the glyph of a font with one font dictionary is composed of these."""
        state = self.start(0)
        with located(glyph=glyph):
            self._body(Body("glyph", 0, glyph), self.charstrings[glyph], state, 0, hints=True)
        return state.accent

    def start(self, font_dict: int) -> State:
        """The state in which a charstring begins."""
        return State(font_dict, width_seen=not self.HAS_WIDTHS)

    def data(self, body: Body) -> bytes:
        """The bytes of a charstring or subroutine, as they were."""
        if body.owner == "glyph":
            return self.charstrings[body.number]
        return self.shared[body.number] if body.owner == "global" else self.local[body.font_dict][body.number]

    def _body(self, name: Body, data: bytes, state: State, nesting: int, hints: bool) -> bool:
        """Run one charstring or subroutine; False once the glyph has ended."""
        if nesting > MAX_CALL_DEPTH:
            raise FontError("its subroutines call one another too deeply")
        calls: list[Call] = []
        work = self.work
        offset = 0
        goes_on = True
        while True:
            step = self.STEP.match(data, offset)
            assert step is not None  # the pattern matches nothing, too
            drawn, numbers = step.groups()
            work.left -= 1 + (step.end() - offset) // BULK
            if work.left < 0:
                raise BeyondBounds
            if drawn:
                state.depth, state.width_seen = 0, True
                state.out += drawn
                state.stack_at = len(state.out)
            offset = step.end()
            operator = data[offset] if offset < len(data) else None
            if operator in (CALL_LOCAL, CALL_GLOBAL):
                known = state.font_dict, operator, numbers
                pushed, size, target = self._targets.get(known) or self._find_target(*known)
                state.depth += pushed
                if state.depth > _MAX_STACK:
                    raise FontError("it leaves more numbers on the stack than there is room for")
                offset += 1
                calls.append(Call(offset - 1 - size, offset, target))
                state.out += numbers[: len(numbers) - size]
                if not self._body(target, self.data(target), state, nesting + 1, hints):
                    goes_on = False
                    break
                continue
            state.out += numbers
            if operator is None or operator == RETURN:
                state.depth += count_numbers(numbers)
                break
            offset = self.operate(operator, data, offset, numbers, state, hints)
            if operator == _ENDCHAR and self.HAS_WIDTHS:
                goes_on = False
                break
        if calls or name.owner != "glyph":  # the others, most of a large font, are written as they are
            same_calls = self.calls.setdefault(name, tuple(calls)) == tuple(calls)
            self.ambiguous |= not same_calls or self.ends.setdefault(name, offset) != offset
        return goes_on

    def _find_target(self, font_dict: int, operator: int, numbers: bytes) -> _Target:
        """The target of a call with these operands."""
        pushed = NUMBERS.findall(numbers)
        if not pushed:
            raise FontError("it calls a subroutine without saying which")
        is_local = operator == CALL_LOCAL
        available = self.local[font_dict] if is_local else self.shared
        index = whole_value(pushed[-1]) + bias(len(available))
        if not 0 <= index < len(available):
            raise FontError(f"it calls subroutine {index}, but there are {len(available)}")
        target = Body("local", font_dict, index) if is_local else Body("global", 0, index)
        target_span = len(pushed) - 1, len(pushed[-1]), target
        if len(self._targets) < MAX_KNOWN_CALLS:
            self._targets[font_dict, operator, numbers] = target_span
        return target_span

    def operate(self, operator: int, data: bytes, offset: int, numbers: bytes, state: State, hints: bool) -> int:
        """An operator that is neither drawn nor a call; where the next step starts."""
        depth = state.depth + count_numbers(numbers)
        if operator == _ESCAPE:
            if offset + 1 >= len(data):
                raise FontError("it ends within an operator")
            state.out += data[offset : offset + 2]
            state.depth = max(depth + _ARITHMETIC.get(data[offset + 1], 0), 0)
            return offset + 2
        if operator == _ENDCHAR:
            if depth >= 4:
                tokens = NUMBERS.findall(bytes(state.out[state.stack_at :]))
                state.accent = (whole_value(tokens[-2]), whole_value(tokens[-1])) if len(tokens) >= 4 else None
            state.out.append(_ENDCHAR)
            return offset + 1
        end = offset + 1
        state.stems += depth // 2
        if operator in _MASKS:
            end += (state.stems + 7) // 8
            if end > len(data):
                raise FontError("it ends within a hint mask")
        self.work.spend_bulk(end - offset)
        # Of the numbers the first is the width, if their count is odd and no operator has come before.
        tokens = [] if state.width_seen else NUMBERS.findall(bytes(state.out[state.stack_at :]))
        width = tokens[0] if len(tokens) % 2 else b""
        self.hint_bytes += len(state.out) - state.stack_at - len(width) + end - offset
        if hints:
            state.masks.append((len(state.out) + 1, len(state.out) + end - offset))
            state.out += data[offset:end]
        else:
            del state.out[state.stack_at :]
            state.out += width
        state.depth, state.width_seen = 0, True
        state.stack_at = len(state.out)
        return end


def count_numbers(numbers: bytes) -> int:
    return len(NUMBERS.findall(numbers)) if numbers else 0


def whole_value(token: bytes) -> int:
    """The number that these bytes push; of a fraction the whole part."""
    first = token[0]
    if first == 28:
        return int.from_bytes(token[1:3], "big", signed=True)
    if first == 255:
        return int.from_bytes(token[1:3], "big", signed=True)
    if first <= 246:
        return first - 139
    if first <= 250:
        return (first - 247) * 256 + token[1] + 108
    return -(first - 251) * 256 - token[1] - 108


def without_width(charstring: bytes) -> bytes:
    """A charstring without calls, without the glyph's width before the numbers of its first operator (section 3.1)."""
    match = _BEFORE_OPERATOR.match(charstring)
    assert match is not None  # the pattern matches nothing, too
    numbers = NUMBERS.findall(match[0])
    first = charstring[match.end()] if match.end() < len(charstring) else None
    count = len(numbers)
    has_width = (
        count == _COUNTS_WITH_WIDTH[first] if first in _COUNTS_WITH_WIDTH else (first in _PAIRED and count % 2 == 1)
    )
    return charstring[len(numbers[0]) :] if has_width else charstring


def may_be_composed(charstring: bytes) -> bool:
    """Whether this glyph may be an accented composite: it must be short and draw nothing itself."""
    return len(charstring) < _LONGEST_COMPOSED and _MAY_BE_COMPOSED.fullmatch(charstring) is not None


def draws(charstring: bytes) -> bool:
    """Whether it does anything but end, perhaps behind a width."""
    step = _STEP.match(charstring)
    assert step is not None
    offset = step.end()
    return bool(step.group(1)) or (offset < len(charstring) and charstring[offset] not in (_ENDCHAR, RETURN))


def bias(count: int) -> int:
    """The bias added to subroutine numbers, by the number of subroutines (section 4.7)."""
    return 107 if count < 1240 else 1131 if count < 33900 else 32768

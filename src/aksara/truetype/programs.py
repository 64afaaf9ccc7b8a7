"""Which functions and control values TrueType programs can use (OpenType 1.9.1, "The TrueType instruction set").

Programs are run without a grid: numbers that are pushed are known, what depends on sizes and outlines is not, and both
ways of a condition are taken. So whatever a renderer comes to at any size, this comes to as well. Where it cannot tell
what is called, it gives up, and everything may be used.
"""

from __future__ import annotations

import operator
import struct
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import lru_cache

from msgspec import Struct, field

#: A number on the stack: known, one of a few, or anything.
Value = frozenset[int] | None
#: Numbers that one value may be, states that one place may be in, and calls in one another.
_MOST_VALUES, _MOST_STATES, _MAX_NESTING = 8, 8, 40
#: Instructions in all, and for each byte of the font program: as long as is worth what can be saved of it.
_MOST_STEPS, _STEPS_A_BYTE = 40_000, 25
#: How often a loop of unknown length is gone through until nothing changes any more.
_MOST_ROUNDS = 12

_NPUSHB, _NPUSHW, _PUSHB, _PUSHW, _PUSHW_END = 0x40, 0x41, 0xB0, 0xB8, 0xC0
_ELSE, _IF, _EIF, _FDEF, _ENDF, _CALL, _LOOPCALL = 0x1B, 0x58, 0x59, 0x2C, 0x2D, 0x2B, 0x2A
_DUP, _POP, _CLEAR, _SWAP, _DEPTH, _CINDEX, _MINDEX, _ROLL, _SLOOP = *range(0x20, 0x27), 0x8A, 0x17
_WS, _RS, _RCVT, _WCVTP, _WCVTF, _MIAP, _MIRP = 0x42, 0x43, 0x45, 0x44, 0x70, (0x3E, 0x3F), 0xE0
_DELTAC = (0x73, 0x74, 0x75)
_DELTAS = (0x5D, 0x71, 0x72, *_DELTAC)
# Instructions that take as many points as the loop variable says, and numbers in addition.
_LOOPS = {0x32: 0, 0x33: 0, 0x38: 1, 0x39: 0, 0x3C: 0, 0x80: 0}
_BINARY: dict[int, Callable[[int, int], int]] = {
    0x50: lambda a, b: a < b, 0x51: lambda a, b: a <= b, 0x52: lambda a, b: a > b, 0x53: lambda a, b: a >= b,
    0x54: lambda a, b: a == b, 0x55: lambda a, b: a != b, 0x5A: lambda a, b: bool(a and b),
    0x5B: lambda a, b: bool(a or b), 0x60: operator.add, 0x61: operator.sub, 0x8B: max, 0x8C: min,
}  # fmt: skip
_UNARY: dict[int, Callable[[int], int]] = {0x5C: operator.not_, 0x64: abs, 0x65: operator.neg}


def _effects() -> dict[int, tuple[int, int]]:
    """For all other instructions how many numbers they take and leave."""
    groups: dict[tuple[int, int], tuple[int, ...]] = {
        (0, 0): (*range(6), 0x0E, 0x18, 0x19, 0x30, 0x31, 0x3D, 0x4D, 0x4E, _EIF, 0x7A, 0x7C, 0x7D),
        (0, 1): (0x4B, 0x4C),
        (0, 2): (0x0C, 0x0D),
        (1, 0): (*range(0x10, 0x17), 0x1A, 0x1D, 0x1E, 0x1F, 0x29, 0x2E, 0x2F, *range(0x34, 0x38), 0x4F, 0x5E, 0x5F,
                 0x76, 0x77, 0x7E, 0x7F, 0x85, 0x8D, *range(0xC0, 0xE0)),
        (1, 1): (0x46, 0x47, 0x56, 0x57, *range(0x66, 0x70), 0x88),
        (2, 0): (*range(6, 12), 0x27, 0x3A, 0x3B, 0x48, 0x81, 0x82, 0x86, 0x87, 0x8E),
        (2, 1): (0x49, 0x4A, 0x62, 0x63),
        (5, 0): (0x0F,),
    }  # fmt: skip
    return {code: effect for effect, codes in groups.items() for code in codes}


_EFFECTS = _effects()


class _Unknown(Exception):
    """The effect of the programs cannot be worked out."""


class _State(Struct):
    """The stack, the loop variable, and the storage."""

    stack: list[Value] = field(default_factory=list)
    loop: Value = frozenset((1,))
    stored: dict[int, Value] = field(default_factory=dict)

    def copy(self) -> _State:
        return _State(self.stack[:], self.loop, dict(self.stored))

    def pop(self) -> Value:
        if not self.stack:
            raise _Unknown
        return self.stack.pop()

    def number(self) -> int:
        """The number on top, which must be known."""
        return _only(self.pop())

    def drop(self, count: int) -> None:
        if not 0 <= count <= len(self.stack):
            raise _Unknown
        if count:
            del self.stack[-count:]


class ProgramUse:
    """The functions and control values that a font's programs use.

    `functions` is function number → where its body starts and ends in the font program. `called` are the functions that
    were come to, `control_values` the indices that were (None: any). Nothing is raised: `known` tells whether all that
    was run was understood.
    """

    def __init__(self, font_program: bytes) -> None:
        self.functions: dict[int, tuple[int, int]] = {}
        self.called: set[int] = set()
        self.control_values: set[int] | None = set()
        self.known = True
        self._font_program = font_program
        self._steps = min(_MOST_STEPS, _STEPS_A_BYTE * len(font_program))
        # Of conditions in functions, which are come to many times, where they go on and end.
        self._branches: dict[int, tuple[int, int]] = {}
        try:
            self._define(font_program)
        except (_Unknown, IndexError, struct.error):
            self.known = False

    def run(self, program: bytes) -> None:
        """Run a glyph's program, or the control value program. What others may have stored is not known to it."""
        if not self.known:
            return
        try:
            self._run(program, 0, len(program), _State(), 0)
        except (_Unknown, IndexError, struct.error, RecursionError):
            self.known = False

    def _define(self, code: bytes) -> None:
        stack: list[int] = []
        offset = 0
        while offset < len(code):
            if code[offset] == _FDEF:
                end = _find(code, offset + 1, (_ENDF,), len(code))
                self.functions[stack.pop()] = offset + 1, end
                offset = end + 1
            else:
                stack += _pushed(code, offset)
                offset += _length(code, offset)

    def _run(self, code: bytes, offset: int, end: int, state: _State, nesting: int) -> list[_State]:
        """The states in which the instructions from `offset` to `end` can leave off."""
        while offset < end:
            self._steps -= 1
            if self._steps < 0 or nesting > _MAX_NESTING:
                raise _Unknown
            code_here = code[offset]
            at_next = offset + 1
            states: list[_State] | None = None
            # The commonest first.
            if code_here in _EFFECTS:
                taken, left = _EFFECTS[code_here]
                state.drop(taken)
                state.stack += [None] * left
            elif _PUSHB <= code_here < _PUSHW_END or code_here in (_NPUSHB, _NPUSHW):
                at_next = offset + _length(code, offset)
                state.stack += map(_known, _pushed(code, offset))
            elif code_here == _CALL:
                states = self._call(state.pop(), state, nesting)
            elif code_here == _LOOPCALL:
                function = state.pop()
                states = self._loop(function, state.pop(), state, nesting)
            elif code_here == _IF:
                at_next, states = self._branch(code, at_next, end, state, nesting)
            elif not (_move(code_here, state) or self._use_value(code_here, state)):
                raise _Unknown
            offset = at_next
            if states is not None and len(states) == 1:
                state = states[0]
            elif states is not None:
                return _joined([last for state in states for last in self._run(code, offset, end, state, nesting)])
        return [state]

    def _branch(self, code: bytes, offset: int, end: int, state: _State, nesting: int) -> tuple[int, list[_State]]:
        """The offset after the condition, and the states there."""
        condition = state.pop()
        known = self._branches if code is self._font_program else {}
        if offset not in known:
            branch_end = _find(code, offset, (_ELSE, _EIF), end)
            known[offset] = (
                branch_end,
                _find(code, branch_end + 1, (_EIF,), end) if code[branch_end] == _ELSE else branch_end,
            )
        middle, last = known[offset]
        states: list[_State] = []
        if condition is None or any(condition):
            states += self._run(code, offset, middle, state.copy(), nesting + 1)
        if condition is None or not all(condition):
            other = (middle + 1, last) if last != middle else (last, last)
            states += self._run(code, *other, state.copy(), nesting + 1)
        return last + 1, _joined(states)

    def _call(self, function: Value, state: _State, nesting: int) -> list[_State]:
        if function is None or not function <= self.functions.keys():
            raise _Unknown
        self.called |= function
        states = []
        for function_number in sorted(function):
            own = state.copy() if len(function) > 1 else state
            states += self._run(self._font_program, *self.functions[function_number], own, nesting + 1)
        return _joined(states)

    def _loop(self, function: Value, count: Value, state: _State, nesting: int) -> list[_State]:
        states = [state]
        if count is not None and len(count) == 1:
            for _ in range(_only(count)):
                states = _joined([last for state in states for last in self._call(function, state, nesting)])
            return states
        # It may end after any round.
        for _ in range(_MOST_ROUNDS):
            before = [state.copy() for state in states]
            after = [last for state in states for last in self._call(function, state, nesting)]
            states = _joined([*before, *after])
            if states == before:
                return states
        raise _Unknown

    def _use_value(self, code: int, state: _State) -> bool:
        """Carry out what reads or writes a control value; False if it is another instruction."""
        if code in _DELTAS:
            for _ in range(state.number()):
                index = state.pop()
                state.pop()
                if code in _DELTAC:
                    self._note(index)
        elif code == _RCVT:
            self._note(state.pop())
            state.stack.append(None)
        elif code in (_WCVTP, _WCVTF):
            state.pop()
            self._note(state.pop())
        elif code in _MIAP or code >= _MIRP:
            self._note(state.pop())
            state.pop()
        else:
            return False
        return True

    def _note(self, index: Value) -> None:
        if index is None:
            self.control_values = None
        elif self.control_values is not None:
            self.control_values |= index


def _move(code: int, state: _State) -> bool:
    """Carry out what only moves or reckons with numbers; False if it is another instruction."""
    stack = state.stack
    if code in _BINARY:
        second, first = state.pop(), state.pop()
        stack.append(_reckoned(_BINARY[code], first, second))
    elif code in _UNARY:
        stack.append(_reckoned(lambda number, _: _UNARY[code](number), state.pop(), frozenset((0,))))
    elif code == _DUP:
        value = state.pop()
        stack += [value, value]
    elif code == _POP:
        state.pop()
    elif code == _CLEAR:
        stack.clear()
    elif code == _SWAP:
        second, first = state.pop(), state.pop()
        stack += [second, first]
    elif code == _DEPTH:
        stack.append(frozenset((len(stack),)))
    elif code in (_CINDEX, _MINDEX):
        where = state.number()
        if not 0 < where <= len(stack):
            raise _Unknown
        stack.append(stack[-where] if code == _CINDEX else stack.pop(-where))
    elif code == _ROLL:
        third, second, first = state.pop(), state.pop(), state.pop()
        stack += [second, third, first]
    elif code == _SLOOP:
        state.loop = state.pop()
    elif code in _LOOPS:
        state.drop(_LOOPS[code] + _only(state.loop))
        state.loop = frozenset((1,))
    elif code == _WS:
        value, address = state.pop(), state.pop()
        if address is None or len(address) != 1:
            state.stored = {}
        else:
            state.stored[_only(address)] = value
    elif code == _RS:
        address = state.pop()
        stack.append(state.stored.get(_only(address)) if address is not None and len(address) == 1 else None)
    else:
        return False
    return True


@lru_cache(maxsize=4096)
def _known(value: int) -> Value:
    return frozenset((value,))


def _only(value: Value) -> int:
    """The number that a value is. Raises `_Unknown` if it may be another."""
    if value is None or len(value) != 1:
        raise _Unknown
    (known,) = value
    return known


def _reckoned(function: Callable[[int, int], int], first: Value, second: Value) -> Value:
    if first is None or second is None or len(first) * len(second) > _MOST_VALUES:
        return None
    return frozenset(int(function(a, b)) for a in first for b in second)


def _joined(states: Iterable[_State]) -> list[_State]:
    """The states, those of one depth of the stack as one."""
    by_depth: dict[int, _State] = {}
    for state in states:
        depth = len(state.stack)
        by_depth[depth] = _one(by_depth[depth], state) if depth in by_depth else state
    if len(by_depth) > _MOST_STATES:
        raise _Unknown
    return list(by_depth.values())


def _one(first: _State, second: _State) -> _State:
    stack = first.stack[:]
    if stack != second.stack:
        stack = [_either(a, b) for a, b in zip(first.stack, second.stack, strict=True)]
    addresses = first.stored.keys() & second.stored.keys()
    stored = {address: _either(first.stored[address], second.stored[address]) for address in addresses}
    return _State(stack, _either(first.loop, second.loop), stored)


def _either(first: Value, second: Value) -> Value:
    if first is second or first is None or second is None:
        return first if first is second else None
    both = first | second
    return both if len(both) <= _MOST_VALUES else None


def _length(code: bytes, offset: int) -> int:
    """The size of an instruction, with the values it pushes."""
    here = code[offset]
    if here == _NPUSHB:
        return 2 + code[offset + 1]
    if here == _NPUSHW:
        return 2 + 2 * code[offset + 1]
    if _PUSHB <= here < _PUSHW:
        return 2 + here - _PUSHB
    return 3 + 2 * (here - _PUSHW) if _PUSHW <= here < _PUSHW_END else 1


def _pushed(code: bytes, offset: int) -> Sequence[int]:
    """The numbers that an instruction pushes. Raises `_Unknown` if it is no push."""
    here = code[offset]
    end = offset + _length(code, offset)
    if end > len(code):
        raise _Unknown
    if here == _NPUSHB or _PUSHB <= here < _PUSHW:
        return code[offset + (2 if here == _NPUSHB else 1) : end]
    if here == _NPUSHW or _PUSHW <= here < _PUSHW_END:
        start = offset + (2 if here == _NPUSHW else 1)
        return struct.unpack(f">{(end - start) // 2}h", code[start:end])
    raise _Unknown


def _find(code: bytes, offset: int, wanted: tuple[int, ...], end: int) -> int:
    """The offset of the first of these instructions outside nested conditions."""
    depth = 0
    while offset < end:
        here = code[offset]
        if not depth and here in wanted:
            return offset
        depth += (here == _IF) - (here == _EIF)
        offset += _length(code, offset)
    raise _Unknown


def without_functions(font_program: bytes, functions: Mapping[int, tuple[int, int]], gone: Iterable[int]) -> bytes:
    """The font program with these functions empty; they keep their numbers."""
    cuts = sorted(functions[function_number] for function_number in gone)
    out, offset = bytearray(), 0
    for start, end in cuts:
        out += font_program[offset:start]
        offset = end
    return bytes(out + font_program[offset:])

"""Small fonts with Apple's tables."""

from __future__ import annotations

import struct
from collections.abc import Mapping

from aksara.binary import pad4
from comparison import IDLE_PROGRAM
from fonts import box, small_font, words

A, B, C, D = 1, 2, 3, 4


# Glyphs without a character, but for the last one.
FORM, OTHER, PAIR, TRIPLE, PUT_IN, NEVER, ENCODED = range(5, 12)


CHARACTERS = {0x41: A, 0x42: B, 0x43: C, 0x44: D, 0x58: ENCODED}


#: Entries of a state table: (state, class of the glyph) → (next state, flags, the entry's own words).
Entries = Mapping[tuple[int, int], tuple[int, int, tuple[int, ...]]]


def lookup(values: Mapping[int, int]) -> bytes:
    """Format 6: single glyphs, with the one that ends a search."""
    body = b"".join(words(glyph, value) for glyph, value in sorted(values.items()))
    return words(6, 4, len(values), 0, 0, 0) + body + words(0xFFFF, 0)


def machine(classes: Mapping[int, int], entries: Entries, states: int, none: tuple[int, ...], *more: bytes) -> bytes:
    """A state table of extended form, with further parts behind it, each with an offset of 32 bits."""
    count = 1 + max(classes.values())
    listed = [(0, 0, none), *entries.values()]
    numbers = {key: number for number, key in enumerate(entries, 1)}
    rows = words(*(numbers.get((state, each), 0) for state in range(states) for each in range(count)))
    table = b"".join(words(after, flags, *own) for after, flags, own in listed)
    parts = [lookup(classes), rows, table, *more]
    head = 4 + 4 * len(parts)
    offsets, at = [], head
    for part in parts:
        offsets.append(at)
        at += len(part) + -len(part) % 4
    header = struct.pack(f">{1 + len(offsets)}I", count, *offsets)
    return header + b"".join(map(pad4, parts))


def morx(*subtables: tuple[int, bytes]) -> bytes:
    """One chain, whose subtables always apply."""
    body = b"".join(struct.pack(">III", 12 + len(data), kind, 1) + data for kind, data in subtables)
    head = struct.pack(">IIII", 1, 16 + 12 + len(body), 1, len(subtables)) + struct.pack(">HHII", 0, 0, 1, 0xFFFFFFFF)
    return struct.pack(">HHI", 2, 0, 1) + head + body


SINGLE = (4, lookup({A: FORM, B: OTHER, D: ENCODED, NEVER: PAIR}))


#: A before B becomes another form; so does B behind A.
CONTEXT = (1, machine(
    {A: 4, B: 5},
    {(0, 4): (2, 0x8000, (0xFFFF, 0xFFFF)), (2, 5): (0, 0, (0, 1)), (1, 4): (2, 0x8000, (0xFFFF, 0xFFFF))},
    3, (0xFFFF, 0xFFFF),
    struct.pack(">II", 8, 8 + len(lookup({A: FORM}))) + lookup({A: FORM}) + lookup({B: OTHER, C: NEVER}),
))  # fmt: skip


#: A B becomes one, A B C another one.
LIGATURE = (2, machine(
    {A: 4, B: 5, C: 6},
    {(0, 4): (2, 0x8000, (0,)), (2, 5): (3, 0x8000, (0,)), (3, 6): (0, 0xA000, (2,)), (1, 4): (2, 0x8000, (0,)),
     (3, 1): (0, 0x6000, (0,)), (3, 4): (0, 0x6000, (0,)), (3, 0): (0, 0x2000, (0,))},
    4, (0,),
    # The actions go from the last component to the first: A B, then A B C.
    struct.pack(">IIIII", 0, 0x80000000, 0, 0, 0x80000000),
    # What A, B and C add up to.
    words(0, 0, 0, 1),
    words(PAIR, TRIPLE),
))  # fmt: skip


INSERTION = (5, machine(
    {C: 4}, {(0, 4): (0, 1 << 5, (0, 0xFFFF)), (1, 4): (0, 1 << 5, (0, 0xFFFF))}, 2, (0xFFFF, 0xFFFF), words(PUT_IN),
))  # fmt: skip


def apple_font(*subtables: tuple[int, bytes]) -> bytes:
    glyphs = [box(100 + 40 * number, 300 + 30 * number)[0] for number in range(ENCODED + 1)]
    return small_font(CHARACTERS, glyphs, extra={"morx": morx(*subtables), "prep": IDLE_PROGRAM})

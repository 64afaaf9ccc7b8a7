"""Damaging fonts as an attacker or a bad disk would: single tables, with checksums mended, so that what is wrong is met
by whoever reads the table, not by the directory."""

from __future__ import annotations

import random
import re
from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from aksara.container import sfnt
from aksara.font import Font
from aksara.tables import Cff

_WORDS = (0, 1, 2, 3, 0x7F, 0x80, 0xFF, 0x100, 0x7FFF, 0x8000, 0xFFFE, 0xFFFF)


def mutants(data: bytes, seed: int, tags: Sequence[str] = ()) -> Iterator[tuple[str, bytes]]:
    """Copies of an sfnt font without end, each with one or a few tables changed, and what was done to it.

    `tags` are the tables to change, all if there are none.
    """
    flavour, tables = sfnt.read(data)
    chance = random.Random(seed)
    names = sorted(tag for tag in tables if not tags or tag in tags)
    while True:
        changed, done = dict(tables), []
        for _ in range(chance.choice((1, 1, 1, 2, 3))):
            tag = chance.choice(names)
            what, changed[tag] = _changed(changed.get(tag, b""), chance)
            done.append(f"{tag}: {what}")
            if what == "gone":
                del changed[tag]
        yield "; ".join(done), sfnt.write(changed, flavour)


def _changed(table: bytes, chance: random.Random) -> tuple[str, bytes]:
    size = len(table)
    if not size or chance.random() < 0.02:
        return "gone", b""
    kind = chance.randrange(10)
    # What says how the rest is laid out stands at the beginning.
    at = chance.randrange(min(size, 64)) if chance.random() < 0.5 else chance.randrange(size)
    if kind < 3:
        value = chance.choice((0, 1, 0x7F, 0x80, 0xFF, chance.randrange(256)))
        return f"byte {at} is {value}", table[:at] + bytes((value,)) + table[at + 1 :]
    if kind < 7:
        at -= at % 2
        value = chance.choice((*_WORDS, chance.randrange(0x10000)))
        if chance.random() < 0.4:
            value = int.from_bytes(table[at : at + 2], "big") + chance.choice((-2, -1, 1, 2)) & 0xFFFF
        return f"word {at} is {value}", (table[:at] + value.to_bytes(2, "big") + table[at + 2 :])[: max(size, 2)]
    if kind == 7:
        return f"cut at {at}", table[:at]
    if kind == 8:
        length = chance.choice((1, 2, 4, 12))
        return f"{length} more at {at}", table[:at] + table[at : at + length] + table[at:]
    length = chance.choice((2, 4, 8, 32))
    return f"{length} zeros at {at}", table[:at] + bytes(min(length, size - at)) + table[at + length :]


def charstring_mutants(data: bytes, seed: int) -> Iterator[tuple[str, bytes]]:
    """Copies of a font with PostScript outlines, in each of which one charstring has other operators or numbers."""
    chance = random.Random(seed)
    font = Font.read(data)
    cff = font.table(Cff)
    while True:
        charstrings = list(cff.charstrings)
        place = chance.randrange(len(charstrings))
        changed = bytearray(charstrings[place])
        for _ in range(chance.choice((1, 1, 2))):
            at = chance.randrange(len(changed) + 1)
            escaped, plain = b"\x0c" + bytes((chance.randrange(45),)), bytes((chance.randrange(32),))
            changed[at : at + chance.choice((0, 0, 1, 3))] = chance.choice((escaped, plain, b"\x8b" * 9))
        charstrings[place] = bytes(changed)
        whole = font.with_tables([replace(cff, charstrings=charstrings)])
        yield f"charstring {place}: {changed.hex()}", whole.write("sfnt")


def loca_mutants(data: bytes, seed: int) -> Iterator[tuple[str, bytes]]:
    """Copies of a font with TrueType outlines whose 'loca' is a little too short, and often 'glyf', too."""
    chance = random.Random(seed)
    flavour, tables = sfnt.read(data)
    while True:
        loca, glyf = tables["loca"], tables["glyf"]
        shorter = loca[: -chance.choice((1, 2, 4))]
        end = chance.choice((len(glyf), chance.randrange(len(glyf))))
        yield f"loca {len(shorter)}, glyf {end}", sfnt.write(tables | {"loca": shorter, "glyf": glyf[:end]}, flavour)


def changed_bytes(data: bytes, chance: random.Random) -> bytes:
    """A copy with a few bytes changed, or cut short."""
    for _ in range(chance.choice((1, 1, 2, 5))):
        data = _changed(data, chance)[1] or data
    return data


#: What parsers of texts are surprised by.
_ODD = (
    *(
        "\0",
        "\x1b",
        "\ufeff",
        "\ud800",
        "\u202e",
        "\U0010ffff",
        "9" * 40,
        "9" * 5_000,
        "-1",
        "1e999",
        "\n",
        "calc(",
        "var(--x)",
    ),
    *("{", "}", "[", "]", "(", '"', "'", "\\", "/*", "<!--", "<", ">", "&", "&#x110000;", "@", ":", ";", "!", "#", "="),
)


def spliced(texts: Sequence[str], seed: int) -> Iterator[str]:
    """Texts without end, put together from pieces of these, with odd ones among them."""
    chance = random.Random(seed)
    pieces = [re.findall(r"\w+|\s+|[^\w\s]", text) for text in texts]
    while True:
        tokens = list(chance.choice(pieces))
        for _ in range(chance.choice((1, 2, 4, 12))):
            at = chance.randrange(len(tokens) + 1)
            kind = chance.randrange(5)
            if kind == 0:
                del tokens[at : at + chance.choice((1, 3, 30))]
            elif kind == 1:
                other = chance.choice(pieces)
                start = chance.randrange(len(other))
                tokens[at:at] = other[start : start + chance.choice((1, 5, 40))]
            elif kind == 2:
                tokens[at:at] = tokens[at : at + chance.choice((1, 4))] * chance.choice((2, 20))
            else:
                tokens.insert(at, chance.choice(_ODD) * chance.choice((1, 1, 3)))
        yield "".join(tokens)

"""Fonts and ZIPs that claim far more than they hold, as someone would make them who means harm."""

from __future__ import annotations

import io
import struct
import zipfile
from collections.abc import Callable

import brotli
from msgspec.structs import replace

from aksara.binary import Reader
from aksara.container import sfnt
from aksara.container.woff2.directory import base128, read_entry
from aksara.font import Font
from aksara.tables import Cff
from aksara.tables.cff.charstrings import bias
from aksara.tables.cff.dicts import write_integer
from fonts import DEMO_SLABS, box, small_font, words


def _with(**tables: bytes) -> bytes:
    """The small font with these tables added, or in place of its own; `OS_2` is 'OS/2'."""
    return small_font(extra={tag.replace("_", " ").ljust(4): data for tag, data in tables.items()})


def _glyphs(count: int) -> list[bytes]:
    return [box(400)[0]] * 4 + [b""] * (count - 5) + [box(400)[0]]


def _cff(charstrings: list[bytes], subroutines: list[bytes]) -> bytes:
    font = Font.read(DEMO_SLABS[0].read_bytes())
    cff = font.table(Cff)
    plain = [replace(each, subroutines=[]) for each in cff.font_dicts[:1]]
    padded = (charstrings + [b"\x0e"] * len(cff.charstrings))[: len(cff.charstrings)]
    changed = replace(cff, charstrings=padded, subroutines=subroutines, font_dicts=plain)
    return font.with_tables([changed]).write("sfnt")


def _call(number: int, subroutines: int) -> bytes:
    return write_integer(number - bias(subroutines)) + b"\x1d"


def calls_that_multiply() -> bytes:
    levels = 14
    bodies = [_call(number + 1, levels + 1) * 10 + b"\x0b" for number in range(levels)]
    return _cff([b"\x0e", _call(0, levels + 1) + b"\x0e"], [*bodies, b"\x0b"])


def many_calls() -> bytes:
    return _cff([_call(0, 1) * 16_000 + b"\x0e"] * 25, [b"\x0b"])


def many_stems() -> bytes:
    return _cff([(b"\x8b\x8b\x01") * 20_000 + b"\x0e"] * 60, [])


def drawings_that_multiply() -> bytes:
    line = write_integer(5) * 2 + b"\x05"
    bodies = [_call(number + 1, 9) * 10 + b"\x0b" for number in range(8)]
    return _cff([b"\x0e", _call(0, 9) + b"\x0e"] * 2, [*bodies, line * 100 + b"\x0b"])


def _cmap(subtable: bytes, distinct: bool = True) -> bytes:
    count = 2_000
    first = 4 + 8 * count
    body, offsets = b"", []
    for number in range(count):
        if distinct or not number:
            offsets.append(first + len(body))
            body += subtable
        else:
            offsets.append(offsets[0])
    records = b"".join(struct.pack(">HHI", 3, 10, offset) for offset in offsets)
    return _with(cmap=words(0, count) + records + body)


def cmap_4() -> bytes:
    return _cmap(words(4, 32, 0, 4, 4, 1, 0, 0xFFFE, 0xFFFF, 0, 0, 0xFFFF, 1, 1, 0, 0))


def cmap_12() -> bytes:
    return _cmap(struct.pack(">HHIIIIII", 12, 0, 28, 0, 1, 0, 0xFFFF, 0))


def cmap_13() -> bytes:
    return _cmap(struct.pack(">HHIIIIII", 13, 0, 28, 0, 1, 0, 0x10FFFF, 1))


def cmap_variations() -> bytes:
    ranges = struct.pack(">I", 20_000) + (b"\0\0\0\xff") * 20_000
    selectors = 1_000
    head = 10 + 11 * selectors
    records = b"".join((0xE0100 + n).to_bytes(3, "big") + struct.pack(">II", head, 0) for n in range(selectors))
    subtable = struct.pack(">HII", 14, head + len(ranges), selectors) + records + ranges
    plain = struct.pack(">HHIIIIII", 12, 0, 28, 0, 1, 0x41, 0x42, 1)
    return _with(cmap=words(0, 2) + struct.pack(">HHIHHI", 0, 5, 20 + 28, 3, 10, 20) + plain + subtable)


def names() -> bytes:
    count = 0xFFFF
    record = words(3, 1, 0x409, 1, 0xFFFF, 0)
    return _with(name=words(0, count, 6) + record * count)


def names_that_differ() -> bytes:
    count = 0xFFFF
    records = b"".join(words(3, 1, 0x409, 1, 0xFFFF, number) for number in range(count))
    return _with(name=words(0, count, 6) + records)


def repeated_flags() -> bytes:
    # Points that are where the one before is: a flag for 256 of them, and nothing else.
    count = 12_000
    runs = b"\x39\xff" * 256
    glyph = words(1, 0, 0, 0, 0, 0xFFFF, 0) + runs
    return small_font({0x100 + glyph: glyph for glyph in range(1, count)}, [glyph] * count)


def repeated_deltas() -> bytes:
    """A glyph of many points, each of whose hundreds of variations moves all of them by nothing, in a byte for 64."""
    points, tuples = 0x10000, 400
    glyph = words(1, 0, 0, 0, 0, points - 1, 0) + b"\x39\xff" * (points // 256)
    run = b"\xbf" * ((points + 4) // 64) + bytes((0x80 | (points + 4) % 64 - 1,))
    deltas = b"\0" + run * 2
    head = words(tuples, 4 + 4 * tuples) + words(len(deltas), 0x2000) * tuples
    body = head + deltas * tuples
    axis = b"wght" + struct.pack(">iiiHH", 100 << 16, 400 << 16, 900 << 16, 0, 256)
    fvar = words(1, 0, 16, 2, 1, 20, 0, 8) + axis
    offsets = struct.pack(">4I", 0, 0, len(body), len(body))
    gvar = struct.pack(">HHHHIHHI", 1, 0, 1, 1, 36, 3, 1, 38) + offsets + words(0x4000) + body
    box_glyph = box(400)[0]
    return small_font({0x41: 1, 0x42: 2}, [box_glyph, glyph, box_glyph], extra={"fvar": fvar, "gvar": gvar})


def shared_tables() -> bytes:
    """A collection whose fonts share one large table."""
    font = Font.read(small_font())
    whole = sfnt.write({tag: font.raw(tag) for tag in font} | {"DATA": bytes(60_000_000)}, "\0\1\0\0")
    count = 256
    head = b"ttcf" + struct.pack(">HHI", 1, 0, count)
    start = len(head) + 4 * count
    records = sfnt.directory(whole)
    directory = whole[:12] + b"".join(replace(each, offset=each.offset + start).compile() for each in records)
    return head + struct.pack(">I", start) * count + directory + whole[len(directory) :]


def shared_outlines() -> bytes:
    """A WOFF2 collection whose fonts share one outline table, which is transformed."""
    glyphs = 20_000
    font = Font.read(small_font({0x41: 1}, _glyphs(glyphs)))
    whole = font.write("woff2")
    count = int.from_bytes(whole[12:14], "big")
    reader = Reader(whole, 48)
    entries = [read_entry(reader) for _ in range(count)]
    directory, stream = whole[48 : reader.position], whole[reader.position :]
    members = 250
    listed = struct.pack(">I", 0x00010000) + bytes((members,))
    listed += (bytes((count,)) + b"\0\1\0\0" + bytes(range(count))) * members
    assert entries
    body = whole[:4] + b"ttcf" + whole[8:48] + directory + listed + stream
    return body[:8] + struct.pack(">I", len(body)) + body[12:]


def empty_kerning() -> bytes:
    count = 26_000
    return _with(kern=words(0, count) + words(0, 14, 0x0201, 0, 0, 0, 0) * count)


def kerning_matrices() -> bytes:
    count, glyphs = 400, 30_000
    classes = words(0, glyphs) + words(0) * glyphs
    heads = b""
    size = 14 * count
    for number in range(count):
        # Offsets count from each subtable's start; they all lead to the same classes, as far as 16 bits reach.
        behind = size - 14 * number
        heads += words(0, 14, 0x0201, 2, behind, behind, 0)
    return _with(kern=words(0, count) + heads + classes)


def _feature_tables(lookups: int, tag: bytes) -> tuple[bytes, bytes]:
    scripts = words(1) + b"DFLT" + words(8, 4, 0, 0, 0xFFFF, 1, 0)
    features = words(1) + tag + words(8, 0, lookups, *range(lookups))
    return scripts, features


def _table(lookup_list: bytes, lookups: int, tag: bytes) -> bytes:
    scripts, features = _feature_tables(lookups, tag)
    at = 10 + len(scripts)
    return words(1, 0, 10, at, at + len(features)) + scripts + features + lookup_list


def layout_table(kind: int, subtable: bytes, tag: bytes) -> bytes:
    """A GSUB or GPOS of one lookup of one subtable."""
    return _table(_one_lookup(kind, [0], subtable), 1, tag)


def _one_lookup(kind: int, subtables: list[int], body: bytes) -> bytes:
    """A lookup list of one lookup, whose subtables lie at these places of the body."""
    head = 6 + 2 * len(subtables)
    return words(1, 4, kind, 0, len(subtables), *(head + each for each in subtables)) + body


def substitution_chain() -> bytes:
    """Each glyph becomes the one before it: a step a round, if rounds go through the glyphs in order."""
    count = 30_000
    covered = words(2, 1, 1, count, 0)
    lookup = words(1, 6, 0xFFFF) + covered
    body = small_font({0x41: count}, _glyphs(count + 1))
    font = Font.read(body)
    table = _table(_one_lookup(1, [0], lookup), 1, b"liga")
    return sfnt.write({tag: font.raw(tag) for tag in font} | {"GSUB": table}, "\0\1\0\0")


def chain_of_lookups() -> bytes:
    """Two lookups play one chain to each other, glyph by glyph; a thousand others wait meanwhile."""
    count, others = 20_000, 1_000
    pieces: list[bytes] = []
    for parity in (1, 0):
        glyphs = [glyph for glyph in range(2, count) if glyph % 2 == parity]
        pieces.append(words(2, 6 + 2 * len(glyphs), len(glyphs), *(g - 1 for g in glyphs), 1, len(glyphs), *glyphs))
    pieces += [words(1, 6, 1, 1, 1, 1)]
    starts = [0, len(pieces[0]), len(pieces[0]) + len(pieces[1])]
    lookups = [starts[0], starts[1], *([starts[2]] * others)]
    head = 2 + 2 * len(lookups)
    offsets, records = [], b""
    offsets += [head + 8 * number for number in range(len(lookups))]
    body_at = head + 8 * len(lookups)
    for number in range(len(lookups)):
        records += words(7, 0, 1, body_at + 8 * number - offsets[number])
    extensions = b""
    data_at = body_at + 8 * len(lookups)
    for number, start in enumerate(lookups):
        extensions += struct.pack(">HHI", 1, 1, data_at + start - (body_at + 8 * number))
    lookup_list = words(len(lookups), *offsets) + records + extensions + b"".join(pieces)
    font = Font.read(small_font({0x41: count - 1}, _glyphs(count)))
    table = _table(lookup_list, len(lookups), b"liga")
    return sfnt.write({tag: font.raw(tag) for tag in font} | {"GSUB": table}, "\0\1\0\0")


def chain_of_subtables() -> bytes:
    """Each glyph becomes the next one, in a subtable of its own: thousands of ways to divide the glyphs."""
    lookups, subtables, glyphs = 2, 3_600, 60_000
    size = 6 + 10 * subtables
    first = 2 + 2 * lookups
    tables, made = b"", b""
    for number in range(lookups):
        tables += words(7, 0, subtables, *(6 + 2 * subtables + 8 * n for n in range(subtables)))
        for n in range(subtables):
            at = first + number * size + 6 + 2 * subtables + 8 * n
            glyph = 1 + number * subtables + n
            tables += struct.pack(">HHI", 1, 1, first + lookups * size + len(made) - at)
            made += words(2, 8, 1, glyph + 1, 1, 1, glyph)
    offsets = words(lookups, *(first + number * size & 0xFFFF for number in range(lookups)))
    font = Font.read(small_font({0x41: 1, 0x42: glyphs - 1}, _glyphs(glyphs)))
    table = _table(offsets + tables + made, lookups, b"liga")
    return sfnt.write({tag: font.raw(tag) for tag in font} | {"GSUB": table}, "\0\1\0\0")


def shared_classes() -> bytes:
    """Contexts that share tables of classes which hold every glyph."""
    count = 2_000
    # Subtables of 12 bytes each, then the coverage and the classes that all lead to.
    at = 12 * count
    subtables = b""
    for number in range(count):
        behind = at - 12 * number
        subtables += words(2, behind, behind + 10, 0, 0, 0)
    body = subtables + words(2, 1, 0, 0xFFFF, 0) + words(2, 1, 0, 0xFFFF, 1)
    return _with(GSUB=_table(_one_lookup(5, [12 * n for n in range(count)], body), 1, b"calt"))


def shared_pairs() -> bytes:
    """First glyphs that all have one long list of pairs, in many subtables."""
    subtables, firsts, pairs = 8, 3_000, 10_000
    covered = words(2, 1, 0, firsts - 1, 0)
    size = 10 + 2 * firsts
    body = b""
    for number in range(subtables):
        behind = size * (subtables - number)
        body += words(1, behind, 4, 0, firsts) + words(behind + len(covered)) * firsts
    body += covered + words(pairs) + b"".join(words(n, 1) for n in range(pairs))
    starts = [size * n for n in range(subtables)]
    return _with(GPOS=_table(_one_lookup(2, starts, body), 1, b"kern"))


def shared_ligatures() -> bytes:
    firsts, ligatures = 10_000, 8_000
    covered = words(2, 1, 0, firsts - 1, 0)
    at = 6 + 2 * firsts
    body = words(1, at, firsts) + words(at + len(covered)) * firsts + covered
    body += words(ligatures) + words(2 + 2 * ligatures) * ligatures + words(1, 2, 1)
    return _with(GSUB=_table(_one_lookup(4, [0], body), 1, b"liga"))


def shared_sequences() -> bytes:
    glyphs, length = 20_000, 20_000
    covered = words(2, 1, 0, glyphs - 1, 0)
    at = 6 + 2 * glyphs
    body = words(1, at, glyphs) + words(at + len(covered)) * glyphs + covered + words(length) + words(1) * length
    return _with(GSUB=_table(_one_lookup(2, [0], body), 1, b"ccmp"))


def shared_rules() -> bytes:
    glyphs, rules = 10_000, 10_000
    covered = words(2, 1, 0, glyphs - 1, 0)
    at = 6 + 2 * glyphs
    body = words(1, at, glyphs) + words(at + len(covered)) * glyphs + covered
    body += words(rules) + words(2 + 2 * rules) * rules + words(1, 1, 0, 0)
    return _with(GSUB=_table(_one_lookup(5, [0], body), 1, b"calt"))


def zipped(files: dict[str, bytes], method: int = zipfile.ZIP_DEFLATED) -> bytes:
    """A ZIP of these files."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method, compresslevel=9) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def many_members() -> bytes:
    font = small_font()
    return zipped({f"{number}.ttf": font for number in range(600)})


def large_members() -> bytes:
    return zipped({f"{number}.ttf": b"no" + bytes(99_000_000) for number in range(6)})


def large_fonts() -> bytes:
    font = Font.read(small_font())
    whole = sfnt.write(
        {tag: font.raw(tag) for tag in font} | {"glyf": font.raw("glyf") + bytes(90_000_000)}, "\0\1\0\0"
    )
    return zipped({f"{number}.ttf": whole for number in range(3)})


def woff2_of_zeros() -> bytes:
    """Tables of 60 MB that are packed to hundreds of bytes."""
    size = 60_000_000
    stream = brotli.compress(bytes(size))
    entry = bytes((63,)) + b"DATA" + base128(size)
    whole = struct.pack(">4s4sIHHIIHHIIIII", b"wOF2", b"\0\1\0\0", 48 + len(entry) + len(stream), 1, 0, size + 28,
                        len(stream), 1, 0, 0, 0, 0, 0, 0)  # fmt: skip
    return whole + entry + stream


#: By name: what makes the file, and the suffix of its name.
ATTACKS: dict[str, tuple[Callable[[], bytes], str]] = {
    make.__name__: (make, suffix)
    for suffix, makers in {
        ".otf": (calls_that_multiply, many_calls, many_stems, drawings_that_multiply),
        ".ttf": (
            cmap_4, cmap_12, cmap_13, cmap_variations, names, names_that_differ, repeated_flags,
            repeated_deltas, empty_kerning,
            kerning_matrices, substitution_chain, chain_of_lookups, chain_of_subtables, shared_classes, shared_pairs,
            shared_ligatures,
            shared_sequences, shared_rules,
        ),
        ".ttc": (shared_tables,),
        ".woff2": (shared_outlines, woff2_of_zeros),
        ".zip": (many_members, large_members, large_fonts),
    }.items()
    for make in makers
}  # fmt: skip

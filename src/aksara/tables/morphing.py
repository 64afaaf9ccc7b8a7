"""'morx' and 'mort': Apple's glyph metamorphosis tables, as far as needed to know the glyphs they produce
(TrueType Reference Manual, "The 'morx' table"). They are kept as they are.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence, Set

from msgspec import Struct

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.limits import Work
from aksara.tables.layout.glyph_sets import common_glyphs

EXTENDED, OLD = "morx", "mort"
_CONTEXTUAL, _LIGATURE, _NONCONTEXTUAL, _INSERTION = 1, 2, 4, 5
#: "No substitution", "nothing is inserted"; also the glyph that stands for a deleted one.
_NONE = 0xFFFF
#: Classes of state tables that need no glyph: the end of the text, any other glyph, a deleted one, the end of a line.
_OTHER, _OWN_CLASSES = 1, 4
_SET_COMPONENT, _PERFORM = 0x8000, 0x2000
_LAST, _STORE, _OFFSET, _SIGN = 0x80000000, 0x40000000, 0x3FFFFFFF, 0x20000000
#: The states at the start of a text, and of a line.
_STARTS = (0, 1)
#: Components that a shaper keeps in mind.
_DEEPEST = 64
#: The work is that of reading a large table (bytes).
_LARGE = 1_000_000


class Morphing(Struct):
    """The subtables, each as what it makes of glyphs: of all that text may have, those that they may turn into."""

    subtables: tuple[Callable[[Set[int], Work], Set[int]], ...]

    @classmethod
    def parse(cls, data: bytes, tag: str, num_glyphs: int) -> Morphing:
        """Read one. Raises `FontError` where that cannot be done, `UnknownMorphing` for a kind that is not followed."""
        reader = Reader(data)
        reader.take(4, "the version")
        subtables: list[Callable[[Set[int], Work], Set[int]]] = []
        for _ in range(reader.u32()):
            subtables += _chain(reader, num_glyphs, extended=tag == EXTENDED)
        return cls(tuple(subtables))

    def substitution_closure(self, glyphs: set[int], features: Collection[str] | None = None) -> set[int]:
        """These glyphs and all glyphs that text of them can turn into, with any features."""
        work = Work(_LARGE)
        reached, size = set(glyphs), -1
        while size != len(reached):
            size = len(reached)
            for subtable in self.subtables:
                reached |= subtable(reached, work) - {_NONE}
        return reached


class UnknownMorphing(FontError):
    """A subtable that is not followed, so that its results are unknown."""


def _chain(reader: Reader, num_glyphs: int, *, extended: bool) -> Iterator[Callable[[Set[int], Work], Set[int]]]:
    start = reader.position
    reader.u32()
    length = reader.u32()
    features, count = (reader.u32(), reader.u32()) if extended else (reader.u16(), reader.u16())
    reader.take(12 * features, "features")
    for _ in range(count):
        begin = reader.position
        size, coverage = (reader.u32(), reader.u32()) if extended else (reader.u16(), reader.u16())
        reader.u32()
        header = 12 if extended else 8
        if size < header:
            raise FontError("a subtable is shorter than its header", offset=begin)
        body = reader.take(size - header, "a subtable")
        made = _subtable(coverage & (0xFF if extended else 7), Reader(body, 0, reader.work), num_glyphs, extended)
        if made is not None:
            yield made
    reader.position = start + length


def _subtable(
    kind: int, reader: Reader, num_glyphs: int, extended: bool
) -> Callable[[Set[int], Work], Set[int]] | None:
    if kind == _NONCONTEXTUAL:
        return _Single(_lookup(reader, num_glyphs)).made
    if kind == 0:
        # It puts glyphs into another order.
        return None
    if not extended or kind not in (_CONTEXTUAL, _LIGATURE, _INSERTION):
        raise UnknownMorphing(f"a subtable of type {kind} is not followed")
    machine = _StateTable.parse(reader, num_glyphs, {_CONTEXTUAL: 2, _LIGATURE: 1, _INSERTION: 2}[kind])
    if kind == _CONTEXTUAL:
        return _Contextual(machine, reader, reader.at(_HEADER).u32(), num_glyphs).made
    if kind == _INSERTION:
        return _Insertion(machine, reader, reader.at(_HEADER).u32()).made
    part = reader.at(_HEADER)
    return _Ligatures(machine, reader, part.u32(), part.u32(), part.u32()).made


#: Bytes of a state table's header, behind which further offsets stand.
_HEADER = 16


class _Single(Struct):
    """Type 4: one glyph by one."""

    substitutes: Mapping[int, int]

    def made(self, glyphs: Set[int], work: Work) -> Set[int]:
        work.spend(1 + len(self.substitutes) // 16)
        return {self.substitutes[glyph] for glyph in common_glyphs(self.substitutes, glyphs)}


class _StateTable(Struct):
    """An extended state table: classes of glyphs, rows of entries, and entries with `words` of their own."""

    classes: Mapping[int, int]
    class_count: int
    reader: Reader
    states: int
    entries: int
    words: int

    @classmethod
    def parse(cls, reader: Reader, num_glyphs: int, words: int) -> _StateTable:
        part = reader.at(0)
        count, classes, states, entries = part.u32(), part.u32(), part.u32(), part.u32()
        return cls(_lookup(reader.at(classes), num_glyphs), count, reader, states, entries, words)

    def entry(self, state: int, glyph_class: int) -> tuple[int, int, Sequence[int]]:
        """The entry for a glyph of that class: the next state, flags, and the entry's own words."""
        entry_index = self.reader.at(self.states + 2 * (state * self.class_count + glyph_class)).u16()
        part = self.reader.at(self.entries + entry_index * (4 + 2 * self.words))
        return part.u16(), part.u16(), [part.u16() for _ in range(self.words)]

    def present(self, glyphs: Set[int]) -> dict[int, set[int]]:
        """The classes that these glyphs have, with them; and those that need no glyph."""
        by_class: dict[int, set[int]] = {
            glyph_class: set() for glyph_class in range(min(_OWN_CLASSES, self.class_count))
        }
        for glyph in glyphs:
            glyph_class = self.classes.get(glyph, _OTHER)
            if glyph_class < self.class_count:
                by_class.setdefault(glyph_class, set()).add(glyph)
        return by_class

    def reached(self, classes: Collection[int], work: Work) -> Iterator[tuple[int, int, int, Sequence[int]]]:
        """All entries that text of these classes can reach: class, next state, flags, words."""
        pending, seen = [*_STARTS], {*_STARTS}
        while pending:
            state = pending.pop()
            for glyph_class in classes:
                work.spend(4)
                after, flags, words = self.entry(state, glyph_class)
                yield glyph_class, after, flags, words
                if after not in seen:
                    seen.add(after)
                    pending.append(after)


class _Contextual(Struct):
    """Type 1: the glyph at hand, and one that was marked before, each by another one."""

    machine: _StateTable
    reader: Reader
    tables: int
    num_glyphs: int

    def made(self, glyphs: Set[int], work: Work) -> Set[int]:
        present = self.machine.present(glyphs)
        made_glyphs: set[int] = set()
        known: dict[int, Mapping[int, int]] = {}
        seen: set[tuple[int, int]] = set()
        for glyph_class, _, _, words in self.machine.reached(present, work):
            # What was marked may be any glyph.
            for index, inputs in ((words[0], glyphs), (words[1], present[glyph_class])):
                key = index, glyph_class if inputs is not glyphs else -1
                if index == _NONE or key in seen:
                    continue
                seen.add(key)
                if index not in known:
                    address = self.tables + self.reader.at(self.tables + 4 * index).u32()
                    known[index] = _lookup(self.reader.at(address), self.num_glyphs)
                work.spend(1 + len(inputs))
                made_glyphs.update(known[index][glyph] for glyph in inputs if glyph in known[index])
        return made_glyphs


class _Insertion(Struct):
    """Type 5: glyphs put in beside the one at hand, or one that was marked before."""

    machine: _StateTable
    reader: Reader
    lists: int

    def made(self, glyphs: Set[int], work: Work) -> Set[int]:
        made_glyphs: set[int] = set()
        for _, _, flags, (current, marked) in self.machine.reached(self.machine.present(glyphs), work):
            for index, count in ((current, flags >> 5 & 0x1F), (marked, flags & 0x1F)):
                if index != _NONE and count:
                    part = self.reader.at(self.lists + 2 * index)
                    made_glyphs.update(part.u16() for _ in range(count))
        return made_glyphs


class _Ligatures(Struct):
    """Type 2: several glyphs by one. A glyph's place in the list of ligatures is the sum of what its components have in
    the list of components; which these are, the way through the states says."""

    machine: _StateTable
    reader: Reader
    actions: int
    components: int
    ligatures: int

    def made(self, glyphs: Set[int], work: Work) -> Set[int]:
        present = self.machine.present(glyphs)
        made_glyphs: set[int] = set()
        # The state, and the glyphs that wait to become one, each as those that may stand there.
        sets = {glyph_class: frozenset(glyphs) for glyph_class, glyphs in present.items()}
        pending: list[tuple[int, tuple[frozenset[int], ...]]] = [(state, ()) for state in _STARTS]
        seen = set(pending)
        while pending:
            state, stack = pending.pop()
            for glyph_class, own in sets.items():
                work.spend(8)
                after, flags, (action,) = self.machine.entry(state, glyph_class)
                left = stack
                if flags & _SET_COMPONENT and own:
                    left = (*stack, own)[-_DEEPEST:]
                if flags & _PERFORM:
                    made, left = self._perform(left, action, glyphs, work)
                    made_glyphs |= made
                # What waits when a text starts again no rule that makes sense takes up again.
                step = after, () if after in _STARTS else left
                if step not in seen:
                    seen.add(step)
                    pending.append(step)
        return made_glyphs

    def _perform(
        self, stack: tuple[frozenset[int], ...], action: int, everything: Set[int], work: Work
    ) -> tuple[set[int], tuple[frozenset[int], ...]]:
        """The ligatures that the waiting glyphs may become, and what waits then."""
        part = self.reader.at(self.actions + 4 * action)
        made_glyphs: set[int] = set()
        sums: set[int] = {0}
        below = stack
        for _ in range(_DEEPEST):
            todo = part.u32()
            offset = (todo & _OFFSET ^ _SIGN) - _SIGN
            # Where nothing waits, one from further back may be meant: any.
            glyphs = below[-1] if below else everything
            below = below[:-1]
            values = {value for glyph in glyphs for value in self._word(self.components, glyph + offset)}
            work.spend(1 + len(glyphs) + len(sums) * len(values))
            sums = {one + other for one in sums for other in values}
            if todo & (_STORE | _LAST):
                made = {glyph for index in sums for glyph in self._word(self.ligatures, index)}
                made_glyphs |= made
                # It stands where the last of its components stood, and what came behind that is gone.
                stack = (*below, frozenset(made))
            if todo & _LAST:
                return made_glyphs, stack
        return made_glyphs, ()

    def _word(self, start: int, index: int) -> Iterator[int]:
        """The number at a place of a list; nothing where it has no such place."""
        address = start + 2 * index
        if start <= address <= len(self.reader.data) - 2:
            yield self.reader.at(address).u16()


def _lookup(reader: Reader, num_glyphs: int) -> dict[int, int]:
    """A lookup table: glyph → value of 16 bits ("Lookup tables", formats 0, 2, 4, 6, 8 and 10)."""
    start = reader.position
    kind = reader.u16()
    if kind == 0:
        return dict(enumerate(reader.u16() for _ in range(num_glyphs)))
    if kind == 8:
        first, count = reader.u16(), reader.u16()
        return {first + index: reader.u16() for index in range(count)}
    if kind == 10:
        size, first, count = reader.u16(), reader.u16(), reader.u16()
        return {first + index: int.from_bytes(reader.take(size), "big") for index in range(count)}
    if kind not in (2, 4, 6):
        raise UnknownMorphing(f"a lookup table of format {kind} is not followed")
    size, count = reader.u16(), reader.u16()
    reader.take(6, "the rest of the header")
    found: dict[int, int] = {}
    base = reader.position
    for position in range(count):
        part = reader.at(base + position * size)
        last = part.u16()
        first = last if kind == 6 else part.u16()
        if first == _NONE or first > last:
            continue
        value = part.u16()
        reader.work.spend(last - first)
        if kind == 4:
            values = reader.at(start + value)
            found.update((glyph, values.u16()) for glyph in range(first, min(last, num_glyphs - 1) + 1))
        else:
            found.update((glyph, value) for glyph in range(first, min(last, num_glyphs - 1) + 1))
    return found

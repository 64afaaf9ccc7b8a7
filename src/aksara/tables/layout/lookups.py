"""Lookups, and the lists of scripts and features that lead to them, which GSUB and GPOS share
(OpenType 1.9.1, "OpenType Layout common table formats")."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar, Self

from aksara.errors import FontError
from aksara.tables.base import Font
from aksara.tables.layout.contexts import Actions, Context
from aksara.tables.layout.offsets import Block, OffsetOverflow, Place, pack, size_of

USE_MARK_FILTERING_SET = 0x0010
_VERSION_1_0, _VERSION_1_1 = 0x00010000, 0x00010001
_NO_FEATURE = 0xFFFF
_EXTENSION_HEADER = 8
_REACH = 0xFFFF


class Subtable(ABC):
    """A subtable that itself substitutes or positions."""

    __slots__ = ()

    @abstractmethod
    def subset(self, numbers: Mapping[int, int]) -> Self | None:
        """For the kept glyphs (old number → new); None if nothing is left."""

    @abstractmethod
    def block(self) -> Block: ...

    @property
    def span(self) -> int:
        """How many glyphs it looks at together."""
        return 1

    @abstractmethod
    def halves(self) -> tuple[Self, Self]:
        """Two subtables that, one behind the other, do the same. Raises `OffsetOverflow` if it has no halves."""


@dataclass(slots=True, frozen=True)
class Lookup:
    """`kind` is the lookup's type, never the one for extension, which is only a way to write it."""

    kind: int
    flags: int
    subtables: tuple[Any, ...]
    mark_set: int | None = None

    @property
    def contexts(self) -> list[Context]:
        return [subtable for subtable in self.subtables if isinstance(subtable, Context)]


@dataclass(slots=True, frozen=True)
class LanguageSystem:
    """The features of one language: indices into the list of features."""

    required: int | None
    features: tuple[int, ...]


@dataclass(slots=True, frozen=True)
class Script:
    """`default` serves the languages that are not named."""

    default: LanguageSystem | None
    languages: Mapping[str, LanguageSystem] = field(default_factory=dict)

    @property
    def systems(self) -> list[LanguageSystem]:
        return [*((self.default,) if self.default else ()), *self.languages.values()]


@dataclass(slots=True, frozen=True)
class Feature:
    """`parameters` are the bytes of a table of parameters (names for a menu, design sizes)."""

    tag: str
    lookups: tuple[int, ...]
    parameters: bytes | None = None


@dataclass(slots=True, frozen=True)
class Variation:
    """Features that are replaced where a variable font's axes meet all conditions (each as its bytes)."""

    conditions: tuple[bytes, ...]
    features: Mapping[int, Feature]


@dataclass(slots=True)
class LayoutTable:
    """What GSUB and GPOS have in common: everything but their subtables.

    `defects` tells of subtables that are damaged, and that are left out, as renderers do.
    """

    TAG: ClassVar[str]
    EXTENSION: ClassVar[int]
    #: Lookup type → reader of a subtable of that type, which stands at its start.
    READERS: ClassVar[Mapping[int, Callable[[Place], Subtable | Context]]]

    scripts: dict[str, Script]
    features: list[Feature]
    lookups: list[Lookup]
    variations: list[Variation] = field(default_factory=list)
    defects: list[str] = field(default_factory=list, compare=False)

    @classmethod
    def parse(cls, data: bytes, font: Font) -> Self:
        place = Place(data)
        version = place.version()
        scripts, features, lookups = place.links(3)
        variations = place.link32() if version >= _VERSION_1_1 else None
        defects: list[str] = []
        listed = _read_features(features) if features else []
        return cls(
            _read_scripts(scripts) if scripts else {},
            listed,
            [cls._lookup(at, defects) for at in lookups.links(lookups.u16())] if lookups else [],
            _read_variations(variations, listed) if variations else [],
            defects,
        )

    @classmethod
    def _lookup(cls, place: Place | None, defects: list[str]) -> Lookup:
        if place is None:
            return Lookup(0, 0, ())
        kind, flags, count = place.u16s(3)
        places = [at for at in place.links(count) if at is not None]
        mark_set = place.u16() if flags & USE_MARK_FILTERING_SET else None
        extended = kind == cls.EXTENSION
        subtables = []
        for at in places:
            try:
                form = kind
                if extended:
                    _, form = at.u16s(2)
                    kind = form if kind == cls.EXTENSION else kind
                    at = at.link32() or at  # noqa: PLW2901
                if form == kind and form in cls.READERS:
                    subtables.append(at.once(cls.READERS[form]))
            except FontError as error:
                defects.append(f"{cls.TAG}: a subtable is damaged ({error.problem}) and left out, as browsers do")
        return Lookup(kind, flags, tuple(subtables), mark_set)

    # ---- writing

    def compile(self) -> bytes:
        """Subtables too large for their offsets are split; lookups out of reach become extension lookups."""
        parts = [_in_reach(lookup) for lookup in self.lookups]
        lookups, blocks = [lookup for lookup, _ in parts], [each for _, each in parts]
        try:
            return pack(self._root(lookups, blocks, frozenset()))
        except OffsetOverflow:
            sizes = [sum(map(size_of, each)) for each in blocks]
            return pack(self._root(lookups, blocks, _largest(sizes)))

    def _root(self, lookups: Sequence[Lookup], blocks: Sequence[Sequence[Block]], extended: Set[int]) -> Block:
        root = Block().u32(_VERSION_1_1 if self.variations else _VERSION_1_0)
        root.link(_scripts_block(self.scripts))
        root.link(_features_block(self.features))
        root.link(
            Block().array(
                self._lookup_block(lookup, each, extended=number in extended)
                for number, (lookup, each) in enumerate(zip(lookups, blocks, strict=True))
            )
        )
        return root.link32(_variations_block(self.variations)) if self.variations else root

    def _lookup_block(self, lookup: Lookup, blocks: Sequence[Block], *, extended: bool) -> Block:
        block = Block().u16(self.EXTENSION if extended else lookup.kind, lookup.flags)
        if extended:
            blocks = [Block().u16(1, lookup.kind).link32(subtable) for subtable in blocks]
        block.array(blocks)
        return block.u16(lookup.mark_set) if lookup.mark_set is not None else block

    # ---- subsetting

    def directly_reached(self, tags: Collection[str] | None) -> set[int]:
        """The lookups that features of these tags (None: all) lead to. A required feature has no choice."""
        required = {s.required for script in self.scripts.values() for s in script.systems}
        return self._listed(tags) | {
            lookup
            for number in required
            if number is not None and number < len(self.features)
            for lookup in self.features[number].lookups
        }

    def leads_on(self, tags: Collection[str]) -> bool:
        """Whether features of these tags have any lookup."""
        return bool(self._listed(tags))

    def _listed(self, tags: Collection[str] | None) -> set[int]:
        lists = [feature for feature in self.features if tags is None or feature.tag in tags]
        for variation in self.variations:
            lists += [feature for feature in variation.features.values() if tags is None or feature.tag in tags]
        return {lookup for feature in lists for lookup in feature.lookups}

    def reached(self, tags: Collection[str] | None) -> set[int]:
        """Those, and the lookups that their rules call."""
        return self._with_called(self.directly_reached(tags))

    def _with_called(self, lookups: Iterable[int]) -> set[int]:
        found: set[int] = set()
        pending = list(lookups)
        while pending:
            number = pending.pop()
            if number < len(self.lookups) and number not in found:
                found.add(number)
                for context in self.lookups[number].contexts:
                    pending += context.lookups()
        return found

    def subset(
        self,
        numbers: Mapping[int, int],
        tags: Collection[str] | None = None,
        *,
        always: Collection[str] = (),
    ) -> Self:
        """For the kept glyphs (old number → new) and features of these tags (None: all).

        What became empty goes, but for features that are named in `always`: that a font has them matters.
        Scripts stay, since their names decide how text is shaped.
        """
        reached = self.reached(tags)
        cut = {number: self._cut(self.lookups[number], numbers) for number in sorted(reached)}
        working = _working(cut)
        order = {number: new for new, number in enumerate(sorted(working))}

        def renumber(actions: Actions) -> Actions:
            return tuple((position, order[lookup]) for position, lookup in actions if lookup in order)

        lookups = [
            replace(
                cut[number],
                subtables=tuple(
                    subtable.with_actions(renumber) if isinstance(subtable, Context) else subtable
                    for subtable in cut[number].subtables
                ),
            )
            for number in order
        ]
        return self._with_lookups(lookups, order, tags, always)

    def size_for(self, numbers: Mapping[int, int], tags: Collection[str], already: Collection[str]) -> int:
        """About how many bytes the lookups of these features take for the kept glyphs, besides those of others."""
        new = self._with_called(self._listed(tags)) - self.reached(already)
        cut = {number: self._cut(self.lookups[number], numbers) for number in sorted(new)}
        working = _working(cut)
        return sum(size_of(subtable.block()) for number in working for subtable in cut[number].subtables)

    def _cut(self, lookup: Lookup, numbers: Mapping[int, int]) -> Lookup:
        subtables = [subtable.subset(numbers) for subtable in lookup.subtables]
        return replace(lookup, subtables=self._tidied([subtable for subtable in subtables if subtable is not None]))

    def _tidied(self, subtables: list[Any]) -> tuple[Any, ...]:
        """The subtables of one lookup in their smallest form."""
        return tuple(subtables)

    def _with_lookups(
        self, lookups: list[Lookup], order: Mapping[int, int], tags: Collection[str] | None, always: Collection[str]
    ) -> Self:
        required = {s.required for script in self.scripts.values() for s in script.systems}
        varied = {number for variation in self.variations for number in variation.features}

        def renumbered(feature: Feature) -> Feature:
            return Feature(feature.tag, tuple(sorted({order[n] for n in feature.lookups if n in order})))

        kept: dict[int, int] = {}
        features: list[Feature] = []
        for number, feature in enumerate(self.features):
            wanted = tags is None or feature.tag in tags or number in required
            new = renumbered(feature)
            if wanted and (new.lookups or feature.tag in always or number in varied):
                # Features that many scripts repeat are one, unless each may be replaced by itself.
                kept[number] = len(features) if varied or new not in features else features.index(new)
                features += [new] * (kept[number] == len(features))
        variations = []
        for variation in self.variations:
            replaced = {kept[n]: renumbered(feature) for n, feature in variation.features.items() if n in kept}
            variations.append(Variation(variation.conditions, replaced))
        # A record without effect still decides where its conditions hold, but nothing comes behind the last.
        while variations and all(features[n] == feature for n, feature in variations[-1].features.items()):
            variations.pop()
        scripts = {tag: _script_subset(script, kept) for tag, script in self.scripts.items()}
        return type(self)(scripts, features, lookups, variations)

    def mark_sets(self) -> set[int]:
        """The mark glyph sets of 'GDEF' that lookups filter by."""
        return {lookup.mark_set for lookup in self.lookups if lookup.mark_set is not None}

    def with_mark_sets(self, numbers: Mapping[int, int]) -> Self:
        """With new numbers for the mark glyph sets."""
        lookups = [
            replace(lookup, mark_set=numbers.get(lookup.mark_set, lookup.mark_set))
            if lookup.mark_set is not None
            else lookup
            for lookup in self.lookups
        ]
        return replace(self, lookups=lookups)

    def tags_everywhere(self) -> set[str]:
        """The features that text of whatever script and language has."""
        if not self.scripts.keys() & {"DFLT", "dflt", "latn"} or any(s.default is None for s in self.scripts.values()):
            return set()
        found = [
            {
                self.features[n].tag
                for n in (*system.features, system.required)
                if n is not None and n < len(self.features)
            }
            for script in self.scripts.values()
            for system in script.systems
        ]
        return set.intersection(*found)


def _working(lookups: Mapping[int, Lookup]) -> set[int]:
    """The lookups that can do something: themselves, or by a rule that calls one that can."""
    working = {n for n, lookup in lookups.items() if lookup.subtables and not lookup.contexts}
    pending = {n: {c for each in lookup.contexts for c in each.lookups()} for n, lookup in lookups.items()}
    while True:
        new = {n for n, called in pending.items() if n not in working and not called.isdisjoint(working)}
        if not new:
            return working
        working |= new


def _in_reach(lookup: Lookup) -> tuple[Lookup, list[Block]]:
    """The lookup with subtables that are too large for their own offsets in parts, and its subtables' blocks."""
    subtables: list[Any] = []
    blocks: list[Block] = []
    pending = list(reversed(lookup.subtables))
    while pending:
        subtable = pending.pop()
        block = subtable.block()
        try:
            if size_of(block) > _REACH:
                pack(block)
            subtables.append(subtable)
            blocks.append(block)
        except OffsetOverflow:
            if isinstance(subtable, Context):
                raise
            pending += reversed(subtable.halves())
    return replace(lookup, subtables=tuple(subtables)), blocks


def _largest(sizes: Sequence[int]) -> set[int]:
    """The fewest lookups without which the others, and headers for these, stay in reach of one another."""
    by_size = sorted(range(len(sizes)), key=lambda number: -sizes[number])
    left, chosen = sum(sizes), set()
    for number in by_size:
        if left + _EXTENSION_HEADER * len(sizes) <= _REACH // 2:
            break
        chosen.add(number)
        left -= sizes[number]
    return chosen


# ---- scripts


def _read_scripts(place: Place) -> dict[str, Script]:
    records = [(place.tag(), place.link()) for _ in range(place.u16())]
    return {tag: at.once(_read_script) for tag, at in reversed(records) if at is not None}


def _read_script(place: Place) -> Script:
    default = place.link()
    records = [(place.tag(), place.link()) for _ in range(place.u16())]
    languages = {tag: at.once(_read_system) for tag, at in records if at is not None}
    return Script(default.once(_read_system) if default else None, languages)


def _read_system(place: Place) -> LanguageSystem:
    _, required, count = place.u16s(3)
    return LanguageSystem(None if required == _NO_FEATURE else required, place.u16s(count))


def _script_subset(script: Script, kept: Mapping[int, int]) -> Script:
    """With new numbers of features. A language that now has what the default has needs no record."""
    default = _system_subset(script.default, kept) if script.default else None
    languages = {tag: _system_subset(system, kept) for tag, system in script.languages.items()}
    return Script(default, {tag: system for tag, system in languages.items() if system != default})


def _system_subset(system: LanguageSystem, kept: Mapping[int, int]) -> LanguageSystem:
    required = kept.get(system.required) if system.required is not None else None
    features = dict.fromkeys(kept[number] for number in system.features if number in kept)
    return LanguageSystem(required, tuple(features))


def _scripts_block(scripts: Mapping[str, Script]) -> Block:
    block = Block().u16(len(scripts))
    for tag in sorted(scripts):
        script = scripts[tag]
        body = Block().link(_system_block(script.default)).u16(len(script.languages))
        for language in sorted(script.languages):
            body.tag(language).link(_system_block(script.languages[language]))
        block.tag(tag).link(body)
    return block


def _system_block(system: LanguageSystem | None) -> Block | None:
    if system is None:
        return None
    required = _NO_FEATURE if system.required is None else system.required
    return Block().u16(0, required, len(system.features), *system.features)


# ---- features


def _read_features(place: Place) -> list[Feature]:
    records = [(place.tag(), place.link()) for _ in range(place.u16())]
    return [_read_feature(tag, at) if at is not None else Feature(tag, ()) for tag, at in records]


def _read_feature(tag: str, place: Place) -> Feature:
    parameters = place.link()
    lookups = place.u16s(place.u16())
    return Feature(tag, lookups, _read_parameters(tag, parameters) if parameters else None)


def _read_parameters(tag: str, place: Place) -> bytes | None:
    """The bytes of the parameters; None where they cannot be what they should (no text is set by them)."""
    try:
        if tag == "size":
            return place.take(10)
        if tag.startswith("ss"):
            return place.take(4)
        if tag.startswith("cv"):
            head = place.take(14)
            return head + place.take(3 * int.from_bytes(head[12:14], "big"))
    except FontError:
        pass
    return None


def _feature_block(feature: Feature) -> Block:
    parameters = Block(feature.parameters) if feature.parameters is not None else None
    return Block().link(parameters).u16(len(feature.lookups), *feature.lookups)


def _features_block(features: Iterable[Feature]) -> Block:
    listed = list(features)
    block = Block().u16(len(listed))
    for feature in listed:
        block.tag(feature.tag).link(_feature_block(feature))
    return block


# ---- feature variations


def _read_variations(place: Place, listed: Sequence[Feature]) -> list[Variation]:
    place.u32()
    count = place.u32()
    place.spend(count)
    variations = []
    for _ in range(count):
        conditions, features = place.link32(), place.link32()
        read = features.once(_read_substitution) if features else {}
        # They replace features of the list, whose tags they share.
        replaced = {n: replace(feature, tag=listed[n].tag) for n, feature in read.items() if n < len(listed)}
        variations.append(Variation(conditions.once(_read_conditions) if conditions else (), replaced))
    return variations


def _read_conditions(place: Place) -> tuple[bytes, ...]:
    found = (place.link32() for _ in range(place.u16()))
    return tuple(at.take(8, "a condition") for at in found if at is not None)


def _read_substitution(place: Place) -> dict[int, Feature]:
    place.u32()
    records = [(place.u16(), place.link32()) for _ in range(place.u16())]
    return {number: _read_feature("", at) for number, at in records if at is not None}


def _variations_block(variations: Sequence[Variation]) -> Block:
    block = Block().u32(_VERSION_1_0).u32(len(variations))
    for variation in variations:
        conditions = Block().u16(len(variation.conditions))
        for condition in variation.conditions:
            conditions.link32(Block(condition))
        features = Block().u32(_VERSION_1_0).u16(len(variation.features))
        for number in sorted(variation.features):
            features.u16(number).link32(_feature_block(variation.features[number]))
        block.link32(conditions if variation.conditions else None).link32(features)
    return block

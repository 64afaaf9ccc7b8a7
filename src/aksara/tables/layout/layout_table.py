"""`LayoutTable`: what GSUB and GPOS have in common, which is everything but their subtables
(OpenType 1.9.1, "OpenType Layout common table formats")."""

from __future__ import annotations

import unicodedata
from abc import abstractmethod
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence, Set
from functools import cached_property
from typing import ClassVar, Protocol, Self, cast

from msgspec import field
from msgspec.structs import replace

from aksara.offsets import Block, OffsetOverflow, OffsetReader, Sharing, serialize, total_size
from aksara.records import ComparedByField
from aksara.tables.base import FontTables, ShapingTable
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.layout.devices import DeviceChange
from aksara.tables.layout.features import (
    FeatureRecord,
    FeatureVariation,
    feature_list_block,
    feature_variations_block,
    parse_feature_variations,
    parse_features,
)
from aksara.tables.layout.glyph_sets import Division, GlyphSets, Join
from aksara.tables.layout.lookups import Lookup, LookupFormat, LookupListWriter, lookups_that_work, parse_lookups
from aksara.tables.layout.scripts import Script, parse_scripts, script_list_block, subset_script
from aksara.tables.subsetting import SubsetContext

_VERSION_1_0, _VERSION_1_1 = 0x00010000, 0x00010001
_GDEF = "GDEF"
#: Scripts whose features text of any other script gets.
_DEFAULT_SCRIPTS = frozenset({"DFLT", "dflt", "latn"})
#: From here on scripts are shaped, and by other rules if a font does not name them.
_FIRST_COMPLEX = 0x0590

# Without these features shapers use fallbacks for these characters, so even features without effect are kept.
_PRESENCE_MATTERS = (
    ((0x0590, 0x05FF), ("mark",)),
    ((0x0600, 0x08FF), ("init", "medi", "fina", "isol", "rlig")),
    ((0x1100, 0x11FF), ("ljmo", "vjmo", "tjmo")),
    ((0x2010, 0x2026), ("vert",)),
    ((0x3000, 0x30FF), ("vert",)),
)


class _Definitions(Protocol):
    """What this table needs of 'GDEF', whose module imports this one."""

    def new_mark_sets(self, context: SubsetContext) -> Mapping[int, int]: ...

    def device_change(self, context: SubsetContext) -> DeviceChange | None: ...


class LayoutTable(ComparedByField, ShapingTable, frozen=True, dict=True):
    """Scripts, features, lookups, and feature variations, each in the order of the table.

    `defects` tells of subtables that are damaged, and that are left out, as renderers do.
    """

    OPTIONAL: ClassVar[bool] = True
    NOT_COMPARED: ClassVar[tuple[str, ...]] = ("defects",)
    LOOKUPS: ClassVar[LookupFormat]

    scripts: dict[str, Script]
    features: list[FeatureRecord]
    lookups: list[Lookup]
    variations: list[FeatureVariation] = field(default_factory=list)
    defects: list[str] = field(default_factory=list)

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        version = reader.version()
        scripts, features, lookups = reader.offsets16(3)
        variations = reader.offset32() if version >= _VERSION_1_1 else None
        defects: list[str] = []
        listed = parse_features(features) if features else []
        return cls(
            parse_scripts(scripts) if scripts else {},
            listed,
            parse_lookups(lookups, cls.LOOKUPS, defects) if lookups else [],
            parse_feature_variations(variations, listed) if variations else [],
            defects,
        )

    @staticmethod
    def listed_tags(data: bytes) -> set[str]:
        """The features that a table names, without parsing the rest. Raises `FontError` where these are damaged."""
        reader = OffsetReader(data)
        reader.version()
        _, features, _ = reader.offsets16(3)
        return {feature.tag for feature in parse_features(features)} if features else set()

    def defects_found(self) -> Sequence[str]:
        return self.defects

    def compile(self) -> bytes:
        """Subtables too large for their offsets are split; lookups out of reach become extension lookups."""
        writer = LookupListWriter(self.lookups, self.LOOKUPS)
        sharing = Sharing()
        try:
            return serialize(self._root(writer.block()), sharing)
        except OffsetOverflow:
            return serialize(self._root(writer.block(writer.too_far())), sharing)

    def _root(self, lookups: Block) -> Block:
        root = Block().u32(_VERSION_1_1 if self.variations else _VERSION_1_0)
        root.offset16(script_list_block(self.scripts)).offset16(feature_list_block(self.features)).offset16(lookups)
        return root.offset32(feature_variations_block(self.variations)) if self.variations else root

    # ---- which lookups features lead to

    def lookups_of(self, tags: Collection[str] | None) -> set[int]:
        """The lookups that features of these tags (None: all) list."""
        features = [
            *self.features,
            *(feature for variation in self.variations for feature in variation.features.values()),
        ]
        return {lookup for feature in features if tags is None or feature.tag in tags for lookup in feature.lookups}

    def lookups_applied(self, tags: Collection[str] | None) -> set[int]:
        """These lookups and those of required features, which always apply."""
        required = (
            self.features[feature_index] for feature_index in self._required() if feature_index < len(self.features)
        )
        return self.lookups_of(tags) | {lookup for feature in required for lookup in feature.lookups}

    def lookups_reached(self, tags: Collection[str] | None) -> set[int]:
        """Those, and the lookups that their rules call."""
        return self.with_called(self.lookups_applied(tags))

    def with_called(self, lookups: Iterable[int]) -> set[int]:
        """These lookups, and those that their rules call."""
        reached: set[int] = set()
        pending = list(lookups)
        calls = self._calls
        while pending:
            lookup_index = pending.pop()
            if lookup_index < len(calls) and lookup_index not in reached:
                reached.add(lookup_index)
                pending += calls[lookup_index]
        return reached

    @cached_property
    def _calls(self) -> list[set[int]]:
        """The lookups that each lookup's rules call."""
        return [lookup.called() for lookup in self.lookups]

    def _required(self) -> set[int]:
        systems = (system for script in self.scripts.values() for system in script.systems)
        return {system.required for system in systems if system.required is not None}

    def tags_everywhere(self) -> set[str]:
        """The features of all scripts and languages."""
        scripts = self.scripts.values()
        if not self.scripts.keys() & _DEFAULT_SCRIPTS or any(script.default is None for script in scripts):
            return set()
        tags = [
            {self.features[n].tag for n in (*s.features, s.required) if n is not None and n < len(self.features)}
            for script in scripts
            for s in script.systems
        ]
        return set.intersection(*tags)

    # ---- which glyphs belong together

    def joins(self, features: Collection[str], *, kerning: bool) -> Iterator[Join]:
        sets = GlyphSets()
        for lookup_index in sorted(self.lookups_reached(features)):
            lookup = self.lookups[lookup_index]
            if self.only_moves(lookup) == kerning:
                for subtable in lookup.subtables:
                    yield from subtable.joins(sets)

    def only_moves(self, lookup: Lookup) -> bool:
        """Whether the lookup only moves glyphs closer or wider."""
        return False

    # ---- subsetting

    def divisions(self, features: Collection[str]) -> Iterable[Division]:
        for lookup_index in sorted(self.lookups_reached(features)):
            for subtable in self.lookups[lookup_index].subtables:
                yield from subtable.divisions()

    @abstractmethod
    def cut(self, context: SubsetContext) -> Self | None:
        """The subset table, with old mark glyph set indices; None if nothing in it has an effect."""

    def cut_once(self, context: SubsetContext) -> Self | None:
        """The same, remembered: GDEF asks for it, too."""
        return context.once((type(self), "cut"), lambda: self.cut(context))

    def subset(self, context: SubsetContext) -> Self | None:
        cut = self.cut_once(context)
        gdef = context.original_by_tag(_GDEF)
        if cut is None or gdef is None:
            return cut
        definitions = cast(_Definitions, gdef)
        change = definitions.device_change(context)
        cut = cut.changed(change) if change is not None else cut
        return cut.with_mark_sets(definitions.new_mark_sets(context))

    def cut_down(self, glyphs: GlyphMap, tags: Collection[str], always: Collection[str] = ()) -> Self:
        """For the kept glyphs and features of these tags.

        What became empty goes, but for features that are named in `always`: that a font has them matters.
        Scripts stay, since their names decide how text is shaped.
        """
        reached = self.lookups_reached(tags)
        cut = {
            lookup_index: self.compacted(self.lookups[lookup_index].subset(glyphs)) for lookup_index in sorted(reached)
        }
        new_indices = {lookup_index: new for new, lookup_index in enumerate(sorted(lookups_that_work(cut)))}
        lookups = [cut[lookup_index].renumbered(new_indices) for lookup_index in new_indices]
        return self._with_lookups(lookups, new_indices, tags, always)

    def compacted(self, lookup: Lookup) -> Lookup:
        """The lookup with its subtables in their smallest form."""
        return lookup

    def size_of_features(self, glyphs: GlyphMap, tags: Collection[str], already: Set[int]) -> int:
        """About how many bytes the lookups of these features take for the kept glyphs, without those of `already`."""
        new = self.with_called(self.lookups_of(tags)) - already
        cut = {lookup_index: self.compacted(self.lookups[lookup_index].subset(glyphs)) for lookup_index in sorted(new)}
        subtables = (subtable for lookup_index in lookups_that_work(cut) for subtable in cut[lookup_index].subtables)
        return sum(total_size(subtable.block()) for subtable in subtables)

    def _with_lookups(
        self, lookups: list[Lookup], new_indices: Mapping[int, int], tags: Collection[str], always: Collection[str]
    ) -> Self:
        """The table with these lookups, and the remaining features, variations and scripts."""
        required = self._required()
        varied = {lookup_index for variation in self.variations for lookup_index in variation.features}

        def renumbered(feature: FeatureRecord) -> FeatureRecord:
            kept = sorted(
                {new_indices[lookup_index] for lookup_index in feature.lookups if lookup_index in new_indices}
            )
            return FeatureRecord(feature.tag, tuple(kept))

        kept: dict[int, int] = {}
        features: list[FeatureRecord] = []
        for lookup_index, feature in enumerate(self.features):
            if feature.tag not in tags and lookup_index not in required:
                continue
            new = renumbered(feature)
            if new.lookups or feature.tag in always or lookup_index in varied:
                # Features that many scripts repeat are one, unless each may be replaced by itself.
                kept[lookup_index] = len(features) if varied or new not in features else features.index(new)
                features += [new] * (kept[lookup_index] == len(features))
        variations = [
            FeatureVariation(
                variation.conditions, {kept[n]: renumbered(f) for n, f in variation.features.items() if n in kept}
            )
            for variation in self.variations
        ]
        # A record without effect still decides where its conditions hold, but nothing comes behind the last.
        while variations and all(features[n] == feature for n, feature in variations[-1].features.items()):
            variations.pop()
        scripts = {tag: subset_script(script, kept) for tag, script in self.scripts.items()}
        return type(self)(scripts, features, lookups, variations)

    # ---- variations and mark glyph sets, which 'GDEF' holds

    def changed(self, change: DeviceChange) -> Self:
        """With the values of all lookups and their devices changed."""
        return replace(self, lookups=[lookup.changed(change) for lookup in self.lookups])

    def mark_sets(self) -> set[int]:
        """The mark glyph sets that lookups filter by."""
        return {lookup.mark_set for lookup in self.lookups if lookup.mark_set is not None}

    def with_mark_sets(self, new_indices: Mapping[int, int]) -> Self:
        """With new indices (old → new) of the mark glyph sets."""
        lookups = [
            replace(lookup, mark_set=new_indices.get(lookup.mark_set, lookup.mark_set))
            if lookup.mark_set is not None
            else lookup
            for lookup in self.lookups
        ]
        return replace(self, lookups=lookups)


def features_kept_empty(characters: Iterable[int]) -> set[str]:
    """The features that must not vanish from a font for these characters, even if they do nothing there any more."""
    codes = list(characters)
    return {
        tag for (first, last), tags in _PRESENCE_MATTERS if any(first <= code <= last for code in codes) for tag in tags
    }


def has_complex_text(characters: Iterable[int]) -> bool:
    """Whether text of these characters may be shaped by the rules of a script.

    That a script is named then decides how its text is shaped, though nothing may be done in it.
    """
    return any(code >= _FIRST_COMPLEX for code in characters)


def has_marks(characters: Iterable[int]) -> bool:
    """Whether any of these characters is a mark of some kind."""
    return any(unicodedata.category(chr(code))[0] == "M" for code in characters)

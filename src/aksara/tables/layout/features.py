"""The feature list, and the records by which features are replaced in variable fonts (OpenType 1.9.1, "Feature list
table", "FeatureVariations table")."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from aksara.binary import Reader
from aksara.errors import FontError
from aksara.offsets import Block, OffsetReader

_VERSION_1_0 = 0x00010000
_FEATURE_LIST_OFFSET_AT = 6
#: The one condition format that there is.
_AXIS_CONDITION = 1


class FeatureRecord(Struct, frozen=True):
    """A feature's tag and lookup indices; `parameters` are the bytes of its parameters (menu names, design sizes)."""

    tag: str
    lookups: tuple[int, ...]
    parameters: bytes | None = None


class AxisCondition(Struct, frozen=True):
    """A condition: an axis (its index) is between two values, in normalised units of 1/16384."""

    axis: int
    minimum: int
    maximum: int


#: A condition of the format above, or the bytes of one of another.
Condition = AxisCondition | bytes


class FeatureVariation(Struct, frozen=True):
    """Features (by their index) that are replaced where a variable font's axes meet all conditions."""

    conditions: tuple[Condition, ...]
    features: Mapping[int, FeatureRecord]


def parse_features(reader: OffsetReader) -> list[FeatureRecord]:
    """All features in their order."""
    records = [(reader.tag(), reader.offset16()) for _ in range(reader.u16())]
    return [_parse_feature(tag, target) if target is not None else FeatureRecord(tag, ()) for tag, target in records]


def _parse_feature(tag: str, reader: OffsetReader) -> FeatureRecord:
    parameters = reader.offset16()
    lookups = reader.u16s(reader.u16())
    return FeatureRecord(tag, lookups, _parse_parameters(tag, parameters) if parameters else None)


def _parse_parameters(tag: str, reader: OffsetReader) -> bytes | None:
    """The bytes of the parameters; None if they are invalid (they do not affect text)."""
    try:
        if tag == "size":
            return reader.take(10)
        if tag.startswith("ss"):
            return reader.take(4)
        if tag.startswith("cv"):
            head = reader.take(14)
            return head + reader.take(3 * int.from_bytes(head[12:14], "big"))
    except FontError:
        pass
    return None


def _feature_block(feature: FeatureRecord) -> Block:
    parameters = Block(feature.parameters) if feature.parameters is not None else None
    return Block().offset16(parameters).u16(len(feature.lookups), *feature.lookups)


def feature_list_block(features: Iterable[FeatureRecord]) -> Block:
    """The feature list in the making, in this order."""
    listed = list(features)
    block = Block().u16(len(listed))
    for feature in listed:
        block.tag(feature.tag).offset16(_feature_block(feature))
    return block


def feature_tags(data: bytes) -> list[str]:
    """The tags of the features of GSUB or GPOS, each once, in order, without parsing the rest of the table.

    Raises `FontError` for damaged data.
    """
    reader = Reader(data, _FEATURE_LIST_OFFSET_AT)
    start = reader.u16()
    if not start:
        return []
    records = reader.at(start)
    found = []
    for _ in range(records.u16()):
        found.append(records.tag())
        records.u16()
    return sorted(set(found))


def parse_feature_variations(reader: OffsetReader, listed: Sequence[FeatureRecord]) -> list[FeatureVariation]:
    """The records in their order; `listed` are the features of the table, whose tags the replacing ones share."""
    reader.u32()
    count = reader.u32()
    reader.work.spend_numbers(count)
    variations = []
    for _ in range(count):
        conditions, features = reader.offset32(), reader.offset32()
        read = features.once(_parse_substitution) if features else {}
        # They replace features of the list, whose tags they share.
        replaced = {n: replace(feature, tag=listed[n].tag) for n, feature in read.items() if n < len(listed)}
        variations.append(FeatureVariation(conditions.once(_parse_conditions) if conditions else (), replaced))
    return variations


def _parse_conditions(reader: OffsetReader) -> tuple[Condition, ...]:
    targets = (reader.offset32() for _ in range(reader.u16()))
    return tuple(_parse_condition(target) for target in targets if target is not None)


def _parse_condition(reader: OffsetReader) -> Condition:
    condition_format, axis = reader.u16s(2)
    minimum, maximum = reader.i16s(2)
    if condition_format == _AXIS_CONDITION:
        return AxisCondition(axis, minimum, maximum)
    return reader.at_offset(0).take(8, "a condition")


def _condition_block(condition: Condition) -> Block:
    if isinstance(condition, bytes):
        return Block(condition)
    return Block().u16(_AXIS_CONDITION, condition.axis).i16(condition.minimum, condition.maximum)


def _parse_substitution(reader: OffsetReader) -> dict[int, FeatureRecord]:
    reader.u32()
    records = [(reader.u16(), reader.offset32()) for _ in range(reader.u16())]
    return {feature_index: _parse_feature("", target) for feature_index, target in records if target is not None}


def feature_variations_block(variations: Sequence[FeatureVariation]) -> Block:
    """The table in the making."""
    block = Block().u32(_VERSION_1_0).u32(len(variations))
    for variation in variations:
        conditions = Block().u16(len(variation.conditions))
        for condition in variation.conditions:
            conditions.offset32(_condition_block(condition))
        features = Block().u32(_VERSION_1_0).u16(len(variation.features))
        for feature_index in sorted(variation.features):
            features.u16(feature_index).offset32(_feature_block(variation.features[feature_index]))
        block.offset32(conditions if variation.conditions else None).offset32(features)
    return block

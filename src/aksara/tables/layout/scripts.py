"""The script list: which features text of each script and language has (OpenType 1.9.1, "Script list table")."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field

from aksara.offsets import Block, OffsetReader

_NO_FEATURE = 0xFFFF


class LanguageSystem(Struct, frozen=True):
    """The features of one language: indices into the list of features."""

    required: int | None
    features: tuple[int, ...]


class Script(Struct, frozen=True):
    """`default` serves the languages that are not named."""

    default: LanguageSystem | None
    languages: Mapping[str, LanguageSystem] = field(default_factory=dict)

    @property
    def systems(self) -> list[LanguageSystem]:
        """Those of all its languages, the default one included."""
        return [*((self.default,) if self.default else ()), *self.languages.values()]


def parse_scripts(reader: OffsetReader) -> dict[str, Script]:
    """The scripts by tag; the first one counts if a tag occurs twice."""
    records = [(reader.tag(), reader.offset16()) for _ in range(reader.u16())]
    return {tag: target.once(_parse_script) for tag, target in reversed(records) if target is not None}


def _parse_script(reader: OffsetReader) -> Script:
    default = reader.offset16()
    records = [(reader.tag(), reader.offset16()) for _ in range(reader.u16())]
    languages = {tag: target.once(_parse_system) for tag, target in records if target is not None}
    return Script(default.once(_parse_system) if default else None, languages)


def _parse_system(reader: OffsetReader) -> LanguageSystem:
    _, required, count = reader.u16s(3)
    return LanguageSystem(None if required == _NO_FEATURE else required, reader.u16s(count))


def subset_script(script: Script, kept: Mapping[int, int]) -> Script:
    """With new feature indices (old → new). A language that now has what the default has needs no record."""
    default = _system_subset(script.default, kept) if script.default else None
    languages = {tag: _system_subset(system, kept) for tag, system in script.languages.items()}
    return Script(default, {tag: system for tag, system in languages.items() if system != default})


def _system_subset(system: LanguageSystem, kept: Mapping[int, int]) -> LanguageSystem:
    required = kept.get(system.required) if system.required is not None else None
    features = dict.fromkeys(kept[feature_index] for feature_index in system.features if feature_index in kept)
    return LanguageSystem(required, tuple(features))


def script_list_block(scripts: Mapping[str, Script]) -> Block:
    """The script list in the making, scripts and languages in order of their tags."""
    block = Block().u16(len(scripts))
    for tag in sorted(scripts):
        script = scripts[tag]
        body = Block().offset16(_system_block(script.default)).u16(len(script.languages))
        for language in sorted(script.languages):
            body.tag(language).offset16(_system_block(script.languages[language]))
        block.tag(tag).offset16(body)
    return block


def _system_block(system: LanguageSystem | None) -> Block | None:
    if system is None:
        return None
    required = _NO_FEATURE if system.required is None else system.required
    return Block().u16(0, required, len(system.features), *system.features)

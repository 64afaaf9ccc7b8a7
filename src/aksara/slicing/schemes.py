"""Cutting by script or by language: where the characters belong, and not what pages show, decides."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence

from aksara.slicing.kinds import CORE, LATIN
from aksara.text import find_language

_LATIN_SCRIPT = "Latn"


def by_script(groups: Iterable[frozenset[int]], kind: Callable[[int], str]) -> list[frozenset[int]]:
    """One slice a script; signs of running text go with the first of them, which is Latin where there is any."""
    parts = _by_key(groups, kind)
    main = LATIN if LATIN in parts else next((name for name in parts if name != CORE), CORE)
    if CORE in parts and main != CORE:
        parts[main] = parts.pop(CORE) | parts[main]
    return list(parts.values())


def by_language(
    groups: Iterable[frozenset[int]], tags: Sequence[str], kind: Callable[[int], str]
) -> list[frozenset[int]]:
    """One slice for what languages share, one for the rest of each; other characters by script.

    What only languages of another script than Latin, or the first one's where none is Latin, share has a slice of its
    own. A letter that a language only needs for foreign names is not its own.
    """
    languages = [find_language(tag) for tag in dict.fromkeys(tags)]
    letters = {language.tag: language.letters for language in languages}
    others = {language.tag: language.characters for language in languages}
    script_of = {language.tag: language.script for language in languages}
    main = _LATIN_SCRIPT if _LATIN_SCRIPT in script_of.values() else languages[0].script

    def key(code: int) -> str:
        if kind(code) == CORE:
            return CORE
        having = [tag for tag, own in letters.items() if code in own]
        having = having or [tag for tag, own in others.items() if code in own]
        if not having:
            return f"rest {kind(code)}"
        if len(having) == 1:
            return f"language {having[0]}"
        scripts = {script_of[tag] for tag in having}
        return CORE if main in scripts else f"script {min(scripts)}"

    return list(_by_key(groups, key).values())


def _by_key(groups: Iterable[frozenset[int]], key: Callable[[int], str]) -> dict[str, frozenset[int]]:
    """The groups under the key that most of their characters have, those of running text before all others."""
    codes_by_key: dict[str, set[int]] = {}
    for group in groups:
        counts = Counter(map(key, sorted(group)))
        chosen = CORE if CORE in counts else max(sorted(counts), key=lambda name: counts[name])
        codes_by_key.setdefault(chosen, set()).update(group)
    return {name: frozenset(codes) for name, codes in sorted(codes_by_key.items())}

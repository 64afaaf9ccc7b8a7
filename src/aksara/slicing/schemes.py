"""Cutting by script or by language: where the characters belong, and not what pages show, decides."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence

from aksara.slicing.kinds import CORE, LATIN
from aksara.text import find_language


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
    """One slice for what languages share, one for what each has besides; the rest by script.

    What only languages of another script than the first one's share has a slice of its own.
    """
    languages = [find_language(tag) for tag in dict.fromkeys(tags)]
    signs = frozenset().union(*(language.signs for language in languages))

    def key(code: int) -> str:
        having = [language for language in languages if code in language.characters]
        if not having:
            return CORE if kind(code) == CORE else f"rest {kind(code)}"
        if code in signs and kind(code) == CORE:
            return CORE
        if len(having) == 1:
            return f"language {having[0].tag}"
        scripts = {language.script for language in having}
        return CORE if languages[0].script in scripts else f"script {min(scripts)}"

    return list(_by_key(groups, key).values())


def _by_key(groups: Iterable[frozenset[int]], key: Callable[[int], str]) -> dict[str, frozenset[int]]:
    """The groups under the key that most of their characters have, those of running text before all others."""
    found: dict[str, set[int]] = {}
    for group in groups:
        counts = Counter(map(key, sorted(group)))
        chosen = CORE if CORE in counts else max(sorted(counts), key=lambda name: counts[name])
        found.setdefault(chosen, set()).update(group)
    return {name: frozenset(codes) for name, codes in sorted(found.items())}

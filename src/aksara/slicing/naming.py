"""Names of slices that describe their content."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence

from aksara.slicing.kinds import CJK, CORE, HANGUL
from aksara.text import find_language

_SPACE = 0x20
#: The part of a slice's characters that a language must have for it to be named after it.
_OWN = 0.9
_DIGITS_AND_SIGNS = frozenset(range(0x20, 0x41))


def slice_names(
    slices: Sequence[frozenset[int]],
    kind: Callable[[int], str],
    languages: Sequence[str],
    known: Mapping[str, frozenset[int]],
) -> list[str]:
    """A name for each; `known` are those that keep the name which they have had, by it."""
    names: list[str] = []
    core = _core_of(slices)
    of_core = set(map(kind, slices[core])) - {CORE}
    for index, codes in enumerate(slices):
        kept = next((name for name, before in known.items() if before & codes and name not in names), "")
        if kept and len(known[kept] & codes) * 2 >= len(codes):
            names.append(kept)
            continue
        if index == core and CORE not in known:
            names.append(CORE)
            continue
        name = _name(codes, kind, languages)
        # "greek" is all of it; where running text has some, "greek-ext" is the rest.
        names.append(f"{name}-ext" if name in of_core - {CJK, HANGUL} else name)
    return _told_apart(names, frozenset(known))


def _core_of(slices: Sequence[frozenset[int]]) -> int:
    """The slice of running text: with the space, else with most digits and signs."""
    return max(range(len(slices)), key=lambda n: (_SPACE in slices[n], len(slices[n] & _DIGITS_AND_SIGNS), -n))


def _name(codes: frozenset[int], kind: Callable[[int], str], languages: Sequence[str]) -> str:
    counts = Counter(map(kind, sorted(codes)))
    chosen = max(sorted(counts), key=lambda name: counts[name])
    having = [tag for tag in languages if len(find_language(tag).characters & codes) >= _OWN * len(codes)]
    if len(having) == 1 and sum(_is_written_with(tag, chosen, kind) for tag in languages) > 1:
        return having[0].lower()
    return "signs" if chosen == CORE else chosen


def _is_written_with(tag: str, chosen: str, kind: Callable[[int], str]) -> bool:
    """Whether a language is written with characters of a kind."""
    return any(kind(code) == chosen for code in find_language(tag).letters)


def _told_apart(names: Sequence[str], known: frozenset[str]) -> list[str]:
    """Those that several have with numbers, counted past the known ones."""
    counts = Counter(names)
    found: list[str] = []
    used = set(known)
    for name in names:
        if name in known or (counts[name] == 1 and name not in used):
            found.append(name)
            used.add(name)
            continue
        suffix = 1
        while f"{name}-{suffix}" in used:
            suffix += 1
        found.append(f"{name}-{suffix}")
        used.add(found[-1])
    return found

"""Scripts: the characters that each is written with (Unicode Standard Annex 24; codes of ISO 15924)."""

from __future__ import annotations

from bisect import bisect_right
from difflib import get_close_matches
from functools import cache

from aksara.data.scripts import SCRIPTS, SHARED
from aksara.errors import RequestError
from aksara.text.languages import all_languages

#: What belongs to no script alone.
COMMON = "Zyyy"
#: Scripts that ordinary fonts and system families have.
USUAL_SCRIPTS = frozenset({"Latn", "Grek", "Cyrl"})
# Codes that stand for several scripts at once.
_COMBINED = {
    "Jpan": ("Hani", "Hira", "Kana"),
    "Kore": ("Hang", "Hani"),
    "Hans": ("Hani",),
    "Hant": ("Hani",),
    "Hrkt": ("Hira", "Kana"),
    "Hanb": ("Hani", "Bopo"),
}


def script_name(code: str) -> str:
    """`Latn` → "Latin"; the code itself for one that Unicode does not name."""
    return SCRIPTS[code][0] if code in SCRIPTS else code


@cache
def _spans() -> tuple[list[int], list[tuple[int, str]]]:
    """Where the spans of all scripts start; where each ends, and its script."""
    spans = []
    for code, (_, text) in SCRIPTS.items():
        for part in text.split():
            first, _, last = part.partition("-")
            spans.append((int(first, 16), int(last or first, 16), code))
    spans.sort()
    return [first for first, _, _ in spans], [(last, code) for _, last, code in spans]


def script_of(character: int) -> str:
    """The script of a code point (Unicode Standard Annex 24); `Zyyy` for what several share, as most punctuation."""
    starts, spans = _spans()
    index = bisect_right(starts, character) - 1
    if index < 0:
        return COMMON
    last, code = spans[index]
    return code if character <= last else COMMON


def scripts_of(character: int) -> frozenset[str]:
    """The scripts that a code point is used in: its own, or those that Unicode's Script_Extensions name for what
    several share; `Zyyy` alone where these are none in particular.

    >>> sorted(scripts_of(0x30FC)), sorted(scripts_of(0x41)), sorted(scripts_of(0x2C))
    (['Hira', 'Kana'], ['Latn'], ['Zyyy'])
    """
    own = script_of(character)
    return frozenset({own}) if own != COMMON else _sharing().get(character, frozenset({COMMON}))


@cache
def _sharing() -> dict[int, frozenset[str]]:
    """The scripts that share a character, by its code point."""
    scripts_by_code: dict[int, set[str]] = {}
    for script, text in SHARED.items():
        for code in _span(text):
            scripts_by_code.setdefault(code, set()).add(script)
    return {code: frozenset(scripts) for code, scripts in scripts_by_code.items()}


@cache
def script_characters(code: str) -> frozenset[int]:
    """The characters of a script, and the common ones that it uses.

    These are those that Unicode's Script_Extensions give it, and the punctuation, digits and spaces of the languages
    written in it.

    Raises `RequestError` with the nearest codes for one that is not known.
    """
    code = code[:1].upper() + code[1:].lower()
    parts = _COMBINED.get(code, (code,))
    if any(part not in SCRIPTS for part in parts):
        raise RequestError(f"no script '{code}' is known{_nearest(code)}; write an ISO 15924 code like Latn or Cyrl")
    codes: set[int] = set()
    for part in parts:
        codes |= _span(SCRIPTS[part][1]) | _span(SHARED.get(part, ""))
    for language in all_languages():
        if language.script in (code, *parts):
            codes |= language.signs
    return frozenset(codes)


def _nearest(code: str) -> str:
    names = {name.lower(): key for key, (name, _) in SCRIPTS.items()}
    close = [names[name] for name in get_close_matches(code.lower(), names, 2, 0.7)]
    close += get_close_matches(code, SCRIPTS, 3, 0.5)
    shown = ", ".join(f"{key} ({SCRIPTS[key][0]})" for key in dict.fromkeys(close[:3]))
    return f"; the nearest are {shown}" if shown else ""


def _span(text: str) -> set[int]:
    codes: set[int] = set()
    for part in text.split():
        first, _, last = part.partition("-")
        codes.update(range(int(first, 16), int(last or first, 16) + 1))
    return codes

"""Kerning: pairs of groups of letters, spelt out for the letters with accents too."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable

# First letters, second letters, units. Later lines win.
_PAIRS = (
    ("T", "aceoqsgdmnpruvwxyzæœø", -62),
    ("T", "A", -52),
    ("T", ".,-–—:;", -60),
    ("T", "COGQ", -14),
    ("VY", "A", -44),
    ("W", "A", -30),
    ("A", "VY", -44),
    ("A", "W", -30),
    ("A", "T", -50),
    ("A", "COGQU", -12),
    ("A", "vwy", -22),
    ("V", "aceoqsgdø", -34),
    ("V", "mnpru", -20),
    ("W", "aceoqsgdø", -22),
    ("W", "mnpru", -12),
    ("Y", "aceoqsgdø", -56),
    ("Y", "mnpruvw", -38),
    ("VWY", ".,", -64),
    ("VWY", "-–—", -34),
    ("L", "TVY", -62),
    ("L", "W", -42),
    ("L", "vwy", -26),
    ("L", "COGQU", -16),
    ("L", "’”\"'", -80),
    ("PF", "A", -50),
    ("PF", ".,", -84),
    ("F", "aeo", -18),
    ("P", "aeo", -12),
    ("R", "TVWY", -16),
    ("DO", "TVWYAXZ", -14),
    ("DOQ", ".,", -18),
    ("K", "COGQ", -22),
    ("K", "vwyo", -22),
    ("X", "COGQ", -18),
    ("k", "ceoqdg", -14),
    ("r", ".,", -58),
    ("vwy", ".,", -44),
    ("f", ".,", -26),
    ("f", "’”\"'?!)]", 32),
    ("x", "ceoqdg", -14),
    ("7", ".,", -60),
    ("’", "s", -26),
    (".,", "’”", -60),
)


def pairs(characters: Iterable[str]) -> dict[tuple[str, str], int]:
    """Value of each pair among these characters; letters with accents kern as their bases do."""
    members: dict[str, list[str]] = {}
    for character in characters:
        members.setdefault(unicodedata.normalize("NFD", character)[0], []).append(character)
    result: dict[tuple[str, str], int] = {}
    for firsts, seconds, value in _PAIRS:
        for first in (c for base in firsts for c in members.get(base, ())):
            for second in (c for base in seconds for c in members.get(base, ())):
                # Accents above narrow the room beneath a roof: half is enough there.
                crowded = first in "TVWY" and second not in seconds and value < 0 and second.islower()
                result[first, second] = value // 2 if crowded else value
    return result

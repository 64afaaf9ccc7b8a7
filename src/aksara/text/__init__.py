"""Characters: sets, Unicode ranges, and what else a set of characters needs."""

from aksara.text.frequencies import Frequencies, frequencies_for, language_frequencies, text_frequencies
from aksara.text.languages import Coverage, Language, all_languages, coverage, covered_languages, find_language
from aksara.text.ranges import bridged, format_intervals, format_ranges, intervals, listed_codes, parse_ranges
from aksara.text.scripts import script_characters, script_name
from aksara.text.selection import CharacterSelection, named_characters, select_characters
from aksara.text.shaping import implied_characters

__all__ = [
    "CharacterSelection",
    "Coverage",
    "Frequencies",
    "Language",
    "all_languages",
    "bridged",
    "coverage",
    "covered_languages",
    "find_language",
    "format_intervals",
    "format_ranges",
    "frequencies_for",
    "implied_characters",
    "intervals",
    "language_frequencies",
    "listed_codes",
    "named_characters",
    "parse_ranges",
    "script_characters",
    "script_name",
    "select_characters",
    "text_frequencies",
]

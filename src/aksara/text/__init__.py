"""Characters: sets, Unicode ranges, and what else a set of characters needs."""

from aksara.text.companions import companions
from aksara.text.languages import Coverage, Language, all_languages, coverage, covered_languages, find_language
from aksara.text.ranges import format_ranges, intervals, parse_ranges
from aksara.text.scripts import script_characters, script_name
from aksara.text.wanted import wanted_characters

__all__ = [
    "Coverage",
    "Language",
    "all_languages",
    "companions",
    "coverage",
    "covered_languages",
    "find_language",
    "format_ranges",
    "intervals",
    "parse_ranges",
    "script_characters",
    "script_name",
    "wanted_characters",
]

"""Characters: sets, Unicode ranges, and what else a set of characters needs."""

from aksara.text.companions import companions
from aksara.text.frequencies import Frequencies, frequencies_for, language_frequencies, text_frequencies
from aksara.text.languages import Coverage, Language, all_languages, coverage, covered_languages, find_language
from aksara.text.pages import TEXT_SUFFIXES, PageText, read_page
from aksara.text.ranges import bridged, format_intervals, format_ranges, intervals, parse_ranges
from aksara.text.scripts import script_characters, script_name
from aksara.text.wanted import Wanted, wanted, wanted_characters

__all__ = [
    "TEXT_SUFFIXES",
    "Coverage",
    "Frequencies",
    "Language",
    "PageText",
    "Wanted",
    "all_languages",
    "bridged",
    "companions",
    "coverage",
    "covered_languages",
    "find_language",
    "format_intervals",
    "format_ranges",
    "frequencies_for",
    "intervals",
    "language_frequencies",
    "parse_ranges",
    "read_page",
    "script_characters",
    "script_name",
    "text_frequencies",
    "wanted",
    "wanted_characters",
]

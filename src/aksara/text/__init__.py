"""Characters: sets, Unicode ranges, and what else a set of characters needs."""

from aksara.text.characters import canonical_companions
from aksara.text.ranges import format_ranges, intervals, parse_ranges

__all__ = ["canonical_companions", "format_ranges", "intervals", "parse_ranges"]

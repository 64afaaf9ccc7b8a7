"""Which tables a web font can do without, and why."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from aksara.errors import FontError, TableUnread
from aksara.font import Font
from aksara.sizes import format_size
from aksara.tables.registry import CLASSES, UNKNOWN, reason_to_drop
from aksara.tables.subsetting import SubsetScope

_COLOUR_TABLES = frozenset({"COLR", "CPAL", "SVG ", "sbix", "CBDT", "CBLC"})
#: Browsers differ here: without a palette, Chromium draws the layers of 'COLR' in magenta.
_WITHOUT_COLOURS = "glyphs lose their colours, and those without an outline of their own are blank"


class DroppedTable(Struct, frozen=True):
    """A table that was left out: its tag, its size in bytes, and the reason in words."""

    tag: str
    size: int
    reason: str


def unneeded_tables(font: Font, scope: SubsetScope) -> tuple[DroppedTable, ...]:
    """The tables that a web font of this scope does without, by tag."""
    sizes = font.sizes()
    reasons = {tag: reason_to_drop(tag, scope) for tag in sorted(sizes)}
    return tuple(DroppedTable(tag, sizes[tag], reason) for tag, reason in reasons.items() if reason is not None)


def warnings_about(font: Font, dropped: Sequence[DroppedTable]) -> list[str]:
    """What leaving these tables out may change."""
    warnings = []
    if "Silf" in font and "GSUB" not in font:
        warnings.append("it is shaped by Graphite only, which is left out: letters will not join or combine as they do")
    unknown = [f"'{table.tag}' ({format_size(table.size)})" for table in dropped if table.reason == UNKNOWN]
    if unknown:
        which = "tables that are unknown and that no browser uses" if len(unknown) > 1 else "an unknown table"
        warnings.append(f"left out {which}: {', '.join(unknown)}")
    return warnings


def damaged_tables(font: Font, dropped: set[str], known: Sequence[FontError] = ()) -> tuple[set[str], list[str]]:
    """Tags of damaged tables that browsers ignore, and the problems found, also in parts of tables.

    `known` is damage that only came out when a part of a table was needed.
    """
    damaged: set[str] = set()
    warnings: list[str] = []
    errors = {error.table: error for error in known}
    for tag, table_class in CLASSES.items():
        if not table_class.OPTIONAL or tag not in font or tag in dropped:
            continue
        try:
            if tag in errors:
                raise errors[tag]
            changed = _WITHOUT_COLOURS if tag in _COLOUR_TABLES else "text may look different there"
            warnings += (f"{defect}; {changed}" for defect in font.table(table_class).defects_found())
        except FontError as error:
            damaged.add(tag)
            if isinstance(error, TableUnread):
                warnings.append(f"table '{tag}' is left out: {error.problem}")
                continue
            lost = _WITHOUT_COLOURS if tag in _COLOUR_TABLES else "text may lose its effect"
            warnings.append(f"table '{tag}' is damaged ({error.problem}) and left out; {lost}")
    return damaged, warnings

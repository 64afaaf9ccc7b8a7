"""Subsetting: a font with only what the kept characters and features need.

Each table cuts itself down (`tables/`); here it is decided which glyphs are needed, which tables go, and why.
"""

from aksara.subsetting.dropped_tables import DroppedTable
from aksara.subsetting.feature_costs import OmittedFeature
from aksara.subsetting.features import FeatureChoice
from aksara.subsetting.subsetter import (
    Costs,
    KeptTables,
    Subset,
    SubsetOptions,
    draws_any,
    find_kept_tables,
    has_visible,
    needed_glyphs,
    subset,
)

__all__ = [
    "Costs",
    "DroppedTable",
    "FeatureChoice",
    "KeptTables",
    "OmittedFeature",
    "Subset",
    "SubsetOptions",
    "draws_any",
    "find_kept_tables",
    "has_visible",
    "needed_glyphs",
    "subset",
]

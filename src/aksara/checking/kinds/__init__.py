"""Every kind of finding: its levels and texts. Documentation and SARIF are generated from this table."""

from __future__ import annotations

from collections.abc import Mapping

from aksara.checking.kinds.files import FILES
from aksara.checking.kinds.kind import LEVELS, Group, Kind, Level
from aksara.checking.kinds.project import PROJECT
from aksara.checking.kinds.rules import RULES
from aksara.checking.kinds.server import SERVER
from aksara.checking.kinds.use import USE

__all__ = ["KINDS", "LEVELS", "Group", "Kind", "Level"]

#: All kinds by name.
KINDS: Mapping[str, Kind] = {kind.name: kind for kind in (*RULES, *FILES, *USE, *SERVER, *PROJECT)}

"""The tables of findings in docs/checking.md, generated from the table of kinds."""

from __future__ import annotations

import re
from typing import get_args

from aksara.checking.kinds import KINDS, Group

_TABLE = re.compile(r"(<!-- findings: ([a-z]+) -->\n).*?(<!-- end -->)", re.DOTALL)


def with_tables(document: str) -> str:
    """A document in which the rows between `<!-- findings: GROUP -->` and `<!-- end -->` are those of the group."""
    return _TABLE.sub(lambda match: f"{match[1]}{_table(match[2])}{match[3]}", document)


def _table(group: str) -> str:
    if group not in get_args(Group):
        raise ValueError(f"there is no group '{group}' of findings")
    rows = [
        f"| `{kind.name}` | {' or '.join(kind.levels)} | {kind.what} |"
        for kind in KINDS.values()
        if kind.group == group
    ]
    return "\n".join(["| kind | level | what it is |", "|---|---|---|", *rows, ""])

"""Kinds of findings about a project and its builds."""

from __future__ import annotations

from aksara.checking.kinds.kind import NOTHING, Case, Kind

PROJECT = (
    Kind(
        name="build-outdated",
        group="project",
        level="error",
        what="fonts or style sheet are not those that the project would make now",
        problem="the project would make other files: {listed}",
        effect="readers see the site with older fonts, or with rules that name missing fonts",
        remedy="run aksara build, and publish what it writes",
        cases={
            "alike": Case(level="note", effect="nothing: fonts are right, and fallback faces as good as right"),
        },
    ),
    Kind(
        name="budget-missed",
        group="project",
        level="error",
        what="a page's first view fetches more than the budget of the project",
        problem="{problem}",
        effect="readers wait longer than you planned for",
        remedy="use fewer faces on that page, or raise the budget",
    ),
    Kind(
        name="acceptance-unused",
        group="project",
        level="note",
        what="an accepted finding that no longer occurs, or whose date has passed",
        problem="{problem}",
        effect=NOTHING,
        remedy="remove it from aksara.toml",
        cases={"over": Case(remedy="correct what it accepts, or set a later until")},
    ),
)

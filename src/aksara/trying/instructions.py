"""What builds a family that was chosen."""

from __future__ import annotations

from msgspec import Struct

from aksara.toml_text import toml_value
from aksara.trying.candidates import Candidate
from aksara.trying.present import TriedPage
from aksara.web.syntax import GENERIC_FAMILIES

#: Characters from which on a list stands on several lines.
_LONG = 100


class Instructions(Struct, frozen=True):
    """How a family is built: in an interface's own words, and as lines of a project file."""

    command: str = ""
    project: str = ""


def project_lines(candidate: Candidate, page: TriedPage) -> str:
    """The lines of `aksara.toml` that say the same."""
    lines = []
    if page.path is not None:
        lines += ["[site]", f"pages = {toml_value([page.path.as_posix()])}", ""]
    fonts = [toml_value(path.as_posix()) for path in candidate.fonts.paths]
    line = f"fonts = [{', '.join(fonts)}]"
    lines += [
        "[[family]]",
        *([line] if len(line) <= _LONG else ["fonts = [", *(f"    {font}," for font in fonts), "]"]),
    ]
    if replaced := replaced_families(page):
        lines.append(f"replaces = {toml_value(replaced)}")
    return "\n".join(lines) + "\n"


def replaced_families(page: TriedPage) -> list[str]:
    """The families of the page that can be named as replaced: those that are no keywords."""
    return [name for name in page.replaced if name not in GENERIC_FAMILIES]

"""How the style sheet refers to a font: relative to where it stands, or by a pattern of the user's."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import quote

from aksara.errors import RequestError

PATH, FILE = "<path>", "<file>"


def check_pattern(pattern: str) -> None:
    """Raise `RequestError` for a pattern that cannot make a different, well-formed URL for each file."""
    if PATH not in pattern and FILE not in pattern:
        raise RequestError(
            f"--url '{pattern}' names no font; put {PATH} (path from the CSS to the font) or {FILE} (its name) into it"
        )
    if any(c in pattern for c in "\n\r\f\\") or "</style" in pattern.lower():
        raise RequestError(f"--url '{pattern}' has a line end, a backslash or '</style', which no URL in CSS can have")
    if '"' in pattern and "'" in pattern:
        raise RequestError(f"--url '{pattern}' has both kinds of quotes; use only one of them")


def font_url(pattern: str, css_file: Path, font_file: Path) -> str:
    """The URL of a font. Relative paths are percent-encoded (RFC 3986); the pattern's own text stays as it is."""
    relative = os.path.relpath(font_file.absolute(), css_file.absolute().parent)
    path = quote(Path(relative).as_posix(), safe="/")
    return pattern.replace(PATH, path).replace(FILE, quote(font_file.name))


def url_value(url: str) -> str:
    """The CSS value `url(…)`, in the quotes that the URL does not have itself."""
    mark = "'" if '"' in url else '"'
    return f"url({mark}{url}{mark})"

"""How the style sheet refers to a font, relative or by a pattern of the user's; and where that leads."""

from __future__ import annotations

import os
import posixpath
import re
from collections.abc import Callable
from html import escape
from pathlib import Path
from typing import Literal
from urllib.parse import quote, unquote

from msgspec import Struct

from aksara.errors import RequestError
from aksara.limits import MAX_ROOTS

PATH, FILE = "<path>", "<file>"
# What opens and closes an expression in the template languages of site builders and preprocessors.
_TEMPLATE = re.compile(r"\{\{.*?\}\}|\{%.*?%\}|<%.*?%>|<\?.*?\?>|[$#@]\{.*?\}|\[\[.*?\]\]", re.DOTALL)
_SCHEME_AND_HOST = re.compile(r"(?:[A-Za-z][A-Za-z0-9+.-]*:)?//[^/]*")
_SCHEME = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:|//")


def check_pattern(pattern: str) -> None:
    """Raise `RequestError` for a pattern that cannot make a different, well-formed URL for each file."""
    problem = ""
    if PATH not in pattern and FILE not in pattern:
        problem = f"names no font; put {PATH} (path from the CSS to the font) or {FILE} (its name) into it"
    elif any(c in pattern for c in "\n\r\f\\") or "</style" in pattern.lower():
        problem = "has a line end, a backslash or '</style', which no URL in CSS can have"
    elif '"' in pattern and "'" in pattern:
        problem = "has both kinds of quotes; use only one of them"
    if problem:
        raise RequestError(f"'{pattern}' {problem}", parameter="BuildRequest.url")


def check_address(address: str) -> None:
    """Raise `RequestError` for an address of a file that cannot stand in CSS as it is."""
    if any(c in address for c in '\n\r\f\\"') or "</style" in address.lower():
        raise RequestError("this address has a line end, a quote or a backslash; copy it once more")


def font_url(pattern: str, css_file: Path, font_file: Path) -> str:
    """The URL of a font. The pattern's own text stays as it is.

    Paths are percent-encoded (RFC 3986), but not inside a template's expression: what it calls wants the path as it
    is, and makes the URL of it. Only what could end the expression or its string is encoded there, too.
    """
    relative = relative_path(css_file, font_file)

    def filled(text: str, encode: Callable[[str], str]) -> str:
        # In one step, so that a folder called "<file>" is not taken for a placeholder.
        return re.sub(f"{PATH}|{FILE}", lambda match: encode(relative if match[0] == PATH else font_file.name), text)

    parts, end = [], 0
    for match in _TEMPLATE.finditer(pattern):
        parts += [filled(pattern[end : match.start()], quote), filled(match[0], _guard)]
        end = match.end()
    return "".join([*parts, filled(pattern[end:], quote)])


def relative_path(css_file: Path, font_file: Path) -> str:
    """From the style sheet to the font, with forward slashes, nothing encoded."""
    return Path(os.path.relpath(font_file.absolute(), css_file.absolute().parent)).as_posix()


def sheet_url(pattern: str, css_file: Path, fonts_folder: Path) -> str | None:
    """The URL of the style sheet, where the pattern says where a server has its files; None for relative paths, which
    differ by page."""
    if pattern.startswith(PATH) or (is_path(pattern) and not pattern.startswith("/")):
        return None
    name = css_file.name
    if FILE in pattern:
        # Where <file> is a font there, the style sheet is as far from it as it is here.
        name = relative_path(fonts_folder / FILE, css_file)
    filled = font_url(pattern.replace(FILE, PATH), css_file.parent / "x", css_file.parent / name)
    return _normal(filled)


def _normal(url: str) -> str:
    """A URL without steps up, where it is a path or an address."""
    if _TEMPLATE.search(url):
        return url
    start = _SCHEME_AND_HOST.match(url)
    head = start[0] if start else ""
    return head + posixpath.normpath(url[len(head) :])


def attribute_value(url: str) -> str:
    """A URL as the value of an attribute in HTML, with its quotes.

    A template's expression stays as it is written: what it calls must not see character references.
    """
    parts, end = [], 0
    for match in _TEMPLATE.finditer(url):
        parts += [escape(url[end : match.start()]), match[0]]
        end = match.end()
    value = "".join([*parts, escape(url[end:])])
    mark = "'" if '"' in value and "'" not in value else '"'
    return f"{mark}{value}{mark}"


def _guard(path: str) -> str:
    return "".join(quote(os.fsencode(c)) if c in "\"'`\\<>{}%$#" or not c.isprintable() else c for c in path)


def url_value(url: str) -> str:
    """The CSS value `url(…)`, in the quotes that the URL does not have itself."""
    mark = "'" if '"' in url else '"'
    return f"url({mark}{url}{mark})"


class UrlTarget(Struct, frozen=True):
    """Where a URL leads: `verdict`, and the file or the site's root that it was resolved to ('' for none).

    'found': to the font. 'missing': to no file, or another. 'unknown': it depends on a server or a template.
    """

    url: str
    verdict: Literal["found", "missing", "unknown"]
    path: str = ""


def is_path(url: str) -> bool:
    """Whether it is a plain path, without a host or a template's expression."""
    return not (_SCHEME.match(url) or _TEMPLATE.search(url))


def resolve_url(url: str, css_file: Path, font_file: Path) -> UrlTarget:
    """Resolve a URL as a browser would that has read the style sheet from disk.

    One that starts with "/" counts from the root of the site, which is not known: each folder above both files is
    tried. Nothing is read but whether files are the same.
    """
    if not is_path(url):
        return UrlTarget(url, "unknown")
    path = unquote(re.split("[?#]", url, maxsplit=1)[0])
    if not path.startswith("/"):
        target = css_file.absolute().parent / path
        return UrlTarget(url, "found" if _same(target, font_file) else "missing", os.path.normpath(target))
    for root in [*font_file.absolute().parents][:MAX_ROOTS]:
        if _same(root / path.lstrip("/"), font_file):
            return UrlTarget(url, "found", str(root))
    return UrlTarget(url, "unknown")


def _same(target: Path, font_file: Path) -> bool:
    # By path and not by inode: in a dry run nothing is there yet.
    return os.path.normpath(target) == os.path.normpath(font_file.absolute()) or (
        os.path.isfile(target) and os.path.isfile(font_file) and target.samefile(font_file)  # noqa: PTH113  # any name
    )

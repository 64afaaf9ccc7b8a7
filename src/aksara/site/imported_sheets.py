"""Style sheets that the modules of a page import: `import "./style.css"` is what bundlers make a link of."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import unquote, urlsplit

from aksara.errors import InputError
from aksara.limits import MAX_IMPORTED_SHEETS, MAX_MODULE_SIZE, MAX_MODULES, MAX_PAGE_SIZE
from aksara.site.access.decoding import decode_page
from aksara.sources import is_file, read_file, resolved

_SCRIPT = re.compile(r"<script\b([^<>]*)>", re.IGNORECASE)
_IS_MODULE = re.compile(r"\btype=[\"']?module\b", re.IGNORECASE)
_SOURCE = re.compile(r"\bsrc=(?:\"([^\"]*)\"|'([^']*)'|([^\s>]+))", re.IGNORECASE)
_IMPORT = re.compile(r"^[ \t]*(?:import|export)\b[^\"';\n]*[\"']([^\"'\n]+)[\"']", re.MULTILINE)
#: What may be left out at the end of the name of a module.
_SUFFIXES = ("", ".js", ".ts", ".jsx", ".tsx", ".mjs", ".vue", "/index.js", "/index.ts", "/index.tsx", "/index.jsx")


def find_imported_sheets(page: Path, root: Path) -> tuple[str, ...]:
    """The addresses of the style sheets, in the order in which they are imported; only files below `root` are read."""
    try:
        source = read_file(page, limit=MAX_PAGE_SIZE)
    except InputError:
        return ()
    if b"module" not in source:
        return ()
    inside = resolved(root)
    waiting: list[Path] = []
    for attributes in filter(_IS_MODULE.search, _SCRIPT.findall(decode_page(source))):
        match = _SOURCE.search(attributes)
        if match and (path := _file(match[1] or match[2] or match[3] or "", page, inside)):
            waiting.append(path)
    seen: set[Path] = set()
    sheets: dict[Path, None] = {}
    while waiting and len(seen) < MAX_MODULES:
        module = waiting.pop(0)
        if module in seen:
            continue
        seen.add(module)
        for path in _imported(module, inside):
            if path.suffix.lower() == ".css":
                sheets.setdefault(path)
            else:
                waiting.append(path)
    return tuple(path.as_uri() for path in list(sheets)[:MAX_IMPORTED_SHEETS])


def _imported(module: Path, root: Path) -> Iterator[Path]:
    """The files that a module imports, but for packages."""
    try:
        source = decode_page(read_file(module, limit=MAX_MODULE_SIZE))
    except InputError:
        return
    for name in _IMPORT.findall(source):
        if name.startswith((".", "/")) and (path := _file(name, module, root)) is not None:
            yield path


def _file(reference: str, base: Path, root: Path) -> Path | None:
    """The file below the root that a reference points to; references with a leading slash start at the root."""
    try:
        path = unquote(urlsplit(reference.strip()).path)
    except ValueError:
        return None
    if not path or "\0" in path or reference.startswith("//") or ":" in reference.split("/", maxsplit=1)[0]:
        return None
    start = root if path.startswith("/") else base.parent
    for suffix in _SUFFIXES:
        candidate = resolved(start / f"{path.lstrip('/')}{suffix}")
        if candidate.is_relative_to(root) and is_file(candidate):
            return candidate
    return None

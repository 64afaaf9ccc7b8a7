"""Fonts that are installed on this computer, found by the name of their family."""

from __future__ import annotations

import os
import struct
import sys
from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Literal

from aksara.errors import FontError, InputError
from aksara.font import Font, open_fonts
from aksara.limits import MAX_INSTALLED_FILES, MAX_INSTALLED_FONTS, MAX_INSTALLED_TABLES, MAX_NAMES_SIZE
from aksara.sources import SourceFile, printable
from aksara.tables.name import FAMILY, FULL_NAME, TYPOGRAPHIC_FAMILY, Name

_SUFFIXES = frozenset({".ttf", ".otf", ".ttc", ".otc"})
_COLLECTION = b"ttcf"


def font_folders() -> list[Path]:
    """The folders in which this system keeps fonts."""
    home = Path.home()
    if sys.platform == "win32":
        local = os.environ.get("LOCALAPPDATA", "")
        found = [Path(os.environ.get("WINDIR", r"C:\Windows"), "Fonts")]
        return [*found, Path(local, "Microsoft/Windows/Fonts")] if local else found
    if sys.platform == "darwin":
        return [Path("/System/Library/Fonts"), Path("/Library/Fonts"), home / "Library/Fonts"]
    return [Path("/usr/share/fonts"), Path("/usr/local/share/fonts"), home / ".local/share/fonts", home / ".fonts"]


def this_platform() -> Literal["windows", "macos", "linux"]:
    """This system, as `PLATFORMS` of `system_families` names it."""
    return "windows" if sys.platform == "win32" else "macos" if sys.platform == "darwin" else "linux"


def fonts_of_family(family: str, folders: Sequence[Path]) -> list[Font]:
    """The fonts of that family in these folders, in a stable order; what cannot be read is skipped."""
    wanted = family.casefold()
    found = []
    for path in _font_files(folders):
        numbers = [name_id for name_id, names in enumerate(_names(path)) if wanted in names]
        if numbers:
            with suppress(InputError):
                fonts = open_fonts(SourceFile(path, printable(str(path))))
                found += [fonts[name_id] for name_id in numbers if name_id < len(fonts)]
    return found


def installed_families(folders: Sequence[Path]) -> set[str]:
    """The names of all families in these folders, as they are compared."""
    return {name for path in _font_files(folders) for names in _names(path) for name in names}


def _font_files(folders: Sequence[Path]) -> Iterator[Path]:
    count = 0
    for folder in folders:
        for base, inner, names in os.walk(folder):
            inner.sort()
            for name in sorted(names):
                if Path(name).suffix.lower() in _SUFFIXES:
                    count += 1
                    if count > MAX_INSTALLED_FILES:
                        return
                    yield Path(base, name)


def _names(path: Path) -> list[set[str]]:
    """The family names of each font of a file, without reading the rest of it."""
    try:
        with path.open("rb") as file:
            head = file.read(12)
            starts: Iterable[int] = (0,)
            if head[:4] == _COLLECTION:
                count = min(struct.unpack(">I", head[8:12])[0], MAX_INSTALLED_FONTS)
                starts = struct.unpack(f">{count}I", file.read(4 * count))
            found = []
            for start in starts:
                file.seek(start + 4)
                count = min(struct.unpack(">H", file.read(8)[:2])[0], MAX_INSTALLED_TABLES)
                directory = file.read(16 * count)
                offset = next(
                    (
                        struct.unpack(">II", directory[position + 8 : position + 16])
                        for position in range(0, len(directory) - 15, 16)
                        if directory[position : position + 4] == b"name"
                    ),
                    (0, 0),
                )
                file.seek(offset[0])
                found.append(_families(file.read(min(offset[1], MAX_NAMES_SIZE))))
            return found
    except (OSError, struct.error, ValueError):
        return []


def _families(data: bytes) -> set[str]:
    try:
        table = Font({Name.TAG: data}).table(Name)
    except FontError:
        return set()
    said = (table.get(name_id) for name_id in (TYPOGRAPHIC_FAMILY, FAMILY, FULL_NAME))
    return {name.casefold() for name in said if name}

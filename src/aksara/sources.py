"""Finding fonts in what the user gives: files and folders, searched through.

Only file names and first bytes are looked at here; reading is bounded.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from aksara.errors import InputError, RequestError

FONT_SUFFIXES = frozenset({".ttf", ".otf", ".ttc", ".otc", ".woff", ".woff2"})
#: The manifest that Aksara leaves in its output folder, by which the folder is known and passed over.
MANIFEST_NAME = "faces.json"
MANIFEST_MARK = b'"made_by": "Aksara'
#: Bytes of one font file; the largest real ones stay well under this.
MAX_FILE_SIZE = 100_000_000
MAX_FILES = 5_000
_MAC_RESOURCES = "__MACOSX"


@dataclass(slots=True, frozen=True)
class FontFile:
    """A file that claims to be a font; `name` is what messages call it: the path as given."""

    path: Path
    name: str

    def read(self) -> bytes:
        """Its bytes. Raises `InputError` where they cannot be had."""
        return read_file(self.path, self.name)


def read_file(path: Path, name: str = "") -> bytes:
    """A file's bytes, bounded in size."""
    name = name or str(path)
    try:
        with path.open("rb") as file:
            data = file.read(MAX_FILE_SIZE + 1)
    except IsADirectoryError as error:
        raise InputError(f"{name}: this is a folder, not a file; give a file inside it") from error
    except OSError as error:
        raise InputError(
            f"{name}: cannot be read ({error.strerror}); check that it is there and yours to read"
        ) from error
    if len(data) > MAX_FILE_SIZE:
        raise InputError(
            f"{name}: larger than {MAX_FILE_SIZE // 1_000_000} MB, which no real font is; give another file"
        )
    return data


def find_fonts(paths: Iterable[Path], *, ignore: Path | None = None) -> list[FontFile]:
    """The font files at these paths, in a stable order, each once; folders are searched through.

    `ignore` is a folder to pass over, as are folders that Aksara has written.
    Raises `RequestError` for a path that does not exist, `InputError` if nothing is found.
    """
    found: dict[Path, FontFile] = {}
    given = list(paths)
    for path in given:
        if not path.exists():
            raise RequestError(f"{path}: there is no such file or folder; check the path")
        for file in _within(path, ignore.resolve() if ignore else None) if path.is_dir() else (path,):
            if len(found) >= MAX_FILES:
                raise RequestError(f"{path}: more than {MAX_FILES} font files; give a smaller folder")
            found.setdefault(file.resolve(), FontFile(file, str(file)))
    if not found:
        places = ", ".join(str(path) for path in given)
        raise InputError(f"{places}: no fonts here; give a folder with TTF, OTF, WOFF or WOFF2 files, or such a file")
    return list(found.values())


def _within(folder: Path, ignore: Path | None) -> Iterator[Path]:
    for place, folders, files in os.walk(folder):
        here = Path(place)
        folders[:] = sorted(
            name
            for name in folders
            if not name.startswith(".")
            and name != _MAC_RESOURCES
            and (here / name).resolve() != ignore
            and not is_own_output(here / name)
        )
        # "._name" is the Mac's note about a file, not the file.
        for name in sorted(files):
            if Path(name).suffix.lower() in FONT_SUFFIXES and not name.startswith("."):
                yield here / name


def is_own_output(folder: Path) -> bool:
    """Whether Aksara wrote this folder: web fonts made from fonts that are here too must not be made again."""
    try:
        with (folder / MANIFEST_NAME).open("rb") as file:
            return MANIFEST_MARK in file.read(400)
    except OSError:
        return False

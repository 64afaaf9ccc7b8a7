"""Looking into ZIPs. Nothing is unpacked to disk: members are read one by one, and their paths are only names."""

from __future__ import annotations

import os
import zipfile
from collections.abc import Iterator
from pathlib import Path

from aksara.errors import InputError
from aksara.sources.source import SourceFile, printable

#: Members of one archive; a delivery of fonts has a few hundred.
MAX_MEMBERS = 20_000
#: Unpacked bytes that the members may claim together.
_MAX_CLAIMED = 2_000_000_000
_SIGNATURES = (b"PK\x03\x04", b"PK\x05\x06")
#: The comment of the ZIPs that Aksara makes, by which it knows them again.
ARCHIVE_MARK = b"Made by Aksara"


def is_archive(path: Path) -> bool:
    """By its first bytes, whatever its name is."""
    try:
        with path.open("rb") as file:
            return file.read(4) in _SIGNATURES
    except OSError:
        return False


def is_own_archive(path: Path) -> bool:
    """Whether Aksara made this ZIP. The comment stands at the very end of the file."""
    try:
        with path.open("rb") as file:
            file.seek(-len(ARCHIVE_MARK), os.SEEK_END)
            return is_archive(path) and file.read() == ARCHIVE_MARK
    except OSError:
        return False


def members(path: Path) -> Iterator[SourceFile]:
    """The files in a ZIP, in the order of their names. Archives within it are not opened.

    Raises `InputError` for one that is damaged or beyond all bounds.
    """
    name = printable(str(path))
    try:
        with zipfile.ZipFile(path) as archive:
            found = [info for info in archive.infolist() if not info.is_dir()]
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise InputError(f"{name}: this ZIP cannot be opened ({error}); download it again") from error
    if len(found) > MAX_MEMBERS or sum(info.file_size for info in found) > _MAX_CLAIMED:
        raise InputError(f"{name}: this ZIP claims more than any package of fonts holds; unzip what you need of it")
    for info in sorted(found, key=lambda info: info.filename):
        yield SourceFile(path, f"{name}/{printable(info.filename)}", info.filename)

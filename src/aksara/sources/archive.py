"""Looking into ZIPs. Nothing is unpacked to disk: members are read one by one, and their paths are only names."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

from aksara.errors import InputError
from aksara.limits import MAX_ZIP_MEMBERS, max_unpacked
from aksara.sources.files import open_file, printable
from aksara.sources.source import DAMAGED_ZIP, SourceFile, open_zip

_SIGNATURES = (b"PK\x03\x04", b"PK\x05\x06")
#: The comment of the ZIPs that Aksara makes, by which it knows them again.
ARCHIVE_MARK = b"Made by Aksara"


def is_archive(path: Path) -> bool:
    """Whether it is a ZIP, by its first bytes and not its name."""
    with suppress(InputError, OSError), open_file(path) as file:
        return file.read(4) in _SIGNATURES
    return False


def is_own_archive(path: Path) -> bool:
    """Whether Aksara made this ZIP. The comment is at the very end of the file."""
    with suppress(InputError, OSError), open_file(path) as file:
        start = file.read(4)
        file.seek(-len(ARCHIVE_MARK), os.SEEK_END)
        return start in _SIGNATURES and file.read() == ARCHIVE_MARK
    return False


def members(path: Path, is_wanted: Callable[[str], bool]) -> Iterator[SourceFile]:
    """The files in a ZIP whose names are wanted, in the order of these. Archives within it are not opened.

    Raises `InputError` for one that is damaged or beyond all bounds.
    """
    name = printable(str(path))
    try:
        listed = open_zip(path).infolist()
    except DAMAGED_ZIP as error:
        raise InputError(f"{name}: this ZIP cannot be opened ({error}); download it again") from error
    if len(listed) > MAX_ZIP_MEMBERS:
        raise InputError(f"{name}: this ZIP holds more than {MAX_ZIP_MEMBERS:,} files; unzip what you need of it")
    infos = [info for info in listed if info.filename and not info.is_dir() and is_wanted(info.filename)]
    if sum(info.file_size for info in infos) > max_unpacked(path.stat().st_size):
        raise InputError(f"{name}: this ZIP is larger than any package of fonts; unzip the files you need")
    for info in sorted(infos, key=lambda info: info.filename):
        yield SourceFile(path, f"{name}/{printable(info.filename)}", info.filename)

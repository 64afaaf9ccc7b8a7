"""One file that was given, on its own or inside a ZIP."""

from __future__ import annotations

import lzma
import zipfile
import zlib
from functools import lru_cache
from pathlib import Path

from msgspec import Struct

from aksara.errors import InputError
from aksara.limits import MAX_FILE_SIZE
from aksara.sources.files import bounded, open_file, read_file

_ENCRYPTED = 0x1
#: What the readers of ZIPs raise for damaged data.
DAMAGED_ZIP = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    EOFError,
    NotImplementedError,
    KeyError,
    ValueError,
    OSError,
    RuntimeError,
    MemoryError,  # a dictionary of a size that an archive claims
)


class SourceFile(Struct, frozen=True):
    """A file on disk, or a member of a ZIP there.

    `name` is what messages call it: the path as given, for a member "archive.zip/folder/font.otf". `number` is that of
    the only font that is meant of a collection, from 1, or None for all that it holds.
    """

    path: Path
    name: str
    member: str | None = None
    number: int | None = None

    @property
    def as_path(self) -> Path:
        """A path by which it is found again: into a ZIP, or with the font's number in a collection."""
        path = self.path / self.member if self.member is not None else self.path
        return path if self.number is None else path.with_name(f"{path.name}#{self.number}")

    def read(self, limit: int = MAX_FILE_SIZE) -> bytes:
        """Its bytes. Raises `InputError` where they cannot be had or are more than `limit`."""
        return read_file(self.path, self.name, limit) if self.member is None else self._read_member(limit)

    def _read_member(self, limit: int) -> bytes:
        assert self.member is not None
        try:
            archive = open_zip(self.path)
            if archive.getinfo(self.member).flag_bits & _ENCRYPTED:
                raise InputError(f"{self.name}: the ZIP is protected by a password; unzip it and give its folder")
            with archive.open(self.member) as file:
                # What the directory claims of the size is not believed.
                data = file.read(limit + 1)
        except DAMAGED_ZIP as error:
            raise InputError(f"{self.name}: cannot be unzipped ({error}); ask for an undamaged copy") from error
        return bounded(data, self.name, limit)


def open_zip(path: Path) -> zipfile.ZipFile:
    """The ZIP, its directory read once as long as the file does not change.

    Raises `InputError` where it cannot be opened, and what `DAMAGED_ZIP` lists where it is damaged.
    """
    status = path.stat()
    return _open_zip(path, status.st_mtime_ns, status.st_size)


# A few stay open: the members of one ZIP are read after one another.
@lru_cache(maxsize=4)
def _open_zip(path: Path, _changed: int, _size: int) -> zipfile.ZipFile:
    return zipfile.ZipFile(open_file(path))

"""One file that was given, on its own or inside a ZIP."""

from __future__ import annotations

import unicodedata
import zipfile
import zlib
from dataclasses import dataclass
from pathlib import Path

from aksara.errors import InputError

#: Bytes of one file; the largest real fonts stay well under this.
MAX_FILE_SIZE = 100_000_000
_ENCRYPTED = 0x1


@dataclass(slots=True, frozen=True)
class SourceFile:
    """A file on disk, or a member of a ZIP there.

    `name` is what messages call it: the path as given, for a member "archive.zip/folder/font.otf".
    """

    path: Path
    name: str
    member: str | None = None

    def read(self, limit: int = MAX_FILE_SIZE) -> bytes:
        """Its bytes. Raises `InputError` where they cannot be had or are more than `limit`."""
        return read_file(self.path, self.name, limit) if self.member is None else self._read_member(limit)

    def _read_member(self, limit: int) -> bytes:
        assert self.member is not None
        try:
            with zipfile.ZipFile(self.path) as archive:
                if archive.getinfo(self.member).flag_bits & _ENCRYPTED:
                    raise InputError(f"{self.name}: the ZIP is protected by a password; unzip it and give its folder")
                with archive.open(self.member) as file:
                    # What the directory claims of the size is not believed.
                    data = file.read(limit + 1)
        except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, KeyError, ValueError) as error:
            raise InputError(f"{self.name}: cannot be unzipped ({error}); ask for an undamaged copy") from error
        except OSError as error:
            raise InputError(f"{self.name}: cannot be read ({error.strerror})") from error
        return _bounded(data, self.name, limit)


def read_file(path: Path, name: str = "", limit: int = MAX_FILE_SIZE) -> bytes:
    """A file's bytes, bounded in size."""
    name = name or printable(str(path))
    try:
        with path.open("rb") as file:
            data = file.read(limit + 1)
    except IsADirectoryError as error:
        raise InputError(f"{name}: this is a folder, not a file; give a file inside it") from error
    except OSError as error:
        reason = f"cannot be read ({error.strerror})"
        raise InputError(f"{name}: {reason}; check that it exists and that you may read it") from error
    return _bounded(data, name, limit)


def _bounded(data: bytes, name: str, limit: int) -> bytes:
    if len(data) > limit:
        raise InputError(f"{name}: larger than {limit / 1_000_000:g} MB, the limit for such files; give another")
    return data


def printable(name: str) -> str:
    """A file's name without what could play with a terminal: control and direction characters, lone surrogates."""
    return "".join(
        c if unicodedata.category(c) not in ("Cc", "Cf", "Cs") else "\N{REPLACEMENT CHARACTER}" for c in name
    )

"""Files on disk: what is at a path, and reading it, bounded and without waiting.

A path may lead to anything: a named pipe that nobody writes to, a device without end, a loop of links. So it is looked
at before it is opened, and only regular files and folders count.
"""

from __future__ import annotations

import os
import re
import stat
import unicodedata
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import BinaryIO, Literal

from aksara.errors import InputError
from aksara.limits import MAX_FILE_SIZE, MAX_KEPT_FILE, MAX_KEPT_FILES
from aksara.observing import FileMark, mark_of, note_file

#: Kinds of what a path leads to; 'other' is not a regular file.
PathKind = Literal["file", "folder", "other", "missing"]

_OTHER_KINDS = {
    stat.S_IFDIR: "a folder",
    stat.S_IFIFO: "a named pipe",
    stat.S_IFSOCK: "a socket",
    stat.S_IFCHR: "a device",
    stat.S_IFBLK: "a device",
}
# Without it, opening a pipe that was put in a file's place just now would wait.
_OPEN = os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0)


def kind_of(path: Path, name: str = "") -> PathKind:
    """The kind of what is at a path, links followed; a broken link is 'missing'.

    Raises `InputError` where that cannot be found out: no permission, a loop of links, a name that no file can have.
    """
    note_file(path)
    try:
        mode = path.stat().st_mode
    except (FileNotFoundError, NotADirectoryError):
        return "missing"
    except (OSError, ValueError) as error:
        raise InputError(f"{name or printable(str(path))}: cannot be read ({_reason(error)})") from error
    return "file" if stat.S_ISREG(mode) else "folder" if stat.S_ISDIR(mode) else "other"


def is_file(path: Path) -> bool:
    """Whether there is a regular file that can be read."""
    return not why_no_file(path)


def is_folder(path: Path) -> bool:
    """Whether there is a folder that can be read."""
    try:
        return kind_of(path) == "folder"
    except InputError:
        return False


def why_no_file(path: Path) -> str:
    """Why an existing path is not a readable regular file, in words; '' if it is one."""
    note_file(path)
    try:
        mode = path.stat().st_mode
    except FileNotFoundError:
        return "the link leads nowhere"
    except (OSError, ValueError) as error:
        return f"cannot be read ({_reason(error)})"
    return "" if stat.S_ISREG(mode) else f"not a regular file but {_kind(mode)}"


def _kind(mode: int) -> str:
    return _OTHER_KINDS.get(stat.S_IFMT(mode), "something else")


def resolved(path: Path) -> Path:
    """The path, absolute and without links; where links run in a circle, as far as they can be followed."""
    try:
        return Path(os.path.realpath(path))
    except ValueError:
        return path.absolute()


def open_file(path: Path, name: str = "") -> BinaryIO:
    """A regular file, open for reading.

    Raises `InputError` where it cannot be opened or is no regular file; `name` is what the message calls it.
    """
    name = name or printable(str(path))
    note_file(path)
    try:
        _check_regular(path.stat().st_mode, name)
        descriptor = os.open(path, _OPEN)
        try:
            _check_regular(os.fstat(descriptor).st_mode, name)
            return os.fdopen(descriptor, "rb")
        except BaseException:
            os.close(descriptor)
            raise
    except (OSError, ValueError) as error:
        advice = "check that it exists and that you may read it"
        raise InputError(f"{name}: cannot be read ({_reason(error)}); {advice}") from error


def _check_regular(mode: int, name: str) -> None:
    if stat.S_ISDIR(mode):
        raise InputError(f"{name}: this is a folder, not a file; give a file inside it")
    if not stat.S_ISREG(mode):
        raise InputError(f"{name}: not a regular file but {_kind(mode)}; copy what it holds to a file, and give that")


class _KeptReads:
    """Small files that were read, by absolute path, with their marks: those that were used last, within a limit."""

    def __init__(self) -> None:
        self._files: OrderedDict[Path, tuple[FileMark, bytes]] = OrderedDict()
        self._size = 0

    def data(self, path: Path) -> bytes | None:
        """What was read of a file; None if it was not, or has changed."""
        mark, data = self._files.get(path, (None, b""))
        if mark is None or mark_of(path) != mark:
            return None
        self._files.move_to_end(path)
        return data

    def keep(self, path: Path, mark: FileMark, data: bytes) -> None:
        """Keep what was read of a file that had that mark before."""
        if len(data) > MAX_KEPT_FILE:
            return
        self._size += len(data) - len(self._files.pop(path, (None, b""))[1])
        self._files[path] = mark, data
        while self._size > MAX_KEPT_FILES:
            self._size -= len(self._files.popitem(last=False)[1][1])


_kept_reads: ContextVar[_KeptReads | None] = ContextVar("kept_reads", default=None)


@contextmanager
def reading_once() -> Iterator[None]:
    """Inside, small files that several steps need are read once, as long as they do not change."""
    token = _kept_reads.set(_kept_reads.get() or _KeptReads())
    try:
        yield
    finally:
        _kept_reads.reset(token)


def read_file(path: Path, name: str = "", limit: int = MAX_FILE_SIZE) -> bytes:
    """A file's bytes. Raises `InputError` where they cannot be had or are more than `limit`."""
    name = name or printable(str(path))
    kept = _kept_reads.get()
    if kept is None:
        return _read(path, name, limit)
    absolute = path.absolute()
    data = kept.data(absolute)
    if data is not None:
        note_file(path)
        return bounded(data, name, limit)
    mark = mark_of(absolute)
    data = _read(path, name, limit)
    kept.keep(absolute, mark, data)
    return data


def _read(path: Path, name: str, limit: int) -> bytes:
    with open_file(path, name) as file:
        try:
            data = file.read(limit + 1)
        except OSError as error:
            raise InputError(f"{name}: cannot be read ({_reason(error)})") from error
    return bounded(data, name, limit)


def read_text(path: Path, limit: int = MAX_FILE_SIZE) -> str:
    """A UTF-8 file. Raises `InputError` where it cannot be read or is something else."""
    try:
        return read_file(path, limit=limit).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(f"{printable(str(path))}: not UTF-8 text (byte {error.start}); save it as UTF-8") from error


def read_start(path: Path, size: int) -> bytes:
    """The first bytes of a file, at most `size`. Raises `InputError` where it cannot be read."""
    kept = _kept_reads.get()
    if kept is not None and (data := kept.data(path.absolute())) is not None:
        return data[:size]
    with open_file(path) as file:
        return file.read(size)


def bounded(data: bytes, name: str, limit: int) -> bytes:
    """The data. Raises `InputError` where they are more than `limit` bytes."""
    if len(data) > limit:
        raise InputError(f"{name}: larger than {limit / 1_000_000:g} MB, the limit for such files; give another")
    return data


def _reason(error: Exception) -> str:
    return error.strerror or str(error) if isinstance(error, OSError) else "no file can have such a name"


def missing_words(path: str) -> str:
    """A message about a missing path, by what it looks like."""
    name = printable(path)
    if match := re.match(r"([a-z][a-z0-9+.-]+):/", name, re.IGNORECASE):
        # Paths have one slash where addresses have two.
        name = re.sub(":/+", "://", name, count=1)
        return f"{name}: addresses of the kind {match[1]}: are not read; download it, and give the file"
    if os.sep == "/" and "\\" in name:
        return f"{name}: no such file; separate folders with /, as in {name.replace(chr(92), '/')}"
    return f"{name}: no such file or folder; check the path"


def printable(name: str) -> str:
    """A file's name without what could play with a terminal: control and direction characters, lone surrogates."""
    return "".join(
        c if unicodedata.category(c) not in ("Cc", "Cf", "Cs") else "\N{REPLACEMENT CHARACTER}" for c in name
    )

"""Locking a folder, so that one process at a time works in it, on every system that has file locks.

Where folders themselves can be locked, they are. Windows locks files only: there a file in the folder for temporary
files stands for the folder, by a hash of its path. Locks go with the process that holds them.
"""

from __future__ import annotations

import errno
import os
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from hashlib import sha256
from pathlib import Path

if sys.platform == "win32":
    import msvcrt
else:
    import fcntl

#: Seconds between looks at a folder that is locked.
_PAUSE = 0.1
#: Error numbers that mean that another process has the lock.
_HELD = (errno.EACCES, errno.EAGAIN, errno.EDEADLK)


class StillLockedError(Exception):
    """Another process has held the lock all the time."""


@contextmanager
def locked(folder: Path, patience: float) -> Iterator[None]:
    """Hold the lock of this folder, which must exist, until the block ends.

    Raises `StillLockedError` if that takes longer than `patience` seconds, `OSError` where the folder cannot be
    opened. File systems that know no locks let everybody in.
    """
    descriptor = _opened(folder)
    try:
        end = time.monotonic() + patience
        while not _is_taken(descriptor):
            if time.monotonic() > end:
                raise StillLockedError
            time.sleep(_PAUSE)
        yield
    finally:
        os.close(descriptor)


def _opened(folder: Path) -> int:
    if sys.platform != "win32":
        return os.open(folder, os.O_RDONLY)
    name = sha256(os.path.normcase(os.path.realpath(folder)).encode("utf-8", "surrogatepass")).hexdigest()[:24]
    return os.open(Path(tempfile.gettempdir()) / f"aksara-{name}.lock", os.O_RDWR | os.O_CREAT)


def _is_taken(descriptor: int) -> bool:
    """Whether the lock is ours now, or there are no locks here."""
    try:
        if sys.platform == "win32":
            msvcrt.locking(descriptor, msvcrt.LK_NBLCK, 1)
        else:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        return error.errno not in _HELD
    return True

"""One process at a time writes to a folder, whichever kind of lock its system has."""

from __future__ import annotations

import errno
import fcntl
import sys
import tempfile
from pathlib import Path
from types import SimpleNamespace

import pytest

from aksara import locking
from aksara.locking import StillLockedError, locked


@pytest.fixture(params=["folders", "files"])
def system(request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> str:
    """A system that locks folders, and one that locks only files, as Windows does."""
    if request.param == "files":

        def lock(descriptor: int, mode: int, size: int) -> None:
            assert (mode, size) == (2, 1)
            try:
                fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError as error:
                raise PermissionError(errno.EACCES, "Permission denied") from error

        (tmp_path / "temporary").mkdir()
        monkeypatch.setattr(tempfile, "tempdir", str(tmp_path / "temporary"))
        monkeypatch.setattr(locking, "msvcrt", SimpleNamespace(locking=lock, LK_NBLCK=2), raising=False)
        monkeypatch.setattr(sys, "platform", "win32")
    return str(request.param)


def test_a_second_build_waits_or_is_refused(system: str, tmp_path: Path) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    one.mkdir()
    other.mkdir()
    with locked(one, 0):
        with pytest.raises(StillLockedError), locked(one / "../one", 0.2):
            pass
        with locked(other, 0):
            pass
    with locked(one, 0):
        assert not list(one.iterdir())
    assert bool(list(tmp_path.glob("temporary/aksara-*.lock"))) == (system == "files")


def test_a_file_system_without_locks_locks_nobody_out(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(descriptor: int, operation: int) -> None:
        raise OSError(errno.ENOLCK, "No locks available")

    monkeypatch.setattr(fcntl, "flock", refuse)
    with locked(tmp_path, 0), locked(tmp_path, 0):
        pass

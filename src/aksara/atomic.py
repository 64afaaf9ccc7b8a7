"""Writing a file whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO


@contextmanager
def written_whole(path: Path, *, private: bool = False) -> Iterator[IO[bytes]]:
    """A file that takes the place of the one at `path` when all of it is written.

    It has the permissions of that one or, `private` ones aside, of any new file. Raises `OSError` if it cannot be
    written; then nothing has changed.
    """
    import tempfile  # only needed here

    path.parent.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=".aksara-")
    try:
        with os.fdopen(handle, "wb") as file:
            yield file
        if not private:
            Path(name).chmod(path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
        Path(name).replace(path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def _umask() -> int:
    # There is no other way to ask for it.
    mask = os.umask(0o077)
    os.umask(mask)
    return mask

"""Which code it is: what caches keep holds for the code that made it, and no other."""

from __future__ import annotations

import os
import sys
from functools import cache
from hashlib import sha256
from pathlib import Path

_HOME = Path(__file__).parent


@cache
def installation_stamp() -> str:
    """A stamp of the installed Python, Aksara and libraries, made without reading them."""
    digest = sha256(sys.version.encode())
    # A folder of libraries changes when one is put into it or taken out.
    libraries = [root for root in sys.path if root.endswith("-packages") and os.path.isdir(root)]  # noqa: PTH112  # quick
    marks = [(root, os.stat(root).st_mtime_ns) for root in libraries]  # noqa: PTH116  # quick
    for folder, folders, names in os.walk(_HOME):
        folders[:] = [name for name in folders if name != "__pycache__"]
        for name in names:
            status = os.stat(os.path.join(folder, name))  # noqa: PTH116, PTH118  # quick
            marks.append((f"{folder}/{name}", status.st_mtime_ns ^ status.st_size))
    digest.update(repr(sorted(marks)).encode())
    return digest.hexdigest()

"""Starting Python processes, which never import modules from the current folder."""

from __future__ import annotations

import os
import sys
from collections.abc import Sequence

#: Python starts a process with `-c` or `-m` with the current folder at the head of its import path. This variable
#: prevents it ("PYTHONSAFEPATH", Python 3.11), also in the processes that `multiprocessing` starts.
SAFE_PATH = "PYTHONSAFEPATH"
_START = "import sys; sys.path += sys.argv[2:]; sys.exit(__import__(sys.argv[1], fromlist=['main']).main())"


def python_command(module: str) -> Sequence[str]:
    """The command that calls `main()` of one of our modules in an isolated process (`python -I`).

    The process ignores the current folder, `PYTHON*` variables and the user's site folder; it gets the folders from
    which this process imports instead, behind those of the standard library.
    """
    return [sys.executable, "-I", "-c", _START, module, *(path for path in sys.path if os.path.isabs(path))]  # noqa: PTH117


def forbid_imports_from_here() -> None:
    """Keep the current folder out of the import path of all Python processes that this one starts."""
    os.environ[SAFE_PATH] = "1"

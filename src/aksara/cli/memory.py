"""How the interpreter and the C library keep memory: fonts are many small objects and a few large blocks."""

from __future__ import annotations

import ctypes
import gc
import os
import sys

#: Objects made between two searches for circular garbage. Fonts are millions of small objects and no circles; with
#: Python's own figure (700) a third of the time of large layout tables goes into searching.
_COLLECT_AFTER = 100_000
#: Blocks of this many bytes go back to the system when they are freed; by itself glibc keeps ever larger ones, in an
#: arena for each thread, which for large fonts is more than is in use.
_LARGE_BLOCK = 128 * 1024
# Of glibc's <malloc.h>.
_MMAP_THRESHOLD, _ARENA_MAX = -3, -8


def frugal() -> None:
    """Collect garbage less often, and return large blocks to the system at once where the C library allows.

    Products of matrices are too small here to be worth threads, which take as long to start as all of NumPy.
    """
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    gc.set_threshold(_COLLECT_AFTER, *gc.get_threshold()[1:])
    if sys.platform == "linux":
        mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
        if mallopt is not None:
            mallopt(_MMAP_THRESHOLD, _LARGE_BLOCK)
            mallopt(_ARENA_MAX, 1)

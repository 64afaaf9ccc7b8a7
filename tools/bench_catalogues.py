"""Catalogues: what a family takes among many in one folder, and what processes beside a build save."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from concurrent.futures import Executor, ProcessPoolExecutor
from pathlib import Path

from aksara import BuildRequest, CharacterRequest, FamilyRequest
from aksara.font import open_font
from aksara.pipeline import build
from aksara.subsetting.renaming import renamed

_FOLDER = Path("/usr/share/fonts/truetype")
#: Families of a small folder, each built by itself, and of a large one.
_FEW, _MANY = 60, 180


def processes() -> None:
    """A build of eight families in this process, and by one and two others beside it."""
    paths = sorted((_FOLDER / "dejavu").glob("*.ttf"))[:8]
    with tempfile.TemporaryDirectory() as folder:
        request = BuildRequest(
            families=tuple(FamilyRequest(fonts=(path,), name=f"Family {n}") for n, path in enumerate(paths)),
            characters=CharacterRequest(languages=("en", "vi", "ru")), folder=Path(folder), cache=False, jobs=1,
        )  # fmt: skip
        alone = _seconds(request, None)
        print(f"eight families by one thread here: {alone:.1f} s")
        for count in (1, 2):
            with ProcessPoolExecutor(count) as executor:
                executor.submit(int).result()
                print(f"  with {count} processes beside it: {_seconds(request, executor) / alone:.2f} of that")


def _seconds(request: BuildRequest, executor: Executor | None) -> float:
    start = time.perf_counter()
    build(request, executor=executor)
    return time.perf_counter() - start


def folders() -> None:
    """Many families of one folder, each by itself and all as one build: processor and memory."""
    fonts = [open_font(path) for path in sorted((_FOLDER / "liberation").glob("*.ttf"))]
    with tempfile.TemporaryDirectory() as folder:
        library = Path(folder, "library")
        library.mkdir()
        figures = []
        for number in range(_MANY):
            family = renamed(fonts[number % len(fonts)], f"Brand {number}")
            (library / f"{number}.ttf").write_bytes(family.write("sfnt"))
            if number + 1 == _FEW:
                figures.append(_of_build(folder))
        figures += [_of_build(folder), _of_build(folder, "--css", "together/faces.css")]
    (_, less), (apart, most), (together, all_at_once) = figures
    print(f"{_MANY} families of one folder, Latin of two languages")
    print(f"  each by itself: {most:.0f} MB ({less:.0f} MB for {_FEW} of them)")
    print(f"  as one build: {all_at_once:.0f} MB, and {together / apart:.2f} of the CPU")


def _of_build(folder: str, *options: str) -> tuple[float, float]:
    """Seconds of processor and megabytes that a build of the library takes in a process of its own."""
    arguments = ["-q", "build", "library", "--for-language", "id,en", "--no-cache", "--effort", "fast", *options]
    process = subprocess.Popen([sys.executable, "-m", "aksara", *arguments], cwd=folder, stderr=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode:
        sys.exit(f"the build of many families failed: {process.returncode}")
    return usage.ru_utime + usage.ru_stime, usage.ru_maxrss * 1024 / 1e6

"""Building again whenever something changes that the last build looked at, until somebody stops it."""

from __future__ import annotations

import stat
import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from aksara.cli.after_build import counts_text
from aksara.cli.screen import Screen
from aksara.cli.stopping import Stopped, answered
from aksara.cli.wording import error_text
from aksara.errors import AksaraError
from aksara.observing import FileMark, Observed, mark_of, names_in, observe
from aksara.pipeline import Written
from aksara.sources import printable

#: Milliseconds without a change after which files count as saved; between looks where changes are not reported.
_QUIET, _LOOK = 150, 1_000
#: Looks at files that are still being written, before they are taken as they are.
_MOST_LOOKS = 20
#: Names of changed files that are said; more are counted.
_NAMED = 3


def watch(build: Callable[[], Sequence[Written]], screen: Screen) -> None:
    """Build, and again after each change, until Ctrl-C; `build` returns the result of each output folder.

    An error is told, and the next change waited for.
    """
    before: Sequence[str] = ()
    with suppress(KeyboardInterrupt):
        while True:
            own: dict[Path, FileMark] = {}
            with observe() as observed:
                started = time.monotonic()
                try:
                    written = build()
                    # As they were left: pages in which links are kept are the build's and the user's.
                    own = {path.absolute(): mark_of(path) for output in written for path in output.files}
                    if before:
                        took = time.monotonic() - started
                        screen.print(f"{_now()}  {_listed(before)}: {counts_text(written)}, in {took:.1f} s")
                except AksaraError as error:
                    screen.tell(f"{_now()}  not built: {error_text(error)}")
            # Whoever reads it through a pipe reads it now.
            screen.out.file.flush()
            if not before:
                screen.say("Watching for changes; press Ctrl-C to stop")
            before = _next_changes(observed, own)
    answered()


def _next_changes(observed: Observed, own: Mapping[Path, FileMark]) -> list[str]:
    """Wait until something has changed, and is saved whole; the names of it."""
    for _ in _moments(observed):
        if not _changes(observed, own):
            continue
        for _ in range(_MOST_LOOKS):
            marks = [mark_of(path) for path in observed.files]
            time.sleep(_QUIET / 1000)
            if marks == [mark_of(path) for path in observed.files]:
                break
        # A file that was restored in the meantime, as some editors do, has not changed.
        if changes := _changes(observed, own):
            return changes
    raise Stopped(0)


def _moments(observed: Observed) -> Iterator[None]:
    """Yield at each change nearby, and now and then without one: not every file system reports changes."""
    from watchfiles import watch as watch_folders  # only needed here

    yield
    folders = {path.parent for path in observed.files} | observed.folders.keys()
    while True:
        there = _marks(folders)
        if not there:
            time.sleep(_LOOK / 1000)
            yield
            continue
        with suppress(FileNotFoundError):  # one may go just now
            for _ in watch_folders(
                *sorted(map(str, there)), watch_filter=None, debounce=_QUIET, rust_timeout=_LOOK,
                yield_on_timeout=True, recursive=False,
            ):  # fmt: skip
                yield
                # A recreated folder has the old name, but changes in it are not reported.
                if _marks(folders) != there:
                    break
            else:
                return
        yield


def _marks(folders: Iterable[Path]) -> dict[Path, tuple[int, int]]:
    """Which folders there are, each known by its place on disk."""
    marks = {}
    for folder in folders:
        with suppress(OSError, ValueError):
            status = folder.stat()
            if stat.S_ISDIR(status.st_mode):
                marks[folder] = (status.st_dev, status.st_ino)
    return marks


def _changes(observed: Observed, own: Mapping[Path, FileMark]) -> list[str]:
    """The paths that have changed since they were read; the build's own output, since it was written."""
    ways = {parent for path in own for parent in path.parents}
    changed = {path for path, mark in observed.files.items() if mark_of(path) != own.get(path, mark)}
    changed -= {path for path in changed if path in ways}
    for folder, names in observed.folders.items():
        changed |= {folder / name for name in names ^ names_in(folder)} - own.keys() - ways
    here = Path.cwd()
    return sorted(printable(str(path.relative_to(here) if path.is_relative_to(here) else path)) for path in changed)


def _listed(changes: Sequence[str]) -> str:
    more = f" and {len(changes) - _NAMED} more" if len(changes) > _NAMED else ""
    return f"{', '.join(changes[:_NAMED])}{more} changed"


def _now() -> str:
    return time.strftime("%H:%M:%S")

"""Receipts: what a run read, wrote and printed, so that the next one can tell whether anything changed.

Nothing here imports what that needs: a build that has nothing to do takes no longer than looking at its files.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Sequence
from contextlib import suppress
from hashlib import sha256
from pathlib import Path

from msgspec import Struct

from aksara.code_stamp import installation_stamp
from aksara.errors import InputError
from aksara.limits import MAX_RECEIPT_SIZE, MAX_RECEIPTS
from aksara.observing import FileMark, Observed, mark_of, names_in
from aksara.sources import read_file
from aksara.user_cache import cache_folder, read_entries, thin_out, write_entries

#: The entry in a receipt's file.
_ENTRY = "receipt"
#: File systems know times to two seconds, at worst: what changed just before may have changed again unseen.
_GRAIN = 2_000_000_000


class Line(Struct, frozen=True):
    """A printed line: texts with their styles ("bold red"). `always`: printed even in quiet runs."""

    segments: tuple[tuple[str, str], ...]
    always: bool = False


class Outcome(Struct, frozen=True, kw_only=True):
    """What users hear of a run: its exit `status`, notices (where, what), and the lines that are `said`, or the JSON
    `document` in their place.

    `day` is that on which it holds, "" for any: some of it depends on the date.
    """

    status: int
    notices: tuple[tuple[str, str], ...] = ()
    said: tuple[Line, ...] = ()
    document: str = ""
    day: str = ""


class Receipt(Struct, frozen=True, kw_only=True):
    """What a run looked at and wrote: files with their marks and digests, folders with the names in them, and when that
    was noted (nanoseconds since 1970); and its outcome."""

    kept_at: int
    files: tuple[tuple[str, FileMark, str], ...]
    folders: tuple[tuple[str, tuple[str, ...]], ...]
    outcome: Outcome


class Receipts:
    """The receipts of runs with the same arguments, in the same folder."""

    def __init__(self, arguments: Sequence[str], kind: str = "receipts") -> None:
        """`kind` is the folder in the user's cache folder where they are kept."""
        here = str(Path.cwd().absolute())
        name = sha256("\0".join((here, *arguments)).encode(errors="surrogateescape")).hexdigest()[:24]
        self._path = cache_folder() / kind / f"{name}.json"

    def last(self) -> Outcome | None:
        """The outcome of the last run, if all that it looked at and wrote is as it was; else None."""
        kept = read_entries(self._path, installation_stamp(), MAX_RECEIPT_SIZE, Receipt).get(_ENTRY)
        if kept is None or not _is_unchanged(kept):
            return None
        return kept.outcome if kept.outcome.day in ("", today()) else None

    def keep(self, observed: Observed, written: Iterable[Path], outcome: Outcome) -> None:
        """Keep the outcome of a run that looked at all this, and wrote or removed these files.

        Nothing is kept where something changed meanwhile: then it is not known which of both it saw.
        """
        own = {path.absolute() for path in written}
        ways = {parent for path in own for parent in path.parents}
        inputs = {path: mark for path, mark in observed.files.items() if path not in own and path not in ways}
        if any(mark_of(path) != mark for path, mark in inputs.items()):
            return
        names = {path: names_in(path) for path in observed.folders}
        for path, before in observed.folders.items():
            if any(path / name not in own | ways for name in before ^ names[path]):
                return
        receipt = Receipt(
            kept_at=time.time_ns(),
            files=tuple((str(path), mark_of(path), _digest(path)) for path in sorted(set(inputs) | own)),
            folders=tuple((str(path), tuple(sorted(found))) for path, found in sorted(names.items())),
            outcome=outcome,
        )
        write_entries(self._path, installation_stamp(), {_ENTRY: receipt})


def forget_oldest(kind: str = "receipts", most: int = MAX_RECEIPTS) -> None:
    """Keep only `most` receipts of this kind, those used last."""
    thin_out(cache_folder() / kind, most)


def today() -> str:
    """The date, as `Outcome.day` has it."""
    return time.strftime("%Y-%m-%d", time.gmtime())


def _is_unchanged(kept: Receipt) -> bool:
    return all(names_in(Path(path)) == set(names) for path, names in kept.folders) and all(
        _is_same(Path(path), mark, digest, kept.kept_at) for path, mark, digest in kept.files
    )


def _is_same(path: Path, mark: FileMark, digest: str, kept_at: int) -> bool:
    now = mark_of(path)
    if now == mark and (mark is None or max(mark[2:4]) < kept_at - _GRAIN):
        return True
    if now is None or mark is None or now[1] != mark[1]:
        return False
    return bool(digest) and _digest(path) == digest


def _digest(path: Path) -> str:
    """The SHA-256 of a file; "" if there is none."""
    with suppress(InputError):
        return sha256(read_file(path)).hexdigest()
    return ""

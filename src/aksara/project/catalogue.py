"""Catalogues: many project files, built one after the other, each as if it were alone.

A project that fails is told, and stops no other. One that has not changed since it was built is not built again, so a
catalogue that was interrupted goes on where it was.
"""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from pathlib import Path
from typing import Literal

from msgspec import Struct, field
from msgspec.json import decode, encode
from msgspec.structs import replace

from aksara.errors import AksaraError
from aksara.observing import observe
from aksara.pipeline import Build, BuildRequest, Written, build, write_output
from aksara.project.reading import read_project
from aksara.receipts import Outcome, Receipts
from aksara.sizes import format_size
from aksara.sources import reading_once

#: Projects that are worked on at once where an executor makes their fonts: while it makes some, others are planned.
_AT_ONCE = 8


class CatalogueEntry(Struct, frozen=True):
    """What became of a family: where it went, and how many faces, files and bytes of fonts it has."""

    project: str
    family: str
    folder: str
    faces: int
    files: int
    bytes: int
    status: Literal["built", "unchanged"] = "built"


class ProjectResult(Struct, frozen=True):
    """What became of a project: its families, or the `error` that ended it; `problems` are formats that could not be
    made and budgets that were missed, in words."""

    project: Path
    entries: tuple[CatalogueEntry, ...] = ()
    problems: tuple[str, ...] = ()
    error: AksaraError | None = None


class Catalogue(Struct, frozen=True, kw_only=True):
    """How projects are built.

    `change` is applied to what each asks for, `options` names it, so that what was built otherwise counts as changed.
    `write` puts the files of a build in place, None to write nothing. `executor` makes font files (see `build`).
    """

    change: Callable[[BuildRequest], BuildRequest] = lambda request: request
    options: tuple[str, ...] = ()
    write: Callable[[BuildRequest, Build], Written] | None = field(default_factory=lambda: _write)
    executor: Executor | None = None

    def results(self, projects: Sequence[Path]) -> Iterator[ProjectResult]:
        """What becomes of each project, in their order."""
        if self.executor is None:
            for path in projects:
                yield self._result(path)
                # Fonts refer to themselves, and would stay until the next one is read.
                gc.collect()
            return
        with ThreadPoolExecutor(_AT_ONCE) as pool:
            waiting: list[Future[ProjectResult]] = []
            try:
                for path in projects:
                    waiting.append(pool.submit(self._result, path))
                    if len(waiting) > _AT_ONCE:
                        yield waiting.pop(0).result()
                for future in waiting:
                    yield future.result()
            except BaseException:
                pool.shutdown(wait=False, cancel_futures=True)
                raise

    def _result(self, path: Path) -> ProjectResult:
        receipts = Receipts(("catalogue", str(path.absolute()), *self.options))
        last = receipts.last() if self.write is not None else None
        if last is not None:
            known = decode(last.document, type=tuple[CatalogueEntry, ...])
            problems = tuple(text for _, text in last.notices)
            return ProjectResult(path, tuple(replace(entry, status="unchanged") for entry in known), problems)
        try:
            return self._built(path, receipts)
        except AksaraError as error:
            return ProjectResult(path, error=error)

    def _built(self, path: Path, receipts: Receipts) -> ProjectResult:
        entries: list[CatalogueEntry] = []
        problems: list[str] = []
        written: list[Path] = []
        lasting = self.write is not None
        with reading_once():
            with observe() as observed:
                for request in map(self.change, read_project(path)):
                    made = build(request, executor=self.executor)
                    if self.write is not None:
                        written += self.write(request, made).files
                    entries += _entries(path, request, made)
                    problems += _problems(made)
                    # What came from servers may be otherwise the next time, and licences end.
                    lasting &= request.cache and not request.characters.addresses and not request.licence.until
            if lasting:
                notices = tuple(("", text) for text in problems)
                outcome = Outcome(status=int(bool(problems)), notices=notices, document=encode(entries).decode())
                receipts.keep(observed, written, outcome)
        return ProjectResult(path, tuple(entries), tuple(problems))


def _write(request: BuildRequest, made: Build) -> Written:
    with request.locating():
        return write_output(made.files, request.folder, request.within, request.outputs, request.project)


def _entries(path: Path, request: BuildRequest, made: Build) -> Iterator[CatalogueEntry]:
    for family in made.families:
        files = [file for face in family.faces for file in face.files]
        size = sum(len(file.data) for file in files)
        yield CatalogueEntry(str(path), family.name, str(request.folder), len(family.faces), len(files), size)


def _problems(made: Build) -> Iterator[str]:
    for notice in made.failed:
        yield f"{notice.where}: {notice.text}"
    for budget in made.budgets:
        if budget.missed:
            yield f"{budget.what}: {format_size(budget.size)}, and {format_size(budget.limit)} are allowed"

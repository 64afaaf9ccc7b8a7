"""Catalogues: many projects, or many families of one folder, built one after the other, each as if it were alone.

One that fails is told, and stops no other. One that has not changed since it was built is not built again, so a
catalogue that was interrupted goes on where it was.
"""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from functools import partial
from pathlib import Path
from typing import Literal

from msgspec import Struct, field
from msgspec.json import decode, encode
from msgspec.structs import replace

from aksara.errors import AksaraError
from aksara.limits import MAX_CATALOGUE_RECEIPTS
from aksara.observing import observe
from aksara.pipeline import Build, BuildRequest, Written, build, write_output
from aksara.project.families_apart import FamilyApart
from aksara.project.reading import read_project
from aksara.receipts import Outcome, Receipts, forget_oldest
from aksara.sizes import format_size
from aksara.sources import reading_once

#: Projects that are worked on at once where an executor makes their fonts: while it makes some, others are planned.
_AT_ONCE = 8
#: The kind of receipts, of which there are more than of other runs.
_RECEIPTS = "catalogues"


class CatalogueEntry(Struct, frozen=True):
    """What became of a family: where it went, and how many faces, files and bytes of fonts it has. `project` is the
    project file, "" for a family of a folder."""

    project: str
    family: str
    folder: str
    faces: int
    files: int
    bytes: int
    status: Literal["built", "unchanged"] = "built"


class CatalogueResult(Struct, frozen=True):
    """What became of a project, or of a family of a folder (the other is ""): its entries, or the `error` that ended
    it; `problems` are formats that could not be made and budgets that were missed, in words."""

    project: str = ""
    family: str = ""
    entries: tuple[CatalogueEntry, ...] = ()
    problems: tuple[str, ...] = ()
    error: AksaraError | None = None


class _Item(Struct, frozen=True):
    """What is built by itself. Its outcome depends on the files that it reads and on the `key`; `requests` reads what
    it asks for."""

    project: str
    family: str
    key: tuple[str, ...]
    requests: Callable[[], Iterable[BuildRequest]]


class Catalogue(Struct, frozen=True, kw_only=True):
    """How projects and families are built.

    `change` is applied to what projects ask for, `options` names it, so that what was built otherwise counts as
    changed. `write` puts the files of a build in place, None to write nothing. `executor` makes font files (see
    `build`).
    """

    change: Callable[[BuildRequest], BuildRequest] = lambda request: request
    options: tuple[str, ...] = ()
    write: Callable[[BuildRequest, Build], Written] | None = field(default_factory=lambda: _write)
    executor: Executor | None = None

    def results(self, projects: Sequence[Path]) -> Iterator[CatalogueResult]:
        """What becomes of each project, in their order."""
        return self._results(
            _Item(str(path), "", (str(path.absolute()),), partial(self._requests_of, path)) for path in projects
        )

    def results_of_families(self, families: Sequence[FamilyApart]) -> Iterator[CatalogueResult]:
        """What becomes of each family, in their order."""
        return self._results(
            _Item("", family.name, (family.key,), partial(iter, (family.request,))) for family in families
        )

    def _requests_of(self, project: Path) -> Iterable[BuildRequest]:
        return map(self.change, read_project(project))

    def _results(self, items: Iterable[_Item]) -> Iterator[CatalogueResult]:
        # What is there before the first of them stays: it need not be looked through after each.
        freezes = not gc.get_freeze_count()
        if freezes:
            gc.collect()
            gc.freeze()
        try:
            yield from map(self._alone, items) if self.executor is None else self._several(items)
        finally:
            if freezes:
                gc.unfreeze()
            forget_oldest(_RECEIPTS, MAX_CATALOGUE_RECEIPTS)

    def _alone(self, item: _Item) -> CatalogueResult:
        result = self._result(item)
        # Fonts refer to themselves, and would stay until the next one is read.
        gc.collect()
        return result

    def _several(self, items: Iterable[_Item]) -> Iterator[CatalogueResult]:
        with ThreadPoolExecutor(_AT_ONCE) as pool:
            waiting: list[Future[CatalogueResult]] = []
            try:
                for item in items:
                    waiting.append(pool.submit(self._result, item))
                    if len(waiting) > _AT_ONCE:
                        yield waiting.pop(0).result()
                for future in waiting:
                    yield future.result()
            except BaseException:
                pool.shutdown(wait=False, cancel_futures=True)
                raise

    def _result(self, item: _Item) -> CatalogueResult:
        receipts = Receipts((*item.key, *self.options), _RECEIPTS)
        last = receipts.last() if self.write is not None else None
        if last is not None:
            known = decode(last.document, type=tuple[CatalogueEntry, ...])
            problems = tuple(text for _, text in last.notices)
            entries = tuple(replace(entry, status="unchanged") for entry in known)
            return CatalogueResult(item.project, item.family, entries, problems)
        try:
            return self._built(item, receipts)
        except AksaraError as error:
            return CatalogueResult(item.project, item.family, error=error)

    def _built(self, item: _Item, receipts: Receipts) -> CatalogueResult:
        entries: list[CatalogueEntry] = []
        problems: list[str] = []
        written: list[Path] = []
        lasting = self.write is not None
        with reading_once():
            with observe() as observed:
                for request in item.requests():
                    made = build(request, executor=self.executor)
                    if self.write is not None:
                        written += self.write(request, made).files
                    entries += _entries(item.project, request, made)
                    problems += _problems(made)
                    # What came from servers may be otherwise the next time, and licences end.
                    lasting &= request.cache and not request.characters.addresses and not request.licence.until
            if lasting:
                notices = tuple(("", text) for text in problems)
                outcome = Outcome(status=int(bool(problems)), notices=notices, document=encode(entries).decode())
                receipts.keep(observed, written, outcome)
        return CatalogueResult(item.project, item.family, tuple(entries), tuple(problems))


def _write(request: BuildRequest, made: Build) -> Written:
    with request.locating():
        return write_output(made.files, request.folder, request.within, request.outputs, request.project)


def _entries(project: str, request: BuildRequest, made: Build) -> Iterator[CatalogueEntry]:
    for family in made.families:
        files = [file for face in family.faces for file in face.files]
        size = sum(len(file.data) for file in files)
        yield CatalogueEntry(project, family.name, str(request.folder), len(family.faces), len(files), size)


def _problems(made: Build) -> Iterator[str]:
    for notice in made.failed:
        yield f"{notice.where}: {notice.text}"
    for budget in made.budgets:
        if budget.missed:
            yield f"{budget.what}: {format_size(budget.size)}, and {format_size(budget.limit)} are allowed"

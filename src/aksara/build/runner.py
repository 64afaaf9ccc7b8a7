"""The work of a build: subsets, files, style sheet, manifest and proof, all in memory.

Faces are made in threads: nearly all of the time goes into compression,
which runs outside the interpreter's lock.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import PurePath
from threading import Lock
from typing import Any

from aksara import __version__
from aksara.build.budget import Budget, check_budgets
from aksara.build.making import Made, make_face
from aksara.build.output import OutputFile
from aksara.build.packing import pack_file
from aksara.build.plan import FamilyPlan, Plan
from aksara.proof import proof_page
from aksara.sources import MANIFEST_NAME
from aksara.subsetting import Dropped
from aksara.web.css import style_sheet
from aksara.web.manifest import manifest
from aksara.web.model import LicenceNote, WebFamily
from aksara.web.preload import Preload, preloads
from aksara.web.urls import Destination, follow

PROOF_NAME = "proof.html"


@dataclass(slots=True, frozen=True)
class Progress:
    """How far the work is: `done` of `total` files, the last of which was `label`."""

    done: int
    total: int
    label: str


@dataclass(slots=True, frozen=True)
class Build:
    """All that a build makes. `files` are in the order in which they have to appear on disk.

    `destinations` tells where the style sheet's URLs lead, `budgets` what was allowed and what it takes.
    """

    families: tuple[WebFamily, ...]
    files: tuple[OutputFile, ...]
    manifest: dict[str, Any]
    style_sheet: str
    preload: tuple[Preload, ...]
    destinations: tuple[Destination, ...]
    budgets: tuple[Budget, ...]
    missing: frozenset[int]
    warnings: tuple[dict[str, str], ...]
    dropped: dict[str, tuple[Dropped, ...]]


def run(plan: Plan, on_progress: Callable[[Progress], None] = lambda _: None) -> Build:
    """Make everything that is planned. The same plan gives the same bytes, with any number of jobs.

    Raises `OutputError` where a made file is not as it must be.
    """
    request = plan.request
    made = _make_all(plan, on_progress)
    results = iter(made)
    families = tuple(_web_family(family, [next(results) for _ in family.faces]) for family in plan.families)
    licence = LicenceNote(request.licence, plan.licences)
    sheet = style_sheet(families, version=__version__, licence=licence)
    preload = preloads(families, request.preload, request.css_file)
    destinations = _destinations(plan, families)
    budgets = check_budgets(plan, families)
    warnings = [*plan.warnings, *(warning for result in made for warning in result.warnings)]
    warnings += _lost(destinations, request.css_file)
    data = manifest(
        families,
        preload=[(each, each.link(request.pages or request.folder)) for each in preload],
        licence=licence,
        budget=[budget.as_json() for budget in budgets],
        css=PurePath(os.path.relpath(request.css_file.absolute(), request.folder.absolute())).as_posix(),
        warnings=warnings,
        version=__version__,
    )
    fonts = {file.name: file.data for family in families for face in family.faces for file in face.files}
    fonts |= {file.name: file.data for file in plan.licences}
    files = [OutputFile(request.fonts_folder / name, body) for name, body in sorted(fonts.items())]
    files.append(OutputFile(request.css_file, sheet.encode()))
    files.append(OutputFile(request.folder / PROOF_NAME, proof_page(families, __version__).encode()))
    # The manifest comes last: it says that all the rest is there.
    files.append(
        OutputFile(request.folder / MANIFEST_NAME, (json.dumps(data, indent=1, ensure_ascii=False) + "\n").encode())
    )
    if request.pack is not None:
        files.insert(-1, pack_file(files, request.pack))
    dropped = {result.web.face.path: result.dropped for result in made}
    return Build(
        families, tuple(files), data, sheet, preload, destinations, budgets, plan.missing, tuple(warnings), dropped
    )


def _make_all(plan: Plan, on_progress: Callable[[Progress], None]) -> list[Made]:
    """The files of every face, several at a time, in the order of the plan."""
    total, done, lock = len(plan.faces) * len(plan.request.formats), 0, Lock()

    def step(label: str) -> None:
        nonlocal done
        with lock:
            done += 1
            on_progress(Progress(done, total, label))

    with ThreadPoolExecutor(max(1, min(plan.request.jobs, len(plan.faces)))) as pool:
        futures = [
            pool.submit(make_face, face, plan.request, family.known, step)
            for family in plan.families
            for face in family.faces
        ]
        try:
            return [future.result() for future in futures]
        except BaseException:
            for future in futures:
                future.cancel()
            raise


def _web_family(family: FamilyPlan, made: Sequence[Made]) -> WebFamily:
    return WebFamily(
        family.name,
        tuple(result.web for result in made),
        family.stack,
        family.generic,
        family.notice,
        family.request.display,
        family.fallbacks,
        family.holes,
    )


def _destinations(plan: Plan, families: Sequence[WebFamily]) -> tuple[Destination, ...]:
    request = plan.request
    files = [file for family in families for web in family.faces for file in web.files]
    return tuple(follow(file.url, request.css_file, request.fonts_folder / file.name) for file in files)


def _lost(destinations: Sequence[Destination], css_file: PurePath) -> list[dict[str, str]]:
    """One warning for the URLs that lead nowhere; they all come from one pattern."""
    lost = [each for each in destinations if each.verdict == "nowhere"]
    if not lost:
        return []
    text = f'url("{lost[0].url}") leads nowhere: no font will be at {lost[0].place}'
    text += f", nor at the {len(lost) - 1} others like it" if len(lost) > 1 else ""
    return [{"path": css_file.as_posix(), "message": f"{text}; leave --url out, and the paths come out right"}]

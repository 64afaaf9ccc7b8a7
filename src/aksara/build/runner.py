"""The work of a build: subsets, files, style sheet, manifest and proof, all in memory.

Faces are made in threads: nearly all of the time goes into compression,
which runs outside the interpreter's lock.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from threading import Lock
from typing import Any

from aksara import __version__
from aksara.build.output import OutputFile
from aksara.build.plan import FacePlan, Plan
from aksara.build.pressing import press
from aksara.build.verify import verify
from aksara.container import add_metadata
from aksara.faces import feature_name, web_metadata
from aksara.proof import proof_page
from aksara.sources import MANIFEST_NAME
from aksara.subsetting import Dropped, Options, Subset, subset
from aksara.web.css import style_sheet
from aksara.web.model import FeatureCost, LicenceNote, WebFace, WebFamily, WebFile, file_name, manifest
from aksara.web.urls import font_url

PROOF_NAME = "proof.html"
#: How much larger the WOFF metadata may make a file.
_METADATA_SHARE = 1.05


@dataclass(slots=True, frozen=True)
class Progress:
    """How far the work is: `done` of `total` files, the last of which was `label`."""

    done: int
    total: int
    label: str


@dataclass(slots=True, frozen=True)
class Build:
    """All that a build makes. `files` are in the order in which they have to appear on disk."""

    families: tuple[WebFamily, ...]
    files: tuple[OutputFile, ...]
    manifest: dict[str, Any]
    style_sheet: str
    missing: frozenset[int]
    warnings: tuple[dict[str, str], ...]
    dropped: dict[str, tuple[Dropped, ...]]


def run(plan: Plan, on_progress: Callable[[Progress], None] = lambda _: None) -> Build:
    """Make everything that is planned. The same plan gives the same bytes, with any number of jobs."""
    request = plan.request
    total, done, lock = len(plan.faces) * len(request.formats), 0, Lock()

    def step(label: str) -> None:
        nonlocal done
        with lock:
            done += 1
            on_progress(Progress(done, total, label))

    with ThreadPoolExecutor(max(1, min(request.jobs, len(plan.faces)))) as pool:
        futures = [pool.submit(_make, face, plan, step) for face in plan.faces]
        try:
            made = [future.result() for future in futures]
        except BaseException:
            for future in futures:
                future.cancel()
            raise
    warnings = [*plan.warnings, *(warning for result in made for warning in result.warnings)]
    results = iter(made)
    families = tuple(
        WebFamily(
            family.name, tuple(next(results).web for _ in family.faces), family.stack, family.generic, family.notice
        )
        for family in plan.families
    )
    licence = LicenceNote(request.licence.stated, request.licence.holder, plan.licences)
    sheet = style_sheet(families, display=request.display, version=__version__, licence=licence)
    data = manifest(families, warnings, __version__, licence)
    fonts = {file.name: file.data for family in families for face in family.faces for file in face.files}
    files = [OutputFile(request.fonts_folder / name, body) for name, body in sorted(fonts.items())]
    files.append(OutputFile(request.css_file, sheet.encode()))
    files.append(OutputFile(request.folder / PROOF_NAME, proof_page(families, __version__).encode()))
    # The manifest comes last: it says that all the rest is there.
    files.append(
        OutputFile(request.folder / MANIFEST_NAME, (json.dumps(data, indent=1, ensure_ascii=False) + "\n").encode())
    )
    dropped = {result.web.face.path: result.dropped for result in made}
    return Build(families, tuple(files), data, sheet, plan.missing, tuple(warnings), dropped)


def _costs(cut: Subset, files: Sequence[WebFile]) -> tuple[FeatureCost, ...]:
    """What the features that were left out would cost in the first of the files: as much as the rest, packed."""
    share = len(files[0].data) / sum(cut.font.sizes().values()) if files else 1.0
    return tuple(
        FeatureCost(each.tag, feature_name(each.tag), each.glyphs, round(each.size * share)) for each in cut.left_out
    )


@dataclass(slots=True, frozen=True)
class _Made:
    web: WebFace
    warnings: list[dict[str, str]]
    dropped: tuple[Dropped, ...]


def _make(plan: FacePlan, whole: Plan, step: Callable[[str], None]) -> _Made:
    request, font = whole.request, plan.font
    options = Options(features=request.features, hints=request.hints, costs=True)
    cut = subset(font, plan.characters, options)
    metadata = web_metadata(font, request.licence)
    had = len(font.characters)
    # A face's tables in parsed form take many times their bytes, and all faces of the build stay in memory.
    font.forget()
    files: list[WebFile] = []
    for form in request.formats:
        pressed, data = press(cut.variants, form, request.effort)
        verify(data, pressed)
        with_notes = add_metadata(data, metadata)
        # Not at the price of a noticeably larger file, unless it names who may use the font.
        if request.licence.holder or len(with_notes) <= len(data) * _METADATA_SHARE:
            data = with_notes
        name = file_name(plan.face, form, data)
        files.append(WebFile(name, form, data))
        step(name)
    files = [
        replace(file, url=font_url(request.url, request.css_file, request.fonts_folder / file.name)) for file in files
    ]
    web = WebFace(
        plan.face,
        font.size,
        frozenset(cut.characters),
        had,
        tuple(files),
        font.flavour,
        plan.permission.words,
        tuple(sorted(cut.features)),
        _costs(cut, files),
    )
    return _Made(web, [{"path": font.path, "message": text} for text in cut.warnings], cut.dropped)

"""The work of a build: font files, style sheet, manifest and proof, all in memory."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from itertools import islice
from pathlib import PurePath
from threading import Lock
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.faces import Face, font_palettes
from aksara.font import Font
from aksara.notices import Notice
from aksara.pipeline.feature_costs import cost_leaders, costs_of, with_costs_of_leaders
from aksara.pipeline.making.family_work import FamilyWork, work_elsewhere
from aksara.pipeline.making.font_files import FontFiles, FontRecipe
from aksara.pipeline.planning.plan import BuildPlan, make_plan
from aksara.pipeline.planning.planned import FacePart, FacePlan, FamilyPlan
from aksara.pipeline.publishing.documents import make_documents
from aksara.pipeline.publishing.web_faces import web_face
from aksara.pipeline.recipes import Recipes
from aksara.pipeline.request import BuildRequest
from aksara.pipeline.trials.budget import Budget, check_budgets
from aksara.pipeline.trials.slice_figures import UncutSizes, cut_family, figures_of, is_compared, is_made_uncut
from aksara.pipeline.trials.used_faces import trials, weigh_used_faces
from aksara.pipeline.trials.useless_slices import without_useless_slices
from aksara.pipeline.trials.variable_or_static import way_taken
from aksara.pipeline.writing.targets import OutputFile
from aksara.sources import resolved
from aksara.subsetting import Costs, DroppedTable
from aksara.threads import in_threads
from aksara.web.css import property_names
from aksara.web.model import CutFamily, WebFamily, format_label
from aksara.web.palettes import WebPalette, web_palettes
from aksara.web.preload import Preload, preloads
from aksara.web.urls import UrlTarget, resolve_url

if TYPE_CHECKING:
    from aksara.pipeline.planning.old_names import OldName


class Progress(Struct, frozen=True):
    """The progress of a run: `done` of `total` files; the last file was of the face `label`.

    Files that are made only to know their size count, too.
    """

    done: int
    total: int
    label: str


class Build(Struct, frozen=True, kw_only=True):
    """All that a build makes. `files` are in the order in which they have to appear on disk.

    `targets` tells where the style sheet's URLs lead, `budgets` what was allowed and what it takes; `dropped` are the
    tables that were left out of each font, by its path.
    """

    families: tuple[WebFamily, ...]
    files: tuple[OutputFile, ...]
    manifest: dict[str, Any]
    style_sheet: str
    preload: tuple[Preload, ...]
    targets: tuple[UrlTarget, ...]
    budgets: tuple[Budget, ...]
    missing: frozenset[int]
    notices: tuple[Notice, ...]
    dropped: dict[str, tuple[DroppedTable, ...]]
    #: Formats that cannot be made of a font; they are among the notices, too.
    failed: tuple[Notice, ...] = ()
    #: Lines of the site that still name a family which is replaced.
    old_names: tuple[OldName, ...] = ()


def build(
    request: BuildRequest,
    on_progress: Callable[[Progress], None] = lambda _: None,
    *,
    executor: Executor | None = None,
) -> Build:
    """Plan and make all files; nothing is written. Raises what `make_plan` and `run` raise."""
    return run(make_plan(request), on_progress, executor=executor)


def run(
    plan: BuildPlan,
    on_progress: Callable[[Progress], None] = lambda _: None,
    *,
    executor: Executor | None = None,
) -> Build:
    """Make everything that is planned. The same plan gives the same bytes, with any number of jobs, anywhere.

    With an `executor` it makes the font files, a family at a time: fonts go to it as bytes, and files come back as
    bytes. Raises `OutputError` where a made file is not as it must be.
    """
    request, recipes = plan.request, Recipes.of_plan(plan)
    steps = _Steps(_file_count(plan), on_progress)
    if executor is not None:
        _make_elsewhere(plan, recipes, executor)
    plan, made, whole = without_useless_slices(plan, recipes, _make_all(plan, recipes, steps), steps)
    families = _web_families(plan, made)
    families = tuple(
        replace(
            web,
            way=way_taken(family, web, recipes, steps),
            used=weigh_used_faces(family, web, recipes, steps),
            cut=_cut_family(family, web, whole.get(family.name)),
        )
        for family, web in zip(plan.families, families, strict=True)
    )
    targets = _url_targets(plan, families)
    warnings, failed = _told_of(plan, made)
    notices = [*plan.notices, *warnings, *failed, *_url_notices(targets, request.css_file)]
    preload = preloads(families, request.preload, request.css_file, _most_written(plan))
    budgets = check_budgets(plan, families, recipes)
    recipes.store.thin_out()
    documents = make_documents(plan, families, preload, budgets, notices)
    return Build(
        families=families,
        files=documents.files,
        manifest=documents.manifest,
        style_sheet=documents.rules,
        preload=preload,
        targets=targets,
        budgets=budgets,
        missing=plan.missing,
        notices=tuple(notices),
        failed=tuple(failed),
        old_names=_old_names(plan, documents.files),
        dropped={face.face.path: parts[0].dropped for face, parts in zip(plan.faces, made, strict=True)},
    )


def _told_of(plan: BuildPlan, made: Sequence[Sequence[FontFiles]]) -> tuple[list[Notice], list[Notice]]:
    """What making the files has warned of, and formats that cannot be made."""
    warnings: list[Notice] = []
    failed: list[Notice] = []
    for face, parts in zip(plan.faces, made, strict=True):
        warnings += (
            Notice(face.font.path, text) for text in dict.fromkeys(text for files in parts for text in files.warnings)
        )
        failed += (
            Notice(face.font.path, f"no {format_label(font_format)} can be made of it: {problem}")
            for font_format, problem in dict.fromkeys(failure for files in parts for failure in files.failed)
        )
    return warnings, failed


def _old_names(plan: BuildPlan, files: Sequence[OutputFile]) -> tuple[OldName, ...]:
    replaced = {old for family in plan.families for old in family.request.replaces}
    if plan.site is None:
        return ()
    from aksara.pipeline.planning.old_names import find_old_names, hosted_families

    # A family that keeps its name may still be fetched from elsewhere, too.
    hosted = hosted_families((family.name for family in plan.families), plan.site)
    if not replaced | hosted:
        return ()
    changed = {resolved(file.path): file.data for file in files if file.kind == "kept"}
    lines = find_old_names(replaced | hosted, plan.site, plan.request.css_file, changed)
    return tuple(line for line in lines if line.kind == "link" or line.family in replaced)


def _most_written(plan: BuildPlan) -> Face | None:
    """The face that most of the site's text is set in; None where that is not known."""
    face = max(plan.faces, key=lambda face: face.written)
    return face.face if face.written else None


class _Steps:
    """Reports each file that was made, from any thread."""

    def __init__(self, total: int, on_progress: Callable[[Progress], None]) -> None:
        self._total, self._done = total, 0
        self._on_progress, self._lock = on_progress, Lock()

    def __call__(self, face: FacePlan) -> None:
        with self._lock:
            self._done += 1
            self._on_progress(Progress(self._done, self._total, f"{face.face.family} {face.face.label}"))


def _file_count(plan: BuildPlan) -> int:
    """How many font files will be made, with those of the other ways, whose size alone is wanted."""
    written = sum(
        (len(family.parts(face_index)) + is_compared(family))
        * len(plan.request.formats_for(variable=face.face.is_variable))
        for family in plan.families
        for face_index, face in enumerate(family.faces)
    )
    others = sum(len(family.other_way.faces) for family in plan.families if family.other_way is not None)
    return written + others + sum(len(trials(family)) for family in plan.families)


def _make_elsewhere(plan: BuildPlan, recipes: Recipes, executor: Executor) -> None:
    """Have the executor make all files that are not kept, a family at a time; the store has them then."""
    works: list[FamilyWork] = []
    lacking: list[list[tuple[Font, FontRecipe, Costs]]] = []
    for family in plan.families:
        leaders = cost_leaders(family, recipes)
        wanted = [
            (face.font, recipes.of_part(face, part), costs_of(index, leading=leaders[face_index] == face_index))
            for face_index, face in enumerate(family.faces)
            for index, part in enumerate(family.parts(face_index))
        ]
        if is_made_uncut(family):
            wanted += [(face.font, recipes.of(face), "all") for face in family.faces]
        missing = [job for job in wanted if recipes.store.kept(job[0], job[1], costs=job[2]) is None]
        if missing:
            works.append(FamilyWork.of(missing))
            lacking.append(missing)
    for missing, made in zip(lacking, work_elsewhere(executor, works), strict=True):
        for (font, recipe, costs), files in zip(missing, made, strict=True):
            recipes.store.keep(font, recipe, files, costs=costs)


def _make_all(plan: BuildPlan, recipes: Recipes, steps: _Steps) -> list[list[FontFiles]]:
    """The files of every face, in the order of the plan; of each of its slices, in their order."""
    leaders = [cost_leaders(family, recipes) for family in plan.families]
    parts = [
        (face, part, costs_of(index, leading=of_family[face_index] == face_index))
        for family, of_family in zip(plan.families, leaders, strict=True)
        for face_index, face in enumerate(family.faces)
        for index, part in enumerate(family.parts(face_index))
    ]

    def make(task: tuple[FacePlan, FacePart, Costs]) -> FontFiles:
        face, part, costs = task
        return recipes.store.files(face.font, recipes.of_part(face, part), lambda _: steps(face), costs=costs)

    for family in plan.families:
        for face_index, face in enumerate(family.faces):
            face.font.expect_work(len(family.parts(face_index)) + is_compared(family))
    made = iter(in_threads(plan.request.jobs, make, parts))
    found: list[list[FontFiles]] = []
    for family, of_family in zip(plan.families, leaders, strict=True):
        faces = [list(islice(made, len(family.parts(face_index)))) for face_index in range(len(family.faces))]
        found += with_costs_of_leaders(faces, of_family)
    return found


def _cut_family(family: FamilyPlan, web: WebFamily, whole: UncutSizes | None) -> CutFamily | None:
    figures = figures_of(family)
    return cut_family(figures, web, whole) if figures is not None else None


def _web_families(plan: BuildPlan, made: Sequence[Sequence[FontFiles]]) -> tuple[WebFamily, ...]:
    results = iter(made)
    palettes = _palettes(plan)

    def web_family(family: FamilyPlan) -> WebFamily:
        languages = plan.selection.languages
        figures = figures_of(family)
        shares = figures.shares() if figures is not None and figures.is_cut else {}
        return WebFamily(
            name=family.name,
            faces=tuple(
                web_face(
                    face,
                    list(zip(family.parts(face_index), next(results), strict=True)),
                    plan.request,
                    known=family.known,
                    selected_languages=languages,
                    shares=shares,
                )
                for face_index, face in enumerate(family.faces)
            ),
            stack=family.stack,
            generic=family.generic,
            notice=family.notice,
            display=family.display,
            pictures=family.pictures,
            icon_width=family.icon_width,
            selectors=family.selectors,
            fallbacks=family.fallbacks,
            missing_faces=family.missing_faces,
            palettes=palettes[family.name],
            icons=tuple((name, icon.character) for name, icon in plan.icons.get(family.name, {}).items()),
            missing_characters=family.missing_characters,
        )

    return tuple(web_family(family) for family in plan.families)


def _palettes(plan: BuildPlan) -> dict[str, tuple[WebPalette, ...]]:
    """The palettes that style sheets can choose from, by family: those of the first face that has any."""
    found = {}
    names = property_names(family.name for family in plan.families)
    for name, family in zip(names, plan.families, strict=True):
        own = next(filter(None, (font_palettes(face.font) for face in family.faces)), ())
        asked = family.request.palettes
        if beyond := next((name for name in asked if asked[name].base >= len(own)), None):
            there = f"has {len(own)}, numbered from 0" if own else "has none"
            raise RequestError(
                f"palette {beyond} rests on palette {asked[beyond].base}, and {family.name} {there}",
                parameter="FamilyRequest.palettes",
            )
        found[family.name] = web_palettes(name, [(palette.name, palette.background) for palette in own], asked)
    return found


def _url_targets(plan: BuildPlan, families: Sequence[WebFamily]) -> tuple[UrlTarget, ...]:
    request = plan.request
    files = [file for family in families for web in family.faces for file in web.files if not file.is_inline]
    known = request.addresses.known if request.addresses is not None else {}
    files = [file for file in files if file.name not in known]
    return tuple(resolve_url(file.url, request.css_file, request.fonts_folder / file.name) for file in files)


def _url_notices(targets: Sequence[UrlTarget], css_file: PurePath) -> list[Notice]:
    """One notice for the URLs that lead to no font; they all come from one pattern."""
    lost = [target for target in targets if target.verdict == "missing"]
    if not lost:
        return []
    text = f'url("{lost[0].url}") leads nowhere: no font will be at {lost[0].path}'
    text += f", nor at the {len(lost) - 1} others like it" if len(lost) > 1 else ""
    return [Notice(css_file.as_posix(), text, "BuildRequest.url")]

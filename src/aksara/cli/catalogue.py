"""`aksara build` of several project files, or of a folder with many families: a line for each family, and a sum at the
end."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import Executor
from itertools import chain
from pathlib import Path
from typing import Any

from msgspec import to_builtins
from rich.text import Text

from aksara.cli.given_options import ONE_PATH, with_options
from aksara.cli.screen import Screen
from aksara.cli.stopping import note_written, undisturbed
from aksara.cli.wording import error_text
from aksara.errors import RequestError
from aksara.notices import Notice
from aksara.phrases import count_of, listed
from aksara.pipeline import Build, BuildRequest, Written, write_output
from aksara.project.catalogue import Catalogue, CatalogueEntry, CatalogueResult
from aksara.project.families_apart import FamiliesApart
from aksara.sizes import format_size
from aksara.sources import is_own_output, printable

#: How many outputs stand for several, which cannot share a path.
_SEVERAL = 2
#: Projects and families that failed and are named in the end.
_NAMED = 8


def is_catalogue(paths: Sequence[Path]) -> bool:
    """Whether project files are given in place of fonts."""
    return len(paths) > 1 and any(path.suffix == ".toml" for path in paths)


def build_catalogue(
    projects: Sequence[Path],
    options: Mapping[str, Any],
    screen: Screen,
    *,
    dry_run: bool,
    as_json: bool,
    executor: Executor | None,
) -> int:
    """Build the projects and report each; returns the worst exit status."""
    fonts = [path for path in projects if path.suffix != ".toml"]
    if fonts:
        raise RequestError(
            f"{printable(str(fonts[0]))}: this is not a project file; give either project files or fonts"
        )
    if single := [flag for flag in ONE_PATH if options[flag.removeprefix("--").replace("-", "_")] is not None]:
        raise RequestError(f"{single[0]} names one path, but several projects are given; write it into each of them")
    catalogue = Catalogue(
        change=lambda request: with_options(request, options, _SEVERAL),
        options=tuple(f"{name}={value!r}" for name, value in sorted(options.items()) if value not in (None, ())),
        write=None if dry_run else _write,
        executor=executor,
    )
    return _report(catalogue.results(list(dict.fromkeys(projects))), screen, "project", as_json=as_json)


def build_families(
    apart: FamiliesApart,
    folder: Path,
    screen: Screen,
    *,
    dry_run: bool,
    as_json: bool,
    executor: Executor | None,
) -> int:
    """Build each family of a folder by itself, below the output `folder`, and report it; returns the worst status."""
    shown = printable(str(folder))
    screen.say(
        f"{count_of(len(apart.families), 'family', 'families')}: each is built by itself, into a folder of its own in "
        f"{shown}/. For one style sheet of them all, add --css {shown}/faces.css."
    )
    screen.notify(apart.notices)
    if is_own_output(folder):
        earlier = "it still has the style sheet and the fonts of an earlier build; delete them if no page needs them"
        screen.notify([Notice(f"{shown}/", earlier)])
    catalogue = Catalogue(write=None if dry_run else _write, executor=executor)
    unusable = (CatalogueResult(error=problem) for problem in apart.problems)
    results = chain(unusable, catalogue.results_of_families(apart.families))
    return _report(results, screen, "family", "families", as_json=as_json)


def _report(results: Iterable[CatalogueResult], screen: Screen, *of_each: str, as_json: bool) -> int:
    """Tell of each result as soon as it is there, and of all in the end; returns the worst exit status. `of_each` is
    what each is called, and several of them."""
    status = 0
    failed: list[str] = []
    totals: list[CatalogueEntry] = []
    advice: set[str] = set()
    for result in results:
        status = max(status, result.error.exit_status if result.error is not None else int(bool(result.problems)))
        failed += [result.project or result.family] if result.error is not None else []
        totals += result.entries
        if as_json:
            _tell_json(result)
        else:
            _tell(result, screen, advice)
    if not as_json and not screen.quiet:
        screen.print(_sum_of(totals) + _failures(failed, *of_each))
    return status


def _write(request: BuildRequest, made: Build) -> Written:
    with request.locating(), undisturbed():
        written = write_output(made.files, request.folder, request.within, request.outputs, request.project)
        note_written(f"{request.folder}/")
    return written


def _tell_json(result: CatalogueResult) -> None:
    """A line of JSON for each family, and for a project that failed."""
    for entry in result.entries:
        print(json.dumps(to_builtins(entry) | {"problems": list(result.problems)}), flush=True)
    if result.error is not None:
        told = {"project": result.project, "family": result.family, "status": "failed"}
        print(json.dumps(told | {"problems": [error_text(result.error)]}), flush=True)


def _tell(result: CatalogueResult, screen: Screen, advice: set[str]) -> None:
    """A line for each family, and what went wrong; the lines of `advice` were given before."""
    name = printable(result.project or result.family)
    problems = [*result.problems, *([error_text(result.error)] if result.error is not None else [])]
    for text in (_without_advice(problem, advice) for problem in problems):
        # Many messages say the file and line themselves.
        is_said = not name or (result.project and text.startswith(name))
        screen.tell(text if is_said else Text.assemble((f"{name}: ", "bold"), text))
    for entry in () if screen.quiet else result.entries:
        counts = f"{count_of(entry.faces, 'face')}, {count_of(entry.files, 'file')}, {format_size(entry.bytes)}"
        folder = printable(entry.folder)
        screen.print(Text.assemble((entry.family, "bold"), f"  {counts} in {folder}/  ({entry.status})"))


def _failures(names: Sequence[str], *of_each: str) -> str:
    """Which failed, for those who read the last line; "" is a font that belongs to no family that is known."""
    known = [printable(name) for name in names if name]
    told = f"; {count_of(len(known), *of_each)} failed: {listed(known, _NAMED)}" if known else ""
    unusable = len(names) - len(known)
    return told + (f"; {count_of(unusable, 'font')} could not be read" if unusable else "")


def _without_advice(problem: str, advice: set[str]) -> str:
    """The problem, with what there is to do about it only if that was not said before."""
    problem, *rest = problem.splitlines()
    new = [line for line in rest if line not in advice]
    advice.update(new)
    return "\n".join([problem, *new])


def _sum_of(entries: Sequence[CatalogueEntry]) -> str:
    unchanged = sum(entry.status == "unchanged" for entry in entries)
    families = count_of(len(entries), "family", "families")
    files, size = sum(entry.files for entry in entries), format_size(sum(entry.bytes for entry in entries))
    told = f"All: {families}, {count_of(files, 'file')}, {size}"
    return told + (f"; {unchanged:,} unchanged" if unchanged else "")

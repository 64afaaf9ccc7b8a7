"""Running builds with a progress bar, for the commands that build."""

from __future__ import annotations

from collections.abc import Sequence

from rich.progress import BarColumn, MofNCompleteColumn, Progress, TaskID, TextColumn

from aksara.build import Build, BuildRequest, Written, make_plan, run, write_output
from aksara.build import Progress as Step
from aksara.cli.screen import Screen


def build_and_write(
    requests: Sequence[BuildRequest], screen: Screen, *, dry_run: bool = False
) -> list[tuple[Build, Written | None]]:
    """Plan and make all, then write all. The bar shows on a terminal only; nothing is written if `dry_run`."""
    plans = [make_plan(request) for request in requests]
    bar = Progress(
        TextColumn("Pressing"),
        BarColumn(),
        MofNCompleteColumn(),
        TextColumn("{task.description}"),
        console=screen.messages,
        transient=True,
        disable=screen.quiet or not screen.messages.is_terminal,
    )
    builds = []
    with bar:
        for plan in plans:
            task = bar.add_task("", total=len(plan.faces) * len(plan.request.formats))

            def step(event: Step, task: TaskID = task) -> None:
                bar.update(task, completed=event.done, description=event.label)

            builds.append(run(plan, step))
    return [
        (build, None if dry_run else write_output(build.files, request.folder))
        for request, build in zip(requests, builds, strict=True)
    ]

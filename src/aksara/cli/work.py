"""Running a build with a progress bar, for the commands that build."""

from __future__ import annotations

from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn

from aksara.build import Build, BuildRequest, Written, make_plan, run, write_output
from aksara.build import Progress as Step
from aksara.cli.screen import Screen


def build_and_write(request: BuildRequest, screen: Screen, *, dry_run: bool = False) -> tuple[Build, Written | None]:
    """Plan, make and write. The bar shows on a terminal only; nothing is written if `dry_run`."""
    plan = make_plan(request)
    bar = Progress(
        TextColumn("Pressing"),
        BarColumn(),
        MofNCompleteColumn(),
        TextColumn("{task.description}"),
        console=screen.messages,
        transient=True,
        disable=screen.quiet or not screen.messages.is_terminal,
    )
    with bar:
        task = bar.add_task("", total=len(plan.faces) * len(request.formats))

        def step(event: Step) -> None:
            bar.update(task, completed=event.done, description=event.label)

        result = run(plan, step)
    return result, None if dry_run else write_output(result.files, request.folder)

"""Running builds with a progress bar, for the commands that build."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Executor

from msgspec import Struct
from rich.progress import BarColumn, MofNCompleteColumn, Progress, TaskID, TextColumn

from aksara.cli.screen import Screen
from aksara.cli.stopping import note_written, undisturbed
from aksara.pipeline import Build, BuildPlan, BuildRequest, Written, make_plan, run, write_output
from aksara.pipeline import Progress as Step
from aksara.pipeline.request import HostAddresses
from aksara.project import AddressList, list_addresses


class Done(Struct, frozen=True):
    """A build that was made: its plan, its result, and what was written (None in a dry run)."""

    plan: BuildPlan
    build: Build
    written: Written | None
    #: What has become of the list of addresses in the project, if it has one.
    addresses: AddressList | None = None


def build_all(
    requests: Sequence[BuildRequest], screen: Screen, executor: Executor | None = None
) -> list[tuple[BuildPlan, Build]]:
    """Plan and make all, by the executor if there is one; nothing is written. The bar shows on a terminal only."""
    plans = [make_plan(request) for request in requests]
    bar = Progress(
        TextColumn("Compressing"),
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
            task = bar.add_task("", total=None)

            def step(event: Step, task: TaskID = task) -> None:
                bar.update(task, total=event.total, completed=event.done, description=event.label)

            builds.append(run(plan, step, executor=executor))
    return list(zip(plans, builds, strict=True))


def build_and_write(
    requests: Sequence[BuildRequest], screen: Screen, *, dry_run: bool = False, executor: Executor | None = None
) -> list[Done]:
    """Plan and make all, then write all; nothing is written in a dry run."""
    done = []
    for plan, build in build_all(requests, screen, executor):
        written, request = None, plan.request
        if not dry_run:
            with plan.request.locating(), undisturbed():
                written = write_output(build.files, request.folder, request.within, request.outputs, request.project)
                note_written(f"{plan.request.folder}/")
        listed = _list_addresses(request.addresses, build) if written is not None and request.addresses else None
        done.append(Done(plan, build, written, listed))
    return done


def _list_addresses(addresses: HostAddresses, build: Build) -> AddressList:
    files = [file.path.name for file in build.files if file.kind == "font"]
    return list_addresses(addresses.project, addresses.table, files)

"""Many projects, and work on other machines: the same bytes, nothing lost, and what fails stops nothing else."""

from __future__ import annotations

import json
import os
import pickle
import signal
import socket
import subprocess
import sys
import time
import zipfile
from collections.abc import Iterator
from concurrent.futures import BrokenExecutor, Executor, Future, ProcessPoolExecutor
from functools import partial
from pathlib import Path
from typing import Any

import pytest

import aksara
from aksara import BuildRequest, CharacterRequest, FaceOverride, FamilyRequest, make_plan
from aksara.cli import build as build_command
from aksara.errors import InputErrors, Location
from aksara.limits import MAX_RECEIPTS
from aksara.observing import Observed
from aksara.project.catalogue import Catalogue
from aksara.project.families_apart import separate_families
from aksara.receipts import Outcome, Receipts
from conftest import Run
from fonts import DEMO_FONTS, DEMO_SLABS, small_font

_TEXT = "Ferries to Pulau Penyu"


def _request(folder: Path) -> BuildRequest:
    fonts = (DEMO_FONTS[0], DEMO_FONTS[1]), (DEMO_SLABS[0],)
    return BuildRequest(
        families=tuple(FamilyRequest(fonts=each, name=f"Brand {number}") for number, each in enumerate(fonts)),
        characters=CharacterRequest(texts=(_TEXT,)), folder=folder, effort="fast", cache=False,
    )  # fmt: skip


def _bytes(build: aksara.pipeline.Build) -> dict[str, bytes]:
    return {file.path.name: file.data for file in build.files}


class _Broken(Executor):
    """Workers that break down in the middle: the first family is done, the others are lost."""

    def submit(self, fn: Any, /, *arguments: Any, **options: Any) -> Future[Any]:
        future: Future[Any] = Future()
        if arguments[0].fonts[0].path.endswith(".ttf"):
            future.set_result(fn(*arguments, **options))
        else:
            future.set_exception(BrokenExecutor("a worker was killed"))
        return future


def test_any_executor_gives_the_same_bytes(tmp_path: Path) -> None:
    here = aksara.build(_request(tmp_path / "out"))
    with ProcessPoolExecutor(1) as executor:
        there = aksara.build(_request(tmp_path / "out"), executor=executor)
    assert _bytes(here) == _bytes(there) == _bytes(aksara.build(_request(tmp_path / "out"), executor=_Broken()))


@pytest.mark.parametrize("error", [
    aksara.FontError("it is damaged", file="a.ttf", table="glyf", glyph=3),
    aksara.RequestError("cannot be", parameter="BuildRequest.url", location=Location("aksara.toml", 3)),
    InputErrors([aksara.InputError("a.ttf: is gone"), aksara.UnsupportedFont("bitmaps", file="b.ttf")]),
])  # fmt: skip
def test_errors_travel_as_they_are(error: aksara.AksaraError) -> None:
    back = pickle.loads(pickle.dumps(error))
    assert (type(back), str(back), vars(back).keys()) == (type(error), str(error), vars(error).keys())


@pytest.fixture
def brands(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Three projects, the second of which names no fonts that are there."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    for number, font in enumerate((DEMO_FONTS[0], None, DEMO_SLABS[0])):
        folder = tmp_path / f"brand-{number}"
        folder.mkdir()
        if font is not None:
            (folder / "a.font").symlink_to(font)
        (folder / "aksara.toml").write_text(
            f'[[family]]\nfonts = ["a.font"]\nname = "Brand {number}"\n[site]\nalso = "{_TEXT}"\n'
        )
    return [f"brand-{number}/aksara.toml" for number in range(3)]


def test_a_failing_project_does_not_stop_the_others(aksara: Run, brands: list[str], tmp_path: Path) -> None:
    done = aksara("build", *brands)
    assert done.returncode == 2 and "brand-1/aksara.toml, line 2: fonts: " in done.stderr
    first, second, total = done.stdout.splitlines()
    assert first.startswith("Brand 0  1 face, 2 files") and first.endswith("brand-0/web-fonts/  (built)")
    assert second.startswith("Brand 2") and total.startswith("All: 2 families, 4 files") and "1 project failed" in total
    (tmp_path / "brand-1/a.font").symlink_to(DEMO_FONTS[1])
    done = aksara("build", *brands, "--json")
    lines = [json.loads(line) for line in done.stdout.splitlines()]
    assert [(line["family"], line["status"]) for line in lines] == [
        ("Brand 0", "unchanged"), ("Brand 1", "built"), ("Brand 2", "unchanged"),
    ]  # fmt: skip
    (tmp_path / "brand-2/aksara.toml").write_text(
        (tmp_path / "brand-2/aksara.toml").read_text().replace("Brand 2", "Brand Two")
    )
    assert "All: 3 families, 6 files" in (out := aksara("build", *brands).stdout) and "2 unchanged" in out
    alone = aksara("build", "brand-0/aksara.toml", "--to", "alone", "--no-cache")
    assert alone.returncode == 0 and "Written to alone/" in alone.stdout
    assert aksara("build", *brands, str(DEMO_FONTS[0])).returncode == 2
    refused = aksara("build", *brands, "--to", "one")
    assert refused.returncode == 2 and "several projects are given" in refused.stderr


#: More families than this are built one by one, here.
_TOGETHER = 8


@pytest.fixture
def library(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder with one font of each of 13 families; one is damaged, two may not be embedded, two claim one face."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setattr(build_command, "separate_families", partial(separate_families, most=_TOGETHER))
    folder = tmp_path / "library"
    folder.mkdir()
    for number in range(13):
        names = {1: f"Pulau {number:02}", 2: "Regular"}
        (folder / f"{number:02}.ttf").write_bytes(small_font(names=names, fs_type=2 if number in (7, 9) else 0))
    (folder / "11.ttf").rename(folder / os.fsdecode(b"\xff.ttf"))
    (folder / "10-again.ttf").write_bytes(small_font({0x41: 1}, names={1: "Pulau 10", 2: "Regular"}))
    (folder / "03.ttf").write_bytes((folder / "03.ttf").read_bytes()[:400])
    return folder


def test_the_families_of_a_folder_are_built_one_by_one(aksara: Run, library: Path, tmp_path: Path) -> None:
    assert aksara("build", "library/00.ttf", "--to", "out").returncode == 0
    done = aksara("build", "library", "--to", "out")
    assert "Note out/: it still has the style sheet and the fonts of an earlier build" in done.stderr
    assert done.stderr.startswith("Reading 14 fonts\n")
    assert "12 families: each is built by itself, into a folder of its own in out/" in done.stderr
    lines = done.stdout.splitlines()
    assert lines[0] == "Pulau 00  1 face, 2 files, 892 B in out/pulau-00/  (built)"
    assert lines[-1].startswith("All: 9 families, 18 files, ") and lines[-1].endswith(
        "; 3 families failed: Pulau 07, Pulau 09, Pulau 10; 1 font could not be read"
    )
    said = [line for line in done.stderr.splitlines() if line.startswith(("library/03.ttf: ", "Pulau "))]
    assert [line[:15] for line in said] == ["library/03.ttf:", *(f"Pulau {n}: libra" for n in ("07", "09", "10"))]
    assert done.returncode == 3 and done.stderr.count("--web-licence") == 1, "advice is given once"
    assert (tmp_path / "out/pulau-12/faces.css").is_file() and not (tmp_path / "out/pulau-07").exists()
    wrong = aksara("build", "library", "--for-file", "nowhere.txt")
    assert wrong.returncode == 2 and wrong.stderr.count("nowhere.txt") == 1, "it is wrong for all of them"
    # What is asked once for all of them is one build of all.
    together = aksara("build", "library", "--to", "all", "--css", "all/faces.css")
    assert together.returncode == 3 and "03.ttf" in together.stderr and not (tmp_path / "all").exists()
    for font in ("07.ttf", "09.ttf", "10-again.ttf", "03.ttf"):
        (library / font).unlink()
    together = aksara("build", "library", "--to", "all", "--css", "all/faces.css")
    assert together.returncode == 0 and (tmp_path / "all/faces.css").read_text().count("url(") == 20


def test_an_interrupted_folder_goes_on_where_it_was(aksara: Run, library: Path, tmp_path: Path) -> None:
    code = (
        "import signal; signal.signal(signal.SIGINT, signal.default_int_handler)\n"
        "from functools import partial\nfrom aksara.cli import build, main\n"
        f"build.separate_families = partial(build.separate_families, most={_TOGETHER})\n"
        "main(['build', 'library', '--json', '--effort', 'fast'])"
    )
    process = subprocess.Popen([sys.executable, "-c", code], cwd=tmp_path, text=True, stdout=subprocess.PIPE)
    assert process.stdout is not None
    lines = [process.stdout.readline() for _ in range(4)]
    process.send_signal(signal.SIGINT)
    before = {line["family"] for line in map(json.loads, [*lines, *process.stdout.read().splitlines()])}
    assert process.wait(20) == 130 and 4 <= len(before) < 12
    (library / "99.ttf").write_bytes(small_font(names={1: "Pulau 99", 2: "Regular"}))
    again = [json.loads(line) for line in aksara("build", "library", "--json").stdout.splitlines()]
    assert [line["status"] for line in again].count("failed") == 4
    kept = {line["family"] for line in again if line["status"] == "unchanged"}
    assert kept == before - {"", "Pulau 07", "Pulau 09", "Pulau 10"}, "those that were built, and no others"
    assert {line["family"] for line in again if line["status"] == "built"} >= {"Pulau 12", "Pulau 99"}


def test_a_large_catalogue_is_remembered_whole(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    receipts = [Receipts((str(number),), "catalogues") for number in range(MAX_RECEIPTS + 20)]
    for each in receipts:
        each.keep(Observed(), [], Outcome(status=0))
    assert not list(Catalogue().results([])), "it throws away what is too much"
    assert all(each.last() is not None for each in receipts), "more than of other commands are kept"


def test_each_family_takes_the_texts_that_are_about_it(tmp_path: Path) -> None:
    def put(path: str, family: str) -> None:
        (tmp_path / path).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / path).write_bytes(small_font(names={1: family, 2: "Regular"}))

    put("a/otf/One.ttf", "Selat")
    put("a/Two.ttf", "selat")
    put("b/Three.ttf", "Teluk")
    put("b/deep/Four.ttf", "Çelik")
    put("b/deep/Six.ttf", "海")
    for text in ("OFL.txt", "a/docs/EULA.txt", "b/deep/license.txt", "c/terms.txt"):
        (tmp_path / text).parent.mkdir(exist_ok=True)
        (tmp_path / text).write_text(f"You may, says {text}.")
    with zipfile.ZipFile(tmp_path / "b/order.zip", "w") as order:
        order.writestr("fonts/Five.ttf", small_font(names={1: "Teluk", 2: "Bold"}, weight=700))
        order.writestr("EULA.txt", "You may, too.")
    overrides = (FaceOverride("Five.ttf", 600), FaceOverride("One.ttf", 300))
    fonts = FamilyRequest(fonts=(tmp_path,), overrides=overrides)
    apart = separate_families(BuildRequest(families=(fonts,), folder=tmp_path / "type"), most=2)
    assert apart is not None and not apart.problems
    found = {}
    for family in apart.families:
        (request,) = family.request.families
        plan = make_plan(family.request)
        texts = sorted(Path(file.source).relative_to(tmp_path).as_posix() for file in plan.licences.files)
        found[family.name] = family.request.folder.name, len(plan.faces), texts, len(request.overrides)
    assert found == {
        "Selat": ("selat", 2, ["OFL.txt", "a/docs/EULA.txt", "c/terms.txt"], 1),
        "Teluk": ("teluk", 2, ["OFL.txt", "b/order.zip/EULA.txt", "c/terms.txt"], 1),
        "Çelik": ("celik", 1, ["OFL.txt", "b/deep/license.txt", "c/terms.txt"], 0),
        "海": ("family-0ac6d5", 1, ["OFL.txt", "b/deep/license.txt", "c/terms.txt"], 0),
    }
    # The folder is one for fonts: they lie in that of the family.
    assert apart.families[0].request.fonts_folder == tmp_path / "type/selat"
    assert separate_families(BuildRequest(families=(fonts,)), most=4) is None
    wrong = FamilyRequest(fonts=(tmp_path,), overrides=(FaceOverride("None.ttf", 600),))
    with pytest.raises(aksara.RequestError, match="no font here is called None"):
        separate_families(BuildRequest(families=(wrong,)), most=2)


@pytest.fixture
def cluster(tmp_path: Path) -> Iterator[tuple[str, list[int]]]:
    """A scheduler with two workers: its address, and the workers' process IDs."""
    code = (
        "from distributed import LocalCluster\nimport sys, time\n"
        "if __name__ == '__main__':\n"
        "    with LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as cluster:\n"
        "        pids = [worker.process.pid for worker in cluster.workers.values()]\n"
        "        print(cluster.scheduler_address, *pids, flush=True)\n"
        "        sys.stdin.read()\n"
    )
    (tmp_path / "cluster.py").write_text(code)
    process = subprocess.Popen(
        [sys.executable, "cluster.py"], cwd=tmp_path, stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
    )  # fmt: skip
    assert process.stdout is not None
    address, *pids = process.stdout.readline().decode().split()
    yield address, [int(pid) for pid in pids]
    assert process.stdin is not None
    process.stdin.close()
    process.wait(20)


def test_a_cluster_gives_the_same_bytes_and_loses_nothing(
    aksara: Run, brands: list[str], tmp_path: Path, cluster: tuple[str, list[int]]
) -> None:
    address, workers = cluster
    assert aksara("build", *brands, "--no-cache").returncode == 2
    here = {path: path.read_bytes() for path in tmp_path.glob("brand-*/web-fonts/fonts/*")}
    for path in here:
        path.unlink()
    # Both have work, and do nothing; then one is killed with what it has.
    for worker in workers:
        os.kill(worker, signal.SIGSTOP)
    run = subprocess.Popen(
        [sys.executable, "-m", "aksara", "build", *brands, "--no-cache", "--effort", "fast", "--cluster", address],
        cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE,
    )  # fmt: skip
    time.sleep(5)
    os.kill(workers[0], signal.SIGKILL)
    os.kill(workers[1], signal.SIGCONT)
    out, messages = run.communicate(timeout=90)
    assert run.returncode == 2 and b"All: 2 families, 4 files" in out, messages
    assert here == {path: path.read_bytes() for path in here}


@pytest.fixture
def silent() -> Iterator[str]:
    """The address of a server that says nothing."""
    with socket.create_server(("127.0.0.1", 0)) as server:
        yield f"tcp://127.0.0.1:{server.getsockname()[1]}"


def test_a_server_that_is_not_a_scheduler_is_given_up(silent: str, aksara: Run, brands: list[str]) -> None:
    done = aksara("build", *brands, "--cluster", silent)
    assert done.returncode == 2 and "no scheduler answers there" in done.stderr


@pytest.mark.parametrize(("address", "said"), [
    ("tcp://127.0.0.1:1", "no scheduler answers there"), ("10.0.0.5", "this is not the address of a scheduler"),
    ("tcp://penyu", "this is not the address of a scheduler"),
])  # fmt: skip
def test_a_missing_scheduler_is_reported_at_once(address: str, said: str, aksara: Run, brands: list[str]) -> None:
    before = time.monotonic()
    done = aksara("build", *brands, "--cluster", address)
    assert done.returncode == 2 and said in done.stderr and time.monotonic() - before < 30

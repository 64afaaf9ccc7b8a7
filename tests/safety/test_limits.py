"""Input may be broken, locked, endless or cut off, and a build stopped midway. Nothing of the user's is harmed."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from aksara import BuildRequest, FamilyRequest, make_plan, run
from aksara.cli import work
from aksara.errors import InputError, OutputError, RequestError
from aksara.font import Font
from aksara.pipeline.making import font_store
from aksara.pipeline.making.font_files import FontFiles, FontRecipe
from aksara.sources import archive, files, find_sources, finding, paths
from conftest import Run, manifest_of
from fonts import DEMO_FONTS, small_font

PENYU = DEMO_FONTS[0].read_bytes()


def _zip(path: Path, names: list[str]) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as made:
        for name in names:
            made.writestr(name, PENYU)
    return path


def _locked(path: Path) -> Path:
    """A ZIP whose members say that they are encrypted (bit 0 of their flags, in both directories)."""
    data = bytearray(_zip(path, ["fonts/a.ttf"]).read_bytes())
    data[6] |= 1
    data[data.index(b"PK\1\2") + 8] |= 1
    path.write_bytes(data)
    return path


def test_a_locked_zip_is_reported(aksara: Run, tmp_path: Path) -> None:
    _locked(tmp_path / "order.zip")
    done = aksara("build", "order.zip")
    assert (done.returncode, "order.zip/fonts/a.ttf: the ZIP is protected by a password" in done.stderr) == (3, True)
    assert [path.name for path in tmp_path.iterdir()] == ["order.zip"]


@pytest.mark.parametrize(
    ("harm", "said"),
    [
        (lambda data: data[:-30], "cannot be opened"),  # without its directory
        (lambda data: data[: len(data) // 2], "cannot be opened"),
        (lambda data: data.replace(b"fonts/a.ttf", b"fonts/b.ttf", 1), "cannot be unzipped"),  # two names for one
        (lambda data: data[:60] + bytes(40) + data[100:], "cannot be unzipped"),
    ],
)
def test_a_broken_zip_is_reported(harm: Callable[[bytes], bytes], said: str, aksara: Run, tmp_path: Path) -> None:
    path = _zip(tmp_path / "order.zip", ["fonts/a.ttf"])
    path.write_bytes(harm(path.read_bytes()))
    done = aksara("inspect", "order.zip")
    assert (done.returncode, said in done.stderr) == (3, True), done.stderr
    assert "Traceback" not in done.stderr


def test_more_files_than_anyone_has_are_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(4):
        (tmp_path / f"{number}.ttf").write_bytes(b"")
        (tmp_path / f"{number}.html").write_text("a")
    assert len(find_sources([tmp_path]).fonts) == 4
    monkeypatch.setattr(finding, "MAX_FONT_FILES", 3)
    with pytest.raises(RequestError, match="more than 3 font files"):
        find_sources([tmp_path])
    assert len(paths.find_pages(tmp_path, [".html"]).value) == 4
    monkeypatch.setattr(paths, "MAX_PAGES", 3)
    with pytest.raises(RequestError, match="more than 3 pages"):
        paths.find_pages(tmp_path, [".html"])
    with pytest.raises(RequestError, match="matches more than 3 files"):
        paths.expand("*.html", tmp_path)
    with pytest.raises(InputError, match="larger than 0 MB"):
        files.read_text(tmp_path / "0.html", 0)
    path = _zip(tmp_path / "many.zip", [f"{number}.ttf" for number in range(4)])
    assert len(list(archive.members(path, str))) == 4
    monkeypatch.setattr(archive, "MAX_ZIP_MEMBERS", 3)
    with pytest.raises(InputError, match="holds more than 3 files"):
        list(archive.members(path, str))


# ---- workers that fail, or are stopped


@pytest.fixture
def request_of_four(tmp_path: Path) -> BuildRequest:
    for number, name in enumerate(("Satu", "Dua", "Tiga", "Empat")):
        (tmp_path / f"{number}.ttf").write_bytes(small_font(names={1: name, 2: "Regular"}))
    return BuildRequest(families=(FamilyRequest(fonts=(tmp_path,)),), folder=tmp_path / "out", effort="fast", jobs=1)


@pytest.mark.parametrize("error", [OutputError("the file made from it does not read back the same"), MemoryError()])
def test_a_worker_that_fails_stops_the_others(
    error: Exception, request_of_four: BuildRequest, monkeypatch: pytest.MonkeyPatch
) -> None:
    made: list[str] = []
    original = font_store.make_font_files

    def failing(font: Font, recipe: FontRecipe, step: Callable[[object], None], **more: Any) -> FontFiles:
        made.append(font.path)
        if len(made) == 2:
            raise error
        return original(font, recipe, step, **more)

    plan = make_plan(request_of_four)
    monkeypatch.setattr(font_store, "make_font_files", failing)
    with pytest.raises(type(error)):
        run(plan)
    assert len(made) == 2, "the last ones were not begun"
    assert not request_of_four.folder.exists()


def test_progress_callbacks_may_stop_the_work(request_of_four: BuildRequest) -> None:
    seen = []

    def stop(step: object) -> None:
        seen.append(step)
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        run(make_plan(request_of_four), stop)
    assert len(seen) < 8, "each font has two steps; no more than those under way may come"


def test_an_interrupt_is_reported_and_writes_nothing(
    aksara: Run, request_of_four: BuildRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = {path: path.read_bytes() for path in tmp_path.iterdir()}

    def interrupted(*arguments: object, **options: object) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr(work, "run", interrupted)
    done = aksara("build", ".")
    assert (done.returncode, done.stderr.strip()) == (130, "aksara: stopped; nothing was written")
    assert {path: path.read_bytes() for path in tmp_path.iterdir()} == before


def test_a_pipe_that_is_closed_ends_the_program_quietly() -> None:
    command = [sys.executable, "-m", "aksara", "languages", "--json"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as process:
        assert process.stdout is not None and process.stderr is not None
        process.stdout.read(10)
        process.stdout.close()
        messages = process.stderr.read().decode()
        assert process.wait(60) == 0
    assert messages == ""


# ---- links that lead out of the output folder


@pytest.fixture
def built(aksara: Run, tmp_path: Path) -> Path:
    (tmp_path / "a.ttf").write_bytes(small_font())
    assert aksara("build", "a.ttf", "--for-text", "A").returncode == 0
    return tmp_path / "web-fonts"


def test_old_files_behind_a_link_are_not_removed(aksara: Run, built: Path, tmp_path: Path) -> None:
    elsewhere = tmp_path / "elsewhere"
    shutil.move(built / "fonts", elsewhere)
    (built / "fonts").symlink_to(elsewhere)
    before = {path.name for path in elsewhere.iterdir()}
    done = aksara("build", "a.ttf", "--for-text", "B")
    assert (done.returncode, "this is a link" in done.stderr) == (2, True), done.stderr
    assert before <= {path.name for path in elsewhere.iterdir()}


def test_an_old_font_that_is_a_link_stays_and_so_does_its_target(aksara: Run, built: Path, tmp_path: Path) -> None:
    (old,) = (built / "fonts").glob("*.woff2")
    target = tmp_path / "precious.woff2"
    shutil.move(old, target)
    old.symlink_to(target)
    aksara("build", "a.ttf", "--for-text", "B")
    assert old.is_symlink() and target.exists()


def test_a_style_sheet_that_is_a_link_to_the_users_own_is_not_replaced(
    aksara: Run, built: Path, tmp_path: Path
) -> None:
    own = tmp_path / "main.css"
    own.write_text("body { color: teal }")
    (built / "faces.css").unlink()
    (built / "faces.css").symlink_to(own)
    done = aksara("build", "a.ttf", "--for-text", "B")
    assert (done.returncode, "this is a link" in done.stderr) == (2, True)
    assert own.read_text() == "body { color: teal }"


def test_a_manifest_cannot_name_files_outside(aksara: Run, built: Path, tmp_path: Path) -> None:
    told = manifest_of(built)
    (tmp_path / "precious.txt").write_text("keep me")
    os.link(tmp_path / "precious.txt", tmp_path / "other.txt")
    for name in ("../precious.txt", "fonts/../../precious.txt", str(tmp_path / "precious.txt")):
        told["families"][0]["faces"][0]["files"].append({"path": name, "sha256": "0"})
    (built / "faces.json").write_text(json.dumps(told, indent=1))
    assert aksara("build", "a.ttf", "--for-text", "B").returncode == 0
    assert (tmp_path / "precious.txt").exists()

"""What costs nothing twice: unchanged builds, unchanged faces, and builds that watch for changes."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from aksara.pipeline import make_plan, run
from aksara.pipeline.making import font_store
from aksara.project import read_project
from aksara.user_cache import thin_out
from conftest import Run, copy_demo_project

_OUT = "site/type"


@pytest.fixture
def cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A cache folder of the test's own, for those that count what is made or look at what is kept."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    return tmp_path / "cache"


@pytest.fixture
def project(tmp_path: Path) -> Path:
    """The demo's project."""
    return copy_demo_project(tmp_path / "demo")


@pytest.fixture
def few_faces(project: Path) -> Path:
    """The same with three faces."""
    path = project / "aksara.toml"
    families = '[[family]]\nfonts = ["fonts/PenyuSans-Bold.ttf"]\n[[family]]\nfonts = ["fonts/PenyuSlab-Bold*.otf"]\n'
    path.write_text(path.read_text().partition("[[family]]")[0] + families)
    return project


def contents(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


def times(folder: Path) -> dict[Path, int]:
    return {path: path.stat().st_mtime_ns for path in folder.rglob("*")}


def test_a_build_with_nothing_changed_does_nothing(aksara: Run, project: Path) -> None:
    whole = aksara("build", cwd=project)
    before = times(project)
    code = (
        "import sys; from aksara.cli import main\n"
        "try: main(['build', '--effort', 'fast'])\n"
        "finally: print(sorted({'numpy', 'brotli', 'rich', 'aksara.pipeline'} & set(sys.modules)))"
    )
    again = subprocess.run(
        [sys.executable, "-c", code], cwd=project, capture_output=True, text=True, check=False, env=dict(os.environ)
    )
    assert (whole.returncode, again.returncode) == (0, 0), whole.stderr + again.stderr
    assert "Nothing has changed since the last build: site/type/ holds 10 faces in 19 files" in again.stdout
    assert again.stdout.splitlines()[-1] == "[]", "nothing that builds need is imported"
    assert times(project) == before
    document = json.loads(aksara("build", "--json", cwd=project).stdout)
    assert json.loads(aksara("build", "--json", cwd=project).stdout) == document
    assert document == json.loads((project / _OUT / "faces.json").read_text())


def _append(name: str, text: str) -> Callable[[Path], object]:
    return lambda project: (project / name).write_text((project / name).read_text() + text)


CHANGES: dict[str, Callable[[Path], object]] = {
    "a page": _append("site/index.html", "<p>Ж</p>"),
    "a style sheet": _append("site/penyu.css", "h2 { font-weight: 700 }"),
    "the project file": lambda project: (project / "aksara.toml").write_text(
        (project / "aksara.toml").read_text().replace('holder = "Penyu Ferries"', 'holder = "Penyu"')
    ),
    "a new page": lambda project: (project / "site/new.html").write_text("<p>Ж"),
    "a font of the same size and time": lambda project: _flip(project / "fonts/PenyuSans-Bold.ttf"),
    "a font that is gone": lambda project: (project / "fonts/PenyuSlab-BoldItalic.otf").unlink(),
    "a written font that is gone": lambda project: next((project / _OUT / "fonts").glob("*Bold.*.woff")).unlink(),
    "a written style sheet that was edited": _append(f"{_OUT}/faces.css", "a { color: red }"),
}


def _flip(path: Path) -> None:
    """Change the version of a font, but not its size nor its times."""
    data, found = bytearray(path.read_bytes()), path.stat()
    count = int.from_bytes(data[4:6], "big")
    records = (data[at : at + 16] for at in range(12, 12 + 16 * count, 16))
    head = next(int.from_bytes(record[8:12], "big") for record in records if record[:4] == b"head")
    data[head + 7] ^= 1
    path.write_bytes(data)
    os.utime(path, ns=(found.st_atime_ns, found.st_mtime_ns))


def test_rebuilds_equal_first_builds(aksara: Run, few_faces: Path) -> None:
    """Each change after the others: so all of them are looked for in an output that has seen some already."""
    project = few_faces
    aksara("build", cwd=project)
    for name, change in CHANGES.items():
        change(project)
        again = aksara("build", cwd=project)
        assert again.returncode == 0 and "Nothing has changed" not in again.stdout, name
        kept = contents(project / _OUT)
        shutil.rmtree(project / _OUT)
        afresh = aksara("build", "--no-cache", cwd=project)
        assert afresh.returncode == 0, afresh.stderr
        assert contents(project / _OUT) == kept, name
        assert "Nothing has changed" in aksara("build", cwd=project).stdout, f"{name}, and is kept in its turn"


def test_one_changed_face_costs_one_face(few_faces: Path, cache: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    project = few_faces
    made: list[str] = []
    original = font_store.make_font_files
    monkeypatch.setattr(
        font_store,
        "make_font_files",
        lambda font, *rest, **more: made.append(font.path) or original(font, *rest, **more),
    )

    def build() -> set[str]:
        made.clear()
        (request,) = read_project(project / "aksara.toml")
        run(make_plan(request))
        return {Path(path).name for path in made}

    assert len(build()) == 3
    CHANGES["a font of the same size and time"](project)
    assert build() == {"PenyuSans-Bold.ttf"}
    page = project / "site/index.html"
    page.write_text(page.read_text().replace("</p>", " ferry</p>", 1))
    assert build() == set(), "letters that the fonts have already"
    for entry in (cache / "aksara/fonts").rglob("*"):
        if entry.is_file():
            entry.write_bytes(entry.read_bytes()[:-1] + bytes([entry.read_bytes()[-1] ^ 1]))
    assert len(build()) == 3, "what was damaged is made again"


def test_a_page_in_which_links_are_kept_is_watched(project: Path) -> None:
    path = project / "aksara.toml"
    families = '[[family]]\nfonts = ["fonts/PenyuSans-Regular.ttf"]\n'
    path.write_text(
        '[site]\npages = ["site/*.html"]\n[output]\nfolder = "site/type"\nlinks = ["site/*.html"]\n' + families
    )
    with _watching(project) as (process, lines):
        page = project / "site/index.html"
        before = page.read_text()
        assert "aksara: begin" in before
        page.write_text(before.replace("</p>", " Ĝ</p>", 1))
        assert "site/index.html changed: " in _next_build(lines)
        after = page.read_text()
        assert " Ĝ</p>" in after and after != before.replace("</p>", " Ĝ</p>", 1), "its links follow"
        # What the build changes itself is no change.
        time.sleep(2)
        process.send_signal(signal.SIGINT)
        assert " changed: " not in "".join(lines)


@contextmanager
def _watching(project: Path) -> Iterator[tuple[subprocess.Popen[str], Iterator[str]]]:
    """The program as it watches, once it has built, and what it prints; messages go into a file."""
    # Where tests run in the background the signal is ignored, and so it would be by what they start.
    code = (
        "import signal; signal.signal(signal.SIGINT, signal.default_int_handler)\n"
        "from aksara.cli import main; main(['build', '--watch', '--effort', 'fast'])"
    )
    process = subprocess.Popen(
        [sys.executable, "-c", code], cwd=project, text=True,
        stdout=subprocess.PIPE, stderr=(project / "messages").open("w"),
    )  # fmt: skip
    assert process.stdout is not None
    # A program that sees no change would be waited for without end.
    watchdog = threading.Timer(120, process.kill)
    watchdog.start()
    try:
        _wait_for(project, "Watching for changes")
        yield process, iter(process.stdout.readline, "")
    finally:
        watchdog.cancel()
        process.kill()
        process.wait(20)


def _next_build(lines: Iterator[str]) -> str:
    return next(line for line in lines if " changed: " in line)


def _wait_for(project: Path, text: str) -> None:
    end = time.monotonic() + 120
    while text not in (project / "messages").read_text():
        assert time.monotonic() < end, text
        time.sleep(0.05)


def test_builds_at_once_share_what_they_keep(few_faces: Path, cache: Path) -> None:
    project = few_faces
    command = [sys.executable, "-m", "aksara", "build", "--to"]
    started = [
        subprocess.Popen([*command, f"site/{name}"], cwd=project, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
        for name in ("one", "two", "three")
    ]
    assert [(process.communicate()[1], process.returncode)[1] for process in started] == [0, 0, 0]
    one, two, three = (contents(project / "site" / name / "fonts") for name in ("one", "two", "three"))
    assert one == two == three
    assert not list(cache.rglob(".new-*"))


def test_the_cache_is_bounded_and_can_be_left_alone(aksara: Run, few_faces: Path, cache: Path, tmp_path: Path) -> None:
    aksara("build", "--no-cache", cwd=few_faces)
    assert not cache.exists()
    folder = tmp_path / "kept"
    folder.mkdir()
    for number in range(10):
        (folder / str(number)).write_bytes(b"x" * 10)
        os.utime(folder / str(number), ns=(number, number))
    thin_out(folder, 8, 65)
    assert sorted(path.name for path in folder.iterdir()) == ["4", "5", "6", "7", "8", "9"]


def test_watching_builds_again_after_each_change_until_it_is_stopped(few_faces: Path) -> None:
    project = few_faces
    with _watching(project) as (process, lines):
        page, font = project / "site/index.html", project / "fonts/PenyuSans-Bold.ttf"
        page.write_text(page.read_text().replace("</p>", " Ж</p>", 1))
        assert "site/index.html changed: " in _next_build(lines)
        whole = font.read_bytes()
        font.write_bytes(whole[:1000])
        _wait_for(project, "not built: fonts/PenyuSans-Bold.ttf: the font is damaged")
        font.write_bytes(whole)
        assert "fonts/PenyuSans-Bold.ttf changed: nothing new" in _next_build(lines)
        # Site generators remove their folder and make it again.
        pages = {path: path.read_text() for path in (project / "site").glob("*.html")}
        for path in pages:
            path.unlink()
        kept = (project / "site").rename(project / "gone")
        time.sleep(0.3)
        (project / "site").mkdir()
        for path in kept.iterdir():
            path.rename(project / "site" / path.name)
        for path, text in pages.items():
            path.write_text(text.replace("</p>", " Q</p>", 1))
        assert "site" in _next_build(lines)
        time.sleep(1)
        page.write_text(page.read_text().replace("</p>", " ñ</p>", 1))
        assert "site/index.html changed: " in _next_build(lines), "later saves in the new folder"
        process.send_signal(signal.SIGINT)
        assert process.wait(60) == 0
    assert (project / _OUT / "faces.json").is_file()
    assert "Traceback" not in (project / "messages").read_text()

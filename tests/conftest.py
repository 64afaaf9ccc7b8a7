"""What the tests share: the real program, real fonts, real renderers."""

from __future__ import annotations

import functools
import http.server
import io
import json
import os
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, redirect_stderr, redirect_stdout
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from playwright.sync_api import Browser, Page, Playwright, sync_playwright

from aksara.cli import main
from aksara.demo import copy_demo
from aksara.processes import SAFE_PATH
from fonts import DEMO_FONTS

# Chromium as a reader has it, but without hinting: automatic hinting depends on which letters a font holds,
# so a faithful subset would differ by design.
_FONTCONFIG = """<?xml version="1.0"?>
<!DOCTYPE fontconfig SYSTEM "fonts.dtd">
<fontconfig>
  <dir>/usr/share/fonts/truetype/{fonts}</dir>
  <cachedir>{cache}</cachedir>
  <match target="font">
    <edit name="hinting" mode="assign"><bool>false</bool></edit>
    <edit name="autohint" mode="assign"><bool>false</bool></edit>
    <edit name="hintstyle" mode="assign"><const>hintnone</const></edit>
    <edit name="antialias" mode="assign"><bool>true</bool></edit>
    <edit name="rgba" mode="assign"><const>none</const></edit>
  </match>
</fontconfig>
"""
_ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
              "--disable-component-update", "--disable-sync", "--font-render-hinting=none"]  # fmt: skip

# The same examples on every machine, however slow it is.
settings.register_profile("house", deadline=None, derandomize=True)
settings.load_profile("house")

Run = Callable[..., subprocess.CompletedProcess[str]]


@pytest.fixture(scope="session", autouse=True)
def own_cache(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """A cache folder of the run, for all its processes: many tests build the same faces. Those that compare what is
    made twice build with `--no-cache`."""
    folder = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        folder = folder.parent
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_CACHE_HOME", str(folder / "cache-of-the-run"))
        yield


@pytest.fixture
def aksara(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Run:
    """Run the program in the test's folder; the result has its status, output and messages.

    It runs in this process, which saves most of the time of short runs; some tests start it on its own. Builds are made
    with the effort `fast`, a quarter of the time of `normal`, unless they say otherwise.
    """

    def run(*arguments: str | Path, cwd: Path = tmp_path, **environment: str) -> subprocess.CompletedProcess[str]:
        if arguments[:1] == ("build",) and not {"--effort", "--help", "--watch"} & {*arguments}:
            arguments = (*arguments, "--effort", "fast")
        out, messages, status = io.StringIO(), io.StringIO(), 0
        with monkeypatch.context() as patch, redirect_stdout(out), redirect_stderr(messages):
            patch.chdir(cwd)
            # The program sets the last one for the processes that it starts; those of tests shall not get it.
            for name, value in ({"COLUMNS": "160", SAFE_PATH: "1"} | environment).items():
                patch.setenv(name, value)
            try:
                main([*map(str, arguments)])
            except SystemExit as end:
                status = int(end.code or 0)
        return subprocess.CompletedProcess([*map(str, arguments)], status, out.getvalue(), messages.getvalue())

    return run


def copy_demo_project(folder: Path) -> Path:
    """The demo, not built, and with the effort `fast`, whose files are larger than the demo's budget."""
    copy_demo(folder)
    project = folder / "aksara.toml"
    text = project.read_text().replace("[output]\n", '[output]\neffort = "fast"\n', 1)
    project.write_text(text.replace("120 KB", "160 KB"))
    return folder


@pytest.fixture(scope="session")
def sound(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo, built: a sound site."""
    folder = copy_demo_project(tmp_path_factory.mktemp("sound") / "penyu")
    subprocess.run([sys.executable, "-m", "aksara", "-q", "build"], cwd=folder, check=True)
    return folder


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    """What drives browsers; there can be one only."""
    with sync_playwright() as started:
        yield started


@pytest.fixture(scope="session")
def browser(playwright: Playwright, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    """The system's Chromium, hinting off, on a system that has the DejaVu fonts."""
    yield from launch(playwright, tmp_path_factory.mktemp("dejavu"), "dejavu")


@pytest.fixture(scope="session")
def liberated(playwright: Playwright, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Browser]:
    """The same on a system that has the Liberation fonts."""
    yield from launch(playwright, tmp_path_factory.mktemp("liberation"), "liberation")


def unhinted_system(folder: Path, fonts: str) -> dict[str, str]:
    """The environment of a system with the fonts of one folder, hinting off; its configuration goes into `folder`."""
    config = folder / "fonts.conf"
    config.write_text(_FONTCONFIG.format(fonts=fonts, cache=folder / "cache"))
    return os.environ | {"FONTCONFIG_FILE": str(config)}


def launch(playwright: Playwright, folder: Path, fonts: str) -> Iterator[Browser]:
    """Chromium on a system with the fonts of one folder."""
    launched = playwright.chromium.launch(
        executable_path="/usr/bin/chromium", args=_ARGUMENTS, env=unhinted_system(folder, fonts)
    )
    yield launched
    launched.close()


#: A page of each browser, empty while no test uses it: a new one takes as long as a whole test.
_pages: dict[Browser, Page] = {}
_VIEWPORT = {"width": 1280, "height": 720}


@contextmanager
def open_page(browser: Browser, viewport: Any = None, **options: Any) -> Iterator[Page]:
    """A page in which nothing was opened before, or that is empty again; a new one where `options` ask for it."""
    page = _pages.pop(browser, None) if not options else None
    if page is None:
        page = browser.new_page(viewport=viewport or _VIEWPORT, **options)
    else:
        page.set_viewport_size(viewport or _VIEWPORT)
    try:
        yield page
        page.unroute_all()
        page.goto("about:blank")
    except BaseException:
        page.close()
        raise
    if options or browser in _pages:
        page.close()
    else:
        _pages[browser] = page


@contextmanager
def watched_page(browser: Browser, **options: Any) -> Iterator[tuple[Page, list[str]]]:
    """A page, and what it has to complain of: messages on its console, errors, requests that fail."""
    problems: list[str] = []
    listeners: dict[Any, Callable[..., None]] = {
        "console": lambda message: problems.append(message.text),
        "pageerror": lambda error: problems.append(str(error)),
        "requestfailed": lambda request: problems.append(request.url),
        "response": lambda response: problems.append(response.url) if response.status >= 400 else None,
    }
    with open_page(browser, **options) as page:
        for event, listener in listeners.items():
            page.on(event, listener)
        yield page, problems
        for event, listener in listeners.items():
            page.remove_listener(event, listener)


def manifest_of(folder: Path) -> dict[str, Any]:
    """What faces.json in the folder says."""
    loaded: dict[str, Any] = json.loads((folder / "faces.json").read_text())
    return loaded


@pytest.fixture
def site(tmp_path: Path) -> Iterator[str]:
    """A local server over the test's folder; its address."""
    handler = functools.partial(_Quiet, directory=str(tmp_path))
    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        # Looks often whether it shall stop, so that no test waits for that.
        threading.Thread(target=server.serve_forever, args=(0.01,), daemon=True).start()
        yield f"http://127.0.0.1:{server.server_port}"
        server.shutdown()


class _Quiet(http.server.SimpleHTTPRequestHandler):
    def log_message(self, format: str, *args: object) -> None:
        pass


@pytest.fixture
def penyu() -> dict[str, Path]:
    """The demo's desktop fonts by style."""
    return {path.stem.partition("-")[2]: path for path in DEMO_FONTS}

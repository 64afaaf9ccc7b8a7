"""`aksara try`: the user's page in each candidate, with figures that hold; nothing of the page runs or reaches out."""

from __future__ import annotations

import http.client
import json
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, Frame

from aksara.limits import MAX_COPIED_FILE
from aksara.site.page_copies import copy_page
from aksara.trying import find_candidates, make_candidate, tried_page, tried_text
from conftest import Run, manifest_of, watched_page
from fonts import DEMO_FONTS, DEMO_SLABS, LIBERATION, small_font

_FAMILY = "frame => frame.contentWindow.getComputedStyle(frame.contentDocument.querySelector({})).fontFamily"


@pytest.fixture
def home(sound: Path, tmp_path: Path) -> Path:
    """The demo's pages with their fonts, and four families to choose from."""
    shutil.copytree(sound / "site", tmp_path / "site")
    (tmp_path / "fonts").mkdir()
    for path in (*DEMO_FONTS, *DEMO_SLABS, *LIBERATION):
        if "Mono" not in path.name and "[" not in path.name:
            shutil.copy(path, tmp_path / "fonts")
    return tmp_path


def test_trial_figures_equal_those_of_the_advised_build(home: Path, aksara: Run) -> None:
    done = aksara("try", "fonts", "--on", "site/index.html", "--json", "--jobs", "2")
    said = {each["family"]: each for each in json.loads(done.stdout)["candidates"]}
    assert json.loads(done.stdout)["replaced"] == ["Penyu Sans", "Penyu Slab"]
    assert {"Penyu Sans", "Penyu Slab", "Liberation Sans", "Liberation Serif"} <= said.keys()
    liberation = said["Liberation Serif"]
    assert "ư" in liberation["missing"] and "a" not in liberation["missing"]
    assert liberation["fallback"] and liberation["line_difference"] > 0 and "installable" in liberation["licence"]
    assert not (home / "web-fonts").exists(), "nothing is written"
    # The command that it gives makes just that.
    import shlex

    arguments = shlex.split(liberation["command"].replace("\\\n", " "))
    assert arguments[:2] == ["aksara", "build"]
    built = aksara(*arguments[1:], "--format", "woff2")
    assert built.returncode == 0, built.stderr
    (family,) = manifest_of(home / "web-fonts")["families"]
    assert sum(file["bytes"] for face in family["faces"] for file in face["files"]) == liberation["bytes"]
    assert [face["label"] for face in family["faces"]] == liberation["faces"]


def test_styles_that_would_be_faked_and_fonts_that_may_not_be_used_are_reported(tmp_path: Path, aksara: Run) -> None:
    shutil.copy(DEMO_SLABS[0].with_name("PenyuSlab-Regular.otf"), tmp_path)
    (tmp_path / "page.html").write_text("<p style='font-family: Old'>a <b>b</b> <i>c</i> <b><i>d</i></b>")
    (tmp_path / "no.ttf").write_bytes(small_font(names={1: "Verboten"}, fs_type=2))
    (tmp_path / "broken.ttf").write_bytes(b"\0\1\0\0 nothing")
    done = aksara("try", ".", "--on", "page.html", "--json")
    slab, refused, damaged = json.loads(done.stdout)["candidates"]
    assert sorted(slab["faked"]) == ["Bold (thickened)", "Bold Italic (slanted and thickened)", "Italic (slanted)"]
    assert refused["family"] == "Verboten" and "forbids" in refused["problem"] and not refused["faces"]
    assert "\n" not in refused["problem"]
    assert "broken.ttf" in damaged["problem"] and damaged["command"] == ""
    allowed = json.loads(aksara("try", "no.ttf", "--text", "AB", "--web-licence", "--json").stdout)["candidates"][0]
    assert allowed["bytes"] > 0 and not allowed["problem"]


def test_text_of_headings_alone(home: Path) -> None:
    both, headings, text = (
        tried_page(str(home / "site/index.html"), (), role)
        for role in ("both", "headings", "text")  # type: ignore[arg-type]
    )
    assert set(headings.text) < set(both.text) and set(headings.text) | set(text.text) == set(both.text)
    (fonts,) = (each for each in find_candidates([home / "fonts"]) if each.name == "Liberation Sans")
    made = [make_candidate(fonts, page).size for page in (both, headings, text, tried_text("Kedai"))]
    assert made[0] > made[1] > 0 and made[0] > made[2] > 0 and made[3] < made[1]
    # One family for all: what only running text asks for is nothing that headings lack.
    page = home / "one.html"
    page.write_text("<body style='font-family: Old'><h1>Jadwal</h1><p>pagi <i>sore</i>")
    (home / "regular").mkdir()
    shutil.copy(DEMO_SLABS[0].with_name("PenyuSlab-Regular.otf"), home / "regular")
    (fonts,) = find_candidates([home / "regular"])
    faked = [make_candidate(fonts, tried_page(str(page), (), role)).faked for role in ("headings", "text", "both")]  # type: ignore[arg-type]
    assert faked == [("Bold (thickened)",), ("Italic (slanted)",), ("Bold (thickened)", "Italic (slanted)")]


def _frame(page: Any) -> Any:
    return page.locator("#then iframe").element_handle()


def test_each_candidate_is_shown_in_the_page_itself(home: Path, aksara: Run, browser: Browser) -> None:
    assert aksara("try", "fonts", "--on", "site/index.html", "--to", "trial.html", "--no-open").returncode == 0
    assert (home / "trial.html").stat().st_size < 3_000_000
    # It is whole without the site.
    (home / "trial.html").rename(home / "elsewhere.html")
    shutil.rmtree(home / "site")
    with watched_page(browser, viewport={"width": 1280, "height": 900}) as (page, problems):
        page.goto(f"file://{home}/elsewhere.html")
        page.wait_for_function("document.querySelector('#then iframe').contentDocument.querySelector('h1')")
        page.wait_for_function("document.querySelectorAll('.sheet .word').length === 4")
        heading = _FAMILY.format("'h1'")
        before = page.evaluate(heading, _frame(page))
        page.get_by_label("Liberation Serif").check(force=True)
        shown = page.evaluate(heading, _frame(page))
        assert before != shown and shown.startswith('"Candidate')
        inside: Frame = next(frame for frame in page.frames if frame.parent_frame is not None)
        assert inside.evaluate(
            "document.fonts.check('20px ' + getComputedStyle(document.querySelector('h1')).fontFamily)"
        )
        # Headings alone, and back.
        page.get_by_label("headings", exact=True).check()
        assert page.evaluate(heading, _frame(page)) == shown
        assert "Candidate" not in page.evaluate(_FAMILY.format("'main p'"), _frame(page))
        page.get_by_role("radio", name="Present fonts").check(force=True)
        assert page.evaluate(heading, _frame(page)) == before
        # The keyboard alone: arrows go through the families.
        page.get_by_role("radio", name="Present fonts").focus()
        page.keyboard.press("ArrowDown")
        assert page.evaluate("document.activeElement.value") == "0" and page.locator("#command").inner_text()
        assert "To the outer islands, every morning" in page.locator(".sheet .word").first.inner_text()
        assert page.locator("#figures tr").count() == 4
        page.set_viewport_size({"width": 390, "height": 800})
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert problems == []


_HOSTILE = """<!doctype html><html><head><meta http-equiv="refresh" content="0; url=http://127.0.0.1:9/moved">
<base href="http://127.0.0.1:9/"><link rel="stylesheet" href="site.css"><link rel=preload as=image href=http://127.0.0.1:9/p.png>
<style>@import "http://127.0.0.1:9/far.css"; body { font-family: Old; background: url(http://127.0.0.1:9/a.png) }
</style></head><body onload="document.title='run'" style="background: url(http://127.0.0.1:9/b.png)">
<script>document.title = 'run'; parent.document.title = 'run'</script><h1>Kedai &lt;Kopi&gt;</h1>
<img src="http://127.0.0.1:9/c.png" onerror="parent.document.title='run'" srcset="http://127.0.0.1:9/d.png 2x">
<iframe src="http://127.0.0.1:9/e"></iframe><object data="http://127.0.0.1:9/f"></object>
<svg><image href="http://127.0.0.1:9/g.png" /><script>parent.document.title='run'</script></svg>
<a href="javascript:parent.document.title='run'">go</a><form action="http://127.0.0.1:9/h"><button>send</button></form>
<p>text</p></script></textarea>--></body></html>"""


def test_page_copies_run_no_code_and_make_no_requests(tmp_path: Path, aksara: Run, browser: Browser) -> None:
    (tmp_path / "page.html").write_text(_HOSTILE)
    shutil.copy(DEMO_FONTS[0], tmp_path)
    assert aksara("try", DEMO_FONTS[0].name, "--on", "page.html", "--to", "trial.html", "--no-open").returncode == 0
    asked: list[str] = []
    with watched_page(browser) as (page, _):
        page.on("request", lambda request: asked.append(request.url))
        page.goto(f"file://{tmp_path}/trial.html")
        page.wait_for_function("document.querySelector('#then iframe').contentDocument.querySelector('h1')")
        inside = next(frame for frame in page.frames if frame.parent_frame is not None)
        for place in ("a", "button"):
            inside.locator(place).click(force=True)
        page.wait_for_timeout(300)
        assert page.title().startswith("Try fonts")
        assert (
            inside.evaluate("document.querySelectorAll('script, iframe, object, base, meta[http-equiv]').length") == 0
        )
    assert [url for url in asked if not url.startswith(("data:", "file:", "about:"))] == []


def test_copies_are_bounded_and_stay_in_the_folder(tmp_path: Path) -> None:
    site = tmp_path / "site"
    site.mkdir()
    (tmp_path / "secret.png").write_bytes(b"secret")
    (site / "large.png").write_bytes(b"x" * (MAX_COPIED_FILE + 1))
    (site / "small.png").write_bytes(b"small")
    (site / "a.css").write_text("@import 'b.css' screen; @import 'a.css'; p { background: url(small.png) }")
    (site / "b.css").write_text(
        "@font-face { font-family: X; src: url(x.woff2), url(x.ttf) } i { color: red }" + "{(" * 9
    )
    (site / "x.woff2").write_bytes(b"font")
    (site / "page.html").write_text(
        "<link rel=stylesheet href=a.css><img src=../secret.png><img src=large.png><img src=small.png><p>a"
    )
    copy = copy_page(site / "page.html")
    sheet = copy.sheets["a.css"]
    assert "@media screen" in sheet and "color: red" in sheet and 'url("data:image/png;base64,c21hbGw=")' in sheet
    assert sheet.count("data:font/woff2;base64,Zm9udA==") >= 1
    assert copy.pictures == {
        "../secret.png": "data:,", "large.png": "data:,", "small.png": "data:image/png;base64,c21hbGw=",
    }  # fmt: skip
    assert {"../secret.png", "large.png"} <= set(copy.left_out)


def test_addresses_count_from_the_root_of_the_site(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    for name, text in (("site/css/a.css", "h1 { font-family: Old }"), ("site/about/index.html", "<h1>a")):
        (tmp_path / name).parent.mkdir(parents=True)
        (tmp_path / name).write_text(text)
    page = tmp_path / "site/about/index.html"
    page.write_text("<link rel=stylesheet href=/css/a.css><h1>a</h1>")
    tried = tried_page("site/about", (), "both")
    assert tried.replaced == ("Old",) and tried.copy is not None
    assert "font-family: Old" in tried.copy.sheets["/css/a.css"] and not tried.copy.left_out


@contextmanager
def _served(folder: Path, *arguments: str) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """The program as it serves a trial, and its address."""
    command = [sys.executable, "-m", "aksara", "try", *arguments, "--no-open"]
    with subprocess.Popen(command, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as server:
        try:
            assert server.stdout is not None
            lines = iter(server.stdout.readline, "")
            yield server, next(line.strip() for line in lines if line.startswith("http://"))
        finally:
            server.terminate()
            assert server.communicate(timeout=20)[1] == "", "it ends quietly, also while it builds"


def test_families_come_as_they_are_built_and_a_click_writes_the_project(home: Path, browser: Browser) -> None:
    with _served(home, "fonts", "--on", "site/index.html") as (_, address), watched_page(browser) as (page, problems):
        page.goto(address)
        page.locator("#figures tr").nth(3).wait_for(timeout=60_000)
        page.get_by_label("Liberation Sans").check(force=True)
        page.get_by_role("button", name="Write aksara.toml").click()
        page.get_by_text("aksara.toml has been written").wait_for()
        page.get_by_role("button", name="Write aksara.toml").click()
        page.get_by_text("There is an aksara.toml already").wait_for()
        assert problems == []
        written = (home / "aksara.toml").read_text()
        assert 'pages = ["site/index.html"]' in written and "LiberationSans-Bold.ttf" in written
        assert 'replaces = ["Penyu Sans", "Penyu Slab"]' in written
        # Other sites can neither read it nor choose.
        parts = urlsplit(address)
        for method, path, headers, status in (
            ("GET", parts.path, {"Host": "evil.example"}, 421), ("GET", "/", {}, 404),
            ("GET", f"{parts.path}candidates?from=0", {}, 404), ("POST", f"{parts.path}choose", {}, 404),
            ("GET", "/../aksara.toml", {}, 404), ("GET", f"{parts.path}../aksara.toml", {}, 404),
        ):  # fmt: skip
            connection = http.client.HTTPConnection(parts.hostname or "", parts.port or 0, timeout=10)
            connection.request(method, path, body="{}" if method == "POST" else None, headers=headers)
            assert connection.getresponse().status == status, path
            connection.close()
    done = subprocess.run(
        [sys.executable, "-m", "aksara", "build", "--effort", "fast", "-q"], cwd=home, capture_output=True, check=False
    )
    assert done.returncode == 0, done.stderr


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        (("--on", "none.html"), "none.html"), ((), "give either a page"), (("--text", " "), "has no characters"),
        (("--on", "page.html", "--text", "a"), "give either a page"), (("--on", "empty.html"), "shows no text"),
        (("--on", "page.html", "--replaces", "Oldd"), "no text asks for Oldd first; it asks for Old"),
        (("--on", "http://127.0.0.1:1/"), "cannot be reached"),
    ],
)  # fmt: skip
def test_what_cannot_be_tried_is_reported(
    arguments: tuple[str, ...], message: str, tmp_path: Path, aksara: Run
) -> None:
    shutil.copy(DEMO_FONTS[0], tmp_path)
    (tmp_path / "page.html").write_text("<p style='font-family: Old'>a")
    (tmp_path / "empty.html").write_text("<script>1</script>")
    done = aksara("try", DEMO_FONTS[0].name, *arguments, "--json")
    assert done.returncode in (2, 3) and message in done.stderr and not done.stdout, done.stderr


def test_a_trial_is_stopped_quietly_while_it_builds(home: Path) -> None:
    with _served(home, "fonts", "--on", "site/index.html") as (server, _):
        assert server.stdout is not None
        assert next(line for line in iter(server.stdout.readline, "") if " in " in line or "no text" in line)

"""`aksara check`: each fault of a broken site is found and named first, and nothing is found on a sound one."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from aksara.checking.face_rules import face_rules_in
from conftest import Run

Break = Callable[[Path], object]


@pytest.fixture(scope="module")
def sound(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo, built: a sound site."""
    folder = tmp_path_factory.mktemp("sound") / "penyu"
    subprocess.run([sys.executable, "-m", "aksara", "-q", "demo", str(folder)], check=True)
    return folder


@pytest.fixture
def site(sound: Path, tmp_path: Path) -> Iterator[Path]:
    """A copy of it."""
    shutil.copytree(sound / "site", tmp_path / "site")
    yield tmp_path / "site"


def _css(old: str, new: str, count: int = 1) -> Break:
    """A fault in the style sheet of the fonts: the first match of a pattern replaced."""

    def apply(site: Path) -> None:
        path = site / "type/faces.css"
        text, made = re.subn(old, new, path.read_text(), count=count, flags=re.DOTALL)
        assert made, old
        path.write_text(text)

    return apply


def _page(old: str, new: str, name: str = "index.html") -> Break:
    def apply(site: Path) -> None:
        path = site / name
        assert old in path.read_text(), old
        path.write_text(path.read_text().replace(old, new, 1))

    return apply


def _font(change: Callable[[bytes], bytes], pattern: str = "PenyuSans-Regular.*.woff*") -> Break:
    def apply(site: Path) -> None:
        for path in (site / "type/fonts").glob(pattern):
            path.write_bytes(change(path.read_bytes()))

    return apply


def _remove(pattern: str) -> Break:
    return lambda site: [path.unlink() for path in (site / "type/fonts").glob(pattern)]


def _all(*breaks: Break) -> Break:
    return lambda site: [each(site) for each in breaks]


def _regular(site: Path) -> Path:
    return next((site / "type/fonts").glob("PenyuSans-Regular.*.woff2"))


def _preload(site: Path, attributes: str) -> None:
    link = f'<link rel="preload" {attributes} href="type/fonts/{_regular(site).name}">'
    _page("</head>", f"{link}</head>")(site)


#: Fault → what breaks the site, the kind of the first finding, and words of what is said.
FAULTS: dict[str, tuple[Break, str, str]] = {
    "a file is gone": (_remove("PenyuSans-Regular.*"), "font-missing", "is not there"),
    "one of two files is gone": (_remove("PenyuSans-Bold.*.woff2"), "font-missing", "browsers take the next source"),
    "a folder too far up": (_css(r'url\("fonts/PenyuSans-R', 'url("../fonts/PenyuSans-R', 2), "font-missing",
                            "paths in a style sheet count from the style sheet"),
    "a path from the page": (_css(r'url\("fonts/', 'url("type/fonts/', 0), "font-missing", 'write url("fonts/'),
    "capitals": (_css(r'url\("fonts/PenyuSans-Regular', 'url("fonts/penyusans-regular', 2), "font-missing",
                 "names count capitals"),
    "a number sign": (
        _all(_css(r"PenyuSans-Regular\.", "Penyu#Sans.", 2),
             lambda site: [path.rename(path.with_name(path.name.replace("PenyuSans-Regular.", "Penyu#Sans.")))
                           for path in (site / "type/fonts").glob("PenyuSans-Regular.*")]),
        "font-missing", "write %23 for it"),
    "no quotes and a blank": (_css(r'url\("fonts/PenyuSans-Regular[^"]*"\) format\("woff2"\),\s*url\("[^"]*"\)',
                                   "url(fonts/Penyu Sans.woff2)"), "rule-ignored", "put it in quotes"),
    "no source": (_css(r"  src: .*?;\n", ""), "rule-ignored", "names no file"),
    "no family": (_css(r'  font-family: "Penyu Sans";\n', ""), "rule-ignored", "names no family"),
    "a format that is none": (_css(r'format\("woff2"\),\s*url\("[^"]*"\) format\("woff"\)', 'format("ttf")'),
                              "format-unknown", 'write format("woff2")'),
    "a format of another file": (_css(r'format\("woff2"\)', 'format("woff")'), "format-contradicts-file",
                                 "which is a WOFF2"),
    "the better format last": (_css(r'(url\("[^"]*woff2"\) format\("woff2"\)),\s*(url\("[^"]*"\) format\("woff"\))',
                                    r"\2, \1"), "better-format-later", "put the WOFF2 first"),
    "a weight that is none": (_css("font-weight: 400;", "font-weight: bolder;"), "descriptor-ignored",
                              "is no weight of a face"),
    "a display that is none": (_css("font-display: swap;", "font-display: fast;"), "descriptor-ignored", "is none of"),
    "a missing semicolon": (_css("font-style: normal;", "font-style normal"), "declaration-broken",
                            "is no declaration"),
    "two rules for one face": (
        lambda site: (site / "type/faces.css").write_text((text := (site / "type/faces.css").read_text())
                                                          + text[text.index("@font-face") : text.index("}") + 1]),
        "rule-hidden", "the same weight"),
    "a weight said of the wrong face": (_css(r"font-weight: 700;", "font-weight: 400;"), "weight-contradicts-file",
                                        "of weight 700"),
    "a font that is cut short": (_font(lambda data: data[: len(data) // 2]), "font-damaged", "is damaged"),
    "a font that is a page": (_font(lambda data: b"<!doctype html><h1>Not found</h1>"), "font-damaged", "is no font"),
    "a font as text": (_font(lambda data: data.replace(b"\n", b"\r\n").replace(b"\0", b" ")), "font-damaged",
                       "damaged"),
    "a WOFF called WOFF2": (
        lambda site: shutil.copy(next((site / "type/fonts").glob("PenyuSans-Regular.*.woff")),
                                 next((site / "type/fonts").glob("PenyuSans-Regular.*.woff2"))),
        "format-contradicts-file", "which is a WOFF"),
    "a weight of another file": (_css(r"font-weight: 700;\n  font-display", "font-weight: 300;\n  font-display"),
                                 "weight-contradicts-file", "of weight 700"),
    "a style of another file": (_css(r"font-style: italic;(\n  font-weight: 400)", r"font-style: normal;\1"),
                                "style-contradicts-file", "is italic"),
    "a range of another script": (_css(r"unicode-range: [^;]*;", "unicode-range: U+900-97F;"), "range-contradicts-file",
                                  "no character of this range"),
    "a family misspelt": (
        lambda site: [path.write_text(path.read_text().replace("var(--penyu-slab, serif)", '"Penyu Slap", serif'))
                      for path in site.glob("*.css")],
        "family-undefined", "write Penyu Slab"),
    "a character that lacks": (_page("</h1>", " ☂ Ж</h1>"), "characters-missing", "U+2602 umbrella"),
    "a style sheet that is gone": (lambda site: (site / "type/faces.css").unlink(), "sheet-missing",
                                   "faces.css is not there"),
    "a preload without crossorigin": (
        lambda site: _preload(site, 'as="font"'),
        "preload-without-crossorigin", "fetched twice"),
    "a preload without a kind": (
        lambda site: _preload(site, "crossorigin"),
        "preload-without-kind", 'as="font"'),
    "a preload of an old file": (
        _page("</head>", '<link rel="preload" as="font" href="type/fonts/Old.00000000.woff2" crossorigin></head>'),
        "preload-unused", "asked for in vain"),
}  # fmt: skip


@pytest.mark.parametrize("name", FAULTS)
def test_each_fault_is_found_and_named_first(name: str, site: Path, aksara: Run) -> None:
    apply, kind, words = FAULTS[name]
    apply(site)
    done = aksara("check", "site", "--json")
    assert done.returncode in (0, 1), done.stderr
    findings: list[dict[str, Any]] = json.loads(done.stdout)["findings"]
    assert findings, "nothing was found"
    first = findings[0]
    assert first["kind"] == kind, findings[:3]
    assert words in " ".join((first["problem"], first["effect"], first["advice"])), first
    assert done.returncode == (first["level"] == "error")
    assert all(each[part] for each in findings for part in ("path", "problem", "effect", "advice"))


def test_a_sound_site_has_no_faults(site: Path, aksara: Run) -> None:
    done = aksara("check", "site")
    assert (done.returncode, done.stdout.strip()) == (0, "4 pages checked: nothing is wrong")
    assert json.loads(aksara("check", "site", "--sarif").stdout)["runs"][0]["results"] == []


def test_levels_and_what_code_hosts_read(site: Path, aksara: Run) -> None:
    _css("font-display: swap;\n", "", 0)(site)
    assert aksara("check", "site").returncode == 0
    done = aksara("check", "site", "--level", "hint")
    assert done.returncode == 1 and "no font-display" in done.stdout
    (run,) = json.loads(aksara("check", "site", "--sarif").stdout)["runs"]
    result, changed = run["results"]
    assert (result["ruleId"], result["level"]) == ("display-missing", "note")
    assert changed["ruleId"] == "sheet-changed", "nobody but the build should edit it"
    location = result["locations"][0]["physicalLocation"]
    assert location["artifactLocation"]["uri"] == "site/type/faces.css" and location["region"]["startLine"] > 1


@pytest.mark.parametrize(
    ("sheet", "families", "sources", "errors"),
    [
        ("@font-face { font-family: A; src: url(a.woff2) }", ["A"], [["a.woff2"]], 0),
        ("/* @font-face { } */ @media print { @font-face { font-family: 'B C'; src: url('b') format(woff2) } }",
         ["B C"], [["b"]], 0),
        ("@font-face { font-family: A; src: local(X), url(a b.woff) }", ["A"], [[""]], 0),
        ("@font-face { font-family A; src: url(a) }", [""], [["a"]], 1),
        ("@font-face { font-family: A; src: url(a)", ["A"], [["a"]], 0),
        ('a { content: "@font-face {}" } @font-face;', [], [], 0),
        ("@font-face { font-family: A; src: url(a) foo, url(b) }", ["A"], [["b"]], 0),
        ("}}} @FONT-FACE{font-family:A B;src:url(a)}", ["A B"], [["a"]], 0),
    ],
)  # fmt: skip
def test_rules_are_read_as_they_stand(sheet: str, families: list[str], sources: list[list[str]], errors: int) -> None:
    rules = list(face_rules_in(sheet))
    assert [rule.family for rule in rules] == families
    assert [[source.url for source in rule.sources] for rule in rules] == sources
    assert sum(len(rule.errors) for rule in rules) == errors


def test_the_document_has_every_kind_of_finding() -> None:
    root = Path(__file__).parent.parent
    written = {
        kind
        for path in (root / "src/aksara/checking").glob("*.py")
        for kind in re.findall(r'kind="([a-z-]+)"', path.read_text())
    }
    listed = set(re.findall(r"`([a-z]+(?:-[a-z]+)+)`", (root / "docs/checking.md").read_text()))
    assert len(written) > 20 and written == listed & written
    assert {kind for _, kind, _ in FAULTS.values()} <= written

"""`aksara check`: each fault of a broken site is found and named first, and nothing is found on a sound one."""

from __future__ import annotations

import json
import re
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from aksara.checking.accepting import Acceptance
from aksara.checking.describing import with_tables
from aksara.checking.findings import Finding, Place
from aksara.checking.kinds import KINDS
from aksara.site.css.face_rules import face_rules_in
from conftest import Run
from faults import FAULTS, SOUND, remove_displays
from fonts import DEMO_FONTS
from places import ROOT


@pytest.fixture
def site(sound: Path, tmp_path: Path) -> Iterator[Path]:
    """A copy of it."""
    shutil.copytree(sound / "site", tmp_path / "site")
    yield tmp_path / "site"


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
    assert words in " ".join((first["problem"], first["effect"], first["remedy"])), first
    assert done.returncode == (first["level"] == "error")
    assert all(each[part] for each in findings for part in ("file", "problem", "effect", "remedy"))


@pytest.mark.parametrize("name", SOUND)
def test_a_sound_site_has_no_errors(name: str, site: Path, aksara: Run) -> None:
    SOUND[name](site)
    findings = json.loads(aksara("check", "site", "--json").stdout)["findings"]
    assert [each for each in findings if each["level"] == "error"] == []


def test_a_sound_site_has_no_faults(site: Path, aksara: Run) -> None:
    done = aksara("check", "site")
    assert (done.returncode, done.stdout.strip()) == (0, "4 pages checked: nothing is wrong")
    assert json.loads(aksara("check", "site", "--sarif").stdout)["runs"][0]["results"] == []


def test_levels_and_sarif(site: Path, aksara: Run) -> None:
    remove_displays(site)
    assert aksara("check", "site").returncode == 0
    done = aksara("check", "site", "--level", "note")
    assert done.returncode == 1 and "font-display is missing" in done.stdout
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


def test_the_document_and_what_code_hosts_read_come_from_the_table_of_kinds() -> None:
    root = ROOT
    text = (root / "docs/checking.md").read_text()
    assert with_tables(text) == text, "run make schemas"
    assert all(f"`{name}`" in text for name in KINDS) and len(KINDS) > 50
    assert {kind for _, kind, _ in FAULTS.values()} <= KINDS.keys()
    used = {
        kind
        for path in (root / "src/aksara").rglob("*.py")
        for kind in re.findall(r'finding\(\s*"([a-z-]+)"', path.read_text())
    }
    assert used == KINDS.keys(), "a kind that nothing finds, or one that is not in the table"


@pytest.fixture
def project(sound: Path, tmp_path: Path) -> Path:
    """A copy of the whole project."""
    shutil.copytree(sound, tmp_path / "penyu")
    return tmp_path / "penyu"


def test_a_project_is_checked_with_what_it_has_built(project: Path, aksara: Run) -> None:
    def check(*options: str) -> list[dict[str, Any]]:
        done = aksara("check", "--json", *options, cwd=project)
        findings: list[dict[str, Any]] = json.loads(done.stdout)["findings"]
        assert done.returncode == any(each["level"] == "error" for each in findings)
        return findings

    assert check("--built") == []
    page = project / "site/index.html"
    text = page.read_text()
    page.write_text(text.replace("</p>", " ferry</p>", 1))
    assert [(each["kind"], each["level"]) for each in check("--built")] == [("build-outdated", "note")]
    page.write_text(text.replace("</p>", " Ж <i style='font-weight: 900'>ferry</i></p>", 1))
    lacking = {(each["kind"], each["level"]) for each in check()}
    assert lacking == {("characters-missing", "error"), ("face-missing", "error")}, "its own faces must not be faked"
    page.write_text(text)
    toml = project / "aksara.toml"
    toml.write_text(toml.read_text().replace('budget = "120 KB"', 'budget = "120 KB"\ndisplay = "block"'))
    toml.write_text(toml.read_text().replace('\ndisplay = "block"', "").replace("PenyuSlab-*.otf", "PenyuSlab-R*.otf"))
    (outdated,) = check("--built")
    assert outdated["kind"] == "build-outdated" and "faces.css" in outdated["problem"]
    (project / "notes.json").write_text('{"title": "Ферри"}')
    toml.write_text(toml.read_text().replace("[site]\n", '[site]\ndata = ["notes.json"]\n'))
    assert any(each["file"].endswith("notes.json") and "U+0424" in each["problem"] for each in check())


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--built", "site"), "leave the paths out"),
        (("--json", "--sarif", "site"), "one document"),
        (("nowhere",), "no such file"),
        (("http://[::1",), "not the address"),
        (("http://127.0.0.1:1/",), "cannot be reached"),
    ],
)
def test_what_cannot_be_checked_is_reported(arguments: tuple[str, ...], words: str, site: Path, aksara: Run) -> None:
    done = aksara("check", *arguments)
    assert done.returncode in (2, 3) and words in done.stderr and not done.stdout


def test_sites_that_mean_harm_are_bounded(tmp_path: Path, aksara: Run) -> None:
    secret = tmp_path / "secret.woff2"
    secret.write_bytes(b"wOF2")
    site = tmp_path / "site"
    site.mkdir()
    (site / "link.woff2").symlink_to(secret)
    (site / "loop.woff2").symlink_to("loop.woff2")
    rules = "".join(
        f"@font-face {{ font-family: {name}; src: {source} }}"
        for name, source in {
            "a": "url(link.woff2)", "b": "url(loop.woff2)", "c": "url(../secret.woff2)", "d": 'url("data:;base64,%%%")',
            "e": 'url("a\\0 b")', "f": 'url("http://[x/a")', "g": "url(" + "x" * 100_000 + ")", "h": "url(a",
            "i": 'url("{{ a }}")', "j": 'url("//a/b")', "k": 'url("")', "l": 'url("/etc/passwd")',
        }.items()
    )  # fmt: skip
    (site / "index.html").write_text(f"<style>{rules}</style><p style='font-family: a, b, c'>text")
    done = aksara("check", "site", "--json")
    found = json.loads(done.stdout)["findings"]
    assert done.returncode == 1 and "font-missing" in {each["kind"] for each in found}
    assert "secret.woff2" not in {each["file"] for each in found}, "nothing outside of the site is read"
    assert all(len(each["problem"]) < 400 for each in found)


def test_a_font_is_not_blamed_for_a_script_it_does_not_support(aksara: Run, tmp_path: Path) -> None:
    shutil.copy(DEMO_FONTS[0], tmp_path / "latin.ttf")
    rule = '@font-face { font-family: Ferry; src: url(latin.ttf) format("truetype"); font-display: swap }'
    for text, level in (("フェリー １２時", "Warning"), ("Ferry ꝏ Ȝ", "Error")):
        (tmp_path / "page.html").write_text(
            f'<html lang="ja"><style>{rule} p {{ font-family: Ferry, serif }}</style><p>{text}'
        )
        lines = aksara("check", "page.html").stdout.splitlines()
        (place,) = [number for number, line in enumerate(lines) if "does not have" in line]
        assert lines[place - 1].startswith(level), lines


@pytest.mark.parametrize(
    ("acceptance", "fits"),
    [
        (Acceptance(finding="face-faked", reason="r"), True),
        (Acceptance(finding="face-unused", reason="r"), False),
        (Acceptance(finding="face-faked", reason="r", file="css/main.css", family="penyu sans"), True),
        (Acceptance(finding="face-faked", reason="r", file="other.css"), False),
        (Acceptance(finding="face-faked", reason="r", family="Penyu Slab"), False),
        (Acceptance(finding="face-faked", reason="r", characters=frozenset((65, 66, 67))), True),
        (Acceptance(finding="face-faked", reason="r", characters=frozenset((65,))), False),
    ],
)
def test_an_acceptance_fits_what_it_describes(acceptance: Acceptance, fits: bool) -> None:
    found = Finding(
        level="warning", kind="face-faked", problem="", effect="", remedy="", place=Place("site/css/main.css"),
        family="Penyu Sans", characters=(65, 66),
    )  # fmt: skip
    assert acceptance.fits(found) is fits

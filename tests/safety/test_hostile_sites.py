"""Style sheets, pages, templates and scripts that mean harm: each is read in time that grows with its length."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from conftest import Run
from fonts import small_font
from sandbox import Sandbox

_SIZE = 1_500_000
_PAGE = '<link rel="stylesheet" href="style.css"><p style="font-family: Small">AB</p>'
_RULE = '@font-face { font-family: Small; src: url("a.ttf") }\n'


def _long(piece: str) -> str:
    return piece * (_SIZE // len(piece))


#: By name: the file that is hostile and its text, and what is run.
_CHECK = ("check", ".")
_INTO = ("build", "a.ttf", "--css-into", "style.css", "--for-text", "AB", "--to", "type")
_RULES = ("build", "--rules", "style.css", "--for-text", "AB", "--to", "type")
_LINKS = ("build", "a.ttf", "--links", "index.html", "--for-text", "AB", "--to", "type")
_RENAMED = ("build", "a.ttf", "--replaces", "Small=Old", "--for-text", "AB", "--to", "type")
_SITE = ("build", "a.ttf", "--for-site", ".", "--to", "type")
_HOSTILE = {
    "rules in rules": ("style.css", _long("@font-face{"), _CHECK),
    "rules in rules taken over": ("style.css", _RULE + _long("@font-face{"), _RULES),
    "many rules taken over": ("style.css", _RULE * 20_000, _RULES),
    "names of properties": ("style.css", _long("-"), _RENAMED),
    "properties without ends": ("style.css", _long("font-family:"), _RENAMED),
    "comments that open": ("style.css", _long("/* aksara: begin "), _INTO),
    "imports without ends": ("style.css", _long("@import "), _INTO),
    "strings that open": ("style.css", _long("'\"\\"), _INTO),
    "braces": ("style.css", _long("{}"), _RULES),
    "scripts without ends": ("index.html", "module" + _long("<script "), _SITE),
    "sheets in expressions": ("index.html", _long("{{ 'a"), _SITE),
    "heads": ("index.html", _long("<head "), _LINKS),
    "brackets that open in Pug": ("page.pug", _long("a(\n"), _CHECK),
    "elements in each other in Pug": ("page.pug", _long("a: "), _CHECK),
    "comments in pages": ("index.html", _long("<!-- "), _LINKS),
}  # fmt: skip


@pytest.fixture(scope="module")
def sandbox() -> Iterator[Sandbox]:
    with Sandbox() as started:
        yield started


@pytest.mark.parametrize("name", _HOSTILE)
def test_long_files_take_time_that_grows_with_their_length(name: str, sandbox: Sandbox, tmp_path: Path) -> None:
    path, text, command = _HOSTILE[name]
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "index.html").write_text(_PAGE)
    (tmp_path / "style.css").write_text(_RULE)
    (tmp_path / path).write_text(text)
    done = sandbox.run(*command, cwd=tmp_path, seconds=30, wait=90)
    assert done.is_clean and "Usage" not in done.messages, (done.status, done.seconds, done.messages[-300:])
    if done.status:
        assert (tmp_path / path).read_text() == text


def test_rules_in_the_comments_of_compiled_sheets_are_no_rules(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    sheet = tmp_path / "main.scss"
    sheet.write_text(f"// {_RULE}{_RULE}")
    done = aksara("build", "--rules", "main.scss", "--for-text", "AB", "--to", "type", "--effort", "fast")
    assert done.returncode == 0, done.stderr
    assert sheet.read_text().startswith(f"// {_RULE}/* aksara: begin */")

"""The user's templates: rendered with the manifest, in bounds, and never over what is not ours."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest

from conftest import Run
from fonts import DEMO_FONTS, small_font
from places import ROOT

_DOCUMENT = ROOT / "docs/handing-over.md"
_EXAMPLES = re.findall(r"^```jinja\n(.*?)^```", _DOCUMENT.read_text(), re.DOTALL | re.MULTILINE)


def _rendered(aksara: Run, folder: Path, template: str, target: str = "out.txt") -> str:
    (folder / "a.j2").write_text(template)
    done = aksara(
        "build", DEMO_FONTS[0], DEMO_FONTS[1], "--for-text", "Ferry", "--effort", "fast", "--template", "a.j2", target
    )
    assert done.returncode == 0, done.stderr
    return (folder / target).read_text()


def test_the_examples_of_the_document_work(aksara: Run, tmp_path: Path) -> None:
    menu, form, variables, table = _EXAMPLES
    (family,) = json.loads(_rendered(aksara, tmp_path, menu, "menu.json"))
    assert family["label"] == "Penyu Sans" and family["variants"] == ["700", "700italic"]
    markup = _rendered(aksara, tmp_path, form, "form.html")
    assert '<option value="--penyu-sans" style="font-family: &#34;Penyu Sans&#34;' in markup
    assert "$font-penyu-sans-bold-italic: 700;" in _rendered(aksara, tmp_path, variables, "fonts.scss")
    assert re.search(r"woff2  fonts/PenyuSans-Bold\.[0-9a-f]{8}\.woff2 \(\d+ B\)", _rendered(aksara, tmp_path, table))


def test_a_project_renders_templates_and_knows_its_files(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "menu.j2").write_text("{{ families[0].family }} {{ made_by.split()[0] }}\n")
    (tmp_path / "aksara.toml").write_text(
        '[[family]]\nfonts = ["a.ttf"]\n[[output.template]]\nfrom = "menu.j2"\nto = "theme/menu.txt"\n'
    )
    assert aksara("build").returncode == 0
    target = tmp_path / "theme/menu.txt"
    assert target.read_text() == "Kotak Aksara\n"
    manifest = json.loads((tmp_path / "web-fonts/faces.json").read_text())
    assert [each["path"] for each in manifest["templates"]] == ["../theme/menu.txt"]
    # Another template takes its place; what somebody has changed by hand stays.
    (tmp_path / "menu.j2").write_text("new\n")
    assert aksara("build").returncode == 0 and target.read_text() == "new\n"
    target.write_text("mine")
    (tmp_path / "menu.j2").write_text("newer\n")
    done = aksara("build")
    assert done.returncode == 2 and "did not write this file" in done.stderr and target.read_text() == "mine"


def test_templates_make_values_of_a_json_file(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "menu.j2").write_text("[{% for family in families %}{{ family.family | tojson }}{% endfor %}]\n")
    (tmp_path / "count.j2").write_text("{{ families[0].faces[0].weight | css_range }}")
    theme = tmp_path / "theme.json"
    theme.write_bytes(b'{\r\n "version": 3, "fonts": {"menu": null}\r\n}')
    given = ("build", "a.ttf", "--template", "menu.j2", "theme.json#/fonts/menu", "--template", "count.j2")
    assert aksara(*given, "theme.json#/fonts/weight").returncode == 0
    assert theme.read_bytes() == b'{\r\n "version": 3, "fonts": {"weight": 400, "menu": ["Kotak"]}\r\n}'
    for target, said in (
        ("theme.json#/x/y", "no 'x'"),
        ("gone.json#/a", "no such file"),
        ("menu.j2#/a", "not valid JSON"),
    ):
        before = {path: path.read_bytes() for path in tmp_path.rglob("*") if path.is_file()}
        done = aksara(*given, target)
        assert done.returncode == 2 and said in done.stderr, done.stderr
        assert {path: path.read_bytes() for path in tmp_path.rglob("*") if path.is_file()} == before


@pytest.mark.parametrize(
    ("template", "said"),
    [
        ("{{ famlies }}", "line 1: 'famlies' is undefined"), ("a\n{% for x %}", "line 2: "),
        ("{{ ''.__class__.__mro__ }}", "line 1: a template may not do that"), ("{% include 'x' %}", "no loader"),
        ("{% for a in range(99999) %}{% for b in range(99999) %}{% endfor %}{% endfor %}", "did not finish within"),
        ("{{ 'x' * 99999999999 }}", "memory"),
        ("{% for a in range(99999) %}{{ 'x' * 9999 }}{% endfor %}", "more than 10 MB"),
        ("{% macro m() %}{{ m() }}{% endmacro %}{{ m() }}", "too deep"), ("{{ 1 / 0 }}", "line 1: division by zero"),
        ("{{ families.append(1) }}", "may not do that"),
    ],
)  # fmt: skip
def test_what_a_template_may_not_do_is_reported(template: str, said: str, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "a.j2").write_text(template)
    done = aksara("build", "a.ttf", "--template", "a.j2", "out.txt")
    assert done.returncode == 2 and "a.j2" in done.stderr and said in done.stderr
    assert (
        "Traceback" not in done.stderr and not (tmp_path / "out.txt").exists() and not (tmp_path / "web-fonts").exists()
    )


def test_templates_write_only_where_they_may(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "a.j2").write_text("x")
    (tmp_path / "mine.txt").write_text("mine")
    done = aksara("build", "a.ttf", "--template", "a.j2", "mine.txt")
    assert done.returncode == 2 and (tmp_path / "mine.txt").read_text() == "mine"
    done = aksara("build", "a.ttf", "--template", "a.j2", "web-fonts/proof.html")
    assert done.returncode == 2 and "would have this name" in done.stderr
    done = aksara("build", "a.ttf", "--template", "none.j2", "out.txt")
    assert done.returncode == 2 and "no such template" in done.stderr
    (tmp_path / "site").mkdir()
    (tmp_path / "site/aksara.toml").write_text(
        '[[family]]\nfonts = ["../a.ttf"]\n[[output.template]]\nfrom = "../a.j2"\nto = "../../out.txt"\n'
    )
    done = aksara("build", "--project", "site/aksara.toml")
    assert done.returncode == 2 and "outside the project's folder" in done.stderr

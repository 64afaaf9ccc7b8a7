"""The documents speak of the program as it is: commands, options, pictures and names that exist."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest

import aksara as package
from conftest import Run
from fonts import DEMO_FONTS
from variable import PENYU as VARIABLE

ROOT = Path(__file__).parent.parent
DOCUMENTS = [ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").rglob("*.md"))]


@pytest.mark.parametrize("path", DOCUMENTS, ids=lambda path: path.name)
def test_every_command_and_option_that_is_written_of_exists(path: Path, aksara: Run) -> None:
    text = path.read_text()
    used = re.findall(
        r"\baksara (?:-[qv] )?([a-z]+)\b", " ".join(re.findall(r"`[^`]*`|^aksara .*$", text, re.MULTILINE))
    )
    listed = re.findall(r"^  ([a-z]+) ", aksara("--help").stdout.partition("Commands:")[2], re.MULTILINE)
    known = {name: aksara(name, "--help") for name in listed}
    assert set(used) <= known.keys()
    # Options of other programs.
    text = re.sub(r"^.*\b(pip (wheel|install)|RUN|COPY) .*$", "", text, flags=re.MULTILINE)
    helped = "".join(done.stdout for done in known.values()) + aksara("--help").stdout
    for option in set(re.findall(r"(?<![\w-])--[a-z][a-z-]+", re.sub(r"var\([^)]*\)", "", text))):
        assert option in helped or "penyu" in option, option


@pytest.mark.parametrize("path", DOCUMENTS, ids=lambda path: path.name)
def test_every_link_leads_somewhere(path: Path) -> None:
    for target in re.findall(r"\]\(([^)#:]+)\)", path.read_text()):
        assert (path.parent / target).exists(), target


def test_every_picture_is_linked_from_the_readme() -> None:
    readme = (ROOT / "README.md").read_text()
    assert all(f"docs/screenshots/{shot.name}" in readme for shot in (ROOT / "docs/screenshots").glob("*.png"))


def test_the_api_document_runs_as_written(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "fonts").mkdir()
    for font in (*DEMO_FONTS, VARIABLE):
        (tmp_path / "fonts" / font.name).write_bytes(font.read_bytes())
    monkeypatch.chdir(tmp_path)
    names: dict[str, object] = {}
    for block in re.findall(r"```python\n(.*?)```", (ROOT / "docs/python-api.md").read_text(), re.DOTALL):
        exec(block, names)
    assert (tmp_path / "web-fonts/faces.css").exists()
    assert package.__version__ in (tmp_path / "web-fonts/faces.css").read_text()


def test_the_fields_that_the_documents_list_are_there(aksara: Run) -> None:
    text = (ROOT / "docs/formats.md").read_text()
    listed = text.split("## `aksara inspect --json`")[1].split("At the top")[0]
    fields = {
        name for row in re.findall(r"^\| (`.*?) \|", listed, re.MULTILINE) for name in re.findall(r"`(\w+)`", row)
    }
    face = json.loads(aksara("inspect", DEMO_FONTS[0], "--json").stdout)["families"][0]["faces"][0]
    assert fields <= face.keys()
    # Besides what says which face it is.
    assert face.keys() - fields == {"path", "family", "style", "width", "label"}


def test_evidence_is_shown_to_those_who_ask(aksara: Run) -> None:
    shown = aksara("-v", "inspect", DEMO_FONTS[0]).stdout
    assert re.search(r"weight +OS/2 +700", shown)
    assert "Evidence" not in aksara("inspect", DEMO_FONTS[0]).stdout

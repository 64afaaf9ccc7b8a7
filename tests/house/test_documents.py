"""The documents speak of the program as it is: commands, options, pictures and names that exist."""

from __future__ import annotations

import importlib.util
import json
import re
import shlex
import shutil
import zipfile
from pathlib import Path

import pytest

import aksara as package
from aksara.font import open_font
from aksara.subsetting import subset
from conftest import Run
from fonts import DEMO_FONTS, corpus
from places import ROOT
from variable import PENYU as VARIABLE

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


# What no native writer would say, or what the trade has another word for; each once stood somewhere here.
_NOT_SAID = re.compile(
    r"\b(anew|in vain|so many|passe[ds]? over|pass over|turned round|told apart|comes? to stand|overrule|that lack|"
    r"you are told|for every taste|so do we|as it comes out|none of which|is not there|are not there)\b",
    re.IGNORECASE,
)


def test_texts_avoid_listed_phrases() -> None:
    paths = [*DOCUMENTS, *(path for kind in ("py", "html", "js") for path in (ROOT / "src/aksara").rglob(f"*.{kind}"))]
    paths = [path for path in paths if path.name != "CHANGELOG.md"]
    found = [
        f"{path.relative_to(ROOT)}:{number}: {match[0]}"
        for path in paths
        for number, line in enumerate(path.read_text().splitlines(), 1)
        for match in _NOT_SAID.finditer(line)
    ]
    assert not found, "\n".join(found)


# Commands that need a server or a system family, or that do not end.
_NOT_HERE = re.compile(
    r"https?://|--cluster|measure|--watch|^aksara proof|^aksara try fonts/ candidates/ --on site/index.html$"
)


_RULE = "@font-face { font-family: Ferry; src: url(desktop/PenyuSans-Bold.ttf); font-weight: 700 }\n"


@pytest.fixture
def as_documented(sound: Path, tmp_path: Path) -> Path:
    """A folder with everything that the documents name."""
    shutil.copytree(sound / "site", tmp_path / "site")
    (tmp_path / "fonts").mkdir()
    shutil.copy(sound / "fonts/LICENCE.txt", tmp_path / "fonts")
    # Few faces of few characters: what is tried here is whether the commands are right.
    for folder, pattern in (
        *(("fonts", f"{name}.*") for name in ("PenyuSans-Regular", "PenyuSans-Bold", "PenyuSlab-Bold")),
        ("variable", "PenyuSans[[]*"),
    ):
        (path,) = (sound / "fonts").glob(pattern)
        small = subset(open_font(path), frozenset(range(0x20, 0x7F))).font
        (tmp_path / folder).mkdir(exist_ok=True)
        (tmp_path / folder / path.name).write_bytes(small.write("sfnt", effort="fast"))
    (tmp_path / "icons").mkdir()
    for path in (sound / "fonts").glob("PenyuSignals*"):
        shutil.copy(path, tmp_path / "icons")
    with zipfile.ZipFile(tmp_path / "order-1234.zip", "w") as order:
        order.write(tmp_path / "fonts/PenyuSans-Bold.ttf", "fonts/Bold.ttf")
    shutil.copy(next(path for path in corpus() if path.name == "unifont_upper.otf"), tmp_path / "emoji.ttf")
    (tmp_path / "texts.txt").write_text("Kedai Kopi")
    (tmp_path / "menu.json.j2").write_text("{{ families | length }}")
    (tmp_path / "theme").mkdir()
    (tmp_path / "theme/index.html").write_text("<head></head><p>a")
    (tmp_path / "theme/style.css").write_text("p { color: teal }\n")
    for folder in ("shop/desktop", "library"):
        shutil.copytree(tmp_path / "fonts", tmp_path / folder)
    (tmp_path / "shop/style.css").write_text(_RULE)
    for name in ("brand-lontar", "brand-garam"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "aksara.toml").write_text('[[family]]\nfonts = ["../fonts/PenyuSlab-Bold.otf"]\n')
    (tmp_path / "aksara.toml").write_text(
        '[site]\npages = ["site"]\n[[family]]\nfonts = ["fonts/PenyuSlab-Bold.otf"]\n'
    )
    return tmp_path


#: Documents with commands, and how many of these are run at least.
_WITH_COMMANDS = {
    "README.md": 6, "docs/tasks.md": 35, "docs/trying.md": 0, "docs/checking.md": 5, "docs/slices.md": 4,
    "docs/putting-in.md": 2, "docs/handing-over.md": 1, "docs/catalogues.md": 2, "docs/fallback-faces.md": 0,
}  # fmt: skip


def test_every_document_with_commands_is_tried() -> None:
    """Others run elsewhere: in CI, in a container, or on a site of hosted fonts that its recipe begins with."""
    found = {path.relative_to(ROOT).as_posix() for path in (ROOT / "docs").rglob("*.md") if _commands(path)}
    elsewhere = {"docs/ci.md", "docs/recipes/containers.md", "docs/recipes/from-hosted-fonts.md"}
    assert found - elsewhere <= _WITH_COMMANDS.keys()


def _commands(path: Path) -> list[str]:
    blocks = re.findall(r"^ *```sh\n(.*?)^ *```", path.read_text(), re.DOTALL | re.MULTILINE)
    lines = [re.sub(r" +#.*", "", line.strip()) for block in blocks for line in block.splitlines()]
    return [line for line in lines if line.startswith("aksara ")]


@pytest.mark.parametrize("name", _WITH_COMMANDS)
def test_every_command_runs_as_it_is_written(name: str, as_documented: Path, aksara: Run) -> None:
    commands = [line for line in _commands(ROOT / name) if not _NOT_HERE.search(line)]
    assert len(commands) >= _WITH_COMMANDS[name]
    failed = []
    for line in commands:
        if "--rules" in line:
            (as_documented / "theme/style.css").write_text(_RULE.replace("desktop", "../shop/desktop"))
        if line == "aksara init":
            (as_documented / "aksara.toml").unlink()
        # A budget that is missed has a build try what would help.
        arguments = shlex.split(line.replace("60 KB", "2 MB"))[1:]
        if "brand-*/" in line:  # a shell finds these
            arguments = ["build", *(f"{name}/aksara.toml" for name in ("brand-garam", "brand-lontar"))]
        done = aksara(*arguments)
        # A missed budget, or what check and inspect find, is no failure of the command.
        allowed = (0, 1) if re.search("--budget|check|--use|--preload", line) else (0,)
        if done.returncode not in allowed:
            failed.append(f"{line}: {done.stderr}")
    assert not failed, "\n".join(failed)


def test_the_documents_make_a_site_in_which_every_link_leads_somewhere(tmp_path: Path) -> None:
    spec = importlib.util.spec_from_file_location("make_docs", ROOT / "tools/make_docs.py")
    assert spec is not None and spec.loader is not None
    make_docs = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(make_docs)
    make_docs.make_pages(tmp_path / "site")
    made = {path.relative_to(tmp_path / "site").as_posix() for path in (tmp_path / "site").rglob("*.html")}
    documents = {
        path.relative_to(ROOT / "docs").with_suffix(".html").as_posix() for path in (ROOT / "docs").rglob("*.md")
    }
    assert made >= {name.replace("README", "index") for name in documents} | {"index.html", "changes.html"}
    # Whoever adds a document says where on the site it stands; recipes are linked from their first page.
    named = {name for group in make_docs.CONTENTS.values() for name in group.values()}
    assert {path.name for path in (ROOT / "docs").glob("*.md")} <= named


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

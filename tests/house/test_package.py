"""Ready to be given away: a wheel and a source archive with all that is needed, and nothing else."""

from __future__ import annotations

import os
import subprocess
import sys
import tarfile
import zipfile
from pathlib import Path

import pytest

from aksara import __version__
from places import ROOT

_ROOT = ROOT
_MOST = 3_000_000


@pytest.fixture(scope="module")
def built(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """The wheel and the source archive."""
    folder = tmp_path_factory.mktemp("dist")
    subprocess.run(
        [sys.executable, "-m", "hatchling", "build", "-d", folder], cwd=_ROOT, check=True, capture_output=True
    )
    (wheel,), (archive,) = folder.glob("*.whl"), folder.glob("*.tar.gz")
    return wheel, archive


def _source_files() -> set[str]:
    listed = subprocess.run(["git", "ls-files", "src"], cwd=_ROOT, check=True, capture_output=True, text=True).stdout
    return {name.removeprefix("src/") for name in listed.splitlines() if (_ROOT / name).is_file()}


def test_subsets_contain_exactly_what_is_needed(built: tuple[Path, Path]) -> None:
    wheel, archive = built
    assert wheel.stat().st_size < _MOST and archive.stat().st_size < _MOST
    with zipfile.ZipFile(wheel) as opened:
        inside = {name for name in opened.namelist() if ".dist-info/" not in name}
        about = {Path(name).name: opened.read(name).decode() for name in opened.namelist() if ".dist-info/" in name}
    assert inside == _source_files()
    assert f"Version: {__version__}" in about["METADATA"] and "License-Expression: MIT" in about["METADATA"]
    assert "Aksara contributors" in about["LICENSE"] and "UNICODE LICENSE" in about["LICENCE-UNICODE.txt"]
    assert "aksara = aksara.starting:main" in about["entry_points.txt"]
    with tarfile.open(archive) as packed:
        names = {name.partition("/")[2] for name in packed.getnames()}
    assert {f"src/{name}" for name in _source_files()} <= names
    assert {"LICENSE", "README.md", "CHANGELOG.md", "pyproject.toml"} <= names
    assert not any(name.startswith(("tests", "tools", "docs")) for name in names)


def test_the_installed_program_runs(built: tuple[Path, Path], tmp_path: Path) -> None:
    with zipfile.ZipFile(built[0]) as opened:
        opened.extractall(tmp_path / "installed")
    environment = {**os.environ, "PYTHONPATH": str(tmp_path / "installed")}

    def run(*arguments: str) -> str:
        return subprocess.run(
            [sys.executable, "-m", "aksara", *arguments],
            cwd=tmp_path, env=environment, check=True, capture_output=True, text=True,
        ).stdout  # fmt: skip

    where = subprocess.run(
        [sys.executable, "-c", "import aksara; print(aksara.__file__)"],
        env=environment, check=True, capture_output=True, text=True,
    ).stdout  # fmt: skip
    assert where.startswith(str(tmp_path / "installed"))
    assert run("--version") == f"aksara {__version__}\n"
    copy = "from pathlib import Path; from aksara.demo import copy_demo; copy_demo(Path('demo'))"
    subprocess.run([sys.executable, "-c", copy], cwd=tmp_path, env=environment, check=True)
    font, site = "demo/fonts/PenyuSans-Regular.ttf", "demo/site"
    run("build", font, "--for-site", site, "--to", f"{site}/type", "--effort", "fast")
    assert (tmp_path / "demo/site/type/proof.html").stat().st_size > 50_000
    page = '<html lang="en"><link rel="stylesheet" href="type/faces.css"><p style="font-family: Penyu Sans">Ferries'
    (tmp_path / site / "own.html").write_text(page)
    assert "1 page checked" in run("check", f"{site}/own.html")


def test_the_changes_of_this_version_are_reported() -> None:
    assert f"\n## {__version__}" in (_ROOT / "CHANGELOG.md").read_text()

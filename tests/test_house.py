"""The rules of the house: what may import what, what the public API is, and that starting is instant."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import pytest

import aksara

SOURCE = Path(aksara.__file__).parent

# Room → the rooms it may import, besides itself and the ground (docs/architecture.md). Lower rooms come first.
GROUND = {"binary", "errors", "truetype", "sizes", "data", ""}
ROOMS: dict[str, set[str]] = {
    "sources": set(),
    "container": set(),
    "tables": set(),
    "font": {"container", "tables", "sources"},
    "text": set(),
    "subsetting": {"font", "tables", "text"},
    "faces": {"font", "tables"},
    "inspection": {"font", "tables", "sources", "faces", "text", "subsetting"},
    "web": {"faces", "text"},
    "proof": {"web", "text"},
    "demo": set(),
    "build": {"sources", "container", "tables", "font", "text", "subsetting", "faces", "web", "proof"},
    "project": {"sources", "container", "text", "font", "faces", "web", "build"},
}
ROOMS["cli"] = {*ROOMS, "__init__"}
ROOMS["__main__"] = {"cli"}


def _room(path: Path) -> str:
    first = path.relative_to(SOURCE).parts[0]
    return first.removesuffix(".py")


def _imports(path: Path) -> set[str]:
    """The rooms that a module imports. Imports for annotations in the public `__init__` do not count."""
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
        elif isinstance(node, ast.Import):
            names.update(alias.name for alias in node.names)
    return {name.partition("aksara.")[2].split(".")[0] for name in names if name.split(".")[0] == "aksara"}


def test_imports_go_down_the_house_only() -> None:
    modules = [path for path in SOURCE.rglob("*.py") if path != SOURCE / "__init__.py"]
    assert {_room(path) for path in modules} - GROUND == set(ROOMS), "a room is missing from the rules"
    wrong = [
        f"{path.relative_to(SOURCE)} imports {target}"
        for path in modules
        for target in _imports(path)
        if target not in GROUND | {_room(path)} | ROOMS.get(_room(path), set())
    ]
    assert not wrong, "\n".join(wrong)


def test_only_the_command_line_prints_or_exits() -> None:
    for path in SOURCE.rglob("*.py"):
        if _room(path) in ("cli", "__main__"):
            continue
        calls = {
            node.func.id
            for node in ast.walk(ast.parse(path.read_text()))
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
        }
        assert not calls & {"print", "exit", "input", "open"}, path
        assert "click" not in path.read_text(), path


@pytest.mark.parametrize("name", aksara.__all__)
def test_everything_that_is_public_is_there_and_documented(name: str) -> None:
    value = getattr(aksara, name)
    assert name == "__version__" or value.__doc__


def test_help_and_version_load_nothing_heavy() -> None:
    code = (
        "import sys; from aksara.cli import aksara\n"
        "for option in ('--help', '--version'): aksara.main([option], standalone_mode=False)\n"
        "print(sorted({'numpy', 'rich', 'jinja2', 'brotli', 'aksara.font'} & set(sys.modules)))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"

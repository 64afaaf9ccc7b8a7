"""The rules of the house: what may import what, what the public API is, and that starting is instant."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from collections.abc import Collection, Iterator
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

import aksara

SOURCE = Path(aksara.__file__).parent


@cache
def _tree(path: Path) -> ast.Module:
    """A module as Python reads it; nobody changes it."""
    return ast.parse(path.read_text())


# Room → the rooms it may import, besides itself and the ground (docs/architecture.md). Lower rooms come first.
GROUND = {
    "atomic",
    "binary",
    "compressibility",
    "user_cache",
    "observing",
    "parsed_tables",
    "threads",
    "toml_text",
    "code_stamp",
    "importing",
    "errors",
    "limits",
    "locking",
    "notices",
    "processes",
    "records",
    "offsets",
    "truetype",
    "phrases",
    "sizes",
    "data",
    "",
}
ROOMS: dict[str, set[str]] = {
    "sources": set(),
    "receipts": {"sources"},
    "cluster": set(),
    "container": set(),
    "tables": set(),
    "font": {"container", "tables", "sources"},
    "text": set(),
    "subsetting": {"font", "tables", "text"},
    "slicing": {"font", "tables", "text", "subsetting"},
    "instancing": {"font", "tables"},
    "glyph_outlines": {"font", "tables"},
    "kerning": {"font", "tables"},
    "text_widths": {"font", "tables", "text"},
    "truetype_outlines": {"font", "tables", "glyph_outlines"},
    "faces": {"font", "tables", "glyph_outlines"},
    "installed_fonts": {"font", "tables", "sources"},
    "measuring": {"font", "tables", "sources", "faces", "installed_fonts", "instancing", "text_widths", "web"},
    "inspection": {"font", "tables", "sources", "faces", "text"},
    "web": {"container", "faces", "text"},
    "proof": {"faces", "web", "text"},
    "svg_fonts": {"font", "tables", "glyph_outlines", "kerning", "faces", "web"},
    "site": {"sources", "text", "faces", "web"},
    "demo": {"sources"},
    "checking": {"sources", "container", "font", "tables", "subsetting", "faces", "text", "web", "site"},
    "pipeline": {
        "sources",
        "container",
        "tables",
        "font",
        "text",
        "subsetting",
        "slicing",
        "instancing",
        "faces",
        "web",
        "proof",
        "svg_fonts",
        "truetype_outlines",
        "kerning",
        "text_widths",
        "site",
    },
    "trying": {"sources", "font", "text", "faces", "web", "proof", "site", "pipeline"},
    "project": {
        "sources",
        "container",
        "text",
        "font",
        "tables",
        "slicing",
        "instancing",
        "faces",
        "web",
        "site",
        "checking",
        "pipeline",
        "receipts",
    },
}
ROOMS["cli"] = {*ROOMS, "__init__"}
ROOMS["starting"] = {"cli"}
ROOMS["__main__"] = {"starting"}


def _room(path: Path) -> str:
    first = path.relative_to(SOURCE).parts[0]
    return first.removesuffix(".py")


def _imports(path: Path) -> set[str]:
    """The rooms that a module imports. Imports for annotations in the public `__init__` do not count."""
    names: set[str] = set()
    for node in ast.walk(_tree(path)):
        if isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
        elif isinstance(node, ast.Import):
            names.update(alias.name for alias in node.names)
    return {name.partition("aksara.")[2].split(".")[0] for name in names if name.split(".")[0] == "aksara"}


def test_imports_go_down_only() -> None:
    modules = [path for path in SOURCE.rglob("*.py") if path != SOURCE / "__init__.py"]
    assert {_room(path) for path in modules} - GROUND == set(ROOMS), "a room is missing from the rules"
    wrong = [
        f"{path.relative_to(SOURCE)} imports {target}"
        for path in modules
        for target in _imports(path)
        if target not in GROUND | {_room(path)} | ROOMS.get(_room(path), set())
    ]
    assert not wrong, "\n".join(wrong)


# Rooms within a room: each may import those before it, and the modules beside them, which put them together.
INNER_ROOMS = {
    "site": ("css", "page", "access"),
    "pipeline": ("making", "writing", "planning", "trials", "publishing"),
    "checking": ("kinds", "checks"),
}


@pytest.mark.parametrize("room", INNER_ROOMS)
def test_imports_go_down_within_a_room_too(room: str) -> None:
    order = INNER_ROOMS[room]
    assert {path.name for path in (SOURCE / room).iterdir() if path.is_dir() and path.name != "__pycache__"} == set(
        order
    )
    for place, inner in enumerate(order):
        for path in (SOURCE / room / inner).glob("*.py"):
            for name in _module_imports(path, {_module(each): each for each in SOURCE.rglob("*.py")}):
                first, _, rest = name.removeprefix("aksara.").partition(".")
                target = rest.partition(".")[0]
                if first == room and target in order:
                    assert order.index(target) <= place, f"{path.name} in {inner} imports {name}"


def test_no_module_imports_in_a_circle() -> None:
    """Also not inside functions, and not for annotations alone but in the base of all tables."""
    modules = {_module(path): path for path in SOURCE.rglob("*.py")}
    imports = {name: _module_imports(path, modules) for name, path in modules.items() if name != "aksara"}
    # Tables are described in terms of what cuts them down, which holds tables; only a type checker minds.
    imports["aksara.tables.base"] -= {"aksara.tables.subsetting"}
    order = TopologicalSorter({name: found - {"aksara"} for name, found in imports.items()})
    order.prepare()  # raises CycleError, with the circle


def _module(path: Path) -> str:
    parts = path.relative_to(SOURCE.parent).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def _module_imports(path: Path, modules: Collection[str]) -> set[str]:
    """The modules of ours that a module imports; of `from package import name` the module, if it is one."""
    found: set[str] = set()
    for node in ast.walk(_tree(path)):
        if isinstance(node, ast.ImportFrom) and node.module in modules:
            inner = {f"{node.module}.{alias.name}" for alias in node.names}
            found |= (inner & set(modules)) or {str(node.module)}
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names} & set(modules)
    return found


def _functions(path: Path) -> Iterator[ast.FunctionDef]:
    yield from (node for node in ast.walk(_tree(path)) if isinstance(node, ast.FunctionDef))


def test_no_function_has_the_name_of_its_module() -> None:
    """So `from aksara.text import shaping` means the module, and nothing hides it."""
    wrong: list[str] = []
    for path in SOURCE.rglob("*.py"):
        body = _tree(path).body
        wrong += [
            f"{path}: {node.name}" for node in body if isinstance(node, ast.FunctionDef) and node.name == path.stem
        ]
        if path.name == "__init__.py":
            siblings = {each.stem for each in path.parent.iterdir()}
            inner = [node for node in body if isinstance(node, ast.ImportFrom) and node.module != _module(path)]
            wrong += [f"{path}: {alias.name}" for node in inner for alias in node.names if alias.name in siblings]
    assert not wrong, "\n".join(wrong)


def test_only_the_command_line_prints_exits_or_speaks_of_options() -> None:
    for path in SOURCE.rglob("*.py"):
        if _room(path) in ("cli", "__main__"):
            continue
        tree = _tree(path)
        calls = {
            node.func.id for node in ast.walk(tree) if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
        }
        assert not calls & {"print", "exit", "input", "open"}, path
        assert "click" not in path.read_text(), path
        texts = [
            node.value for node in ast.walk(tree) if isinstance(node, ast.Constant) and isinstance(node.value, str)
        ]
        spoken = [text for text in texts if re.search(r"(?<![\w-])--[a-z]|`aksara \w", text)]
        # Custom properties of CSS, what a project file says of its program, and one docstring may.
        allowed = ("`--penyu-sans`", "aksara build` makes", "for `aksara inspect`")
        assert [text for text in spoken if not any(part in text for part in allowed)] == []


def test_tables_hold_no_values_of_any_type() -> None:
    for path in (SOURCE / "tables").rglob("*.py"):
        assert not re.search(r"\bAny\b", path.read_text()), path


def test_nine_public_functions_in_ten_are_documented() -> None:
    public = [f for path in SOURCE.rglob("*.py") for f in _functions(path) if not f.name.startswith("_")]
    # `parse`, `compile` and the like say what they do where they are declared: in the base of all tables.
    documented = [f for f in public if ast.get_docstring(f) or f.name in _DECLARED]
    assert len(documented) >= 0.9 * len(public)


#: Methods that every table, subtable or context has, documented once.
_DECLARED = set(
    "parse compile subset block span halves patterns all_actions renumbered cut divisions made inputs awaited".split()
)


@pytest.mark.parametrize("name", aksara.__all__)
def test_everything_that_is_public_is_there_and_documented(name: str) -> None:
    value = getattr(aksara, name)
    assert name == "__version__" or value.__doc__


def test_a_build_loads_what_reads_sites_only_for_a_site() -> None:
    heavy = {"httpx", "tinycss2", "selectolax", "playwright"}
    code = f"import sys, aksara.cli.build; print(sorted({heavy!r} & set(sys.modules)))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"


def test_help_and_version_load_nothing_heavy() -> None:
    code = (
        "import sys; from aksara.cli import aksara\n"
        "for option in ('--help', '--version'): aksara.main([option], standalone_mode=False)\n"
        "print(sorted({'numpy', 'rich', 'jinja2', 'brotli', 'aksara.font'} & set(sys.modules)))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"


def test_modules_and_functions_stay_small() -> None:
    for path in SOURCE.rglob("*.py"):
        if path.parent.name == "data":
            continue
        text = path.read_text()
        assert text.count("\n") <= 400, path
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                assert (node.end_lineno or 0) - node.lineno < 50, (path, node.name)


def test_no_two_classes_have_one_name() -> None:
    found: dict[str, Path] = {}
    for path in SOURCE.rglob("*.py"):
        for node in _tree(path).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                assert node.name not in found, (node.name, path, found[node.name])
                found[node.name] = path

"""Project files that mean harm: bounded before they are parsed, and every one ends with a word."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from aksara.limits import MAX_LOOKED_AT
from aksara.sources import PathPattern, patterns
from conftest import Run
from fonts import small_font
from sandbox import Sandbox

#: What a run may take besides the program's own memory, and seconds of a processor.
_MEMORY, _SECONDS = 100_000_000, 15
_FAMILY = '[[family]]\nfonts = ["a.ttf"]\n'

#: By name: the file, and what its message says.
_FILES = {
    "dotted key": (".".join(["a"] * 10_000) + " = 1\n" + _FAMILY, "parts in one key"),
    "header": ("[" + ".".join(["a"] * 50_000) + "]\n" + _FAMILY, "parts in one key"),
    "quoted key": (' . '.join(['"a.b"'] * 10_000) + " = 1\n" + _FAMILY, "parts in one key"),
    "families": (_FAMILY * 20_000, "tables"),
    "outputs": ("".join(f'[[output]]\nfolder = "{n}"\n' for n in range(60)) + _FAMILY, "[[output]] tables"),
    "pages": ("[site]\npages = [" + '"x.html",' * 60_000 + "]\n" + _FAMILY, "values"),
    "axes": (_FAMILY + "axes = {" + ",".join(f"a{n} = 1" for n in range(30_000)) + "}", "values"),
    "arrays": ("a = " + "[" * 100_000 + "]" * 100_000, "nested too deeply"),
    "tables in tables": ("a = " + "{a=" * 15_000, "nested too deeply"),
    "large number": ("[output]\nslices = 0x" + "f" * 5_000 + "\n" + _FAMILY, "line 2: this number is too large"),
    "large numbers": (_FAMILY + "axes = { wght = [1, 0x" + "f" * 90 + "] }", "this number is too large"),
    "long number": ("[output]\nbudget = " + "9" * 800_000 + "\n" + _FAMILY, "not valid TOML"),
    "long name": (_FAMILY + 'name = "' + "x" * 40_000 + '"', "40,000 characters"),
    "long pattern": ('[site]\npages = ["' + "*/" * 5_000 + '"]\n' + _FAMILY, "cannot be looked for"),
    "dates": ("[licence]\nuntil = 9999-99-99\n" + _FAMILY, "not valid TOML"),
}  # fmt: skip


@pytest.fixture(scope="module")
def sandbox() -> Iterator[Sandbox]:
    with Sandbox() as started:
        yield started


@pytest.mark.parametrize("name", _FILES)
def test_files_are_bounded_before_they_are_parsed(name: str, sandbox: Sandbox, tmp_path: Path) -> None:
    text, said = _FILES[name]
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "aksara.toml").write_text(text)
    done = sandbox.run("build", cwd=tmp_path, seconds=_SECONDS)
    assert done.status == 2 and done.is_clean and said in done.messages, (done.status, done.messages[-300:])
    assert done.memory < _MEMORY and len(done.messages) < 1_000


def test_content_of_real_projects_raises_no_false_alarm(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "aksara.toml").write_text(
        '[site]\nalso = """A a.b.c.d.e.f.g.h.i.j.k [x] = , # \\" """\n[output]\n'
        "folder = 'o.p.q.r.s.t.u.v.w.x'  # a.b.c.d.e.f.g.h.i.j\n" + _FAMILY
    )
    done = aksara("build")
    assert done.returncode == 0, done.stderr


# ---- patterns


@pytest.fixture
def deep(tmp_path: Path) -> Path:
    """Folders in folders, each with a page."""
    folder = tmp_path
    for _ in range(60):
        folder /= "d"
        folder.mkdir()
        (folder / "x.html").write_text("<p>A")
    return tmp_path


@pytest.mark.parametrize(
    ("pattern", "count"),
    [
        ("**/" * 12 + "*.html", 60), ("**/d/" * 12 + "*.html", 49), ("*/" * 30 + "*.html", 1), ("**/**/x.*", 60),
        ("*a*a*a*a*a*a*a*a*a*a*a*a*a*a*a*a*a*a*a*a*b", 0), ("d/**", 120), ("./d/../d/x.html", 1), ("**/d", 60),
        ("d/[x].html", 1), ("d/?.html", 1), ("D/x.html", 0), ("**/.*", 0),
    ],
)  # fmt: skip
def test_patterns_mean_what_they_did_and_take_no_time(pattern: str, count: int, deep: Path) -> None:
    try:
        found = PathPattern(pattern, deep).paths()
    except Exception:
        found = []
    assert len(found) == count and len(set(found)) == count


def test_patterns_look_at_a_limited_number_of_names(
    deep: Path, aksara: Run, monkeypatch: pytest.MonkeyPatch, sandbox: Sandbox
) -> None:
    (deep / "a.ttf").write_bytes(small_font())
    (deep / "d/circle").symlink_to(deep / "d")
    (deep / "aksara.toml").write_text('[site]\npages = ["**/**/x.html"]\n' + _FAMILY)
    assert sandbox.run("build", cwd=deep, seconds=_SECONDS).status == 0
    (deep / "aksara.toml").write_text('[site]\npages = ["/usr/**/*.no-such-page"]\n' + _FAMILY)
    done = sandbox.run("build", cwd=deep, seconds=60)
    assert done.status == 2 and ("to look through" in done.messages or "no page matches" in done.messages)
    assert MAX_LOOKED_AT < 1_000_000
    monkeypatch.setattr(patterns, "MAX_LOOKED_AT", 50)
    for command in (("build",), ("inspect", "."), ("scan", ".")):
        refused = aksara(*command, cwd=deep)
        assert refused.returncode == 2 and "more than 50 files to look through" in refused.stderr, refused.stderr

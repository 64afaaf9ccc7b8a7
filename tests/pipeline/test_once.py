"""Files are read and tables parsed once a build, and what builds look at does not mix."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path
from threading import Barrier, Thread

import pytest

from aksara.observing import Observed, observe
from aksara.parsed_tables import ParsedTables
from aksara.sources import read_file, reading_once
from aksara.threads import in_threads
from fonts import DEMO_FONTS

#: Runs the program and prints how often each file was opened, and each table of a source font parsed.
_COUNTING = """
import collections, json, os, sys
import aksara.font
from aksara.cli import main

opened, parsed, sources = collections.Counter(), collections.Counter(), set()
def hook(event, args):
    if event == "open" and isinstance(args[0], (str, bytes, os.PathLike)):
        opened[os.path.relpath(os.path.realpath(os.fsdecode(args[0])))] += 1
sys.addaudithook(hook)
original, opening = aksara.font.Font.table, aksara.font.open_fonts
def table(self, kind):
    if id(self) in sources and kind not in self._kept and kind.TAG in self:
        parsed[f"{self.path} {kind.TAG}"] += 1
    return original(self, kind)
def open_fonts(*args):
    fonts = opening(*args)
    kept.extend(fonts)
    sources.update(map(id, fonts))
    return fonts
kept = []
aksara.font.Font.table = table
import aksara.pipeline.planning.reading as reading
reading.open_fonts = open_fonts
sys.argv = ["aksara", "-q", "build", "--effort", "fast", "--jobs", "1", *sys.argv[1:]]
try:
    main()
except SystemExit as end:
    assert not end.code, end.code
here = {path: count for path, count in opened.items() if not path.startswith("..")}
print(json.dumps([here, parsed]))
"""


@pytest.mark.parametrize("arguments", [(), ("--no-cache",)])
def test_a_build_reads_files_and_parses_tables_once(arguments: tuple[str, ...], tmp_path: Path) -> None:
    folder = tmp_path / "demo"
    shutil.copytree(DEMO_FONTS[0].parent.parent, folder)
    done = subprocess.run(
        [sys.executable, "-c", _COUNTING, *arguments], cwd=folder, capture_output=True, text=True, check=True
    )
    opened, parsed = json.loads(done.stdout)
    fonts = {path: count for path, count in opened.items() if path.startswith("fonts/") and not path.endswith(".txt")}
    assert len(fonts) == 10 and len(parsed) > 100 and opened["site/index.html"] and opened["site/penyu.css"]
    # Of a font the first bytes are looked at once more, to tell it from a ZIP.
    assert max(fonts.values()) <= 2
    assert {path: count for path, count in opened.items() if path not in fonts and count > 1} == {}
    assert {table: count for table, count in parsed.items() if count > 1} == {}


def test_files_are_read_again_when_they_change(tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text("one")
    with reading_once():
        assert read_file(path) == b"one"
        path.write_text("another")
        assert read_file(path) == b"another"
        path.unlink()
        with pytest.raises(Exception, match="cannot be read"):
            read_file(path)


def test_what_is_looked_at_does_not_mix(tmp_path: Path) -> None:
    barrier, seen = Barrier(2), dict[str, Observed]()

    def look(name: str) -> None:
        with observe() as seen[name]:
            barrier.wait()
            # In threads of their own, too.
            in_threads(2, read_file, [tmp_path / f"{name}{number}" for number in range(3)])
            barrier.wait()

    for name in ("a0", "a1", "a2", "b0", "b1", "b2"):
        (tmp_path / name).write_text(name)
    threads = [Thread(target=look, args=(name,)) for name in "ab"]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert {name: {path.name for path in each.files} for name, each in seen.items()} == {
        "a": {"a0", "a1", "a2"}, "b": {"b0", "b1", "b2"},
    }  # fmt: skip


def test_what_was_parsed_longest_ago_goes_first() -> None:
    kept: list[dict[object, object]] = [{"glyf": number} for number in range(3)]
    parsed = ParsedTables(1_000)
    for each in kept:
        parsed.note(each, "GPOS", 20)
    assert [bool(each) for each in kept] == [False, True, True]
    # The last one stays while it is worked on, though it be too large.
    parsed.note(kept[2], "GPOS", 100)
    assert [bool(each) for each in kept] == [False, True, True]
    # And so does the one before it, in whose place it may stand.
    kept.append({"glyf": 3})
    parsed.note(kept[3], "GPOS", 20)
    assert [bool(each) for each in kept] == [False, False, True, True]
    parsed.note(kept[2], "GPOS", 0)
    parsed.expect(kept[2], 2)
    parsed.trim(kept[2])
    assert kept[2], "it is needed once more"
    parsed.trim(kept[2])
    assert not any(kept)

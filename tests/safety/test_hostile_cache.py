"""What lies in the cache folder may be anything: it is waited for by nobody, believed by nobody, and stops no build."""

from __future__ import annotations

import json
import os
import random
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path

import pytest

from aksara.code_stamp import installation_stamp
from cases_of_strangers import bent
from conftest import Run
from fonts import small_font


@pytest.fixture
def cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The user's cache folder."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    return tmp_path / "cache/aksara"


@pytest.fixture
def runs(aksara: Run, tmp_path: Path, cache: Path) -> Callable[[], dict[str, bytes]]:
    """Builds, scans and checks a site, and gives what was built. By now all of it is in the cache."""
    home = tmp_path / "home"
    (home / "site").mkdir(parents=True)
    (home / "a.ttf").write_bytes(small_font())
    (home / "site/index.html").write_text(
        "<link rel=stylesheet href=type/faces.css><p style='font-family: Kotak'>A<p>B"
    )
    (home / "aksara.toml").write_text(
        '[site]\npages = ["site/*.html"]\nexact = true\n[output]\nfolder = "site/type"\n[[family]]\nfonts = ["a.ttf"]\n'
    )

    def run() -> dict[str, bytes]:
        for path in (home / "site/type").glob("faces.*"):
            path.unlink()  # so that the build has something to do
        for command in (("build",), ("scan",), ("check", "--level", "error"), ("build", "--to", "site/other")):
            done = aksara(*command, cwd=home)
            assert done.returncode == 0, (command, done.stderr)
        return {path.name: path.read_bytes() for path in (home / "site/type").rglob("*") if path.is_file()}

    run()
    return run


def _kept(cache: Path) -> list[Path]:
    found = sorted(path for path in cache.rglob("*") if path.is_file())
    assert {path.relative_to(cache).parts[0] for path in found} == {"fonts", "pages", "receipts", "font-facts.json"}
    return found


def test_special_files_do_not_block(runs: Callable[[], dict[str, bytes]], cache: Path) -> None:
    made = runs()
    for put in (os.mkfifo, lambda path: path.symlink_to("/dev/zero"), Path.mkdir, lambda path: path.symlink_to(path)):
        for path in (
            _kept(cache) if put is os.mkfifo else sorted(each for each in cache.rglob("*") if not each.is_dir())
        ):
            path.unlink()
            put(path)
        assert runs() == made


#: Of no type that is kept.
_WRONG = ({"?": [None]}, [[{}]])


def test_entries_of_other_types_are_an_ordinary_miss(runs: Callable[[], dict[str, bytes]], cache: Path) -> None:
    made = runs()
    chance = random.Random(1)
    originals = {path: path.read_bytes() for path in _kept(cache)}
    for _ in range(8):
        for path, data in originals.items():
            if path.suffix == ".json":
                held = json.loads(data)
                changed = bent(held["entries"], chance, _WRONG) if chance.random() < 0.8 else bent(held, chance, _WRONG)
                whole = {"made_by": installation_stamp(), "entries": changed} if chance.random() < 0.8 else changed
                path.write_bytes(json.dumps(whole).encode())
            else:
                size = int(data[:8])
                header = json.dumps(bent(json.loads(data[8 : 8 + size]), chance, _WRONG)).encode()
                path.write_bytes(f"{len(header):08}".encode() + header + data[8 + size :])
        assert runs() == made


def test_a_forged_cache_entry_is_not_published(
    runs: Callable[[], dict[str, bytes]], cache: Path, aksara: Run, tmp_path: Path
) -> None:
    made = runs()
    # Another font, whole and sound, with all its hashes.
    (tmp_path / "b.ttf").write_bytes(small_font({0x41: 2, 0x42: 1}))
    assert aksara("build", "b.ttf", "--for-text", "AB", "--no-cache").returncode == 0
    others = {path.suffix[1:]: path.read_bytes() for path in (tmp_path / "web-fonts/fonts").glob("*.woff*")}
    changed = 0
    for path in (cache / "fonts").rglob("*"):
        if path.is_dir():
            continue
        data = path.read_bytes()
        size = int(data[:8])
        header = json.loads(data[8 : 8 + size])
        bodies = [others[font_format] for font_format, _, _ in header["files"]]
        header["files"] = [
            [name, len(body), sha256(body).hexdigest()]
            for (name, _, _), body in zip(header["files"], bodies, strict=True)
        ]
        text = json.dumps(header).encode()
        path.write_bytes(f"{len(text):08}".encode() + text + b"".join(bodies))
        changed += 1
    assert changed and runs() == made

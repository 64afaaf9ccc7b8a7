"""Files that mean harm: no run takes long or much memory, and every one ends with a word."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from attacks import ATTACKS
from sandbox import Sandbox

#: What a run may take: memory, and for each byte of the file besides.
_MEMORY, _MEMORY_PER_BYTE = 300_000_000, 8
#: Seconds of a processor, on the slowest machine; most take less than one.
_SECONDS = 40


@pytest.fixture(scope="module")
def sandbox() -> Iterator[Sandbox]:
    with Sandbox() as started:
        yield started


@pytest.mark.parametrize("name", ATTACKS)
def test_work_and_memory_are_bounded(name: str, sandbox: Sandbox, tmp_path: Path) -> None:
    make, suffix = ATTACKS[name]
    file = tmp_path / (name + suffix)
    file.write_bytes(make())
    rule = f"@font-face {{ font-family: X; src: url({file.name}) }} p {{ font-family: X }}"
    (tmp_path / "page.html").write_text(f'<html lang="en"><style>{rule}</style><p>Hello')
    # In slices, since what is found to be too much in one is looked at again in the next.
    build = ["build", file.name, "--effort", "fast", "--format", "woff2", "--slices", "3"]
    for arguments in (["inspect", file.name], build, ["check", "page.html", "--no-cache"]):
        done = sandbox.run(*arguments, cwd=tmp_path, seconds=_SECONDS)
        assert done.is_clean, (arguments, done.status, done.seconds, done.messages[-400:])
        assert done.memory < _MEMORY + _MEMORY_PER_BYTE * file.stat().st_size, arguments
        if done.status and arguments[0] != "check":
            assert file.name in done.messages, done.messages

"""An interrupt ends the program quietly, from the first import on, and is never lost."""

from __future__ import annotations

import subprocess
import sys

import pytest

_START = "import os, signal, sys; signal.signal(signal.SIGINT, signal.default_int_handler)\n"
_DURING_IMPORTS = """
from importlib.abc import MetaPathFinder
class Finder(MetaPathFinder):
    def find_spec(self, name, path=None, target=None):
        if name == {name!r}:
            os.kill(os.getpid(), signal.SIGINT)
sys.meta_path.insert(0, Finder())
sys.argv = ["aksara", "languages"]
from aksara.starting import main
main()
"""
_SWALLOWED = """
import aksara.text.languages
def all_languages(*_):
    try:
        os.kill(os.getpid(), signal.SIGINT)
    except BaseException:
        pass
    return ()
import aksara.cli.languages as languages
languages.all_languages = all_languages
sys.argv = ["aksara", "languages"]
from aksara.starting import main
main()
"""


def _run(code: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-c", _START + code], capture_output=True, text=True, check=False, timeout=60
    )


@pytest.mark.parametrize("name", ["aksara.cli", "click", "aksara.cli.memory", "ctypes"])
def test_an_interrupt_during_the_first_imports_is_quiet(name: str) -> None:
    done = _run(_DURING_IMPORTS.format(name=name))
    assert (done.returncode, done.stdout, done.stderr) == (130, "", "")


@pytest.mark.parametrize("name", ["aksara.cli.languages", "rich.table"])
def test_licence_ends_are_reported_in_time(name: str) -> None:
    done = _run(_DURING_IMPORTS.format(name=name))
    assert (done.returncode, done.stderr.strip()) == (130, "aksara: stopped; nothing was written")


def test_a_swallowed_interrupt_still_ends_the_program() -> None:
    done = _run(_SWALLOWED)
    assert (done.returncode, done.stderr.strip()) == (130, "aksara: stopped; nothing was written")

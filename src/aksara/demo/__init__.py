"""The demo: the site of Penyu Ferries, a ferry line that does not exist, and its typeface Penyu Sans."""

from __future__ import annotations

import shutil
from importlib.resources import as_file, files
from pathlib import Path

from aksara.errors import InputError, OutputError, RequestError
from aksara.sources import kind_of

_PARTS = ("site", "fonts", "candidates")
_PROJECT = "aksara.toml"
#: A file that marks a folder as the demo.
_MARK = Path("site", "penyu.css")


def copy_demo(folder: Path) -> None:
    """Put the site (`site/`), its desktop fonts (`fonts/`), two more families (`candidates/`) and the project file into
    `folder`.

    A demo that is there already is written over. Raises `RequestError` for a
    folder with anything else in it, `OutputError` where it cannot be written.
    """
    try:
        kind = kind_of(folder)
    except InputError as error:
        raise OutputError(f"{error.problem}; give another name") from error
    if kind not in ("folder", "missing"):
        raise RequestError(f"{folder}: this is a file, but the demo needs a folder; give another name")
    if kind == "folder" and any(folder.iterdir()) and not (folder / _MARK).is_file():
        raise RequestError(f"{folder}: this folder has other files in it; give another name")
    try:
        # The mark first: by it a demo is known that could not be copied whole.
        (folder / _MARK).parent.mkdir(parents=True, exist_ok=True)
        with as_file(files(__package__) / str(_MARK)) as source:
            shutil.copyfile(source, folder / _MARK)
        for part in _PARTS:
            with as_file(files(__package__) / part) as source:
                shutil.copytree(source, folder / part, dirs_exist_ok=True)
        with as_file(files(__package__) / _PROJECT) as source:
            shutil.copyfile(source, folder / _PROJECT)
    except OSError as error:
        raise OutputError(
            f"{folder}: cannot be written ({error.strerror}); check the free space and the permissions"
        ) from error

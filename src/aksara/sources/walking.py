"""Walking through folders: in a stable order, without other people's code and our own output."""

from __future__ import annotations

import os
from collections.abc import Collection, Iterator
from contextlib import suppress
from pathlib import Path

from aksara.errors import InputError
from aksara.notices import Notice
from aksara.observing import note_folder
from aksara.sources.files import printable, read_start, resolved, why_no_file
from aksara.sources.patterns import LookedAt

#: The manifest that Aksara leaves in its output folder, by which the folder is known, and skipped.
MANIFEST_NAME = "faces.json"
MANIFEST_MARK = b'{\n "made_by": "Aksara'
#: Folders of third-party code and fonts, which are skipped.
FOREIGN = frozenset({"node_modules", "bower_components", "__pycache__"})
#: Where Macs keep notes about files in ZIPs and on foreign disks.
MAC_RESOURCES = "__MACOSX"


def walk(folder: Path, ignore: Collection[Path] = ()) -> Iterator[Path | Notice]:
    """The paths of all files in a folder and its folders, in order; for a folder that cannot be read, a notice.

    Hidden files and folders, other people's packages, what Aksara wrote, and `ignore` (resolved paths) are skipped.
    Raises `RequestError` where there is too much to look at.
    """
    unread: list[Notice] = []

    def keep_error(error: OSError) -> None:
        unread.append(skipped(Path(error.filename), f"cannot be read ({error.strerror})"))

    looked_at = LookedAt(str(folder))
    for folder_path, folders, files in os.walk(folder, onerror=keep_error):
        yield from unread
        unread.clear()
        here = Path(folder_path)
        looked_at.count(len(folders) + len(files) + 1)
        note_folder(here)
        folders[:] = sorted(
            name
            for name in folders
            if not name.startswith(".")
            and name != MAC_RESOURCES
            and name not in FOREIGN
            and not (ignore and resolved(here / name) in ignore)
            and not is_own_output(here / name)
        )
        # "._name" is the Mac's note about a file, not the file.
        yield from (here / name for name in sorted(files) if not name.startswith("."))
    yield from unread


def readable(path: Path) -> Path | Notice:
    """The path, found in a folder, of a regular file; for anything else a notice that says why it is skipped."""
    reason = why_no_file(path)
    return skipped(path, reason) if reason else path


def skipped(path: Path, reason: str) -> Notice:
    """The notice about a file or folder that is skipped."""
    return Notice(printable(str(path)), f"{reason}, so it is skipped")


def is_own_output(folder: Path) -> bool:
    """Whether Aksara wrote this folder: web fonts made from fonts that are here too must not be made again."""
    with suppress(InputError, OSError):
        return read_start(folder / MANIFEST_NAME, len(MANIFEST_MARK)) == MANIFEST_MARK
    return False

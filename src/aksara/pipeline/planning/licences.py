"""The licence texts that travel with the fonts: which, and under what names."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path, PurePosixPath

from msgspec import Struct

from aksara.errors import InputError
from aksara.faces.restrictions import restricting_words
from aksara.limits import MAX_LICENCE_SIZE, MAX_LICENCES
from aksara.notices import Notice
from aksara.sources import SourceFile, printable, read_file, resolved
from aksara.web.model import LicenceFile


class LicenceTexts(Struct, frozen=True):
    """The texts that travel with the fonts, each content once; `folders` are those that they were found in (of a ZIP,
    those in it), and `for_all` is whether one was given for all fonts. `notices` tell what was left behind."""

    files: tuple[LicenceFile, ...]
    folders: frozenset[PurePosixPath]
    for_all: bool
    notices: tuple[Notice, ...] = ()

    def cover(self, path: str) -> bool:
        """Whether the font of that path has a text that travels: one given, or found in its folder or one above."""
        return self.for_all or not self.folders.isdisjoint(PurePosixPath(path).parents)


def licence_texts(
    texts_beside: Iterable[SourceFile], given: Iterable[Path], within: Path | None = None
) -> LicenceTexts:
    """The given texts and those found beside the fonts. Raises `InputError` for a given one that cannot be read.

    A text that is found counts only where it lies itself: a link that leads out of its folder, and out of `within`, may
    lead to anything.
    """
    files: list[LicenceFile] = []
    problems: list[Notice] = []
    folders: set[PurePosixPath] = set()
    taken: set[str] = set()

    def add(source: str, name: str, data: bytes) -> None:
        if all(file.data != data for file in files):
            files.append(LicenceFile(source, _free_name(_safe_name(name), taken), data))

    for path in given:
        add(printable(str(path)), path.name, read_file(path, limit=MAX_LICENCE_SIZE))
    for_all = bool(files)
    for index, file in enumerate(texts_beside):
        if index >= MAX_LICENCES:
            text = f"more than {MAX_LICENCES} licence texts; name the right ones"
            problems.append(Notice("", text, "BuildRequest.published_licences"))
            break
        if not _lies_here(file.path, within):
            text = "a link to another folder, so this licence text was not copied; put a copy in its place"
            problems.append(Notice(file.name, text, "BuildRequest.published_licences"))
            continue
        try:
            add(file.name, PurePosixPath(file.name.replace("\\", "/")).name, file.read(MAX_LICENCE_SIZE))
            folders.add(PurePosixPath(file.name).parent)
        except InputError as problem:
            problems.append(Notice("", f"{problem}; the licence text was not copied"))
    return LicenceTexts(tuple(files), frozenset(folders), for_all, tuple(problems))


def restriction_notices(fonts: Iterable[tuple[str, str, str]], texts: Iterable[SourceFile]) -> list[Notice]:
    """What restricts the use of fonts: words in their names (family, field, words), and in texts beside them."""
    families: dict[tuple[str, str], str] = {}
    for family, field, words in fonts:
        families.setdefault((family, words), f"its {field} says “{words}”")
    notices = [Notice(family, said, "WebLicence.stated") for (family, _), said in families.items()]
    for text in texts:
        try:
            words = restricting_words(text.read(MAX_LICENCE_SIZE).decode("utf-8", "replace"))
        except InputError:
            continue
        if words:
            notices.append(Notice(text.name, f"it says “{words}”", "WebLicence.stated"))
    return notices


def _lies_here(path: Path, within: Path | None) -> bool:
    """Whether a file is in the folder in which it was found, or a link leads from there to one below `within`."""
    real = resolved(path)
    return real.parent == resolved(path.parent) or (within is not None and real.is_relative_to(resolved(within)))


def _safe_name(name: str) -> str:
    """A name that every file system and URL takes; its suffix stays."""
    stem, dot, suffix = name.rpartition(".")
    words = re.findall(r"[A-Za-z0-9_-]+", stem if dot else suffix)
    tail = re.sub(r"[^A-Za-z0-9]", "", suffix) if dot else ""
    return ("-".join(words)[:60] or "licence") + (f".{tail[:8]}" if tail else "")


def _free_name(name: str, taken: set[str]) -> str:
    stem, dot, suffix = name.partition(".")
    count, free = 2, name
    while free.lower() in taken:
        free, count = f"{stem}-{count}{dot}{suffix}", count + 1
    taken.add(free.lower())
    return free

"""Paths in published files, which must not reveal anything about the computer they were made on."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

from msgspec.structs import replace

from aksara.notices import Notice
from aksara.pipeline.request import BuildRequest
from aksara.sources import PathPattern, printable
from aksara.web.model import WebFace


class PublishedPaths:
    """Shortens the absolute paths of a request to what lies below the folders that they name."""

    def __init__(self, request: BuildRequest) -> None:
        given = [*(path for family in request.families for path in family.fonts), *request.published_licences]
        given += [*request.characters.pages, *request.characters.data, *request.characters.text_files]
        folders = {_folder(path) for path in given} | {request.within, request.folder.parent}
        # The longest first: one may lie in another.
        self._here = _at_start(request.within)
        self._prefixes = sorted(
            {f"{printable(str(folder))}/" for folder in folders if folder is not None and folder.is_absolute()} - {"/"},
            key=lambda prefix: (-len(prefix), prefix),
        )
        if request.within is not None and request.within.is_absolute():
            # Of a project all counts from its folder.
            self._prefixes.insert(0, f"{printable(str(request.within)).rstrip('/')}/")

    def text(self, text: str) -> str:
        """A text without the beginnings of absolute paths, and without the way to the project: from wherever it is
        built, the same is published."""
        for prefix in self._prefixes:
            text = text.replace(prefix, "")
        return self._here.sub("", text) if self._here is not None else text

    def notices(self, notices: Sequence[Notice]) -> list[Notice]:
        """Notices without these."""
        return [replace(notice, where=self.text(notice.where), text=self.text(notice.text)) for notice in notices]

    def face(self, web: WebFace) -> WebFace:
        """A face whose source is shown so."""
        return replace(web, face=replace(web.face, path=self.text(web.face.path)))


def _at_start(within: Path | None) -> re.Pattern[str] | None:
    """What finds a relative path to the project's folder where a path begins."""
    if within is None or within.is_absolute() or within == Path():
        return None
    return re.compile(rf"(?<![^\s'\"(]){re.escape(printable(within.as_posix()))}/")


def _folder(path: Path | PathPattern) -> Path | None:
    """The folder that a path lies in; of a pattern the part that has no wildcards."""
    if isinstance(path, PathPattern):
        parts = Path(path.pattern).parts
        plain = next((n for n, part in enumerate(parts) if any(sign in part for sign in "*?[")), len(parts) - 1)
        return path.base.joinpath(*parts[:plain])
    return path.parent

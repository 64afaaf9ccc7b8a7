"""The `@font-face` rules of a style sheet of the user's, taken over: they say which families and faces there are, and
which files these come from.

Once a build has put its own rules in their place, its manifest remembers what they said.
"""

from __future__ import annotations

import os
import sys
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from pathlib import Path
from urllib.parse import unquote, urlsplit

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.notices import Notice
from aksara.pipeline.planning.kept_files import KeptFile
from aksara.pipeline.request import BuildRequest, FaceOverride, FamilyRequest
from aksara.pipeline.writing.targets import built_in
from aksara.site.css.defined_faces import DefinedFace, defined_face
from aksara.site.css.face_rules import FaceRule, located_face_rules
from aksara.sources import is_file, printable
from aksara.web.built_manifest import BuiltRule
from aksara.web.urls import is_path

#: The most useful source of a face first: desktop fonts have all characters.
_SUFFIXES = (".otf", ".ttf", ".woff2", ".woff")
_PARAMETER = "BuildRequest.rules"
_LAST_CODE = 0x10FFFF


class TakenRules(Struct, frozen=True):
    """The families to make, the sheet with marks in place of the rules, what each rule said, for the manifest, and
    notices."""

    families: tuple[FamilyRequest, ...]
    sheet: KeptFile
    rules: tuple[BuiltRule, ...]
    notices: tuple[Notice, ...]


class _Taken(Struct, frozen=True):
    face: DefinedFace
    file: Path
    span: tuple[int, int]


def take_rules(request: BuildRequest, sheet: KeptFile) -> TakenRules:
    """Raises `RequestError` where there is nothing to take."""
    marked = sheet.marked.marked
    text = sheet.marked.text
    looked_at = list(_taken(sheet, marked))
    taken = [rule for rule in looked_at if isinstance(rule, _Taken)]
    notices = [notice for notice in looked_at if isinstance(notice, Notice)]
    rules = _remembered(request, sheet) if marked is not None else []
    here = request.manifest_file.parent
    rules += [_built_rule(rule, here) for rule in taken]
    if not rules:
        raise RequestError(
            f"{printable(str(sheet.path))}: none of its @font-face rules names a font file that is here",
            parameter=_PARAMETER,
        )
    if taken:
        pieces, last = [], 0
        for index, taken_rule in enumerate(taken):
            start, end = taken_rule.span
            marks = sheet.marked.empty_marks if index == 0 and marked is None else ""
            pieces += [text[last:start], marks]
            last = end if marks else _behind_line_end(text, end)
        sheet = replace(sheet, marked=replace(sheet.marked, text="".join([*pieces, text[last:]])))
    families, more = _families(rules, here)
    return TakenRules(tuple(families), sheet, tuple(rules), (*notices, *more))


def _taken(sheet: KeptFile, marked: tuple[int, int] | None) -> Iterator[_Taken | Notice]:
    """The rules outside of the marks whose files are here; for each of the others, why it is left alone."""
    known: dict[tuple[object, ...], int] = {}
    comments = sheet.marked.comments
    for located in located_face_rules(sheet.marked.text, sheet.marked.meaning_of):
        rule, start = located.rule, located.start
        if (marked is not None and marked[0] <= start < marked[1]) or _is_inside(comments, start):
            continue
        face = defined_face(rule, str(sheet.path))
        name = f"@font-face {face.family}" if face is not None else "@font-face"
        where = f"{printable(str(sheet.path))}:{rule.line}"
        file, reason = _file_of(rule, sheet.path) if face is not None else (None, "it names no family or source")
        if located.depth:
            file, reason = None, "it is inside another rule"
        key = (face.family, face.weight, face.style, face.width) if face is not None else ()
        if face is not None and file is not None and key in known:
            file, reason = None, f"the rule in line {known[key]} is for the same face"
        if face is None or file is None:
            yield Notice(where, f"{name}: {reason}, so the rule stays as it is")
            continue
        known[key] = rule.line
        yield _Taken(face, file, (start, located.end))


def _is_inside(spans: Sequence[tuple[int, int]], position: int) -> bool:
    """Whether a place is inside one of these spans, which are in order."""
    index = bisect_right(spans, (position, sys.maxsize)) - 1
    return index >= 0 and position < spans[index][1]


def _file_of(rule: FaceRule, sheet: Path) -> tuple[Path | None, str]:
    """The font file for a rule, or the reason why there is none."""
    urls = [source.url for source in rule.sources if source.url]
    if not urls:
        return None, "it names installed fonts only"
    by_suffix: dict[str, Path] = {}
    for url in urls:
        if not is_path(url) or url.startswith("data:"):
            continue
        path = unquote(urlsplit(url).path)
        bases = sheet.absolute().parents if path.startswith("/") else [sheet.parent]
        file = next((base / path.lstrip("/") for base in bases if is_file(base / path.lstrip("/"))), None)
        if file is not None:
            by_suffix.setdefault(file.suffix.lower(), Path(os.path.relpath(file)) if path.startswith("/") else file)
    for suffix in _SUFFIXES:
        if suffix in by_suffix:
            return by_suffix[suffix], ""
    if not any(is_path(url) for url in urls):
        return None, f"its font is hosted elsewhere ({urls[0][:60]})"
    return None, f"its file {urls[0][:60]} is not here"


def _built_rule(taken: _Taken, here: Path) -> BuiltRule:
    face = taken.face
    return BuiltRule(
        family=face.family,
        weight=(round(face.weight[0]), round(face.weight[1])),
        style=face.style,
        width=face.width[0],
        ranges=face.ranges,
        source=Path(os.path.relpath(taken.file.absolute(), here.absolute())).as_posix(),
    )


def _remembered(request: BuildRequest, sheet: KeptFile) -> list[BuiltRule]:
    """The content of rules that an earlier build replaced."""
    built = built_in(request.manifest_file)
    if built is None or not built.rules:
        raise RequestError(
            f"{printable(str(sheet.path))}: its rules are Aksara's already, and {request.manifest_file.name}, which "
            "lists their fonts, is missing; restore it, or name the fonts",
            parameter=_PARAMETER,
        )
    return list(built.rules)


def _families(rules: Sequence[BuiltRule], here: Path) -> tuple[list[FamilyRequest], list[Notice]]:
    """A request for each family, in the order of the rules. A file that stands for several faces of one style stands
    for all weights between them."""
    notices: list[Notice] = []
    by_family: dict[str, dict[Path, FaceOverride]] = {}
    for rule in rules:
        # A manifest may come from anywhere; what it names is read as a font, and no more.
        path = Path(os.path.normpath(here / rule.source))
        faces = by_family.setdefault(rule.family, {})
        override = FaceOverride(str(path), rule.weight, rule.style, rule.width, _characters(rule.ranges))
        if (other := faces.get(path)) is not None:
            if (other.style, other.width) != (override.style, override.width):
                text = f"{rule.family}: {path.name} serves several styles; only the first is made"
                notices.append(Notice(printable(str(path)), text))
                continue
            ends = [*_ends(other), *_ends(override)]
            override = replace(override, weight=(min(ends), max(ends)))
        faces[path] = override
    return [
        FamilyRequest(fonts=tuple(faces), name=name, overrides=tuple(faces.values()))
        for name, faces in by_family.items()
    ], notices


def _ends(override: FaceOverride) -> tuple[int, ...]:
    return override.weights or ()


def _characters(ranges: Sequence[tuple[int, int]]) -> frozenset[int] | None:
    """The code points of some ranges, which may overlap; None for all, where there are no ranges."""
    if not ranges:
        return None
    codes: set[int] = set()
    reached = -1
    for first, last in sorted(ranges):
        codes.update(range(max(first, reached + 1), min(last, _LAST_CODE) + 1))
        reached = max(reached, min(last, _LAST_CODE))
    return frozenset(codes)


def _behind_line_end(text: str, position: int) -> int:
    """The position behind the line end of a removed rule."""
    return next((position + len(end) for end in ("\r\n", "\r", "\n") if text.startswith(end, position)), position)

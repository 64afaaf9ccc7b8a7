"""A first `aksara.toml`, from the fonts, the pages, and the languages that the pages declare."""

from __future__ import annotations

import os
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from aksara.errors import InputError, RequestError
from aksara.faces import Face, generic_family, identify, sort_into_families
from aksara.font import open_fonts
from aksara.limits import MAX_PAGE_SIZE
from aksara.phrases import listed
from aksara.project.draft_pairs import DraftFamily, DraftSite, Pairs, site_in, with_replaced
from aksara.project.schema import SCHEMA_FILE
from aksara.site.access.decoding import decode_page
from aksara.site.tree import languages_of
from aksara.sources import (
    PROJECT_NAME,
    SourceFile,
    common_folder,
    expand,
    find_sources,
    is_file,
    is_folder,
    read_file,
    resolved,
)
from aksara.text import find_language
from aksara.toml_text import toml_value

_PAGES = (".html", ".htm", ".xhtml")
#: Pages that are read for their languages; that is enough.
_ENOUGH_PAGES = 500
#: Where to read on, and faces of a family that a comment names.
_ALL_KEYS, _NAMED_FACES = "# All keys are explained in docs/project-file.md of Aksara.", 6


class Draft(Struct, frozen=True):
    """The text of a drafted project file, and what it is based on. `skipped` lists unusable fonts with the reason;
    `others` are families that pages ask for and that none of these fonts seems to be for."""

    text: str
    families: tuple[DraftFamily, ...]
    pages: tuple[Path, ...]
    languages: tuple[str, ...]
    skipped: tuple[str, ...]
    others: tuple[str, ...] = ()
    #: Where there are no pages.
    templates: tuple[Path, ...] = ()


def draft_project(paths: Sequence[Path], base: Path) -> Draft:
    """Look at these paths (fonts, folders, ZIPs, pages) and write down a build of them, to stand in the folder `base`.

    Raises `InputError` if there are no fonts that can be used, `RequestError` for a path that does not exist.
    """
    given = list(paths) or [base]
    pages = [path for path in given if path.suffix.lower() in _PAGES and is_file(path)]
    site = site_in([path for path in given if is_folder(path)], pages)
    fonts = [path for path in given if path not in pages]
    families, skipped = _families(find_sources(fonts or [base]).fonts, base)
    if not families:
        raise InputError("none of the fonts here can be used:\n  " + "\n  ".join(skipped))
    languages = _languages(site.pages)
    pairs = with_replaced(families, site)
    text = _text(pairs, site, base)
    return Draft(text, pairs.families, site.pages, tuple(languages), tuple(skipped), pairs.others, site.templates)


def _languages(pages: Sequence[Path]) -> list[str]:
    """The language tags that pages declare, the most frequent first; invalid ones are skipped."""
    count: Counter[str] = Counter()
    for page in pages[:_ENOUGH_PAGES]:
        with suppress(InputError):  # a build will report it; a draft is none the worse
            count.update(languages_of(decode_page(read_file(page, limit=MAX_PAGE_SIZE))))
    known: Counter[str] = Counter()
    for tag, times in count.items():
        try:
            known[find_language(tag).tag] += times
        except RequestError:
            continue
    return sorted(known, key=lambda tag: (-known[tag], tag))


def _families(files: Sequence[SourceFile], base: Path) -> tuple[list[DraftFamily], list[str]]:
    """The fonts sorted into families, as a build would; families that come in one file stay together."""
    faces: list[Face] = []
    sources: list[Path] = []
    kinds: list[str] = []
    skipped: list[str] = []
    for file in files:
        try:
            for font in open_fonts(file):
                font.require_supported()
                faces.append(identify(font))
                kinds.append(generic_family(font))
                sources.append(file.path)
        except InputError as problem:
            skipped.append(str(problem))
    generics: dict[str, str] = {}
    members: dict[str, set[Path]] = defaultdict(set)
    labels: dict[str, list[Face]] = defaultdict(list)
    for face, source, kind in zip(sort_into_families(faces), sources, kinds, strict=True):
        members[face.family].add(source)
        generics.setdefault(face.family, kind)
        labels[face.family].append(face)
    groups: dict[frozenset[Path], list[str]] = defaultdict(list)
    for name, paths in members.items():
        sharing = {path for other in members.values() if other & paths for path in other}
        groups[frozenset(sharing)].append(name)
    result = []
    for paths_of, names in sorted(groups.items(), key=lambda group: sorted(group[1])):
        shown = [face.label for name in sorted(names) for face in sorted(labels[name], key=lambda face: face.sort_key)]
        result.append(
            DraftFamily(
                tuple(sorted(names)),
                tuple(_patterns(paths_of, base)),
                tuple(dict.fromkeys(shown)),
                generics.get(sorted(names)[0], ""),
            )
        )
    return result, skipped


def _patterns(paths: Iterable[Path], base: Path) -> list[str]:
    """One pattern that means just these files, if there is one, else their paths."""
    files = sorted(paths)
    names = [_relative(path, base) for path in files]
    if len(files) > 1 and len({path.parent for path in files}) == 1:
        stem = _common_start([path.name for path in files])
        stem = stem[: stem.rfind("-") + 1] or stem
        suffixes = {path.suffix for path in files}
        tail = f"*{suffixes.pop()}" if len(suffixes) == 1 else "*"
        pattern = _relative(files[0].parent / f"{re.sub(r'[*?[]', '?', stem)}{tail}", base)
        if [resolved(path) for path in expand(pattern, base)] == [resolved(path) for path in files]:
            return [pattern]
    return names


def _common_start(names: Sequence[str]) -> str:
    first, last = min(names), max(names)
    return first[: next((i for i, (a, b) in enumerate(zip(first, last, strict=False)) if a != b), len(first))]


def _relative(path: Path, base: Path) -> str:
    return Path(os.path.relpath(path.absolute(), base.absolute())).as_posix()


def _text(pairs: Pairs, site: DraftSite, base: Path) -> str:
    families, pages = pairs.families, site.pages
    folder = _relative(common, base) if (common := common_folder(page.absolute() for page in pages)) else "."
    inside = "" if folder == "." else f"{folder}/"
    patterns = [f"{inside}**/*{suffix}" for suffix in _PAGES if any(p.suffix.lower() == suffix for p in pages)]
    # Templates are read with the files beside them; pages state their languages themselves.
    patterns += [_relative(place, base) for place in site.folders]
    values_of_site = {"pages": toml_value(patterns)} if patterns else {}
    head = f"# {PROJECT_NAME}: how aksara build makes the web fonts. Paths count from this folder.\n{_ALL_KEYS}"
    parts = [_schema_line(base) + head]
    parts += [_table("[site]", values_of_site)] if values_of_site else []
    parts.append(_table("[output]", {"folder": toml_value(f"{inside}web-fonts")}))
    for family in (family for family in families if not family.unasked):
        values = {"name": toml_value(family.names[0])} if len(family.names) == 1 else {}
        values["fonts"] = toml_value(list(family.patterns))
        if family.replaces:
            values["replaces"] = toml_value(list(family.replaces))
        parts.append(_table(f"# {', '.join(family.names)}: {_faces(family)}\n[[family]]", values))
    if pairs.others:
        example = toml_value([f"{pairs.others[0]}={families[0].names[0]}"])
        others = listed(pairs.others, _NAMED_FACES)
        parts.append(
            f"# Pages also ask for {others}; where a family here stands for it, add to its table:\n"
            f"# replaces = {example}"
        )
    if left_out := [
        f"# {', '.join(family.names)}: {', '.join(family.patterns)}" for family in families if family.unasked
    ]:
        parts.append("\n".join(["# No page asks for these; tables like those above would make them:", *left_out]))
    return "\n\n".join(parts) + "\n"


def _schema_line(base: Path) -> str:
    """The line by which editors find the schema, where it is inside the project: elsewhere it would not be on another
    computer."""
    schema = SCHEMA_FILE.resolve()
    inside = resolved(base)
    return f"#:schema ./{schema.relative_to(inside).as_posix()}\n" if schema.is_relative_to(inside) else ""


def _faces(family: DraftFamily) -> str:
    return listed(family.faces, _NAMED_FACES)


def _table(header: str, values: dict[str, str]) -> str:
    return "\n".join([header, *(f"{name} = {value}" for name, value in values.items())])

"""Many families in one folder: fonts and texts are sorted, and each family becomes a request of its own."""

from __future__ import annotations

import os
from collections import Counter, defaultdict
from collections.abc import Callable, Collection, Mapping, Sequence
from hashlib import sha256
from pathlib import Path, PurePath

from msgspec import Struct
from msgspec.json import encode
from msgspec.structs import replace

from aksara.errors import InputError, without_frames
from aksara.faces import Face, group_by_family, identify
from aksara.font import open_fonts
from aksara.notices import Notice
from aksara.parsed_tables import ParsedTables
from aksara.pipeline import BuildRequest
from aksara.pipeline.characters import resolve_characters
from aksara.pipeline.planning.licences import licence_texts
from aksara.pipeline.planning.reading import check_overrides, sources_of
from aksara.sources import SourceFile
from aksara.web.syntax import slug

#: Families that one build makes at most: no style sheet needs more, and each takes memory until all are made.
MOST_TOGETHER = 50


class FamilyApart(Struct, frozen=True):
    """A family, and the request for it alone: its fonts, the texts that go with them, and a folder of its own."""

    name: str
    request: BuildRequest

    @property
    def key(self) -> str:
        """A text for all that is asked: the same for the same request, at any time."""
        # Paths may be any bytes.
        return encode(self.request, enc_hook=os.fsencode, order="deterministic").decode()


class FamiliesApart(Struct, frozen=True):
    """Families, ordered by their names, the problems of fonts that cannot be used, and notices about files and folders
    that cannot be read."""

    families: tuple[FamilyApart, ...]
    problems: tuple[InputError, ...]
    notices: tuple[Notice, ...]


def is_about_all(request: BuildRequest) -> bool:
    """Whether something is asked that only one build of all families can do: one file at a certain place, one name,
    what a site needs, a certain face."""
    family = request.families[0] if len(request.families) == 1 else None
    of_places = (request.css, request.css_into, request.rules, request.manifest, request.archive, request.addresses)
    is_placed = any(place is not None for place in of_places) or request.proof not in (None, "none")
    of_site = request.characters.has_site or request.linking_pages or request.links or request.replacements
    return bool(
        family is None
        or family.name is not None
        or family.replaces
        or is_placed
        or of_site
        or request.project is not None
        or request.templates
        or request.preload
    )


def separate_families(
    request: BuildRequest, on_fonts: Callable[[int], None] = lambda _: None, *, most: int = MOST_TOGETHER
) -> FamiliesApart | None:
    """The families of a request that has more than `most`; None where it has fewer, or `is_about_all`.

    `on_fonts` is told how many fonts there are before they are read, which takes its time.

    Raises what looking at the paths raises (see `find_sources`), and `RequestError` for what no family could be built
    with, such as a text that is missing. Fonts are read one after the other, and not kept.
    """
    if is_about_all(request):
        return None
    sources = sources_of(request.families[0], request)
    if len(sources.fonts) <= most:
        return None
    on_fonts(len(sources.fonts))
    files, problems = _files_by_family(sources.fonts)
    if len(files) <= most:
        return None
    # What is wrong for all of them is an error now, and not once for each.
    check_overrides(request, [_name_of(file) for fonts in files.values() for file in fonts])
    resolve_characters(request.characters, None)
    licence_texts((), request.published_licences, request.within)
    texts = _texts_by_family((*sources.licences, *sources.sheets, *sources.texts), files)
    families = tuple(
        FamilyApart(name, _alone(request, files[name], texts[name], folder))
        for name, folder in zip(files, _folder_names(files), strict=True)
    )
    return FamiliesApart(families, tuple(problems), sources.notices)


def _files_by_family(files: Sequence[SourceFile]) -> tuple[dict[str, tuple[SourceFile, ...]], list[InputError]]:
    """The fonts of each family, in the order of their names; and why others cannot be read."""
    faces: list[Face] = []
    of_path: dict[str, SourceFile] = {}
    problems: list[InputError] = []
    for file in files:
        try:
            fonts = open_fonts(file, ParsedTables())
            found = [identify(font) for font in fonts]
        except InputError as problem:
            problems.append(without_frames(problem))
            continue
        faces += found
        for number, face in enumerate(found, 1):
            of_path[face.path] = replace(file, number=number) if len(found) > 1 else file
    grouped = group_by_family(faces)
    names = sorted(grouped, key=lambda name: (name.casefold(), name))
    return {name: tuple(of_path[face.path] for face in grouped[name]) for name in names}, problems


def _texts_by_family(
    texts: Sequence[SourceFile], files: Mapping[str, Sequence[SourceFile]]
) -> dict[str, tuple[SourceFile, ...]]:
    """The texts that go with the fonts of each family.

    A text is about all that is in its folder and below; where there are no fonts, in the first folder above that has
    some. So each order keeps its own licence, and one beside all of them holds for all. Only a folder of documents that
    lies beside more families than an order has says of none of them that it is meant.
    """
    families_in: dict[PurePath, set[str]] = defaultdict(set)
    for name, fonts in files.items():
        for font in fonts:
            for folder in _place_of(font).parents:
                families_in[folder].add(name)
    found: dict[str, list[SourceFile]] = {name: [] for name in files}
    for text in texts:
        folders = _place_of(text).parents
        nearest = next((folder for folder in folders if folder in families_in), None)
        if nearest is not None and (nearest == folders[0] or len(families_in[nearest]) <= MOST_TOGETHER):
            for name in families_in[nearest]:
                found[name].append(text)
    return {name: tuple(own) for name, own in found.items()}


def _place_of(file: SourceFile) -> PurePath:
    """Where a file is, in a ZIP as if this were a folder."""
    path = file.path.absolute()
    return path / file.member.replace("\\", "/").lstrip("/") if file.member is not None else path


def _folder_names(names: Collection[str]) -> list[str]:
    """A folder's name for each family, "penyu-sans", each once. Where letters do not tell, as of names in Chinese, a
    hash of the name does: so that no family moves when another comes."""
    plain = [slug(name).lower() for name in names]
    count = Counter(plain)
    return [
        folder
        if folder and count[folder] == 1
        else f"{folder or 'family'}-{sha256(name.encode(errors='replace')).hexdigest()[:6]}"
        for name, folder in zip(names, plain, strict=True)
    ]


def _alone(
    request: BuildRequest, files: Sequence[SourceFile], texts: Sequence[SourceFile], folder: str
) -> BuildRequest:
    """The request for these fonts, with these texts, in a folder of that name."""
    (family,) = request.families
    # A folder that is for fonts by its name has no other folder of that kind in it.
    fonts = Path() if request.fonts is None and request.fonts_folder == request.folder else request.fonts
    names = [_name_of(file) for file in files]
    family = replace(
        family,
        fonts=tuple(file.as_path for file in files),
        texts=tuple(text.as_path for text in texts),
        overrides=tuple(override for override in family.overrides if any(map(override.matches, names))),
    )
    return replace(request, families=(family,), folder=request.folder / folder, fonts=fonts)


def _name_of(file: SourceFile) -> str:
    """What a font is called that is read from there."""
    return file.name if file.number is None else f"{file.name}#{file.number}"

"""Candidates: the families among some fonts, and the result of each on the page."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import AksaraError, EmbeddingNotPermitted, InputError
from aksara.faces import Face, WebLicence, identify, sort_into_families
from aksara.font import open_fonts
from aksara.pipeline import BuildRequest, CharacterRequest, FamilyRequest, make_plan, run
from aksara.sources import find_sources, reading_once
from aksara.trying.present import TriedPage
from aksara.web.css import range_value, style_value
from aksara.web.font_matching import DesiredFace, best_match, synthesis
from aksara.web.model import WebFace
from aksara.web.syntax import GENERIC_FAMILIES


class CandidateFonts(Struct, frozen=True):
    """The fonts of one family, as paths that find them again; `problem` is why they cannot be tried, or ""."""

    name: str
    paths: tuple[Path, ...]
    problem: str = ""


class CandidateFace(Struct, frozen=True):
    """A face that was made: what `@font-face` says of it, and its WOFF2."""

    label: str
    weight: str
    style: str
    stretch: str
    unicode_range: str
    file: str
    data: bytes


class Candidate(Struct, frozen=True, kw_only=True):
    """A family on the page: its size, what it lacks, and its licence."""

    fonts: CandidateFonts
    faces: tuple[CandidateFace, ...] = ()
    stack: tuple[str, ...] = ()
    #: Bytes of the WOFF2 files that the page fetches.
    size: int = 0
    #: Characters of the text that it does not have, in order.
    missing: str = ""
    #: Weights and styles that browsers make up, as "Bold Italic (slanted)".
    faked: tuple[str, ...] = ()
    #: What the fonts say of embedding, and the licence texts beside them.
    licence: str = ""
    #: The system family that stands in until it has come, and by how much lines are wider or narrower, in percent.
    fallback: str = ""
    line_difference: float = 0.0
    #: Whether its own name can be set in it: it has the letters.
    has_own_name: bool = False
    #: Why it cannot be shown.
    problem: str = ""

    @property
    def name(self) -> str:
        """The family."""
        return self.fonts.name


@reading_once()
def find_candidates(paths: Sequence[Path]) -> list[CandidateFonts]:
    """The families among the fonts at these paths, by their names; then files that cannot be read, each with why.

    Raises `RequestError` for a path that does not exist, `InputError` where there are no fonts.
    """
    faces: list[tuple[Face, Path]] = []
    damaged: list[CandidateFonts] = []
    for file in find_sources(paths).fonts:
        try:
            fonts = open_fonts(file)
            for index, font in enumerate(fonts):
                font.require_supported()
                member = replace(file, number=index + 1) if len(fonts) > 1 else file
                faces.append((identify(font), member.as_path))
        except InputError as error:
            damaged.append(CandidateFonts(file.name, (), str(error)))
    families: dict[str, dict[Path, None]] = {}
    sorted_faces = sort_into_families([face for face, _ in faces])
    for face, (_, path) in zip(sorted_faces, faces, strict=True):
        families.setdefault(face.family, {}).setdefault(path)
    candidates = [CandidateFonts(name, tuple(own)) for name, own in families.items()]
    return [*sorted(candidates, key=lambda fonts: (fonts.name.casefold(), fonts.name)), *damaged]


def make_candidate(fonts: CandidateFonts, page: TriedPage, licence: WebLicence | None = None) -> Candidate:
    """The family as the page would have it, really built. What forbids it is in the result."""
    if fonts.problem:
        return Candidate(fonts=fonts, problem=fonts.problem)
    try:
        return _built(fonts, page, licence or WebLicence())
    except EmbeddingNotPermitted as error:
        return Candidate(fonts=fonts, problem=_in_a_line(error.problem), licence="web use is forbidden by the font")
    except AksaraError as error:
        return Candidate(fonts=fonts, problem=_in_a_line(getattr(error, "problem", str(error))))


def _in_a_line(problem: str) -> str:
    return " ".join(problem.split())


def _built(fonts: CandidateFonts, page: TriedPage, licence: WebLicence) -> Candidate:
    plan = make_plan(
        BuildRequest(
            families=(_family_request(fonts, page),),
            characters=_characters(page),
            formats=("woff2",),
            effort="fast",
            proof="none",
            licence=licence,
            jobs=1,
        )
    )
    build = run(plan)
    (family,) = build.families
    if family.pictures:
        return Candidate(fonts=fonts, problem=f"draws {family.pictures}, no text")
    faces = _used(family.faces, page)
    shown = {ord(character) for character in page.text}
    had = {code for face in faces for code in face.characters} | {0x20}
    fallback = max(family.fallbacks, key=lambda face: face.difference, default=None)
    texts = [Path(file.source).name for file in plan.licences.files]
    words = dict.fromkeys(face.permission for face in faces if face.permission)
    return Candidate(
        fonts=fonts,
        faces=tuple(map(_face, faces)),
        stack=family.stack,
        size=sum(face.best_size for face in faces),
        missing="".join(sorted(character for character in map(chr, shown - had) if character.isprintable())),
        faked=tuple(_faked(family.missing_faces, page)),
        licence="; ".join([*words, *texts[:2]]),
        fallback=fallback.on if fallback is not None else "",
        has_own_name={ord(letter) for letter in fonts.name} <= had,
        line_difference=round(100 * fallback.difference, 1) if fallback is not None else 0.0,
    )


def _used(faces: Sequence[WebFace], page: TriedPage) -> list[WebFace]:
    """The faces that browsers would take for the text that is meant; for a text alone, all."""
    if not page.uses:
        return list(faces)
    matches = [best_match([web.face for web in faces], use) for use in page.uses]
    return [web for web in faces if any(web.face is match for match in matches)]


def _is_read_face_by_face(page: TriedPage) -> bool:
    """Whether the page itself can say what each face needs: it is a file, and names the families."""
    return page.path is not None and not GENERIC_FAMILIES.intersection(page.replaced)


def _family_request(fonts: CandidateFonts, page: TriedPage) -> FamilyRequest:
    by_page = _is_read_face_by_face(page)
    return FamilyRequest(
        fonts=fonts.paths,
        name=fonts.name,
        slices="none",
        replaces=page.replaced if by_page else (),
        uses=() if by_page else page.uses,
    )


def _characters(page: TriedPage) -> CharacterRequest:
    if page.path is not None and _is_read_face_by_face(page):
        return CharacterRequest(pages=(page.path,))
    return CharacterRequest(texts=(page.text + page.letters,))


def _face(face: WebFace) -> CandidateFace:
    (part,) = face.slices
    return CandidateFace(
        label=face.face.label,
        weight=range_value(face.face.weight_range),
        style=style_value(face.face),
        stretch=range_value(face.face.width_range, "%"),
        unicode_range=part.unicode_range,
        file=part.files[0].name,
        data=part.files[0].data,
    )


def _faked(missing: Sequence[tuple[DesiredFace, Face]], page: TriedPage) -> Iterator[str]:
    """What browsers make up for the text that is meant; the page may ask the family for more."""
    words = {"slants": "slanted", "thickens": "thickened"}
    for desired, nearest in missing:
        if page.uses and desired not in page.uses:
            continue
        if made := " and ".join(words[verb] for verb in synthesis(desired, nearest)):
            yield f"{desired.label} ({made})"

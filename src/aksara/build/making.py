"""Making the files of one face: subset, press, verify, name."""

from __future__ import annotations

from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass, replace

from aksara.build.plan import FacePlan
from aksara.build.pressing import press
from aksara.build.request import BuildRequest
from aksara.build.verify import verify
from aksara.container import add_metadata
from aksara.faces import feature_name, web_metadata
from aksara.font import Font
from aksara.subsetting import Dropped, Options, Subset, subset
from aksara.text import bridged, covered_languages, find_language, format_intervals
from aksara.web.model import WHOLE, FeatureCost, WebFace, WebFile, WebSlice, file_name
from aksara.web.urls import font_url

#: How much larger the WOFF metadata may make a file.
_METADATA_SHARE = 1.05
#: Languages that a comment names; more are counted.
_NAMED = 4
# Kinds of font that a browser may not draw though it knows the format (CSS Fonts 4, section 11.1, "tech()").
_TECHNOLOGIES = (
    ("fvar", "variations"), ("SVG ", "color-SVG"), ("sbix", "color-sbix"), ("CBDT", "color-CBDT")
)  # fmt: skip


@dataclass(slots=True, frozen=True)
class Made:
    """A face with its files, what was odd about it, and the tables that were left out."""

    web: WebFace
    warnings: list[dict[str, str]]
    dropped: tuple[Dropped, ...]


def make_face(plan: FacePlan, request: BuildRequest, known: Set[int], step: Callable[[str], None]) -> Made:
    """All formats of a face. `known` are the characters that any font of its family has; `step` is told each file."""
    font = plan.font
    cut = subset(font, plan.characters, Options(features=plan.request.features, hints=plan.request.hints, costs=True))
    metadata = web_metadata(font, request.licence)
    had = len(font.characters)
    # A face's tables in parsed form take many times their bytes, and all faces of the build stay in memory.
    font.forget()
    files: list[WebFile] = []
    for form in request.formats:
        pressed, data = press(cut.variants, form, request.effort)
        verify(data, pressed)
        with_notes = add_metadata(data, metadata)
        # Not at the price of a noticeably larger file, unless it names who may use the font.
        if request.licence.holder or len(with_notes) <= len(data) * _METADATA_SHARE:
            data = with_notes
        name = file_name(plan.face, form, data)
        files.append(WebFile(name, form, data))
        step(name)
    files = [
        replace(file, url=font_url(request.url, request.css_file, request.fonts_folder / file.name)) for file in files
    ]
    characters = frozenset(cut.characters)
    languages = [language.tag for language in covered_languages(characters)]
    web = WebFace(
        plan.face,
        font.size,
        had,
        (WebSlice(WHOLE, characters, format_intervals(bridged(characters, known)), tuple(files)),),
        font.flavour,
        plan.permission.words,
        tuple(sorted(cut.features | ({"kern"} if "kern" in cut.font else set()))),
        _costs(cut, files),
        tuple(languages),
        _described(languages, request.wanted.languages),
        plan.local,
        technologies_of(font),
        plan.metrics.lines,
        plan.metrics.windows_lines,
    )
    return Made(web, [{"path": font.path, "message": text} for text in cut.warnings], cut.dropped)


def _costs(cut: Subset, files: Sequence[WebFile]) -> tuple[FeatureCost, ...]:
    """What the features that were left out would cost in the first of the files: as much as the rest, packed."""
    share = len(files[0].data) / sum(cut.font.sizes().values()) if files else 1.0
    return tuple(
        FeatureCost(each.tag, feature_name(each.tag), each.glyphs, round(each.size * share)) for each in cut.left_out
    )


def _described(covered: Sequence[str], asked: Sequence[str]) -> str:
    """The languages that were asked for and are there, by name; else how many there are."""
    wanted = [language for language in map(find_language, asked) if language.tag in covered]
    names = [language.name for language in wanted]
    if names:
        return (
            ", ".join(names) if len(names) <= _NAMED else f"{', '.join(names[:_NAMED])} and {len(names) - _NAMED} more"
        )
    return f"{len(covered)} languages" if len(covered) > 1 and not asked else ""


def technologies_of(font: Font) -> tuple[str, ...]:
    """What a browser must know to draw the font, besides its format."""
    found = [technology for tag, technology in _TECHNOLOGIES if tag in font]
    if "COLR" in font:
        found.append("color-COLRv1" if font.raw("COLR")[:2] == b"\0\1" else "color-COLRv0")
    return tuple(found)

"""Faces for the style sheet: the files that were made, with names, URLs and Unicode ranges."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping, Sequence, Set
from types import MappingProxyType

from msgspec.structs import replace

from aksara.faces import feature_name
from aksara.pipeline.making.font_files import FontFiles
from aksara.pipeline.planning.planned import FacePart, FacePlan
from aksara.pipeline.request import BuildRequest
from aksara.text import bridged, covered_languages, find_language, format_intervals
from aksara.web.formats import WebFormat
from aksara.web.model import FeatureCost, WebFace, WebFile, WebSlice, file_name
from aksara.web.urls import font_url

#: Languages that a comment names; more are counted.
_NAMED = 4
_SPACE = 0x20


def web_face(
    plan: FacePlan,
    made: Sequence[tuple[FacePart, FontFiles]],
    request: BuildRequest,
    *,
    known: Set[int],
    selected_languages: Sequence[str],
    shares: Mapping[str, float] = MappingProxyType({}),
) -> WebFace:
    """The face with the files that were made of each of its slices.

    `known` are the characters that any font of its family has, `selected_languages` the tags that were asked for,
    `shares` the part of page views that fetch a slice, by its name.
    """
    slices = []
    for (part, files), codes, claimed in zip(made, *_served(made), strict=True):
        slices.append(
            WebSlice(
                part.name,
                codes,
                format_intervals(bridged(claimed, known)),
                _web_files(plan, part.name, files, request),
                shares.get(part.name),
            )
        )
    first = made[0][1]
    languages = tuple(
        language.tag for language in covered_languages(frozenset().union(*(part.characters for part in slices)))
    )
    return WebFace(
        face=plan.face,
        source_size=plan.font.size,
        source_characters=len(plan.font.characters),
        slices=tuple(slices),
        flavour=first.flavour,
        permission=plan.permission.words,
        features=tuple(sorted(frozenset().union(*(files.features for _, files in made)))),
        omitted=_costs(first, slices[0].files),
        hint_size=sum(files.hint_size for _, files in made),
        languages=languages,
        described=_described(languages, selected_languages),
        local=plan.local,
        variation=plan.variation,
        technologies=tuple(dict.fromkeys(files.technology for _, files in made if files.technology)),
        lines=plan.metrics.lines,
        windows_lines=plan.metrics.windows_lines,
        sequences=tuple(sequence for sequence, is_one in plan.emoji.items() if is_one),
    )


def _served(
    made: Sequence[tuple[FacePart, FontFiles]],
) -> tuple[list[frozenset[int]], list[frozenset[int]]]:
    """The characters of each slice, and those that its rule claims."""
    # Of several slices none claims what another one has, though shaping may need it here, too.
    served = [
        files.characters if len(made) == 1 or part.characters is None else part.characters for part, files in made
    ]
    # Line height and baseline come from the first font whose range has the space, whether it has a glyph for it or not
    # (CSS Fonts 4, section 5.2, "first available font").
    spaced = next((index for index, codes in enumerate(served) if _SPACE in codes), 0)
    return served, [codes | {_SPACE} if index == spaced else codes for index, codes in enumerate(served)]


def _web_files(plan: FacePlan, part: str, files: FontFiles, request: BuildRequest) -> tuple[WebFile, ...]:
    """The files of a slice. Of one that stands in the style sheet as data the first format is enough for all browsers
    that fetch it; where there are to be no files, it is all."""
    made = [_web_file(plan, part, file.format, file.data, request) for file in files.files]
    first, *others = made
    if request.inline != "all" and len(first.data) > request.inline:
        return tuple(made)
    data = f"data:{first.media_type};base64,{b64encode(first.data).decode()}"
    return (replace(first, url=data, is_inline=True), *(() if request.inline == "all" else others))


def _web_file(plan: FacePlan, part: str, font_format: WebFormat, data: bytes, request: BuildRequest) -> WebFile:
    name = file_name(plan.face, part, font_format, data)
    address = request.addresses.known.get(name, "") if request.addresses is not None else ""
    url = address or font_url(request.url, request.css_file, request.fonts_folder / name)
    return WebFile(name, font_format, data, url)


def _costs(made: FontFiles, files: Sequence[WebFile]) -> tuple[FeatureCost, ...]:
    """The cost of the omitted features in the first format, at the compression ratio of the rest."""
    share = len(files[0].data) / made.table_size if files else 1.0
    return tuple(
        FeatureCost(omitted.tag, feature_name(omitted.tag), omitted.glyphs, round(omitted.size * share))
        for omitted in made.omitted
    )


def _described(covered: Sequence[str], asked: Sequence[str]) -> str:
    """The requested languages that the face covers, by name; otherwise how many it covers."""
    wanted = [language for language in map(find_language, asked) if language.tag in covered]
    names = [language.name for language in wanted]
    if names:
        return (
            ", ".join(names) if len(names) <= _NAMED else f"{', '.join(names[:_NAMED])} and {len(names) - _NAMED} more"
        )
    return f"{len(covered)} languages" if len(covered) > 1 and not asked else ""

"""The proof page: one HTML file in which people see what was made, and whether it is right.

Each part answers a question. The fonts are inside it unless they are large; then they lie beside it.
"""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct

from aksara.faces import FontAxis
from aksara.proof import characters, faking, rows
from aksara.proof.content import FamilyProof
from aksara.proof.lines import FittedLine, fitted
from aksara.proof.samples import can_set, opening, some_letters, texts_for
from aksara.sizes import format_saving, format_size
from aksara.text import coverage, find_language
from aksara.web.css import fallback_rules, property_names, range_value, style_value
from aksara.web.font_matching import DesiredFace, best_match
from aksara.web.model import WebFace, WebFamily, WebSlice, format_label
from aksara.web.palettes import palette_rule
from aksara.web.syntax import string

SIZES = (60, 36, 24, 18, 16, 13)
#: Bytes of fonts from which on they are not inside the page.
MOST_INSIDE = 2_000_000
#: Characters of a label of a chart.
_LABEL = 40
#: The widths of a heading and of a paragraph, in ems.
_HEADING, _PARAGRAPH = 18.0, 34.0


def proof_page(proofs: Sequence[FamilyProof], version: str, fonts: str = "fonts") -> bytes:
    """The page's HTML, in UTF-8. Names and texts are escaped; nothing is fetched from elsewhere.

    `fonts` is the path from the page to the folder of the fonts.
    """
    from aksara.proof.compiled import page_templates  # Jinja2 is a tenth of the imports of a build

    faces = [face for proof in proofs for face in proof.web.faces]
    is_whole = sum(len(part.files[0].data) for face in faces for part in face.slices) <= MOST_INSIDE
    names = [proof.web.name for proof in proofs]
    # Several faces may come from one font.
    numbers = {id(face): index for index, face in enumerate(faces)}.__getitem__
    environment = page_templates("aksara.proof")
    environment.filters.update(
        _FILTERS,
        font_url=_data_url if is_whole else lambda part: f"{fonts}/{part.files[0].name}",
        fitted=lambda proof: _fits(proof, numbers),
        number_of=lambda proof, face, _: next(numbers(id(web)) for web in proof.web.faces if web.face is face),
    )
    pieces = environment.get_template("proof.html").generate(
        proofs=proofs,
        numbers=numbers,
        faces=faces,
        formats=_formats(faces),
        version=version,
        sizes=SIZES,
        before=sum(face.source_size for face in faces),
        after=sum(face.best_size for face in faces),
        saving=format_saving,
        property=dict(zip(names, property_names(names), strict=True)).__getitem__,
        max_shown=characters.MAX_SHOWN,
        is_whole=is_whole,
    )
    # Encoded piece by piece: as one text the page would take four bytes for each character of the fonts in it.
    page = bytearray()
    for piece in pieces:
        page += piece.encode()
    return bytes(page)


class _Line(Struct, frozen=True, kw_only=True):
    """A line in both fonts: the number of the web face, weight and style of both."""

    text: str
    difference: float
    fits: bool
    number: int
    weight: int
    style: str
    heading: bool


class _Fit(Struct, frozen=True, kw_only=True):
    """A heading and a paragraph in a fallback family; `weight` is the heading's."""

    family: str
    on: str
    difference: float
    weight: int
    lines: tuple[_Line, ...]


def _fits(proof: FamilyProof, numbers: Callable[[int], int]) -> list[_Fit]:
    """A heading in the boldest face of the site's texts, and a paragraph, in each fallback family."""
    family = proof.web
    text_face = _face_for_text(family)
    bold = best_match([web.face for web in family.faces], DesiredFace(700))
    parts = [(next(web for web in family.faces if web.face is bold), _HEADING, True), (text_face, _PARAGRAPH, False)]
    lines_by_family: dict[str, list[_Line]] = {}
    on: dict[str, str] = {}
    for web, measure, heading in parts:
        face_index = next(face_index for face_index, face in enumerate(family.faces) if face is web)
        if face_index >= len(proof.widths):
            continue
        text = texts_for(web, proof.texts.get(face_index, ()), proof.languages)[0][1]
        for fitting in fitted(web, proof.widths[face_index], text, family.fallbacks, measure, proof.measured):
            on[fitting.family] = fitting.on
            lines_by_family.setdefault(fitting.family, []).extend(
                _line(line, web, numbers(id(web)), heading=heading) for line in fitting.lines[: 1 if heading else None]
            )
    return [
        _Fit(
            family=name,
            on=on[name],
            difference=sum(line.difference for line in lines) / len(lines),
            weight=bold.weight,
            lines=tuple(lines),
        )
        for name, lines in lines_by_family.items()
    ]


def _line(line: FittedLine, web: WebFace, face_index: int, *, heading: bool) -> _Line:
    return _Line(
        text=line.text,
        difference=line.difference,
        fits=line.fits,
        number=face_index,
        weight=web.face.weight,
        style=style_value(web.face),
        heading=heading,
    )


def _face_for_text(family: WebFamily) -> WebFace:
    """The face that running text is set in."""
    face = best_match([web.face for web in family.faces], DesiredFace())
    return next(web for web in family.faces if web.face is face)


def _texts(proof: FamilyProof, face_index: int) -> list[tuple[str, str]]:
    return texts_for(proof.web.faces[face_index], proof.texts.get(face_index, ()), proof.languages)


def _colour_sample(family: WebFamily, web: WebFace) -> str:
    """Icons and letters that show a palette."""
    icons = "".join(chr(code) if code is not None else name + " " for name, code in family.icons[:8])
    in_icons = {ord(letter) for name, _ in family.icons for letter in name}
    return icons + some_letters(web.characters - in_icons if icons else web.characters)[: 8 if icons else 16]


def _has_more_than_icons(web: WebFace, family: WebFamily) -> bool:
    """Whether it has letters that are no part of a name of an icon."""
    spelled = {ord(letter) for name, _ in family.icons for letter in name}
    icons = {code for _, code in family.icons}
    return any(code not in spelled and code not in icons and chr(code).isalpha() for code in web.characters)


def _characters_words(proof: FamilyProof) -> str:
    """A sentence or two about the content of the family."""
    codes = characters.characters_of(proof.web)
    words = [f"{len(codes):,} characters."]
    asked = [find_language(tag) for tag in proof.languages]
    if asked:
        whole = [language.name for language in asked if coverage(language, codes).verdict == "full"]
        if whole:
            words.append(f"All letters of {', '.join(whole)} are there.")
    if proof.counts:
        written = sum(code in proof.counts for code in codes)
        words.append(f"The site uses {written:,} of them, which are marked; the rest are for future text.")
    if not proof.lacking and proof.counts:
        words.append("No page shows one that does not exist.")
    return " ".join(words)


def _omitted(family: WebFamily) -> list[tuple[str, str, int, int]]:
    """Features that were left out: tag, name, glyphs and about how many bytes in all faces."""
    omitted: dict[str, tuple[str, int, int]] = {}
    for web in family.faces:
        for cost in web.omitted:
            name, glyphs, size = omitted.get(cost.tag, (cost.name, 0, 0))
            omitted[cost.tag] = name, max(glyphs, cost.glyphs), size + cost.size
    return [(tag, *rest) for tag, rest in sorted(omitted.items())]


def _name_style(web: WebFace, face_index: int) -> str:
    """The style of a face's name: set in the face itself, or in a similar system font if it lacks a letter."""
    if can_set(web, web.face.label):
        return f"font-family: proof-{face_index}"
    return f"font-family: system-ui; font-weight: {web.face.weight}; font-style: {style_value(web.face)}"


def _formats(faces: Sequence[WebFace]) -> list[str]:
    return list(dict.fromkeys(file.format for face in faces for file in face.files))


def _data_url(part: WebSlice) -> str:
    """The first format's file, inside the page."""
    file = part.files[0]
    kind = {"sfnt": "font/sfnt"}.get(file.format, f"font/{file.format}")
    return f"data:{kind};base64,{b64encode(file.data).decode()}"


def _ranges(face: WebFace) -> str:
    """The descriptors that let browsers use the whole range of the axes."""
    weights, widths = face.face.weight_range, face.face.width_range
    found = [f"font-weight: {range_value(weights)};"] if weights[0] < weights[1] else []
    return " ".join([*found, *([f"font-stretch: {range_value(widths, '%')};"] if widths[0] < widths[1] else [])])


def _css_words(web: WebFace) -> str:
    """The descriptors of the face in words: "300 800 normal"."""
    face = web.face
    words = [range_value(face.weight_range), style_value(face)]
    return " ".join([*words, *([range_value(face.width_range, "%")] if face.width_range != (100, 100) else [])])


def _slider_step(axis: FontAxis) -> float:
    """Whole numbers on a long axis, fractions on a short one."""
    span = axis.maximum - axis.minimum
    return 1 if span >= 20 else 0.1 if span >= 2 else 0.01


def _shortened(text: str) -> str:
    """A label with its end, which tells pages apart."""
    return text if len(text) <= _LABEL else f"…{text[-_LABEL + 1 :]}"


_FILTERS: Mapping[str, Callable[..., object]] = {
    "size": format_size,
    "label": format_label,
    "identity": id,
    "character": chr,
    "ranges": _ranges,
    "css_words": _css_words,
    "name_style": _name_style,
    "css_string": string,
    "slider_step": _slider_step,
    "palette_rule": lambda palette, family: palette_rule(family, palette),
    "fallback_rules": fallback_rules,
    "formats_of": lambda family: _formats(family.faces),
    "face_for_text": _face_for_text,
    "can_set": can_set,
    "opening": opening,
    "texts": _texts,
    "colour_sample": _colour_sample,
    "has_more_than_icons": _has_more_than_icons,
    "blocks": characters.blocks_of,
    "slices": characters.slices_of,
    "shown_as": characters.shown_as,
    "name_of": characters.name_of,
    "characters_words": _characters_words,
    "code_points": lambda text: " ".join(f"U+{ord(character):04X}" for character in text),
    "all_ranges": lambda web: ", ".join(part.unicode_range for part in web.slices),
    "omitted": _omitted,
    "language_names": lambda web: sorted(find_language(tag).name for tag in web.languages),
    "verdict": faking.verdict,
    "sample_of": faking.sample_of,
    "faked_from": faking.faked_from,
    "faked_style": faking.faked_style,
    "faked_words": faking.faked_words,
    "real_style": faking.real_style,
    "face_rows": rows.face_rows,
    "page_rows": rows.page_rows,
    "longest_face": rows.longest_face,
    "longest_page": rows.longest_page,
    "shortened": _shortened,
    "minus": lambda text: text.replace("-", "\u2212"),
}

"""The proof page: one HTML file that shows what was made, with the fonts inside it."""

from __future__ import annotations

import unicodedata
from base64 import b64encode
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jinja2 import Environment, PackageLoader, StrictUndefined

from aksara.faces import FontAxis
from aksara.sizes import format_saving, format_size
from aksara.text.blocks import by_block
from aksara.web.css import range_value, style_value
from aksara.web.model import WebFace, WebFamily, WebSlice, format_label
from aksara.web.palettes import palette_rule

#: Characters shown of one face; the page must stay usable for fonts of tens of thousands.
MAX_SHOWN = 3_000
#: Letters on a line of the largest size.
_LARGE_LINE = 28
#: Characters that stand for those of a slice.
_LETTERS = 60
SIZES = (60, 36, 24, 18, 16, 13)

# Sentences of our own; a face shows the first that it has all letters of.
_SAMPLES = (
    "The early boat leaves at 6:45 and waits for nobody.",
    "Η πρώτη βάρκα φεύγει νωρίς και δεν περιμένει κανέναν.",
    "Первый катер уходит рано утром и никого не ждёт.",
    "القارب الأول يبحر باكرا ولا ينتظر أحدا",
    "הסירה הראשונה יוצאת מוקדם ואינה מחכה לאיש",
    "पहली नाव सुबह जल्दी निकलती है",
    "ปลายฟ้าเรือลำแรกออกแต่เช้า",
)


@dataclass(slots=True, frozen=True)
class _Block:
    name: str
    characters: list[tuple[str, str, int | None]]
    total: int


@dataclass(slots=True, frozen=True)
class _Slice:
    """A slice of a family: of the faces that have it together; `letters` are some of it, `hue` its colour."""

    name: str
    share: float | None
    count: int
    size: int
    letters: str
    hue: int


def proof_page(families: Sequence[WebFamily], version: str) -> bytes:
    """The page's HTML, in UTF-8. Names are escaped; nothing is fetched from elsewhere."""
    environment = Environment(
        loader=PackageLoader("aksara.proof"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters.update(
        size=format_size,
        label=format_label,
        data_url=_data_url,
        blocks=_blocks,
        slices=_slices,
        slice_names=_names,
        sample=_sample,
        can_set=_can_set,
        opening=_opening,
        identity=id,
        ranges=_ranges,
        css_words=_css_words,
        slider_step=_slider_step,
        character=chr,
        icon_sample=_icon_sample,
        palette_rule=lambda palette, family: palette_rule(family, palette),
    )
    faces = [face for family in families for face in family.faces]
    before, after = sum(face.source_size for face in faces), sum(face.best_size for face in faces)
    pieces = environment.get_template("proof.html").generate(
        families=families,
        # Several faces may come from one font.
        numbers={id(face): number for number, face in enumerate(faces)}.__getitem__,
        faces=faces,
        formats=list(dict.fromkeys(file.format for face in faces for file in face.files)),
        version=version,
        sizes=SIZES,
        before=before,
        after=after,
        saving=format_saving,
        largest=max((face.source_size for face in faces), default=1),
        max_shown=MAX_SHOWN,
    )
    # Encoded piece by piece: as one text the page would take four bytes for each character of the fonts in it.
    page = bytearray()
    for piece in pieces:
        page += piece.encode()
    return bytes(page)


def _icon_sample(family: WebFamily) -> str:
    """The icons of a family, as text that shows them; "" for a family of letters."""
    return " ".join(chr(code) if code is not None else name for name, code in family.icons)


def _data_url(part: WebSlice) -> str:
    """The first format's file, inside the page."""
    file = part.files[0]
    kind = {"sfnt": "font/sfnt"}.get(file.format, f"font/{file.format}")
    return f"data:{kind};base64,{b64encode(file.data).decode()}"


def _ranges(face: WebFace) -> str:
    """The descriptors without which a browser would not go along the axes."""
    weights, widths = face.face.weight_range, face.face.width_range
    found = [f"font-weight: {range_value(weights)};"] if weights[0] < weights[1] else []
    return " ".join([*found, *([f"font-stretch: {range_value(widths, '%')};"] if widths[0] < widths[1] else [])])


def _css_words(web: WebFace) -> str:
    """What the rule says of the face: "300 800 normal"."""
    face = web.face
    words = [range_value(face.weight_range), style_value(face)]
    return " ".join([*words, *([range_value(face.width_range, "%")] if face.width_range != (100, 100) else [])])


def _slider_step(axis: FontAxis) -> float:
    """Whole numbers on a long axis, fractions on a short one."""
    span = axis.maximum - axis.minimum
    return 1 if span >= 20 else 0.1 if span >= 2 else 0.01


def _can_set(face: WebFace, text: str) -> bool:
    """Whether the face has all that can be seen of the text; else half of it would be in another font."""
    return all(ord(character) in face.characters for character in text if not character.isspace())


def _sample(face: WebFace) -> str:
    """A sentence that the face can set in full, else its own letters, else whatever it has."""
    for text in _SAMPLES:
        if _can_set(face, text):
            return text
    shown = [chr(code) for code in sorted(face.characters) if unicodedata.category(chr(code))[0] in "LNPS"]
    letters = [c for c in shown if c.isalpha()]
    return "".join((letters or shown)[:40])


def _opening(text: str) -> str:
    """As much of a sentence as fits on a line of large letters."""
    words = text.split()
    while len(words) > 1 and len(" ".join(words)) > _LARGE_LINE:
        words.pop()
    return " ".join(words)[:_LARGE_LINE]


def _blocks(face: WebFace, names: Sequence[str]) -> list[_Block]:
    """The characters that can be seen, by block, up to `MAX_SHOWN`; each with its code point and name, and the
    colour of its slice, one of `names`."""
    room, result = MAX_SHOWN, []
    cut = len(face.slices) > 1
    slice_of = {code: part.name for part in face.slices for code in part.characters} if cut else {}
    hues = dict(zip(names, _hues(len(names)), strict=True))
    for name, codes in by_block(face.characters).items():
        seen = [code for code in codes if unicodedata.category(chr(code))[0] not in "CZ"]
        shown = seen[: max(room, 0)]
        room -= len(shown)
        if seen:
            cells = [(_shown(code), _title(code, slice_of), hues.get(slice_of.get(code, ""))) for code in shown]
            result.append(_Block(name, cells, len(seen)))
    return result


def _title(code: int, slice_of: Mapping[int, str]) -> str:
    name = f"U+{code:04X} {unicodedata.name(chr(code), '').lower()}".strip()
    return f"{name}, in {slice_of[code]}" if code in slice_of else name


def _slices(family: WebFamily) -> list[_Slice]:
    """The slices of a family, in their order."""
    found = []
    names = _names(family)
    for name, hue in zip(names, _hues(len(names)), strict=True):
        parts = [part for web in family.faces for part in web.slices if part.name == name]
        codes = frozenset[int]().union(*(part.characters for part in parts))
        letters = [chr(code) for code in sorted(codes) if unicodedata.category(chr(code))[0] in "LNPS"]
        size = sum(part.best_size for part in parts)
        share = parts[0].share if parts else None
        found.append(_Slice(name, share, len(codes), size, "".join(letters[:_LETTERS]), hue))
    return found


def _names(family: WebFamily) -> Sequence[str]:
    """The names of a family's slices; none if it is not cut."""
    return family.cut.names if family.cut is not None else ()


def _hues(count: int) -> list[int]:
    """Angles on the colour wheel, neighbours far from each other."""
    return [number * 137 % 360 for number in range(count)]


def _shown(code: int) -> str:
    """The character; a combining mark sits on a dotted circle."""
    return ("\u25cc" if unicodedata.combining(chr(code)) else "") + chr(code)

"""SVG fonts read back, to see that what was written is what was meant."""

from __future__ import annotations

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring
from msgspec import Struct

from aksara.errors import FontError

_NAMESPACE = "{http://www.w3.org/2000/svg}"


class SvgFont(Struct, frozen=True):
    """The content of the document: attributes of `font-face`, text → (advance, path), (left, right) → kerning."""

    face: dict[str, str]
    glyphs: dict[str, tuple[float, str]]
    kerning: dict[tuple[str, str], float]


def read_svg_font(data: bytes) -> SvgFont:
    """The font in a document. Raises `FontError` if there is none."""
    try:
        font = fromstring(data.decode()).find(f"{_NAMESPACE}defs/{_NAMESPACE}font")
    except (ParseError, DefusedXmlException, UnicodeDecodeError) as error:
        raise FontError(f"an SVG font that is not valid XML ({error})") from error
    face = font.find(f"{_NAMESPACE}font-face") if font is not None else None
    if font is None or face is None:
        raise FontError("an SVG font without an element for its face")
    glyphs: dict[str, tuple[float, str]] = {}
    texts: dict[str, str] = {}
    for element in font.iter(f"{_NAMESPACE}glyph"):
        text = element.get("unicode", "")
        texts[element.get("glyph-name", "")] = text
        glyphs.setdefault(text, (float(element.get("horiz-adv-x", "nan")), element.get("d", "")))
    kerning = {}
    for element in font.iter(f"{_NAMESPACE}hkern"):
        for left in element.get("g1", "").split(","):
            for right in element.get("g2", "").split(","):
                kerning[texts[left], texts[right]] = float(element.get("k", "nan"))
    return SvgFont(dict(face.attrib), glyphs, kerning)

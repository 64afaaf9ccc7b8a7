"""`svg_font`: the document (SVG 1.1, chapter 20)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from xml.sax.saxutils import quoteattr

from msgspec import Struct

from aksara.faces import identify
from aksara.font import Font
from aksara.kerning import KerningPairs, kerning_of
from aksara.svg_fonts.paths import number, paths_of
from aksara.tables import OS2, Gsub, Head, Hhea, Hmtx, Name, Post
from aksara.tables.layout.gsub import LigatureSubstitution
from aksara.tables.name import COPYRIGHT, clean
from aksara.web.formats import FONT_ID

#: Features whose ligatures text has by itself.
_LIGATURES = frozenset({"liga", "clig", "ccmp", "rlig"})
#: Characters that XML cannot hold (XML 1.0, "Characters").
_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
_ONE = 0x10000


class SvgGlyph(Struct, frozen=True):
    """An element `glyph`: its name, the text that it is for, its advance and path."""

    name: str
    text: str
    glyph: int
    advance: int
    path: str


def can_stand_in_xml(text: str) -> bool:
    """Whether XML can hold a text: it has no form for most control characters, which fonts may map to empty glyphs."""
    return not _NOT_IN_XML.search(text)


def svg_font(font: Font) -> bytes:
    """The font as SVG, of a variable font its default.

    Raises `FontError` where an outline is damaged.
    """
    head, hhea, os2, post = font.table(Head), font.table(Hhea), font.find(OS2), font.find(Post)
    glyphs = _glyphs(font)
    missing_path = paths_of(font, [0])[0]
    advances = font.table(Hmtx).advances
    face = identify(font)
    attributes: dict[str, str] = {
        "font-family": face.family,
        "font-weight": str(face.weight),
        "font-style": face.style,
        "units-per-em": str(head.units_per_em),
        "ascent": str(hhea.ascender),
        "descent": str(hhea.descender),
        "bbox": f"{head.x_min} {head.y_min} {head.x_max} {head.y_max}",
    }
    if os2 is not None:
        attributes["panose-1"] = " ".join(map(str, os2.panose))
        for name, value in (("x-height", os2.x_height), ("cap-height", os2.cap_height)):
            if value:
                attributes[name] = str(value)
    if post is not None:
        header = post.header
        attributes["underline-position"] = str(header.underline_position)
        attributes["underline-thickness"] = str(header.underline_thickness)
        if header.italic_angle:
            attributes["slope"] = number(header.italic_angle / _ONE)
    lines = [
        '<?xml version="1.0" encoding="utf-8"?>',
        '<svg xmlns="http://www.w3.org/2000/svg" version="1.1">',
        *_metadata(font),
        f'<defs><font id="{FONT_ID}" horiz-adv-x="{advances[0]}">',
        f"<font-face{_attributes(attributes)}/>",
        f'<missing-glyph horiz-adv-x="{advances[0]}"{_path(missing_path)}/>',
        *map(_element, glyphs),
        *_kerning(glyphs, kerning_of(font, {glyph.glyph for glyph in glyphs})),
        "</font></defs>",
        "</svg>",
    ]
    return ("\n".join(lines) + "\n").encode()


def _metadata(font: Font) -> list[str]:
    table = font.find(Name)
    notice = clean(table.get(COPYRIGHT) or "") if table is not None else ""
    return [f"<metadata>{_escaped(notice)}</metadata>"] if notice else []


def _glyphs(font: Font) -> list[SvgGlyph]:
    """Ligatures first, longer ones before shorter ones: a browser takes the first that fits."""
    advances = font.table(Hmtx).advances
    texts = [(text, glyph) for text, glyph in _ligatures(font).items() if can_stand_in_xml(text)]
    texts.sort(key=lambda item: (-len(item[0]), item[0]))
    singles = [(chr(code), glyph) for code, glyph in sorted(font.characters.items())]
    listed = [*texts, *((text, glyph) for text, glyph in singles if can_stand_in_xml(text))]
    paths = paths_of(font, [glyph for _, glyph in listed])
    return [
        SvgGlyph("_".join(f"u{ord(character):x}" for character in text), text, glyph, int(advances[glyph]), path)
        for (text, glyph), path in zip(listed, paths, strict=True)
    ]


def _ligatures(font: Font) -> dict[str, int]:
    """Texts that form one glyph in any context."""
    gsub = font.find(Gsub)
    if gsub is None:
        return {}
    text_of: dict[int, str] = {}
    for code, glyph in sorted(font.characters.items()):
        text_of.setdefault(glyph, chr(code))
    glyphs_by_text: dict[str, int] = {}
    for lookup_index in sorted(gsub.lookups_of(_LIGATURES)):
        for subtable in gsub.lookups[lookup_index].subtables if lookup_index < len(gsub.lookups) else ():
            if isinstance(subtable, LigatureSubstitution):
                for first, rest, made in subtable.all():
                    texts = [text_of.get(glyph) for glyph in (first, *rest)]
                    if rest and all(texts):
                        glyphs_by_text.setdefault("".join(filter(None, texts)), made)
    return {text: glyph for text, glyph in glyphs_by_text.items() if glyph < font.num_glyphs}


def _element(glyph: SvgGlyph) -> str:
    unicode = _quoted(glyph.text)
    return f'<glyph glyph-name="{glyph.name}" unicode={unicode} horiz-adv-x="{glyph.advance}"{_path(glyph.path)}/>'


def _kerning(glyphs: list[SvgGlyph], pairs: KerningPairs) -> Iterator[str]:
    """The pairs, those of equal distance and partners together."""
    names: dict[int, list[str]] = {}
    for drawn in glyphs:
        names.setdefault(drawn.glyph, []).append(drawn.name)
    rows: dict[tuple[int, tuple[int, ...]], list[int]] = {}
    for left, row in sorted(pairs.items()):
        by_value: dict[int, list[int]] = {}
        for right, value in sorted(row.items()):
            by_value.setdefault(value, []).append(right)
        for value, listed in by_value.items():
            rows.setdefault((value, tuple(listed)), []).append(left)
    for (value, rights), lefts in rows.items():
        first = ",".join(name for glyph in lefts for name in names[glyph])
        second = ",".join(name for glyph in rights for name in names[glyph])
        # It counts how much closer they stand.
        yield f'<hkern g1="{first}" g2="{second}" k="{-value}"/>'


def _path(path: str) -> str:
    return f' d="{path}"' if path else ""


def _attributes(values: Mapping[str, str]) -> str:
    return "".join(f" {name}={_quoted(value)}" for name, value in values.items())


def _quoted(text: str) -> str:
    return quoteattr(_NOT_IN_XML.sub("", text), {"\n": "&#10;", "\r": "&#13;", "\t": "&#9;"})


def _escaped(text: str) -> str:
    return _NOT_IN_XML.sub("", text).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")

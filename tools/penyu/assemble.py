"""From drawings to fonts, by Aksara's own tables: Penyu Sans as TrueType, Penyu Slab with PostScript outlines."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from aksara.container import sfnt
from aksara.tables import Cmap, Glyf, Gpos, Head, Hhea, Hmtx, Kern, Maxp, Name, Post
from aksara.tables.base import Table
from aksara.tables.cmap import unicode_subtables
from aksara.tables.kern import KernPairs
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gpos import PAIR, GlyphPairs
from aksara.tables.layout.gpos.pair_formats import as_classes
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.tables.post import PostHeader
from aksara.truetype.components import ARGS_ARE_WORDS, ARGS_ARE_XY, MORE_COMPONENTS, Component, Composite
from aksara.truetype.points import Points, encode_simple
from penyu import accents, candidates, features, kerning, slab, variable
from penyu.capitals import CAPITALS
from penyu.currency import CURRENCIES
from penyu.design import CAP, STYLES, Drawing, Style, X
from penyu.figures import FIGURES
from penyu.lower import LOWER
from penyu.metadata import ASCENT, DESCENT, name_table, os2_table
from penyu.pen import Contour, SamePoints, bar, drawn_with
from penyu.postscript import make_cff
from penyu.signs import SIGNS

FAMILY = "Penyu Sans"
_GASP = bytes((0, 1, 0, 1, 0xFF, 0xFF, 0, 0x0F))
SECONDS_1904_TO_2026 = 3_849_984_000  # 2026-01-01, so that every run makes the same file
_ROUND_TO_GRID, _USE_MY_METRICS = 0x0004, 0x0200

ALPHABET = [chr(code) for code in (*range(0x20, 0x7F), *range(0xA0, 0x180), *range(0x1EA0, 0x1EFA))] + list(
    "ƠơƯưẞȘșȚț\u2002\u2003\u2009\u202f\u2010\u2011–—‘’‚“”„†‡•…‰′″‹›€₫₹→←↑↓↔−≠≤≥≈⁄ˆˇ˘˙˚˛˜˝"
)


class Glyphs(Struct):
    """Glyphs as they are collected: bytes come last, when all parts have numbers."""

    style: Style
    numbers: dict[str, int] = field(default_factory=dict)
    outlines: list[list[Contour]] = field(default_factory=list)
    parts: dict[int, list[tuple[int, int, int]]] = field(default_factory=dict)
    advances: list[int] = field(default_factory=list)
    drawings: dict[str, Drawing] = field(default_factory=dict)
    lefts: dict[str, float] = field(default_factory=dict)

    def add(self, name: str, contours: list[Contour], advance: float) -> int:
        self.numbers[name] = len(self.outlines)
        self.outlines.append(contours)
        self.advances.append(round(advance))
        return self.numbers[name]

    def add_parts(self, name: str, advance: float, parts: list[tuple[int, int, int]]) -> None:
        self.parts[self.add(name, [], advance)] = parts

    def set_in(self, name: str, drawing: Drawing) -> None:
        """Add a drawing at its place on the line."""
        contours, self.lefts[name], advance = _set_in(drawing)
        self.drawings[name] = drawing
        self.add(name, contours, advance)


def _notdef(s: Style) -> Drawing:
    t, w = s.h * 0.8, 480
    outer, inner = bar(0, 0, w, CAP), bar(t, t, w - t, CAP - t)
    return Drawing(s, w, 0.8, 0.8).add(outer, inner[::-1])


def _set_in(d: Drawing) -> tuple[list[Contour], float, float]:
    """The contours at their place on the line, slanted; the left space; the advance."""
    s = d.style
    left = d.left * s.side
    # The slant turns about half the height of the small letters, so that spacing stays even.
    shifted = [[(x + left + s.slant * (y - X / 2), y, on) for x, y, on in c] for c in d.contours]
    return shifted, left, left + d.width + d.right * s.side


Change = Callable[[str, Drawing], Drawing]


def _collect(s: Style, change: Change, change_mark: Change = lambda name, drawing: drawing) -> Glyphs:
    """All characters, each drawing changed by the family's own ways."""
    glyphs = Glyphs(s)
    contours, _, advance = _set_in(_notdef(s))
    glyphs.add(".notdef", contours, advance)
    drawings: dict[str, Drawing] = {}
    for source in (SIGNS, CURRENCIES, CAPITALS, LOWER, FIGURES):
        for character, draw in source.items():
            drawings[character] = draw(s)
    drawings[features.FRACTION] = features.slash(s)
    for character, base in accents.OVERLAID.items():
        d = drawings[base]
        drawings[character] = Drawing(
            s, d.width, d.left, d.right, [*d.contours, *(accents.overlaid(d, character) or [])]
        )
    for character in sorted(drawings):
        glyphs.set_in(character, change(character, drawings[character]))
    for mark in (*accents.ACCENTS, accents.APOSTROPHE_CARON, accents.COMMA_ABOVE):
        contours = [[(x + s.slant * (y - X / 2), y, on) for x, y, on in c] for c in accents.drawing(mark, s)]
        glyphs.add(mark, change_mark(mark, Drawing(s, 0, contours=contours)).contours, 0)
    for character in ALPHABET:
        if character not in glyphs.numbers:
            _compose(glyphs, character, glyphs.drawings, glyphs.lefts)
    return glyphs


def _compose(glyphs: Glyphs, character: str, drawings: dict[str, Drawing], lefts: dict[str, float]) -> None:
    s = glyphs.style
    if character in accents.SPACING:
        advance = 340 + s.more * 0.5
        glyphs.add_parts(character, advance, [(glyphs.numbers[accents.SPACING[character]], round(advance / 2), 0)])
        return
    special = {"ŀ": ("l", "·"), "Ŀ": ("L", "·"), "ŉ": ("’", "n"), "ĳ": ("i", "j"), "Ĳ": ("I", "J")}
    if character in special:
        x, parts = 0, []
        for part in special[character]:
            parts.append((glyphs.numbers[part], x, 0))
            x += glyphs.advances[glyphs.numbers[part]]
        glyphs.add_parts(character, x, parts)
        return
    found = accents.decompose(character)
    if found is None:
        raise ValueError(f"no drawing for U+{ord(character):04X} {unicodedata.name(character)}")
    base, marks = found
    number = glyphs.numbers[base]
    parts = [(number, 0, 0)]
    for placed in accents.place(base, marks, drawings[base]):
        slid = placed.x + lefts[base] + s.slant * placed.y
        parts.append((glyphs.numbers[placed.accent], round(slid), round(placed.y)))
    advance = glyphs.advances[number]
    if "\u031b" in marks:
        advance += round(46 - s.more * 0.1)
    if any(part[0] == glyphs.numbers[accents.APOSTROPHE_CARON] for part in parts) and base != "L":
        advance += 96
    glyphs.add_parts(character, advance, parts)


def rounded(contours: list[Contour]) -> list[Contour]:
    """Whole units, without points that only repeat their neighbour."""
    result = []
    for contour in contours:
        points = [(round(x), round(y), on) for x, y, on in contour]
        kept = [p for k, p in enumerate(points) if p != points[k - 1]]
        if len(kept) > 2:
            result.append(kept)
    return result


def _whole(contours: list[Contour]) -> list[Contour]:
    """Whole units, all points kept."""
    return [[(round(x), round(y), on) for x, y, on in contour] for contour in contours]


Rounding = Callable[[list[Contour]], list[Contour]]


def glyf_table(glyphs: Glyphs, rounding: Rounding = rounded) -> tuple[Glyf, list[tuple[int, int, int, int]]]:
    outlines = [rounding(contours) for contours in glyphs.outlines]
    boxes = _boxes(glyphs, outlines)
    simple = [number for number, contours in enumerate(outlines) if contours]
    flat = [point for number in simple for contour in outlines[number] for point in contour]
    xs, ys = np.array([p[0] for p in flat]), np.array([p[1] for p in flat])
    per_glyph = np.array([sum(map(len, outlines[n])) for n in simple])
    starts = np.cumsum(per_glyph) - per_glyph
    dx, dy = np.diff(xs, prepend=0), np.diff(ys, prepend=0)
    dx[starts], dy[starts] = xs[starts], ys[starts]
    points = Points(
        np.array([len(outlines[n]) for n in simple]),
        np.array([len(c) for n in simple for c in outlines[n]]),
        np.array([p[2] for p in flat]),
        dx,
        dy,
        np.array([len(outlines[n]) > 1 for n in simple]),
        [b""] * len(simple),
    )
    data = [b""] * len(outlines)
    for number, body in zip(simple, encode_simple(points, np.array([boxes[n] for n in simple])), strict=True):
        data[number] = body
    for number, parts in glyphs.parts.items():
        data[number] = _composite(parts, boxes[number], glyphs.advances, number).compile()
    return Glyf(data), boxes


def _boxes(glyphs: Glyphs, outlines: list[list[Contour]]) -> list[tuple[int, int, int, int]]:
    boxes = [_box(contours) for contours in outlines]
    for number, parts in glyphs.parts.items():
        shifted = [(boxes[g], x, y) for g, x, y in parts]
        boxes[number] = (
            min(b[0] + x for b, x, _ in shifted), min(b[1] + y for b, _, y in shifted),
            max(b[2] + x for b, x, _ in shifted), max(b[3] + y for b, _, y in shifted),
        )  # fmt: skip
    return boxes


def _composite(
    parts: list[tuple[int, int, int]], box: tuple[int, int, int, int], advances: list[int], number: int
) -> Composite:
    components = []
    for place, (glyph, x, y) in enumerate(parts):
        flags = ARGS_ARE_XY | ARGS_ARE_WORDS | _ROUND_TO_GRID
        if place == 0 and advances[glyph] == advances[number]:
            flags |= _USE_MY_METRICS
        flags |= MORE_COMPONENTS if place < len(parts) - 1 else 0
        components.append(Component(glyph, flags, (x, y)))
    return Composite(box, tuple(components))


def _box(contours: list[Contour]) -> tuple[int, int, int, int]:
    xs, ys = [p[0] for c in contours for p in c], [p[1] for c in contours for p in c]
    return (int(min(xs)), int(min(ys)), int(max(xs)), int(max(ys))) if xs else (0, 0, 0, 0)


def _sans(character: str, drawing: Drawing) -> Drawing:
    return features.proportional(drawing) if character in FIGURES else drawing


def _draw_sans(style: Style, points: SamePoints | None) -> Glyphs:
    with drawn_with(points):
        glyphs = _collect(style, _sans)
        features.add_glyphs(glyphs)
    return glyphs


def make_sans(style: Style, points: SamePoints | None = None) -> bytes:
    """The TTF file of one style of Penyu Sans; upright ones are drawn with the same points."""
    glyphs = _draw_sans(style, points)
    glyf, boxes = glyf_table(glyphs)
    loca = glyf.loca()
    tables: list[Table] = [
        *_common(glyphs, boxes, FAMILY, loca_format=int(loca.long)),
        _maxp(glyphs, glyf),
        loca,
        glyf,
        _kern(glyphs, style),
        *features.layout_tables(glyphs),
    ]
    data = {table.TAG: table.compile() for table in tables}
    return sfnt.write(data | {"gasp": _GASP}, "\0\1\0\0")


def make_variable(points: SamePoints) -> bytes:
    """The TTF file of Penyu Sans as a variable font, whose regular and bold are those of the static fonts."""
    drawn = [_draw_sans(variable.style_of(weight), points) for weight in variable.WEIGHTS]
    regular = drawn[1]
    glyf, boxes = glyf_table(regular, _whole)
    loca = glyf.loca()
    masters = variable.Masters(
        coordinates=[[_places(glyphs, number) for number in range(len(glyf.glyphs))] for glyphs in drawn],
        is_composite=[number in regular.parts for number in range(len(glyf.glyphs))],
        advances=[glyphs.advances for glyphs in drawn],
    )
    kerns = [
        {(left, right): value for left, right, value in _kern(glyphs, glyphs.style).subtables[0].pairs.tolist()}
        for glyphs in drawn
    ]
    gsub, _, gdef = features.layout_tables(regular)
    positions = [features.layout_tables(glyphs)[1] for glyphs in drawn]
    common = _common(regular, boxes, FAMILY, loca_format=int(loca.long))
    names = next(table for table in common if isinstance(table, Name))
    axes, names = variable.make_axes(names)
    tables: list[Table] = [
        *(table for table in common if not isinstance(table, Name)),
        names,
        *axes,
        _maxp(regular, glyf, _whole),
        loca,
        glyf,
        variable.make_gvar(glyf, masters),
        variable.make_hvar(masters),
        gsub,
        *variable.make_layout(kerns, positions, gdef),
    ]
    return variable.font_file(tables, _GASP)


def _places(glyphs: Glyphs, number: int) -> NDArray[np.int64]:
    """The points of a glyph, or the offsets of its parts."""
    if number in glyphs.parts:
        return np.array([(x, y) for _, x, y in glyphs.parts[number]], np.int64)
    points = [(x, y) for contour in _whole(glyphs.outlines[number]) for x, y, _ in contour]
    return np.array(points, np.int64).reshape(-1, 2)


def make_slab(style: Style) -> bytes:
    """The OTF file of one style of Penyu Slab."""
    return _postscript_font(_collect(style, slab.with_serifs), slab.FAMILY)


def make_candidates() -> dict[str, bytes]:
    """File name → OTF of the families to choose from."""
    narrow = _collect(candidates.STYLES[candidates.NARROW], candidates.narrowed, candidates.narrowed)
    poster = _collect(candidates.STYLES[candidates.POSTER], candidates.as_drawn)
    return {
        f"{family}-Regular.otf".replace(" ", ""): _postscript_font(glyphs, family)
        for family, glyphs in ((candidates.NARROW, narrow), (candidates.POSTER, poster))
    }


def _postscript_font(glyphs: Glyphs, family: str) -> bytes:
    style = glyphs.style
    outlines = [rounded(contours) for contours in glyphs.outlines]
    boxes = _boxes(glyphs, outlines)
    drawn = [box for box in boxes if any(box)]
    whole = [f(box[n] for box in drawn) for n, f in enumerate((min, min, max, max))]
    postscript_name = f"{family}-{style.name}".replace(" ", "")
    tables: list[Table] = [
        *_common(glyphs, boxes, family, loca_format=0),
        Maxp(0x5000, len(outlines)),
        make_cff(postscript_name, style, outlines, glyphs.parts, glyphs.advances, whole),
        _kern_by_class(glyphs, style),
    ]
    return sfnt.write({table.TAG: table.compile() for table in tables}, "OTTO")


def _kern_by_class(glyphs: Glyphs, style: Style) -> Gpos:
    pairs: dict[int, dict[int, tuple[tuple[int], tuple[()]]]] = {}
    for left, right, value in _kern(glyphs, style).subtables[0].pairs.tolist():
        pairs.setdefault(left, {})[right] = ((value,), ())
    subtable = as_classes(GlyphPairs((0x0004, 0), pairs))
    system = LanguageSystem(None, (0,))
    lookup = Lookup(PAIR, 0, (subtable,))
    return Gpos({"DFLT": Script(system), "latn": Script(system)}, [FeatureRecord("kern", (0,))], [lookup])


def _common(glyphs: Glyphs, boxes: list[tuple[int, int, int, int]], family: str, *, loca_format: int) -> list[Table]:
    """The tables that do not depend on the kind of outlines."""
    style = glyphs.style
    drawn = [box for box in boxes if any(box)]
    x0, y0 = min(b[0] for b in drawn), min(b[1] for b in drawn)
    x1, y1 = max(b[2] for b in drawn), max(b[3] for b in drawn)
    advances = np.array(glyphs.advances, np.uint16)
    hmtx = Hmtx(advances, np.array([b[0] for b in boxes], np.int16))
    encoded = {*ALPHABET, *(accents.ACCENTS if family == FAMILY else ())}
    characters = {ord(name): number for name, number in glyphs.numbers.items() if name in encoded}
    bold, italic = style.weight >= 700, style.italic
    return [
        Head(version=0x10000, font_revision=0x10000, checksum_adjustment=0, magic=0x5F0F3CF5, flags=0x0003,
             units_per_em=1000, created=SECONDS_1904_TO_2026, modified=SECONDS_1904_TO_2026, x_min=x0, y_min=y0,
             x_max=x1, y_max=y1, mac_style=bold | italic << 1, lowest_rec_ppem=6, font_direction_hint=2,
             index_to_loc_format=loca_format, glyph_data_format=0),
        Hhea(version=0x10000, ascender=ASCENT, descender=-DESCENT, line_gap=0, advance_width_max=int(advances.max()),
             min_left_side_bearing=x0, min_right_side_bearing=0, x_max_extent=x1,
             caret_slope_rise=1000 if italic else 1, caret_slope_run=round(1000 * style.slant), caret_offset=0,
             reserved=0, metric_data_format=0, number_of_h_metrics=hmtx.stored_advances),
        os2_table(style, characters, advances, y0, y1, serifs=family == slab.FAMILY),
        name_table(style, family),
        Post(PostHeader(version=0x30000, italic_angle=(-10 * 65536) if italic else 0, underline_position=-110,
                        underline_thickness=round(style.h), is_fixed_pitch=0)),
        Cmap(unicode_subtables(characters)),
        hmtx,
    ]  # fmt: skip


def _maxp(glyphs: Glyphs, glyf: Glyf, rounding: Rounding = rounded) -> Maxp:
    outlines = [rounding(contours) for contours in glyphs.outlines]
    points, contours = [sum(map(len, o)) for o in outlines], [len(o) for o in outlines]
    most_points = max(sum(points[g] for g, _, _ in parts) for parts in glyphs.parts.values())
    most_contours = max(sum(contours[g] for g, _, _ in parts) for parts in glyphs.parts.values())
    limits = (max(points), max(contours), most_points, most_contours, 2, 0, 0, 0, 0, 0, 0,
              max(map(len, glyphs.parts.values())), 1)  # fmt: skip
    return Maxp(0x10000, len(glyf.glyphs), limits)


def _kern(glyphs: Glyphs, style: Style) -> Kern:
    found = kerning.pairs(ALPHABET)
    rows = sorted(
        (glyphs.numbers[a], glyphs.numbers[b], round(value * (0.92 if style.weight >= 700 else 1)))
        for (a, b), value in found.items()
    )
    return Kern((KernPairs(1, np.array(rows, np.int64)),))


def all_fonts() -> dict[str, bytes]:
    """File name → font of every style: Penyu Sans as TTF, static and variable, Penyu Slab as OTF."""
    points = SamePoints()
    for weight in (400, *variable.WEIGHTS):  # the regular decides where strokes are cut
        _draw_sans(variable.style_of(weight), points)
    sans = {
        f"{FAMILY}-{style.name}.ttf".replace(" ", ""): make_sans(style, None if style.italic else points)
        for style in STYLES
    }
    sans[f"{FAMILY}[slnt,wght].ttf".replace(" ", "")] = make_variable(points)
    slabs = {f"{slab.FAMILY}-{style.name}.otf".replace(" ", ""): make_slab(style) for style in slab.styles()}
    return sans | slabs

"""Penyu Signals: a flag for each capital letter, and icons of the harbour by their names.

In colour twice: in plain layers ('COLR' version 0), and with the folds of the cloth and the glow of lamps (version 1).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, field

from aksara.container import sfnt
from aksara.tables import OS2, Cmap, Colr, Cpal, Gsub, Head, Hhea, Hmtx, Maxp, Name, Post
from aksara.tables.base import Table
from aksara.tables.cmap import unicode_subtables
from aksara.tables.colour.cpal import Colour, Palette
from aksara.tables.colour.paints import LAYERS, ColourLine, Paint, Stop
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gsub import LIGATURE, LigatureSubstitution
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.tables.name import NameRecord
from aksara.tables.post import PostHeader
from penyu.assemble import (
    SECONDS_1904_TO_2026,
    Glyphs,
    glyf_table,
    rounded,
)
from penyu.design import STYLES
from penyu.metadata import ASCENT, COPYRIGHT, DESCENT, LICENCE, LICENCE_URL
from penyu.pen import Contour, bar, disc, polygon, ring

FAMILY = "Penyu Signals"
#: The sides of a flag, and of the square of an icon.
LEFT, RIGHT, FOOT, HEAD = 60, 860, 40, 640
ADVANCE = 920
CORAL, SEA, SUN, WHITE, INK, REEF, SHADE, FRAME = range(8)
_PALETTES = {
    "Day": ("d9573f", "0b5563", "f2b632", "ffffff", "16262c", "5fc3b4", "073642", "8fa3a8"),
    "Night": ("ff8a70", "6fc4d6", "ffd970", "f4f1e6", "c9d9dc", "8fe0d2", "00141a", "55686f"),
}
_SOLID, _LINEAR, _RADIAL, _GLYPH, _ROTATED = 2, 4, 6, 10, 26
_ONE = 1 << 14
_FIRST_ICON = 0xE000
_PALETTE_NAMES = 256
Piece = tuple[str, int]


def _opaque(colour: str) -> Colour:
    red, green, blue = bytes.fromhex(colour)
    return Colour(red, green, blue, 255)


def _across(part: float) -> float:
    return LEFT + (RIGHT - LEFT) * part


def _up(part: float) -> float:
    return FOOT + (HEAD - FOOT) * part


def _part(x0: float, y0: float, x1: float, y1: float) -> list[Contour]:
    """A part of the cloth, by shares of its sides."""
    return [bar(_across(x0), _up(y0), _across(x1), _up(y1))]


def _corners(*points: tuple[float, float]) -> list[Contour]:
    return [polygon(*((_across(x), _up(y)) for x, y in points))]


#: What flags are sewn of.
CLOTH: dict[str, list[Contour]] = {
    "cloth": _part(0, 0, 1, 1),
    "hoist": _part(0, 0, 0.5, 1),
    "fly": _part(0.5, 0, 1, 1),
    "upper": _part(0, 0.5, 1, 1),
    "lower": _part(0, 0, 1, 0.5),
    "middle": _part(0, 1 / 3, 1, 2 / 3),
    "pale": _part(1 / 3, 0, 2 / 3, 1),
    "first": _part(0, 0.5, 0.5, 1),
    "fourth": _part(0.5, 0, 1, 0.5),
    "inner": _part(0.2, 0.24, 0.8, 0.76),
    "cross": [*_part(0.4, 0, 0.6, 1), *_part(0, 0.38, 0.4, 0.62), *_part(0.6, 0.38, 1, 0.62)],
    "saltire": [
        *_corners((0, 0), (0.14, 0), (1, 0.82), (1, 1), (0.86, 1), (0, 0.18)),
        *_corners((0, 1), (0, 0.82), (0.86, 0), (1, 0), (1, 0.18), (0.14, 1)),
    ],
    "wedge": _corners((0, 0), (0.56, 0.5), (0, 1)),
    "bend": _corners((0, 0), (1, 0), (0, 1)),
    "lozenge": _corners((0.5, 0.06), (0.92, 0.5), (0.5, 0.94), (0.08, 0.5)),
    "ball": [disc(_across(0.5) - 165, _up(0.5) - 165, _across(0.5) + 165, _up(0.5) + 165)],
    "stripes": [*_part(0, 0.8, 1, 1), *_part(0, 0.4, 1, 0.6), *_part(0, 0, 1, 0.2)],
    "frame": [bar(LEFT, FOOT, RIGHT, HEAD), bar(LEFT + 10, FOOT + 10, RIGHT - 10, HEAD - 10)[::-1]],
}

_FLAGS: dict[str, tuple[Piece, ...]] = {
    "A": (("cloth", WHITE), ("fly", REEF)), "B": (("cloth", CORAL), ("ball", WHITE)),
    "C": (("cloth", SEA), ("middle", WHITE)), "D": (("cloth", SUN), ("middle", SEA)),
    "E": (("cloth", SEA), ("lower", CORAL)), "F": (("cloth", WHITE), ("lozenge", CORAL)),
    "G": (("cloth", SUN), ("pale", SEA)), "H": (("cloth", WHITE), ("fly", CORAL)),
    "I": (("cloth", SUN), ("ball", INK)), "J": (("cloth", SEA), ("wedge", WHITE)),
    "K": (("cloth", SUN), ("fly", SEA)), "L": (("cloth", SUN), ("first", INK), ("fourth", INK)),
    "M": (("cloth", SEA), ("saltire", WHITE)), "N": (("cloth", WHITE), ("first", SEA), ("fourth", SEA)),
    "O": (("cloth", SUN), ("bend", CORAL)), "P": (("cloth", SEA), ("inner", WHITE)),
    "Q": (("cloth", REEF), ("inner", SUN)), "R": (("cloth", CORAL), ("cross", SUN)),
    "S": (("cloth", WHITE), ("inner", SEA)), "T": (("cloth", REEF), ("wedge", SUN)),
    "U": (("cloth", WHITE), ("first", CORAL), ("fourth", CORAL)), "V": (("cloth", WHITE), ("saltire", CORAL)),
    "W": (("cloth", SEA), ("inner", WHITE), ("ball", CORAL)), "X": (("cloth", WHITE), ("cross", SEA)),
    "Y": (("cloth", SUN), ("stripes", CORAL)), "Z": (("cloth", REEF), ("bend", SEA)),
}  # fmt: skip


def _wave(y: float, height: float) -> Contour:
    """A strip of water with three crests."""
    crest: Contour = [(LEFT - 20, y, True)]
    step = (RIGHT - LEFT + 40) / 6
    for number in range(6):
        x = LEFT - 20 + step * number
        crest += [(x + step / 2, y + (56 if number % 2 == 0 else -36), False), (x + step, y, True)]
    return [*crest, (RIGHT + 20, y - height, True), (LEFT - 20, y - height, True)]


def _leaf(x0: float, y0: float, x1: float, y1: float, bulge: float) -> Contour:
    """A shape with two points, round between them."""
    middle_x, middle_y = (x0 + x1) / 2, (y0 + y1) / 2
    dx, dy = (y1 - y0) * bulge, (x0 - x1) * bulge
    return [
        (x0, y0, True),
        (middle_x - dx, middle_y - dy, False),
        (x1, y1, True),
        (middle_x + dx, middle_y + dy, False),
    ]


#: What icons are made of.
PARTS: dict[str, list[Contour]] = {
    "sea": [_wave(60, 110)],
    "swell": [_wave(190, 110)],
    "hull": [polygon((100, 260), (840, 260), (740, 90), (200, 90))],
    "deck": [bar(220, 270, 700, 400), bar(300, 410, 600, 500)],
    "ports": [disc(x - 26, 320, x + 26, 372) for x in (290, 380, 470, 560, 640)],
    "funnel": [bar(480, 510, 570, 640)],
    "stock": [bar(425, 60, 495, 600), bar(270, 470, 650, 540)],
    "eye": ring(390, 590, 530, 730, 48, 48),
    "flukes": [
        [(140, 300, True), (150, 40, False), (460, 0, True), (770, 40, False), (780, 300, True), (700, 230, False),
         (690, 220, True), (640, 110, False), (460, 100, True), (280, 110, False), (230, 220, True), (220, 230, False)],
    ],
    "tower": [polygon((340, 30), (580, 30), (530, 540), (390, 540))],
    "bands": [polygon((355, 180), (565, 180), (553, 300), (367, 300)),
              polygon((379, 420), (541, 420), (533, 510), (387, 510))],
    "lantern": [bar(400, 550, 520, 640), polygon((380, 650), (540, 650), (460, 730))],
    "beam": [polygon((530, 600), (880, 700), (880, 480)), polygon((390, 600), (40, 480), (40, 700))],
    "glow": [disc(260, 395, 660, 795)],
    "shell": [disc(230, 130, 690, 600)],
    "plates": [polygon((460, 540), (560, 450), (560, 290), (460, 200), (360, 290), (360, 450))],
    "limbs": [disc(390, 590, 530, 740), _leaf(280, 480, 60, 620, 0.28), _leaf(640, 480, 860, 620, 0.28),
              _leaf(300, 230, 150, 60, 0.3), _leaf(620, 230, 770, 60, 0.3)],
    "day": [disc(290, 190, 630, 530)],
    "ray": [polygon((425, 590), (495, 590), (460, 740))],
    "cloud": [disc(120, 330, 420, 610), disc(290, 400, 650, 760), disc(540, 330, 820, 600), bar(270, 330, 680, 480)],
    "bolt": [polygon((470, 420), (600, 420), (510, 260), (590, 260), (380, 10), (440, 210), (360, 210))],
    "planks": [bar(60, 300, 860, 370), bar(140, 120, 200, 300), bar(400, 120, 460, 300), bar(660, 120, 720, 300)],
    "bollard": [bar(250, 370, 330, 470), disc(225, 450, 355, 530), bar(560, 370, 640, 470), disc(535, 450, 665, 530)],
}  # fmt: skip

ICONS: dict[str, tuple[Piece, ...]] = {
    "anchor": (("stock", SEA), ("flukes", SEA), ("eye", CORAL)),
    "ferry": (("funnel", CORAL), ("deck", REEF), ("ports", SEA), ("hull", CORAL), ("sea", SEA)),
    "lighthouse": (("beam", SUN), ("tower", FRAME), ("bands", CORAL), ("lantern", SEA)),
    "pier": (("planks", INK), ("bollard", CORAL), ("sea", SEA)),
    "storm": (("bolt", SUN), ("cloud", FRAME)),
    "sun": (("ray", SUN), ("day", SUN)),
    "turtle": (("limbs", REEF), ("shell", SEA), ("plates", REEF)),
    "wave": (("swell", REEF), ("sea", SEA)),
}


class _Signals(Struct):
    """The font as it is drawn: glyphs, their layers and paints by number."""

    glyphs: Glyphs = field(default_factory=lambda: Glyphs(STYLES[0]))
    layers: dict[int, tuple[tuple[int, int], ...]] = field(default_factory=dict)
    paints: dict[int, Paint] = field(default_factory=dict)

    def add(self, name: str, pieces: Sequence[Piece], paint: Paint) -> None:
        """A sign: in one colour all that is not white, and in colours its pieces."""
        source = CLOTH | PARTS
        # Layers and paints lie one on the other; where there is no colour, what lies on top would hide in the rest.
        plain = pieces[1:] if pieces[0][0] == "cloth" and len(pieces) > 1 else pieces
        outline = [contour for piece, _ in plain for contour in source[piece]]
        if pieces[0][0] == "cloth":
            outline += CLOTH["frame"]
        number = self.glyphs.add(name, outline, ADVANCE)
        self.layers[number] = tuple((self.glyphs.numbers[f"_{piece}"], colour) for piece, colour in pieces)
        self.paints[number] = paint

    def shape(self, piece: str, paint: Paint) -> Paint:
        """A piece filled with a paint."""
        return Paint(_GLYPH, glyph=self.glyphs.numbers[f"_{piece}"], inner=(paint,))


def _solid(colour: int, alpha: float = 1.0) -> Paint:
    return Paint(_SOLID, (round(alpha * _ONE),), (None,), colour=colour)


def _line(*stops: tuple[float, int, float]) -> ColourLine:
    return ColourLine(0, tuple(Stop(round(at * _ONE), colour, round(alpha * _ONE)) for at, colour, alpha in stops))


def _linear(line: ColourLine, *points: int) -> Paint:
    return Paint(_LINEAR, points, (None,) * 6, line=line)


def _radial(line: ColourLine, x: int, y: int, radius: int) -> Paint:
    return Paint(_RADIAL, (x, y, 0, x, y, radius), (None,) * 6, line=line)


def _flag(signals: _Signals, pieces: Sequence[Piece]) -> Paint:
    """The pieces, and the folds of cloth in the wind over them."""
    folds = _line((0, SHADE, 0.10), (0.22, SHADE, 0.26), (0.4, SHADE, 0), (0.62, SHADE, 0.28), (0.8, SHADE, 0.02),
                  (1, SHADE, 0.16))  # fmt: skip
    wind = _linear(folds, LEFT, FOOT, RIGHT, FOOT + 60, LEFT, HEAD)
    inner = [signals.shape(piece, _solid(colour)) for piece, colour in pieces]
    return Paint(LAYERS, inner=(*inner, signals.shape("cloth", wind), signals.shape("frame", _solid(SHADE, 0.35))))


def _icon(signals: _Signals, name: str, pieces: Sequence[Piece]) -> Paint:
    depth = _linear(_line((0, SEA, 1), (1, REEF, 1)), 0, -60, 0, 120, 900, -60)
    fills = {
        "sea": depth,
        "shell": _radial(_line((0, REEF, 1), (1, SEA, 1)), 420, 420, 330),
        "cloud": _linear(_line((0, FRAME, 1), (1, SHADE, 1)), 0, 760, 0, 330, 900, 760),
        "beam": _radial(_line((0.1, SUN, 0.9), (1, SUN, 0.12)), 460, 600, 420),
        "day": _radial(_line((0, SUN, 1), (0.7, SUN, 1), (1, CORAL, 1)), 430, 390, 210),
    }
    inner = [signals.shape(piece, fills.get(piece, _solid(colour))) for piece, colour in pieces]
    if name == "sun":
        # One ray, eight times; an angle is a part of half a turn.
        ray = signals.shape("one ray", _solid(SUN))
        turned = (
            Paint(_ROTATED, (round(_ONE * part / 4), 460, 360), (None,) * 3, inner=(ray,)) for part in range(-4, 4)
        )
        inner = [*turned, inner[-1]]
    if name == "lighthouse":
        inner.insert(0, signals.shape("glow", _radial(_line((0, SUN, 0.8), (1, SUN, 0)), 460, 595, 200)))
    return Paint(LAYERS, inner=tuple(inner))


def _around(contour: Contour, turns: int, x: float, y: float) -> list[Contour]:
    """The contour, and copies of it turned about a point by quarters and eighths of a turn."""
    found, cosine = [], (1.0, 0.70711, 0.0, -0.70711, -1.0, -0.70711, 0.0, 0.70711)
    for turn in range(turns):
        c, s = cosine[turn], cosine[(turn + 6) % 8]
        found.append([(x + (px - x) * c - (py - y) * s, y + (px - x) * s + (py - y) * c, on) for px, py, on in contour])
    return found


def make_signals() -> bytes:
    """The TTF file."""
    signals = _Signals()
    glyphs = signals.glyphs
    glyphs.add(
        ".notdef", [bar(LEFT, FOOT, RIGHT, HEAD), bar(LEFT + 40, FOOT + 40, RIGHT - 40, HEAD - 40)[::-1]], ADVANCE
    )
    glyphs.add(" ", [], 460)
    spelled = sorted(set("".join(ICONS)))
    for letter in spelled:
        glyphs.add(letter, [], 0)
    rays = _around(PARTS["ray"][0], 8, 460, 360)
    for name, contours in (CLOTH | PARTS | {"one ray": PARTS["ray"], "ray": rays}).items():
        glyphs.add(f"_{name}", contours, ADVANCE)
    for letter, pieces in _FLAGS.items():
        signals.add(letter, pieces, _flag(signals, pieces))
    for name, pieces in ICONS.items():
        signals.add(name, pieces, _icon(signals, name, pieces))
    characters = {ord(name): glyphs.numbers[name] for name in (" ", *spelled, *_FLAGS)}
    characters |= {_FIRST_ICON + number: glyphs.numbers[name] for number, name in enumerate(sorted(ICONS))}
    palettes = tuple(
        Palette(
            tuple(_opaque(colour) for colour in colours),
            for_light=name == "Day",
            for_dark=name == "Night",
            name_id=_PALETTE_NAMES + number,
        )
        for number, (name, colours) in enumerate(_PALETTES.items())
    )
    tables = [
        *_common(glyphs, characters),
        _names(),
        Colr(signals.layers, signals.paints),
        Cpal(palettes),
        _gsub(glyphs),
    ]
    return sfnt.write({table.TAG: table.compile() for table in tables}, "\0\1\0\0")


def _gsub(glyphs: Glyphs) -> Gsub:
    """Names become icons."""
    found: dict[int, list[tuple[tuple[int, ...], int]]] = {}
    for name in ICONS:
        first, *rest = (glyphs.numbers[letter] for letter in name)
        found.setdefault(first, []).append((tuple(rest), glyphs.numbers[name]))
    ligatures = {first: tuple(sorted(each, key=lambda made: -len(made[0]))) for first, each in found.items()}
    system = LanguageSystem(None, (0,))
    lookup = Lookup(LIGATURE, 0, (LigatureSubstitution(ligatures),))
    return Gsub({"DFLT": Script(system), "latn": Script(system)}, [FeatureRecord("liga", (0,))], [lookup])


def _names() -> Name:
    texts = {
        0: COPYRIGHT, 1: FAMILY, 2: "Regular", 3: "1.000;PNYU;PenyuSignals-Regular", 4: FAMILY, 5: "Version 1.000",
        6: "PenyuSignals-Regular", 8: "Penyu Ferries", 9: "A script of Aksara's", 13: LICENCE, 14: LICENCE_URL,
        **{_PALETTE_NAMES + number: name for number, name in enumerate(_PALETTES)},
    }  # fmt: skip
    return Name(tuple(NameRecord(3, 1, 0x409, number, text.encode("utf-16-be")) for number, text in texts.items()))


def _common(glyphs: Glyphs, characters: dict[int, int]) -> list[Table]:
    """What every font has."""
    glyf, boxes = glyf_table(glyphs)
    loca = glyf.loca()
    drawn = [box for box in boxes if any(box)]
    x0, y0, x1, y1 = (f(box[n] for box in drawn) for n, f in enumerate((min, min, max, max)))
    outlines = [rounded(contours) for contours in glyphs.outlines]
    advances = np.array(glyphs.advances, np.uint16)
    hmtx = Hmtx(advances, np.array([box[0] for box in boxes], np.int16))
    limits = (max(sum(map(len, each)) for each in outlines), max(map(len, outlines)), 0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0)
    return [
        Head(version=0x10000, font_revision=0x10000, checksum_adjustment=0, magic=0x5F0F3CF5, flags=0x0003,
             units_per_em=1000, created=SECONDS_1904_TO_2026, modified=SECONDS_1904_TO_2026, x_min=x0, y_min=y0,
             x_max=x1, y_max=y1, mac_style=0, lowest_rec_ppem=12, font_direction_hint=2,
             index_to_loc_format=int(loca.long), glyph_data_format=0),
        Hhea(version=0x10000, ascender=ASCENT, descender=-DESCENT, line_gap=0, advance_width_max=ADVANCE,
             min_left_side_bearing=x0, min_right_side_bearing=0, x_max_extent=x1, caret_slope_rise=1,
             caret_slope_run=0, caret_offset=0, reserved=0, metric_data_format=0,
             number_of_h_metrics=hmtx.stored_advances),
        OS2(version=4, x_avg_char_width=ADVANCE, weight_class=400, width_class=5, fs_type=0, y_subscript_x_size=650,
            y_subscript_y_size=600, y_subscript_x_offset=0, y_subscript_y_offset=75, y_superscript_x_size=650,
            y_superscript_y_size=600, y_superscript_x_offset=0, y_superscript_y_offset=350, y_strikeout_size=60,
            y_strikeout_position=300, family_class=0x0C00, panose=bytes((5, 0, 0, 0, 0, 0, 0, 0, 0, 0)),
            unicode_range1=1, unicode_range2=1 << 28, unicode_range3=0, unicode_range4=0, vendor=b"PNYU",
            fs_selection=1 << 6 | 1 << 7, first_char_index=min(characters), last_char_index=max(characters),
            typo_ascender=ASCENT, typo_descender=-DESCENT, typo_line_gap=0, win_ascent=max(ASCENT, y1),
            win_descent=max(DESCENT, -y0), code_page_range1=1, code_page_range2=0, x_height=0, cap_height=HEAD,
            default_char=0, break_char=32, max_context=max(map(len, ICONS))),
        Post(PostHeader(version=0x30000, italic_angle=0, underline_position=-110, underline_thickness=60,
                        is_fixed_pitch=0)),
        Cmap(unicode_subtables(characters)),
        hmtx,
        Maxp(0x10000, len(glyf.glyphs), limits),
        loca,
        glyf,
    ]  # fmt: skip

"""PostScript outlines as TrueType ones: as near as is promised, with few points, and the same in renderers."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping
from io import BytesIO
from pathlib import Path

import freetype
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from PIL import Image, ImageChops, ImageDraw, ImageFont
from playwright.sync_api import Browser

from aksara.font import Font, open_font
from aksara.glyph_outlines import outline_steps
from aksara.subsetting import SubsetOptions, subset
from aksara.tables import Gasp, Glyf, Head, Hmtx, Maxp, Vmtx, Vorg
from aksara.truetype.quadratics import Tolerance, distance_bounds, quadratic_weights
from aksara.truetype_outlines import with_truetype_outlines
from comparison import at_place, whole
from conftest import Run, watched_page
from fonts import DEMO_FONTS, DEMO_SLABS
from variable import places, with_postscript_outlines

_OPENTYPE = Path("/usr/share/fonts/opentype")
_FONTS = [
    DEMO_SLABS[0],
    _OPENTYPE / "sora/Sora-Bold.otf",
    _OPENTYPE / "urw-base35/C059-Italic.otf",
    _OPENTYPE / "asana-math/Asana-Math.otf",
]
_TEXT = "Ferries to Pulau Penyu sail at 6:45 & 18:20. AVATAR Toffee Quick Jazz"
Floats = NDArray[np.float64]

_COORDINATE = st.integers(-1_000, 1_000)
_POINT = st.tuples(_COORDINATE, _COORDINATE)
_STEPS = np.linspace(0, 1, 400)
#: Units between the points of an outline that are compared.
_STEP = 6.0
_UNHINTED = SubsetOptions(hints=False)


@settings(max_examples=25)
@given(st.lists(_POINT, min_size=4, max_size=4), st.sampled_from((1_000, 2_048, 256)))
def test_splines_are_within_their_bound(points: list[tuple[int, int]], units_per_em: int) -> None:
    cubics, tolerance = np.array([points], float), Tolerance.of_em(units_per_em)
    (weights,) = quadratic_weights(cubics[None], tolerance)
    exact = np.concatenate([cubics[:, :1], weights @ cubics, cubics[:, 3:]], 1)
    assert np.allclose(weights.sum(1), 1)
    curve = _cubic(cubics[0])
    for spline, most in ((exact, tolerance.exact), (np.rint(exact), tolerance.rounded)):
        bound = float(distance_bounds(cubics, spline)[0])
        assert _apart([curve], [_spline(spline[0])]) <= bound <= most
    # Tangents at the ends stay, so what is smooth stays smooth, and extremes stay where they are.
    for (start, *others), off in ((cubics[0], exact[0, 1]), (cubics[0, ::-1], exact[0, -2])):
        ahead = next((each - start for each in others if (each != start).any()), np.zeros(2))
        aside = ahead[0] * (off - start)[1] - ahead[1] * (off - start)[0]
        assert abs(aside) <= 1e-6 * max(np.abs(ahead).max(), 1) ** 2 and ahead @ (off - start) >= 0


def _cubic(points: Floats) -> Floats:
    t = _STEPS[:, None]
    s = 1 - t
    return np.asarray(s**3 * points[0] + 3 * s * s * t * points[1] + 3 * s * t * t * points[2] + t**3 * points[3])


def _spline(points: Floats) -> Floats:
    """Ends and off-curve points, drawn as TrueType says."""
    start, found = points[0], []
    for number, off in enumerate(points[1:-1], 1):
        end = points[-1] if number == len(points) - 2 else (off + points[number + 1]) / 2
        t = _STEPS[:, None]
        found.append((1 - t) ** 2 * start + 2 * (1 - t) * t * off + t * t * end)
        start = end
    return np.concatenate(found)


def _apart(one: list[Floats], other: list[Floats]) -> float:
    """How far lines and curves are from others at most, both ways: at least so much, since they are looked at in
    places, between which the others may be nearer by half of the way to the next."""
    places = [np.concatenate(each) @ (1, 1j) for each in (one, other)]
    slack = max(np.abs(np.diff(part @ (1, 1j))).max(initial=0) for part in (*one, *other)) / 2
    distances = np.abs(places[0][:, None] - places[1][None])
    return float(max(distances.min(0).max(), distances.min(1).max()) - slack)


@pytest.mark.parametrize("path", _FONTS, ids=lambda path: path.stem)
def test_static_fonts_keep_their_shapes(path: Path) -> None:
    source = subset(open_font(path), frozenset(map(ord, _TEXT)) | set(range(0xC0, 0xD0)), _UNHINTED).font
    font = Font.read(with_truetype_outlines(source).write("sfnt", effort="fast"))
    assert {"glyf", "loca", "gasp"} <= set(font) and not {"CFF ", "VORG", "fpgm", "prep", "cvt "} & set(font)
    before, after = (outline_steps(each, range(source.num_glyphs)) for each in (source, font))
    limit = font.table(Head).units_per_em / 1_000
    for old, new in zip(before, after, strict=True):
        if not old:
            assert not new
            continue
        drawn, made = _drawn(old), _drawn(new)
        assert _apart(drawn, made) <= limit
        # Counter-clockwise with PostScript outlines is clockwise with TrueType ones.
        assert np.sign(_area(old)) in (0, -np.sign(_area(new)))
    points = sum(len(places) for steps in before for _, places in steps)
    stored = sum(_stored(font.table(Glyf), glyph) for glyph in range(font.num_glyphs))
    assert stored <= 1.25 * points
    advances, bearings = font.table(Hmtx).advances, font.table(Hmtx).side_bearings
    assert advances.tolist() == source.table(Hmtx).advances.tolist()
    assert font.table(Maxp).limits[0] == max(_stored(font.table(Glyf), glyph) for glyph in range(font.num_glyphs))
    # A glyph is drawn where its side bearing says, so it begins there.
    for glyph, data in enumerate(font.table(Glyf).glyphs):
        assert not data or int.from_bytes(data[2:4], "big", signed=True) == bearings[glyph], glyph
    assert font.table(Gasp).ranges == ((0xFFFF, Gasp.SMOOTH),)
    assert _differing(source, font) < 0.01


def _drawn(steps: list[tuple[str, tuple[tuple[float, float], ...]]]) -> list[Floats]:
    """Points along each line and curve of an outline, some `_STEP` units from each other."""
    found, here, start = [], np.zeros(2), np.zeros(2)
    for letter, points in steps:
        places = [np.array(point) for point in points] or [start]
        if letter == "M":
            start = places[0]
        else:
            length = sum(np.abs(b - a).sum() for a, b in zip([here, *places], places, strict=False))
            t = np.linspace(0, 1, int(length / _STEP * 1.5) + 2)[:, None]
            s = 1 - t
            controls = [here, *places]
            shares = {2: (s, t), 3: (s * s, 2 * s * t, t * t), 4: (s**3, 3 * s * s * t, 3 * s * t * t, t**3)}
            parts = zip(shares[len(controls)], controls, strict=True)
            found.append(np.asarray(sum((share * point for share, point in parts), np.zeros(2))))
        here = places[-1]
    return found


def _area(steps: list[tuple[str, tuple[tuple[float, float], ...]]]) -> float:
    area, here, start = 0.0, (0.0, 0.0), (0.0, 0.0)
    for letter, points in steps:
        there = points[-1] if points else start
        if letter == "M":
            start = there
        else:
            area += here[0] * there[1] - here[1] * there[0]
        here = there
    return area


def _stored(table: Glyf, glyph: int) -> int:
    data = table.glyphs[glyph]
    contours = int.from_bytes(data[:2], "big")
    return int.from_bytes(data[8 + 2 * contours : 10 + 2 * contours], "big") + 1 if data else 0


def _differing(one: Font, other: Font) -> float:
    """The share of pixels of a line of text that differ by more than a sixteenth, the worst of several sizes."""
    worst = 0.0
    for size in (16, 32, 96):
        pictures = []
        for font in (one, other):
            face = ImageFont.truetype(BytesIO(whole(font)), size)
            picture = Image.new("L", (size * 45, size * 2))
            ImageDraw.Draw(picture).text((4, 4), _TEXT, font=face, fill=255, features=["kern"])
            pictures.append(picture)
        changed = np.asarray(ImageChops.difference(*pictures))
        worst = max(worst, float((changed > 16).mean()))
    return worst


def test_variable_fonts_keep_their_shapes_everywhere() -> None:
    source = with_postscript_outlines()
    font = Font.read(with_truetype_outlines(source).write("sfnt", effort="fast"))
    assert "gvar" in font and "CFF2" not in font
    for place in places(source, randomly=4):
        before, after = at_place(source, place), at_place(font, place)
        for glyph in range(3, source.num_glyphs, 29):
            old, new = _at(before, glyph), _at(after, glyph)
            assert old[1] == pytest.approx(new[1], abs=1.01), (place, glyph)
            if len(old[0]) and len(new[0]):
                # A unit of an em of 1,000, and the rounding of each delta.
                assert _apart(old[0], new[0]) <= 1.0 + 1.0, (place, glyph)


def _at(face: freetype.Face, glyph: int) -> tuple[list[Floats], float]:
    """An outline in steps, and its advance."""
    face.load_glyph(glyph, freetype.FT_LOAD_NO_HINTING)
    steps: list[tuple[str, tuple[tuple[float, float], ...]]] = []

    def add(letter: str, *points: freetype.FT_Vector) -> None:
        steps.append((letter, tuple((each.x / 64, each.y / 64) for each in points)))

    face.glyph.outline.decompose(
        None,
        move_to=lambda a, _: add("M", a),
        line_to=lambda a, _: add("L", a),
        conic_to=lambda a, b, _: add("Q", a, b),
        cubic_to=lambda a, b, c, _: add("C", a, b, c),
    )
    return _drawn(steps), face.glyph.linearHoriAdvance / 65536


def test_vertical_origins_stay() -> None:
    source = open_font(DEMO_SLABS[0])
    count = source.num_glyphs
    vmtx = Vmtx(np.full(count, 1_000, np.uint16), np.zeros(count, np.int16))
    raw = {"VORG": Vorg(880, {5: 700}).compile(), "vmtx": vmtx.compile(), "vhea": bytes(34) + b"\0\1"}
    font = with_truetype_outlines(source.with_data(raw))
    tops = [int.from_bytes(data[8:10], "big", signed=True) if data else 0 for data in font.table(Glyf).glyphs]
    origins = [int(bearing) + top for bearing, top in zip(font.table(Vmtx).side_bearings, tops, strict=True)]
    assert origins == [700 if glyph == 5 else 880 for glyph in range(count)]


def test_formats_have_their_kind_of_outlines(aksara: Run, tmp_path: Path, browser: Browser) -> None:
    regular = next(path for path in DEMO_FONTS if path.stem == "PenyuSans-Regular")
    done = aksara(
        "build", DEMO_SLABS[0], regular, "--format", "woff2,ttf,otf,eot", "--for-text", _TEXT, "--effort", "fast"
    )
    # One that cannot be made does not take the others with it.
    assert done.returncode == 1 and "its outlines are TrueType, and OTF is for PostScript ones" in done.stderr
    made: Mapping[str, Path] = {
        f"{path.name.split('-')[0]}{path.suffix}": path for path in (tmp_path / "web-fonts/fonts").iterdir()
    }
    assert {name: Font.read(path.read_bytes()).outlines for name, path in made.items() if name[-3:] != "txt"} == {
        "PenyuSlab.woff2": "CFF", "PenyuSlab.ttf": "TrueType", "PenyuSlab.otf": "CFF", "PenyuSlab.eot": "TrueType",
        "PenyuSans.woff2": "TrueType", "PenyuSans.ttf": "TrueType", "PenyuSans.eot": "TrueType",
    }  # fmt: skip
    css = (tmp_path / "web-fonts/faces.css").read_text()
    assert 'ttf") format("truetype")' in css and 'otf") format("opentype")' in css
    with watched_page(browser) as (page, _):
        for name in ("PenyuSlab.ttf", "PenyuSlab.otf"):
            data = b64encode(made[name].read_bytes()).decode()
            assert page.evaluate(
                "data => new FontFace('x', Uint8Array.from(atob(data), l => l.charCodeAt(0)).buffer).load()"
                ".then(() => true, error => String(error))", data
            ) is True  # fmt: skip
    alone = aksara("build", regular, "--format", "otf")
    assert alone.returncode == 3 and "PenyuSans-Regular.ttf: its outlines are TrueType" in alone.stderr
    assert aksara("build", regular, "--format", "sfnt,ttf").returncode == 2

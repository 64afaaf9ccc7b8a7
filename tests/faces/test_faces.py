"""Faces: which face of which family a font is, from tables and names that agree, disagree or are missing."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from aksara.faces import Face, embedding, generic_family, identify, label_of
from aksara.faces.style_names import read_style_name, split_family_name
from aksara.font import Font, open_font
from fonts import corpus, small_font
from places import TESTS

# File → family, least and greatest weight, style, width in percent, and a reason where it is a judgement.
_TABLE = TESTS / "expected_faces.tsv"
EXPECTED = {
    row[0]: (row[1], (int(row[2]), int(row[3])), row[4], float(row[5]))
    for row in (line.split("\t") for line in _TABLE.read_text(encoding="utf-8").splitlines() if line[:1] != "#")
}


@pytest.mark.parametrize("path", corpus(), ids=lambda path: path.name)
def test_faces_of_real_fonts(path: Path) -> None:
    face = identify(open_font(path))
    assert (face.family, face.weight_range, face.style, face.width) == EXPECTED[path.name]


def _identify(names: dict[int, str], path: str = "x.ttf", **fields: object) -> Face:
    return identify(Font.read(small_font(names=names, **fields), path))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("names", "fields", "expected", "finding"),
    [
        ({1: "Penyu", 2: "Bold", 6: "Penyu-Bold"}, {"weight": 400}, ("Penyu", 700, "normal"), "says weight 400"),
        ({1: "Penyu", 2: "Bold"}, {"weight": 7}, ("Penyu", 700, "normal"), ""),
        ({1: "Penyu", 2: "Regular"}, {"weight": 5000}, ("Penyu", 400, "normal"), "makes no sense"),
        ({1: "Penyu", 2: "Regular"}, {"weight": 0}, ("Penyu", 400, "normal"), "makes no sense"),
        ({1: "Penyu", 2: "Regular"}, {"weight": 400, "selection": 1 << 5}, ("Penyu", 400, "normal"), "marked bold"),
        ({1: "Penyu"}, {"weight": 400, "selection": 1 << 5}, ("Penyu", 700, "normal"), "marked bold"),
        ({1: "Penyu Light", 2: "Italic"}, {"weight": 300, "selection": 1}, ("Penyu", 300, "italic"), ""),
        ({1: "Penyu Light", 2: "Italic", 16: "Penyu", 17: "Light Italic"}, {"weight": 350, "selection": 1},
         ("Penyu", 350, "italic"), ""),
        ({1: "Penyu", 2: "Italic"}, {}, ("Penyu", 400, "italic"), "nothing in the font but its name"),
        ({1: "Penyu", 2: "Regular"}, {"selection": 1}, ("Penyu", 400, "normal"), "marked italic, but neither"),
        ({1: "Penyu", 2: "Regular"}, {"selection": 1, "angle": -9.0}, ("Penyu", 400, "italic"), ""),
        ({1: "Penyu", 2: "Regular"}, {"mac_style": 1}, ("Penyu", 400, "normal"), "marked bold"),
        ({1: "Penyu ExtraBold", 6: "Penyu-XBdIt"}, {"weight": 800, "selection": 1}, ("Penyu", 800, "italic"), ""),
        ({1: ".", 2: "\x7f"}, {"path": "Penyu-SemiBold.ttf", "weight": 600}, ("Penyu", 600, "normal"), ""),
        ({}, {"path": "Penyu_Sans-MediumItalic.ttf", "weight": 500}, ("Penyu Sans", 500, "italic"), ""),
    ],
)  # fmt: skip
def test_evidence_is_weighed(
    names: dict[int, str], fields: dict[str, object], expected: tuple[str, int, str], finding: str
) -> None:
    face = _identify(names, **fields)  # type: ignore[arg-type]
    assert (face.family, face.weight, face.style) == expected
    findings = [finding.text for finding in face.findings]
    text = " ".join(findings)
    assert finding in text
    assert finding or not [f for f in findings if "weight" in f], text


def test_a_font_without_names_or_os2_takes_its_file_name() -> None:
    data = small_font(without=("name", "OS/2", "post"))
    face = identify(Font.read(data, "folder/Penyu Serif-BoldItalic.otf"))
    assert (face.family, face.weight, face.style, face.width) == ("Penyu Serif", 700, "italic", 100)


@pytest.mark.parametrize(
    ("text", "weight", "width", "slant"),
    [
        ("BdIt", 700, None, "italic"), ("SemiBold Condensed", 600, 75.0, None),
        ("ExtraLightItalic", 200, None, "italic"),
        ("Ultra Condensed Heavy", 900, 50.0, None), ("Lt Obl", 300, None, "oblique"), ("DemiBold", 600, None, None),
        ("Hairline", 100, None, None), ("Semi-Bold", 600, None, None), ("SmBd", 600, None, None),
        ("bolditalic", 700, None, "italic"), ("Kursiv", None, None, "italic"), ("Extended", None, 125.0, None),
        ("Regular", None, None, None), ("Turtle", None, None, None), ("ThinkBold", 700, None, None),
    ],
)  # fmt: skip
def test_style_words(text: str, weight: int | None, width: float | None, slant: str | None) -> None:
    style = read_style_name(text)
    assert (style.weight, style.width, style.slant) == (weight, width, slant)


@pytest.mark.parametrize(
    ("text", "family"),
    [
        ("Penyu Sans Light", "Penyu Sans"), ("Penyu Roman", "Penyu Roman"), ("Penyu", "Penyu"), ("Bold", "Bold"),
        ("Penyu Sans Condensed Semi Bold", "Penyu Sans"), ("Penyu Book", "Penyu Book"), ("Light Penyu", "Light Penyu"),
        ("Penyu-Bold", "Penyu"), ("", ""),
    ],
)  # fmt: skip
def test_families_lose_the_styles_at_their_end(text: str, family: str) -> None:
    assert split_family_name(text)[0] == family


@pytest.mark.parametrize(
    ("fs_type", "permission", "no_subsetting", "bitmaps"),
    [(0, "installable", False, False), (2, "restricted", False, False), (4, "preview and print", False, False),
     (8, "editable", False, False), (0x0108, "editable", True, False), (0x0200, "installable", False, True),
     (0x000E, "editable", False, False)],
)  # fmt: skip
def test_the_permission_in_the_font(fs_type: int, permission: str, no_subsetting: bool, bitmaps: bool) -> None:
    found = embedding(Font.read(small_font(fs_type=fs_type)))
    assert (found.permission, found.no_subsetting, found.bitmaps_only) == (permission, no_subsetting, bitmaps)
    assert ("subsetted" in found.words) == no_subsetting


@pytest.mark.parametrize(
    ("name", "generic"),
    [("DejaVuSerif.ttf", "serif"), ("DejaVuSansMono.ttf", "monospace"), ("LiberationSans-Regular.ttf", "sans-serif"),
     ("LiberationSerif-Italic.ttf", "serif"), ("OldStandard-Regular.ttf", "serif")],
)  # fmt: skip
def test_the_generic_family(name: str, generic: str) -> None:
    assert generic_family(open_font(next(path for path in corpus() if path.name == name))) == generic


_LETTERS = range(0x41, 0x5B)


@pytest.mark.parametrize(
    ("options", "generic"),
    [
        # All letters are one glyph, so equally wide, whatever 'post' and PANOSE say.
        ({"characters": dict.fromkeys(_LETTERS, 1)}, "monospace"),
        ({"characters": {code: code - 0x40 for code in _LETTERS}}, "sans-serif"),
        ({"names": {1: "Kotak Slab"}}, "serif"),
        ({"names": {1: "Kotak Hand"}}, "cursive"),
        # Leaning though it is no family's italic: written by hand.
        ({"angle": -12.0}, "cursive"),
        ({"angle": -12.0, "selection": 1}, "sans-serif"),
        ({"angle": -12.0, "mac_style": 2}, "sans-serif"),
        ({"characters": dict.fromkeys(range(128512, 128576), 1)}, "emoji"),
        ({"names": {1: "Kotak Math"}, "extra": {"MATH": bytes(10)}}, "math"),
        ({"extra": {"MATH": bytes(10)}}, "sans-serif"),
    ],
)
def test_the_generic_family_of_fonts_that_hardly_tell(options: dict[str, Any], generic: str) -> None:
    assert generic_family(Font.read(small_font(**options))) == generic


@pytest.mark.parametrize(
    ("weight", "style", "width", "label"),
    [(400, "normal", 100, "Regular"), (400, "italic", 100, "Italic"), (700, "italic", 100, "Bold Italic"),
     (300, "normal", 75, "Condensed Light"), (400, "normal", 87.5, "Semi Condensed"), (350, "normal", 100, "350")],
)  # fmt: skip
def test_labels(weight: int, style: str, width: float, label: str) -> None:
    assert label_of(weight, style, width) == label  # type: ignore[arg-type]


def test_paths_in_manifests_are_plain_names() -> None:
    assert identify(open_font(Path(corpus()[0]))).path == str(corpus()[0])

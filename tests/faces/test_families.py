"""Families: one name for one family, one font for one face, and everything else a question that can be answered."""

from __future__ import annotations

import json
import shutil
import struct
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace

from aksara.faces import Face, conflicting_faces, identify, sort_into_families
from aksara.font import Font, open_font
from aksara.tables import Fvar
from conftest import Run
from fonts import SYSTEM, corpus, small_font
from variable import PENYU as PENYU_VARIABLE


def _face(path: str, family: str, weight: int = 400, variant: str = "") -> Face:
    return Face(path=path, family=family, weight=weight, style="normal", variant=variant)


def test_spellings_of_one_family_become_one() -> None:
    faces = [_face("a", "Penyu Sans"), _face("b", "PenyuSans", 700), _face("c", "Penyu Sans", 300), _face("d", "Other")]
    assert [face.family for face in sort_into_families(faces)] == ["Penyu Sans"] * 3 + ["Other"]


def test_optical_sizes_that_share_all_descriptors_are_distinguished() -> None:
    faces = [_face("a", "Penyu", variant="8"), _face("b", "Penyu", variant="12"), _face("c", "Penyu", 700)]
    assert [face.family for face in sort_into_families(faces)] == ["Penyu 8", "Penyu 12", "Penyu"]
    alone = [_face("a", "Penyu", variant="55"), _face("b", "Penyu", 700, variant="75")]
    assert {face.family for face in sort_into_families(alone)} == {"Penyu"}, "numbers that only count weights"


def test_conflicting_faces_are_named() -> None:
    faces = sort_into_families([_face("a", "Penyu"), _face("b", "penyu"), _face("c", "Penyu", 700)])
    assert [[face.path for face in group] for group in conflicting_faces(faces)] == [["a", "b"]]


@pytest.mark.parametrize(
    ("names", "weight", "expected"),
    [
        # Two words for the ends of the scale, ordered by the table.
        ({16: "Penyu", 17: "Heavy", 1: "Penyu Heavy"}, 800, 800),
        ({16: "Penyu", 17: "Thin", 1: "Penyu Thin"}, 200, 200),
        ({16: "Penyu", 17: "Thin", 1: "Penyu Thin"}, 250, 100),
        ({16: "Penyu", 17: "Bold", 1: "Penyu"}, 600, 700),
        # The bold of a small family of its own, in the old scheme.
        ({1: "Penyu SemiBold", 2: "Bold"}, 600, 600),
        ({1: "Penyu Light", 2: "Bold"}, 700, 700),
        ({1: "Penyu", 2: "Medium"}, 400, 400),
        ({1: "Penyu Medium", 2: "Regular"}, 400, 500),
    ],
)
def test_weights_that_need_a_second_look(names: dict[int, str], weight: int, expected: int) -> None:
    assert identify(Font.read(small_font(names=names, weight=weight))).weight == expected


@pytest.mark.parametrize(
    ("style", "stored", "width"),
    [("Condensed", 4, 87.5), ("Extra Condensed", 3, 62.5), ("SemiExpanded", 7, 112.5), ("Narrow", 5, 75.0),
     ("Wide", 7, 125.0)],
)  # fmt: skip
def test_widths(style: str, stored: int, width: float) -> None:
    face = identify(Font.read(small_font(names={1: "Penyu", 16: "Penyu", 17: style}, width_class=stored)))
    assert face.width == width


def test_stat_is_used_where_os2_is_invalid() -> None:
    axes = b"wght" + struct.pack(">HH", 256, 0)
    value = struct.pack(">HHHHi", 1, 0, 0, 257, 600 << 16)
    stat = struct.pack(">IHHIHIH", 0x10001, 8, 1, 20, 1, 28, 2) + axes + struct.pack(">H", 2) + value
    face = identify(Font.read(small_font(weight=0, names={1: "Penyu"}, extra={"STAT": stat})))
    assert face.weight == 600
    assert ("weight", "STAT axis wght", "600") in {(e.aspect, e.source, e.says) for e in face.evidence}


def test_evidence_is_data() -> None:
    face = identify(Font.read(small_font(names={1: "Penyu", 2: "Bold"}, weight=400, mac_style=1)))
    said = {(piece.aspect, piece.source, piece.says) for piece in face.evidence}
    assert {("weight", "OS/2", "400"), ("weight", "bold mark", "bold"), ("weight", "name 'Bold'", "700")} <= said


def test_variable_fonts_tell_their_ranges(aksara: Run) -> None:
    path = next(path for path in corpus() if path.name == "Karla[wght].ttf")
    assert identify(open_font(path)).weight_range == (200, 800)
    told = json.loads(aksara("inspect", path, "--json").stdout)
    face = told["families"][0]["faces"][0]
    variation = face["variation"]
    assert face["weight"] == [200, 800]
    weight = {"tag": "wght", "name": "Weight", "minimum": 200, "default": 400, "maximum": 800, "hidden": False}
    assert variation["axes"] == [weight]
    assert {"name": "Bold", "location": {"wght": 700}} in variation["instances"]
    assert variation["varies"] == ["outlines", "advances", "kerning and mark positions"]
    shown = " ".join(aksara("inspect", path).stdout.split())
    assert "font-weight 200 800" in shown
    assert "wght Weight: 200 to 800, default 400" in shown
    assert "Light (wght 300), Regular (default), Medium (wght 500)" in shown


def test_a_variable_font_covers_static_faces_and_does_not_conflict_with_them(aksara: Run) -> None:
    static, variable = SYSTEM / "karla", SYSTEM / "karla-variable"
    done = aksara("inspect", static, variable)
    assert "claims to be" not in done.stderr
    assert done.stderr == "", "and nobody is asked for what is there"
    assert "200–800" in done.stdout
    shown = " ".join(done.stdout.split())
    assert "Karla[wght].ttf is variable and covers Extra Light, Light, Regular, Medium, Bold, Extra Bold" in shown
    assert "Karla-Italic[wght].ttf is variable and covers Extra Light Italic, Light Italic, Italic" in shown
    faces = json.loads(aksara("inspect", static, variable, "--json").stdout)["families"][0]["faces"]
    covered = {Path(face["path"]).name: len(face["covers"]) for face in faces}
    assert covered.pop("Karla[wght].ttf") == covered.pop("Karla-Italic[wght].ttf") == 6
    assert set(covered.values()) == {0}


_UPRIGHT = Face(path="a", family="A", weight=400, style="normal", axes=(("wght", (300, 700)), ("wdth", (75, 100))))
_SLANTED = Face(path="b", family="A", weight=400, style="normal", axes=(("wght", (300, 700)), ("slnt", (-10, 0))))


@pytest.mark.parametrize(
    ("variable", "static", "covered"),
    [
        (_UPRIGHT, {"weight": 300}, True),
        (_UPRIGHT, {"weight": 800}, False),
        (_UPRIGHT, {"width": 75.0}, True),
        (_UPRIGHT, {"width": 62.5}, False),
        (_UPRIGHT, {"style": "italic"}, False),
        (_UPRIGHT, {"family": "B"}, False),
        (_UPRIGHT, {"variant": "Outline"}, False),
        (_UPRIGHT, {"axes": (("wght", (300, 700)),)}, False),
        (_SLANTED, {"style": "oblique"}, True),
        (_SLANTED, {"width": 75.0}, False),
    ],
)
def test_what_a_variable_font_covers(variable: Face, static: dict[str, Any], covered: bool) -> None:
    other = Face(**{"path": "c", "family": "A", "weight": 400, "style": "normal", **static})
    assert variable.covers(other) is covered
    assert not other.covers(variable)


def test_two_fonts_that_claim_to_be_one_face_are_shown_by_inspect(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "one.ttf").write_bytes(small_font())
    (tmp_path / "two.ttf").write_bytes(small_font({0x41: 1}))
    done = aksara("inspect", ".")
    assert "one.ttf: claims to be Kotak Regular, as does two.ttf" in done.stderr


def test_optical_sizes_build_side_by_side(aksara: Run, tmp_path: Path) -> None:
    for size in ("8", "12"):
        names = {1: f"Kotak {size}", 2: "Regular", 16: "Kotak", 17: f"{size} Regular"}
        (tmp_path / f"{size}.ttf").write_bytes(small_font(names=names))
    done = aksara("build", ".", "--json")
    assert [family["family"] for family in json.loads(done.stdout)["families"]] == ["Kotak 12", "Kotak 8"]


@pytest.mark.parametrize("family", ["DejaVu Sans", "Liberation Sans", "Open Sans"])
def test_a_real_family_comes_out_whole(family: str, aksara: Run, tmp_path: Path) -> None:
    for path in corpus():
        if path.name.startswith(family.replace(" ", "")) and "Mono" not in path.name and path.suffix == ".ttf":
            shutil.copy(path, tmp_path)
    told = json.loads(aksara("inspect", ".", "--json").stdout)
    assert [group["family"] for group in told["families"]] == [family]
    labels = [face["label"] for face in told["families"][0]["faces"]]
    assert len(set(labels)) == len(labels) > 5


def test_a_variable_font_is_at_the_location_of_its_axes(aksara: Run, tmp_path: Path) -> None:
    """Whatever its tables and names say of the weight: it can be any."""
    font = open_font(PENYU_VARIABLE)
    weight, slant = font.table(Fvar).axes
    odd = replace(weight, minimum=0, default=900 << 16, maximum=1100 << 16)
    (tmp_path / "a.ttf").write_bytes(font.with_tables([Fvar((odd, slant), ())]).write("sfnt"))
    done = aksara("inspect", "a.ttf", "--json")
    (face,) = json.loads(done.stdout)["families"][0]["faces"]
    assert (face["weight"], done.stderr) == ([1, 1000], "")
    assert identify(open_font(tmp_path / "a.ttf")).weight == 900

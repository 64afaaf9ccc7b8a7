"""Building with variable fonts: what becomes of them, what the style sheet says, and what is said when it cannot be."""

from __future__ import annotations

import json
import shutil
import subprocess
from itertools import pairwise
from pathlib import Path
from typing import Any

import freetype
import jsonschema
import pytest
from PIL import Image, ImageChops
from playwright.sync_api import Browser

from aksara.font import Font, open_font
from aksara.pipeline import BuildRequest, CharacterRequest, FamilyRequest, Progress, make_plan, run
from aksara.tables import Fvar
from conftest import Run, manifest_of, unhinted_system, watched_page
from fonts import DEMO_FONTS, LIBERATION, SYSTEM
from places import ROOT
from variable import KARLA, PENYU, with_postscript_outlines

SCHEMA = json.loads((ROOT / "docs/faces.schema.json").read_text())
_FAST = ("--for-text", "Penyu Ferries", "--effort", "fast")


def _faces(folder: Path) -> list[dict[str, Any]]:
    manifest = manifest_of(folder)
    jsonschema.validate(manifest, SCHEMA)
    return [face for family in manifest["families"] for face in family["faces"]]


def _axes(folder: Path, face: dict[str, Any]) -> dict[str, tuple[float, float]]:
    font = open_font(folder / face["files"][0]["path"])
    return {axis.tag: axis.range for axis in font.table(Fvar).axes} if "fvar" in font else {}


def test_a_variable_font_stays_variable_with_its_ranges(aksara: Run, tmp_path: Path) -> None:
    done = aksara("-v", "build", PENYU, *_FAST)
    assert done.returncode == 0, done.stderr
    (face,) = _faces(tmp_path / "web-fonts")
    assert (face["weight"], face["slant"], face["width"], face["label"]) == (
        [300, 800],
        [0, 10],
        100,
        "Variable 300–800",
    )
    assert face["axes"] == {"wght": [300, 800], "slnt": [-10, 0]}
    assert {"name": "Bold Oblique", "location": {"wght": 700, "slnt": -10}} in face["instances"]
    assert [file["format"] for file in face["files"]] == ["woff2"]
    assert "No WOFF is made of variable fonts" in done.stdout
    css = (tmp_path / "web-fonts/faces.css").read_text()
    assert "  font-style: oblique 0deg 10deg;\n  font-weight: 300 800;" in css
    assert "tech(" not in css, "browsers that do not know it would pass the file over"
    asked = aksara("build", PENYU, *_FAST, "--format", "woff2", "--format", "woff", "--to", "both")
    assert "No WOFF" not in asked.stdout
    assert [file["format"] for file in _faces(tmp_path / "both")[0]["files"]] == ["woff2", "woff"]


@pytest.mark.parametrize(
    ("options", "expected"),
    [
        # What the site uses limits the axes; one place of an axis pins it.
        (["--use", "400", "--use", "700"], [([400, 700], "normal", {"wght": (400, 700)})]),
        (["--use", "400"], [(400, "normal", {})]),
        (["--use", "400", "--use", "700 oblique"], [([400, 700], "normal", {"wght": (400, 700), "slnt": (-10, 0)})]),
        (["--use", "700 oblique"], [(700, "oblique", {})]),
        (["--use", "100"], [(300, "normal", {})]),
        # What is asked for by its axis counts more than what is used.
        (["--use", "400", "--axis", "wght", "500..600"], [([500, 600], "normal", {"wght": (500, 600)})]),
        (["--axis", "slnt", "-8..-3"], [([300, 800], "oblique", {"wght": (300, 800), "slnt": (-8, -3)})]),
        (["--axis", "slnt", "0", "--axis", "wght", "450"], [(450, "normal", {})]),
        # Pinned: a face for each use, or for each name.
        (["--variable", "pin", "--use", "400", "--use", "700 italic"], [(400, "normal", {}), (700, "oblique", {})]),
        (
            ["--variable", "pin", "--axis", "slnt", "0"],
            [(300, "normal", {}), (400, "normal", {}), (700, "normal", {}), (800, "normal", {})],
        ),
    ],
)
def test_axes_after_narrowing(options: list[str], expected: list[Any], aksara: Run, tmp_path: Path) -> None:
    done = aksara("build", PENYU, *_FAST, *options)
    assert done.returncode == 0, done.stderr
    folder = tmp_path / "web-fonts"
    faces = sorted(_faces(folder), key=lambda face: (face["style"], str(face["weight"])))
    assert [(face["weight"], face["style"], _axes(folder, face)) for face in faces] == expected


def test_the_other_way_is_made_and_weighed(aksara: Run, tmp_path: Path) -> None:
    done = aksara("build", PENYU, "--for-text", "Penyu Ferries", "--use", "400", "--use", "700")
    (family,) = manifest_of(tmp_path / "web-fonts")["families"]
    other = aksara("build", PENYU, "--for-text", "Penyu Ferries", "--use", "400", "--use", "700", "--variable", "pin",
                   "--to", "pinned")  # fmt: skip
    (pinned,) = manifest_of(tmp_path / "pinned")["families"]
    ways = family["variable_fonts"], pinned["variable_fonts"]
    assert [way["taken"]["words"] for way in ways] == ["as variable", "pinned at 400 and 700"]
    for mine, theirs in (ways, ways[::-1]):
        assert {name: mine["instead"][name] for name in mine["taken"]} == theirs["taken"]
    first_files = [face["files"][0] for face in pinned["faces"]]
    assert ways[1]["taken"]["bytes"] == sum(file["bytes"] for file in first_files)
    assert "as variable: 1 file" in done.stdout
    assert "pinned at 400 and 700: 2 files" in done.stdout
    assert "(--variable pin)" in done.stdout
    assert "(--variable keep)" in other.stdout
    # Where nothing says what is used, the options that the figure is for say it.
    unsaid = aksara("build", PENYU, *_FAST, "--to", "unsaid")
    assert "pinned at 400 and 700" in unsaid.stdout
    assert "--variable pin --use 400 --use 700)" in unsaid.stdout


def test_files_that_are_only_weighed_count_as_progress(tmp_path: Path) -> None:
    family = FamilyRequest(fonts=(PENYU,))
    request = BuildRequest(families=(family,), folder=tmp_path, characters=CharacterRequest(texts=("A",)))
    steps: list[Progress] = []
    run(make_plan(request), steps.append)
    assert [(step.done, step.total) for step in steps] == [(1, 3), (2, 3), (3, 3)]
    assert sorted(step.label for step in steps[1:]) == ["Penyu Sans Bold", "Penyu Sans Regular"]


def test_a_folder_of_mixed_formats(aksara: Run, tmp_path: Path) -> None:
    for path in (KARLA, SYSTEM / "karla/Karla-Regular.otf", SYSTEM / "karla/Karla-BoldItalic.otf"):
        shutil.copy(path, tmp_path)
    kept = aksara("build", ".", *_FAST)
    assert "Karla[wght].ttf: variable, and covers Regular; these static fonts are skipped" in kept.stderr
    labels = [face["label"] for face in _faces(tmp_path / "web-fonts")]
    assert labels == ["Variable 200–800", "Bold Italic"], "nothing variable stands for the italic"
    skipped = aksara("build", ".", *_FAST, "--variable", "skip", "--to", "skipped")
    assert "Karla[wght].ttf: variable, and skipped: the static fonts are used instead" in skipped.stderr
    assert [face["label"] for face in _faces(tmp_path / "skipped")] == ["Regular", "Bold Italic"]
    # With nothing in its place a variable font is not passed over.
    aksara("build", KARLA, *_FAST, "--variable", "skip", "--to", "alone")
    assert [face["label"] for face in _faces(tmp_path / "alone")] == ["Variable 200–800"]


def test_an_axis_between_upright_and_italic_makes_two_faces(aksara: Run, tmp_path: Path) -> None:
    font = open_font(PENYU)
    fvar = font.table(Fvar)
    weight, slant = fvar.axes
    italic = type(slant)(int.from_bytes(b"ital", "big"), 0, 0, 1 << 16, 0, slant.name_id)
    (tmp_path / "a.ttf").write_bytes(font.with_tables([Fvar((weight, italic), ())]).write("sfnt"))
    aksara("build", "a.ttf", *_FAST)
    faces = _faces(tmp_path / "web-fonts")
    assert [(face["weight"], face["style"]) for face in faces] == [([300, 800], "normal"), ([300, 800], "italic")]
    assert all(set(_axes(tmp_path / "web-fonts", face)) == {"wght"} for face in faces)


def test_the_project_file_knows_axes_and_variable(aksara: Run, tmp_path: Path) -> None:
    shutil.copy(PENYU, tmp_path)
    project = '[site]\nalso = "Penyu"\n\n[[family]]\nfonts = ["*.ttf"]\n'
    (tmp_path / "aksara.toml").write_text(f"{project}axes = {{ wght = [400, 700], slnt = 0 }}\n")
    assert aksara("build").returncode == 0
    assert _axes(tmp_path / "web-fonts", _faces(tmp_path / "web-fonts")[0]) == {"wght": (400, 700)}
    (tmp_path / "aksara.toml").write_text(f'{project}variable = "pin"\nuses = ["700"]\n')
    assert aksara("build").returncode == 0
    assert [face["weight"] for face in _faces(tmp_path / "web-fonts")] == [700]
    for line, said in (
        ("axes = { wght = [400, 950] }", "line 6: axes: "),
        ("axes = { opsz = 14 }", "there is no axis opsz in these fonts; they have wght, slnt"),
        ("axes = { wght = [400] }", "'wght' must be a value or a range, as 14 or [400, 700]"),
        ('axes = "wght"', "'axes' must be axes with a value or a range each"),
        ('variable = "keeps"', "did you mean 'keep'"),
    ):
        (tmp_path / "aksara.toml").write_text(f"{project}{line}\n")
        done = aksara("build")
        assert done.returncode == 2, line
        assert said in done.stderr, (line, done.stderr)


@pytest.mark.parametrize(
    ("font", "options", "said"),
    [
        (PENYU, ["opsz", "14"], "--axis: there is no axis opsz in these fonts; they have wght, slnt"),
        (PENYU, ["wght", "100..700"], "wght 100..700 is beyond the axis, which goes from 300 to 800"),
        (PENYU, ["wght", "700..400"], "wght 700..400: the range is reversed; write 400..700"),
        (PENYU, ["wght", "bold"], "'bold' is not an axis value; write a number, or a range as 400..700"),
        (PENYU, ["wght", "400.."], "'400..' is not a range; write two numbers, as 400..700"),
        (PENYU, ["wght", "nan"], "'nan' is not an axis value"),
        (PENYU, ["wght", "400", "--axis", "wght", "700"], "--axis: wght is given twice; for a range write 400..700"),
        (LIBERATION[0], ["wght", "400"], "wght: the fonts are static; only variable fonts have axes"),
    ],
)
def test_impossible_axis_limits_are_refused(
    font: Path, options: list[str], said: str, aksara: Run, tmp_path: Path
) -> None:
    done = aksara("build", font, "--axis", *options)
    assert (done.returncode, done.stdout) == (2, "")
    assert said in done.stderr
    assert not (tmp_path / "web-fonts").exists()


def test_fallback_faces_follow_the_weight(aksara: Run, tmp_path: Path) -> None:
    aksara("build", PENYU, "--for-language", "en", "--stack", "Arial, sans-serif", "--effort", "fast")
    (family,) = manifest_of(tmp_path / "web-fonts")["families"]
    whole = [face for face in family["fallbacks"] if not face["unicode_range"]]
    upright = [face for face in whole if face["style"] == "normal"]
    spans = [face["weight"] if isinstance(face["weight"], list) else [face["weight"]] * 2 for face in upright]
    assert (spans[0][0], spans[-1][1]) == (300, 800)
    assert all(next_low == high + 1 for (_, high), (next_low, _) in pairwise(spans))
    assert [each for each in spans if each[0] == 600], "from 600 on browsers take the system's bold"
    regular = next(face for face, (low, high) in zip(upright, spans, strict=True) if low <= 400 <= high)
    aksara("build", DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf"), "--for-language", "en", "--stack",
           "Arial, sans-serif", "--effort", "fast", "--to", "static")  # fmt: skip
    static = manifest_of(tmp_path / "static")["families"][0]["fallbacks"][0]
    assert regular["size_adjust"] == static["size_adjust"], "at a weight that sites use it fits exactly"
    slanted = [face["weight"] for face in whole if face["style"] == "italic"]
    assert slanted[0][0] == 300 and slanted[-1][-1] == 800


def test_the_instances_are_the_static_fonts() -> None:
    """Penyu Sans is drawn from the same strokes in both forms."""
    variable = freetype.Face(str(PENYU))
    for weight, name in ((400, "Regular"), (700, "Bold")):
        variable.set_var_design_coords([weight, 0])
        static = freetype.Face(str(DEMO_FONTS[0].with_name(f"PenyuSans-{name}.ttf")))
        for face in (variable, static):
            face.set_pixel_sizes(0, 100)
        for code in sorted(Font.read(PENYU.read_bytes()).characters)[::2]:
            pictures = []
            for face in (variable, static):
                face.load_char(chr(code), freetype.FT_LOAD_RENDER | freetype.FT_LOAD_NO_HINTING)
                bitmap = face.glyph.bitmap
                pictures.append((bytes(bitmap.buffer), bitmap.rows, bitmap.width, face.glyph.linearHoriAdvance))
            assert pictures[0] == pictures[1], (name, chr(code))


def _in_firefox(page: Path, folder: Path) -> Image.Image:
    """A picture of the page in Firefox ESR, which nothing here can drive but by its command line."""
    picture, profile = folder / f"{page.stem}.png", folder / "profile"
    profile.mkdir(exist_ok=True)
    command = ["firefox-esr", "--headless", "--no-remote", "--profile", str(profile), "--window-size=900,700",
               "--screenshot", str(picture), f"file://{page}"]  # fmt: skip
    subprocess.run(
        command,
        check=True,
        capture_output=True,
        timeout=300,
        env=unhinted_system(folder, "dejavu") | {"HOME": str(folder), "XDG_CACHE_HOME": str(folder / "cache")},
    )
    return Image.open(picture).convert("RGB")


def test_firefox_takes_the_rules_as_chromium_does(aksara: Run, tmp_path: Path) -> None:
    """The page of our rules looks like one of the desktop font, at weights and slants all over the axes."""
    aksara("build", PENYU, "--for-text", "Penyu Ferries 0123", "--effort", "fast")
    shutil.copy(PENYU, tmp_path / "source.ttf")
    styles = [f"font-weight: {w}; font-style: oblique {a}deg" for w, a in ((300, 0), (450, 10), (700, 0), (800, 6))]
    lines = "".join(f'<p style="{style}">Penyu Ferries 0123</p>' for style in styles)
    look = "<style>p { font: 60px Penyu; margin: 0; line-height: 1.6 }</style>"
    link = '<!doctype html><meta charset="utf-8"><link rel="stylesheet" href="web-fonts/faces.css">'
    source = (
        "@font-face { font-family: Penyu; src: url(source.ttf); font-weight: 300 800; font-style: oblique 0deg 10deg }"
    )
    (tmp_path / "ours.html").write_text(link + look.replace("60px Penyu", '60px "Penyu Sans"') + lines)
    (tmp_path / "source.html").write_text(f"<!doctype html><style>{source}</style>{look}{lines}")
    (tmp_path / "system.html").write_text(f"<!doctype html>{look}{lines}")
    ours, theirs, system = (_in_firefox(tmp_path / f"{name}.html", tmp_path) for name in ("ours", "source", "system"))
    assert ImageChops.difference(ours, theirs).getbbox() is None
    assert ImageChops.difference(ours, system).getbbox() is not None


def test_the_proof_goes_along_the_axes(aksara: Run, tmp_path: Path, browser: Browser) -> None:
    aksara("build", PENYU, "--for-text", "Penyu Ferries", "--effort", "fast")
    with watched_page(browser, viewport={"width": 1280, "height": 800}) as (page, problems):
        page.goto(f"file://{tmp_path}/web-fonts/proof.html")
        page.evaluate("document.fonts.ready")
        line = page.locator("[data-axes] .line").first
        pictures = [line.screenshot()]
        page.get_by_role("button", name="Extra Bold Oblique").click()
        assert page.locator("output").all_inner_texts() == ["800", "-10"]
        pictures.append(line.screenshot())
        page.get_by_label("Weight").fill("300")
        assert page.locator("output").first.inner_text() == "300"
        pictures.append(line.screenshot())
    assert problems == []
    assert len(set(pictures)) == 3


def test_postscript_outlines_stay_or_become_static(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.otf").write_bytes(with_postscript_outlines().write("sfnt"))
    assert "CFF2" in aksara("inspect", "a.otf").stdout
    for form in ("woff", "woff2"):
        (tmp_path / f"a.{form}").write_bytes(with_postscript_outlines().write(form))
        done = aksara("build", f"a.{form}", *_FAST, "--to", form)
        assert done.returncode == 0, done.stderr
    assert _axes(tmp_path / "woff", _faces(tmp_path / "woff")[0]) == {"wght": (300, 800), "slnt": (-10, 0)}
    aksara("build", "a.otf", *_FAST, "--variable", "pin", "--use", "700", "--to", "pinned")
    (face,) = _faces(tmp_path / "pinned")
    assert "CFF " in open_font(tmp_path / "pinned" / face["files"][0]["path"])


def test_axes_stay_whole_where_limits_save_nothing(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.otf").write_bytes(with_postscript_outlines().write("sfnt"))

    def built(*options: str) -> tuple[int, str]:
        done = aksara("build", "a.otf", "--for-language", "en", *options)
        (face,) = _faces(tmp_path / "web-fonts")
        return face["files"][0]["bytes"], done.stdout + done.stderr

    (whole, _), (less, said_of_less), (more, said_of_more) = (
        built(),
        built("--axis", "wght", "300..700"),
        built("--axis", "wght", "350..750"),
    )
    assert less < whole == more
    assert "stay whole" not in said_of_less
    assert "its axes stay whole, since the file would be about 5% larger; the CSS keeps to the limits" in said_of_more
    assert "font-weight: 350 750" in (tmp_path / "web-fonts/faces.css").read_text()
    # Limits by what the site uses are there for the bytes alone.
    assert built("--use", "350", "--use", "750")[0] <= whole

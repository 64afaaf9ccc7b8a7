"""Measured families: their widths are kept beside the project, builds match them, and no file does harm."""

from __future__ import annotations

import json
import shutil
from pathlib import Path
from statistics import mean

import pytest
from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.faces import face_metrics, identify
from aksara.font import open_font
from aksara.instancing import AxisLimit, narrow
from aksara.text import find_language, language_frequencies, parse_ranges
from aksara.web.fallback import SetFace, fallback_faces
from aksara.web.measured_families import MEASURED_NAME, read_measured, write_measured
from aksara.web.system_families import SystemFace, widths_row
from conftest import Run
from fonts import DEMO_FONTS, DEMO_SLABS, SYSTEM

_FOLDER = DEMO_FONTS[0].parent
_VARIABLE = _FOLDER / "PenyuSans[slnt,wght].ttf"


def test_a_family_is_measured_and_matched(aksara: Run, tmp_path: Path) -> None:
    done = aksara("measure", "penyu slab", "--from", _FOLDER)
    assert done.returncode == 0, done.stderr
    assert "Penyu Slab  Regular, Italic, Bold, Bold Italic" in done.stdout
    text = (tmp_path / MEASURED_NAME).read_text()
    (family,) = read_measured(text, "x")
    assert write_measured([family]) == text, "the same again"
    regular = next(path for path in DEMO_SLABS if path.stem.endswith("-Regular"))
    widths = face_metrics(open_font(regular)).widths
    measured = family.face(bold=False, italic=False).widths
    assert all(abs(widths[ord(each)] - measured[ord(each)]) < 0.001 for each in "abcXYZ0…đ")
    # No outline is in it.
    assert "glyf" not in text and len(text) < 10_000
    built = aksara("build", DEMO_FONTS[0], "--stack", "Penyu Slab, serif", "--for-language", "en", "--json")
    fallback, *parts = json.loads(built.stdout)["families"][0]["fallbacks"]
    assert all(part["unicode_range"] and part["on"] == "Penyu Slab" for part in parts)
    assert fallback["on"] == "Penyu Slab" and 80 < fallback["size_adjust"] < 130 and fallback["line_difference"] > 0
    assert fallback["local"] == ["Penyu Slab Bold", "PenyuSlab-Bold"]
    # A second family comes beside the first; nothing changes where nothing has.
    assert "as before" in aksara("measure", "Penyu Slab", "--from", _FOLDER).stdout
    told = json.loads(aksara("measure", "Penyu Sans", "--from", _FOLDER, "--platform", "ios", "--json").stdout)
    assert told["families"][0]["generic"] == "sans-serif"
    kept = json.loads((tmp_path / MEASURED_NAME).read_text())["families"]
    assert [(each["family"], each["platforms"] == ["ios"]) for each in kept] == [
        ("Penyu Sans", True),
        ("Penyu Slab", False),
    ]


def test_a_variable_family_is_measured_at_the_weights_that_pages_use(aksara: Run, tmp_path: Path) -> None:
    shutil.copy(_VARIABLE, tmp_path)
    done = aksara("measure", "Penyu Sans", "--from", tmp_path)
    assert done.returncode == 0 and "Penyu Sans  Regular, Bold;" in done.stdout, done.stdout + done.stderr
    (family,) = read_measured((tmp_path / MEASURED_NAME).read_text(), "x")
    font = open_font(_VARIABLE)
    for face, weight in zip(family.faces, (400, 700), strict=True):
        pinned = face_metrics(narrow(font, {"wght": AxisLimit(weight, weight)})).widths
        assert all(abs(pinned[ord(letter)] - face.widths[ord(letter)]) < 0.001 for letter in "abcXYZ0…đ")
    regular, bold = family.faces
    assert mean(bold.widths.values()) > mean(regular.widths.values())
    assert bold.local[0] == "Penyu Sans Bold"


def test_widths_are_written_to_a_few_units() -> None:
    widths = {0x61: 0.0, 0x62: 0.5, 0x63: 1.9995, 0x64: 3.0, 0x65: -0.1, 0x66: -0.9}
    read = SystemFace(False, False, (), (*widths, 0x67), widths_row(widths, (*widths, 0x67))).widths
    assert read == pytest.approx({**widths, 0x64: 4095 / 2048, 0x65: -0.1, 0x66: -0.5}, abs=0.004)


def test_families_that_are_not_there_are_reported(aksara: Run, tmp_path: Path) -> None:
    done = aksara("measure", "Penyu Slap", "--from", _FOLDER)
    assert done.returncode == 2 and "did you mean penyu slab?" in done.stderr
    done = aksara("measure", "Zzz", "--from", _FOLDER)
    assert done.returncode == 2 and "on a computer that has the family" in done.stderr
    assert aksara("measure", "Zzz", "--from", "nowhere").returncode == 2
    assert not (tmp_path / MEASURED_NAME).exists()


@pytest.mark.parametrize(
    "change",
    [
        lambda text: text[:200], lambda text: "[]", lambda text: '{"families": 3}', lambda text: '{"families": [3]}',
        lambda text: text.replace('"serif"', '"fraktur"'),
        lambda text: text.replace('"characters": "', '"characters": "aa'),
        lambda text: text.replace('"x_height": 0', '"x_height": 7'),
        lambda text: text.replace('"widths": "', '"widths": "?'),
        lambda text: text.replace('"faces": {', '"faces": {"Black": 3, '), lambda text: "[" * 100_000,
        lambda text: text.replace('"Regular"', '"Upright"'), lambda text: text.replace("linux", "plan 9"),
    ],
)  # fmt: skip
def test_a_file_edited_by_hand_is_reported(change: object, aksara: Run, tmp_path: Path) -> None:
    aksara("measure", "Penyu Slab", "--from", _FOLDER, "--platform", "linux")
    path = tmp_path / MEASURED_NAME
    text = change(path.read_text())  # type: ignore[operator]
    with pytest.raises(RequestError, match="remove it, and measure the families again"):
        read_measured(text, "measured-families.json")
    path.write_text(text)
    done = aksara("build", DEMO_FONTS[0])
    assert done.returncode == 2 and MEASURED_NAME in done.stderr and "Traceback" not in done.stderr


def test_a_text_in_several_scripts_is_fitted_script_by_script() -> None:
    font = open_font(SYSTEM / "dejavu/DejaVuSans.ttf")
    text = language_frequencies(map(find_language, ("en", "ru")))
    face = SetFace(identify(font), face_metrics(font), text)
    rules = fallback_faces("A", [face], ("Arial", "sans-serif"))
    other = next(rule for rule in rules if len(parse_ranges(rule.unicode_range)) > 200)
    assert rules[0].unicode_range == "" and parse_ranges(other.unicode_range) & {0x61, 0x430} in ({0x61}, {0x430})
    assert rules[0].size_adjust != other.size_adjust
    english = replace(face, frequencies=language_frequencies([find_language("en")]), share=0.0)
    (alone,) = fallback_faces("A", [english], ("Arial",))
    assert alone.unicode_range == ""

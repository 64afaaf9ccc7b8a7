"""Hints: what of them is left out draws nothing, and what they take is told."""

from __future__ import annotations

import io
from pathlib import Path

import freetype
import pytest

from aksara.font import Font
from aksara.pipeline.making.font_files import FontRecipe, make_font_files
from aksara.subsetting import FeatureChoice, Subset, SubsetOptions, subset
from aksara.tables.hinting import FontProgram
from aksara.truetype.programs import ProgramUse, without_functions
from comparison import whole
from conftest import Run, manifest_of
from fonts import SYSTEM

OPEN_SANS = SYSTEM / "open-sans/OpenSans-Regular.ttf"
LATIN = frozenset(range(0x20, 0x7F))
SIZES = (8, 9, 11, 13, 16, 21, 48)

PUSH, PUSHES, CALL, LOOPCALL, FDEF, ENDF = 0xB0, 0xB1, 0x2B, 0x2A, 0x2C, 0x2D
IF, ELSE, EIF, JMPR, MPPEM, POP, ADD = 0x58, 0x1B, 0x59, 0x1C, 0x4B, 0x21, 0x60
RCVT, MIAP, RS, WS = 0x45, 0x3E, 0x43, 0x42


def _functions(*bodies: tuple[int, ...]) -> bytes:
    """A font program that defines them, numbered from 0."""
    return bytes(byte for number, body in enumerate(bodies) for byte in (PUSH, number, FDEF, *body, ENDF))


# 0 does nothing, 1 calls 0, 2 reads control value 5, 3 takes a number and calls the function of that number.
LIBRARY = _functions((), (PUSH, 0, CALL), (PUSH, 5, RCVT, POP), (CALL,))


@pytest.mark.parametrize(
    ("preparation", "glyph", "called", "values"),
    [
        ((), (PUSH, 1, CALL), {0, 1}, set()),
        ((), (PUSHES, 0, 3, CALL), {0, 3}, set()),
        ((PUSH, 2, CALL), (), {2}, {5}),
        # How often is known, or is not.
        ((), (PUSHES, 3, 0, LOOPCALL), {0}, set()),
        ((), (MPPEM, PUSH, 2, LOOPCALL), {2}, {5}),
        # Which depends on the size: either.
        ((), (MPPEM, IF, PUSH, 0, ELSE, PUSH, 2, EIF, CALL), {0, 2}, {5}),
        ((), (PUSH, 0, IF, PUSH, 0, ELSE, PUSH, 2, EIF, CALL), {2}, {5}),
        # What only one branch pushes.
        ((), (PUSH, 0, MPPEM, IF, PUSH, 1, EIF, CALL), {0, 1}, set()),
        ((), (PUSHES, 1, 1, ADD, CALL), {2}, {5}),
        ((), (PUSHES, 0, 2, WS, PUSH, 0, RS, CALL), {2}, {5}),
        ((), (PUSHES, 1, 7, MIAP), set(), {7}),
        # Numbers that cannot be told.
        ((), (MPPEM, RCVT, POP), set(), None),
        ((), (MPPEM, CALL), None, None),
        ((PUSHES, 0, 2, WS), (PUSH, 0, RS, CALL), None, None),
        ((), (PUSH, 9, CALL), None, None),
        ((), (CALL,), None, None),
        ((), (PUSH, 2, JMPR), None, None),
        ((), (PUSH, 1, IF), None, None),
        ((), (PUSH,), None, None),
        ((), (0x91,), None, None),
    ],
)
def test_results_of_glyph_programs(
    preparation: tuple[int, ...], glyph: tuple[int, ...], called: set[int] | None, values: set[int] | None
) -> None:
    use = ProgramUse(LIBRARY)
    use.run(bytes(preparation))
    use.run(bytes(glyph))
    assert use.known == (called is not None)
    if called is not None:
        assert (use.called, use.control_values) == (called, values)


@pytest.mark.parametrize("body", [(PUSH, 0, CALL), (PUSHES, 255, 0, LOOPCALL, PUSHES, 255, 0, LOOPCALL)])
def test_endless_functions_are_given_up(body: tuple[int, ...]) -> None:
    use = ProgramUse(_functions(body))
    use.run(bytes((PUSH, 0, CALL)))
    assert not use.known


def test_emptied_functions_keep_their_numbers() -> None:
    use = ProgramUse(LIBRARY)
    emptied = without_functions(LIBRARY, use.functions, {1, 2})
    assert emptied == _functions((), (), (), (CALL,))
    again = ProgramUse(emptied)
    assert again.known
    assert again.functions.keys() == use.functions.keys()


def _hinted(font: Font, glyphs: list[int]) -> list[object]:
    """The glyphs as the font's own programs fit them to the grid, in greys and in black and white."""
    face = freetype.Face(io.BytesIO(whole(font)))
    flags = freetype.FT_LOAD_RENDER | freetype.FT_LOAD_NO_AUTOHINT | freetype.FT_LOAD_NO_BITMAP
    drawn: list[object] = []
    for size in SIZES:
        face.set_pixel_sizes(0, size)
        for glyph in glyphs:
            for target in (freetype.FT_LOAD_TARGET_NORMAL, freetype.FT_LOAD_TARGET_MONO):
                try:
                    face.load_glyph(glyph, flags | target)
                except freetype.FT_Exception as error:
                    drawn.append(str(error))
                else:
                    slot = face.glyph
                    drawn.append((bytes(slot.bitmap.buffer), slot.bitmap_left, slot.bitmap_top, slot.advance.x))
    return drawn


def _glyphs(cut: Subset) -> tuple[list[int], list[int]]:
    """The kept glyphs by their old and new IDs."""
    pairs = [(old, new) for new, old in enumerate(cut.glyphs) if old is not None]
    return [old for old, _ in pairs], [new for _, new in pairs]


@pytest.mark.parametrize(
    ("path", "smaller"),
    [(OPEN_SANS, 0.5), (SYSTEM / "dejavu/DejaVuSans.ttf", 1), (SYSTEM / "liberation/LiberationSerif-Regular.ttf", 1)],
)
def test_removing_functions_changes_no_pixel(path: Path, smaller: float) -> None:
    source = Font.read(path.read_bytes(), path.name)
    cut = subset(source, LATIN)
    assert len(cut.font.raw("fpgm")) <= smaller * len(source.raw("fpgm"))
    old, new = _glyphs(cut)
    assert _hinted(cut.font, new) == _hinted(source, old)


def test_the_comparison_would_see_a_function_that_is_missed() -> None:
    source = Font.read(OPEN_SANS.read_bytes(), "OpenSans.ttf")
    cut = subset(source, LATIN)
    old, new = _glyphs(cut)
    program = cut.font.raw("fpgm")
    use = ProgramUse(program)
    damaged = cut.font.with_tables([FontProgram(without_functions(program, use.functions, use.functions))])
    assert _hinted(damaged, new) != _hinted(source, old)


@pytest.mark.parametrize("path", [OPEN_SANS, SYSTEM / "dejavu/DejaVuSans-Bold.ttf"])
def test_what_hints_take_is_about_what_dropping_them_saves(path: Path) -> None:
    font = Font.read(path.read_bytes(), path.name)
    recipe = FontRecipe(characters=LATIN, features=FeatureChoice(), hints=True, formats=("woff2",), effort="normal")
    with_hints = make_font_files(font, recipe)
    plain = subset(font, LATIN, SubsetOptions(hints=False)).font.write("woff2")
    saved = len(with_hints.files[0].data) - len(plain)
    assert abs(with_hints.hint_size - saved) < 0.15 * saved


def test_hints_are_reported_and_are_the_first_way_out_of_a_missed_budget(aksara: Run, tmp_path: Path) -> None:
    done = aksara("build", OPEN_SANS, "--for-range", "U+20-7E", "--budget", "8 KB", "--to", tmp_path / "type")
    assert done.returncode == 1
    told = next(line for line in done.stdout.splitlines() if line.startswith("Hints: about "))
    assert "--hinting drop" in told
    first = next(line for line in done.stdout.splitlines() if line.startswith("  - "))
    assert first.startswith("  - drop the hints")
    assert first.endswith("enough")
    (face,) = [face for family in manifest_of(tmp_path / "type")["families"] for face in family["faces"]]
    assert 0.2 < face["hints_about_bytes"] / face["files"][0]["bytes"] < 0.6
    without = aksara("build", OPEN_SANS, "--for-range", "U+20-7E", "--hinting", "drop", "--to", tmp_path / "type")
    assert "Hints:" not in without.stdout

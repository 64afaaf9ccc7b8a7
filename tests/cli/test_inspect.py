"""`aksara inspect`: at a glance, in detail, and for programs."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from aksara.font import open_font
from aksara.sizes import format_size
from conftest import Run
from fonts import DEJAVU, DEMO_FONTS, corpus, small_font


def test_a_folder_is_a_table_of_faces_for_each_family(aksara: Run) -> None:
    done = aksara("inspect", DEMO_FONTS[0].parent, DEJAVU[0].parent)
    assert done.returncode == 0
    lines = done.stdout.splitlines()
    total = format_size(sum(path.stat().st_size for path in DEMO_FONTS[0].parent.glob("PenyuSans*.ttf")))
    assert any(line.startswith(f"Penyu Sans  5 faces, {total}") for line in lines)
    assert "PenyuSans[slnt,wght].ttf is variable and covers Regular, Bold" in lines
    assert any(line.startswith("DejaVu Serif  ") for line in lines)
    (row,) = [line for line in lines if "PenyuSans-BoldItalic.ttf" in line]
    path = next(path for path in DEMO_FONTS if "BoldItalic" in path.name)
    size, count = format_size(path.stat().st_size).split(), str(len(open_font(path).characters))
    assert row.split() == ["Bold", "Italic", "700", "italic", count, *size, "installable", "TrueType",
                           "PenyuSans-BoldItalic.ttf"]  # fmt: skip


def test_one_font_is_shown_in_detail(aksara: Run) -> None:
    done = aksara("inspect", DEMO_FONTS[0], "--tables", "--features", "--characters", "--languages")
    for text in (
        "font-weight 700, font-style normal, font-stretch 100%",
        "installable: the font itself sets no limits",
        "Copyright 2026 Penyu Ferries",
        "Latin Extended-A",
        "Latin Extended Additional",
        f"TrueType, {open_font(DEMO_FONTS[0]).num_glyphs} glyphs",
        "Hints            none",
        "kerning",
        "Vietnamese",
        "á â ã ä å",
    ):
        assert text in done.stdout, text
    sizes = open_font(DEMO_FONTS[0]).sizes()
    assert all(f"{size:,}" in done.stdout for size in sizes.values())


def test_json_has_everything_and_nothing_else_is_printed(aksara: Run) -> None:
    done = aksara("inspect", DEMO_FONTS[0].parent, "--json")
    family, _, slab = json.loads(done.stdout)["families"]
    face = family["faces"][0]
    assert (slab["family"], slab["faces"][0]["generic"]) == ("Penyu Slab", "serif")
    assert (family["family"], face["label"], face["weight"], face["style"]) == ("Penyu Sans", "Regular", 400, "normal")
    assert face["characters"] == len(open_font(DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf")).characters) > 400
    assert face["unicode_range"].startswith("U+20-7E, U+A0-17F")
    assert face["tables"]["glyf"] > 10_000
    assert face["embedding"]["permission"] == "installable"
    assert face["names"]["Licence address"] == "https://penyu.example/type/licence"


def test_how_a_font_draws_in_colour_is_reported(aksara: Run) -> None:
    done = aksara("inspect", next(path for path in corpus() if path.name == "AmiriQuranColored.ttf"))
    assert done.returncode == 0
    assert "Amiri Quran Colored" in done.stdout
    assert "COLR version 0, 1 palette" in done.stdout


def test_the_permission_and_oddities_are_reported(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font(fs_type=0x0102, names={1: "Kotak", 2: "Bold"}))
    done = aksara("inspect", "a.ttf")
    assert "restricted: must not be embedded without the maker's permission; must not be subsetted" in done.stdout
    assert "a.ttf: the font says weight 400, its name says Bold; using 700 (--face overrides)" in done.stderr


@pytest.mark.parametrize(("option", "coloured"), [("always", True), ("never", False), ("auto", False)])
def test_colour_is_the_users_choice(aksara: Run, option: str, coloured: bool) -> None:
    done = aksara("--colour", option, "inspect", DEMO_FONTS[0].parent)
    assert ("\x1b[" in done.stdout) == coloured
    assert "\x1b[3" not in aksara("--color", "auto", "inspect", DEMO_FONTS[0].parent, NO_COLOR="1").stdout


@pytest.mark.parametrize("width", [60, 70, 100])
@pytest.mark.parametrize("command", ["inspect", "scan", "build"])
def test_a_narrow_terminal_loses_columns_but_no_figure(command: str, width: int, aksara: Run, sound: Path) -> None:
    arguments = {"inspect": ["fonts"], "scan": ["site"], "build": ["--dry-run", "--slices", "script"]}[command]
    done = aksara(command, *arguments, cwd=sound, COLUMNS=str(width))
    told = {"inspect": ["Bold Italic", "installable", "81 KB"], "scan": ["Bold Italic", "52 ", "185"],
            "build": ["Penyu Slab", "150 KB", "--slices", "language"]}[command]  # fmt: skip
    assert all(word in done.stdout for word in told), done.stdout
    rows = [line for line in done.stdout.splitlines() if "─" in line]
    assert rows and max(map(len, rows)) <= width
    if width == 60:
        assert not any(word in done.stdout for word in ("Outlines", "Languages", "Pairs unkerned"))


def test_quiet_says_nothing_but_what_was_asked_for(aksara: Run) -> None:
    done = aksara("-q", "build", DEMO_FONTS[0], "--for-text", "a")
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")


def test_verbose_tells_what_was_left_out(aksara: Run) -> None:
    done = aksara("-v", "build", DEJAVU[0], "--for-text", "a")
    assert "left out table FFTM" in done.stderr


def test_help_tells_every_command(aksara: Run) -> None:
    done = aksara("-h")
    assert all(f"  {name}  " in done.stdout for name in ("inspect", "build", "demo"))
    assert "--for-range" in aksara("build", "--help").stdout
    assert aksara("--version").stdout.startswith("aksara 0.")

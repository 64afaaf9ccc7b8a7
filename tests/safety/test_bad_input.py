"""Bad fonts get one clear message and the right status; nothing crashes, nothing is written."""

from __future__ import annotations

import os
import re
import struct
from collections.abc import Callable
from pathlib import Path

import brotli
import pytest
from msgspec.structs import replace

from aksara.container import sfnt
from aksara.font import Font
from aksara.tables import Cff2, Gvar
from conftest import Run
from fonts import DEMO_FONTS, box, small_font, words
from variable import PENYU as VARIABLE
from variable import with_postscript_outlines

PENYU = DEMO_FONTS[0].read_bytes()


def _with(tag: str, body: bytes) -> bytes:
    tables = sfnt.read(small_font())[1]
    return sfnt.write({**tables, tag: body}, "\0\1\0\0")


def _directory_entry(data: bytes, tag: bytes) -> int:
    return data.index(tag, 12)


def _patched(data: bytes, at: int, value: bytes) -> bytes:
    return data[:at] + value + data[at + len(value) :]


def _beyond() -> bytes:
    data = small_font()
    return _patched(data, _directory_entry(data, b"glyf") + 12, struct.pack(">I", 10_000_000))


def _circle() -> bytes:
    part = struct.pack(">hhhhhHHbb", -1, 0, 0, 9, 9, 0x0002, 1, 0, 0)
    return small_font(glyphs=[b"", part, b"", box(9)[0]])


def _cmap(body: bytes) -> bytes:
    return _with("cmap", struct.pack(">HHHHI", 0, 1, 3, 10, 12) + body)


def _bomb() -> bytes:
    packed = brotli.compress(bytes(1000))
    directory = b"\x3f" + b"AAAA" + b"\x8f\xff\xff\xff\x7f"
    body = directory + packed
    return struct.pack(">4s4sIHHIIHHIIIII", b"wOF2", b"\0\1\0\0", 48 + len(body), 1, 0, 0, len(packed),
                       1, 0, 0, 0, 0, 0, 0) + body  # fmt: skip


def _variable(tag: str, at: int | None, value: int, size: int = 4) -> bytes:
    """Penyu Sans as a variable font with a wrong number in that table (None: at its end)."""
    font = Font.read(VARIABLE.read_bytes())
    tables = {tag: font.raw(tag) for tag in font} | {"avar": words(1, 0, 0, 2, 3) + _STRAIGHT + words(3) + _STRAIGHT}
    body = tables[tag]
    at = len(body) - size if at is None else at
    return sfnt.write({**tables, tag: _patched(body, at, value.to_bytes(size, "big"))}, "\0\1\0\0")


_STRAIGHT = words(-0x4000, -0x4000, 0, 0, 0x4000, 0x4000)


def _moving(variations: bytes) -> bytes:
    """The same with these variations of its letter A."""
    font = Font.read(VARIABLE.read_bytes())
    glyphs = list(font.table(Gvar).glyphs)
    glyphs[font.characters[0x41]] = variations
    return font.with_tables([replace(font.table(Gvar), glyphs=glyphs)]).write("sfnt")


def _stored(store: bytes) -> bytes:
    """The same with a store of how advances change."""
    font = Font.read(VARIABLE.read_bytes())
    tables = {tag: font.raw(tag) for tag in font}
    return sfnt.write({**tables, "HVAR": struct.pack(">IIIII", 0x10000, 20, 0, 0, 0) + store}, "\0\1\0\0")


def _postscript(charstring: bytes) -> bytes:
    """The same with PostScript outlines, of which the first has this charstring."""
    font = with_postscript_outlines()
    charstrings = list(font.table(Cff2).charstrings)
    charstrings[1] = charstring
    return font.with_tables([replace(font.table(Cff2), charstrings=charstrings)]).write("sfnt")


# What is in a.ttf → status, and what the message must say.
CASES: dict[str, tuple[Callable[[], bytes], int, str]] = {
    "empty": (lambda: b"", 3, "a.ttf: the file is empty"),
    "text": (lambda: b"Dear customer, here is your font.", 3, "a.ttf: not a font that Aksara reads"),
    "download page": (lambda: b"<!DOCTYPE html><title>Log in", 3, "a.ttf: not a font but a web page"),
    "pdf": (lambda: b"%PDF-1.7 ...", 3, "a.ttf: not a font but a PDF document"),
    "broken zip": (lambda: b"PK\3\4" + bytes(30), 3, "a.ttf: this ZIP cannot be opened"),
    "cut in the directory": (lambda: PENYU[:40], 3, "a.ttf: the font is damaged at byte"),
    "cut in a table": (lambda: PENYU[:50_000], 3, "but the file ends at 50000"),
    "table beyond the end": (_beyond, 3, "table 'glyf' should lie at"),
    "too many tables": (lambda: PENYU[:4] + b"\xff\xff" + PENYU[6:], 3, "claims 65,535 tables"),
    "missing table": (lambda: small_font(without=("hmtx",)), 3, "in table 'hmtx': it is missing"),
    "circle of parts": (_circle, 3, "in table 'glyf', glyph 1: it is made of components that contain itself"),
    "loca backwards": (
        lambda: _with("loca", struct.pack(">5H", 0, 900, 4, 4, 4)), 3,
        "in table 'loca', glyph 1, byte 2: it ends before it starts"),
    "cmap of millions": (
        lambda: _cmap(struct.pack(">HHIII", 12, 0, 28, 0, 0xFFFFFFF0)), 3,
        "in table 'cmap', byte 28: expected groups"),
    "cmap backwards": (
        lambda: _cmap(struct.pack(">HHIIIIII", 12, 0, 28, 0, 1, 90, 60, 1)), 3, "a group of codes runs backwards"),
    "no usable cmap": (lambda: _with("cmap", struct.pack(">HH", 0, 0)), 3, "none of the fonts has any"),
    "em of nothing": (lambda: _with("head", _patched(sfnt.read(small_font())[1]["head"], 18, b"\0\0")), 3,
                      "0 units per em"),
    "axes out of order": (lambda: _variable("fvar", 28, 300 << 16), 3, "the default of axis 'wght' is not between"),
    "a thousand axes": (lambda: _variable("fvar", 8, 1000, 2), 3, "in table 'fvar', byte 8: it claims 1000 axes"),
    "instances cut short": (lambda: _variable("fvar", 14, 6, 2), 3, "have no room for 2 coordinates"),
    "a map backwards": (lambda: _variable("avar", 14, 0x5000_0000), 3, "in table 'avar', byte 8: one of its maps runs"),
    "variations beyond the end": (lambda: _variable("gvar", 26, 0xFFFFFFFF), 3, "lie beyond the end of the table"),
    "a point beyond the glyph": (
        lambda: _moving(words(1, 8, 4, 0x2000) + bytes((1, 0, 200, 0, 1, 0, 1))), 3, "it moves point 200, but"),
    "a tuple that is not shared": (
        lambda: _moving(words(1, 8, 1, 0x0FFF) + bytes(8)), 3, "it names shared tuple 4095, but there are"),
    "deltas past the end": (
        lambda: _moving(words(1, 8, 3, 0x2000) + bytes((1, 0, 0))), 3, "its deltas run past its end"),
    "a store of 65,535 regions": (
        lambda: _stored(struct.pack(">HIH", 1, 8, 0) + words(2, 0xFFFF)), 3, "in table 'HVAR', byte"),
    "rows of the wrong length": (
        lambda: _stored(struct.pack(">HIHI", 1, 0, 1, 12) + words(0xFFF0, 1, 1, 0, 5)), 3, "in table 'HVAR', byte"),
    "regions of other axes": (
        lambda: _stored(struct.pack(">HIHI", 1, 12, 1, 22) + words(1, 1, 0, 1, 2) + words(1, 0, 1, 0, 0x500)), 3,
        "a region has 1 axes, but the font has 2"),
    "blends of too few numbers": (
        lambda: _postscript(bytes((140, 16, 22))), 3, "in table 'CFF2', glyph 1: it has too few numbers to blend"),
    "CFF of nothing": (
        lambda: small_font(extra={"CFF ": b"\1\0\4\1" + bytes(16)}, without=("glyf", "loca")), 3,
        "in table 'CFF ': it holds no font"),
    "collection": (lambda: b"ttcf" + bytes(40), 3, "says that it holds no fonts"),
    "bitmaps only": (lambda: small_font(extra={"EBDT": b"x"}, without=("glyf", "loca")), 3, "bitmaps only"),
    "woff that lies": (lambda: b"wOFF" + bytes(60), 3, "its header says 0 bytes"),
    "woff2 bomb": (_bomb, 3, "more than any real font of its size has"),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_a_bad_font_gets_one_clear_message(name: str, aksara: Run, tmp_path: Path) -> None:
    make, status, message = CASES[name]
    (tmp_path / "a.ttf").write_bytes(make())
    done = aksara("build", "a.ttf")
    assert message in done.stderr
    assert done.returncode == status
    assert len(done.stderr.strip().splitlines()) == 1
    assert "Traceback" not in done.stderr
    assert [path.name for path in tmp_path.iterdir()] == ["a.ttf"]


WRONG_USE = {
    "no such path": (("build", "nowhere"), 2, "nowhere: no such file or folder"),
    "no fonts": (("build", "."), 3, "no fonts here"),
    "output is a file": (("build", "p.ttf", "--to", "p.ttf"), 2, "--to: p.ttf is a file, not a folder"),
    "output under a file": (("build", "p.ttf", "--to", "p.ttf/x"), 3, "p.ttf/x: cannot be written"),
    "css is a folder": (("build", "p.ttf", "--css", "."), 2, "--css: . is a folder, not a file"),
    "no character": (("build", "p.ttf", "--for-text", "語"), 3, "none of the fonts has any of the characters"),
    "empty text": (("build", "p.ttf", "--for-text", ""), 2, "no characters are asked for"),
    "bad range": (("build", "p.ttf", "--for-range", "A-Z!"), 2, "'A-Z!' is not a Unicode range"),
    "not a text": (("build", "p.ttf", "--for-file", "p.ttf"), 3, "p.ttf: not UTF-8 text"),
    "bad url": (("build", "p.ttf", "--url", "/fonts/"), 2, "--url: '/fonts/' names no font"),
    "bad face": (("build", "p.ttf", "--face", "q.ttf", "400", "normal"), 2, "did you mean p.ttf?"),
    "bad weight": (("build", "p.ttf", "--face", "p.ttf", "4000", "normal"), 2, "--face: p.ttf: 4000 is not a weight"),
    "bad format": (("build", "p.ttf", "--format", "pfb"), 2, "'pfb'"),
    "nothing": (("build",), 2, "run `aksara build FOLDER`"),
    "no command": (("press",), 2, "press"),
    "inspect text": (("inspect", "page.ttf"), 3, "page.ttf: not a font"),
    "demo over things": (("demo", "."), 2, "this folder has other files in it"),
}


@pytest.mark.parametrize("name", WRONG_USE)
def test_wrong_use_is_reported(name: str, aksara: Run, tmp_path: Path) -> None:
    arguments, status, message = WRONG_USE[name]
    if name != "no fonts":
        (tmp_path / "p.ttf").write_bytes(PENYU)
        (tmp_path / "page.ttf").write_text("plain words")
    before = sorted(path.name for path in tmp_path.iterdir())
    done = aksara(*arguments)
    assert (done.returncode, message in done.stderr) == (status, True), done.stderr
    assert "Traceback" not in done.stderr
    assert sorted(path.name for path in tmp_path.iterdir()) == before


def test_every_bad_font_of_a_folder_is_named_at_once(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "good.ttf").write_bytes(PENYU)
    (tmp_path / "bad.otf").write_bytes(b"")
    (tmp_path / "worse.woff2").write_bytes(b"wOF2" + bytes(100))
    done = aksara("build", ".")
    assert done.returncode == 3
    assert "bad.otf: the file is empty" in done.stderr
    assert "worse.woff2: the font is damaged" in done.stderr
    shown = aksara("inspect", ".")
    assert shown.returncode == 3
    assert "Penyu Sans" in shown.stdout
    assert shown.stderr.count("Cannot use") == 2


@pytest.mark.skipif(os.geteuid() != 0, reason="only root's own files can be taken from others in this way")
def test_a_file_that_cannot_be_read(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").symlink_to("/proc/self/mem")
    done = aksara("inspect", "a.ttf")
    assert done.returncode == 3
    assert "a.ttf: cannot be read" in done.stderr


def test_names_of_fonts_are_shown_safely(aksara: Run, tmp_path: Path) -> None:
    nasty = 'A"</style><b>*/\n\x1b[31m[/red]\u202e'
    (tmp_path / "a.ttf").write_bytes(small_font(names={0: "*/ body{} </style>" + nasty, 1: nasty, 2: "Regular"}))
    shown = aksara("inspect", "a.ttf")
    assert shown.returncode == 0
    assert "\x1b" not in shown.stdout
    assert "\u202e" not in shown.stdout
    built = aksara("build", "a.ttf")
    assert built.returncode == 0, built.stderr
    assert "[/red] Regular" in built.stdout
    css, page = (tmp_path / "web-fonts/faces.css").read_text(), (tmp_path / "web-fonts/proof.html").read_text()
    assert "</style" not in css
    bare = re.sub(r'/\*.*?\*/|"(?:[^"\\]|\\.)*"', "", css, flags=re.DOTALL)
    assert not re.search(r'/\*|\*/|"|body|red', bare.replace("--a-style-b-31m-red", ""))
    assert bare.count("{") == bare.count("}") == 2
    assert page.count("</style>") == 1
    assert "<b>*/" not in page

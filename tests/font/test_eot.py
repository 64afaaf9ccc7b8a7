"""EOT, for what takes nothing else: its header says what the font says, and browsers of today pass it over."""

from __future__ import annotations

import struct
from pathlib import Path

import pytest
from playwright.sync_api import Browser

from aksara.container import eot, read, sniff, write
from aksara.errors import FontError, UnsupportedFont
from aksara.font import Font, open_font
from aksara.tables import OS2, Name
from conftest import Run, open_page
from fonts import DEMO_FONTS, DEMO_SLABS, small_font


def test_the_header_says_what_the_font_says(aksara: Run, tmp_path: Path) -> None:
    bold = next(path for path in DEMO_FONTS if path.stem.endswith("BoldItalic"))
    done = aksara("build", bold, "--format", "woff2", "--format", "eot", "--for-text", "Ferry", "--to", "out")
    assert done.returncode == 0 and "Internet Explorer 6 to 8" in done.stderr
    (made,) = (tmp_path / "out/fonts").glob("*.eot")
    data = made.read_bytes()
    size, font_size, version, flags = struct.unpack_from("<4I", data)
    assert (size, version, flags) == (len(data), 0x00020001, 0), "neither compressed nor encrypted"
    plain = Font.read(data[-font_size:], "inside")
    os2, names = plain.table(OS2), plain.table(Name)
    assert data[16:26] == plain.raw("OS/2")[32:42] and data[27] == 1, "PANOSE, italic"
    weight, permission, magic = struct.unpack_from("<IHH", data, 28)
    assert (weight, permission, magic) == (700, os2.fs_type, 0x504C)
    assert struct.unpack_from("<4I", data, 36) == struct.unpack_from(">4I", plain.raw("OS/2"), 42)
    assert struct.unpack_from("<I", data, 60)[0] == struct.unpack_from(">I", plain.raw("head"), 8)[0]
    at, found = 82, []
    for _ in range(4):
        (length,) = struct.unpack_from("<H", data, at)
        found.append(data[at + 2 : at + 2 + length].decode("utf-16-le"))
        at += 2 + length + 2
    assert found[0] == names.get(1) and found[1] == (names.get(2) or "")
    assert data[at : at + 2] == b"\0\0" and at + 2 + font_size == len(data), "no site is named"


def test_current_browsers_load_the_woff2(aksara: Run, browser: Browser, tmp_path: Path) -> None:
    aksara("build", DEMO_FONTS[0], "--format", "eot", "--format", "woff2", "--for-text", "Ferry", "--to", "out")
    sheet = (tmp_path / "out/faces.css").read_text()
    first, second = (line for line in sheet.splitlines() if line.startswith("  src:") and "local(" not in line)
    assert '.eot");' in first and '.eot?#iefix") format("embedded-opentype"),' in second
    (tmp_path / "page.html").write_text(
        "<link rel=stylesheet href=out/faces.css><p style='font-family: var(--penyu-sans)'><b>Ferry</b> Ferry <i>Ferry"
    )
    asked: list[str] = []
    with open_page(browser) as view:
        view.on("request", lambda request: asked.append(request.url.rpartition(".")[2]))
        view.goto(f"file://{tmp_path}/page.html")
        view.evaluate("document.fonts.ready")
    assert "woff2" in asked and not any(each.startswith("eot") for each in asked)
    assert '"bytes"' in aksara("build", DEMO_FONTS[0], "--format", "eot", "--json").stdout


def test_postscript_outlines_are_converted(aksara: Run, tmp_path: Path) -> None:
    done = aksara("build", DEMO_SLABS[0], "--format", "woff2", "--format", "eot", "--for-text", "a")
    assert done.returncode == 0, done.stderr
    (made,) = (tmp_path / "web-fonts/fonts").glob("*.eot")
    # Internet Explorer draws none with PostScript outlines.
    assert Font.read(made.read_bytes()).outlines == "TrueType"


@pytest.mark.parametrize(
    ("change", "error"),
    [
        (lambda data: data[:60], FontError),
        (lambda data: data[:4] + b"\xff\xff\xff\x7f" + data[8:], FontError),
        (lambda data: data[:12] + b"\4\0\0\0" + data[16:], UnsupportedFont),
        (lambda data: data + b"more", FontError),
    ],
)
def test_damaged_eot_files_are_refused(change: object, error: type[Exception]) -> None:
    font = Font.read(small_font(), "a.ttf")
    data = write("eot", {tag: font.raw(tag) for tag in font}, font.flavour)
    assert sniff(data) == "eot" and read(data)[0].tables == open_like(font)
    with pytest.raises(error):
        eot.read(change(data))  # type: ignore[operator]


def open_like(font: Font) -> dict[str, bytes]:
    """The tables as they are once written."""
    plain = read(font.write("sfnt"))[0]
    return dict(plain.tables)


def test_what_is_read_is_not_taken_for_a_web_font(aksara: Run, tmp_path: Path) -> None:
    font = open_font(DEMO_FONTS[0])
    (tmp_path / "a.eot").write_bytes(font.write("eot"))
    (tmp_path / "index.html").write_text(
        "<style>@font-face { font-family: A; src: url(a.eot) }</style><p style='font-family: A, serif'>Ferry"
    )
    done = aksara("check", ".")
    assert done.returncode == 1 and "no current browser supports" in done.stdout

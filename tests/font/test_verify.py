"""What is written is read again: a wrong byte anywhere, metadata included, never gets out."""

from __future__ import annotations

from pathlib import Path

import pytest

from aksara import container
from aksara.container import FontFormat
from aksara.errors import OutputError
from aksara.faces import WebLicence, web_metadata
from aksara.font import Font, open_font
from aksara.parsed_tables import ParsedTables
from aksara.pipeline.making import font_files
from aksara.pipeline.making.font_files import FontRecipe, make_font_files
from aksara.pipeline.making.verification import verify_file
from aksara.subsetting import FeatureChoice, subset
from aksara.tables import Cmap, Glyf
from aksara.truetype.glyph_data import first_difference
from fonts import DEMO_FONTS, DEMO_SLABS

LETTERS = frozenset(map(ord, "AVfié."))


def _cut(path: Path) -> Font:
    return subset(open_font(path), LETTERS).font


_FONTS = {"sans": DEMO_FONTS[0], "slab": DEMO_SLABS[0]}
_CASES = [(name, tag) for name, path in _FONTS.items() for tag in _cut(path) if tag not in ("loca",)]


@pytest.mark.parametrize("font_format", container.FORMATS)
@pytest.mark.parametrize(("name", "tag"), _CASES)
def test_a_wrong_byte_in_any_table_is_found(name: str, tag: str, font_format: FontFormat) -> None:
    font = _cut(_FONTS[name])
    verify_file(font.write(font_format, effort="fast"), font)
    body = bytearray(font.raw(tag))
    # In 'glyf' the second byte of a point's coordinates; elsewhere any byte that is no checksum.
    at = {"glyf": len(body) - 3, "head": 18}.get(tag, len(body) // 2)
    body[at] ^= 0x01
    spoilt = Font({each: font.raw(each) for each in font} | {tag: bytes(body)}, font.flavour, path=font.path)
    with pytest.raises(OutputError, match=r"glyph \d+" if tag == "glyf" else f"'{tag}'"):
        verify_file(spoilt.write(font_format, effort="fast"), font)


def test_a_missing_or_extra_table_is_found() -> None:
    font = _cut(DEMO_FONTS[0])
    for changed in (font.with_tables([], ["kern"]), Font({tag: font.raw(tag) for tag in font} | {"meta": b"x"})):
        with pytest.raises(OutputError, match="tables"):
            verify_file(changed.write("woff2", effort="fast"), font)


@pytest.mark.parametrize("font_format", ["woff2", "woff"])
def test_metadata_that_do_not_read_back_are_found(font_format: FontFormat) -> None:
    font = _cut(DEMO_FONTS[0])
    xml = web_metadata(open_font(DEMO_FONTS[0]), WebLicence(holder="Penyu Ferries"))
    data = font.write(font_format, metadata=xml)
    verify_file(data, font, xml)
    for wrong in (b"", xml.replace(b"Penyu", b"Perahu")):
        with pytest.raises(OutputError, match="metadata"):
            verify_file(data, font, wrong)
    spoilt = data[:-9] + bytes((data[-9] ^ 0xFF,)) + data[-8:]
    with pytest.raises(OutputError, match="metadata"):
        verify_file(spoilt, font, xml)


def test_every_file_of_a_build_is_verified_with_its_metadata(monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[tuple[bytes, bytes]] = []

    def record(data: bytes, font: Font, metadata: bytes) -> None:
        seen.append((data, metadata))
        verify_file(data, font, metadata)

    monkeypatch.setattr(font_files, "verify_file", record)
    recipe = FontRecipe(
        characters=LETTERS,
        features=FeatureChoice(),
        hints=True,
        formats=("woff2", "woff", "sfnt"),
        effort="fast",
        metadata=b"<metadata/>",
        require_metadata=True,
    )
    made = make_font_files(open_font(DEMO_FONTS[0]), recipe)
    assert [data for data, _ in seen] == [file.data for file in made.files], "as written, not before metadata"
    assert [metadata for _, metadata in seen] == [b"<metadata/>", b"<metadata/>", b""]


def test_glyphs_that_are_only_encoded_otherwise_are_the_same() -> None:
    glyphs = _cut(DEMO_FONTS[0]).table(Glyf).glyphs
    # Liberal padding draws nothing; another point does.
    assert first_difference(glyphs, [glyph + bytes(-len(glyph) % 4) for glyph in glyphs]) is None
    moved = [*glyphs[:-1], glyphs[-1][:-1] + bytes((glyphs[-1][-1] ^ 1,))]
    assert first_difference(glyphs, moved) == len(glyphs) - 1
    assert first_difference(glyphs, glyphs[:-1]) == len(glyphs) - 1


def test_the_same_font_has_one_digest_in_every_container() -> None:
    font = _cut(DEMO_SLABS[0])
    digests = {Font.read(font.write(font_format)).digest for font_format in ("woff", "sfnt")}
    assert digests == {font.digest}
    assert font.with_tables([], ["kern", "GPOS"]).digest != font.digest
    assert len(font.digest) == 64


def test_recipes_do_not_depend_on_output_paths() -> None:
    recipe = FontRecipe(
        characters=LETTERS, features=FeatureChoice(), hints=True, formats=("woff2",), effort="fast", metadata=b""
    )
    one, other = (make_font_files(open_font(DEMO_FONTS[0]), recipe) for _ in range(2))
    assert one == other
    assert not any("path" in name or "url" in name for name in FontRecipe.__slots__)


def test_characters_are_looked_up_once_a_font(monkeypatch: pytest.MonkeyPatch) -> None:
    calls = 0
    original = Cmap.characters

    def counted(self: Cmap) -> dict[int, int]:
        nonlocal calls
        calls += 1
        return original(self)

    monkeypatch.setattr(Cmap, "characters", counted)
    font = Font.read_all(DEMO_FONTS[0].read_bytes(), parsed=ParsedTables(0))[0]
    subset(font, LETTERS)
    subset(font, None)
    font.trim_parsed()
    assert font.characters and calls == 1

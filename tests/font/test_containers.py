"""Containers: what is written is read back the same, by us and, as far as they can say, by other programs."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aksara import container
from aksara.binary import Reader, checksum
from aksara.container import sfnt, woff, woff2
from aksara.container.woff2 import glyf as woff2_glyf
from aksara.container.woff2.directory import base128, encode_255, read_255, read_base128
from aksara.errors import FontError
from aksara.font import Font
from aksara.truetype.points import Points, decode_simple, encode_simple
from fonts import DEMO_FONTS, LIBERATION, SYSTEM, box, corpus, one_of_each, small_font, truetype


def _outlines(font: Font) -> tuple[bytes, object]:
    """Outlines in the form in which each glyph has just one."""
    tables = {tag: font.raw(tag) for tag in ("glyf", "loca", "head", "maxp")}
    stream, boxes = woff2_glyf.transform(tables)
    return stream, boxes.tolist()


def _same(first: Font, second: Font) -> None:
    loose = {"head", "glyf", "loca", "DSIG"}
    assert set(first) - {"DSIG"} == set(second) - {"DSIG"}
    assert [tag for tag in first if tag not in loose and first.raw(tag) != second.raw(tag)] == []
    if "glyf" in first and len(first.raw("glyf")):
        assert _outlines(first) == _outlines(second)


@pytest.mark.parametrize("path", [p for p in one_of_each() if p in truetype()], ids=lambda path: path.name)
def test_woff2_of_every_real_font_reads_back_the_same(path: Path) -> None:
    font = Font.read(path.read_bytes(), path.name)
    tables = {tag: font.raw(tag) for tag in font}
    packed = woff2.write(tables, font.flavour, quality=1)
    back = Font.read(packed)
    assert back.container == "woff2"
    assert len(packed) % 4 == 0
    _same(font, back)
    # The size that a reader should set aside is the size that it gets, but for the packing of outlines.
    claimed = struct.unpack(">I", packed[16:20])[0]
    tables.pop("DSIG", None)
    assert claimed == sfnt.size_of(woff2_glyf.aligned(tables) if "glyf" in tables else tables)


@pytest.mark.parametrize("path", [*DEMO_FONTS[:1], *LIBERATION[:1]], ids=lambda path: path.name)
def test_woff_and_sfnt_hold_every_table_as_it_was(path: Path) -> None:
    font = Font.read(path.read_bytes(), path.name)
    for form in ("woff", "sfnt"):
        back = Font.read(font.write(form))
        assert {tag: back.raw(tag) for tag in back if tag != "head"} == {
            tag: font.raw(tag) for tag in font if tag != "head"
        }


def test_a_written_sfnt_has_true_checksums() -> None:
    data = small_font()
    assert checksum(data) == 0xB1B0AFBA
    reader = Reader(data, 4)
    count = reader.u16()
    assert struct.unpack(">HHH", data[6:12]) == (128, 3, 16 * count - 128)
    reader.position = 12
    entries = [(reader.tag(), reader.u32(), reader.u32(), reader.u32()) for _ in range(count)]
    assert [entry[0] for entry in entries] == sorted(entry[0] for entry in entries)
    for tag, total, offset, length in entries:
        body = data[offset : offset + length]
        assert offset % 4 == 0
        assert total == checksum(sfnt.without_checksum(body) if tag == "head" else body), tag


def test_an_sfnt_is_read_in_any_order_with_any_checksum() -> None:
    data = bytearray(small_font())
    count = struct.unpack(">H", data[4:6])[0]
    entries = [data[12 + 16 * k : 28 + 16 * k] for k in range(count)]
    for entry in entries:
        entry[4:8] = b"\xde\xad\xbe\xef"
    data[12 : 12 + 16 * count] = b"".join(reversed(entries))
    assert sfnt.read(bytes(data))[1] == sfnt.read(small_font())[1]


def test_makers_own_woff_and_woff2_hold_the_same_font_as_their_ttf() -> None:
    """The Padauk package has each face as TTF, WOFF and WOFF2 written by others."""
    by_name: dict[str, dict[str, Path]] = {}
    for path in corpus():
        if path.stem.startswith("Padauk"):
            by_name.setdefault(path.stem, {})[path.suffix] = path
    checked = 0
    for forms in by_name.values():
        font = Font.read(forms[".ttf"].read_bytes())
        for suffix in forms.keys() - {".ttf"}:
            back = Font.read(forms[suffix].read_bytes())
            assert _outlines(font) == _outlines(back)
            assert all(font.raw(tag) == back.raw(tag) for tag in ("cmap", "hmtx", "GSUB", "GPOS", "OS/2"))
            checked += 1
    assert checked >= 4


def test_the_hmtx_transform_is_used_where_it_holds() -> None:
    plain = sfnt.read(small_font())[1]
    assert woff2.hmtx.transform(plain, np.zeros((4, 4), np.int64)) is not None
    shifted = np.zeros((4, 4), np.int64)
    shifted[2, 0] = 5
    assert woff2.hmtx.transform(plain, shifted) is None


@given(st.integers(0, 0xFFFFFFFF))
def test_base128_is_the_inverse_of_reading(value: int) -> None:
    packed = base128(value)
    assert len(packed) <= 5
    assert read_base128(Reader(packed)) == value


@pytest.mark.parametrize("data", [b"\x80\x01", b"\xff\xff\xff\xff\xff", b"\x90\x80\x80\x80\x00", b"\x81"])
def test_base128_refuses_what_the_specification_forbids(data: bytes) -> None:
    with pytest.raises(FontError):
        read_base128(Reader(data))


@pytest.mark.parametrize(
    ("value", "packed"),
    [(0, "00"), (252, "fc"), (253, "ff00"), (505, "fffc"), (506, "fe00"), (761, "feff"), (762, "fd02fa"),
     (65535, "fdffff")],
)  # fmt: skip
def test_255_has_one_form_for_each_number(value: int, packed: str) -> None:
    coded, sizes = encode_255(np.array([value]))
    assert coded.hex() == packed
    assert sizes.tolist() == [len(packed) // 2]
    assert read_255(Reader(coded)) == value


@settings(max_examples=150, deadline=None)
@given(st.lists(st.lists(st.tuples(st.integers(0, 63), st.integers(0, 255)), min_size=1, max_size=20), max_size=4))
def test_repeated_flags_round_trip(glyphs: list[list[tuple[int, int]]]) -> None:
    """Counts may look like flags, runs may follow runs; each glyph is a contour of points at one place."""
    coded, flags = [], []
    for runs in glyphs:
        own = [flag & 0x09 | 0x30 for flag, count in runs for _ in range(count + 1 if flag & 0x08 else 1)]
        packed = b"".join(bytes((flag & 0x09 | 0x30, count)[: 2 if flag & 0x08 else 1]) for flag, count in runs)
        coded.append(struct.pack(">h8xHH", 1, len(own) - 1, 0) + packed)
        flags += own
    assert decode_simple(coded, list(range(len(coded)))).on_curve.tolist() == [bool(flag & 1) for flag in flags]
    for at, glyph in enumerate(coded):
        with pytest.raises(FontError) as caught:
            decode_simple([*coded[:at], glyph[:-1], *coded[at + 1 :]], list(range(len(coded))))
        assert caught.value.glyph == at


_BORDERS = [0, 1, 64, 65, 255, 256, 768, 769, 1279, 1280, 4095, 4096, 20000]
_STEP = st.sampled_from([*_BORDERS, *(-b for b in _BORDERS)]) | st.integers(-300, 300)


@settings(max_examples=150, deadline=None)
@given(
    st.lists(st.lists(st.tuples(_STEP, _STEP, st.booleans()), min_size=1, max_size=300), min_size=1, max_size=4),
    st.booleans(),
    st.binary(max_size=300),
)
def test_any_glyph_survives_both_packings(
    contours: list[list[tuple[int, int, bool]]], overlap: bool, program: bytes
) -> None:
    flat = np.array([step for contour in contours for step in contour], np.int64).reshape(-1, 3)
    xs, ys = np.cumsum(flat[:, 0]), np.cumsum(flat[:, 1])
    if max(abs(xs).max(), abs(ys).max()) > 32767:
        return
    points = Points(
        np.array([len(contours)]),
        np.array([len(contour) for contour in contours]),
        flat[:, 2].astype(bool),
        flat[:, 0],
        flat[:, 1],
        np.array([overlap]),
        [program],
    )
    bounds = np.array([[xs.min(), ys.min(), xs.max(), ys.max()]])
    glyph = encode_simple(points, bounds)[0]
    back = decode_simple([glyph], [1])
    for name in ("contours", "counts", "on_curve", "dx", "dy", "overlap"):
        assert np.array_equal(getattr(points, name), getattr(back, name)), name
    assert back.instructions == [program]
    tables = sfnt.read(small_font(glyphs=[b"", glyph, box(300)[0], b""]))[1]
    rebuilt, loca, _ = woff2_glyf.rebuild(woff2_glyf.transform(tables)[0])
    offsets = np.frombuffer(loca, ">u2") * 2
    assert rebuilt[offsets[1] : offsets[2]].rstrip(b"\0") == glyph.rstrip(b"\0")


def test_a_bounding_box_of_its_own_is_kept() -> None:
    glyph = bytearray(box(300)[0])
    glyph[2:4] = struct.pack(">h", -40)  # xMin that no point has
    tables = sfnt.read(small_font(glyphs=[b"", bytes(glyph), b"", b""]))[1]
    rebuilt = woff2_glyf.rebuild(woff2_glyf.transform(tables)[0])[0]
    assert rebuilt[:10] == bytes(glyph[:10])


def test_a_table_that_would_grow_is_stored_uncompressed() -> None:
    noise = np.random.default_rng(1).bytes(64)
    packed = woff.write({"head": sfnt.read(small_font())[1]["head"], "cvt ": noise}, "\0\1\0\0")
    assert noise in packed
    (found,) = container.read(packed)
    assert found.tables["cvt "] == noise


def test_the_system_has_the_fonts_that_these_tests_speak_of() -> None:
    assert SYSTEM.is_dir()
    assert len(truetype()) > 30

"""Sequences of emoji and names of icons: those asked for stay as they are, the others go, and checks tell of them."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest
from PIL import ImageFont

from aksara.font import Font
from aksara.subsetting import FeatureChoice, subset
from aksara.subsetting.sequences import drawn_as_one, with_sequences_only
from aksara.tables import Gsub
from aksara.text.emoji import emoji_sequences, emoji_set, qualified, without_selectors
from aksara.text.sequences import Sequences, sequences_in
from conftest import Run
from emoji_fonts import (
    ASTRONAUT,
    BY_RULES,
    HEART,
    JOINER,
    MAN,
    ROCKET,
    SELECTOR,
    TONE,
    WOMAN,
    D,
    I,
    S,
    font,
    ligatures,
    part,
)
from fonts import small_font
from icon_fonts import icon_font

AT_ONCE = font(
    [
        (
            4,
            ligatures(
                g0=ASTRONAUT, g1=WOMAN + TONE, g2=MAN + TONE, g3=I + D, g4=D + S, g5="1\u20e3", g6=MAN + JOINER + ROCKET
            ),
        )
    ]
)
STEP_BY_STEP = font([
    (4, ligatures(g1=WOMAN + TONE, g2=MAN + TONE, g3=JOINER + ROCKET)),
    (4, ligatures(g0=part(1) + part(3), g4=part(2) + part(3), g5=WOMAN + part(3), g6=I + D)),
])  # fmt: skip
FONTS = {"at once": AT_ONCE, "step by step": STEP_BY_STEP, "by rules": BY_RULES}


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("plain text, 12 + 3 # 4", set()), (f"a {ASTRONAUT}!", {ASTRONAUT}), (f"{I}{D}{D}{S}", {I + D, D + S}),
        (f"{I}{D}{S}", {I + D}), ("1\ufe0f\u20e3 2\u20e3", {"1\ufe0f\u20e3", "2\u20e3"}), (f"{HEART}{SELECTOR}", set()),
        (f"{HEART}{SELECTOR}{JOINER}\U0001f525", {f"{HEART}{SELECTOR}{JOINER}\U0001f525"}), (f"{WOMAN}{JOINER}", set()),
        ("\U0001f3f4\U000e0067\U000e0062\U000e007f", {"\U0001f3f4\U000e0067\U000e0062\U000e007f"}),
        ("\u0915\u094d\u200d\u0937", set()),
    ],
)  # fmt: skip
def test_sequences_are_found_in_texts(text: str, found: set[str]) -> None:
    assert emoji_sequences(text) == found


def test_all_sequences_meant_for_use_are_found() -> None:
    every = [each for each in emoji_set("all").split() if len(without_selectors(each)) > 1]
    assert len(every) > 2000 and emoji_sequences(" ".join(every)) == set(every)
    assert all(qualified(without_selectors(each)) == each for each in every)
    assert sequences_in(["home ", "two words"], words=False) == {"home"}
    assert sequences_in(["home ", "two words"], words=True) == {"home", "two", "words"}


def _drawn(data: bytes, text: str) -> tuple[object, ...]:
    font = ImageFont.truetype(io.BytesIO(data), 40, layout_engine=ImageFont.Layout.RAQM)
    mask = font.getmask(text)
    return font.getlength(text), mask.size, bytes(mask)


@pytest.mark.parametrize("name", FONTS)
@pytest.mark.parametrize(
    "asked",
    [{ASTRONAUT}, {WOMAN + TONE}, {MAN + TONE}, {I + D}, {ASTRONAUT, I + D}, {MAN + JOINER + ROCKET}, {"1\ufe0f\u20e3"},
     {MAN + TONE + JOINER + ROCKET}],
    ids=lambda asked: "+".join("-".join(f"{ord(each):x}" for each in text) for text in sorted(asked)),
)  # fmt: skip
def test_requested_sequences_are_drawn_as_before(name: str, asked: set[str]) -> None:
    source = Font.read(FONTS[name], "emoji.ttf")
    characters = {ord(character) for text in asked for character in text}
    cut = subset(with_sequences_only(source, Sequences(frozenset(asked)), FeatureChoice()), characters)
    data = cut.font.write("sfnt")
    for text in [*asked, *map(chr, sorted(characters & source.characters.keys() - {ord(JOINER)}))]:
        assert _drawn(data, text) == _drawn(FONTS[name], text), text
    everything = subset(source, characters)
    assert cut.kept_glyphs <= everything.kept_glyphs
    # What one sequence takes no other one brings along.
    if name == "at once" and all(drawn_as_one(source, asked).values()):
        assert cut.kept_glyphs == 1 + len(cut.characters) + len(asked)


@pytest.mark.parametrize("name", FONTS)
def test_emoji_drawn_in_parts_are_known(name: str) -> None:
    known = drawn_as_one(
        Font.read(FONTS[name], "emoji.ttf"), {ASTRONAUT, I + S, WOMAN + TONE, HEART + TONE, ROCKET + "z"}
    )
    assert known == {ASTRONAUT: True, I + S: False, WOMAN + TONE: True, HEART + TONE: False}


def test_ranges_keep_all_sequences_of_their_characters() -> None:
    source = Font.read(AT_ONCE, "emoji.ttf")
    free = frozenset(map(ord, WOMAN + MAN + TONE))
    assert (
        with_sequences_only(source, Sequences(free=free | set(map(ord, JOINER + ROCKET))), FeatureChoice())
        is not source
    )
    cut = subset(with_sequences_only(source, Sequences(free=free), FeatureChoice()), free)
    assert all(drawn_as_one(cut.font, {WOMAN + TONE, MAN + TONE}).values())


def test_a_build_reports_emoji_drawn_in_parts(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "emoji.ttf").write_bytes(AT_ONCE)
    text = f"{ASTRONAUT} {I}{S} {HEART}{SELECTOR}"
    done = aksara("build", "emoji.ttf", "--for-text", text, "--format", "woff2", "--json")
    assert done.returncode == 0, done.stderr
    said = json.loads(done.stdout)
    (face,) = said["families"][0]["faces"]
    assert face["sequences"] == [ASTRONAUT]
    assert any(f"does not have whole: {I}{S};" in each["message"] for each in said["warnings"])
    assert not any("FE0F" in each["message"] for each in said["warnings"]), "selectors are looked past"
    (made,) = (tmp_path / "web-fonts/fonts").glob("*.woff2")
    assert Gsub.TAG in Font.read(made.read_bytes(), "a")


def test_all_emoji_can_be_requested(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "emoji.ttf").write_bytes(AT_ONCE)
    sizes = {}
    for name in ("basic", "all"):
        done = aksara("build", "emoji.ttf", "--for-emoji", name, "--to", name, "--format", "woff2", "--json")
        assert done.returncode == 0, done.stderr
        sizes[name] = json.loads(done.stdout)["families"][0]["faces"][0]["sequences"]
    assert sizes["basic"] == [] and set(sizes["all"]) == {ASTRONAUT, WOMAN + TONE, MAN + TONE, I + D, "1\ufe0f\u20e3",
                                                          MAN + JOINER + ROCKET}  # fmt: skip


def test_each_face_gets_the_sequences_that_pages_show_in_it(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "emoji.ttf").write_bytes(AT_ONCE)
    (tmp_path / "site").mkdir()
    page = f"<style>b {{ font-family: Kotak }}</style><p>{MAN}{TONE}</p><b>{ASTRONAUT}</b>"
    (tmp_path / "site/index.html").write_text(page)
    done = aksara("build", "emoji.ttf", "--for-site", "site", "--format", "woff2", "--to", "site/type", "--json")
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["families"][0]["faces"][0]["sequences"] == [ASTRONAUT]
    # What is written later has all its characters in the font, and comes in parts.
    page = page.replace("<style>", '<link rel="stylesheet" href="type/faces.css"><style>')
    (tmp_path / "site/index.html").write_text(page)
    assert "sequence-in-parts" not in aksara("check", "site", "--json").stdout
    (tmp_path / "site/index.html").write_text(page.replace("</b>", f"{WOMAN}{TONE}</b>"))
    (found,) = (
        each
        for each in json.loads(aksara("check", "site", "--json").stdout)["findings"]
        if each["kind"] == "sequence-in-parts"
    )
    assert f"has the parts of {WOMAN}{TONE}," in found["problem"] and found["level"] == "warning"


def test_icons_come_from_the_words_and_classes_of_pages(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "icons.ttf").write_bytes(icon_font())
    (tmp_path / "site").mkdir()
    (tmp_path / "site/index.html").write_text(
        "<style>i { font-family: Kotak } .icon-search::before { content: '\\e001' }</style>"
        "<p>Here is some text, see</p><i>home</i><i class=icon-search></i>"
    )
    done = aksara("build", "icons.ttf", "--for-site", "site", "--format", "woff2", "--json")
    assert done.returncode == 0, done.stderr
    (family,) = json.loads(done.stdout)["families"]
    assert [each["name"] for each in family["icons"]] == ["home", "search"]
    (made,) = (tmp_path / "web-fonts/fonts").glob("*.woff2")
    # Letters, "home", and the icon of a character; "see" and "house" are made of the same letters and are gone.
    assert Font.read(made.read_bytes(), "a").num_glyphs == 1 + len(set("home")) + 2


def test_names_of_icons_come_from_style_sheets_beside_the_fonts(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "pack").mkdir()
    (tmp_path / "pack/icons.ttf").write_bytes(small_font({0xE001: 1, 0xE002: 2, 0xE003: 3}))
    (tmp_path / "pack/icons.css").write_text(
        ".pf-ferry:before, .pf-boat::before { content: '\\e002' } .pf-pier::after { content: \"\\e003\" }"
        ".pf::before { font-family: Kotak } .pf-note::before { content: 'ab' }"
    )
    done = aksara("build", "pack", "--for-icon", "ferry,pf-pier", "--format", "woff2", "--json")
    assert done.returncode == 0, done.stderr
    (family,) = json.loads(done.stdout)["families"]
    assert {"name": "ferry", "character": "U+E002"} in family["icons"]
    assert {"name": "pf-pier", "character": "U+E003"} in family["icons"]
    assert family["faces"][0]["characters"] == 2
    assert "did you mean ferry?" in aksara("build", "pack", "--for-icon", "fery").stderr

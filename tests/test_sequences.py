"""Sequences of emoji and names of icons: those asked for stay as they are, the others go, and checks tell of them."""

from __future__ import annotations

import io
import json
from collections.abc import Sequence
from pathlib import Path

import pytest
from PIL import ImageFont

from aksara.font import Font
from aksara.subsetting import FeatureChoice, subset
from aksara.subsetting.sequences import drawn_as_one, with_sequences_only
from aksara.tables import Gsub
from aksara.tables.layout.contexts import CoverageContext
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gsub import LigatureSubstitution, MultipleSubstitution, SingleSubstitution
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.tables.layout.subtable import Subtable
from aksara.text.emoji import emoji_sequences, emoji_set, qualified, without_selectors
from aksara.text.sequences import Sequences, sequences_in
from comparison import IDLE_PROGRAM
from conftest import Run
from fonts import box, small_font
from test_icons import icon_font

WOMAN, MAN, TONE, ROCKET, JOINER, SELECTOR = "\U0001f469", "\U0001f468", "\U0001f3fd", "\U0001f680", "\u200d", "\ufe0f"
I, D, S, HEART = "\U0001f1ee", "\U0001f1e9", "\U0001f1f8", "\u2764"  # noqa: E741 (regional letters have these names)
_CHARACTERS = (WOMAN, MAN, TONE, ROCKET, JOINER, I, D, S, HEART, "1", "\u20e3", "x")
_GLYPHS = {character: number for number, character in enumerate(_CHARACTERS, 1)}
_FIRST = len(_CHARACTERS) + 1
_PEOPLE = frozenset({_GLYPHS[WOMAN], _GLYPHS[MAN]})
ASTRONAUT = WOMAN + TONE + JOINER + ROCKET


def _font(lookups: Sequence[tuple[int, Subtable]], called: int = 0) -> bytes:
    """A font of the characters above and ten glyphs more; the last `called` lookups are for rules to call."""
    own = tuple(range(len(lookups) - called))
    gsub = Gsub(
        {"DFLT": Script(LanguageSystem(None, (0,)))},
        [FeatureRecord("ccmp", own)],
        [Lookup(kind, 0, (subtable,)) for kind, subtable in lookups],
    )
    glyphs = [box(100 + 40 * number, 300 + 30 * number)[0] for number in range(_FIRST + 10)]
    glyphs[_GLYPHS[JOINER]] = b""
    return small_font(
        {ord(each): glyph for each, glyph in _GLYPHS.items()},
        glyphs,
        extra={"GSUB": gsub.compile(), "prep": IDLE_PROGRAM},
    )


def _ligatures(**made: str) -> LigatureSubstitution:
    """Ligatures by their place among the glyphs that have no character; "_0" in a text is the first of these."""
    found: dict[int, list[tuple[tuple[int, ...], int]]] = {}
    for place, text in made.items():
        first, *rest = (_FIRST + ord(each) - 0x100 if 0x100 <= ord(each) < 0x110 else _GLYPHS[each] for each in text)
        found.setdefault(first, []).append((tuple(rest), _FIRST + int(place[1:])))
    return LigatureSubstitution({
        first: tuple(sorted(each, key=lambda ligature: -len(ligature[0]))) for first, each in found.items()
    })  # fmt: skip


def _part(number: int) -> str:
    return chr(0x100 + number)


AT_ONCE = _font(
    [
        (
            4,
            _ligatures(
                g0=ASTRONAUT, g1=WOMAN + TONE, g2=MAN + TONE, g3=I + D, g4=D + S, g5="1\u20e3", g6=MAN + JOINER + ROCKET
            ),
        )
    ]
)
STEP_BY_STEP = _font([
    (4, _ligatures(g1=WOMAN + TONE, g2=MAN + TONE, g3=JOINER + ROCKET)),
    (4, _ligatures(g0=_part(1) + _part(3), g4=_part(2) + _part(3), g5=WOMAN + _part(3), g6=I + D)),
])  # fmt: skip
BY_RULES = _font(
    [
        # What stands before a skin tone takes a form of its own; then the two are one.
        (6, CoverageContext(True, (), (_PEOPLE,), (frozenset({_GLYPHS[TONE]}),), ((0, 3),))),
        (4, _ligatures(g0=_part(7) + TONE + JOINER + ROCKET, g1=_part(7) + TONE, g2=_part(8) + TONE, g3=I + D)),
        (2, MultipleSubstitution({_FIRST + 2: (_FIRST + 5, _FIRST + 6)})),
        (1, SingleSubstitution({_GLYPHS[WOMAN]: _FIRST + 7, _GLYPHS[MAN]: _FIRST + 8})),
    ],
    called=1,
)  # fmt: skip
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
def test_what_is_asked_for_is_drawn_as_before(name: str, asked: set[str]) -> None:
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
def test_what_comes_in_parts_is_known(name: str) -> None:
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


def test_a_build_says_which_come_in_parts(aksara: Run, tmp_path: Path) -> None:
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


def test_all_emoji_can_be_asked_for(aksara: Run, tmp_path: Path) -> None:
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

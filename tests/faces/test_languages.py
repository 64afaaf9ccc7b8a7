"""Languages and scripts: tags, exemplars, coverage by hand, and the options that use them."""

from __future__ import annotations

import json
import re
import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aksara.errors import RequestError
from aksara.font import open_font
from aksara.text import (
    all_languages,
    coverage,
    covered_languages,
    find_language,
    named_characters,
    parse_ranges,
    script_characters,
)
from aksara.text.patterns import read_pattern
from conftest import Run
from fonts import DEJAVU, DEMO_FONTS


@pytest.mark.parametrize(
    ("tag", "found"),
    [("id", "id"), ("vi-VN", "vi"), ("zh-TW", "zh-Hant"), ("zh_hans_cn", "zh"), ("ZH-hk", "zh-Hant"), ("iw", "he"),
     ("nb-NO", "no"), ("pa-PK", "pa-Arab"), ("sr-Latn-RS", "sr-Latn"), ("sr", "sr"), ("en-US", "en"),
     ("pt-AO", "pt-PT"),
     ("ja-JP", "ja"), ("de-CH", "de-CH")],
)  # fmt: skip
def test_tags_are_found_as_cldr_inherits_them(tag: str, found: str) -> None:
    assert find_language(tag).tag == found


@pytest.mark.parametrize(
    ("tag", "hint"),
    [("vietnamese", "vietnamese is vi"), ("Indonesain", "id (Indonesian)"), ("xx", "the nearest are"),
     ("sr-Arab", "sr"),
     ("!", "write one like"), ("", "write one like")],
)  # fmt: skip
def test_an_unknown_tag_gets_the_nearest(tag: str, hint: str) -> None:
    with pytest.raises(RequestError, match="language") as raised:
        find_language(tag)
    assert hint in str(raised.value)


def test_exemplars_by_hand() -> None:
    """Spelt out from the languages themselves, not from the file."""
    assert find_language("id").letters == set(map(ord, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"))
    turkish = "abcçdefgğhıijklmnoöprsştuüvyz" + "ABCÇDEFGĞHIİJKLMNOÖPRSŞTUÜVYZ"
    assert find_language("tr").letters == set(map(ord, turkish))
    vowels = "aăâeêioôơuưy"
    tones = "\u0300\u0309\u0303\u0301\u0323"
    vietnamese = {ord(unicodedata.normalize("NFC", vowel + tone)) for vowel in vowels for tone in tones}
    assert find_language("vi").letters >= vietnamese | set(map(ord, "đĐ"))
    greek = find_language("el").letters
    assert greek >= set(map(ord, "αβγδεζηθικλμνξοπρσςτυφχψωάέήίόύώϊϋΐΰΑΩ"))
    assert not greek & set(map(ord, "abc"))
    assert find_language("hi").characters >= set(map(ord, "०१२३४५६७८९।"))


def test_what_text_in_a_language_needs() -> None:
    for tag in ("id", "vi", "de", "ru"):
        assert find_language(tag).characters >= {0x20, 0xA0, 0xAD, 0x2D, 0x2010, 0x2011} | set(map(ord, "0123456789.,"))
    german = find_language("de").characters
    assert german >= set(map(ord, "äöüÄÖÜßẞ„“‚‘–")) - {ord("ẞ")}
    assert ord("é") in german, "names and loan words"
    assert ord("я") not in german


def test_coverage_tells_full_nearly_and_not() -> None:
    ascii_only = set(range(0x20, 0x7F))
    assert coverage(find_language("id"), ascii_only).verdict == "full"
    spanish = coverage(find_language("es"), ascii_only | set(map(ord, "áéíóúüñÁÉÍÓÚÜ")))
    assert (spanish.verdict, spanish.missing) == ("nearly", (ord("Ñ"),))
    russian = coverage(find_language("ru"), ascii_only)
    assert (russian.verdict, len(russian.missing)) == ("no", 66)
    # A sequence is covered by its composed form or by its parts.
    lacking = coverage(find_language("nl"), ascii_only | set(map(ord, "áäéëíïóöúüÁÄÉËÍÏÓÖÚÜ")))
    assert lacking.missing == (0x301,), "the acute on the j of íj́"


def test_the_quick_and_the_full_answer_agree() -> None:
    for path in (DEMO_FONTS[0], DEJAVU[0]):
        characters = frozenset(open_font(path).characters)
        full = [one for one in all_languages() if coverage(one, characters).verdict == "full"]
        assert covered_languages(characters) == full
        assert len(full) > 100


@given(st.sets(st.sampled_from("abcxyz-{}\\éя字😀") | st.sampled_from(["ch", "a\u0301"])))
def test_patterns_hold_any_set(strings: set[str]) -> None:
    written = "".join(
        "{" + s + "}" if len(s) > 1 else "\\" + s if s in "-{}\\" else s
        for s in sorted(strings, key=lambda s: (len(s), s))
    )
    assert read_pattern(written) == strings


def test_a_dash_at_the_end_of_a_pattern_is_itself() -> None:
    assert read_pattern("a-c-") == {"a", "b", "c", "-"}
    assert read_pattern("a-") == {"a", "-"}


def test_scripts() -> None:
    from aksara.text.scripts import scripts_of

    latin = script_characters("latn")
    assert latin >= set(map(ord, "aZéđỹßŋ0123456789.,;:!?()“”‘’–— "))
    assert not latin & set(map(ord, "яαあ"))
    assert script_characters("Jpan") >= set(map(ord, "あア漢。「」ー"))
    assert ord("ـ") in script_characters("Arab"), "the tatweel, which scripts share"
    assert scripts_of(ord("ー")) == {"Hira", "Kana"} and scripts_of(ord("あ")) == {"Hira"}
    assert scripts_of(ord(",")) == {"Zyyy"}
    with pytest.raises(RequestError, match=r"nearest are Cyrl \(Cyrillic\)"):
        script_characters("Cyrillic")


def test_requested_characters_add_up() -> None:
    wanted = named_characters(texts=["語\n"], ranges=["U+1F422"], languages=["id, el"], scripts=["Thai"])
    assert wanted >= {ord("語"), 0x1F422} | set(map(ord, "zΩ")) | parse_ranges("U+E01-E3A")
    assert not wanted & set(range(0x20))


def test_the_command_lists_languages_and_what_a_font_can_set(aksara: Run) -> None:
    listed = aksara("languages").stdout
    assert "Vietnamese" in listed
    assert f"{len(all_languages())} languages" in listed
    shown = aksara("languages", DEMO_FONTS[0].parent)
    assert "Penyu Sans, Penyu Slab  covers" in shown.stdout
    in_full = re.sub(r"\s+", " ", shown.stdout).split("Not in full")[0]
    assert "In full, Latin: " in in_full
    assert "Vietnamese (vi)" in in_full
    assert re.search(r"^Dutch +nl +Latin .* nearly +\u25cc\u0301", shown.stdout, re.MULTILINE)
    assert "Russian" not in shown.stdout
    assert "Russian" in aksara("languages", DEMO_FONTS[0], "--all").stdout
    told = json.loads(aksara("languages", DEMO_FONTS[0], "--json").stdout)
    by_tag = {row["tag"]: row for row in told["languages"]}
    assert by_tag["vi"]["covered"] == "full"
    assert by_tag["gn"]["missing"] == "U+2BC"


def test_a_build_for_languages(aksara: Run) -> None:
    done = aksara("build", DEMO_FONTS[0], "--for-language", "id,vi", "--for-script", "Grek", "--json")
    kept = parse_ranges(json.loads(done.stdout)["families"][0]["faces"][0]["files"][0]["unicode_range"])
    wanted = named_characters(languages=["id", "vi"], scripts=["Grek"])
    had = open_font(DEMO_FONTS[0]).characters.keys()
    assert kept & had == wanted & had
    assert {0xA0, 0xAD, ord("Ữ")} <= kept
    wrong = aksara("build", DEMO_FONTS[0], "--for-language", "Indonesian")
    assert wrong.returncode == 2
    assert "Indonesian is id" in wrong.stderr

"""East Asian fonts keep the forms of the languages that text is in, and no others."""

from __future__ import annotations

import io
from collections.abc import Iterable
from pathlib import Path

import pytest
from PIL import ImageFont

from aksara.font import Font
from aksara.subsetting import subset
from aksara.subsetting.localised_forms import east_asian_languages, language_systems, with_languages_only
from aksara.tables import Gsub
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gsub import SINGLE, SingleSubstitution
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from conftest import Run
from fonts import small_font

_STRAIGHT, _LETTER_A = 0x76F4, 0x3042
_SYSTEMS = ("JAN ", "KOR ", "ZHS ", "ZHT ", "ZHH ", "ZHTM")
_KANA = "あいうえおかきく"


def _font() -> bytes:
    """Glyph 1 is an ideograph, of which the next are the forms of each language; each is of another width."""
    lookups = [
        Lookup(SINGLE, 0, (SingleSubstitution({1: 2 + index}),)) for index in range(len(_SYSTEMS))
    ]  # fmt: skip
    features = [FeatureRecord("locl", (index,)) for index in range(len(_SYSTEMS))]
    systems = {tag: LanguageSystem(None, (index,)) for index, tag in enumerate(_SYSTEMS)}
    script = Script(LanguageSystem(None, ()), systems)
    gsub = Gsub({"hani": script, "kana": script, "DFLT": Script(LanguageSystem(None, ()))}, features, lookups)
    kana = {ord(letter): 8 + index for index, letter in enumerate(_KANA)}
    return small_font({_STRAIGHT: 1, 0x41: 16, 0x20: 17, **kana}, extra={"GSUB": gsub.compile()})


def _drawn(font: Font, language: str) -> float:
    """How wide HarfBuzz sets the ideograph in a language."""
    file = io.BytesIO(font.write("sfnt"))
    return ImageFont.truetype(file, 1000, layout_engine=ImageFont.Layout.RAQM).getlength("直", language=language)


@pytest.mark.parametrize(
    "language",
    [
        "ja", "ja-JP", "JA-jp", "ko", "ko-KR", "zh", "zh-CN", "zh-SG", "zh-Hans", "zh-TW", "zh-Hant", "zh-hant-tw",
        "zh-HK", "zh-Hant-HK", "zh-MO", "zh-Hant-MO", "yue", "nan", "wuu", "cmn", "en", "id", "und",
        "zh-Hans-HK", "zh-Hans-MO", "zh-Hans-TW", "zh-Hant-CN", "zh-Hant-SG", "zh-yue", "zh-yue-HK", "zh-min-nan",
        "zh-cmn-Hans", "zh-gan", "i-hak", "zh-guoyu", "ja-Latn", "ko-Hani", "ja-KR", "okm",
    ],
)  # fmt: skip
def test_text_in_a_language_is_drawn_as_with_the_whole_font(language: str) -> None:
    whole = Font.read(_font(), "whole.ttf")
    cut, gone = with_languages_only(whole, [language])
    assert _drawn(cut, language) == _drawn(whole, language)
    assert all(codes == {_STRAIGHT} for codes in gone.values()) and 2 <= len(gone) <= 6
    assert len(gone) == len(_SYSTEMS) - len(language_systems(language) & set(_SYSTEMS))


def test_forms_of_other_languages_are_gone() -> None:
    whole = Font.read(_font(), "whole.ttf")
    cut, _ = with_languages_only(whole, ["ja", "zh-Hant"])
    assert [_drawn(cut, tag) == _drawn(whole, tag) for tag in ("ja", "zh-TW", "ko", "zh-CN")] == [
        True,
        True,
        False,
        False,
    ]
    assert _drawn(cut, "ko") == _drawn(whole, "en"), "text in Korean gets what any other text gets"
    assert subset(cut, {_STRAIGHT}).kept_glyphs == 4, ".notdef, the ideograph, its form for Japanese and the other"
    same, gone = with_languages_only(whole, ["ja", "ko", "okm", "yue"])
    assert same is whole and not gone


@pytest.mark.parametrize(
    ("text", "languages"),
    [
        ("Plain", set()), (_KANA, {"ja"}), (_KANA + "直", {"ja"}), ("가나다라마바사아", {"ko"}),
        ("直", {"zh-Hans", "zh-Hant", "zh-Hant-HK", "zh-Hant-MO"}),
        ("直の", {"zh-Hans", "zh-Hant", "zh-Hant-HK", "zh-Hant-MO", "ja"}),
        (_KANA + "가나다라마바사아直", {"ja", "ko"}),
    ],
)  # fmt: skip
def test_letters_tell_the_language_where_nothing_else_does(text: str, languages: set[str]) -> None:
    assert east_asian_languages(map(ord, text)) == languages
    assert east_asian_languages(map(ord, text), ["en", "yue"]) == languages & {"ja", "ko"}


def _kept(made: Iterable[Path]) -> set[float]:
    """The widths of what each language gets of the one file made, besides the form for any other language."""
    (path,) = made
    font = Font.read(path.read_bytes(), path.name)
    return {width - 610 for width in (_drawn(font, tag) for tag in ("ja", "ko", "zh-CN", "zh-TW", "zh-HK"))} - {0}


@pytest.mark.parametrize(
    ("page", "options", "widths", "told"),
    [
        ('<html lang="ja"><p>直A', (), {10}, "Traditional Chinese, Chinese in Hong Kong or Chinese in Macao"),
        ('<html lang="ja"><p>直<p lang="zh-TW">直', (), {10, 40}, "Korean, Chinese, Chinese in Hong Kong or"),
        ('<html lang="ja"><p>直A', ("--for-language", "ko"), {10, 20}, "Traditional Chinese"),
        (f"<p>直{_KANA}", (), {10}, "Korean, Chinese"),
        ("<p>直", (), {30, 40, 50}, "no text is in Japanese or Korean: the forms that 1 character has"),
        ("<p>直", ("--for-language", "zh-Hant"), {40}, "no text is in Japanese, Korean, Chinese, Chinese in Hong Kong"),
        ('<html lang="ja"><p>直', ("--for-range", "U+76F4"), {10, 20, 30, 40, 50}, ""),
    ],
)  # fmt: skip
def test_a_build_keeps_the_forms_of_its_pages(
    page: str, options: tuple[str, ...], widths: set[float], told: str, aksara: Run, tmp_path: Path
) -> None:
    (tmp_path / "kotak.ttf").write_bytes(_font())
    (tmp_path / "site").mkdir()
    (tmp_path / "site/index.html").write_text(
        f"<!doctype html><meta charset=utf-8><style>body{{font-family:Kotak}}</style>{page}"
    )
    done = aksara("build", "kotak.ttf", "--for-site", "site", "--format", "woff2", *options)
    assert done.returncode == 0, done.stderr
    assert _kept((tmp_path / "web-fonts/fonts").glob("*.woff2")) == widths
    said = " ".join((done.stdout + done.stderr).split())
    assert ("so the forms that 1 character has in each of these are kept" in said) == (widths == {30, 40, 50})
    assert told in said and ("no text is in" in said) == ("with --for-language" in said) == bool(told)

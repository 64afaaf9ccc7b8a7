"""Localised forms of East Asian fonts: one character is drawn otherwise in Japanese, Korean and each kind of Chinese
(OpenType 1.9.1, "Language system tags"; feature 'locl').

A font for all of these has thousands of such forms, each for text of one language.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Set

from msgspec.structs import replace

from aksara.errors import FontError
from aksara.font import Font
from aksara.offsets import OffsetOverflow
from aksara.tables import Gsub
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gsub.substitution import Substitution
from aksara.text.scripts import script_of

_LOCALISED = "locl"
_OF_HONG_KONG, _OF_MACAO = "ZHH ", "ZHTM"
_OF_TAIWAN, _OF_CHINA = "ZHT ", "ZHS "
#: Language systems of East Asian text, with the names of their languages.
_NAMES = {
    "JAN ": "Japanese",
    "KOR ": "Korean",
    "KOH ": "Old Korean",
    _OF_CHINA: "Chinese",
    _OF_TAIWAN: "Traditional Chinese",
    _OF_HONG_KONG: "Chinese in Hong Kong",
    _OF_MACAO: "Chinese in Macao",
}
_CHINESE_TAGS = frozenset(("zh-Hans", "zh-Hant", "zh-Hant-HK", "zh-Hant-MO"))
#: Different letters of a script from which on text is in its language, and does not just quote it.
_OF_A_LANGUAGE = 8
_CHINESE = frozenset((_OF_CHINA, _OF_TAIWAN, _OF_HONG_KONG, _OF_MACAO))
_OF_LANGUAGES = {"ja": {"JAN "}, "ko": {"KOR ", "KOH "}, "okm": {"KOH "}, "oko": {"KOH "}}
#: Other Chinese languages: which forms these get is up to the shaper.
_OTHER_CHINESE = frozenset("cdo cjy cmn cnp cpx csp czh czo gan hak hsn lzh mnp nan wuu yue".split())


def language_systems(tag: str) -> frozenset[str]:
    """The East Asian language systems that text of a language (BCP 47 tag) may be drawn by."""
    primary, *more = tag.lower().replace("_", "-").split("-")
    # Written as a language of its own, "zh-yue", or as of old, "i-hak".
    if not _OTHER_CHINESE.isdisjoint((primary, *more[:1])):
        return _CHINESE
    if primary != "zh":
        return frozenset(_OF_LANGUAGES.get(primary, ()))
    # A script counts before a region.
    if "hans" in more:
        return frozenset((_OF_CHINA,))
    if "hk" in more:
        return frozenset((_OF_HONG_KONG,))
    if "mo" in more:
        return frozenset((_OF_MACAO, _OF_HONG_KONG))
    return frozenset((_OF_TAIWAN if {"hant", "tw"} & set(more) else _OF_CHINA,))


def east_asian_languages(characters: Iterable[int], known: Iterable[str] = ()) -> frozenset[str]:
    """The languages (BCP 47 tags) that text with these characters may be in, of those that have localised forms, where
    nothing says its language: kana are Japanese, Hangul is Korean; ideographs alone may be any kind of Chinese, unless
    it is `known` which kinds there are."""
    counts = Counter(map(script_of, characters))
    found = {"ja": counts["Hira"] + counts["Kana"], "ko": counts["Hang"]}
    sure = frozenset(tag for tag, count in found.items() if count >= _OF_A_LANGUAGE)
    if sure or not counts["Hani"]:
        return sure
    some = frozenset(tag for tag, count in found.items() if count)
    return some if any(language_systems(tag) & _CHINESE for tag in known) else some | _CHINESE_TAGS


def with_languages_only(font: Font, languages: Iterable[str]) -> tuple[Font, dict[str, frozenset[int]]]:
    """The font without localised forms for East Asian languages that are not among these (BCP 47 tags); and which
    characters had such forms, by the names of the languages that are gone.

    Text in these languages gets the forms that text in any other language gets.
    """
    kept = frozenset().union(*map(language_systems, languages))
    try:
        gsub = font.find(Gsub)
        if gsub is None:
            return font, {}
        unwanted = {tag for script in gsub.scripts.values() for tag in script.languages} & _NAMES.keys() - kept
        if not unwanted:
            return font, {}
        cut = _without_systems(gsub, unwanted)
        lost = {_NAMES[tag]: _characters_of(font, gsub, tag) for tag in _NAMES if tag in unwanted}
        return font.replaced([cut]), {name: codes for name, codes in lost.items() if codes}
    except (FontError, OffsetOverflow):
        return font, {}  # a damaged table is left out, and told, where the font is cut down


def localised_characters(font: Font, languages: Iterable[str]) -> dict[str, frozenset[int]]:
    """The characters that are drawn otherwise in text in these languages (BCP 47 tags), by the languages' names."""
    wanted = frozenset().union(*map(language_systems, languages))
    try:
        gsub = font.find(Gsub) if wanted else None
        found = {tag: _characters_of(font, gsub, tag) for tag in _NAMES if tag in wanted} if gsub is not None else {}
    except FontError:
        return {}
    return {_NAMES[tag]: codes for tag, codes in found.items() if codes}


def _without_systems(gsub: Gsub, unwanted: Set[str]) -> Gsub:
    """The table without these language systems, and without what only they do."""
    scripts = {
        tag: replace(
            script, languages={name: system for name, system in script.languages.items() if name not in unwanted}
        )
        for tag, script in gsub.scripts.items()
    }
    gone = _listed(gsub) - _listed(replace(gsub, scripts=scripts))
    features = [
        FeatureRecord(feature.tag, ()) if index in gone else feature for index, feature in enumerate(gsub.features)
    ]
    variations = [
        replace(variation, features={index: own for index, own in variation.features.items() if index not in gone})
        for variation in gsub.variations
    ]
    return replace(gsub, scripts=scripts, features=features, variations=variations)


def _listed(gsub: Gsub) -> set[int]:
    """The features, by index, that any language of any script has."""
    systems = (system for script in gsub.scripts.values() for system in script.systems)
    return {index for system in systems for index in (*system.features, system.required) if index is not None}


def _characters_of(font: Font, gsub: Gsub, language: str) -> frozenset[int]:
    """The characters that have forms of their own in this language system."""
    systems = (script.languages[language] for script in gsub.scripts.values() if language in script.languages)
    features = {index for system in systems for index in system.features if index < len(gsub.features)}
    records = (gsub.features[index] for index in sorted(features))
    lookups = {lookup for record in records if record.tag == _LOCALISED for lookup in record.lookups}
    glyphs: set[int] = set()
    for lookup in (gsub.lookups[index] for index in sorted(lookups) if index < len(gsub.lookups)):
        for subtable in lookup.subtables:
            if isinstance(subtable, Substitution):
                glyphs.update(subtable.inputs)
    return frozenset(code for code, glyph in font.characters.items() if glyph in glyphs)

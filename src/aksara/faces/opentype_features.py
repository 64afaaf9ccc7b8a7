"""The OpenType features of a font, in words (OpenType, "Registered features")."""

from __future__ import annotations

import unicodedata

from msgspec import Struct

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables.layout.features import feature_tags

_NAMES = {
    "aalt": "access all alternates", "abvf": "above-base forms", "abvm": "above-base mark positioning",
    "abvs": "above-base substitutions", "afrc": "alternative fractions", "akhn": "akhand",
    "blwf": "below-base forms", "blwm": "below-base mark positioning", "blws": "below-base substitutions",
    "c2pc": "petite capitals from capitals", "c2sc": "small capitals from capitals", "calt": "contextual alternates",
    "case": "case-sensitive forms", "ccmp": "glyph composition and decomposition", "cfar": "conjunct form after ro",
    "chws": "contextual half-width spacing", "cjct": "conjunct forms", "clig": "contextual ligatures",
    "cpct": "centred CJK punctuation", "cpsp": "capital spacing", "cswh": "contextual swash",
    "curs": "cursive positioning", "dist": "distances", "dlig": "discretionary ligatures", "dnom": "denominators",
    "dtls": "dotless forms", "expt": "expert forms", "falt": "final glyph on line alternates",
    "fin2": "terminal forms 2", "fin3": "terminal forms 3", "fina": "terminal forms", "flac": "flattened accent forms",
    "frac": "fractions", "fwid": "full widths", "half": "half forms", "haln": "halant forms",
    "halt": "alternate half widths", "hist": "historical forms", "hkna": "horizontal kana alternates",
    "hlig": "historical ligatures", "hngl": "hangul", "hojo": "hojo kanji forms", "hwid": "half widths",
    "init": "initial forms", "isol": "isolated forms", "ital": "italics", "jalt": "justification alternates",
    "jp04": "JIS2004 forms", "jp78": "JIS78 forms", "jp83": "JIS83 forms", "jp90": "JIS90 forms", "kern": "kerning",
    "lfbd": "left bounds", "liga": "standard ligatures", "ljmo": "leading jamo forms", "lnum": "lining figures",
    "locl": "localised forms", "ltra": "left-to-right alternates", "ltrm": "left-to-right mirrored forms",
    "mark": "mark positioning", "med2": "medial forms 2", "medi": "medial forms", "mgrk": "mathematical Greek",
    "mkmk": "mark-to-mark positioning", "mset": "mark positioning by substitution",
    "nalt": "alternate annotation forms",
    "nlck": "NLC kanji forms", "nukt": "nukta forms", "numr": "numerators", "onum": "old-style figures",
    "opbd": "optical bounds", "ordn": "ordinals", "ornm": "ornaments", "palt": "proportional alternate widths",
    "pcap": "petite capitals", "pkna": "proportional kana", "pnum": "proportional figures",
    "pref": "pre-base forms", "pres": "pre-base substitutions", "pstf": "post-base forms",
    "psts": "post-base substitutions", "pwid": "proportional widths", "qwid": "quarter widths", "rand": "randomise",
    "rclt": "required contextual alternates", "rkrf": "rakar forms", "rlig": "required ligatures",
    "rphf": "reph form", "rtbd": "right bounds", "rtla": "right-to-left alternates",
    "rtlm": "right-to-left mirrored forms", "ruby": "ruby notation forms", "rvrn": "required variation alternates",
    "salt": "stylistic alternates", "sinf": "scientific inferiors", "size": "optical size",
    "smcp": "small capitals", "smpl": "simplified forms", "ssty": "mathematical script style",
    "stch": "stretching glyph decomposition", "subs": "subscript", "sups": "superscript", "swsh": "swash",
    "titl": "titling", "tjmo": "trailing jamo forms", "tnam": "traditional name forms", "tnum": "tabular figures",
    "trad": "traditional forms", "twid": "third widths", "unic": "unicase", "valt": "alternate vertical metrics",
    "vatu": "vattu variants", "vchw": "vertical contextual half-width spacing", "vert": "vertical alternates",
    "vhal": "alternate vertical half metrics", "vjmo": "vowel jamo forms", "vkna": "vertical kana alternates",
    "vkrn": "vertical kerning", "vpal": "proportional alternate vertical metrics",
    "vrt2": "vertical alternates and rotation", "vrtr": "vertical alternates for rotation", "zero": "slashed zero",
}  # fmt: skip


class FontFeature(Struct, frozen=True):
    """A feature that the font has: its tag, its registered name, and whether it substitutes, positions, or both."""

    tag: str
    name: str
    substitutes: bool
    positions: bool


def feature_name(tag: str) -> str:
    """`smcp` → "small capitals"; stylistic sets and character variants by their number; '' for a private tag."""
    if tag[:2] == "ss" and tag[2:].isdecimal() and 1 <= int(tag[2:]) <= 20:
        return f"stylistic set {int(tag[2:])}"
    if tag[:2] == "cv" and tag[2:].isdecimal() and 1 <= int(tag[2:]) <= 99:
        return f"character variant {int(tag[2:])}"
    return _NAMES.get(tag, "")


def feature_names() -> dict[str, str]:
    """All registered features with names: tag → name."""
    return dict(_NAMES)


def font_features(font: Font) -> list[FontFeature]:
    """All features of the font, by tag. A damaged table counts as none."""
    scripts_of: dict[str, set[str]] = {}
    for table in ("GSUB", "GPOS"):
        if table in font:
            try:
                tags = feature_tags(font.raw(table))
            except FontError:
                continue
            for tag in tags:
                scripts_of.setdefault(_printable(tag), set()).add(table)
    if "kern" in font:
        scripts_of.setdefault("kern", set()).add("GPOS")
    return [
        FontFeature(tag, feature_name(tag), "GSUB" in where, "GPOS" in where)
        for tag, where in sorted(scripts_of.items())
    ]


def _printable(tag: str) -> str:
    return "".join("?" if unicodedata.category(c).startswith("C") else c for c in tag)

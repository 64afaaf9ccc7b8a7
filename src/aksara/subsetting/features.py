"""Which OpenType features a web font keeps.

Browsers apply some features by themselves, and scripts need others to be written at all; these are kept. The rest
only show where a style sheet asks for them, and cost glyphs: they are kept on request.
"""

from __future__ import annotations

from collections.abc import Iterable, Set

from msgspec import Struct, field

FRACTION_SLASH = 0x2044

#: On by default in CSS, or applied by every shaper ("Registered features"; CSS Fonts 4, section 7.1).
_BY_DEFAULT = (
    "ccmp locl rlig calt liga clig kern mark mkmk dist abvm blwm curs rclt rvrn rand ltra ltrm rtla rtlm mset stch"
)
#: What complex scripts are shaped with.
_OF_SCRIPTS = (
    "init medi fina isol med2 fin2 fin3 nukt akhn rphf rkrf pref blwf abvf half pstf vatu cjct cfar pres abvs blws "
    "psts haln ljmo vjmo tjmo"
)
_OF_VERTICAL_TEXT = "vert vrt2 vkrn"
#: Browsers set full-width punctuation closer with these (CSS Text 4, `text-spacing-trim`).
_OF_CJK_PUNCTUATION = "chws vchw halt vhal"
#: Shapers form fractions around a fraction slash with these.
_OF_FRACTIONS = "frac numr dnom"
#: Formulas are set with these (MathML Core).
_OF_FORMULAS = "ssty dtls flac"

DEFAULT_FEATURES = frozenset((*_BY_DEFAULT.split(), *_OF_SCRIPTS.split(), *_OF_VERTICAL_TEXT.split()))


class FeatureChoice(Struct, frozen=True):
    """Changes to the default: features to keep (`everything`: all), and features to omit."""

    more: frozenset[str] = field(default_factory=frozenset)
    without: frozenset[str] = field(default_factory=frozenset)
    everything: bool = False

    def kept(self, present: Iterable[str], characters: Set[int], *, formulas: bool) -> frozenset[str]:
        """Of the features that a font has those to keep, for text of these characters, perhaps in formulas."""
        kept = set(present) if self.everything else set(DEFAULT_FEATURES | self.more)
        if FRACTION_SLASH in characters:
            kept |= set(_OF_FRACTIONS.split())
        if any(0x3000 <= code <= 0x303F or 0xFF00 <= code <= 0xFF60 for code in characters):
            kept |= set(_OF_CJK_PUNCTUATION.split())
        if formulas:
            kept |= set(_OF_FORMULAS.split())
        return frozenset(kept & set(present)) - self.without

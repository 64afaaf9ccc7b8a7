"""The OpenType features that a style enables, by tag (CSS Fonts 4, sections 6 and 7)."""

from __future__ import annotations

from collections.abc import Mapping

from aksara.site.css.styles import Style

_TAGS = {
    "small-caps": ("smcp",),
    "all-small-caps": ("smcp", "c2sc"),
    "petite-caps": ("pcap",),
    "all-petite-caps": ("pcap", "c2pc"),
    "unicase": ("unic",),
    "titling-caps": ("titl",),
    "discretionary-ligatures": ("dlig",),
    "historical-ligatures": ("hlig",),
    "common-ligatures": ("liga",),
    "contextual": ("calt",),
    "lining-nums": ("lnum",),
    "oldstyle-nums": ("onum",),
    "proportional-nums": ("pnum",),
    "tabular-nums": ("tnum",),
    "diagonal-fractions": ("frac",),
    "stacked-fractions": ("afrc",),
    "ordinal": ("ordn",),
    "slashed-zero": ("zero",),
    "jis78": ("jp78",),
    "jis83": ("jp83",),
    "jis90": ("jp90",),
    "jis04": ("jp04",),
    "simplified": ("smpl",),
    "traditional": ("trad",),
    "full-width": ("fwid",),
    "proportional-width": ("pwid",),
    "ruby": ("ruby",),
    "sub": ("subs",),
    "super": ("sups",),
    "historical-forms": ("hist",),
}
# Of `font-variant-alternates`: the rule's name, what its numbers stand for.
_NUMBERED = {"styleset": "ss{:02}", "character-variant": "cv{:02}"}
_PLAIN = {"stylistic": "salt", "swash": "swsh", "ornaments": "ornm", "annotation": "nalt"}
_ALSO = {"swsh": ("swsh", "cswh")}

#: Family in lower case → kind → name → numbers, as `@font-feature-values` gives them.
FeatureValues = Mapping[str, Mapping[str, Mapping[str, tuple[int, ...]]]]


def requested_features(style: Style, values: FeatureValues) -> frozenset[str]:
    """The tags of all features that the style turns on."""
    tags: set[str] = set()
    words = [style["font-variant-caps"], style["font-variant-position"]]
    for name in ("font-variant-ligatures", "font-variant-numeric", "font-variant-east-asian"):
        words += style[name]
    for word in words:
        tags.update(_TAGS.get(word, ()))
    for kind, names in style["font-variant-alternates"]:
        tags |= _alternates(kind, names, style, values)
    tags |= {tag for tag, value in style["font-feature-settings"] if value}
    return frozenset(tags)


def _alternates(kind: str, names: tuple[str, ...], style: Style, values: FeatureValues) -> set[str]:
    if kind == "historical-forms":
        return {"hist"}
    if kind in _PLAIN:
        return set(_ALSO.get(_PLAIN[kind], (_PLAIN[kind],)))
    if kind not in _NUMBERED:
        return set()
    tags: set[str] = set()
    for family in style["font-family"]:
        known = values.get(family.lower(), {}).get(kind, {})
        for name in names:
            numbers = known.get(name, ())
            # The second number of a character variant is which of its forms is wanted.
            numbers = numbers[:1] if kind == "character-variant" else numbers
            tags |= {_NUMBERED[kind].format(number) for number in numbers if 0 < number < 100}
    return tags

"""Fallback faces: system fonts scaled to the web font's metrics, so that no line moves when it arrives.

A family of its own ("Penyu Sans on Arial") has a face for each face of the web font: `local()` finds the system's font,
`size-adjust` scales it until text is as wide, and the overrides give it the web font's lines (CSS Fonts 5, section 5).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence, Set

from msgspec import Struct
from msgspec.structs import replace

from aksara.faces import Face, FaceMetrics, Style
from aksara.text import format_ranges, parse_ranges
from aksara.text.scripts import COMMON, script_of, scripts_of
from aksara.web.system_families import SystemFace, SystemFamily, find_system_family, mean_width

#: Of running text, the share of letters that both fonts must have, or the ratio of widths would be a guess.
_KNOWN_SHARE = 0.9
#: Of a text's letters, the share from which on a script other than the main one is fitted by itself.
_OWN_SHARE = 0.03
_IDEOGRAPHS = "Hani"
_WITH_IDEOGRAPHS = dict.fromkeys(("Hira", "Kana", "Hrkt", "Bopo"), _IDEOGRAPHS)
_LETTERS_OF_LINE = 65
#: Ratios of widths that a scaled font is still legible at.
_SANE = (0.5, 2.0)
#: What a kind of characters has to change of a line's width, as a share of it, to get a rule of its own; kinds whose
#: scales differ by less share one.
_WORTH_A_RULE, _SAME_KIND = 0.0015, 0.03
#: Of the letters of a face, the part from which on capitals stand by themselves, as in headings without small letters;
#: how far their scale may be from that of these then.
_MOSTLY_CAPITALS, _ALONE_APART = 0.4, 0.3
#: As how large a part of running text capitals and digits count at least.
_SET_ALONE = 0.04
#: Of a family's text, the share from which on a face is fitted as well as can be; others share rules more readily.
_LITTLE = 0.05
#: Neighbouring weights whose sizes differ by less, in percent, share a rule: of static faces, which have just one size,
#: and of a variable face, whose size changes all along.
_SAME_SIZE, _ABOUT_THE_SAME_SIZE = 0.05, 0.5
#: The same for a weight in which no text is set, as far as is known.
_SIZE_OF_UNUSED = 1.5


class FallbackFace(Struct, frozen=True, kw_only=True):
    """One rule: `family` is its own name, `on` the system family, `local` the names of its fonts.

    `weight` and `width` are ranges, as the web face's; `size_adjust`, `ascent`, `descent` and `line_gap` are
    percentages. `unicode_range` is that of a script of its own, or of a kind of character that is scaled otherwise than
    the small letters ("": all characters but those of such rules). `difference` is by how much, as a share of its
    width, a line of text is likely to be wider or narrower.
    """

    family: str
    on: str
    local: tuple[str, ...]
    weight: tuple[int, int]
    style: Style
    width: tuple[float, float]
    size_adjust: float
    ascent: float
    descent: float
    line_gap: float
    unicode_range: str = ""
    difference: float = 0.0

    def stands_in_for(self, face: Face) -> bool:
        """Whether it is for that face, or a part of its range."""
        low, high = self.weight
        return self.style == face.style and low <= face.weight <= high


class SetFace(Struct, frozen=True):
    """A face, its metrics, and how often each character occurs in the text that is set in it. `share` is how much of
    its family's text that is, from 0 to 1."""

    face: Face
    metrics: FaceMetrics
    frequencies: Mapping[int, float]
    share: float = 1.0


def fallback_faces(
    family: str, faces: Sequence[SetFace], stack: Sequence[str], measured: Sequence[SystemFamily] = ()
) -> tuple[FallbackFace, ...]:
    """The rules for those families of the stack that were measured, in the stack's order.

    A variable face is given several times, each time for a part of its range and with the metrics that it has there.
    Characters that one of the two fonts lacks do not count. `measured` are families besides those that are known.
    """
    rules: list[FallbackFace] = []
    tolerance = _ABOUT_THE_SAME_SIZE if any(entry.face.is_variable for entry in faces) else _SAME_SIZE
    known = (find_system_family(name, measured) for name in stack)
    scripts = _scripts(faces)
    for system in dict.fromkeys(filter(None, known)):
        of_faces = ((entry, _rules(family, entry, system, scripts)) for entry in faces)
        fits = [_Fit(made, entry.share, _size(entry, system)) for entry, made in of_faces if made]
        of_system = [rule for fitted in _joined(fits, tolerance) for rule in fitted.rules]
        # What holds for some characters alone counts for them only behind the rule for all.
        rules += sorted(of_system, key=lambda rule: bool(rule.unicode_range))
    return tuple(rules)


def _scripts(faces: Sequence[SetFace]) -> dict[str, str]:
    """The scripts of the text that are fitted each by itself, with their ranges: the most used one ("", it has the
    signs of all), and others of which there are many."""
    shares: dict[str, float] = {}
    for entry in faces:
        for script, share in script_shares(entry.frequencies).items():
            shares[script] = shares.get(script, 0.0) + share
    if not shares:
        return {COMMON: ""}
    main = max(sorted(shares), key=shares.__getitem__)
    ranges = {main: ""}
    for script in much_used(shares):
        if script != main and (spans := _spans(script, faces[0].metrics.widths)):
            ranges[script] = format_ranges(code for first, last in spans for code in range(first, last + 1))
    return ranges


def _spans(script: str, codes: Iterable[int]) -> list[tuple[int, int]]:
    """Spans that have the codes of this script and none of the others: what is between them does no harm."""
    spans: list[tuple[int, int]] = []
    goes_on = False
    for code in sorted(codes):
        is_own = script in map(written_together, scripts_of(code))
        if is_own:
            spans.append((spans.pop()[0] if goes_on else code, code))
        goes_on = is_own
    return spans


def script_shares(frequencies: Mapping[int, float]) -> dict[str, float]:
    """How much of a text is in each script, its common signs left out; the scripts of Japanese count as one."""
    shares: dict[str, float] = {}
    for code, share in frequencies.items():
        script = written_together(script_of(code))
        shares[script] = shares.get(script, 0.0) + share
    shares.pop(COMMON, None)
    return shares


def much_used(shares: Mapping[str, float]) -> list[str]:
    """The scripts with enough text to be fitted separately."""
    return [script for script in sorted(shares) if shares[script] >= _OWN_SHARE * sum(shares.values())]


def written_together(script: str) -> str:
    """`Hani` for kana and Bopomofo, which stand among ideographs; any other script itself."""
    return _WITH_IDEOGRAPHS.get(script, script)


def _rules(family: str, entry: SetFace, system: SystemFamily, scripts: Mapping[str, str]) -> tuple[FallbackFace, ...]:
    """The rules of a face: for each script, and for kinds of characters of the main one."""
    ours, theirs = entry.metrics.widths, _face_of(system, entry.face).widths
    rules: list[FallbackFace] = []
    for script, ranges in scripts.items():
        letters = _of_scripts(entry.frequencies, {script})
        # Ideographs are set in a grid, so digits among them do not count.
        alone = bool(ranges) or script == _IDEOGRAPHS
        shares = letters if alone else _of_scripts(entry.frequencies, {script, COMMON})
        ratio = fit(entry.metrics, theirs, shares)
        if ratio is None and not alone:
            # Some fonts have the letters of one script, and neither digits nor punctuation.
            shares, ratio = letters, fit(entry.metrics, theirs, letters)
        if ratio is None:
            continue
        kinds = [] if ranges or entry.share < _LITTLE else _kinds(ours, theirs, shares, script)
        if kinds:
            # As wide as kinds leave to the other letters.
            apart = frozenset[int]().union(*(kind.codes for kind, _ in kinds))
            rest = {code: share for code, share in shares.items() if code not in apart}
            common = {code: theirs[code] for code in shares.keys() & ours.keys() & theirs.keys()}
            taken = sum(scale * _ratio(common, common, kind.of(shares))[1] for kind, scale in kinds)
            ratio = (_ratio(ours, theirs, shares)[1] - taken) / _ratio(common, common, rest)[1]
        rule = _face(family, entry, system, ratio, ranges)
        parts = [_face(family, entry, system, scale, kind.ranges) for kind, scale in kinds]
        of_text = {code: theirs[code] for code in shares.keys() & theirs.keys()}
        difference = round(_line_difference(ours, scaled_widths(of_text, rule, parts), shares), 4)
        rules += [replace(part, difference=difference) for part in (rule, *parts)]
    return tuple(rules)


def _of_scripts(frequencies: Mapping[int, float], scripts: Set[str]) -> dict[int, float]:
    return {code: share for code, share in frequencies.items() if written_together(script_of(code)) in scripts}


class _Kind(Struct, frozen=True):
    """Characters that are scaled alike, otherwise than small letters."""

    spans: tuple[tuple[int, int], ...]
    #: How far its scale may be from that of the small letters: capitals that are much smaller look like small ones.
    apart: float = 0.07

    @property
    def codes(self) -> frozenset[int]:
        return frozenset(code for first, last in self.spans for code in range(first, last + 1))

    @property
    def ranges(self) -> str:
        return format_ranges(self.codes)

    def of(self, frequencies: Mapping[int, float]) -> dict[int, float]:
        codes = self.codes
        return {code: share for code, share in frequencies.items() if code in codes}


_CAPITALS = {
    "Latn": _Kind(((0x41, 0x5A), (0xC0, 0xDE))),
    "Grek": _Kind(((0x386, 0x38F), (0x391, 0x3AB))),
    "Cyrl": _Kind(((0x400, 0x42F),)),
}
#: Nearly all of them are vowels, of which some languages have a quarter of their letters.
_ACCENTED = {"Latn": _Kind(((0xDF, 0xFF), (0x101, 0x17F), (0x1EA0, 0x1EF9)))}
_DIGITS = _Kind(((0x30, 0x39),), apart=0.1)
_SIGNS = _Kind(((0x20, 0x2F), (0x3A, 0x40), (0x5B, 0x60), (0x7B, 0x7E), (0xA0, 0xBF), (0x2000, 0x206F)), apart=0.2)


def _kinds(
    ours: Mapping[int, float], theirs: Mapping[int, float], frequencies: Mapping[int, float], script: str
) -> list[tuple[_Kind, float]]:
    """Capitals, letters with accents, digits, and spaces with signs, where another scale than that of the small letters
    makes a difference to lines, with that scale; those that are scaled nearly alike together. Hardly any pair of them
    is kerned."""
    ratios: list[tuple[float, float, _Kind]] = []
    known = [kind for kind in (_CAPITALS.get(script), _ACCENTED.get(script), _DIGITS, _SIGNS) if kind is not None]
    apart = frozenset[int]().union(*(kind.codes for kind in known))
    small = {code: share for code, share in frequencies.items() if code not in apart}
    base, own = _ratio(ours, theirs, small)
    if not base:
        return []
    whole = own + sum(_ratio(ours, theirs, kind.of(frequencies))[1] for kind in known)
    for kind in known:
        ratio, share = _ratio(ours, theirs, kind.of(frequencies))
        # Few in running text; but headings are set in capitals, and tables in digits.
        weight = share / whole if kind in (_SIGNS, _ACCENTED.get(script)) else max(share / whole, _SET_ALONE)
        if kind is _CAPITALS.get(script) and share > _MOSTLY_CAPITALS * (own + share):
            kind = replace(kind, apart=_ALONE_APART)  # noqa: PLW2901
        bounded = _bounded(ratio, base, kind)
        if ratio and abs(bounded / base - 1) * weight > _WORTH_A_RULE:
            ratios.append((bounded, share, kind))
    ratios.sort(key=lambda entry: entry[0])
    joined_kinds: list[tuple[float, float, _Kind]] = []
    for ratio, share, kind in ratios:
        if joined_kinds and ratio / joined_kinds[-1][0] - 1 < _SAME_KIND:
            before, weight, joined = joined_kinds[-1]
            both = _Kind(tuple(sorted((*joined.spans, *kind.spans))), min(joined.apart, kind.apart))
            mean = (before * weight + ratio * share) / (weight + share)
            joined_kinds[-1] = (_bounded(mean, base, both), weight + share, both)
        else:
            joined_kinds.append((ratio, share, kind))
    return [(kind, ratio) for ratio, _, kind in joined_kinds]


def _bounded(ratio: float, base: float, kind: _Kind) -> float:
    return min(max(ratio, base * (1 - kind.apart)), base * (1 + kind.apart))


def _ratio(
    ours: Mapping[int, float], theirs: Mapping[int, float], frequencies: Mapping[int, float]
) -> tuple[float, float]:
    """How much wider these characters are in the web font, on average, and how wide they all are together there."""
    common = sorted(frequencies.keys() & ours.keys() & theirs.keys())
    mine = sum(frequencies[code] * ours[code] for code in common)
    other = sum(frequencies[code] * theirs[code] for code in common)
    return (mine / other if other else 0.0), mine


def fit(metrics: FaceMetrics, widths: Mapping[int, float], frequencies: Mapping[int, float]) -> float | None:
    """By how much a font of these widths has to be scaled; None if too little of the text is in both fonts."""
    common = frequencies.keys() & metrics.widths.keys() & widths.keys()
    # Ideographs and the like are missing from system families that were measured: say nothing about such text.
    if sum(frequencies[code] for code in common) < _KNOWN_SHARE * sum(
        share for code, share in frequencies.items() if code in metrics.widths
    ):
        return None
    ours, theirs = mean_width(metrics.widths, frequencies, common), mean_width(widths, frequencies, common)
    if not theirs or not _SANE[0] <= ours / theirs <= _SANE[1]:
        return None
    return ours / theirs


def _size(entry: SetFace, system: SystemFamily) -> float:
    """`size-adjust` for all of a face's text, in percent."""
    return 100 * (fit(entry.metrics, _face_of(system, entry.face).widths, entry.frequencies) or 0.0)


def _face_of(system: SystemFamily, face: Face) -> SystemFace:
    # Browsers take a family's bold from 600 on.
    return system.face(bold=face.weight >= 600, italic=face.style != "normal")


def _face(family: str, entry: SetFace, system: SystemFamily, ratio: float, unicode_range: str) -> FallbackFace:
    face, metrics, system_face = entry.face, entry.metrics, _face_of(system, entry.face)
    lines = metrics.windows_lines if system.platforms == {"windows"} else metrics.lines
    # A face whose metrics make no line at all (all zero, or upside down) gets none from us either.
    ascent, descent, gap = (round(100 * max(part, 0) / ratio, 2) for part in (lines.ascent, lines.descent, lines.gap))
    return FallbackFace(
        family=f"{family} on {system.name}",
        on=system.name,
        local=system_face.local,
        weight=face.weight_range,
        style=face.style,
        width=face.width_range,
        size_adjust=round(100 * ratio, 2),
        ascent=ascent,
        descent=descent,
        line_gap=gap,
        unicode_range=unicode_range,
    )


def scaled_widths(widths: Mapping[int, float], rule: FallbackFace, parts: Sequence[FallbackFace]) -> dict[int, float]:
    """The advances of a system font as the rule scales them, with its `parts`: rules for some characters alone."""
    scales = {code: part.size_adjust / 100 for part in parts for code in parse_ranges(part.unicode_range)}
    return {code: width * scales.get(code, rule.size_adjust / 100) for code, width in widths.items()}


def _line_difference(ours: Mapping[int, float], theirs: Mapping[int, float], frequencies: Mapping[int, float]) -> float:
    """How much wider or narrower a line is likely to be: letters differ both ways, which evens out along it."""
    common = sorted(frequencies.keys() & ours.keys() & theirs.keys())
    total = sum(frequencies[code] for code in common)
    mean = mean_width(ours, frequencies, common)
    if not total or not mean:
        return 0.0
    squares = sum(frequencies[code] * (ours[code] - theirs[code]) ** 2 for code in common)
    return float((squares / total) ** 0.5 / mean / _LETTERS_OF_LINE**0.5)


class _Fit(Struct, frozen=True):
    """The rules of a face, or of neighbouring weights; the first is for most of its text, which is this `share` of its
    family's. `size` is what one rule for all of it would say."""

    rules: tuple[FallbackFace, ...]
    share: float
    size: float

    @property
    def weight(self) -> tuple[int, int]:
        return self.rules[0].weight

    def up_to(self, weight: tuple[int, int]) -> _Fit:
        """The same for all weights of these, too. Rules whose weights differ do not make one font together."""
        both = (min(self.weight[0], weight[0]), max(self.weight[1], weight[1]))
        return _Fit(tuple(replace(rule, weight=both) for rule in self.rules), self.share, self.size)


def _joined(fits: Sequence[_Fit], tolerance: float) -> list[_Fit]:
    """One for neighbouring weights that would say the same, or nearly so where one is for little text or for none."""
    joined: list[_Fit] = []
    for new in sorted(fits, key=lambda fitted: _order(fitted.rules[0])):
        last = joined[-1] if joined else None
        if last is not None and _are_alike(last, new, tolerance):
            # What is said is what holds for more text.
            kept, other = (new, last) if new.share > last.share else (last, new)
            joined[-1] = kept.up_to(other.weight)
        else:
            joined.append(new)
    return joined


def _order(rule: FallbackFace) -> tuple[object, ...]:
    return rule.width, rule.style != "normal", rule.style, rule.weight


def _are_alike(one: _Fit, other: _Fit, tolerance: float) -> bool:
    least = min(one.share, other.share)
    if least < _LITTLE:
        # Headings are few words, and large: they may not be far off.
        limit = _ABOUT_THE_SAME_SIZE if least else _SIZE_OF_UNUSED
        first, second = one.rules[0], other.rules[0]
        same = (first.local, first.style, first.width) == (second.local, second.style, second.width)
        return same and abs(one.size - other.size) < limit
    pairs = list(zip(one.rules, other.rules, strict=False))
    return len(one.rules) == len(other.rules) and all(
        (mine.local, mine.style, mine.width, mine.unicode_range)
        == (theirs.local, theirs.style, theirs.width, theirs.unicode_range)
        and all(abs(a - b) < tolerance for a, b in zip(_measures(mine), _measures(theirs), strict=True))
        for mine, theirs in pairs
    )


def _measures(rule: FallbackFace) -> tuple[float, float, float, float]:
    return rule.size_adjust, rule.ascent, rule.descent, rule.line_gap

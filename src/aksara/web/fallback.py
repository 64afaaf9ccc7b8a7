"""Fallback faces: system fonts scaled to the web font's metrics, so that no line moves when it arrives.

A family of its own ("Penyu Sans on Arial") has a face for each face of the web font: `local()` finds the system's font,
`size-adjust` scales it until text is as wide, and the overrides give it the web font's lines (CSS Fonts 5, section 5).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from aksara.faces import Face, FaceMetrics, Style
from aksara.text import format_ranges
from aksara.text.scripts import COMMON, script_of
from aksara.web.system_families import SystemFamily, find_system_family, mean_width

#: Of running text, the share of letters that both fonts must have, or the ratio of widths would be a guess.
_KNOWN_SHARE = 0.9
#: Of a text's letters, the share from which on a script other than the main one is fitted by itself.
_OWN_SHARE = 0.03
_LETTERS_OF_LINE = 65
#: Ratios of widths that a scaled font is still legible at.
_SANE = (0.5, 2.0)
#: Neighbouring weights whose sizes differ by less, in percent, share a rule: of static faces, which have just one size,
#: and of a variable face, whose size changes all along.
_SAME_SIZE, _ABOUT_THE_SAME_SIZE = 0.05, 0.5


class FallbackFace(Struct, frozen=True, kw_only=True):
    """One rule: `family` is its own name, `on` the system family, `local` the names of its fonts.

    `weight` and `width` are ranges, as the web face's; `size_adjust`, `ascent`, `descent` and `line_gap` are
    percentages. `unicode_range` is that of a script of its own ("": all characters but those of such rules).
    `difference` is by how much, as a share of its width, a line of text is likely to be wider or narrower.
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


def fallback_faces(
    family: str,
    faces: Sequence[tuple[Face, FaceMetrics]],
    stack: Sequence[str],
    frequencies: Mapping[int, float],
    measured: Sequence[SystemFamily] = (),
) -> tuple[FallbackFace, ...]:
    """The rules for those families of the stack that were measured, in the stack's order.

    A variable face is given several times, each time for a part of its range and with the metrics that it has there.
    `frequencies` says how often each character occurs in the text to be set; characters that one of the two fonts
    lacks do not count. `measured` are families besides those that are known.
    """
    rules: list[FallbackFace] = []
    tolerance = _ABOUT_THE_SAME_SIZE if any(face.is_variable for face, _ in faces) else _SAME_SIZE
    known = (find_system_family(name, measured) for name in stack)
    for system in dict.fromkeys(filter(None, known)):
        for ranges, share in _by_script(frequencies, faces[0][1].widths if faces else {}):
            made = [_face(family, face, metrics, system, share, ranges) for face, metrics in faces]
            rules += _joined([rule for rule in made if rule is not None], tolerance)
    return tuple(rules)


def _by_script(frequencies: Mapping[int, float], widths: Mapping[int, float]) -> list[tuple[str, Mapping[int, float]]]:
    """The text's letters by script: those of the most used one with all signs, for every character; then others of
    which there are many, for the range of these alone."""
    shares: dict[str, dict[int, float]] = {}
    for code, share in frequencies.items():
        shares.setdefault(script_of(code), {})[code] = share
    common = shares.pop(COMMON, {})
    if len(shares) < 2:
        return [("", frequencies)]
    total = sum(map(sum, (share.values() for share in shares.values()))) or 1.0
    main = max(sorted(shares), key=lambda script: sum(shares[script].values()))
    found: list[tuple[str, Mapping[int, float]]] = [("", shares[main] | common)]
    for script in sorted(shares):
        if script != main and sum(shares[script].values()) >= _OWN_SHARE * total:
            codes = {code for code in widths if script_of(code) == script}
            if codes:
                found.append((format_ranges(codes), shares[script]))
    return found


def fit(metrics: FaceMetrics, widths: Mapping[int, float], frequencies: Mapping[int, float]) -> float | None:
    """By how much a font of these widths has to be scaled; None if too little of the text is in both fonts."""
    common = metrics.widths.keys() & widths.keys() & frequencies.keys()
    # Ideographs and the like are missing from system families that were measured: say nothing about such text.
    if sum(frequencies[code] for code in common) < _KNOWN_SHARE * sum(
        share for code, share in frequencies.items() if code in metrics.widths
    ):
        return None
    ours, theirs = mean_width(metrics.widths, frequencies, common), mean_width(widths, frequencies, common)
    if not theirs or not _SANE[0] <= ours / theirs <= _SANE[1]:
        return None
    return ours / theirs


def _face(
    family: str,
    face: Face,
    metrics: FaceMetrics,
    system: SystemFamily,
    frequencies: Mapping[int, float],
    unicode_range: str = "",
) -> FallbackFace | None:
    # Browsers take a family's bold from 600 on.
    system_face = system.face(bold=face.weight >= 600, italic=face.style != "normal")
    ratio = fit(metrics, system_face.widths, frequencies)
    if ratio is None:
        return None
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
        difference=round(_line_difference(metrics.widths, system_face.widths, frequencies, ratio), 4),
    )


def _line_difference(
    ours: Mapping[int, float], theirs: Mapping[int, float], frequencies: Mapping[int, float], ratio: float
) -> float:
    """How much wider or narrower a line is likely to be: letters differ both ways, which evens out along it."""
    common = ours.keys() & theirs.keys() & frequencies.keys()
    total = sum(frequencies[code] for code in common)
    mean = mean_width(ours, frequencies, common)
    if not total or not mean:
        return 0.0
    squares = sum(frequencies[code] * (ours[code] - ratio * theirs[code]) ** 2 for code in sorted(common))
    return float((squares / total) ** 0.5 / mean / _LETTERS_OF_LINE**0.5)


def _joined(rules: Sequence[FallbackFace], tolerance: float) -> list[FallbackFace]:
    """One rule for neighbouring weights that would say the same."""
    joined: list[FallbackFace] = []
    for rule in sorted(rules, key=lambda rule: (rule.width, rule.style != "normal", rule.style, rule.weight)):
        last = joined[-1] if joined else None
        if (
            last is not None
            and (last.local, last.style, last.width) == (rule.local, rule.style, rule.width)
            and all(
                abs(mine - theirs) < tolerance for mine, theirs in zip(_measures(last), _measures(rule), strict=True)
            )
        ):
            joined[-1] = replace(last, weight=(last.weight[0], rule.weight[1]))
        else:
            joined.append(rule)
    return sorted(joined, key=lambda rule: (rule.width, rule.weight, rule.style != "normal"))


def _measures(rule: FallbackFace) -> tuple[float, float, float, float]:
    return rule.size_adjust, rule.ascent, rule.descent, rule.line_gap

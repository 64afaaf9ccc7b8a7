"""Findings about faces: faked styles, what readers see while fonts load, and unused faces."""

from __future__ import annotations

from collections.abc import Iterator

from aksara.checking.checks.characters import has, is_drawn
from aksara.checking.findings import Finding, finding, place_of
from aksara.checking.gathering import CheckedSite
from aksara.phrases import count_of
from aksara.site.findings import nearly_empty, replaced_faces, unused_faces
from aksara.web.font_matching import describe_missing_face, synthesis

#: Steps of weight that few readers see.
_NEAR = 100
#: Characters that are named.
_NAMED = 6


def face_findings(site: CheckedSite) -> Iterator[Finding]:
    """All of them."""
    yield from _replaced(site)
    yield from _display(site)
    yield from _unused(site)


def _replaced(site: CheckedSite) -> Iterator[Finding]:
    for replaced in replaced_faces(site.use):
        # Another width is not a fake, and icons are not letters.
        low, high = replaced.nearest.weight_range
        if low <= replaced.desired.weight <= high and replaced.desired.style in replaced.nearest.styles:
            continue
        if site.is_icon_family(replaced.family):
            continue
        rules = site.rules_for(replaced.use) or ()
        codes = [code for code in sorted(replaced.use.codes) if is_drawn(code)] if rules else []
        lost = [code for code in codes if not any(has(rule, code) for rule in rules)]
        effect = f"{count_of(replaced.use.count, 'character')} in a faked weight or style, or in another one"
        if lost:
            named = "".join(map(chr, lost[:_NAMED])) + "…" * (len(lost) > _NAMED)
            effect += f"; {len(lost):,} of them ({named}) in another font"
        distance = max(low - replaced.desired.weight, replaced.desired.weight - high)
        is_near = distance <= _NEAR and not synthesis(replaced.desired, replaced.nearest)
        own = replaced.family.casefold() in site.own_families
        yield finding(
            "face-missing",
            place_of(replaced.use.origin),
            "own" if own else "near" if is_near and not lost else "",
            page=replaced.use.origin.page,
            family=replaced.family,
            characters=lost,
            described=describe_missing_face(replaced.desired, replaced.nearest),
            effect=effect,
            count=count_of(replaced.use.count, "character"),
        )


def _display(site: CheckedSite) -> Iterator[Finding]:
    """Faces without `font-display`: once a style sheet."""
    told: set[str] = set()
    for rule in site.rules:
        face = rule.defined
        if face is None or face.local or "font-display" in rule.rule.descriptors or rule.sheet.address in told:
            continue
        told.add(rule.sheet.address)
        case = "icons" if site.is_icon_family(face.family) else ""
        yield finding("display-missing", rule.place(), case, family=face.family, face=face.label)


def _unused(site: CheckedSite) -> Iterator[Finding]:
    # What scripts make may show any of them.
    unused = set(unused_faces(site.use)) if not nearly_empty(site.use.pages) else set()
    told: set[tuple[object, ...]] = set()
    for rule in site.rules:
        face = rule.defined
        if face is None or face.local:
            continue
        key = (face.family, face.weight, face.style, face.width)
        if key not in told and any((face.family, face.weight, face.style, face.width) == key for face in unused):
            told.add(key)
            yield finding("face-unused", rule.place(), family=face.family, face=face.label)

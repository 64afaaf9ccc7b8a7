"""The families that follow the web font, used while it loads and for characters it does not have."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from aksara.errors import RequestError
from aksara.faces import FaceMetrics, Generic
from aksara.text import find_language, language_frequencies
from aksara.text.scripts import USUAL_SCRIPTS, script_of
from aksara.web.fallback import fit, much_used, script_shares, written_together
from aksara.web.syntax import GENERIC_FAMILIES
from aksara.web.system_families import PLATFORMS, SystemFamily, all_system_families, find_system_family

# Where letters could not be compared, families of that kind by name: they follow without matched metrics.
_BY_NAME: dict[Generic, tuple[str, ...]] = {
    "sans-serif": ("Arial",),
    "serif": ("Times New Roman",),
    "monospace": ("Courier New",),
    "cursive": ("Segoe Script", "Snell Roundhand"),
    "math": ("Cambria Math", "STIX Two Math"),
    "emoji": ("Apple Color Emoji", "Segoe UI Emoji", "Noto Color Emoji"),
}
#: A family that only some platforms have is used if it is closer by this factor; stacks should be short.
_CLEARLY_CLOSER = 0.6
# The eye sees a difference in the height of small letters sooner than one in the width of some letter.
_HEIGHT_COUNTS = 1.5


def close_stack(
    generic: Generic,
    metrics: FaceMetrics,
    frequencies: Mapping[int, float],
    measured: Sequence[SystemFamily] = (),
) -> tuple[str, ...]:
    """For each platform the closest family of the same class that it has, then the generic family.

    Close is what needs the least change: after scaling to the same average width, letters are as wide and small
    letters as high. Families on many platforms come last, so that each platform finds its own first. For scripts that
    these families lack, others come behind them, whatever their class.
    """
    distances: dict[SystemFamily, float] = {}
    families = all_system_families(measured)
    for family in families:
        if (
            not family.scripts
            and family.generic == generic
            and (off := distance(metrics, family, frequencies)) is not None
        ):
            distances[family] = off
    chosen: list[SystemFamily] = []
    for platform in PLATFORMS:
        there = [family for family in distances if platform in family.platforms]
        if not there:
            continue
        closest = min(there, key=lambda family: (distances[family], family.name))
        shared = [family for family in there if len(family.platforms) > 1]
        wide = min(shared, key=lambda family: (-len(family.platforms), distances[family]), default=closest)
        best = closest if distances[closest] < _CLEARLY_CLOSER * distances[wide] else wide
        if best not in chosen:
            chosen.append(best)
    chosen.sort(key=lambda family: len(family.platforms))
    for script, own in _by_script(frequencies).items():
        for_script = [family for family in families if not family.scripts or script in family.scripts]
        chosen += _families_of_script(own, generic, metrics, for_script, chosen)
    names = [family.name for family in chosen]
    if not any("windows" in family.platforms for family in chosen):
        names += _BY_NAME[generic]
    return (*dict.fromkeys(names), generic)


def unmatched_scripts(
    stack: Sequence[str],
    metrics: FaceMetrics,
    frequencies: Mapping[int, float],
    measured: Sequence[SystemFamily] = (),
) -> tuple[str, ...]:
    """The scripts of a text, besides the usual ones, that no family of the stack was measured in (ISO 15924)."""
    families = [family for family in (find_system_family(name, measured) for name in stack) if family is not None]
    return tuple(
        script
        for script, own in _by_script(frequencies).items()
        if script not in USUAL_SCRIPTS and all(distance(metrics, family, own) is None for family in families)
    )


def _by_script(frequencies: Mapping[int, float]) -> dict[str, dict[int, float]]:
    """The frequencies of the letters of each script with enough text."""
    return {
        script: {code: share for code, share in frequencies.items() if written_together(script_of(code)) == script}
        for script in much_used(script_shares(frequencies))
    }


def _families_of_script(
    frequencies: Mapping[int, float],
    generic: Generic,
    metrics: FaceMetrics,
    families: Sequence[SystemFamily],
    chosen: Sequence[SystemFamily],
) -> list[SystemFamily]:
    """The closest family with these characters, for each platform on which the `chosen` families lack them."""
    fitting: dict[SystemFamily, float] = {}
    # What was measured somewhere may be for any script.
    for family in families:
        off = distance(replace(metrics, x_height=None), family, frequencies)
        if off is not None:
            fitting[family] = off
    language = _language_of_ideographs(frequencies)
    added: list[SystemFamily] = []

    def order(family: SystemFamily) -> tuple[bool, bool, float, str]:
        return family.language != language, family.generic != generic, fitting[family], family.name

    for platform in PLATFORMS:
        there = [family for family in fitting if platform in family.platforms]
        if there and not any(family in there for family in chosen) and (best := min(there, key=order)) not in added:
            added.append(best)
    return sorted(added, key=lambda family: len(family.platforms))


def _language_of_ideographs(frequencies: Mapping[int, float]) -> str:
    """The language in whose forms ideographs are drawn (`SystemFamily.language`); "" for other letters."""
    scripts = {script_of(code) for code in frequencies}
    if scripts & {"Hira", "Kana"}:
        return "ja"
    if "Hang" in scripts:
        return "ko"
    if "Hani" not in scripts:
        return ""
    shares = {
        tag: sum(frequencies[code] for code in language_frequencies([find_language(tag)]).keys() & frequencies.keys())
        for tag in ("zh", "zh-Hant")
    }
    return "zh-Hant" if shares["zh-Hant"] > shares["zh"] else "zh-Hans"


def distance(metrics: FaceMetrics, family: SystemFamily, frequencies: Mapping[int, float]) -> float | None:
    """How far the family's upright is from a face, in ems; None if they cannot be compared."""
    widths = family.face(bold=False, italic=False).widths
    ratio = fit(metrics, widths, frequencies)
    if ratio is None:
        return None
    common = frequencies.keys() & metrics.widths.keys() & widths.keys()
    total = sum(frequencies[code] for code in common)
    squares = sum(frequencies[code] * (metrics.widths[code] - ratio * widths[code]) ** 2 for code in common)
    height = abs(metrics.x_height - ratio * family.x_height) if metrics.x_height else 0.0
    return float((squares / total) ** 0.5 + _HEIGHT_COUNTS * height)


def parse_stack(text: str) -> tuple[str, ...]:
    """The families of a list as typed by a user: `"Segoe UI", Arial, sans-serif`, quotes optional."""
    families = [" ".join(part.split()).strip("\"' ") for part in text.split(",")]
    if not all(families):
        raise RequestError(
            f"'{text}' has an empty family; write a list like \"Arial, sans-serif\"", parameter="FamilyRequest.stack"
        )
    return tuple(families)


def complete_stack(families: tuple[str, ...], generic: Generic) -> tuple[str, ...]:
    """The stack with a generic family at its end, which every stack needs."""
    if families and families[-1] in GENERIC_FAMILIES:
        return families
    return (*families, generic)

"""Measuring a system family on the computer that has it: the letter widths of the faces that browsers take from it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from difflib import get_close_matches
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import InputError, RequestError
from aksara.faces import Face, FaceMetrics, face_metrics, generic_family, identify, widths_of
from aksara.font import Font
from aksara.installed_fonts import font_folders, fonts_of_family, installed_families, this_platform
from aksara.instancing import AxisLimit, advances_at_locations
from aksara.sources import printable
from aksara.tables import Fvar, Name
from aksara.tables.name import FULL_NAME, POSTSCRIPT_NAME
from aksara.text_widths import widths_in_text
from aksara.web.measured_families import SystemStyle, measured_family
from aksara.web.system_families import Platform, SystemFamily

#: The weight that pages ask for when they use a style.
_WEIGHTS: dict[bool, int] = {False: 400, True: 700}
_STYLES: Mapping[tuple[bool, bool], SystemStyle] = {
    (False, False): "Regular", (False, True): "Italic", (True, False): "Bold", (True, True): "Bold Italic"
}  # fmt: skip
#: From here on browsers take a family's bold.
_BOLD = 600


class _Candidate(Struct, frozen=True):
    """A font, static or at one weight, that could serve a style; `off` is its distance from what pages ask for."""

    style: SystemStyle
    off: float
    face: Face
    font: Font
    weight: int | None = None


def measure_family(name: str, folders: Sequence[Path] = (), platforms: Sequence[Platform] = ()) -> SystemFamily:
    """The family of that name as the fonts in these folders have it (by default those of this system).

    A variable font is measured at the weights of regular and bold. Raises `RequestError` where there is no such family.
    """
    folders = folders or font_folders()
    name = " ".join(name.split())
    nearest: dict[SystemStyle, _Candidate] = {}
    for candidate in _candidates(fonts_of_family(name, folders)):
        if candidate.style not in nearest or candidate.off < nearest[candidate.style].off:
            nearest[candidate.style] = candidate
    if not nearest:
        raise _not_found(name, folders)
    first = next(nearest[style] for style in _STYLES.values() if style in nearest)
    # As the fonts write it, whatever was typed.
    own_name = first.face.family if first.face.family.casefold() == name.casefold() else name
    metrics = {style: (_metrics(candidate), _local_names(candidate)) for style, candidate in nearest.items()}
    return measured_family(own_name, generic_family(first.font), platforms or (this_platform(),), metrics)


def _candidates(fonts: Iterable[Font]) -> Iterator[_Candidate]:
    for font in fonts:
        with suppress(InputError):
            face = identify(font)
            low, high = face.weight_range
            italic = face.style != "normal"
            for bold, wanted in _WEIGHTS.items():
                weight = min(max(wanted, low), high)
                if (weight >= _BOLD) == bold:
                    style: SystemStyle = (
                        ("Bold Italic" if italic else "Bold") if bold else "Italic" if italic else "Regular"
                    )
                    off = abs(weight - wanted) + abs(face.width - 100)
                    yield _Candidate(style, off, face, font, weight if low < high else None)


def _metrics(candidate: _Candidate) -> FaceMetrics:
    metrics = face_metrics(candidate.font)
    widths = metrics.widths
    if candidate.weight is not None:
        location = {"wght": AxisLimit(float(candidate.weight), float(candidate.weight))}
        (advances,) = advances_at_locations(candidate.font, [location])
        widths = widths_of(candidate.font, advances)
    return replace(metrics, widths=widths_in_text(candidate.font, widths))


def _local_names(candidate: _Candidate) -> list[str]:
    """The names by which a style sheet finds the font; of a variable one the instance of that weight comes first."""
    names = candidate.font.find(Name)
    if names is None:
        return []
    numbers: list[int] = [FULL_NAME, POSTSCRIPT_NAME]
    said = [names.get(name_id) for name_id in numbers]
    if candidate.weight is not None:
        fvar = candidate.font.table(Fvar)
        for instance in fvar.instances:
            location = dict(instance.location(fvar.axes))
            defaults = {axis.tag: axis.default / 65536 for axis in fvar.axes}
            if location == defaults | {"wght": float(candidate.weight)}:
                called = names.get(instance.name_id)
                own = names.get(instance.postscript_name_id) if instance.postscript_name_id is not None else None
                said = [f"{candidate.face.family} {called}" if called else None, own, *said]
    return list(dict.fromkeys(filter(None, said)))


def _not_found(name: str, folders: Sequence[Path]) -> RequestError:
    near = get_close_matches(name.casefold(), sorted(installed_families(folders)), 1, 0.6)
    hint = f"; did you mean {near[0]}?" if near else "; run it on a computer that has the family"
    return RequestError(f"this computer has no family called {printable(name)}{hint}")

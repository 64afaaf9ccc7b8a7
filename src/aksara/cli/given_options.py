"""Applying the options of `aksara build` to requests."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from aksara.cli.build_options import BUILD_OPTIONS, BuildOption
from aksara.errors import Location, RequestError
from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.request import BuildRequest, FaceOverride, Parameter, feature_choice, parse_replacements
from aksara.site import is_address


def with_options(request: BuildRequest, options: Mapping[str, Any], outputs: int) -> BuildRequest:
    """The request with the given options in place of what it says; `outputs` is how many the project has."""
    given = {option: options[option.name] for option in BUILD_OPTIONS if options[option.name] not in (None, ())}
    _check_encoding(given)
    _check_single(given, request, outputs)
    changes: dict[str, dict[str, Any]] = {}
    for option, value in given.items():
        if option.parameter:
            owner, _, field = option.parameter.partition(".")
            changes.setdefault(owner, {})[field] = option.value(value) if option.value is not None else value
    choices = changes.get("BuildRequest", {}) | changes.get("FamilyRequest", {})
    more = {option.flag: value for option, value in given.items() if not option.parameter}
    if more.keys() & {"--feature", "--no-feature"}:
        choices["features"] = feature_choice(more.get("--feature", ()), more.get("--no-feature", ()))
    if widths := tuple(FaceOverride(file, width=width) for file, width in more.get("--width", ())):
        choices["overrides"] = (*choices.get("overrides", ()), *widths)
    if "WebLicence" in changes:
        choices["licence"] = replace(request.licence, **changes["WebLicence"])
    if "CharacterRequest" in changes:
        choices |= _characters(request, changes["CharacterRequest"], options["for_site"])
    if "replaces" in choices:
        choices["replaces"], choices["replacements"] = parse_replacements(choices["replaces"])
    return request.with_choices(**choices, locations=_kept_locations(request, choices))


#: What says how pages are read, and not which characters are kept.
_WAYS_OF_READING = frozenset(("exact", "exclude", "browser"))


def _characters(request: BuildRequest, asked: dict[str, Any], sites: Sequence[str]) -> dict[str, Any]:
    """Characters asked for by options replace the project's; settings for reading pages are kept."""
    if asked.keys() <= _WAYS_OF_READING:
        return {"characters": replace(request.characters, **asked)}
    if sites:
        asked["addresses"] = tuple(path for path in sites if is_address(path))
    # The pages that link to the style sheet stay those of the project.
    return {
        "characters": CharacterRequest(**asked),
        "linking_pages": request.linking_pages or request.characters.pages,
    }


def _check_encoding(given: Mapping[BuildOption, Any]) -> None:
    """Raise `RequestError` for a text whose bytes are not in the terminal's encoding. Paths may be any bytes."""
    for option, value in given.items():
        for text in value if isinstance(value, tuple) else (value,):
            if isinstance(text, str) and re.search("[\ud800-\udfff]", text):
                raise RequestError(f"{option.flag}: this text is not valid UTF-8; type it again")


#: Options that name one path, which several outputs cannot share.
ONE_PATH = ("--to", "--css", "--css-into", "--rules", "--proof", "--manifest", "--zip")


def _check_single(given: Mapping[BuildOption, Any], request: BuildRequest, outputs: int) -> None:
    """Raise `RequestError` for an option with one value where the project needs several."""
    flags = {option.flag for option in given}
    if outputs > 1 and (single := [flag for flag in ONE_PATH if flag in flags]):
        raise RequestError(
            f"{single[0]} names one path, but the project has {outputs} outputs; change it in the project"
        )
    if "--family" in flags and len(request.families) > 1:
        raise RequestError("--family gives one name, but the project has several families; change it in the project")


def _kept_locations(request: BuildRequest, choices: Mapping[str, Any]) -> dict[Parameter, Location]:
    """Where the parameters are written that no option has changed."""
    changed = {f"{owner}.{name}" for owner in ("BuildRequest", "FamilyRequest") for name in choices}
    if "characters" in choices:
        changed |= {parameter for parameter, _ in request.locations if parameter.startswith("CharacterRequest.")}
    return {key: where for key, where in request.locations.items() if key[0] not in changed}

"""A value in the text of a JSON file, by its pointer (RFC 6901), so that it can be changed and nothing else."""

from __future__ import annotations

import json
import re
from json.decoder import scanstring  # type: ignore[attr-defined]
from typing import Any

from aksara.errors import RequestError

_SPACE = re.compile(r"[ \t\r\n]*")
_VALUE = json.JSONDecoder()
#: Steps of a pointer.
_DEEPEST = 50


def with_value(text: str, pointer: str, value: str) -> str:
    """The file's text with another value, as JSON, at the place that the pointer means.

    The last step may name a member that does not exist yet. Raises `RequestError` for a text that is no JSON, and for a
    pointer that leads nowhere.
    """
    steps = [step.replace("~1", "/").replace("~0", "~") for step in pointer.split("/")[1:]]
    if not pointer.startswith("/") or not 0 < len(steps) <= _DEEPEST:
        raise RequestError(f"'{pointer}' is not a JSON pointer; write one as /settings/fonts")
    start = len(text) - len(text.removeprefix("\ufeff"))
    try:
        json.loads(text[start:])
        place = _skip(text, start)
        for number, step in enumerate(steps):
            found = _inside(text, place, step)
            if found is None and number == len(steps) - 1 and text[place] == "{":
                return _with_member(text, place, step, value)
            if found is None:
                raise RequestError(f"there is no '{step}' at /{'/'.join(steps[:number])}; correct the pointer")
            place = found
        _, end = _VALUE.raw_decode(text, place)
    except (ValueError, RecursionError) as error:
        raise RequestError("this is not valid JSON") from error
    return text[:place] + value + text[end:]


def _skip(text: str, place: int) -> int:
    match = _SPACE.match(text, place)
    return match.end() if match else place


def _inside(text: str, place: int, step: str) -> int | None:
    """Where the member or item of that name starts, of the value at a place."""
    is_object = text[place] == "{"
    if not is_object and text[place] != "[":
        return None
    number = 0
    place = _skip(text, place + 1)
    while text[place] not in "}]":
        name: Any = str(number)
        if is_object:
            name, place = scanstring(text, place + 1, True)
            place = _skip(text, _skip(text, place) + 1)
        if name == step:
            return place
        _, place = _VALUE.raw_decode(text, place)
        place = _skip(text, place)
        if text[place] == ",":
            place = _skip(text, place + 1)
        number += 1
    return None


def _with_member(text: str, place: int, name: str, value: str) -> str:
    """The text with another member at the start of the object there, written as its neighbour is."""
    start = place + 1
    first = _skip(text, start)
    blank = text[start:first]
    if text[first] == "}":
        return f"{text[:start]}{json.dumps(name)}: {value}{text[first:]}"
    return f"{text[:start]}{blank}{json.dumps(name)}: {value},{blank or ' '}{text[first:]}"

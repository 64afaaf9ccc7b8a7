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
        position = _skip(text, start)
        for index, step in enumerate(steps):
            inner = _inside(text, position, step)
            if inner is None and index == len(steps) - 1 and text[position] == "{":
                return _with_member(text, position, step, value)
            if inner is None:
                raise RequestError(f"there is no '{step}' at /{'/'.join(steps[:index])}; correct the pointer")
            position = inner
        _, end = _VALUE.raw_decode(text, position)
    except (ValueError, RecursionError) as error:
        raise RequestError("this is not valid JSON") from error
    return text[:position] + value + text[end:]


def _skip(text: str, position: int) -> int:
    match = _SPACE.match(text, position)
    return match.end() if match else position


def _inside(text: str, position: int, step: str) -> int | None:
    """Where the member or item of that name starts, of the value at a place."""
    is_object = text[position] == "{"
    if not is_object and text[position] != "[":
        return None
    index = 0
    position = _skip(text, position + 1)
    while text[position] not in "}]":
        name: Any = str(index)
        if is_object:
            name, position = scanstring(text, position + 1, True)
            position = _skip(text, _skip(text, position) + 1)
        if name == step:
            return position
        _, position = _VALUE.raw_decode(text, position)
        position = _skip(text, position)
        if text[position] == ",":
            position = _skip(text, position + 1)
        index += 1
    return None


def _with_member(text: str, position: int, name: str, value: str) -> str:
    """The text with another member at the start of the object there, written as its neighbour is."""
    start = position + 1
    first = _skip(text, start)
    blank = text[start:first]
    if text[first] == "}":
        return f"{text[:start]}{json.dumps(name)}: {value}{text[first:]}"
    return f"{text[:start]}{blank}{json.dumps(name)}: {value},{blank or ' '}{text[first:]}"

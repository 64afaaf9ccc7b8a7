"""Emoji: single ones, and the sequences that are drawn as one picture (UTS #51)."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Set
from functools import cache
from importlib.resources import files

from aksara.errors import RequestError
from aksara.text.ranges import intervals, parse_ranges

#: The sets that can be requested: emoji of one character, and these with all sequences meant for use.
EMOJI_SETS = ("basic", "all")
ZWJ = "\u200d"
#: They choose between text and picture, and fonts look past them where they do not care.
PRESENTATION_SELECTORS = "\ufe0e\ufe0f"
_SKIN_TONES, _KEYCAP = "\U0001f3fb-\U0001f3ff", "\u20e3"
_REGIONAL, _TAGS, _LAST_TAG = "\U0001f1e6-\U0001f1ff", "\U000e0020-\U000e007e", "\U000e007f"
_JOINERS = re.compile(f"[{ZWJ}{_SKIN_TONES}{_KEYCAP}{_REGIONAL}{_TAGS}{_LAST_TAG}]")


def emoji_set(name: str) -> str:
    """The emoji of a set, concatenated. Raises `RequestError` for a name that is not in `EMOJI_SETS`."""
    if name not in EMOJI_SETS:
        raise RequestError(f"{name} is not a set of emoji; choose from {', '.join(EMOJI_SETS)}")
    data = _data()
    return data["basic"] if name == "basic" else f"{data['basic']} {data['sequences']}"


def emoji_sequences(text: str) -> frozenset[str]:
    """The sequences of several characters that are emoji in a text, as written.

    Found as UTS #51, section 1.4.9, has it, whether or not they are meant for use.
    """
    if not _JOINERS.search(text):
        return frozenset()
    return frozenset(match[0] for match in _sequence().finditer(text) if len(without_selectors(match[0])) > 1)


def without_selectors(text: str) -> str:
    """A sequence without the characters that choose between text and picture."""
    return text.translate(_SELECTORS)


def qualified(text: str) -> str:
    """A sequence with all the characters that choose its presentation, as it is meant for use."""
    bare = without_selectors(text)
    return _qualified().get(bare, bare)


def is_joiner(character: str) -> bool:
    """Whether the character makes sequences of emoji."""
    return _JOINERS.fullmatch(character) is not None


def may_be_of_emoji(character: str) -> bool:
    """Whether the character may be a part of a sequence of emoji."""
    return _parts().fullmatch(character) is not None


def emoji_count(codes: Iterable[int]) -> int:
    """How many of these characters may be parts of sequences of emoji."""
    return sum(map(len, _parts().findall("".join(map(chr, codes)))))


def is_of_emoji(text: str) -> bool:
    """Whether it is a sequence of emoji, or a part of one: of emoji and what joins them, one of these at least."""
    return len(text) > 1 and bool(_JOINERS.search(text)) and bool(_parts().fullmatch(text))


_SELECTORS = dict.fromkeys(map(ord, PRESENTATION_SELECTORS))


@cache
def _data() -> dict[str, str]:
    data: dict[str, str] = json.loads(files("aksara.data").joinpath("emoji.json").read_text("utf-8"))
    return data


def known_sequences() -> Set[str]:
    """The sequences of several emoji that are meant for use, without the characters that choose their presentation."""
    return _qualified().keys()


@cache
def _qualified() -> dict[str, str]:
    return {without_selectors(sequence): sequence for sequence in _data()["sequences"].split()}


@cache
def _emoji() -> str:
    """All characters that may be emoji, as a class of a regular expression has them."""
    spans = intervals(parse_ranges(_data()["characters"]))
    return "".join(f"{re.escape(chr(first))}-{re.escape(chr(last))}" for first, last in spans)


@cache
def _sequence() -> re.Pattern[str]:
    varied = f"[{_SKIN_TONES}]\ufe0f?|\ufe0f?{_KEYCAP}|[{PRESENTATION_SELECTORS}]|[{_TAGS}]+{_LAST_TAG}"
    element = f"(?:[{_REGIONAL}]{{2}}|[{_emoji()}](?:{varied})?)"
    return re.compile(f"{element}(?:{ZWJ}{element})*")


@cache
def _parts() -> re.Pattern[str]:
    return re.compile(f"(?:[{_emoji()}]|{_JOINERS.pattern})+")

"""Stretches of a text between an opening and a closing sign, found in linear time: files come from anywhere."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from functools import cache


def find_spans(
    source: str, signs: Sequence[tuple[str, str]], *, to_the_end: Sequence[str] = ()
) -> Iterator[tuple[int, int]]:
    """Start and end of each stretch, in order, none in another one; `signs` are openers, each with its closer.

    An opener that nothing closes opens nothing, but for those in `to_the_end`. Without regard to case.
    """
    closers: Mapping[str, str] = dict(signs)
    lower = source.lower()
    # Lower case may have another length: then capitals count.
    lower = lower if len(lower) == len(source) else source
    unclosed: set[str] = set()
    position = 0
    opener = _openers(tuple(closers))
    while (match := opener.search(lower, position)) is not None:
        sign = match[0]
        end = -1 if sign in unclosed else lower.find(closers[sign], match.end())
        if end >= 0:
            position = end + len(closers[sign])
            yield match.start(), position
        elif sign in to_the_end:
            yield match.start(), len(source)
            return
        else:
            unclosed.add(sign)
            position = match.end()


@cache
def _openers(signs: tuple[str, ...]) -> re.Pattern[str]:
    return re.compile("|".join(map(re.escape, sorted(signs, key=lambda sign: -len(sign)))))


def without(source: str, spans: Iterator[tuple[int, int]]) -> str:
    """The text with as many empty lines in place of each stretch."""
    pieces: list[str] = []
    end = 0
    for start, stop in spans:
        pieces += (source[end:start], "\n" * source.count("\n", start, stop) or " ")
        end = stop
    return "".join((*pieces, source[end:]))

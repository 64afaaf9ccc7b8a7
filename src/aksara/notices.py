"""Notices: what a user should know though nothing failed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Generic, NamedTuple, TypeVar

from msgspec import Struct

from aksara.phrases import listed

Value = TypeVar("Value")
#: Files or families that a notice names.
_NAMED = 3
#: How sentences begin that are about one thing.
_OF_ONE = ("is ", "has ", "does ")


class Notice(Struct, frozen=True):
    """`where` is the file or family that it is about ('' for the whole build), `text` a sentence without a full stop.

    `remedy` is the parameter of a request that would change it (`"FamilyRequest.overrides"`), or ''; an interface adds
    its own words for that.
    """

    where: str
    text: str
    remedy: str = ""

    def as_json(self) -> dict[str, str]:
        """For JSON outputs."""
        return {"where": self.where, "message": self.text}


def grouped_notices(notices: Iterable[Notice]) -> list[Notice]:
    """The notices, each text once, with all that it is about, in the order of the first; but for sentences whose verb
    is of one thing.

    >>> [notice.where for notice in grouped_notices(Notice(name, "damaged") for name in "abcde")]
    ['a, b, c and 2 more']
    """
    about: dict[tuple[str, str, str], dict[str, None]] = {}
    for notice in notices:
        alone = notice.where if notice.text.startswith(_OF_ONE) else ""
        about.setdefault((notice.text, notice.remedy, alone), {})[notice.where] = None
    return [Notice(listed(list(places), _NAMED), text, remedy) for (text, remedy, _), places in about.items()]


class Noted(NamedTuple, Generic[Value]):
    """A result with notices about how it was reached."""

    value: Value
    notices: tuple[Notice, ...] = ()

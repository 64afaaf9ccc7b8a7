"""Notices: what a user should know though nothing failed."""

from __future__ import annotations

from typing import Generic, NamedTuple, TypeVar

from msgspec import Struct

Value = TypeVar("Value")


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


class Noted(NamedTuple, Generic[Value]):
    """A result, and what the user should know about how it came about."""

    value: Value
    notices: tuple[Notice, ...] = ()

"""The licence of the fonts as fonts and the user state it, and whether web fonts may be made."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from msgspec import Struct

from aksara.errors import EmbeddingNotPermitted
from aksara.faces.permission import Embedding


class WebLicence(Struct, frozen=True):
    """The user's statement: `stated` that a web licence is held, by whom ('' if that is not said), where, how long.

    `css` is what the licence wants in the style sheet, first of all (a counter's `@import`).
    """

    stated: bool = False
    holder: str = ""
    domains: tuple[str, ...] = ()
    until: date | None = None
    css: str = ""
    #: Where the fonts' maker agrees to a reserved name on changed fonts.
    name_agreed: str = ""

    @property
    def words(self) -> str:
        """The statement in a sentence; '' if there is none."""
        where = f" for {', '.join(self.domains)}" if self.domains else ""
        limit = f" until {self.until.isoformat()}" if self.until else ""
        if self.stated:
            who = self.holder or "the site"
            return f"Stated when these fonts were made: {who} holds a licence for the web{where}{limit}."
        if self.holder:
            return f"Licensed to {self.holder}{where}{limit}."
        return f"Licensed{where}{limit}." if where or limit else ""


def refusal(family: str, permission: Embedding, paths: Sequence[str]) -> EmbeddingNotPermitted:
    """Why fonts of this permission are not made into web fonts unless a web licence is stated."""
    fonts = paths[0] if len(paths) == 1 else f"{paths[0]} and {len(paths) - 1} more of {family}"
    return EmbeddingNotPermitted(
        f"{fonts}: the font itself forbids this use.\n"
        f"  It says: {permission.words}. A web font is an embedded and, here, a subsetted copy.",
        files=paths,
    )

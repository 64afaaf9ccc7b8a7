"""The page on which candidates are compared: one HTML document that fetches nothing but fonts beside it."""

from __future__ import annotations

import json
from base64 import b64encode
from collections.abc import Callable
from typing import Any

from msgspec import Struct

from aksara.sizes import format_size
from aksara.trying.candidates import Candidate
from aksara.trying.instructions import Instructions
from aksara.trying.present import TriedPage
from aksara.web.syntax import family_name

#: Bytes of fonts from which on they lie beside the page.
MOST_INSIDE = 1_800_000
#: Sizes of headings, in CSS pixels.
SIZES = (64, 36, 22)


class Trial(Struct, frozen=True):
    """A page, or a text, and the candidates for it; `pending` are families that are still being built."""

    page: TriedPage
    candidates: tuple[Candidate, ...]
    pending: int = 0
    #: How a candidate is built, as the page says it.
    instruct: Callable[[Candidate, TriedPage], Instructions] = lambda candidate, page: Instructions()

    @property
    def are_fonts_inside(self) -> bool:
        """Whether all fonts fit into the document."""
        return sum(candidate.size for candidate in self.candidates) <= MOST_INSIDE


def trial_page(trial: Trial, version: str, *, token: str = "", fonts: str = "") -> bytes:
    """The document, in UTF-8. Names and texts are escaped; the user's page stands in a frame without scripts.

    With a `token` it asks the server that it comes from for candidates that are built later, and may have it write a
    project file. `fonts` is the folder of the fonts from the document, or "" for fonts inside of it.
    """
    from aksara.proof.compiled import page_templates  # Jinja2 is a tenth of the imports of a build

    environment = page_templates("aksara.trying")
    environment.filters["size"] = format_size
    text = environment.get_template("trial.html").render(
        trial=trial,
        sizes=SIZES,
        version=version,
        data=_in_script({
            "page": _page_json(trial.page), "token": token, "pending": trial.pending, "sizes": SIZES,
            "candidates": [candidate_json(candidate, trial, fonts) for candidate in trial.candidates],
        }),
    )  # fmt: skip
    return text.encode(errors="replace")


def candidate_json(candidate: Candidate, trial: Trial, fonts: str = "") -> dict[str, Any]:
    """A candidate as the document's script takes it."""
    instructions = trial.instruct(candidate, trial.page)
    return {
        **figures_json(candidate),
        "has_own_name": candidate.has_own_name,
        "size_words": format_size(candidate.size),
        "stack": [family_name(name) for name in candidate.stack],
        "rules": [
            {
                "weight": face.weight,
                "style": face.style,
                "stretch": face.stretch,
                "range": face.unicode_range,
                "url": f"{fonts}/{face.file}" if fonts else f"data:font/woff2;base64,{b64encode(face.data).decode()}",
            }
            for face in candidate.faces
        ],
        "command": instructions.command,
        "project": instructions.project,
    }


def figures_json(candidate: Candidate) -> dict[str, Any]:
    """A candidate as JSON, without its fonts."""
    return {
        "family": candidate.name,
        "fonts": [path.as_posix() for path in candidate.fonts.paths],
        "faces": [face.label for face in candidate.faces],
        "bytes": candidate.size,
        "missing": candidate.missing,
        "faked": list(candidate.faked),
        "licence": candidate.licence,
        "fallback": candidate.fallback,
        "line_difference": candidate.line_difference,
        "problem": candidate.problem,
    }


def _page_json(page: TriedPage) -> dict[str, Any]:
    copy = page.copy
    return {
        "place": page.place,
        "text": page.text if copy is None else "",
        "role": page.role,
        "families": [
            {"name": family.name, "characters": family.characters, "headings": family.in_headings}
            for family in page.families
        ],
        "replaced": page.replaced,
        "source": copy.source if copy is not None else "",
        "sheets": copy.sheets if copy is not None else {},
        "styles": copy.styles if copy is not None else (),
        "pictures": copy.pictures if copy is not None else {},
        "left_out": len(copy.left_out) if copy is not None else 0,
    }


def _in_script(value: object) -> str:
    """JSON that cannot end the script element that contains it."""
    text = json.dumps(value, ensure_ascii=False, separators=(",", ":"))
    for character in "<>&\u2028\u2029":
        text = text.replace(character, f"\\u{ord(character):04x}")
    return text

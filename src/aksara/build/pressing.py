"""Making the smallest file of fonts that draw the same."""

from __future__ import annotations

import zlib
from collections.abc import Sequence

import brotli

from aksara.font import Font

#: Quality of the quick trial that chooses between the forms of an outline table; it ranks them as the best one does.
_TRIAL_QUALITY = 5


def press(variants: Sequence[Font], form: str, effort: str) -> tuple[Font, bytes]:
    """The variant that makes the smallest file in that format, and the file.

    A quick trial chooses the variant; with the effort 'most' each is written and the smallest taken.
    """
    if effort == "most" or len(variants) == 1:
        files = [(font, font.write(form, effort=effort)) for font in variants]
        return min(files, key=lambda file: len(file[1]))
    font = min(variants, key=lambda each: _trial(each, form))
    return font, font.write(form, effort=effort)


def _trial(font: Font, form: str) -> int:
    """About how large the outlines are in that format."""
    outlines = font.raw("CFF ")
    if form == "woff2":
        return len(brotli.compress(outlines, mode=brotli.MODE_FONT, quality=_TRIAL_QUALITY))
    return len(zlib.compress(outlines, 9)) if form == "woff" else len(outlines)

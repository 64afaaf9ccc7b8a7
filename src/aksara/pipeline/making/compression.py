"""The smallest file of fonts that draw the same."""

from __future__ import annotations

from collections.abc import Sequence

from aksara.container import Effort
from aksara.container.woff import deflate_fast
from aksara.font import Font
from aksara.web.formats import WebFormat, container_of


def choose_variant(variants: Sequence[Font], font_format: WebFormat, effort: Effort) -> Font:
    """The variant that compresses best in that format.

    A quick trial tells; with the effort 'most' each is compressed in full.
    """
    container = container_of(font_format)
    # They differ in tables, of which an SVG font has none.
    if len(variants) == 1 or container is None:
        return variants[0]
    if effort == "most":
        differing_fonts = {variant.digest: variant for variant in variants}.values()
        return min(differing_fonts, key=lambda variant: len(variant.write(container, effort=effort)))
    differing = [tag for tag in variants[0] if len({variant.raw(tag) for variant in variants}) > 1]
    return min(variants, key=lambda variant: sum(_trial(variant, tag, font_format) for tag in differing))


def estimated_size(font: Font, font_format: WebFormat) -> int:
    """About how large the font is in that format."""
    return sum(_trial(font, tag, font_format) for tag in font)


def _trial(font: Font, tag: str, font_format: WebFormat) -> int:
    """About how large a table is in that format."""
    if font_format == "woff2":
        return font.compressed_size(tag)
    return len(deflate_fast(font.raw(tag))) if font_format == "woff" else len(font.raw(tag))

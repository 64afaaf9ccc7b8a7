"""The formats that are made for browsers and upload forms, and whom each serves."""

from __future__ import annotations

from typing import Literal

from aksara.container import FontFormat

#: 'sfnt' is the plain TTF or OTF as the font came; 'ttf' has TrueType outlines, converted where need be, and 'otf'
#: PostScript ones. 'eot' and 'svg' are what some took before they took WOFF.
WebFormat = FontFormat | Literal["ttf", "otf", "svg"]
WEB_FORMATS: tuple[WebFormat, ...] = ("woff2", "woff", "ttf", "otf", "sfnt", "eot", "svg")
#: Those that no browser of today takes where there is another one, the last ones last.
OLD_FORMATS: tuple[WebFormat, ...] = ("eot", "svg")
#: What the address of an SVG font names in its file, behind "#".
FONT_ID = "font"
#: What to say of these where they are made.
SERVES: dict[WebFormat, str] = {
    "eot": "EOT is for Internet Explorer 6 to 8 and for old upload forms; no current browser supports it",
    "svg": "SVG fonts are for iPhones and iPads before iOS 5 and for old upload forms; newer ones take another format",
}


def container_of(web_format: WebFormat) -> FontFormat | None:
    """What a font file of that format is to a container; None for an SVG font, which has no tables."""
    match web_format:
        case "svg":
            return None
        case "ttf" | "otf":
            return "sfnt"
    return web_format


def age(web_format: WebFormat) -> int:
    """0 for what browsers of today take; old ones in the order in which they stand."""
    return OLD_FORMATS.index(web_format) + 1 if web_format in OLD_FORMATS else 0

"""What browsers themselves say of fonts and text: their own style sheet (HTML, "Rendering"), and hints in attributes.

Form controls have fonts of the system, which do not come from the page.
"""

from __future__ import annotations

import re
from functools import cache

from aksara.site.css.declarations import parse_declaration
from aksara.site.css.properties import Declared
from aksara.site.css.stylesheets import StyleSheet, parse_style_sheet
from aksara.site.tree import Element

_SHEET = """
html, address, blockquote, body, center, dd, details, dialog[open], dir, div, dl, dt, fieldset, figcaption, figure,
footer, form, h1, h2, h3, h4, h5, h6, header, hgroup, hr, legend, main, menu, nav, ol, optgroup, option, p, pre, search,
section, article, aside, ul, xmp, listing, plaintext, marquee { display: block }
area, base, basefont, datalist, head, link, meta, noembed, noframes, param, rp, script, style, template, title,
dialog:not([open]), [popover]:not(:popover-open), input[type=hidden i],
source, track { display: none }
li, summary { display: list-item }
button, input, select, textarea, meter, progress, img, video, audio { display: inline-block }
table { display: table } caption { display: table-caption } tr { display: table-row } td, th { display: table-cell }
thead { display: table-header-group } tbody { display: table-row-group } tfoot { display: table-footer-group }
col { display: table-column } colgroup { display: table-column-group }
ruby { display: ruby } rt { display: ruby-text } slot { display: contents }
h1, h2, h3, h4, h5, h6, th, optgroup { font-weight: bold }
b, strong { font-weight: bolder }
address, cite, dfn, em, i, var { font-style: italic }
code, kbd, listing, plaintext, pre, samp, tt, xmp { font-family: monospace }
listing, plaintext, pre, xmp { white-space: pre }
textarea { white-space: pre-wrap }
input, select, button {
  font: 13.333px Arial; text-transform: none; white-space: normal
}
textarea { font: 13.333px monospace; text-transform: none }
input { white-space: pre }
optgroup { text-transform: none }
ul, menu, dir { list-style-type: disc }
:is(ol, ul, menu, dir) :is(ul, menu, dir) { list-style-type: circle }
:is(ol, ul, menu, dir) :is(ol, ul, menu, dir) :is(ul, menu, dir) { list-style-type: square }
ol { list-style-type: decimal }
ol, ul, menu, dir { counter-reset: list-item }
li { counter-increment: list-item }
summary { list-style-type: disclosure-closed; counter-increment: list-item 0 }
q::before { content: open-quote } q::after { content: close-quote }
::marker { font-variant-numeric: tabular-nums; text-transform: none; white-space: pre }
math { font-family: math; font-style: normal; font-weight: normal }
math mi { text-transform: math-auto }
annotation, annotation-xml, svg title, svg desc, svg defs, svg metadata, svg symbol, svg linearGradient,
svg radialGradient, svg clipPath, svg mask, svg pattern, svg script, svg style { display: none }
"""

_QUIRKS = "table { font-weight: initial; font-style: initial; font-variant: initial }"


@cache
def user_agent_sheet() -> StyleSheet:
    """The browser's own rules."""
    return parse_style_sheet(_SHEET, "")


@cache
def quirks_sheet() -> StyleSheet:
    """Additional rules in quirks mode: tables do not inherit fonts, except for their family."""
    return parse_style_sheet(_QUIRKS, "")


# SVG attributes that are CSS properties (SVG 2, section 6.6).
_PRESENTATION = ("font-family", "font-weight", "font-style", "font-stretch", "font-variant", "display")
_LIST_TYPES = {"1": "decimal", "a": "lower-alpha", "A": "upper-alpha", "i": "lower-roman", "I": "upper-roman",
               "disc": "disc", "circle": "circle", "square": "square", "none": "none"}  # fmt: skip


def presentational_hints(element: Element) -> Declared:
    """What attributes say of fonts and text; they are the author's weakest rules (HTML, "presentational hints")."""
    attributes = element.attributes
    if not attributes:
        return {}
    if element.language == "svg":
        given: Declared = {}
        for name in _PRESENTATION:
            if name in attributes:
                given |= parse_declaration(name, attributes[name])
        return given
    hints = _list_hints(element) if element.tag in ("ol", "ul", "li") else {}
    if element.tag == "font" and "face" in attributes:
        hints |= parse_declaration("font-family", attributes["face"])
    if "hidden" in attributes and attributes["hidden"].lower() != "until-found":
        # Browsers do not treat this as a rule of their own: `all: revert` undoes it.
        hints["display"] = "none"
    return hints


def _list_hints(element: Element) -> Declared:
    hints: Declared = {}
    given = element.attributes.get("type", "")
    if style := _LIST_TYPES.get(given) or _LIST_TYPES.get(given.lower() if element.tag != "ol" else ""):
        hints["list-style-type"] = style
    if element.tag == "ol":
        start = _integer(element.attributes.get("start", ""), 1)
        step = 1
        if "reversed" in element.attributes:
            step = -1
            items = sum(child.tag == "li" for child in element.elements)
            start = _integer(element.attributes.get("start", ""), items)
        hints["counter-reset"] = (("list-item", start - step),)
    if element.tag == "li":
        if element.parent is not None and "reversed" in element.parent.attributes:
            hints["counter-increment"] = (("list-item", -1),)
        if "value" in element.attributes:
            hints["counter-set"] = (("list-item", _integer(element.attributes["value"], 1)),)
    return hints


def _integer(text: str, default: int) -> int:
    match = re.match(r"\s*([+-]?\d{1,9})", text, re.ASCII)
    return int(match[1]) if match else default

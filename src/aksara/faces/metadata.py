"""The extended metadata of WOFF files: XML that says what the font is and who may use it.

W3C, "WOFF File Format" 1.0 and 2.0, "Extended metadata block". Browsers ignore it; people and licence checkers
read it.
"""

from __future__ import annotations

from collections.abc import Iterator
from xml.etree import ElementTree

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from aksara.faces.licence import WebLicence
from aksara.font import Font
from aksara.tables import Name
from aksara.tables.name import (
    COPYRIGHT,
    DESIGNER,
    DESIGNER_URL,
    LICENCE,
    LICENCE_URL,
    MANUFACTURER,
    TRADEMARK,
    UNIQUE_ID,
    VENDOR_URL,
    clean,
)

_MAX_SHOWN = 2_000


def web_metadata(font: Font, licence: WebLicence) -> bytes:
    """The XML document made from the font's names and the user's statements; b"" if there are none."""
    table = font.find(Name)
    names = {name_id: table.get(name_id) or "" for name_id in _USED} if table is not None else {}
    root = ElementTree.Element("metadata", version="1.0")

    def add(tag: str, **attributes: str) -> ElementTree.Element:
        return ElementTree.SubElement(root, tag, {key: value for key, value in attributes.items() if value})

    def add_text(tag: str, text: str, **attributes: str) -> None:
        if text or any(attributes.values()):
            element = add(tag, **attributes)
            if text:
                ElementTree.SubElement(element, "text", {"lang": "en"}).text = text

    if names.get(UNIQUE_ID):
        add("uniqueid", id=names[UNIQUE_ID])
    if names.get(MANUFACTURER):
        add("vendor", name=names[MANUFACTURER], url=names[VENDOR_URL])
    if names.get(DESIGNER):
        credit = {"name": names[DESIGNER], "url": names[DESIGNER_URL], "role": "Designer"}
        ElementTree.SubElement(add("credits"), "credit", {key: value for key, value in credit.items() if value})
    add_text("license", names.get(LICENCE, ""), url=names.get(LICENCE_URL, ""))
    add_text("copyright", names.get(COPYRIGHT, ""))
    add_text("trademark", names.get(TRADEMARK, ""))
    if holder := clean(licence.holder):
        add("licensee", name=holder)
    return ElementTree.tostring(root, encoding="utf-8", xml_declaration=True) if len(root) else b""


_USED = (UNIQUE_ID, MANUFACTURER, VENDOR_URL, DESIGNER, DESIGNER_URL, LICENCE, LICENCE_URL, COPYRIGHT, TRADEMARK)
_LABELS = {
    "uniqueid": "Identifier",
    "vendor": "Vendor",
    "credit": "Credit",
    "description": "Description",
    "license": "Licence",
    "copyright": "Copyright",
    "trademark": "Trademark",
    "licensee": "Licensee",
}


def read_metadata(xml: bytes) -> dict[str, str]:
    """The metadata of a WOFF file, ready to show: label → text. Empty if missing or unreadable.

    Entities and document types, by which a small document can grow or reach out, are refused.
    """
    if not xml:
        return {}
    try:
        root = fromstring(xml)
    except (ElementTree.ParseError, DefusedXmlException, ValueError, LookupError):
        return {}
    found: dict[str, list[str]] = {}
    for element in root.iter():
        if element.tag in _LABELS and (text := " ".join(_parts(element))):
            found.setdefault(_LABELS[element.tag], []).append(text)
    return {label: clean("; ".join(texts))[:_MAX_SHOWN] for label, texts in found.items()}


def _parts(element: ElementTree.Element) -> Iterator[str]:
    """An element's attributes in reading order, then its texts."""
    for key in ("name", "role", "id", "url"):
        if value := element.get(key):
            yield f"({value})" if key in ("role", "url") else value
    for text in element.iter("text"):
        yield (text.text or "").strip()

"""The text that form controls and images show (HTML, "form controls" in "Rendering")."""

from __future__ import annotations

from collections.abc import Iterator

from aksara.site.tree import Element

_BUTTONS = {"submit": "Submit", "reset": "Reset", "button": ""}
# Fields that the browser lays out by itself; what they show is in the reader's language, here in English.
_OF_THE_BROWSER = {
    "date": "mm/dd/yyyy",
    "datetime-local": "mm/dd/yyyy, --:-- --",
    "month": "--------- ----",
    "week": "Week --, ----",
    "time": "--:-- --",
    "file": "No file chosen",
}
_WITHOUT_TEXT = frozenset("hidden checkbox radio range color image".split())


def control_text(element: Element) -> Iterator[tuple[str, str]]:
    """Texts that a control shows, each with the pseudo-element it is in ("" for none)."""
    attributes = element.attributes
    if element.tag == "textarea":
        yield "", element.text.removeprefix("\n")
        yield "placeholder", attributes.get("placeholder", "")
    if element.tag != "input":
        return
    kind = attributes.get("type", "text").strip().lower()
    value = attributes.get("value", "")
    if kind in _BUTTONS:
        yield "", attributes.get("value", _BUTTONS[kind])
    elif kind in _OF_THE_BROWSER:
        yield "", value + _OF_THE_BROWSER[kind]
        if kind == "file":
            yield "file-selector-button", "Choose File"
    elif kind == "password":
        yield "", "\u2022" * len(value)
        yield "placeholder", attributes.get("placeholder", "")
    elif kind not in _WITHOUT_TEXT:
        yield "", value
        yield "placeholder", attributes.get("placeholder", "")


def alternative_text(element: Element) -> str:
    """The text shown in place of an image that does not load."""
    if element.tag in ("img", "area") or (element.tag == "input" and element.attributes.get("type") == "image"):
        return element.attributes.get("alt", "")
    return ""


def options_of(select: Element) -> Iterator[Element]:
    """The options of a list, and their groups."""
    return (node for node in select.descendants() if node.tag in ("option", "optgroup"))


def option_text(option: Element) -> str:
    """The text of an option; the label of a group is an attribute."""
    if option.tag == "optgroup":
        return ""
    return option.text + "".join(node.text for node in option.descendants())

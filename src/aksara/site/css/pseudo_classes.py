"""What pseudo-classes ask of an element (Selectors 4, sections 7 to 14), but for those that have selectors inside."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from aksara.site.tree import Element

#: Pseudo-classes that depend on what a reader does or has done (Selectors 4, sections 9 to 12).
STATE_NAMES = frozenset(
    "hover active focus focus-within focus-visible target target-within checked indeterminate open popover-open modal "
    "fullscreen picture-in-picture valid invalid user-valid user-invalid in-range out-of-range autofill "
    "-webkit-autofill playing paused muted seeking stalled buffering volume-locked current past future blank "
    "-webkit-full-screen".split()
)
#: States that an attribute brings about from the start.
BY_ATTRIBUTE = {"checked": ("checked", "selected"), "open": ("open",)}
#: Pseudo-classes that are valid and that no page without scripts can be in, or whose effect is not on fonts.
NEVER = frozenset("visited local-link xr-overlay".split())


_FORM = frozenset("button input select textarea option optgroup fieldset".split())


def _is_disabled(element: Element) -> bool:
    if element.tag not in _FORM:
        return False
    return "disabled" in element.attributes or any(
        ancestor.tag in ("fieldset", "optgroup") and "disabled" in ancestor.attributes
        for ancestor in element.ancestors()
    )


def _is_read_write(element: Element) -> bool:
    if element.tag in ("input", "textarea"):
        return "readonly" not in element.attributes and not _is_disabled(element)
    return element.attributes.get("contenteditable", "false").lower() != "false"


#: Those that follow from the tree and its attributes.
STRUCTURAL: dict[str, Callable[[Element], bool]] = {
    "root": lambda element: element.parent is None and element.tag == "html",
    "scope": lambda element: element.parent is None and element.tag == "html",
    "empty": lambda element: not element.elements and not element.text,
    "first-child": lambda element: element.index == 0,
    "last-child": lambda element: element.index == len(element.siblings) - 1,
    "only-child": lambda element: len(element.siblings) == 1,
    "first-of-type": lambda element: element.same_tag[0] is element,
    "last-of-type": lambda element: element.same_tag[-1] is element,
    "only-of-type": lambda element: len(element.same_tag) == 1,
    "link": lambda element: element.tag in ("a", "area") and "href" in element.attributes,
    "any-link": lambda element: element.tag in ("a", "area") and "href" in element.attributes,
    "-webkit-any-link": lambda element: element.tag in ("a", "area") and "href" in element.attributes,
    "disabled": _is_disabled,
    "enabled": lambda element: element.tag in _FORM and not _is_disabled(element),
    "required": lambda element: element.tag in _FORM and "required" in element.attributes,
    "optional": lambda element: element.tag in ("input", "select", "textarea") and "required" not in element.attributes,
    "read-only": lambda element: not _is_read_write(element),
    "read-write": _is_read_write,
    "default": lambda element: "checked" in element.attributes or "selected" in element.attributes,
    "placeholder-shown": lambda element: "placeholder" in element.attributes and not element.attributes.get("value"),
    "defined": lambda element: "-" not in element.tag,
}


def is_nth(position: int, step: int, start: int) -> bool:
    """Whether the number is one of `step * n + start`, for n from 0 on."""
    difference = position - start
    return difference == 0 if step == 0 else difference % step == 0 and difference // step >= 0


def _language_of(element: Element) -> str:
    """The language that it is written in by its markup, "" for none (HTML, "the lang and xml:lang attributes")."""
    node: Element | None = element
    while node is not None:
        for name in ("xml:lang", "lang"):
            if name in node.attributes:
                return node.attributes[name].strip()
        node = node.parent
    return ""


def is_in_language(element: Element, ranges: Sequence[str]) -> bool:
    """Whether `:lang()` of these ranges, in lower case, matches."""
    language = _language_of(element).lower()
    return any(
        language == prefix or (prefix and language.startswith(prefix + "-")) or (prefix == "*" and language)
        for prefix in (wanted.removeprefix("*-") for wanted in ranges)
    )


def direction_of(element: Element) -> str:
    """The direction that the markup says, "ltr" or "rtl"."""
    node: Element | None = element
    while node is not None:
        if (given := node.attributes.get("dir", "").lower()) in ("ltr", "rtl"):
            return given
        node = node.parent
    return "ltr"

"""The text that a page shows, by the face it is set in: the tree walked from top to bottom, with its styles."""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager

from aksara.limits import MAX_ELEMENT_DEPTH
from aksara.site.css.cascade import Cascade, Variant
from aksara.site.css.counter_styles import CounterStyle, resolve_style
from aksara.site.css.features import FeatureValues, requested_features
from aksara.site.css.properties import Content, ContentPart
from aksara.site.css.selectors import MatchingWork
from aksara.site.css.style_sets import Match, StyleSet
from aksara.site.css.styles import FaceKey, Style
from aksara.site.page.controls import alternative_text, control_text, option_text, options_of
from aksara.site.page.counters import Counters, counter_text, counters_text, quotation_marks
from aksara.site.page.face_text import FaceText
from aksara.site.page.scopes import Scope
from aksara.site.page.text_transform import small_capitals, transform_text
from aksara.site.page.white_space import SPACE, collapsed
from aksara.site.tree import Element, Node

# First letters take the punctuation around them along (CSS Pseudo-Elements 4, section 2.2).
_FIRST_LETTER = re.compile(r"\s*[^\w\s]*\w[\u0300-\u036f]*[^\w\s]*")
#: Characters that may be on a first line.
_FIRST_LINE = 400
# Elements whose text no font is chosen for.
_NOT_TEXT = frozenset("script style head title base link meta".split())
# Elements that show something of their own in place of their children.
_REPLACED = frozenset(
    "img input textarea select video audio canvas iframe embed frame frameset meter progress area br wbr".split()
)
# Calls within calls that the deepest page takes.
_CALLS = 12 * MAX_ELEMENT_DEPTH
_HEADINGS = frozenset("h1 h2 h3 h4 h5 h6".split())
_BOXES = ("checkbox", "radio")
# What browsers write where there is no summary, in English.
_DETAILS = "Details"
_SVG_TEXT = frozenset("text tspan textPath foreignObject".split())
_BULLETS = {"disc": "\u2022", "circle": "\u25e6", "square": "\u25a0"}


@contextmanager
def _deep_calls() -> Iterator[None]:
    """Pages are walked by functions that call each other, some for each level: as deep as trees may be."""
    limit = sys.getrecursionlimit()
    sys.setrecursionlimit(max(limit, _CALLS))
    try:
        yield
    finally:
        sys.setrecursionlimit(limit)


class PageReader:
    """Reads one page. `style_sets` are those of the shadow trees, by the number of their top element."""

    def __init__(
        self,
        style_set: StyleSet,
        shadow_sets: Mapping[int, StyleSet],
        counter_styles: Mapping[str, CounterStyle],
        feature_values: FeatureValues,
        language: str = "",
    ) -> None:
        self._work = MatchingWork()
        self._scope = Scope(Cascade(style_set, self._work))
        self._shadow_sets = shadow_sets
        self._counter_styles = counter_styles
        self._feature_values = feature_values
        self._counters = Counters()
        self._language = language
        self._quotes = 0
        self._seen_styles: set[int] = set()
        # The styles of a first letter that is still to come.
        self._first_letter: list[Variant] | None = None
        self.found: dict[tuple[FaceKey, bool], FaceText] = {}
        # The character in front of the text to come, in its line: as it is in the page, and as it is shown.
        self._before = ""
        self._shown_before = ""
        self._headings = 0
        self._remaining_line = 0
        self._line_variants: list[Variant] = []

    def read(self, root: Element) -> list[FaceText]:
        """All text of the page, by face. Raises `TooMuchWorkError` for a page that would take too long."""
        parents = self._scope.cascade.root_variants
        with _deep_calls():
            self._element(root, self._variants(root, parents), root)
        return list(self.found.values())

    # --- elements

    def _variants(
        self, element: Element, parents: Sequence[Variant], pseudo: str = "", more: Sequence[Match] = ()
    ) -> list[Variant]:
        if not pseudo and (shadow := element.shadow) is not None and (own := self._shadow_sets.get(id(shadow))):
            more = [*more, *self._scope.below(Cascade(own, self._work), element).carried_out(shadow)]
        return self._scope.variants(element, parents, pseudo, more)

    def _element(self, element: Element, variants: Sequence[Variant], scope: Element) -> None:
        """The element with all inside; `scope` is where counters that it makes are seen."""
        if element.tag in _NOT_TEXT:
            return
        outer_language = self._language
        if element.attributes:
            for name in ("lang", "xml:lang"):
                if name in element.attributes:
                    self._language = element.attributes[name].strip()
        style = variants[0].style
        if not style.hidden:
            self._counters.apply(style, element.parent or scope)
        self._headings += element.tag in _HEADINGS
        if not style.is_inline or element.tag == "br":
            self._before = self._shown_before = ""
        if element.tag == "template" and element.content:
            self._hidden_content(element, variants)
        elif element.tag in _REPLACED and not element.language:
            self._replaced(element, variants)
            if element.tag == "input" and element.attributes.get("type", "").lower() in _BOXES:
                # Alone among inputs they may have content before and after, by which sites draw ticks.
                self._generated(element, variants, "before")
                self._generated(element, variants, "after")
        else:
            if style.is_list_item:
                self._marker(element, variants)
            self._start_first_letter(element, variants)
            self._start_first_line(element, variants)
            self._generated(element, variants, "before")
            scope_above = self._scope
            scope_above.enter(element)
            if element.tag == "details" and not any(child.tag == "summary" for child in element.elements):
                self._write(_DETAILS, variants, element)
            if element.shadow is not None:
                self._shadow(element, variants)
            elif element.children:
                self._children(element, element.children, variants)
            scope_above.leave(element)
            self._generated(element, variants, "after")
            if not style.is_inline:
                self._remaining_line, self._before, self._shown_before = 0, "", ""
        self._overflow(variants)
        self._headings -= element.tag in _HEADINGS
        self._counters.leave(element)
        self._language = outer_language

    def _children(
        self,
        element: Element,
        nodes: Sequence[Node],
        parents: Sequence[Variant],
        slotted_by: Scope | None = None,
    ) -> None:
        styled = {}
        for node in nodes:
            if isinstance(node, Element):
                more = slotted_by.carried_out(node, "slotted") if slotted_by is not None else ()
                styled[id(node)] = self._variants(node, parents, more=more)
        for index, node in enumerate(nodes):
            if isinstance(node, Element):
                if node.tag == "slot" and self._scope.outer is not None:
                    self._slot(node, styled[id(node)])
                else:
                    self._element(node, styled[id(node)], element)
            elif element.language != "svg" or _in_svg_text(element):
                text = collapsed(nodes, index, styled, parents[0].style)
                if text:
                    self._text(text, parents, element)

    def _hidden_content(self, element: Element, variants: Sequence[Variant]) -> None:
        """A template's content, which scripts may show, as if it stood where the template does."""
        self._scope.enter(element)
        self._children(element, element.content, variants)
        self._scope.leave(element)

    # --- shadow trees

    def _shadow(self, host: Element, variants: Sequence[Variant]) -> None:
        """The shadow tree in place of the children, which fill its slots."""
        shadow = host.shadow
        own = self._shadow_sets.get(id(shadow))
        if shadow is None or own is None:
            return
        outer = self._scope
        self._scope = outer.below(Cascade(own, self._work), host)
        self._children(shadow, shadow.children, variants)
        self._scope = outer

    def _slot(self, slot: Element, variants: Sequence[Variant]) -> None:
        inner = self._scope
        nodes = inner.assigned.get(slot.attributes.get("name", ""), ())
        if not nodes or inner.outer is None:
            self._element(slot, variants, slot)
            return
        self._scope = inner.outer
        self._children(slot, nodes, variants, inner)
        self._scope = inner

    # --- text

    def _text(self, text: str, variants: Sequence[Variant], element: Element) -> None:
        if self._first_letter is not None and (match := _FIRST_LETTER.match(text)):
            letter, self._first_letter = self._first_letter, None
            self._write(match[0], letter, element)
            self._before = match[0][-1]
            text = text[match.end() :]
        if self._remaining_line > 0:
            self._write(text[: self._remaining_line], self._line_variants, element)
            self._remaining_line -= len(text)
        if text:
            self._write(text, variants, element)
            self._before = text[-1]

    def _write(self, text: str, variants: Sequence[Variant], element: Element) -> None:
        """The text in each of the styles that it may have, once for each face."""
        if not text:
            return
        done: set[tuple[object, ...]] = set()
        before, last = self._shown_before, ""
        for style in {id(variant.style): variant.style for variant in variants}.values():
            key = (style.face, style.hidden, style.transforms, style["-webkit-text-security"])
            last = self._add(text, style, element, before, again=key in done) or last
            done.add(key)
        self._shown_before = last

    def _add(self, text: str, style: Style, element: Element, before: str, *, again: bool) -> str:
        """The text in one style, behind the character `before`; its last character is returned.

        `again`: it is counted already, and only what else the style asks for is new.
        """
        face_text = self._face_text(style, element)
        if self._headings and not again:
            face_text.in_headings += len(text)
        if style.transforms:
            text = transform_text(text, style.transforms, self._language, self._before)
        if style["-webkit-text-security"] != "none":
            text = _BULLETS[style["-webkit-text-security"]] * len(text)
        if not again:
            face_text.texts.setdefault(self._language, []).append(text)
        if before and text:
            face_text.joints.add(before + text[0])
        if style.is_plain and "\u00ad" not in text:
            return text[-1:]
        if style["font-variant-caps"] not in ("normal", "titling-caps"):
            face_text.possible.update(small_capitals(text))
        if style["hyphens"] != "none" and ("\u00ad" in text or style["hyphens"] == "auto"):
            face_text.possible.update("-\u2010")
        return text[-1:]

    def _face_text(self, style: Style, element: Element) -> FaceText:
        key = (style.face, style.hidden)
        known = self.found.get(key)
        if known is None:
            known = self.found[key] = FaceText(style.face, style.hidden, element)
        if id(style) not in self._seen_styles:
            # Styles live as long as their set, so a number stands for one only.
            self._seen_styles.add(id(style))
            known.features |= requested_features(style, self._feature_values)
            if settings := style["font-variation-settings"]:
                known.variations.add(settings)
        return known

    def _overflow(self, variants: Sequence[Variant]) -> None:
        """The ellipsis that a box writes where its text is cut."""
        for variant in variants:
            style = variant.style
            if style.overflow_mark and (face_text := self.found.get((style.face, style.hidden))):
                face_text.possible.update(style.overflow_mark)

    # --- generated content

    def _pseudo(self, element: Element, variants: Sequence[Variant], name: str) -> list[Variant]:
        if not self._scope.has(name):
            return []
        return self._variants(element, variants, name)

    def _generated(self, element: Element, variants: Sequence[Variant], name: str) -> None:
        """`::before` or `::after`."""
        if not self._scope.may_generate(element, name):
            return
        made = [
            variant for variant in self._pseudo(element, variants, name) if isinstance(variant.style["content"], tuple)
        ]
        if not made:
            return
        if not made[0].style.hidden:
            self._counters.apply(made[0].style, element)
        groups: dict[Content, list[Variant]] = {}
        for variant in made:
            groups.setdefault(variant.style["content"], []).append(variant)
        quotes = self._quotes
        for parts, group in groups.items():
            self._quotes = quotes
            if text := self._content(parts if isinstance(parts, tuple) else (), element, group[0].style):
                self._write(text, group, element)

    def _content(self, parts: Sequence[ContentPart], element: Element, style: Style) -> str:
        written = []
        for kind, arguments in parts:
            if kind == "text":
                written.append(arguments[0])
            elif kind == "attr":
                written.append(element.attributes.get(arguments[0], arguments[1] if len(arguments) > 1 else ""))
            elif kind == "counter":
                written.append(counter_text(self._counters, arguments, self._counter_styles))
            elif kind == "counters":
                written.append(counters_text(self._counters, arguments, self._counter_styles))
            elif kind.endswith("quote"):
                written.append(self._quote(kind, style))
        return "".join(written)

    def _quote(self, kind: str, style: Style) -> str:
        marks = quotation_marks(style, self._language)
        if kind.endswith("close-quote"):
            self._quotes = max(self._quotes - 1, 0)
        depth = self._quotes
        if kind.endswith("open-quote"):
            self._quotes += 1
        if kind.startswith("no-") or not marks:
            return ""
        return marks[min(depth, len(marks) - 1)][kind == "close-quote"]

    def _marker(self, element: Element, variants: Sequence[Variant]) -> None:
        """The number or text in front of a list item; bullets are drawn without a font."""
        for variant in self._pseudo(element, variants, "marker"):
            content = variant.style["content"]
            if content == "none":
                continue
            if isinstance(content, tuple):
                text = self._content(content, element, variant.style)
            else:
                text = self._marker_text(variant.style["list-style-type"])
            if text:
                self._write(text, [variant], element)

    def _marker_text(self, name: str | tuple[str]) -> str:
        if isinstance(name, tuple):
            return str(name[0])
        style = resolve_style(name, self._counter_styles)
        if style is None:
            return ""
        text = counter_text(self._counters, ("list-item", name), self._counter_styles)
        return style.prefix + text + style.suffix

    def _start_first_letter(self, element: Element, variants: Sequence[Variant]) -> None:
        style = variants[0].style
        if style.display == "inline" or not self._scope.has("first-letter"):
            return
        made = self._pseudo(element, variants, "first-letter")
        if any(a.style.face != b.style.face or a.style.transforms != b.style.transforms
               for a, b in zip(made, variants, strict=False)):  # fmt: skip
            self._first_letter = made

    def _start_first_line(self, element: Element, variants: Sequence[Variant]) -> None:
        if variants[0].style.display == "inline" or not self._scope.has("first-line"):
            return
        made = self._pseudo(element, variants, "first-line")
        if made[0].style.face != variants[0].style.face or made[0].style.transforms != variants[0].style.transforms:
            self._remaining_line, self._line_variants = _FIRST_LINE, made

    # --- form controls and images

    def _replaced(self, element: Element, variants: Sequence[Variant]) -> None:
        for pseudo, text in control_text(element):
            shown = self._variants(element, variants, pseudo) if pseudo else variants
            if pseudo and not self._scope.has(pseudo):
                shown = variants
            self._write(text, shown, element)
        if text := alternative_text(element):
            self._write(SPACE.sub(" ", text), variants, element)
        if element.tag == "select":
            self._options(element, variants)

    def _options(self, select: Element, variants: Sequence[Variant]) -> None:
        """A closed list shows its options in its own font, an open one each in that of the option."""
        is_open = "multiple" in select.attributes or select.attributes.get("size", "1").strip() not in ("", "0", "1")
        for option in options_of(select):
            text = SPACE.sub(" ", option.attributes.get("label", "") or option_text(option)).strip()
            shown: Sequence[Variant] = variants
            if is_open:
                parents: Sequence[Variant] = variants
                if option.parent is not None and option.parent.tag == "optgroup":
                    parents = self._variants(option.parent, variants)
                shown = self._variants(option, parents)
            if text:
                self._write(text, shown, option)


def _in_svg_text(element: Element) -> bool:
    node: Element | None = element
    while node is not None and node.language == "svg":
        if node.tag in _SVG_TEXT:
            return True
        node = node.parent
    return False

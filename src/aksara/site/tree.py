"""A page as a tree: what an HTML5 parser makes of its markup, scripts off, kept within bounds."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from functools import cached_property
from typing import TYPE_CHECKING, Union

from msgspec import Struct, field

from aksara.limits import MAX_ELEMENT_DEPTH, MAX_ELEMENTS, MAX_REPEATED_ELEMENTS, MAX_TEMPLATE_DEPTH

if TYPE_CHECKING:
    from selectolax.lexbor import LexborNode


# Only an estimate: a ">" in an attribute ends the tag, so that the search takes time in proportion to the page.
_TAG = re.compile(r"<(/?)([A-Za-z][\w:.-]{0,63})[^<>]*>")
_VOID = frozenset("area base br col embed hr img input link meta param source track wbr".split())
# Elements whose end tags are commonly left out, since the next start tag closes them.
_SELF_CLOSING = _VOID | frozenset(
    "p li dt dd tr td th thead tbody tfoot option optgroup colgroup rp rt rb rtc html head body caption".split()
)
_FORMATTING = frozenset("a b big code em font i nobr s small strike strong tt u".split())

Node = Union["Element", str]


class Element(Struct, eq=False):
    """An element; text stands as plain strings among its children.

    `place` counts elements of its name up to it, by which its line in the source is found. `content` is what a
    `template` holds, `shadow` the shadow root that such a template declares (HTML, "declarative shadow roots").
    """

    tag: str
    attributes: dict[str, str]
    parent: Element | None
    place: int = 0
    #: "svg" or "math" for elements of these; "" for HTML.
    language: str = ""
    children: list[Node] = field(default_factory=list)
    elements: list[Element] = field(default_factory=list)
    index: int = 0
    id: str = ""
    classes: tuple[str, ...] = ()
    #: Its tag, id and classes: what nearly all selectors ask for.
    names: tuple[str, str, tuple[str, ...]] = ("", "", ())
    content: list[Node] = field(default_factory=list)
    shadow: Element | None = None
    #: Of the top of a shadow tree: the element that it belongs to.
    host: Element | None = None
    _by_tag: dict[str, list[Element]] | None = None

    def __repr__(self) -> str:
        return f"<{self.tag} {self.attributes}>"

    def add(self, node: Node) -> None:
        """Append a child; texts that meet become one."""
        if isinstance(node, Element):
            node.index = len(self.elements)
            self.elements.append(node)
        elif self.children and isinstance(self.children[-1], str):
            self.children[-1] += node
            return
        self.children.append(node)

    @property
    def text(self) -> str:
        """The text of its own text nodes."""
        return "".join(child for child in self.children if isinstance(child, str))

    @property
    def siblings(self) -> list[Element]:
        """All child elements of its parent."""
        return self.parent.elements if self.parent is not None else [self]

    @property
    def same_tag(self) -> list[Element]:
        """Its siblings of the same name, itself included."""
        if self.parent is None:
            return [self]
        if self.parent._by_tag is None:
            self.parent._by_tag = {}
            for element in self.parent.elements:
                self.parent._by_tag.setdefault(element.tag, []).append(element)
        return self.parent._by_tag[self.tag]

    def ancestors(self) -> Iterator[Element]:
        """From its parent upwards."""
        element = self.parent
        while element is not None:
            yield element
            element = element.parent

    def everything(self) -> Iterator[Element]:
        """All elements inside it, those in templates and shadow trees included; in no particular order."""
        stack = [self]
        while stack:
            element = stack.pop()
            if element is not self:
                yield element
            stack += element.elements
            stack += [node for node in element.content if isinstance(node, Element)]
            stack += [] if element.shadow is None else [element.shadow]

    def descendants(self) -> Iterator[Element]:
        """All elements inside it, in the order of the document."""
        stack = self.elements[::-1]
        while stack:
            element = stack.pop()
            yield element
            stack += element.elements[::-1]


class Document(Struct, dict=True):
    """A parsed page. `quirks`: it asks for the ways of old browsers (HTML, "quirks mode"); `cut`: what was left out."""

    root: Element
    source: str
    quirks: bool = False
    cut: str = ""

    @cached_property
    def elements(self) -> list[Element]:
        """All elements but the root, in order; those of shadow trees and templates are not among them."""
        return list(self.root.descendants())

    @cached_property
    def _blanked(self) -> str:
        hidden = r"<!--.*?-->|(?<=>)[^<]*(?=</(?:script|style|textarea|title)\b)"
        return re.sub(hidden, lambda match: re.sub(r"[^\n]", " ", match[0]), self.source, flags=re.DOTALL | re.I)

    def line_of(self, element: Element) -> int:
        """The line of the source in which its start tag stands, as far as it can be told; 0 for none."""
        starts = re.finditer(rf"<{re.escape(element.tag)}(?=[\s/>])", self._blanked, re.IGNORECASE)
        for index, start in enumerate(starts):
            if index == element.place:
                return self.source.count("\n", 0, start.start()) + 1
        return 0


def parse_html(source: str) -> Document:
    """The tree of a page. Any text is a page; what exceeds the bounds is left out, and `Document.cut` says what."""
    from selectolax.lexbor import LexborHTMLParser

    source = source.replace("\r\n", "\n").replace("\r", "\n")
    bounded = _bounded(source) if _may_exceed(source) else source
    parser = LexborHTMLParser(bounded)
    quirks = _is_quirky(source)
    builder = _Builder(quirks=quirks)
    top = parser.root
    root = Element("html", {}, None)
    if top is not None:
        # The parser forgets the name of the root only where there is none.
        root = builder.element(top, None)
        builder.fill(root, top)
    cut = "elements nested too deep are read as if they stood side by side" if bounded is not source else ""
    if builder.full:
        cut = f"only its first {MAX_ELEMENTS:,} elements are read"
    return Document(root, source, quirks, cut)


class _Builder:
    """Copies the parser's nodes: they are slow to ask, and know nothing of depth."""

    def __init__(self, *, quirks: bool) -> None:
        self.full = False
        # In quirks mode ids and classes are compared without case (Selectors 4, sections 6.6 and 6.7).
        self._caseless = quirks
        self._count = 0
        self._places: dict[str, int] = {}
        self._templates = 0

    def element(self, node: LexborNode, parent: Element | None) -> Element:
        tag = node.tag or ""
        attributes = {name: value or "" for name, value in node.attributes.items()}
        language = parent.language if parent is not None else ""
        if tag in ("svg", "math"):
            language = tag
        elif parent is not None and parent.tag in ("foreignObject", "desc", "title", "annotation-xml"):
            language = ""
        index = self._places.get(tag, 0)
        self._places[tag] = index + 1
        self._count += 1
        made = Element(tag, attributes, parent, index, language)
        made.id = attributes.get("id", "")
        made.classes = tuple(attributes["class"].split()) if "class" in attributes else ()
        if self._caseless:
            made.id, made.classes = made.id.lower(), tuple(map(str.lower, made.classes))
        made.names = tag, made.id, made.classes
        return made

    def fill(self, root: Element, top: LexborNode) -> None:
        """Everything inside, without recursion."""
        stack = [(root, top.first_child, 1)]
        while stack:
            parent, node, depth = stack.pop()
            while node is not None:
                if node.is_text_node:
                    parent.add(node.text_content or "")
                elif node.is_element_node:
                    if self._count >= MAX_ELEMENTS:
                        self.full = True
                        return
                    made = self.element(node, parent)
                    parent.add(made)
                    if made.tag == "template" and not made.language:
                        self._template(made, node, parent)
                    if depth < MAX_ELEMENT_DEPTH:
                        # Elements are filled in order, or their places would not count upwards.
                        stack.append((parent, node.next, depth))
                        stack.append((made, node.first_child, depth + 1))
                        break
                    stack.append((parent, node.next, depth))
                    stack.append((parent, node.first_child, depth))
                    break
                node = node.next

    def _template(self, made: Element, node: LexborNode, parent: Element) -> None:
        holder = Element("#content", {}, None)
        if self._templates < MAX_TEMPLATE_DEPTH:
            self._templates += 1
            for fragment in node.template_fragments()[:1]:
                self.fill(holder, fragment)
            self._templates -= 1
        if made.attributes.get("shadowrootmode", "").lower() in ("open", "closed") and parent.shadow is None:
            holder.tag, holder.host = "#shadow", parent
            parent.shadow = holder
            return
        made.content = holder.children
        for child in holder.elements:
            child.parent = made


_BEFORE_DOCTYPE = re.compile(r"\s*(<!--|<\?)")
_DOCTYPE = re.compile(r"\s*<!doctype\s+([^>]*)>", re.IGNORECASE)


def _is_quirky(source: str) -> bool:
    """Whether it has no doctype, or one that old browsers were written for (HTML, "the initial insertion mode")."""
    start = 0
    # Comments, and what parsers take for some, may stand before it. One expression for all of this would try every way
    # to divide them.
    while (match := _BEFORE_DOCTYPE.match(source, start)) is not None:
        closer = "-->" if match[1] == "<!--" else ">"
        end = source.find(closer, match.end())
        if end < 0:
            return True
        start = end + len(closer)
    match = _DOCTYPE.match(source, start)
    if match is None:
        return True
    doctype = " ".join(match[1].lower().split())
    if not doctype.startswith("html"):
        return True
    old = ("-//w3c//dtd html 3", "-//w3c//dtd html 4.0 frameset", "-//w3c//dtd html 4.0 transitional",
           "-//ietf//dtd html", "-//netscape", "-//microsoft", "-//w3o//", "-//w3c//dtd html experimental")  # fmt: skip
    loose = ("-//w3c//dtd html 4.01 transitional", "-//w3c//dtd html 4.01 frameset")
    if any(name in doctype for name in old):
        return True
    return any(name in doctype for name in loose) and "http" not in doctype


def _may_exceed(source: str) -> bool:
    """Whether tags may nest too deep or be repeated too often: a quick look, which most pages end with."""
    open_tags: Counter[str] = Counter()
    depth = deepest = formatting = most = 0
    for slash, name in _TAG.findall(source):
        tag = name.lower()
        if tag in _SELF_CLOSING:
            continue
        step = 1
        if slash:
            # What was not opened closes nothing.
            if not open_tags[tag]:
                continue
            step = -1
        open_tags[tag] += step
        depth += step
        deepest = max(deepest, depth)
        if tag in _FORMATTING:
            formatting += step
            most = max(most, formatting)
    return deepest >= MAX_ELEMENT_DEPTH or most * source.count("<") > MAX_REPEATED_ELEMENTS


def _bounded(source: str) -> str:
    """The source without the start and end tags that would nest too deep, or be repeated too often."""
    open_tags: list[tuple[str, bool]] = []
    formatting = 0
    blocks = len(re.findall(r"<(?:p|div|li|td|dd|dt|h[1-6]|tr)\b", source, re.IGNORECASE))
    most_formatting = max(8, min(MAX_ELEMENT_DEPTH, MAX_REPEATED_ELEMENTS // max(blocks, 1)))
    changed = False

    def keep(match: re.Match[str]) -> str:
        nonlocal formatting, changed
        name = match[2].lower()
        if name in _SELF_CLOSING:
            return match[0]
        if not match[1]:
            if match[0].endswith("/>"):
                return match[0]
            is_formatting = name in _FORMATTING
            dropped = len(open_tags) >= MAX_ELEMENT_DEPTH or (is_formatting and formatting >= most_formatting)
            if len(open_tags) > 4 * MAX_ELEMENTS:
                return ""
            open_tags.append((name, dropped))
            formatting += is_formatting
            changed |= dropped
            return "" if dropped else match[0]
        if open_tags and open_tags[-1][0] == name:
            formatting -= name in _FORMATTING
            return "" if open_tags.pop()[1] else match[0]
        # An end tag in the wrong place closes what is open in between, if it is not too far away.
        for back in range(2, min(len(open_tags), 16) + 1):
            if open_tags[-back][0] == name:
                formatting -= sum(tag in _FORMATTING for tag, _ in open_tags[-back:])
                del open_tags[-back:]
                break
        return match[0]

    bounded = _TAG.sub(keep, source)
    return bounded if changed else source


def languages_of(source: str) -> Counter[str]:
    """The languages that a page's elements say they are in, as written, each with the number of elements."""
    document = parse_html(source)
    counts: Counter[str] = Counter()
    for element in [document.root, *document.root.descendants()]:
        if tag := element.attributes.get("lang", "").strip():
            counts[tag] += 1
    return counts

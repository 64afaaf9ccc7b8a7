"""White space in a line: what is drawn of it (CSS Text 3, section 4.1)."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from aksara.site.css.cascade import Variant
from aksara.site.css.styles import Style
from aksara.site.tree import Node

#: White space that collapses.
SPACE = re.compile(r"[ \t\n\f]+")


def collapsed(nodes: Sequence[Node], index: int, styled: Mapping[int, Sequence[Variant]], parent: Style) -> str:
    """A text node with its white space as it is drawn (CSS Text 3, section 4.1)."""
    text = nodes[index]
    assert isinstance(text, str)
    if not parent.collapses:
        return text
    text = SPACE.sub(" ", text)
    if text[0] != " " and text[-1] != " ":
        return text
    inside_line = parent.is_inline and not parent.display.endswith(("flex", "grid"))
    before = _is_in_line(nodes, index - 1, styled) if index else inside_line
    after = _is_in_line(nodes, index + 1, styled) if index + 1 < len(nodes) else inside_line
    if text == " ":
        in_boxes = parent.display.endswith(("flex", "grid"))
        return " " if before and after and not in_boxes else ""
    return (text if before else text.lstrip(" ")) if after else (text.rstrip(" ") if before else text.strip(" "))


def _is_in_line(nodes: Sequence[Node], index: int, styled: Mapping[int, Sequence[Variant]]) -> bool:
    """Whether white space next to a node is drawn: the node stands in the line, and does not end it."""
    node = nodes[index]
    if isinstance(node, str):
        return True
    style = styled[id(node)][0].style
    return (
        style.is_inline and not style.hidden and node.tag not in ("br", "script", "style", "link", "meta", "template")
    )

"""The cascade against the browser's own: random small style sheets and trees, read by both."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape
from typing import Any

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from playwright.sync_api import Browser, Page

from aksara.site.css.stylesheets import StyleSheet
from aksara.site.page.pages import SheetMissingError, SiteReader

# Every text with the style of what it is in, as the browser computes it, in each frame.
_SCRIPT = """
() => [...document.querySelectorAll('iframe')].map((frame) => {
  const found = [], view = frame.contentWindow;
  const say = (style, text) => {
    if (style.textTransform === 'uppercase') text = text.toUpperCase();
    if (style.textTransform === 'lowercase') text = text.toLowerCase();
    found.push([style.fontFamily, style.fontWeight, style.fontStyle, style.fontStretch, text]);
  };
  const walk = (element) => {
    const style = view.getComputedStyle(element);
    if (style.display === 'none' || ['HEAD', 'STYLE'].includes(element.tagName)) return;
    for (const name of ['::before', '::after']) {
      const own = view.getComputedStyle(element, name);
      if (own.content.startsWith('"')) say(own, own.content.slice(1, -1));
    }
    for (const node of element.childNodes) {
      if (node.nodeType === 3 && node.data.trim()) say(style, node.data.trim());
      if (node.nodeType === 1) walk(node);
    }
  };
  walk(frame.contentDocument.documentElement);
  return found;
})
"""
_WIDTHS = (300, 700, 1500)

_TAGS = ("div", "p", "span", "b", "em", "code", "h2", "li", "table", "small")
_names = st.sampled_from(["a", "b", "c", "d"])
_simple = st.one_of(
    st.sampled_from(_TAGS),
    _names.map(".{}".format),
    st.sampled_from(
        ["#x", "#y", "[title]", '[title^="n"]', ":first-child", ":last-child", ":nth-child(2n+1)", ":root"]
    ),
    st.sampled_from([":nth-of-type(2)", ":only-child", ":empty", ":not(.a)", ":is(.b, em)", ":where(.c)", ":has(b)"]),
    st.sampled_from([":not(.a .b)", ":is(div > .a, p)", ":has(> .c)", ":nth-child(1 of .a)", ":lang(fr)", "*"]),
)


@st.composite
def _compounds(draw: Any) -> str:
    first = draw(_simple)
    more = draw(st.lists(_names.map(".{}".format), max_size=1))
    return str(first) + "".join(more)


@st.composite
def _selectors(draw: Any, pseudo: bool = True) -> str:
    parts = [draw(_compounds())]
    for _ in range(draw(st.integers(0, 2))):
        parts += [draw(st.sampled_from([" ", " > ", " + ", " ~ "])), draw(_compounds())]
    end = draw(st.sampled_from(["", "", "", "::before", "::after"])) if pseudo else ""
    return "".join(parts) + end


_wide = st.sampled_from(["inherit", "initial", "unset", "revert", "revert-layer"])
_families = st.sampled_from(["Foo", "'Bar Baz', serif", "MONOSPACE", "var(--f)", "var(--g, Fall)", "'A', Foo"])
_declarations = st.one_of(
    _families.map("font-family: {}".format),
    st.sampled_from(["100", "bold", "bolder", "lighter", "350", "calc(200 + 300)", "var(--w)", "1001"])
    .map("font-weight: {}".format),
    st.sampled_from(["italic", "oblique", "oblique 20deg", "normal", "slanted"]).map("font-style: {}".format),
    st.sampled_from(["75%", "condensed", "normal", "wide"]).map("font-stretch: {}".format),
    st.sampled_from(["italic 12px/2 Foo", "bold 1em 'Q'", "var(--s)", "12px", "300 condensed 9pt Foo, serif"])
    .map("font: {}".format),
    st.sampled_from(["tabular-nums", "normal", "lining-nums slashed-zero"]).map("font-variant-numeric: {}".format),
    st.sampled_from(["tabular-nums", "none"]).map("font-variant: {}".format),
    st.sampled_from(["uppercase", "lowercase", "none"]).map("text-transform: {}".format),
    st.sampled_from(["Zed", "var(--g)", "inherit", "initial"]).map("--f: {}".format),
    st.sampled_from(["Gee", "var(--f)", "var(--h, Aitch)"]).map("--g: {}".format),
    st.sampled_from(["600", "bolder", "x"]).map("--w: {}".format),
    st.sampled_from(["oblique 10px Ess", "nothing"]).map("--s: {}".format),
    st.sampled_from(['content: "xY"', "content: none", "content: attr(title)"]),
    st.sampled_from(["display: none", "display: block", "all: unset", "all: revert"]),
    st.tuples(st.sampled_from(["font-family", "font-weight", "font-style", "font", "text-transform"]), _wide)
    .map(": ".join),
)  # fmt: skip


@st.composite
def _blocks(draw: Any) -> str:
    parts = []
    for declaration in draw(st.lists(_declarations, min_size=1, max_size=3)):
        parts.append(declaration + draw(st.sampled_from(["", "", "", " !important"])))
    return "; ".join(parts)


@st.composite
def _rules(draw: Any) -> str:
    selector, block = draw(_selectors()), draw(_blocks())
    rule = f"{selector} {{ {block} }}"
    if "::" not in selector and draw(st.integers(0, 3)) == 0:
        inner = draw(st.sampled_from(["& > ", ".a ", "&.b ", "> ", "@media (width > 500px) "]))
        rest = "" if inner.startswith("@") else draw(_selectors(pseudo=False)) if inner != "&.b " else ""
        rule = f"{selector} {{ {block}; {inner}{rest} {{ {draw(_blocks())} }} }}"
    around = draw(
        st.sampled_from(
            [
                "",
                "",
                "",
                "@layer one",
                "@layer two",
                "@media (min-width: 500px)",
                "@media (max-width: 999.5px)",
                "@media print",
                "@supports (display: grid)",
                "@supports not (color: red)",
                "@media screen and (400px < width <= 1000px)",
                "@layer one.inner",
                "@scope (.a) to (.b)",
            ]
        )
    )
    return f"{around} {{ {rule} }}" if around else rule


@st.composite
def _elements(draw: Any, depth: int = 0) -> str:
    tag = draw(st.sampled_from(_TAGS))
    attributes = ""
    if names := draw(st.lists(_names, max_size=2)):
        attributes += f' class="{" ".join(names)}"'
    attributes += draw(st.sampled_from(["", "", ' id="x"', ' id="y"', ' title="note"', ' lang="fr"', " hidden"]))
    if draw(st.integers(0, 5)) == 0:
        attributes += f' style="{draw(_blocks())}"'
    children = [draw(st.text("ijkLMn", min_size=1, max_size=4))]
    if depth < 3:
        children += draw(st.lists(_elements(depth=depth + 1), max_size=3))
    return f"<{tag}{attributes}>{''.join(children)}</{tag}>"


@st.composite
def _pages(draw: Any) -> str:
    head = draw(st.sampled_from(["<!doctype html>", "<!doctype html>", ""]))
    rules = draw(st.lists(_rules(), min_size=1, max_size=7))
    layers = draw(st.sampled_from(["", "@layer two, one;"]))
    body = "".join(draw(st.lists(_elements(), min_size=1, max_size=3)))
    return f"{head}<html><head><style>{layers}\n" + "\n".join(rules) + f"</style></head><body>{body}</body></html>"


class _NoSheets:
    def sheet(self, reference: str, base: str) -> StyleSheet:
        raise SheetMissingError("is not there")


Pairs = set[tuple[tuple[str, ...], float, str, float, str]]


def _browser_pairs(page: Page, sources: Sequence[str]) -> list[Pairs]:
    """What each page shows in windows of all widths together."""
    frames = (
        f'<iframe style="width: {width}px" srcdoc="{escape(source)}"></iframe>'
        for source in sources
        for width in _WIDTHS
    )
    page.set_content("<!doctype html>" + "".join(frames))
    found: list[Pairs] = [set() for _ in sources]
    for number, texts in enumerate(page.evaluate(_SCRIPT)):
        for families, weight, style, stretch, text in texts:
            names = tuple(name.strip().strip('"') for name in families.split(","))
            found[number // len(_WIDTHS)] |= {
                (names, float(weight), style, float(stretch.rstrip("%")), character) for character in text
            }
    return found


def _own_pairs(source: str) -> Pairs:
    reading = SiteReader(_NoSheets()).read(source, "file:///page.html")
    return {
        (face.face.families, face.face.weight, face.face.style, face.face.width, character)
        for face in reading.faces
        if not face.hidden
        for character in face.characters()
        if character != " "
    }


@pytest.fixture(scope="module")
def page(browser: Browser) -> Iterator[Page]:
    context = browser.new_context()
    yield context.new_page()
    context.close()


@settings(max_examples=8, phases=[Phase.explicit, Phase.generate])
@given(sources=st.lists(_pages(), min_size=12, max_size=12))
def test_random_pages_are_read_as_the_browser_reads_them(page: Page, sources: list[str]) -> None:
    for source, expected in zip(sources, _browser_pairs(page, sources), strict=True):
        assert _own_pairs(source) == expected, source

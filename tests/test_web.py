"""CSS, URLs, ranges and sizes: small tables of cases."""

from __future__ import annotations

import itertools
import unicodedata
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aksara.errors import RequestError
from aksara.sizes import format_saving, format_size
from aksara.text import format_ranges, intervals, parse_ranges
from aksara.web.stack import complete_stack, parse_stack
from aksara.web.syntax import comment_text, family_name, property_name, slug, string
from aksara.web.urls import check_pattern, font_url, url_value


@pytest.mark.parametrize(
    ("text", "codes"),
    [
        ("U+41-43", {0x41, 0x42, 0x43}),
        ("u+e9, 41", {0xE9, 0x41}),
        ("U+4??", set(range(0x400, 0x500))),
        (" U+10FFFF ,", {0x10FFFF}),
        ("U+20-U+22", {0x20, 0x21, 0x22}),
    ],
)
def test_ranges_are_read(text: str, codes: set[int]) -> None:
    assert parse_ranges(text) == codes


@pytest.mark.parametrize("text", ["U+", "A-Z!", "U+5A-41", "U+110000", "U+?????????", "é"])
def test_bad_ranges_are_told(text: str) -> None:
    with pytest.raises(RequestError, match=r"write|last code point"):
        parse_ranges(text)


@given(st.sets(st.integers(0, 0x10FFFF), max_size=50) | st.sets(st.integers(0x20, 0x60)))
def test_ranges_say_exactly_what_they_were_made_of(codes: set[int]) -> None:
    assert parse_ranges(format_ranges(codes)) == codes
    runs = intervals(codes)
    assert all(last + 1 < first for (_, last), (first, _) in itertools.pairwise(runs))


@given(st.text(max_size=40))
def test_no_name_breaks_out_of_css(text: str) -> None:
    written = string(text)
    assert written[0] == written[-1] == '"'
    inner = written[1:-1].replace("\\\\", "").replace('\\"', "")
    assert '"' not in inner
    assert not any(c in written for c in "\n\r\f<\0")
    assert not any(unicodedata.category(c) in ("Cc", "Cs") for c in written)
    comment = comment_text(text)
    assert "*/" not in comment
    assert "<" not in comment


@pytest.mark.parametrize(
    ("name", "written"),
    [("Arial", "Arial"), ("Penyu Sans", '"Penyu Sans"'), ("sans-serif", "sans-serif"), ("inherit", '"inherit"'),
     ("3D", '"3D"'), ('a"b\\', r'"a\"b\\"'), ("</style>", r'"\3C /style>"'), ("a\nb", r'"a\A b"')],
)  # fmt: skip
def test_families_in_stacks(name: str, written: str) -> None:
    assert family_name(name) == written


@pytest.mark.parametrize(
    ("name", "variable"),
    [("Penyu Sans", "--penyu-sans"), ("Été  №5", "--ete-no5"), ("日本", "--web-font"), ("x" * 300, "--" + "x" * 60)],
)
def test_custom_properties(name: str, variable: str) -> None:
    assert property_name(name) == variable
    assert slug(name, "").isascii()


@pytest.mark.parametrize(
    ("pattern", "css", "font", "url"),
    [
        ("<path>", "out/faces.css", "out/fonts/a.woff2", "fonts/a.woff2"),
        ("<path>", "css/site.css", "out/fonts/a.woff2", "../out/fonts/a.woff2"),
        ("<path>", "out/fonts/x/y.css", "out/fonts/a.woff2", "../a.woff2"),
        ("<path>", "my site/a.css", "my site/été & co/a.woff2", "%C3%A9t%C3%A9%20%26%20co/a.woff2"),
        ("/static/type/<file>", "a.css", "b/c.woff", "/static/type/c.woff"),
        ('{{ "<file>" | asset }}', "a.css", "b/c.woff", '{{ "c.woff" | asset }}'),
    ],
)
def test_urls(pattern: str, css: str, font: str, url: str) -> None:
    check_pattern(pattern)
    assert font_url(pattern, Path(css), Path(font)) == url


def test_a_url_is_quoted_so_that_it_holds() -> None:
    assert url_value("a.woff2") == 'url("a.woff2")'
    assert url_value('{{ "a" | asset }}') == "url('{{ \"a\" | asset }}')"


@pytest.mark.parametrize("pattern", ["/static/", "", "<path>\n", "a\\<file>", "</style><file>", "\"<file>'"])
def test_patterns_that_cannot_work(pattern: str) -> None:
    with pytest.raises(RequestError):
        check_pattern(pattern)


@pytest.mark.parametrize(
    ("text", "stack"),
    [("Arial, sans-serif", ("Arial", "sans-serif")), ("'Segoe UI',Arial", ("Segoe UI", "Arial", "serif")),
     ('"A  B" , monospace', ("A B", "monospace"))],
)  # fmt: skip
def test_stacks_end_in_a_generic_family(text: str, stack: tuple[str, ...]) -> None:
    assert complete_stack(parse_stack(text), "serif") == stack


def test_an_empty_family_in_a_stack_is_told() -> None:
    with pytest.raises(RequestError, match="empty family"):
        parse_stack("Arial,,serif")


@pytest.mark.parametrize(
    ("count", "text"),
    [(0, "0 B"), (999, "999 B"), (1000, "1.0 KB"), (9949, "9.9 KB"), (9950, "10 KB"), (120_400, "120 KB"),
     (1_280_000, "1,280 KB"), (12_400_000, "12.4 MB")],
)  # fmt: skip
def test_sizes_in_words(count: int, text: str) -> None:
    assert format_size(count) == text


def test_savings_in_words() -> None:
    assert [format_saving(1000, after) for after in (60, 1000, 1100, 996)] == ["94%", "0%", "+10%", "0%"]
    assert format_saving(0, 5) == "0%"

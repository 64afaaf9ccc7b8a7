"""CSS, URLs, ranges and sizes: small tables of cases."""

from __future__ import annotations

import itertools
import unicodedata
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aksara.errors import RequestError
from aksara.faces import Face
from aksara.sizes import format_saving, format_size
from aksara.text import bridged, format_intervals, format_ranges, intervals, parse_ranges
from aksara.web.font_matching import best_match, describe_missing_face, missing_faces, parse_desired_face
from aksara.web.preload import page_url
from aksara.web.stack import complete_stack, parse_stack
from aksara.web.syntax import check_leading_css, comment_text, family_name, property_name, slug, string
from aksara.web.urls import check_pattern, font_url, resolve_url, url_value


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
def test_bad_ranges_are_reported(text: str) -> None:
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
        # What a template calls wants the path as it is, but none may end the expression or its string.
        ('{{ "<path>" | asset }}', "a.css", "my fonts/é/c.woff", '{{ "my fonts/é/c.woff" | asset }}'),
        ("<%= url '<path>' %>?v=<file>", "a.css", "a b'%>/c d.woff", "<%= url 'a b%27%25%3E/c d.woff' %>?v=c%20d.woff"),
        ('{{ "<path>" }}', "a.css", '"}}{{/c.woff', '{{ "%22%7D%7D%7B%7B/c.woff" }}'),
        ("#{dir}/<path>", "a.css", "b c/d.woff", "#{dir}/b%20c/d.woff"),
        ("/f/<file>?x=<path>", "a.css", "<file>/d.woff", "/f/d.woff?x=%3Cfile%3E/d.woff"),
    ],
)
def test_urls(pattern: str, css: str, font: str, url: str) -> None:
    check_pattern(pattern)
    assert font_url(pattern, Path(css), Path(font)) == url


@pytest.mark.parametrize(
    ("url", "css", "verdict"),
    [
        ("fonts/a%20b.woff2", "out/faces.css", "found"),
        ("fonts/a%20b.woff2?v=2#x", "out/faces.css", "found"),
        ("../out/fonts/a%20b.woff2", "css/faces.css", "found"),
        ("fonts/a%20b.woff2", "css/faces.css", "missing"),
        ("a%20b.woff2", "out/faces.css", "missing"),
        ("fonts/a+b.woff2", "out/faces.css", "missing"),
        ("/out/fonts/a%20b.woff2", "css/faces.css", "found"),
        ("/fonts/a%20b.woff2", "css/faces.css", "found"),
        ("/static/a%20b.woff2", "css/faces.css", "unknown"),
        ("https://files.example/a%20b.woff2", "css/faces.css", "unknown"),
        ("//files.example/a%20b.woff2", "css/faces.css", "unknown"),
        ('{{ "a b.woff2" | asset }}', "css/faces.css", "unknown"),
        ("//[", "css/faces.css", "unknown"),
    ],
)
@pytest.mark.parametrize("written", [True, False])
def test_urls_are_followed(url: str, css: str, verdict: str, written: bool, tmp_path: Path) -> None:
    font = tmp_path / "out/fonts/a b.woff2"
    if written:
        font.parent.mkdir(parents=True)
        font.write_bytes(b"x")
    assert resolve_url(url, tmp_path / css, font).verdict == verdict


@pytest.mark.parametrize(
    ("url", "css", "base", "href"),
    [
        ("fonts/a.woff2", "site/type/faces.css", "site", "type/fonts/a.woff2"),
        ("../out/fonts/a%20b.woff2?v=1", "css/x.css", ".", "out/fonts/a%20b.woff2?v=1"),
        ("fonts/a.woff2", "out put/faces.css", "site", "../out%20put/fonts/a.woff2"),
        ("/type/a.woff2", "out/faces.css", "site", "/type/a.woff2"),
        ("https://x.example/a.woff2", "out/faces.css", "site", "https://x.example/a.woff2"),
        ('{{ "a.woff2" }}', "out/faces.css", "site", '{{ "a.woff2" }}'),
        ("../x/{{ y }}/a.woff2", "out/faces.css", "site", "../x/{{ y }}/a.woff2"),
    ],
)
def test_template_pages_find_the_style_sheets_faces(url: str, css: str, base: str, href: str) -> None:
    assert page_url(url, Path(css), Path(base)) == href


def _faces(*listed: str) -> list[Face]:
    return [
        Face(path=text, family="Penyu Sans", weight=desired.weight, style=desired.style, width=desired.width)
        for text, desired in ((text, parse_desired_face(text)) for text in listed)
    ]


@pytest.mark.parametrize(
    ("there", "asked", "taken"),
    [
        # CSS Fonts 4, section 5.2: between 400 and 500 upwards first, else away from the middle.
        (("300", "500", "700"), "400", "500"), (("300", "700"), "400", "300"), (("700", "900"), "500", "700"),
        (("100", "400"), "300", "100"), (("400", "700"), "300", "400"), (("400", "800"), "600", "800"),
        (("400", "500"), "600", "500"), (("450",), "400", "450"), (("600", "300"), "450", "300"),
        # Style before weight, width before style.
        (("400", "700 italic"), "400 italic", "700 italic"), (("400 oblique", "400"), "400 italic", "400 oblique"),
        (("400", "400 italic"), "700", "400"), (("400 75%", "400 125%"), "400", "400 75%"),
        (("400 75%", "400 125%"), "400 112.5%", "400 125%"), (("700 75%", "400 italic"), "700", "400 italic"),
    ],
)  # fmt: skip
def test_a_browser_takes_the_nearest_face(there: tuple[str, ...], asked: str, taken: str) -> None:
    assert best_match(_faces(*there), parse_desired_face(asked)).path == taken


def test_missing_styles_are_reported_as_browsers_replace_them() -> None:
    found = missing_faces(_faces("400", "700"), map(parse_desired_face, ("400", "600", "Bold Italic", "600")))
    assert [describe_missing_face(*hole) for hole in found] == [
        "asked for 600, nearest is 700",
        "asked for 700 italic, nearest is 700, which a browser slants by itself",
    ]
    (bold,) = missing_faces(_faces("400 italic"), [parse_desired_face("700")])
    assert describe_missing_face(*bold) == "asked for 700, nearest is 400 italic, which a browser thickens by itself"


@pytest.mark.parametrize(
    ("text", "weight", "style", "width"),
    [("600", 600, "normal", 100), ("bold", 700, "normal", 100), ("Semi Bold Italic", 600, "italic", 100),
     ("350 oblique", 350, "oblique", 100), ("italic", 400, "italic", 100), ("700 italic 75%", 700, "italic", 75),
     ("Condensed Light", 300, "normal", 75)],
)  # fmt: skip
def test_faces_as_people_write_them(text: str, weight: int, style: str, width: float) -> None:
    asked = parse_desired_face(text)
    assert (asked.weight, asked.style, asked.width) == (weight, style, width)
    assert parse_desired_face(str(asked)) == asked
    assert parse_desired_face(asked.label) == asked


@pytest.mark.parametrize("text", ["", "heavy metal", "0", "1001", "Arial"])
def test_what_is_no_face_is_reported(text: str) -> None:
    with pytest.raises(RequestError, match="is not a face"):
        parse_desired_face(text)


@pytest.mark.parametrize(
    ("codes", "avoided", "written"),
    [
        ("U+41,U+43", "", "U+41-43"),  # B is nobody's
        ("U+41,U+43", "U+42", "U+41, U+43"),
        ("U+20-7E,U+A0-FF", "", "U+20-FF"),  # only controls between
        ("U+7E,U+100", "", "U+7E, U+100"),  # letters of another block between
        ("U+370-3FF,U+500", "", "U+370-3FF, U+500"),
        ("U+400-4FF", "", "U+4??"), ("U+0-FF", "", "U+??"), ("U+A0-AF", "", "U+A?"), ("U+410-42F", "", "U+410-42F"),
        ("U+10000-1FFFF", "", "U+1????"), ("U+0-FFFFF", "", "U+?????"),
    ],
)  # fmt: skip
def test_ranges_are_short_and_exact(codes: str, avoided: str, written: str) -> None:
    assert format_intervals(bridged(parse_ranges(codes), parse_ranges(avoided))) == written


@given(st.sets(st.integers(0x20, 0x200)), st.sets(st.integers(0x20, 0x200)))
def test_ranges_are_joined_only_across_unassigned_characters(codes: set[int], others: set[int]) -> None:
    covered = {code for first, last in bridged(codes, others) for code in range(first, last + 1)}
    assert covered >= codes
    assert not (covered - codes) & others
    assert parse_ranges(format_intervals(bridged(codes, others))) == covered


@pytest.mark.parametrize(
    "css", [".a {", "/* x", "@import 'x'", '"abc', "url(", "a{} }", "</style>", '@charset "x";', ".a { b: (c }"]
)
def test_css_that_would_swallow_ours_is_refused(css: str) -> None:
    with pytest.raises(RequestError, match="the licence demands"):
        check_leading_css(css)
    check_leading_css("@import url('https://count.example/1');\n/* notice */ .a { b: c }")
    check_leading_css(" ")


def test_urls_are_quoted_safely() -> None:
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


def test_an_empty_family_in_a_stack_is_reported() -> None:
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

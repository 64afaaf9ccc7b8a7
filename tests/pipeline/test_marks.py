"""What is kept between marks in files of the user's: only that changes, whatever stands around it."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aksara.errors import RequestError
from aksara.web.json_pointer import with_value
from aksara.web.marks import MarkedFile, MarksError, kept_part

_NAMES = {"css": "style.css", "scss": "main.scss", "html": "index.html", "jsx": "Head.tsx"}
_MARKS = {
    "css": ("/* aksara: begin */", "/* aksara: end */"),
    "scss": ("/* aksara: begin */", "/* aksara: end */"),
    "html": ("<!-- aksara: begin -->", "<!--aksara:end-->"),
    "jsx": ("{/* aksara: begin */}", "{/* aksara: end */}"),
}
#: Bytes in which no comment, string or script opens, of any encoding.
_HARMLESS = st.binary(max_size=60).map(lambda data: data.translate(None, b"/*<!{#%@'\"u}(=?-"))
_TEXT = st.text(st.characters(exclude_characters="\r\n\0", exclude_categories=("Cs",)), max_size=20)


@given(st.sampled_from(sorted(_NAMES)), _HARMLESS, _HARMLESS, st.binary(max_size=40), _TEXT, _TEXT)
def test_bytes_around_marks_never_change(
    syntax: str, before: bytes, after: bytes, old: bytes, first: str, second: str
) -> None:
    begin, end = (mark.encode() for mark in _MARKS[syntax])
    old = old.translate(None, b"/*<!{#%@'\"u}(=?-")
    data = before + b"\n" + begin + old + end + after
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return
    for content in (first, f"{first}\n{second}", ""):
        new = MarkedFile.of(data, _NAMES[syntax]).with_content(content)
        assert new.startswith(before + b"\n" + begin)
        assert new.endswith(end + after)
        # The next build finds the same place, and writes the same again.
        assert MarkedFile.of(new, _NAMES[syntax]).with_content(content) == new
    assert MarkedFile.of(data, _NAMES[syntax]).marked is not None


@given(st.sampled_from(("utf-16-le", "utf-16-be")), _TEXT, _TEXT, _TEXT)
def test_utf_16_stays_as_it_is(encoding: str, before: str, after: str, content: str) -> None:
    before, after = (each.translate(dict.fromkeys(map(ord, "/'\"u*"))) for each in (before, after))
    mark = {"utf-16-le": b"\xff\xfe", "utf-16-be": b"\xfe\xff"}[encoding]
    begin, end = _MARKS["css"]
    data = mark + f"{before}\r\n{begin}x{end}{after}".encode(encoding)
    new = MarkedFile.of(data, "a.css").with_content(content)
    expected = f"{before}\r\n{begin}\r\n" + (f"{content}\r\n" if content else "") + f"{end}{after}"
    assert new == mark + expected.encode(encoding)


#: A file, and what is said of its marks, with the line.
_WRONG = {
    "begin twice": ("a.css", "/* aksara: begin */\n/* aksara: begin */ /* aksara: end */", "is here twice", 2),
    "no end": ("a.css", "\n/* aksara: begin */", "'aksara: end' is missing", 2),
    "no begin": ("a.html", "<!-- aksara: end -->", "'aksara: begin' is missing", 1),
    "the wrong way round": ("a.css", "/* aksara: end */\n/* aksara: begin */", "comes before", 1),
    "in a comment": ("a.css", "/* old\n/* aksara: begin */ x /* aksara: end */", "inside another comment", 2),
    "in a comment of one line": ("a.scss", "// /* aksara: begin */\n/* aksara: end */", "inside another comment", 1),
    "in a script": ("a.html", "<script>\n/* aksara: begin */</script>", "inside another comment or code", 2),
    "in a template's comment": ("a.twig", "{# <!-- aksara: begin --> #}", "inside another comment", 1),
    "without braces": ("a.tsx", "/* aksara: begin */ {/* aksara: end */}", "has braces around it", 1),
}


@pytest.mark.parametrize("name", _WRONG)
def test_marks_that_cannot_be_used_are_reported_with_their_line(name: str) -> None:
    file, text, said, line = _WRONG[name]
    with pytest.raises(MarksError, match=said) as error:
        _ = MarkedFile.of(text.encode(), file).marked
    assert error.value.line == line
    part = kept_part(text.encode(), file)
    assert part is not None
    assert said in part.problem


#: A style sheet, and where rules go in it.
_PLACES = {
    "": ("a.css", "|"),
    "imports": ("a.css", '@charset "utf-8";\n/* x */\n@import url("a.css") screen;\n|h1 {}'),
    "a header": ("a.css", "/*\nTheme Name: Penyu\n*/\n|/* Layout */ h1 {}"),
    "use": ("a.scss", '// Penyu\n@use "sass:math";\n@forward "x";\n|$a: 1;'),
    "layers": ("a.css", "@layer a, b;\n@import 'a';\n|@layer a { h1 {} }"),
    "a byte order mark": ("a.css", "\ufeff|h1 {}"),
    "nothing to come first": ("a.css", "|h1 {}\n@media print {}"),
    "the end of the line": ("a.css", '@import "a"; |h1 {}'),
}


@pytest.mark.parametrize("name", _PLACES)
def test_rules_go_behind_what_must_come_first(name: str) -> None:
    file, text = _PLACES[name]
    before, after = text.split("|")
    new = MarkedFile.of((before + after).encode(), file)
    made = new.with_marks_at(new.place_for_rules, "@font-face {}").decode()
    assert made.startswith(before.rstrip(" "))
    assert made.endswith(after)
    assert made.index("aksara: begin") < made.index("@font-face")
    assert MarkedFile.of(made.encode(), file).content() == "@font-face {}"


#: A template, in which links go in front of the bar.
_HEADS = {
    "sections": ("a.hbs", "<head>{{#if x}}<title>{{#a}}b{{/a}}</title>{{/if}}|</head>"),
    "comments": ("a.hbs", "<head>{{! </head> }}{{!-- </head> --}}<!-- </head> -->{# </head> #}|</head>"),
    "scripts": ("a.html", "<head><script>document.write('</head>')</script>\n  <title>x</title>\n|</head>"),
    "code": ("a.php", "<head><?php echo '</head>'; ?>|</head>"),
}


@pytest.mark.parametrize("name", _HEADS)
def test_links_go_to_the_end_of_the_head(name: str) -> None:
    file, text = _HEADS[name]
    before, after = text.split("|")
    page = MarkedFile.of((before + after).encode(), file)
    place, indent = page.place_for_links
    assert place == len(before) and indent == ("  " if name == "scripts" else "")


def test_imports_behind_the_marks_are_reported() -> None:
    css = MarkedFile.of(b"/* aksara: begin *//* aksara: end */\n/* @import 'x' */\n@import 'a';", "a.css")
    with pytest.raises(MarksError, match="must precede all rules") as error:
        css.check_imports("")
    assert error.value.line == 3
    css = MarkedFile.of(b"h1 {}\n/* aksara: begin *//* aksara: end */", "a.css")
    css.check_imports("")
    with pytest.raises(MarksError, match="licence demands"):
        css.check_imports("@import url('https://count.example')")


def test_characters_of_other_encodings_are_written_as_escapes() -> None:
    """A file that is not UTF-8 has its own encoding, which a build does not know."""
    old = "/* caf\xe9 *//* aksara: begin *//* aksara: end */".encode("latin-1")
    new = MarkedFile.of(old, "a.css").with_content('font-family: "Caf\xe9"')
    assert b'"Caf\\e9 "' in new
    assert new.startswith(b"/* caf\xe9 */")


#: A JSON file, a pointer, and the file with 7 there.
_POINTERS = {
    "/a": ('{"a": {"b": [1, 2]} , "c": 3}', '{"a": 7 , "c": 3}'),
    "/a/b/1": ('{ "a": {"b": [1, 2]} }', '{ "a": {"b": [1, 7]} }'),
    "/x~1y/~0": ('{"x/y": {"~":\n"\\"}"}}', '{"x/y": {"~":\n7}}'),
    "/new": ('{\n  "a": 1\n}', '{\n  "new": 7,\n  "a": 1\n}'),
    "/e/new": ('{"e": {}}', '{"e": {"new": 7}}'),
}


@pytest.mark.parametrize("pointer", _POINTERS)
def test_one_value_of_a_json_file_changes(pointer: str) -> None:
    text, expected = _POINTERS[pointer]
    assert with_value(text, pointer, "7") == expected


@pytest.mark.parametrize(
    ("text", "pointer", "said"),
    [
        ("{", "/a", "not valid JSON"),
        ('{"a": 1}', "/a/b", "no 'b' at /a"),
        ("[1]", "/2", "no '2' at /"),
        ("{}", "a", "pointer"),
    ],
)
def test_pointers_that_lead_nowhere_are_reported(text: str, pointer: str, said: str) -> None:
    with pytest.raises(RequestError, match=said):
        with_value(text, pointer, "7")

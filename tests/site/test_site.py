"""What pages show in which face: cases of HTML and CSS, texts that are no pages, and input that is out to harm."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aksara.site import SiteRequest, SiteUse, cache_of, read_site, reading
from aksara.site.css.counter_styles import PREDEFINED, write_number
from aksara.site.css.media import MediaEnvironment, parse_media
from aksara.site.page.text_transform import transform_text
from aksara.site.text_files import file_text

#: Family, weight and style → its characters; hidden ones stand under "hidden".
Shown = dict[str, str]


def shown(tmp_path: Path, body: str, css: str = "", **files: str) -> Shown:
    """What a page with this style sheet shows, without spaces."""
    for name, text in files.items():
        (tmp_path / name.replace("_", ".")).write_text(text)
    page = body if body.startswith("<!doctype") else f"<!doctype html><html><style>{css}</style><body>{body}"
    (tmp_path / "page.html").write_text(page, encoding="utf-8")
    return summary(read_site(SiteRequest((tmp_path / "page.html",))))


def summary(site: SiteUse) -> Shown:
    result: Shown = {}
    for use in site.faces:
        label = f"{use.face.families[0]} {use.face.weight:g} {use.face.style}" if not use.hidden else "hidden"
        text = "".join(sorted(character for character in use.characters if character != " "))
        result[label] = "".join(sorted(set(result.get(label, "") + text)))
    return result


SERIF = "Times New Roman 400 normal"
BOLD = "Times New Roman 700 normal"

CASES: dict[str, tuple[str, str, Shown]] = {
    "bolder by what is around": (
        "<p>a<b>b</b></p><h2>c<b>d</b></h2>", "p { font-weight: 300 }",
        {"Times New Roman 300 normal": "a", SERIF: "b", BOLD: "c", "Times New Roman 900 normal": "d"},
    ),
    "capitals by language": (
        '<p lang=tr>i</p><p lang=el>ά</p><p lang=de>ß</p>', "p { text-transform: uppercase }", {SERIF: "SİΑ"},
    ),
    "generated text": (
        '<p title="Ω">a</p>', 'p::before { content: "\\2192" attr(title); font-weight: 700 }', {SERIF: "a", BOLD: "Ω→"},
    ),
    "nothing is generated without content": ("<p>a</p>", "p::before { font-weight: 700 }", {SERIF: "a"}),
    "quotes by language": ("<p lang=fr><q>a<q>b</q></q></p><q lang=ja>c</q>", "", {SERIF: "abc«»「」"}),
    "quotes that are given": ("<q>a</q>", 'q { quotes: "<" ">" }', {SERIF: "<>a"}),
    "list numbers": ("<ol start=9><li>a<li>b</ol>", "li::marker { font-weight: 700 }", {SERIF: "ab", BOLD: ".019"}),
    "roman and reversed": ("<ol reversed type=I><li>a<li>b<li value=5>c</ol>", "", {SERIF: ".IVabc"}),
    "bullets take no font": ("<ul><li>a</ul>", "", {SERIF: "a"}),
    "a text as bullet": ("<ul><li>a</ul>", 'ul { list-style: "– " }', {SERIF: "a–"}),
    "counters": (
        "<h2>a</h2><h2>b<i></i></h2>",
        'h2 { counter-increment: n } h2::after { content: counters(n, ".", upper-alpha) } '
        'i::after { content: counter(n, lower-greek); font: 1em Foo }',
        {BOLD: "ABab", "Foo 400 normal": "β"},
    ),
    "a counter style of one’s own": (
        "<ol><li>a<li>b</ol>",
        '@counter-style stars { system: symbolic; symbols: "★"; suffix: ")" } ol { list-style: stars }',
        {SERIF: ")ab★"},
    ),
    "form controls have fonts of their own": (
        "<input value=a placeholder=b><textarea>c</textarea><button>d</button><input type=password value=xx>"
        "<input type=hidden value=q><input type=checkbox value=q>",
        "body { font-family: Foo } button { font: inherit }",
        {"Arial 400 normal": "ab•", "monospace 400 normal": "c", "Foo 400 normal": "d"},
    ),
    "placeholders": (
        "<input placeholder=b>", "::placeholder { font-style: italic }", {"Arial 400 italic": "b"},
    ),
    "closed and open lists": (
        "<select><option selected>a<option label=b>x</select><select multiple><optgroup label=c><option>d</select>",
        "option { font-weight: 700 }",
        {"Arial 400 normal": "ab", "Arial 700 normal": "cd"},
    ),
    "what stands in for images": ("<img alt=a src=none.png>", "img { font-weight: 700 }", {BOLD: "a"}),
    "details, closed or open": (
        "<details><summary>a</summary>b</details>", "details[open] { font-weight: 700 }", {SERIF: "ab", BOLD: "ab"},
    ),
    "hidden parts are told apart": (
        "<p>a<span hidden>b</span></p><div class=x>c<b>d</b></div><template><i>e</i></template>",
        ".x { display: none }", {SERIF: "a", "hidden": "bcde"},
    ),
    "hidden until a state shows it": (
        "<input type=checkbox><p>a</p>", "p { display: none } :checked ~ p { display: block }", {SERIF: "a"},
    ),
    "states are possible": (
        "<a href=x>a</a><p>b</p>", "a:hover { font-weight: 700 } p:not(:hover) { font-style: italic }",
        {SERIF: "ab", BOLD: "a", "Times New Roman 400 italic": "b"},
    ),
    "every width": (
        "<p>a</p>", "@media (max-width: 600px) { p { font-weight: 300 } } @media (min-width: 1000px) { p { font-style: "
        "italic } } @media print { p { font-weight: 900 } } "
        "@media (prefers-color-scheme: dark) { p { font-weight: 350 } }",
        {SERIF: "a", "Times New Roman 300 normal": "a", "Times New Roman 400 italic": "a",
         "Times New Roman 350 normal": "a", "Times New Roman 350 italic": "a"},
    ),
    "containers may have any size": (
        "<p>a</p>", "@container (width > 20em) { p { font-weight: 700 } }", {SERIF: "a", BOLD: "a"},
    ),
    "layers": (
        "<p>a</p>", "@layer low, high; @layer high { p { font-weight: 300; font-style: italic !important } } "
        "@layer low { p { font-weight: 900; font-style: oblique !important } }",
        {"Times New Roman 300 oblique": "a"},
    ),
    "custom properties": (
        "<p>a</p><p style='--w: 600; font-weight: var(--w)'>b</p>",
        ":root { --face: var(--none, 'Foo'), serif; --loop: var(--loop) } p { font-family: var(--face); "
        "font-style: var(--loop) }",
        {"Foo 400 normal": "a", "Foo 600 normal": "b"},
    ),
    "first letters and lines": (
        "<p>“Abc</p><h3>Title</h3>", "p::first-letter { font-weight: 700 } h3::first-line { font-style: italic }",
        {SERIF: "bc", BOLD: "A“Teilt", "Times New Roman 700 italic": "Teilt"},
    ),
    "small capitals may be capitals": ("<p>ab</p>", "p { font-variant: small-caps }", {SERIF: "ABab"}),
    "what browsers add": (
        "<p>a\u00adb</p><div>c</div>", "div { overflow: hidden; text-overflow: ellipsis; font-weight: 700 }",
        {SERIF: "-ab\u00ad‐", BOLD: "c…"},
    ),
    "pictures with text": (
        "<svg><title>x</title><text font-family=Foo font-weight=700>a<tspan font-style=italic>b</tspan></text>c</svg>",
        "", {"Foo 700 normal": "a", "Foo 700 italic": "b"},
    ),
    "formulas": ("<math><mi>x</mi><mn>2</mn></math>", "", {"math 400 normal": "2𝑥"}),
    "the ways of old browsers": (
        "<!doctype html public '-//W3C//DTD HTML 3.2//EN'><body style='font: italic bold 9pt Foo'>a<table><td>b",
        "",
        {"Foo 700 italic": "a", "Foo 400 normal": "b"},
    ),
    "names without case in old pages": (
        "<!doctype html public '-//IETF//DTD HTML//EN'><style>.Foo #BAR { font: 1em Foo }</style><p class=fOO>a"
        "<u id=bar>b",
        "",
        {SERIF: "a", "Foo 400 normal": "b"},
    ),
    "capitals inside of words": (
        "<p><b>x</b>yz q<i>r</i> s</p><p>t</p>",
        "p { text-transform: capitalize } b, i { font: inherit }",
        {SERIF: "QSTXryz"},
    ),
    "details without summary": ("<details>a</details>", "", {SERIF: "Detailsa"}),
    "hints in attributes": (
        "<font face='Foo, serif'>a</font><tt>b</tt>", "", {"Foo 400 normal": "a", "monospace 400 normal": "b"},
    ),
    "without scripts": ("<noscript>a</noscript><script>document.write('b')</script>", "", {SERIF: "a"}),
    "a shadow tree": (
        "<my-card><template shadowrootmode=open><style>:host { font-style: italic } p { font-weight: 700 } "
        "::slotted(u) { font-family: Foo }</style><p>a<slot></slot></p><slot name=x>d</slot></template>b<u slot=x>c</u>"
        "</my-card><p>e</p>", "p { font-family: Bar }",
        {"Times New Roman 700 italic": "ab", "Foo 400 italic": "c", "Bar 400 normal": "e"},
    ),
    "parts of shadow trees": (
        "<my-card id=x><template shadowrootmode=open><style>b { font-weight: 500 } i { font-weight: 800 !important } "
        "</style><b part='name big' style='font-weight: 600'>a</b><u part=name>b</u><i part=big>c</i><s part=big>d</s>"
        "<my-in exportparts='deep: far, near'><template shadowrootmode=open><u part=deep>e</u><u part=near>f</u>"
        "<u part=hidden>g</u></template></my-in></template></my-card><p part=name>h</p>",
        "my-card::part(name) { font-weight: 700 } i::part(name), :not(#x)::part(big) { font-style: italic } "
        "*::part(big) { font-weight: 300 } ::part(big)::before { content: 'z' } "
        "#x::part(name big) { font-family: Foo } #x::part(far):hover { font-family: Bar } "
        "#x::part(near) { font-weight: 900 } #x::part(hidden) { font: 1em Foo }",
        {"Foo 700 normal": "az", "Times New Roman 700 normal": "b", "Times New Roman 800 italic": "cz",
         "Times New Roman 300 normal": "dz", SERIF: "egh", "Bar 400 normal": "e", "Times New Roman 900 normal": "f"},
    ),
    "not for this browser": (
        "<p>a</p>", "p:unknown, p { font-weight: 900 } p::-webkit-x, p { font-style: italic } "
        "@supports (-moz-appearance: none) { p { font-weight: 100 } } "
        "@supports selector(p:has(b)) { p { font-weight: 300 } }",
        {"Times New Roman 300 italic": "a"},
    ),
    "animations": (
        "<p>a</p>", "@keyframes swell { from { font-weight: 300 } to { font-weight: 900; color: red } } "
        "p { animation: 1s ease swell } b { animation-name: none }",
        {SERIF: "a", "Times New Roman 300 normal": "a", "Times New Roman 900 normal": "a"},
    ),
    "a scope ends at limits inside of it": (
        "<div class=a><p>a<div class=b><p>b</div></div><div class=b><div class='a b'><p>c</div></div>",
        "@scope (.a) to (.b) { p { font-weight: 700 } }",
        {BOLD: "ac", SERIF: "b"},
    ),
    "an important roll back takes the whole layer": (
        "<small>a</small>", "small { font-style: oblique; font-style: revert-layer !important }", {SERIF: "a"},
    ),
    "has and nth": (
        "<p>a</p><p class=x>b<b></b></p><p class=x>c</p>",
        "p:has(> b) { font-style: italic } p:nth-child(2 of .x) { font-weight: 300 } p:has(+ p) { font-family: Foo }",
        {"Foo 400 normal": "a", "Foo 400 italic": "b", "Times New Roman 300 normal": "c"},
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_a_page_shows(tmp_path: Path, name: str) -> None:
    body, css, expected = CASES[name]
    assert shown(tmp_path, body, css) == {label: "".join(sorted(set(text))) for label, text in expected.items()}


def test_pages_with_the_same_style_element(tmp_path: Path) -> None:
    """It is parsed once, for the first of them; each page says of itself that it asks for the face."""
    for name in ("a", "b", "deep/c"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / f"{name}.html").write_text("<style>p { font: italic 700 1em Foo }</style>\n<p>x")
    site = read_site(SiteRequest((tmp_path,)))
    origins = {(Path(use.origin.page).stem, Path(use.origin.sheet).stem) for page in site.pages for use in page.faces}
    assert origins == {("a", "a"), ("b", "b"), ("c", "c")}


def test_style_sheets_are_found_as_pages_ask_for_them(tmp_path: Path) -> None:
    site = tmp_path / "site"
    (site / "css/deep").mkdir(parents=True)
    (site / "pages").mkdir()
    (tmp_path / "secret.css").write_text("p { font-weight: 900 }")
    (site / "css/main.css").write_text(
        '@charset "windows-1252"; @import "deep/more.css" layer(x) screen; @import url(main.css); '
        "@font-face { font-family: Foo; src: url(f.woff2) } p { font-style: italic }"
    )
    (site / "css/deep/more.css").write_text("@import '../main.css'; p { font-family: Foo; font-style: oblique }")
    (site / "css/print.css").write_text("p { font-weight: 100 }")
    (site / "pages/a.html").write_text(
        "<!doctype html><base href='../css/'><link rel=stylesheet href=main.css><link rel=stylesheet href=print.css "
        "media=print><link rel='alternate stylesheet' href=print.css title=x><link rel=stylesheet href=/css/print.css "
        "disabled><link rel=stylesheet href=../../secret.css><link rel=stylesheet href=gone.css>"
        "<link rel=stylesheet href=https://elsewhere.example/x.css><p>a"
    )
    (site / "pages/b.html").write_text("<!doctype html><link rel=stylesheet href=/css/main.css><p>b")
    (site / "css/one.css").write_text("u { font-weight: 300 }")
    (site / "css/two.css").write_text("u { font-weight: 900 }")
    (site / "pages/titled.html").write_text(
        "<!doctype html><link rel=stylesheet title=One href=/css/one.css><link rel=stylesheet title=Two "
        "href=/css/two.css><u>c"
    )
    use = read_site(SiteRequest((site,)))
    assert summary(use) == {"Foo 400 italic": "ab", "Times New Roman 300 normal": "c"}
    assert dict(use.pages[0].missing) == {
        "../../secret.css": "is outside of the site's folder, so it was not read",
        "gone.css": "is missing",
        "https://elsewhere.example/x.css": "is on another host, so it was not read",
    }
    assert [(face.family, face.sheet, face.line) for face in use.defined] == [("Foo", f"{site}/css/main.css", 1)]
    assert use.faces[0].origin.selector == "p" and use.faces[0].origin.sheet == f"{site}/css/main.css"
    printed = read_site(SiteRequest((site,), printed=True))
    assert summary(printed)["Times New Roman 100 italic"] == "a"


@pytest.mark.parametrize(
    ("data", "expected"),
    [
        ("<p>é".encode("latin-1"), "é"),
        ("<p>é".encode(), "é"),
        ("<meta charset=windows-1251><p>Ж".encode("windows-1251"), "Ж"),
        ("\ufeff<meta charset=latin1><p>Ж".encode(), "Ж"),
        ("<p>Ж".encode("utf-16"), "Ж"),
        (b"<meta charset=nonsense><p>\x80", "€"),
    ],
)
def test_encodings(tmp_path: Path, data: bytes, expected: str) -> None:
    (tmp_path / "page.html").write_bytes(b"<!doctype html>" * (not data.startswith((b"\xff", b"\xef"))) + data)
    assert summary(read_site(SiteRequest((tmp_path / "page.html",)))) == {SERIF: expected}


def test_features_that_style_sheets_ask_for(tmp_path: Path) -> None:
    (tmp_path / "page.html").write_text(
        "<!doctype html><style>@font-feature-values Foo { @styleset { round: 3 14 } } p { font-family: Foo; "
        "font-variant: tabular-nums slashed-zero styleset(round); font-feature-settings: 'ss01', 'liga' 0; "
        "font-variation-settings: 'wght' 650, 'GRAD' 50 }</style><p>1"
    )
    (use,) = read_site(SiteRequest((tmp_path,))).faces
    assert use.variations == ((("GRAD", 50.0), ("wght", 650.0)),)
    assert use.features == ("ss01", "ss03", "ss14", "tnum", "zero") and use.languages == {"": 1}


def test_what_only_some_screens_ask_for_is_kept(tmp_path: Path) -> None:
    """The face is the same on all of them, and its text is counted once."""
    css = (
        "@media (min-width: 600px) { p { font-variant-numeric: tabular-nums } } p:hover { font-variant: small-caps } "
        "p { text-transform: capitalize } p::first-letter { font-weight: 700 }"
    )
    (tmp_path / "page.html").write_text(f"<!doctype html><style>{css}</style><p>abb")
    bold, plain = read_site(SiteRequest((tmp_path,))).faces[::-1]
    if bold.face.weight != 700:
        bold, plain = plain, bold
    assert set(plain.features) == {"smcp", "tnum"}
    assert dict(plain.characters) == {"b": 2, "B": 1} and dict(bold.characters) == {"A": 1}


@pytest.mark.parametrize(
    ("suffix", "source", "has", "lacks"),
    [
        (".md", "---\ntitle: Ā\n---\n# B\n[c](https://x.example/q) <b>d</b> <!-- z -->", "ĀBcd", "qzx"),
        (".json", '{"k": ["\\u00e9", {"z": 5}]}', "é5", "kz{"),
        (".yaml", "key: Ë # no\nlist:\n  - Ö\n", "ËÖ", "kn"),
        (".csv", 'a;b\n"ç;";d', "abç;d", '"'),
        (".po", 'msgid ""\nmsgstr "Content-Type: q"\n\nmsgid "zq"\nmsgstr "Þú"\n\nmsgid "w"\nmsgstr ""', "Þúw", "zq"),
        (".php", "<p><?php echo 'é', $zq; ?>a</p>", "éa", "zq"),
        (".njk", '<p>{% if zq %}b{{ "Ω" | upper }}{# q #}', "bΩ", "qz"),
        (".vue", "<template><p>{{ t('ä') }}x</p></template>", "äx", "{"),
        (".ts", "const zq = 'ł'; // Ж\nconst b = `m${zq}n`;", "łmn", "Жq"),
        (".txt", "any{", "any{", ""),
    ],
)
def test_text_of_files_that_are_no_pages(suffix: str, source: str, has: str, lacks: str) -> None:
    text = file_text(source, suffix)
    assert set(has) <= set(text) and not set(lacks) & set(text), text


@pytest.mark.parametrize(
    ("text", "keywords", "language", "expected"),
    [
        ("istanbul İ", ("uppercase",), "tr", "İSTANBUL İ"),
        ("IĞDIR", ("lowercase",), "az-Latn", "ığdır"),
        ("ijsland een", ("capitalize",), "nl", "IJsland Een"),
        ("ΟΔΟΣ", ("lowercase",), "el", "οδος"),
        ("Ναύπλιο μαΐου ή", ("uppercase",), "el", "ΝΑΥΠΛΙΟ ΜΑΪΟΥ Ή"),
        ("straße ﬁ", ("uppercase",), "de", "STRASSE FI"),
        ("ǆ o'neil", ("capitalize",), "hr", "ǅ O'neil"),
        ("i̇̀", ("uppercase",), "lt", "Ì"),
        ("a 1", ("full-width",), "", "ａ\u3000１"),
        ("h", ("math-auto",), "", "ℎ"),
    ],
)
def test_text_transform(text: str, keywords: tuple[str, ...], language: str, expected: str) -> None:
    assert transform_text(text, keywords, language) == expected


@pytest.mark.parametrize(
    ("style", "number", "expected"),
    [
        ("decimal-leading-zero", 7, "07"), ("lower-roman", 1999, "mcmxcix"), ("upper-roman", 4000, "4000"),
        ("lower-alpha", 703, "aaa"), ("hebrew", 15, "טו"), ("armenian", 1492, "ՌՆՂԲ"), ("georgian", 12, "იბ"),
        ("cjk-decimal", 20, "二〇"), ("cjk-heavenly-stem", 11, "一一"), ("simp-chinese-formal", 25, "贰拾伍"),
        ("thai", -3, "-๓"), ("unheard-of", 8, "8"), ("disc", 1, ""),
    ],
)  # fmt: skip
def test_counter_styles(style: str, number: int, expected: str) -> None:
    assert write_number(number, style, PREDEFINED) == expected


@pytest.mark.parametrize(
    ("query", "holds"),
    [
        ("screen and (min-width: 600px)", True), ("not screen", False), ("only print, (width >= 80em)", True),
        ("(400px <= width < 1280px)", False), ("(hover) and (not (pointer: coarse))", True), ("(1280px = width)", True),
        ("not (unknown-thing: 1)", False), ("(min-width: 1px) or (nonsense)", True), ("nonsense ,,", False),
        ("(orientation: landscape) and (min-aspect-ratio: 16/10)", True), ("(min-resolution: 2dppx)", False),
    ],
)  # fmt: skip
def test_media_queries(query: str, holds: bool) -> None:
    assert (parse_media(query).holds(MediaEnvironment()) is True) == holds


def test_a_page_is_read_again_only_when_something_has_changed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    site = tmp_path / "site"
    site.mkdir()
    (site / "a.css").write_text("p { font-weight: 700 }")
    (site / "page.html").write_text(
        "<!doctype html><link rel=stylesheet href=a.css><link rel=stylesheet href=b.css><p>a"
    )

    def read() -> Shown:
        return summary(read_site(SiteRequest((site,)), cache_of(site)))

    assert read() == {BOLD: "a"}
    parse = "aksara.site.page.pages.parse_html"
    with monkeypatch.context() as patch:
        patch.setattr(parse, lambda _: pytest.fail("nothing has changed"))
        assert read() == {BOLD: "a"}
    (site / "b.css").write_text("p { font-style: italic }")
    assert read() == {"Times New Roman 700 italic": "a"}
    (site / "a.css").write_text("")
    assert read() == {"Times New Roman 400 italic": "a"}
    with monkeypatch.context() as patch:
        patch.setattr(parse, lambda _: pytest.fail("an empty style sheet is one, too"))
        assert read() == {"Times New Roman 400 italic": "a"}
    (file,) = (tmp_path / "cache/aksara/pages").iterdir()
    for damaged in ("{", '{"pages": 1}', file.read_text().replace("faces", "places"), "[" * 100_000):
        file.write_text(damaged)
        assert read() == {"Times New Roman 400 italic": "a"}


def _end_worker(_: object) -> None:
    os._exit(1)


def test_many_pages_are_read_in_parallel_with_the_same_result(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(50):
        (tmp_path / f"{number:02}.html").write_text(f"<!doctype html><p lang=id>{chr(0x100 + number)}<b>b</b>")
    alone, together = (read_site(SiteRequest((tmp_path,), jobs=jobs)) for jobs in (1, 3))
    assert alone == together
    assert len(alone.faces[0].characters) == 50 and alone.faces[0].pages == 50
    # Where no process may be started, or they are ended, pages are read all the same.
    monkeypatch.setattr(reading, "_read_in_worker", _end_worker)
    assert read_site(SiteRequest((tmp_path,), jobs=2)) == alone


_HARM = {
    "nested": "<div>" * 100_000 + "x",
    "nested lists": "<ul><li>" * 50_000 + "x",
    "formatting": "".join(f"<b id={number}>" for number in range(3_000)) + "<p>x" * 20_000,
    "templates": "<template>" * 20_000 + "x",
    "shadow trees": "<a><template shadowrootmode=open><slot>" * 5_000 + "x",
    "open quotes": "<a \"" * 200_000,
    "selectors": f"<style>{'p ' * 10_000} {{ font-weight: 1 }} {':is(' * 5_000} {'a>' * 300}b {{ font-weight: 2 }}"
    "</style>x",
    "nesting": f"<style>{'& & { font-weight: 1; ' * 3_000}</style>x",
    "variables": "<style>:root{"
    + "".join(f"--v{n}: var(--v{n + 1})var(--v{n + 1});" for n in range(100))
    + "--v100: aaaaaaaa; font-family: var(--v0)}</style>x",
    "functions": f"<style>p {{ font-weight: {'calc(' * 5_000}1 }}</style><p style='font-weight:{'(' * 5_000}'>x",
    "siblings": "<style>p ~ p ~ p ~ p ~ b { font-weight: 1 } :has(~ p ~ u) { font-weight: 2 } "
    "p:nth-child(2 of p ~ p) { font-weight: 3 }</style>" + "<p>x" * 3_000,
    "media": "<style>"
    + "".join(f"@media (min-width: {n}px) {{ p {{ font-weight: {n % 900 + 1} }} }}" for n in range(3_000))
    + "</style><p>x",
    "numbers": "<ol start=999999999999999999999><li value=-99999999999>x</ol>"
    "<style>li { counter-increment: a 1e99 }</style>",
}  # fmt: skip


# Of these nothing is left of the text.
_CUT = ("open quotes", "shadow trees", "templates", "siblings")


@pytest.mark.parametrize("name", _HARM)
def test_a_hostile_page_is_read_in_time(tmp_path: Path, name: str) -> None:
    """Each of these takes hours, or more memory than there is, where work is not bounded."""
    (tmp_path / "page.html").write_text("<!doctype html>" + _HARM[name])
    (tmp_path / "good.html").write_text("<!doctype html><p>good")
    site = read_site(SiteRequest((tmp_path,)))
    assert "d" in summary(site)[SERIF]
    assert any("x" in use.characters for use in site.faces) or name in _CUT


@given(st.text("<>/=\"'{}()[];:@&.#*-!\\ abpquote\n", max_size=200))
def test_any_page_is_read(tmp_path_factory: pytest.TempPathFactory, text: str) -> None:
    folder = tmp_path_factory.mktemp("any")
    (folder / "page.html").write_text(f"<p {text}>{text}<style>{text}</style><b style='{text}'>", encoding="utf-8")
    (folder / "page.php").write_text(text, encoding="utf-8")
    assert len(read_site(SiteRequest((folder,))).pages) == 1

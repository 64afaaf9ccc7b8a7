"""Stacks and fallback faces: text takes the same room before and after the web font arrives."""

from __future__ import annotations

import functools
import http.server
import json
import re
import shutil
import threading
from collections import Counter
from pathlib import Path

import pytest
from msgspec.structs import replace
from PIL import ImageFont
from playwright.sync_api import Browser

from aksara.faces import Face, FaceMetrics, LineMetrics, face_metrics, generic_family, identify
from aksara.font import Font, open_font
from aksara.kerning import kerning_in_text
from aksara.tables import OS2, Hhea
from aksara.text import find_language, language_frequencies, text_frequencies
from aksara.text.scripts import script_of
from aksara.text_widths import widths_in_text
from aksara.web.fallback import SetFace, fallback_faces, scaled_widths
from aksara.web.stack import close_stack, unmatched_scripts
from aksara.web.system_families import Platform, SystemFamily, all_system_families, find_system_family, mean_width
from conftest import Run, manifest_of, open_page
from fonts import DEJAVU, DEMO_FONTS, LIBERATION, corpus, small_font
from places import ROOT

_LIBERATION = {"Arial": "LiberationSans", "Times New Roman": "LiberationSerif", "Courier New": "LiberationMono"}
_STYLES = {(False, False): "Regular", (False, True): "Italic", (True, False): "Bold", (True, True): "BoldItalic"}
_WATCH = """window.shift = 0;
new PerformanceObserver(list => { for (const entry of list.getEntries()) window.shift += entry.value })
    .observe({type: 'layout-shift', buffered: true});"""
_IS_LOADED = """family => [...document.fonts].some(
    face => face.family.replaceAll('"', '') == family && face.status == 'loaded')"""
_MEASURE = """async font => {
    const text = 'The early boat leaves at 6:45 and waits for nobody, not even for the mail';
    const p = document.querySelector('p');
    await document.fonts.load(font, text);
    p.textContent = text; p.style.font = font; p.style.display = 'inline-block';
    const box = p.getBoundingClientRect();
    return [box.width, box.height];
}"""
_PAGES = ("index", "islands", "timetable")
_LINES = "[...document.querySelectorAll('p')].map(p => Math.round(p.getBoundingClientRect().height / parseFloat(" \
         "getComputedStyle(p).lineHeight)))"  # fmt: skip


class _HeldFonts(http.server.SimpleHTTPRequestHandler):
    """Holds font files back until they are released, as a slow network does."""

    released = threading.Event()

    def do_GET(self) -> None:
        if "/fonts/" in self.path:
            self.released.wait(30)
        super().do_GET()

    def log_message(self, format: str, *args: object) -> None:
        pass


def _page_of_paragraphs(site: Path) -> str:
    """The English paragraphs of the demo's pages on one, in the demo's style, in a wide and in a narrow column.

    One language, for what is as wide as Courier on average in English is not so in Vietnamese.
    """
    pages = "".join((site / f"{name}.html").read_text().split("<footer>")[0] for name in ("index", "islands"))
    english = re.sub(r'<div class="card" lang="(?:id|vi)">.*?</div>', "", pages)
    text = "".join(re.findall(r"<p(?: [^>]*)?>.*?</p>", english, re.DOTALL))
    return (
        '<!doctype html><html lang="en"><meta charset="utf-8"><link rel="icon" href="data:,">'
        '<link rel="stylesheet" href="type/faces.css"><link rel="stylesheet" href="penyu.css">'
        f'<div class="wide"><h1>Penyu Ferries</h1>{text}</div><div style="width: 34em">{text}</div>'
    )


@pytest.mark.parametrize("family", _LIBERATION)
def test_nothing_moves_when_the_web_font_arrives(family: str, aksara: Run, tmp_path: Path, liberated: Browser) -> None:
    demo = tmp_path / "demo"
    shutil.copytree(ROOT / "src/aksara/demo", demo, ignore=shutil.ignore_patterns("__*"))
    (demo / "site/paragraphs.html").write_text(_page_of_paragraphs(demo / "site"))
    pages = ("--for-site", "site/paragraphs.html")
    done = aksara("build", "--stack", family, "--format", "woff2", *pages, cwd=demo)
    assert done.returncode == 0, done.stderr
    handler = functools.partial(_HeldFonts, directory=str(demo / "site"))
    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        # Of letters that are all of one width no line is quite as wide.
        for name in ("paragraphs", "index") if family == "Courier New" else ("paragraphs", *_PAGES):
            _HeldFonts.released.clear()
            page = liberated.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script(_WATCH)
            page.goto(f"http://127.0.0.1:{server.server_port}/{name}.html", wait_until="domcontentloaded")
            page.wait_for_function(_IS_LOADED, arg=f"Penyu Sans on {family}")
            page.wait_for_timeout(300)
            assert not page.evaluate(_IS_LOADED, "Penyu Sans"), "the fonts were not held back"
            before = page.evaluate(_LINES)
            _HeldFonts.released.set()
            page.wait_for_function(_IS_LOADED, arg="Penyu Sans")
            page.evaluate("document.fonts.ready")
            page.wait_for_timeout(200)
            after, shift = page.evaluate(_LINES), page.evaluate("window.shift")
            page.close()
            assert shift <= (0.01 if family == "Courier New" else 0.008), name
            if name == "paragraphs":
                assert len(before) >= 20
                assert 20 * sum(a != b for a, b in zip(before, after, strict=True)) <= len(before)
        server.shutdown()


def test_without_fallback_faces_lines_do_move(aksara: Run, tmp_path: Path, liberated: Browser) -> None:
    """The comparison above can fail: plain Arial is another width than Penyu Sans, and on other lines."""
    aksara("build", DEMO_FONTS[0].parent, "--stack", "Arial", "--for-range", "U+20-7E")
    (tmp_path / "page.html").write_text(
        "<!doctype html><link rel='stylesheet' href='web-fonts/faces.css'><p style='white-space: pre'>"
    )
    with open_page(liberated) as page:
        page.goto(f"file://{tmp_path}/page.html")
        sizes = {
            (family, style): page.evaluate(_MEASURE, f'{style} 100px "{family}"')
            for family in ("Penyu Sans", "Penyu Sans on Arial", "Liberation Sans")
            for style in ("400", "italic 400", "700", "italic 700")
        }
    for style in ("400", "italic 400", "700", "italic 700"):
        web, matched, plain = (sizes[name, style] for name in ("Penyu Sans", "Penyu Sans on Arial", "Liberation Sans"))
        assert abs(matched[0] / web[0] - 1) < 0.015
        assert abs(plain[0] / web[0] - 1) > 0.015
        assert abs(matched[1] - web[1]) <= 1
        assert abs(plain[1] - web[1]) > 3


@pytest.mark.parametrize("family", _LIBERATION)
def test_the_data_are_what_the_fonts_measure(family: str) -> None:
    system = find_system_family(family.upper())
    assert system is not None
    for face in system.faces:
        path = next(p for p in LIBERATION if p.stem == f"{_LIBERATION[family]}-{_STYLES[face.bold, face.italic]}")
        widths = face_metrics(open_font(path)).widths
        # What this font lacks was measured in one that is as wide.
        common = face.widths.keys() & widths.keys()
        assert len(common) > 400
        assert all(abs(face.widths[code] - widths[code]) <= 1 / 4096 + 1e-9 for code in common)


def test_every_system_family_can_stand_in() -> None:
    names = [family.name for family in all_system_families()]
    assert len(names) == len(set(names)) >= 15
    for family in all_system_families():
        assert family.platforms
        assert family.generic in ("serif", "sans-serif", "monospace")
        for face in family.faces if family.scripts else ():
            assert face.local and {script_of(code) for code in face.widths} >= set(family.scripts) - {"Bopo"}
        if family.scripts:
            continue
        assert 0.35 < family.x_height < 0.6
        for bold, italic in _STYLES:
            face = family.face(bold=bold, italic=italic)
            assert face.local
            assert face.widths.keys() >= set(range(0x20, 0x7F))
            assert face.bold == bold
    assert find_system_family("No Such Family") is None


_OPEN_SANS = ("OpenSans-Regular.ttf", "OpenSans-Bold.ttf", "OpenSans-Italic.ttf", "OpenSans-BoldItalic.ttf")
_ENGLISH = language_frequencies([find_language("en")])


@pytest.mark.parametrize(
    ("font", "closest"),
    [("LiberationSans-Regular", "Arial"), ("LiberationSerif-Regular", "Times New Roman"),
     ("LiberationMono-Regular", "Courier New")],
)  # fmt: skip
def test_the_stack_has_what_is_close(font: str, closest: str) -> None:
    source = open_font(next(path for path in LIBERATION if path.stem == font))
    stack = close_stack(generic_family(source), face_metrics(source), _ENGLISH)
    assert closest in stack
    assert stack[-1] == generic_family(source)
    # Every platform finds something before the generic family, without a long list.
    assert {p for name in stack[:-1] for p in find_system_family(name).platforms} >= {"windows", "macos", "android"}  # type: ignore[union-attr]
    assert len(stack) <= 5


def test_fonts_without_known_letters_get_no_guesses() -> None:
    kannada = open_font(next(path for path in corpus() if path.name == "Lohit-Kannada.ttf"))
    metrics = face_metrics(kannada)
    text = language_frequencies([find_language("kn")])
    assert close_stack("math", metrics, text)[-1] == "math"
    assert fallback_faces("Kannada", [SetFace(identify(kannada), metrics, text)], ("Arial", "sans-serif")) == ()
    # Nobody has measured a font of Javanese.
    javanese = dict.fromkeys(range(43396, 43406), 0.1)
    metrics = replace(metrics, widths=dict.fromkeys(javanese, 0.7))
    assert close_stack("sans-serif", metrics, javanese) == ("Arial", "sans-serif")
    assert unmatched_scripts(("Arial", "Noto Sans Thai", "serif"), metrics, javanese) == ("Java",)
    # Of the usual scripts nothing is said: script faces and the like have no system font of their kind.
    english = replace(metrics, widths=dict.fromkeys(_ENGLISH, 0.5))
    assert unmatched_scripts(("Segoe Script", "cursive"), english, _ENGLISH) == ()


def test_a_script_without_a_system_font_is_reported(aksara: Run, tmp_path: Path) -> None:
    lepcha = next(path for path in corpus() if "mingzat" in path.name.lower())
    text = "".join(map(chr, range(0x1C00, 0x1C24))) * 3
    (tmp_path / "page.html").write_text(f'<!doctype html><meta charset="utf-8"><p>{text}</p>')
    given = (
        "build",
        lepcha,
        "--for-site",
        "page.html",
        "--replaces",
        "Times New Roman",
        "--format",
        "woff2",
        "--dry-run",
    )
    assert "could be matched with its Lepcha text" in aksara(*given).stderr
    assert "Lepcha text" not in aksara(*given, "--stack", "Georgia, serif").stderr


@pytest.mark.parametrize(
    ("language", "generic", "stack"),
    [
        ("th", "serif", ("Noto Serif Thai", "Times New Roman", "serif")),
        ("he", "sans-serif", ("Noto Sans Hebrew", "Arial", "sans-serif")),
        ("ar", "sans-serif", ("Noto Naskh Arabic", "Noto Sans Arabic", "Arial", "sans-serif")),
        ("ja", "sans-serif", ("Noto Sans CJK JP", "Arial", "sans-serif")),
        ("ko", "serif", ("Noto Serif CJK KR", "Times New Roman", "serif")),
        ("zh", "sans-serif", ("Noto Sans CJK SC", "Arial", "sans-serif")),
        ("zh-Hant", "monospace", ("Noto Sans CJK TC", "Courier New", "monospace")),
    ],
)
def test_other_scripts_find_the_families_that_systems_have(language: str, generic: str, stack: tuple[str, ...]) -> None:
    """Widths of a font that is like the first of them, five percent wider."""
    text = language_frequencies([find_language(language)])
    first = find_system_family(stack[0])
    assert first is not None
    lines = LineMetrics(1.0, 0.3, 0)
    widths = {code: 1.05 * width for code, width in first.face(bold=False, italic=False).widths.items()}
    metrics = FaceMetrics(lines, lines, widths)
    assert set(close_stack(generic, metrics, text)) == set(stack)  # type: ignore[arg-type]
    assert unmatched_scripts(stack, metrics, text) == ()
    face = SetFace(Face(path="", family="Penyu", weight=400, style="normal"), metrics, text)
    (rule,) = fallback_faces("Penyu", [face], stack[:1])
    assert rule.size_adjust == pytest.approx(105, abs=0.1) and not rule.unicode_range


_ARABIC = "تغادر العبارة المرفأ كل صباح في الساعة السادسة والنصف وتصل إلى الجزر البعيدة قبل الظهر " * 3


@pytest.mark.parametrize("name", ["DejaVuSans.ttf", "DejaVuSans-Bold.ttf"])
def test_letters_that_join_are_as_wide_as_in_words(name: str) -> None:
    """Held against HarfBuzz, which sets the text a quarter narrower than its letters are by themselves."""
    path = next(path for path in DEJAVU if path.name == name)
    shaped = ImageFont.truetype(str(path), 1000, layout_engine=ImageFont.Layout.RAQM).getlength(_ARABIC) / 1000
    alone = face_metrics(open_font(path)).widths
    in_text = widths_in_text(open_font(path), alone)
    assert sum(alone[ord(letter)] for letter in _ARABIC) > 1.25 * shaped
    assert sum(in_text[ord(letter)] for letter in _ARABIC) == pytest.approx(shaped, rel=0.04)


def test_marks_change_the_letters_before_them() -> None:
    """Kannada, held against HarfBuzz: conjuncts and vowel signs are one glyph with their letter."""
    path = next(path for path in corpus() if path.name == "Lohit-Kannada.ttf")
    text = "ದೋಣಿ ಪ್ರತಿದಿನ ಬೆಳಿಗ್ಗೆ ಆರು ಗಂಟೆಗೆ ಬಂದರಿನಿಂದ ಹೊರಡುತ್ತದೆ ಮತ್ತು ಮಧ್ಯಾಹ್ನದ ಮೊದಲು ದ್ವೀಪಗಳನ್ನು ತಲುಪುತ್ತದೆ "
    shaped = ImageFont.truetype(str(path), 1000, layout_engine=ImageFont.Layout.RAQM).getlength(text) / 1000
    alone = face_metrics(open_font(path)).widths
    in_text = widths_in_text(open_font(path), alone)
    # The sign that takes a consonant's vowel away halves it: text is narrower with it than without.
    assert in_text[0x0CCD] < 0
    assert sum(alone[ord(letter)] for letter in text) > 1.2 * shaped
    assert sum(in_text[ord(letter)] for letter in text) == pytest.approx(shaped, rel=0.2)
    system = find_system_family("Noto Sans Kannada")
    assert system is not None and system.faces[0].widths[0x0CCD] < 0


def test_a_measured_family_of_another_script_is_fitted(aksara: Run, tmp_path: Path) -> None:
    """Held against HarfBuzz: the Arabic of a system font is scaled to what the web font's text is wide in words."""
    aksara("measure", "DejaVu Sans", "--from", "/usr/share/fonts/truetype/dejavu")
    (tmp_path / "page.html").write_text(f'<!doctype html><html lang="ar"><meta charset="utf-8"><p>{_ARABIC}</p>')
    amiri = next(path for path in corpus() if path.name == "Amiri-Regular.ttf")
    done = aksara("build", amiri, "--for-site", "page.html", "--replaces", "Times New Roman", "--stack", "DejaVu Sans")
    assert done.returncode == 0 and "measured" not in done.stderr, done.stderr
    fallback, *parts = manifest_of(tmp_path / "web-fonts")["families"][0]["fallbacks"]
    assert all(part["unicode_range"] for part in parts)
    lengths = [
        ImageFont.truetype(str(path), 1000, layout_engine=ImageFont.Layout.RAQM).getlength(_ARABIC)
        for path in (amiri, next(path for path in DEJAVU if path.name == "DejaVuSans.ttf"))
    ]
    assert lengths[0] < 0.9 * lengths[1]
    assert fallback["size_adjust"] / 100 == pytest.approx(lengths[0] / lengths[1], rel=0.06)


@pytest.mark.parametrize(
    ("changes", "everywhere", "windows"),
    [
        # fsSelection, typographic, hhea and Windows metrics → what counts.
        ((1 << 6, (800, -200, 0), (900, -300, 50), (1000, 400)), (0.9, 0.3, 0.05), (1.0, 0.4, 0.0)),
        ((1 << 7, (800, -200, 90), (900, -300, 50), (1000, 400)), (0.8, 0.2, 0.09), (0.8, 0.2, 0.09)),
        ((1 << 6, (800, -200, 0), (0, 0, 0), (1000, 400)), (0.8, 0.2, 0.0), (1.0, 0.4, 0.0)),
        ((1 << 6, (800, -200, 0), (900, -300, 400), (1000, 400)), (0.9, 0.3, 0.4), (1.0, 0.4, 0.2)),
        ((1 << 6, (800, -200, 0), (900, -300, 50), (0, 0)), (0.9, 0.3, 0.05), (0.9, 0.3, 0.05)),
    ],
)
def test_lines_are_those_that_browsers_make(
    changes: tuple[int, tuple[int, int, int], tuple[int, int, int], tuple[int, int]],
    everywhere: tuple[float, float, float],
    windows: tuple[float, float, float],
) -> None:
    selection, typographic, hhea, win = changes
    font = Font.read(small_font())
    os2 = replace(
        font.table(OS2), fs_selection=selection, typo_ascender=typographic[0], typo_descender=typographic[1],
        typo_line_gap=typographic[2], win_ascent=win[0], win_descent=win[1],
    )  # fmt: skip
    header = replace(font.table(Hhea), ascender=hhea[0], descender=hhea[1], line_gap=hhea[2])
    metrics = face_metrics(font.with_tables([os2, header]))
    for lines, wanted in ((metrics.lines, everywhere), (metrics.windows_lines, windows)):
        assert (lines.ascent, lines.descent, lines.gap) == pytest.approx(wanted)


def test_kerning_counts_as_it_comes_to_in_text() -> None:
    """Held against HarfBuzz: how much narrower it sets an English text than the sum of its letters."""
    path = next(path for path in corpus() if path.name == "OpenSans-Regular.ttf")
    text = "Two waves, a ferry and Tomas Varley: they wait for you at the pier, every Tuesday. " * 5
    renderer = ImageFont.truetype(str(path), 1000, layout_engine=ImageFont.Layout.RAQM)
    plain, kerned = (renderer.getlength(text, features=features) for features in (["-kern"], None))
    frequencies = {ord(letter): count / len(text) for letter, count in Counter(text).items()}
    reckoned = sum(kerning_in_text(open_font(path), frequencies)[code] * frequencies[code]
                   for code in kerning_in_text(open_font(path), frequencies))  # fmt: skip
    assert reckoned * len(text) * 1000 == pytest.approx(kerned - plain, abs=0.003 * plain)
    assert kerned < 0.998 * plain and reckoned < 0


def test_letters_are_weighed_by_how_often_they_are_written() -> None:
    indonesian, polish = (language_frequencies([find_language(tag)]) for tag in ("id", "pl"))
    assert sum(indonesian.values()) == pytest.approx(1, abs=0.02)
    assert indonesian[ord("a")] > 1.5 * polish[ord("a")]
    assert ord("ł") in polish
    assert language_frequencies([find_language("pt-BR")])[ord("a")] > 0.05
    assert text_frequencies({ord("a"): 9}) == {}
    text = text_frequencies(Counter(map(ord, "aab " * 200)))
    assert text[ord("a")] == pytest.approx(2 * text[ord("b")])
    widths = {ord("a"): 1.0, ord("b"): 0.25}
    assert mean_width(widths, {ord("a"): 0.6, ord("b"): 0.3, ord("c"): 0.1}, widths) == pytest.approx(0.75)
    assert mean_width(widths, {}, widths) == 0


def test_families_without_measures_are_reported_if_they_are_the_users_choice(aksara: Run, tmp_path: Path) -> None:
    build = ("build", DEMO_FONTS[0], "--for-text", "Kapal", "--format", "woff2")
    chosen = aksara(*build, "--stack", "No Such Family, ARIAL, arial, serif")
    assert "the metrics of No Such Family are not known for this text" in chosen.stderr
    (family,) = json.loads((tmp_path / "web-fonts/faces.json").read_text())["families"]
    assert {face["on"] for face in family["fallbacks"]} == {"Arial"}
    assert "metrics of" not in aksara(*build).stderr
    assert "metrics of" not in aksara(*build, "--stack", "Arial, serif").stderr


def test_rules_are_as_many_as_it_takes_and_lines_are_of_the_right_system() -> None:
    metrics = FaceMetrics(
        LineMetrics(0.9, 0.3, 0.1), LineMetrics(1.2, 0.4, 0.0), face_metrics(open_font(DEMO_FONTS[0])).widths
    )
    faces = [
        SetFace(Face(path="", family="Penyu", weight=weight, style="normal"), metrics, _ENGLISH)
        for weight in (300, 400, 500, 700)
    ]
    made = fallback_faces("Penyu", faces, ("Calibri", "Arial", "Georgia", "serif"))
    # Weights for which the same system font stands in at the same size share a rule; bolds have one of their own.
    assert [(rule.on, rule.weight) for rule in made if not rule.unicode_range] == [
        ("Calibri", (300, 500)), ("Calibri", (700, 700)), ("Arial", (300, 500)), ("Arial", (700, 700))]  # fmt: skip
    # Only rules of the same weights make one font: those for some characters have the weights of that for all.
    parts = [rule for rule in made if rule.unicode_range]
    assert {rule.on for rule in parts} == {"Calibri", "Arial"}
    assert {rule.weight for rule in parts} == {(300, 500), (700, 700)}
    # Together they are as wide as the text is in the web font, and capitals stay capitals beside the small letters.
    whole, *of_arial = [rule for rule in made if rule.on == "Arial" and rule.weight == (300, 500)]
    capitals = next(rule for rule in of_arial if "U+41-5A" in rule.unicode_range)
    assert 0.93 <= capitals.size_adjust / whole.size_adjust < 1
    arial = find_system_family("Arial")
    assert arial is not None
    theirs = scaled_widths(arial.face(bold=False, italic=False).widths, whole, of_arial)
    common = theirs.keys() & metrics.widths.keys() & _ENGLISH.keys()
    assert mean_width(theirs, _ENGLISH, common) == pytest.approx(mean_width(metrics.widths, _ENGLISH, common), rel=1e-3)
    # Where most letters are capitals, there are no small ones beside which they would look odd.
    in_capitals = {code: share * (9 if chr(code).isupper() else 0.1) for code, share in _ENGLISH.items()}
    (alone, *of_alone) = fallback_faces("Penyu", [replace(faces[1], frequencies=in_capitals)], ("Arial",))
    capitals = next(rule for rule in of_alone if "U+41-5A" in rule.unicode_range)
    assert capitals.size_adjust / alone.size_adjust < 0.93
    # Of a face in which little is set, no more is said than of its neighbours.
    few = [replace(entry, share=float(entry.face.weight == 400)) for entry in faces]
    assert {rule.weight for rule in fallback_faces("Penyu", few, ("Arial",)) if rule.unicode_range} == {(300, 500)}
    for rule in made:
        lines = metrics.windows_lines if rule.on == "Calibri" else metrics.lines
        for percent, length in ((rule.ascent, lines.ascent), (rule.descent, lines.descent), (rule.line_gap, lines.gap)):
            assert percent * rule.size_adjust / 10_000 == pytest.approx(length, abs=1e-4)


_TEXTS = (
    "The early boat leaves at 6:45 and waits for nobody, not even for the mail: whoever wants to see the lighthouse "
    "of Pulau Lontar in the morning light should be at Pier 4 before the bell rings for the second time.",
    "PENYU FERRIES: TIMETABLE FROM 1 MARCH",
)


@pytest.mark.parametrize("platform", ["windows", "macos", "android"])
@pytest.mark.parametrize("name", ["Penyu Sans", "Open Sans"])
def test_lines_are_as_wide_on_three_systems(platform: Platform, name: str) -> None:
    """By the widths that the system's own regular, bold and italic have, of texts as sites have them."""
    paths = {"Penyu Sans": DEMO_FONTS, "Open Sans": [path for path in corpus() if path.name in _OPEN_SANS]}[name]
    fonts = [open_font(path) for path in paths]
    faces = [SetFace(identify(font), face_metrics(font), _ENGLISH) for font in fonts]
    stack = close_stack("sans-serif", faces[0].metrics, _ENGLISH)
    system = next(found for entry in stack if (found := find_system_family(entry)) and platform in found.platforms)
    rules = fallback_faces(name, faces, (system.name,))
    made_for = {(entry.face.weight_range, entry.face.style) for entry in faces}
    assert {(rule.weight, rule.style) for rule in rules} == made_for
    for entry in faces:
        rule, *parts = [rule for rule in rules if rule.stands_in_for(entry.face)]
        their = system.face(bold=entry.face.weight >= 600, italic=entry.face.style != "normal")
        assert rule.local == their.local
        theirs = scaled_widths(their.widths, rule, parts)
        for text, most in zip(_TEXTS, (0.01, 0.1), strict=True):
            ours, other = (sum(widths[ord(letter)] for letter in text) for widths in (entry.metrics.widths, theirs))
            assert abs(other / ours - 1) < most, (entry.face.label, text[:12], other / ours - 1)


@pytest.mark.parametrize(
    "family", [family for family in all_system_families() if not family.scripts], ids=lambda family: family.name
)
def test_what_is_just_like_a_system_family_has_it_in_its_stack(family: SystemFamily) -> None:
    lines = LineMetrics(0.9, 0.3, 0)
    metrics = FaceMetrics(lines, lines, family.face(bold=False, italic=False).widths, family.x_height)
    assert family.name in close_stack(family.generic, metrics, _ENGLISH)

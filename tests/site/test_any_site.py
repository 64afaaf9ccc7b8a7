"""Sites as people have them: what each file of a folder is, templates, themes without pages, what a project accepts."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from aksara.checking.near_names import is_misspelling, is_typing_error
from aksara.faces.letter_shapes import letter_shape
from aksara.faces.restrictions import restricting_words
from aksara.font import Font
from aksara.pipeline.planning.expected_letters import letters_to_expect
from aksara.site import SiteRequest, read_site
from aksara.site.contents import contents_of
from aksara.site.css.font_classes import font_classes_in
from aksara.site.page.templates import template_markup
from aksara.site.script_fonts import fonts_in_script
from aksara.site.text_files import emphasis_in
from aksara.site.tree import parse_html
from aksara.sources.patterns import PathFilter
from aksara.text.ranges import parse_ranges
from conftest import Run, manifest_of
from fonts import DEMO_FONTS, DEMO_SLABS, corpus

_PUG = """//- no
  nor this
.k(data-a='b'
  title=t('x') hidden): p Sail
  | to #{place} #[b Pulau]
  p= t('On deck')
ul
  each ferry in ferries
    li: a(href='/a').b Kedai
  p.
    Two
    lines
  +card('Big ferry')"""
_PAGE = "<!doctype html><html lang=en><head><title>x</title></head><body><p>Ferry"
#: File → its content, and what it is ("" for what is not counted).
_FILES = {
    "index.html": (_PAGE, "page"),
    "about/index.htm": (_PAGE, "page"),
    "fragment.html": ("<p>Welcome aboard", "page"),
    "docs/about-templates.html": (f"{_PAGE} write {{{{ name }}}} in a template", "page"),
    "layouts/base.html": ('<html><head><link rel=stylesheet href="{{ asset }}"></head>', "template"),
    "layouts/part.html": ("<p>Aboard", "template"),
    "views/home.twig": ("<h1>{{ title }}</h1>", "template"),
    "views/page.pug": ("h1 Penyu", "template"),
    "header.php": ("<?php get_header(); ?><h1>Penyu</h1>", "template"),
    "functions.php": ("<?php function a() { return 1; }", ""),
    "src/App.jsx": ("export default () => <h1 className='big'>Penyu</h1>", "template"),
    "src/app.js": ("const a = 1;\n", "script"),
    "js/big.min.js": ("a" * 5000, "tooling"),
    "js/bundle.js": ("a" * 5000, "library"),
    "style.css": ("h1 { color: red }", "sheet"),
    "content/news.md": ("# News", "text"),
    "locales/id.json": ('{"a": "b"}', "text"),
    "README.md": ("# Read", "tooling"),
    "package.json": ("{}", "tooling"),
    "gulpfile.js": ("x", "tooling"),
    "robots.txt": ("x", "tooling"),
    "source/index.styl": ("a", "uncompiled"),
    "views/old.slim": ("h1 a", "unread"),
    "logo.svg": ("<svg><text>x", ""),
    "node_modules/thing/index.html": (_PAGE, "library"),
    "assets/slider/package.json": ("{}", "library"),
    "assets/slider/demo.html": (_PAGE, "library"),
    "test/page.html": (_PAGE, "tooling"),
    "proof.html": ('<!doctype html><meta name="generator" content="Aksara 1">', "own"),
    "drafts/new.html": (_PAGE, "excluded"),
}  # fmt: skip


def test_each_file_of_a_folder_is_classified(tmp_path: Path) -> None:
    for name, (content, _) in _FILES.items():
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(content)
    found = contents_of(tmp_path, ["drafts"])
    kinds = {
        "page": found.pages, "template": found.templates, "text": found.texts, "sheet": found.sheets,
        "script": found.scripts,
    }  # fmt: skip
    roles = {path.relative_to(tmp_path).as_posix(): role for role, paths in kinds.items() for path in paths}
    assert roles == {name: role for name, (_, role) in _FILES.items() if role in kinds}
    assert not found.uncompiled, "there is CSS"
    for role in ("uncompiled", "unread", "library", "tooling", "own", "excluded"):
        assert found.skipped.get(role) == sum(kind == role for _, kind in _FILES.values()), role  # type: ignore[call-overload]
    assert found.languages == ("id",)
    assert "4 pages" in found.summary and "4 files of libraries" in found.summary


@pytest.mark.parametrize(
    ("pattern", "path", "fits"),
    [
        ("vendor", "a/vendor", True), ("vendor", "a/vendors", False), ("*.draft.html", "a/b.draft.html", True),
        ("old/**", "old", True), ("old/**", "old/a/b.html", True), ("old/**", "new/old", False),
        ("**/old/*.html", "a/b/old/c.html", True), ("a/*.html", "a/b/c.html", False),
    ],
)  # fmt: skip
def test_patterns_of_what_is_left_out(pattern: str, path: str, fits: bool) -> None:
    assert PathFilter([pattern]).matches(path) == fits


@pytest.mark.parametrize(
    ("suffix", "source", "classes", "text"),
    [
        (".liquid", '<h1 class="a {{ b }}">{{ "Read more" | t }}</h1>{{ page.title }}', "a", "Read more"),
        (".php", "<?php get_header(); ?><h2 class=\"k\"><?php esc_html_e( 'Nothing here', 'x' ); ?></h2>", "k",
         "Nothing here"),
        (".twig", "{# note #}<p class=k>Deck {% if a %}two{% endif %}</p>", "k", "Deck two"),
        (".vue", '<script>let z</script><template><p :class="x" class="k">Pier {{ a }}</p></template>', "k", "Pier"),
        (".svelte", "<script>let z</script>{#if a}<p class=k>Hi {name}</p>{/if}", "k", "Hi"),
        (".jsx", "const a = 1; export default () => (<p className='k'>Hi {b ? <b>yes</b> : 'no'}</p>)", "k",
         "Hi yes no"),
        (".astro", "---\nconst a = 1\n---\n<p class=k>Sail {a}</p>", "k", "Sail"),
        (".cshtml", "@model Ferry\n<p class=k>Sail @Model.Name</p>", "k", "Sail"),
        (".erb", "<p class=k><%= t(:x) %> Sail</p>", "k", "Sail"),
        (".pug", _PUG, "k", "Sail to Pulau On deck Kedai Two lines Big ferry"),
        (".html", "{{" * 200_000, "", "{{"),
    ],
)  # fmt: skip
def test_templates_give_elements_classes_and_words(suffix: str, source: str, classes: str, text: str) -> None:
    document = parse_html(template_markup(source, suffix))
    silent = ("head", "style", "script")
    shown = " ".join(" ".join(element.text for element in document.elements if element.tag not in silent).split())
    assert all(word in shown for word in text.split())
    if classes:
        found = next(element.attributes["class"] for element in document.elements if "class" in element.attributes)
        assert found.split() == [classes]
    assert template_markup(source, suffix).count("\n") == source.count("\n")


def test_a_page_with_many_comments_before_its_doctype_is_read_at_once() -> None:
    assert parse_html("<!-- a -->" * 50_000 + "<!doctype html><p>x").quirks is False
    assert parse_html("<?x ?>" * 50_000 + "<p>x").quirks is True


@pytest.fixture
def theme(tmp_path: Path) -> Path:
    """A theme as a shop has it: layouts, a style sheet, fonts, no pages."""
    folder = tmp_path / "theme"
    (folder / "layout").mkdir(parents=True)
    (folder / "assets").mkdir()
    (folder / "layout/theme.liquid").write_text(
        "<html><head>{{ 'theme.css' | asset_url | stylesheet_tag }}"
        '<link rel="stylesheet" href="{{ \'theme.css\' | asset_url }}"></head>'
        "<body><h1 class=title>{{ page.title }} Kedai</h1>{{ content }}</body></html>"
    )
    (folder / "assets/theme.css").write_text(
        '@font-face { font-family: Laut; src: url("laut.woff2") format("woff2"); font-display: swap }\n'
        "body { font-family: Penyu Sans, sans-serif } .title { font: 700 2em Penyu Slab, serif }"
    )
    return folder


def _found(aksara: Run, *arguments: str) -> list[dict[str, Any]]:
    done = aksara("check", *arguments, "--json")
    assert done.returncode in (0, 1), done.stderr
    findings: list[dict[str, Any]] = json.loads(done.stdout)["findings"]
    return findings


def test_a_theme_is_checked_and_built(theme: Path, aksara: Run, tmp_path: Path) -> None:
    (missing,) = [each for each in _found(aksara, "theme") if each["level"] == "error"]
    assert (missing["kind"], missing["family"], missing["address"]) == ("font-missing", "Laut", "laut.woff2")
    assert missing["file"] == "theme/assets/theme.css" and missing["line"] == 1
    # A heading of any word is whole after a build: letters come by the face, not by what is shown.
    fonts = [
        path for path in (*DEMO_FONTS, *DEMO_SLABS) if path.name in ("PenyuSans-Regular.ttf", "PenyuSlab-Bold.otf")
    ]
    done = aksara("build", *fonts, "--for-site", "theme", "--format", "woff2")
    assert done.returncode == 0 and "do not say their language" in done.stderr, done.stderr
    for family in manifest_of(tmp_path / "web-fonts")["families"]:
        ranges = family["faces"][0]["slices"][0]["unicode_range"]
        assert ranges.startswith("U+20-"), family["family"]
    exact = aksara("build", *fonts, "--for-site", "theme", "--format", "woff2", "--exact", "--json")
    assert json.loads(exact.stdout)["families"][1]["faces"][0]["characters"] < 20


def test_one_style_sheet_is_checked_alone(theme: Path, aksara: Run) -> None:
    kinds = {each["kind"] for each in _found(aksara, "theme/assets/theme.css")}
    assert kinds == {"font-missing", "no-pages"}
    said = aksara("check", "theme/assets/theme.css").stdout
    assert "nothing is wrong" not in said and "0 pages checked" in said
    shutil.copy(DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf"), theme / "assets/laut.ttf")
    (missing, *_) = _found(aksara, "theme/assets/theme.css")
    assert 'write url("laut.ttf")' in missing["remedy"], "only the suffix differs"


def test_style_sheets_that_are_not_compiled_are_told_and_placeholders_are_not(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "theme/css").mkdir(parents=True)
    (tmp_path / "theme/page.pug").write_text(
        "html(lang='id')\n  body: h1(style='font-family: var(--x, _), serif') Kedai"
    )
    (tmp_path / "theme/css/site.styl").write_text("h1\n  font-family Laut")
    (note,) = _found(aksara, "theme")
    assert (note["kind"], note["level"], note["file"]) == ("sheets-uncompiled", "note", "theme/css/site.styl")
    font = DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf")
    assert "no CSS is made of them here" in aksara("build", font, "--for-site", "theme").stderr
    (tmp_path / "theme/css/site.css").write_text("h1 { color: teal }")
    assert not _found(aksara, "theme")
    (tmp_path / "theme/more.haml").write_text("%h1 Kopi")
    (note,) = _found(aksara, "theme")
    assert (note["kind"], note["file"]) == ("templates-unread", "theme/more.haml")
    assert "Haml and Slim are not read" in aksara("build", font, "--for-site", "theme").stderr


def test_what_aksara_wrote_is_no_page(tmp_path: Path, aksara: Run) -> None:
    (tmp_path / "index.html").write_text(f"<style>body {{ font: 1em Penyu Sans }}</style>{_PAGE}")
    font = DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf")
    build = ("build", font, "--for-site", ".", "--to", ".", "--format", "woff2")
    assert aksara(*build).returncode == 0
    first = manifest_of(tmp_path)
    assert aksara(*build, "--no-cache").returncode == 0
    assert manifest_of(tmp_path) == first, "a second build grows by what the first wrote"
    scanned = json.loads(aksara("scan", ".", "--json").stdout)
    assert [page["page"] for page in scanned["pages"]] == ["index.html"]


def test_patterns_leave_out_what_folders_do(tmp_path: Path, aksara: Run) -> None:
    for name in ("index.html", "drafts/new.html", "vendor/demo.html"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_text(f"<style>body {{ font: 1em Penyu Sans }}</style>{_PAGE}")
    shutil.copy(DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf"), tmp_path / "a.ttf")
    (tmp_path / "aksara.toml").write_text(
        '[site]\npages = ["**/*.html"]\nexclude = ["drafts"]\n[output]\nfolder = "."\n[[family]]\nfonts = ["a.ttf"]\n'
    )
    assert aksara("build").returncode == 0
    first = manifest_of(tmp_path)
    done = aksara("build", "--no-cache")
    assert done.returncode == 0 and manifest_of(tmp_path) == first, done.stderr
    assert json.loads(aksara("check", "--json").stdout)["pages"] == 1


def test_frames_scripts_and_addresses_from_the_root(tmp_path: Path, aksara: Run) -> None:
    site = tmp_path / "site"
    (site / "shop/fonts").mkdir(parents=True)
    shutil.copy(DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf"), site / "shop/fonts/a.ttf")
    (site / "shop/index.html").write_text(
        '<!doctype html><style>@font-face { font-family: A; src: url("/fonts/a.ttf"); font-display: swap }'
        "p { font-family: A, serif }</style><p>Hi"
        "<iframe srcdoc='<style>p { font-family: B, serif }</style><p>ξ'></iframe>"
        "<script>document.body.style.fontFamily = 'Nunito'</script>"
    )
    kinds = {each["kind"]: each for each in _found(aksara, "site")}
    assert "font-missing" not in kinds, "addresses from the root count from a folder above the page, too"
    assert kinds["family-in-script"]["family"] == "Nunito" and kinds["family-in-script"]["line"] == 1
    assert kinds["family-undefined"]["family"] == "B", "a page in a frame is read as what it is"
    shown = {use.face.families[0]: set(use.characters) for use in read_site(SiteRequest((site,))).faces}
    assert shown["B"] == {"ξ"}


def test_built_apps_say_the_root_of_their_server(tmp_path: Path, aksara: Run) -> None:
    app = tmp_path / "package/dist"
    (app / "assets").mkdir(parents=True)
    (app / "assets/main.css").write_text(
        "@font-face { font-family: A; src: url(gone.woff2); font-display: swap }"
        "@font-face { font-family: B; src: url(~fonts/b.woff2); font-display: swap } p { font-family: A, serif }"
    )
    for base in ("/", "/app/"):
        (app / "index.html").write_text(
            f'<!doctype html><base href="{base}"><link rel=stylesheet href="assets/main.css"><p>Hi'
        )
        found = {(each["kind"], each["level"], each["family"]) for each in _found(aksara, "package")}
        assert ("font-missing", "error", "A") in found and ("url-is-template", "note", "B") in found, found
        assert all(kind != "sheet-missing" for kind, _, _ in found)


def test_a_build_reads_pages_in_a_browser_only_on_request(tmp_path: Path, aksara: Run) -> None:
    (tmp_path / "site").mkdir()
    (tmp_path / "site/index.html").write_text(
        "<!doctype html><html lang=en><style>p { font-family: Penyu Sans }</style><p id=a>x</p>"
        "<script>document.getElementById('a').textContent = 'Zeal'</script>"
    )
    (tmp_path / "site/part.php").write_text("<p><?php echo 'Quay'; ?> Jetty</p>")
    font = DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf")
    build = ("build", font, "--for-site", "site", "--exact", "--format", "woff2", "--json")
    shown = []
    for options in ((), ("--browser",)):
        # On its own: one process drives one browser, and the tests have theirs.
        command = [sys.executable, "-m", "aksara", *map(str, build), *options]
        done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr
        ranges = json.loads(done.stdout)["families"][0]["faces"][0]["slices"][0]["unicode_range"]
        shown.append({chr(code) for code in parse_ranges(ranges)})
    assert "Z" not in shown[0] and {*"Zeal"} <= shown[1]
    assert "J" in shown[0] & shown[1], "templates are read, and not opened in the browser as they stand"
    # A project may be a stranger's, and so would be the scripts.
    (tmp_path / "aksara.toml").write_text('[site]\npages = ["site"]\nbrowser = true\n[[family]]\nfonts = ["a.ttf"]\n')
    assert "has no key 'browser'" in aksara("build").stderr


def test_families_that_are_not_linked_and_names_that_are_misspelt(tmp_path: Path, aksara: Run) -> None:
    site = tmp_path / "site"
    (site / "type").mkdir(parents=True)
    shutil.copy(DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf"), site / "type/a.ttf")
    (site / "type/type.css").write_text("@font-face { font-family: Laut; src: url(a.ttf); font-display: swap }")
    (site / "site.css").write_text("p { font-family: Laut, serif }\n.headline { font-family: Georgia }")
    (site / "index.html").write_text(
        "<!doctype html><link rel=stylesheet href=site.css><p class=headlnie>Hi<p style='font-family: Lato, serif'>x"
    )
    kinds = {each["kind"]: each for each in _found(aksara, "site")}
    assert kinds["family-not-linked"]["level"] == "error"
    assert 'href="type/type.css"' in kinds["family-not-linked"]["remedy"]
    assert kinds["class-misspelt"]["line"] == 2 and 'class="headline"' in kinds["class-misspelt"]["remedy"]
    assert kinds["family-undefined"]["level"] == "note"


def test_what_is_accepted_is_counted_until_its_day(theme: Path, aksara: Run, tmp_path: Path) -> None:
    assert aksara("check", "theme", "--accept-all", "the shop adds the font").returncode == 0
    text = (tmp_path / "aksara.toml").read_text()
    assert text.count("[[check.accept]]") == 1 and 'reason = "the shop adds the font"' in text
    done = aksara("check", "theme")
    assert done.returncode == 0 and done.stdout.strip().endswith("1 accepted")
    (tmp_path / "aksara.toml").write_text(f"{text}until = 2020-01-01\n")
    kinds = [each["kind"] for each in _found(aksara, "theme")]
    assert "font-missing" in kinds and "acceptance-unused" in kinds
    (tmp_path / "aksara.toml").write_text(text.replace("Laut", "Darat"))
    assert {"font-missing", "acceptance-unused"} <= {each["kind"] for each in _found(aksara, "theme")}
    (tmp_path / "aksara.toml").write_text(text.replace("font-missing", "font-mising"))
    assert "did you mean 'font-missing'" in aksara("check", "theme").stderr


def test_families_replace_others_in_pairs(tmp_path: Path, aksara: Run) -> None:
    (tmp_path / "index.html").write_text(
        "<!doctype html><html lang=en><p style='font-family: Plain'>text<h1 style='font-family: Grand'>Head"
    )
    fonts = [
        path for path in (*DEMO_FONTS, *DEMO_SLABS) if path.name in ("PenyuSans-Regular.ttf", "PenyuSlab-Bold.otf")
    ]
    build = ("build", *fonts, "--for-site", "index.html", "--exact", "--format", "woff2")
    done = aksara(*build, "--replaces", "Plain=Penyu Sans", "--replaces", "grand=penyu slab", "--json")
    assert done.returncode == 0, done.stderr
    faces = {each["family"]: each["faces"][0]["characters"] for each in json.loads(done.stdout)["families"]}
    assert faces == {"Penyu Sans": 4, "Penyu Slab": 5}
    # The same in a project file, where one table names fonts of both families.
    names = ", ".join(f'"{path}"' for path in fonts)
    (tmp_path / "aksara.toml").write_text(
        f'[site]\npages = ["index.html"]\nexact = true\n[[family]]\nfonts = [{names}]\n'
        'replaces = ["Plain=Penyu Sans", "grand=penyu slab"]\n'
    )
    written = json.loads(aksara("build", "--json").stdout)
    assert {each["family"]: each["faces"][0]["characters"] for each in written["families"]} == faces
    for option, words in (
        ("Plain", "say by which: 'Plain=Penyu Sans'"), ("Plian=Penyu Sans", "did you mean Plain?"),
        ("Plain=Penyu Sons", "did you mean Penyu Sans?"),
    ):  # fmt: skip
        refused = aksara(*build, "--replaces", option)
        assert (refused.returncode, words in refused.stderr) == (2, True), refused.stderr


def test_words_that_restrict_a_font_are_quoted(tmp_path: Path, aksara: Run) -> None:
    shutil.copy(DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf"), tmp_path / "a.ttf")
    (tmp_path / "READ ME FIRST!.txt").write_text("Thanks!\nThis font is FREE FOR PERSONAL USE only, ask us.\n")
    (tmp_path / "a.css").write_text("@font-face { font-family: A; src: url(a.ttf); font-display: swap }")
    words = "This font is FREE FOR PERSONAL USE only, ask us."
    assert words in aksara("inspect", ".").stderr and "READ ME FIRST!.txt" in aksara("inspect", ".").stdout
    assert words in aksara("build", "a.ttf", "--for-text", "a").stderr
    assert not list((tmp_path / "web-fonts").rglob("*READ*")), "it is no licence text, and is not published"
    assert words not in aksara("build", "a.ttf", "--for-text", "a", "--web-licence").stderr
    assert any(words in each["problem"] for each in _found(aksara, "a.css"))
    assert restricting_words("licensed under the Open Font License, for any use") == ""


@pytest.mark.parametrize(
    ("languages", "shown", "there", "missing"),
    [
        ({"en": 9}, "Ferry", "zZ0“”?$", "ñЖ"), ({"fr": 200, "ru": 5}, "quaiЖ", "çœ«", "яё"),
        ({"": 40}, "Ferry", "zZ", "ç"), ({"": 40}, "Паром", "яЯ№"[:2], "z"), ({"en": 40}, "1,234 €", "0%", "aZ"),
        ({"en": 40}, "\ue001", "", "aZ0"), ({"ja": 90}, "船の時間", "ぁんァ。", "空"),
        ({"en": 400}, "Паром до острова", "яЯ", ""),
        ({"": 400}, "The last ferry to the islands leaves at dusk ツ", "zZ", "ァあ"),
    ],
)  # fmt: skip
def test_letters_for_future_text(languages: dict[str, int], shown: str, there: str, missing: str) -> None:
    letters = letters_to_expect(languages, frozenset(map(ord, shown))).letters
    assert {*map(ord, there)} <= letters and not {*map(ord, missing)} & letters


@pytest.mark.parametrize(
    ("source", "suffix", "kinds"),
    [
        ("a *b* c", ".md", {"em": 1}), ("x\n\ny **b**", ".md", {"strong": 3}), ("***x***", ".md", {"both": 1}),
        ("snake_case_name, 2 * 3 * 4", ".md", {}), ("`*a*`\n```\n*a*\n```\n", ".md", {}), ("* a\n* b *", ".md", {}),
        ("\\*no\\*", ".md", {}), ("## H", ".md", {"strong": 1}), ("_it_, __bo__", ".md", {"em": 1, "strong": 1}),
        ('{"a": "<em>x</em>"}', ".json", {"em": 1}), ("a: *anchor*", ".yaml", {}), ("<i class='icon'></i>", ".njk", {}),
    ],
)  # fmt: skip
def test_emphasis_in_texts(source: str, suffix: str, kinds: dict[str, int]) -> None:
    assert emphasis_in(source, suffix) == kinds


def test_texts_get_the_faces_that_they_emphasise(tmp_path: Path, aksara: Run) -> None:
    """A layout shows no italic; the Markdown that comes into it does."""
    for path in DEMO_FONTS:
        shutil.copy(path, tmp_path)
    (tmp_path / "site/_includes").mkdir(parents=True)
    (tmp_path / "site/_includes/base.njk").write_text(
        "<!doctype html><html lang=en><style>body { font-family: Penyu Sans }</style><p>Timetable {{ content }}"
    )
    post = tmp_path / "site/posts/one.md"
    post.parent.mkdir()
    for text, styles in (("Plain.", {"Regular"}), ("The *last* ferry.", {"Regular", "Italic"})):
        post.write_text(text)
        done = aksara("build", ".", "--for-site", "site", "--json")
        (family,) = json.loads(done.stdout)["families"]
        assert {face["label"] for face in family["faces"]} == styles


def test_the_range_of_every_face_has_the_space(tmp_path: Path, aksara: Run) -> None:
    font = DEMO_SLABS[0]
    assert aksara("build", font, "--for-text", "Logo").returncode == 0
    assert "unicode-range: U+20, " in (tmp_path / "web-fonts/faces.css").read_text()


@pytest.mark.parametrize(
    ("name", "shape"),
    [
        ("DejaVuSans.ttf", "sans-serif"), ("DejaVuSerif.ttf", "serif"), ("LiberationSans-Italic.ttf", "sans-serif"),
        ("LiberationSerif-Italic.ttf", "serif"), ("LiberationSerif-Bold.ttf", "serif"),
        ("OpenSans-Light.ttf", "sans-serif"),
        ("OldStandard-Regular.ttf", "serif"), ("Sora-Thin.otf", "sans-serif"),
    ],
)  # fmt: skip
def test_letters_say_whether_they_have_serifs(name: str, shape: str) -> None:
    path = next(path for path in corpus() if path.name == name)
    assert letter_shape(Font.read(path.read_bytes(), name)) == shape


def test_near_names_scripts_and_classes() -> None:
    assert is_misspelling("OpenSans", "Open Sans") and is_misspelling("Penyu Snas", "Penyu Sans")
    assert not is_misspelling("Penyu Sans 2", "Penyu Sans") and not is_misspelling("Inter", "Inter Display")
    assert is_typing_error("hedline", "headline") and not is_typing_error("icon-bar", "icon-ban")
    source = "ctx.font = '12px Nunito'; a = { fontFamily: \"Lora, serif\" }; b.style.font = 'bold 1em Arial'"
    assert [font.family for font in fonts_in_script(source, "a.js")] == ["Nunito", "Lora"]
    sheet = "a{b:c}\n.x, .y .z:hover { font-family: A }\n.w { color: red }" + "{" * 50_000
    assert font_classes_in(sheet) == {"x": 2, "z": 2}

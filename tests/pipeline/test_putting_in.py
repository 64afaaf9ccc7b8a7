"""It puts itself in: rules into the style sheet that is there, links into the pages that are there, each output in its
place."""

from __future__ import annotations

import functools
import http.server
import json
import re
import shutil
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from playwright.sync_api import Browser

from aksara.web.urls import attribute_value, sheet_url
from conftest import Run, manifest_of, watched_page
from fonts import DEMO_FONTS, DEMO_SLABS, small_font

_REGULAR, _BOLD = (
    next(path for path in DEMO_FONTS if path.name == f"PenyuSans-{name}.ttf") for name in ("Regular", "Bold")
)
_SLAB = next(path for path in DEMO_SLABS if path.name == "PenyuSlab-Regular.otf")
_BLOCK = re.compile(rb"[ \t]*(?:/\*|<!--) aksara: begin (?:\*/|-->).*?aksara: end (?:\*/|-->)(?:\r?\n)?", re.DOTALL)
_ICON = b"<link rel=icon href='data:,'>"
_PAGES = {
    "index.html": b"<!doctype html>\r\n<html lang=en>\r\n<head>\r\n\t" + _ICON + b"\r\n\t<link rel=stylesheet "
    b"href=style.css>\r\n</head>\r\n<body><p>Ferries to the islands</p></body></html>",
    "islands/one.html": b"<!doctype html><html lang=en><head>" + _ICON + b"\n<link rel=stylesheet "
    b"href=../style.css>\n  </head><body><h1>HEADINGS AND MORE HEADINGS</h1><p>a</p></body></html>",
}
_SHEET = b'@charset "utf-8";\n@import "base.css";\n\nbody { font-family: var(--penyu-sans) } h1 { font-weight: 700 }\n'
_PROJECT = """[site]
pages = ["theme"]
[output]
folder = "theme/webfonts"
css-into = "theme/style.css"
links = ["theme/**/*.html", "theme/head.twig"]
proof = "none"
effort = "fast"
[[family]]
fonts = ["fonts/*.ttf"]
"""


@pytest.fixture
def theme(tmp_path: Path) -> Path:
    """A project of a theme, with fonts beside it."""
    (tmp_path / "fonts").mkdir()
    for font in (_REGULAR, _BOLD):
        shutil.copy(font, tmp_path / "fonts")
    folder = tmp_path / "theme"
    for name, data in _PAGES.items():
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_bytes(data)
    (folder / "base.css").write_text("p { margin: 0 }")
    (folder / "style.css").write_bytes(_SHEET)
    (folder / "head.twig").write_text('{# <!-- a comment --> #}\n<head>{{ meta }}\n    <meta name="x">\n</head>')
    (tmp_path / "aksara.toml").write_text(_PROJECT)
    return folder


def _links(page: Path) -> list[str]:
    (block,) = re.findall(r"aksara: begin -->(.*?)<!-- aksara: end", page.read_text(), re.DOTALL)
    return re.findall(r'href="([^"]*)"', block)


def test_one_project_file_handles_a_theme(theme: Path, aksara: Run, browser: Browser, tmp_path: Path) -> None:
    before = {path: path.read_bytes() for path in theme.rglob("*") if path.is_file()}
    done = aksara("build", "--dry-run")
    assert "theme/style.css would be changed:\n  @@" in done.stdout and "  +/* aksara: begin */" in done.stdout
    assert {path: path.read_bytes() for path in theme.rglob("*") if path.is_file()} == before
    done = aksara("build")
    assert done.returncode == 0, done.stderr
    assert "Publish theme/style.css and theme/webfonts/: 5 files" in done.stdout
    assert "head.twig: a template; its links count from here" in done.stderr
    for path, data in before.items():
        new = path.read_bytes()
        left = _BLOCK.sub(b"", new)
        assert left in (data, data.replace(b'css";\n\nbody', b'css";\n\n\nbody')), path
    assert b"\t<!-- aksara: begin -->\r\n\t<link" in (theme / "index.html").read_bytes()
    assert not (theme / "webfonts/fonts").exists() and not (theme / "webfonts/proof.html").exists()
    # Each page preloads the face that most of its text is in.
    (regular,), (bold,) = _links(theme / "index.html"), _links(theme / "islands/one.html")
    assert regular.startswith("webfonts/PenyuSans-Regular") and bold.startswith("../webfonts/PenyuSans-Bold")

    # Nothing changes if nothing has changed; a letter more moves the names everywhere, and leaves no dead link.
    after = {path: path.read_bytes() for path in tmp_path.rglob("*") if path.is_file()}
    assert aksara("build", "--no-cache").returncode == 0
    assert {path: path.read_bytes() for path in tmp_path.rglob("*") if path.is_file()} == after
    page = theme / "index.html"
    page.write_bytes(page.read_bytes().replace(b"Ferries", "Ferries \u0175".encode()))
    assert aksara("build").returncode == 0
    (new,) = _links(page)
    assert new != regular and (theme / new).exists() and not (theme / regular).exists()
    assert json.loads(aksara("check", "theme", "--json").stdout)["findings"] == []
    with _served(theme) as address, watched_page(browser) as (shown, problems):
        for name in _PAGES:
            shown.goto(f"{address}{name}")
            assert shown.evaluate("document.fonts.ready.then(() => [...document.fonts].some(f => f.status=='loaded'))")
        assert not problems


def test_check_reads_what_builds_keep_between_marks(theme: Path, aksara: Run) -> None:
    assert aksara("build").returncode == 0
    page, sheet = theme / "index.html", theme / "style.css"
    page.write_bytes(page.read_bytes().replace(b"crossorigin", b"crossorigin=use-credentials"))
    sheet.write_bytes(sheet.read_bytes().replace(b"font-display: swap", b"font-display: block", 1))
    twig = theme / "head.twig"
    twig.write_text(twig.read_text() + "<!-- aksara: begin -->")
    findings = json.loads(aksara("check", "theme", "--json").stdout)["findings"]
    found = {(each["kind"], Path(each["file"]).name) for each in findings}
    assert {("marks-outdated", "index.html"), ("marks-outdated", "style.css"), ("marks-broken", "head.twig")} <= found
    (project := theme.parent / "aksara.toml").write_text(project.read_text().replace(', "theme/head.twig"', ""))
    assert aksara("build").returncode == 0
    findings = json.loads(aksara("check", "theme", "--json").stdout)["findings"]
    assert [each["file"] for each in findings if each["kind"].startswith("marks")] == ["theme/head.twig"]


_SAID = {
    "no head": ("index.html", b"<!doctype html><p>x", "no </head> is here"),
    "marks twice": ("style.css", b"/* aksara: begin *//* aksara: end *//* aksara: end */", "style.css:1: the mark"),
    "an import behind": ("style.css", b"/* aksara: begin *//* aksara: end */\n@import 'a';", "style.css:2: @import"),
}  # fmt: skip


@pytest.mark.parametrize("name", _SAID)
def test_a_failed_insertion_changes_no_file(name: str, theme: Path, aksara: Run) -> None:
    file, data, said = _SAID[name]
    (theme / file).write_bytes(data)
    before = {path: path.read_bytes() for path in theme.rglob("*") if path.is_file()}
    done = aksara("build")
    assert done.returncode == 2 and said in done.stderr and "aksara.toml, line" in done.stderr
    assert {path: path.read_bytes() for path in theme.rglob("*") if path.is_file()} == before


def test_only_files_of_the_project_are_changed(theme: Path, aksara: Run, tmp_path: Path) -> None:
    inner = tmp_path / "project"
    inner.mkdir()
    for key in ('links = ["../theme/index.html"]', 'css-into = "../theme/style.css"', 'rules = "../theme/style.css"'):
        (inner / "aksara.toml").write_text(f'[output]\n{key}\n[[family]]\nfonts = ["../fonts/*.ttf"]\n')
        done = aksara("build", "--project", inner / "aksara.toml")
        assert done.returncode == 2 and "outside the project's folder" in done.stderr, key
    assert (theme / "index.html").read_bytes() == _PAGES["index.html"]


def test_a_fragment_is_made_for_includes(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    url = "{{ '<file>' | asset_url }}"
    given = ("build", "a.ttf", "--to", "assets", "--fonts", ".", "--links", "parts/fonts.liquid", "--url", url)
    assert aksara(*given).returncode == 0
    fragment = (tmp_path / "parts/fonts.liquid").read_text()
    name = next((tmp_path / "assets").glob("*.woff2")).name
    assert f"href=\"{{{{ '{name}' | asset_url }}}}\"" in fragment and "&#" not in fragment
    assert "href=\"{{ 'faces.css' | asset_url }}\"" in fragment
    assert aksara(*given, "--no-cache").returncode == 0 and (tmp_path / "parts/fonts.liquid").read_text() == fragment


@pytest.mark.parametrize(
    ("url", "value"),
    [
        ("a&b", '"a&amp;b"'), ("{{ 'x' | asset }}", "\"{{ 'x' | asset }}\""),
        ('{{ "x" | asset }}', "'{{ \"x\" | asset }}'"),
        ("<?= url('x') ?>?a&b", "\"<?= url('x') ?>?a&amp;b\""), ("{% static 'x' %}", "\"{% static 'x' %}\""),
        ("<%= asset_path('x') %>", "\"<%= asset_path('x') %>\""), ("a\"b'c", '"a&quot;b&#x27;c"'),
    ],
)  # fmt: skip
def test_addresses_in_html_are_escaped_outside_of_expressions(url: str, value: str) -> None:
    assert attribute_value(url) == value


@pytest.mark.parametrize(
    ("pattern", "css", "fonts", "url"),
    [
        ("<path>", "a/faces.css", "a/fonts", None), ("/type/<path>", "a/faces.css", "a/fonts", "/type/faces.css"),
        ("/type/fonts/<file>", "a/faces.css", "a/fonts", "/type/faces.css"), ("/<file>", "a/f.css", "a", "/f.css"),
        ("https://x.example/t/fonts/<file>", "a/f.css", "a/fonts", "https://x.example/t/f.css"),
        ("{{ '<file>' | asset }}", "a/f.css", "a", "{{ 'f.css' | asset }}"), ("../<file>", "a/f.css", "a/fonts", None),
    ],
)  # fmt: skip
def test_the_style_sheet_is_where_the_fonts_are(pattern: str, css: str, fonts: str, url: str | None) -> None:
    assert sheet_url(pattern, Path(css), Path(fonts)) == url


_RULES = """/* mine */
@font-face { font-family: 'My first \u00e9'; src: url(type/PenyuSans-Regular.ttf) }
@font-face {
  font-family: 'My first \u00e9'; font-weight: bold; src: url("type/gone.woff2"), url("type/PenyuSans-Bold.ttf");
}
h1 { color: red }
@font-face { font-family: Slab; src: url(type/PenyuSlab-Regular.otf); unicode-range: U+41-5A }
@font-face { font-family: Hosted; src: url(https://x.example/a.woff2) }
@font-face { font-family: Gone; src: url(type/nothing.ttf) }
@media print { @font-face { font-family: Inner; src: url(type/PenyuSans-Regular.ttf) } }
"""


def test_rules_are_taken_over(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "theme/type").mkdir(parents=True)
    for font in (_REGULAR, _BOLD, _SLAB):
        shutil.copy(font, tmp_path / "theme/type")
    sheet = tmp_path / "theme/style.css"
    sheet.write_text(_RULES)
    given = ("build", "--rules", "theme/style.css", "--to", "theme/type", "--effort", "fast")
    done = aksara(*given)
    assert done.returncode == 0, done.stderr
    for line, said in (
        (9, "hosted elsewhere"),
        (10, "type/nothing.ttf is not here"),
        (11, "is inside another rule"),
    ):
        assert re.search(rf"theme/style.css:{line - 1}: @font-face \w+: [^\n]*{said}[^\n]*stays as it is", done.stderr)
    text = sheet.read_text()
    assert text.startswith("/* mine */\n/* aksara: begin */") and "\n/* aksara: end */\nh1 { color: red }\n" in text
    assert text.split("aksara: end */")[1] == _RULES.split("bold; src")[1].partition("}\n")[2].replace(
        "h1 {", "\nh1 {").replace("@font-face { font-family: Slab; src: url(type/PenyuSlab-Regular.otf); "
        "unicode-range: U+41-5A }\n", "")  # fmt: skip
    built = manifest_of(tmp_path / "theme/type")
    faces = [(family["family"], face["weight"]) for family in built["families"] for face in family["faces"]]
    assert faces == [("My first \u00e9", 400), ("My first \u00e9", 700), ("Slab", 400)]
    assert built["families"][1]["faces"][0]["characters"] == 26
    # The next build knows from its manifest what the rules said.
    assert aksara(*given, "--no-cache").returncode == 0 and sheet.read_text() == text
    sheet.write_text(f"{text}@font-face {{ font-family: More; src: url(type/PenyuSans-Regular.ttf) }}\n")
    assert aksara(*given).returncode == 0
    assert "More" in [each["family"] for each in manifest_of(tmp_path / "theme/type")["families"]]
    (tmp_path / "theme/type/faces.json").unlink()
    done = aksara(*given)
    assert done.returncode == 2 and "faces.json, which lists their fonts, is missing" in done.stderr


def test_the_first_build_knows_that_pages_will_load_its_rules(aksara: Run, tmp_path: Path) -> None:
    for font in (_REGULAR, _BOLD):
        shutil.copy(font, tmp_path)
    (tmp_path / "site").mkdir()
    (tmp_path / "site/index.html").write_text(
        "<html lang=en><head><style>p { font: 700 1em var(--penyu-sans) }</style>\n</head><p>Ferries to the islands"
    )
    given = ("build", ".", "--for-site", "site", "--to", "site/type", "--links", "site/*.html", "--effort", "fast")
    assert aksara(*given).returncode == 0
    names = sorted(path.name for path in (tmp_path / "site/type").glob("*.woff2"))
    assert [name.split(".")[0] for name in names] == ["PenyuSans-Bold"]
    assert aksara(*given, "--no-cache").returncode == 0
    assert sorted(path.name for path in (tmp_path / "site/type").glob("*.woff2")) == names


def test_what_an_output_made_goes_with_it(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "menu.j2").write_text("{{ families | length }}\n")
    project = '[output]\nfolder = "out"\n{}\n[[family]]\nfonts = ["a.ttf"]\n'
    lists = '[[output.template]]\nfrom = "menu.j2"\nto = "theme/{}.txt"\n'
    start = project.format('css = "theme/a.css"\nproof = "theme/proof.html"')
    (tmp_path / "aksara.toml").write_text(start.replace("[[fam", lists.format("a") + lists.format("b") + "[[fam"))
    assert aksara("build").returncode == 0
    (tmp_path / "theme/b.txt").write_text("mine")
    (tmp_path / "aksara.toml").write_text(project.format('fonts = "."'))
    done = aksara("build")
    assert done.returncode == 0 and "theme/b.txt is of an earlier build, changed since" in done.stdout
    assert sorted(path.name for path in (tmp_path / "theme").iterdir()) == ["b.txt"]
    assert {path.parent.name for path in (tmp_path / "out").rglob("*.woff2")} == {"out"}
    # A manifest may come from anywhere: it has nothing removed that lies outside.
    (tmp_path / "private.txt").write_text("x")
    inner = tmp_path / "inner"
    inner.mkdir()
    shutil.copy(tmp_path / "a.ttf", inner)
    built = manifest_of(tmp_path / "out")
    digest = "2d711642b726b04401627ca9fbac32f5c8530fb1903cc4db02258717921a4881"
    built["templates"] = [{"path": "../../private.txt", "sha256": digest}]
    (inner / "out").mkdir()
    (inner / "out/faces.json").write_text(json.dumps(built, indent=1))
    (inner / "aksara.toml").write_text(project.format(""))
    done = aksara("build", "--project", inner / "aksara.toml")
    assert (
        done.returncode == 0 and (tmp_path / "private.txt").exists() and "private.txt is of an earlier" in done.stdout
    )


def test_what_an_output_made_goes_when_the_project_has_it_no_more(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    start = '[[family]]\nfonts = ["a.ttf"]\n'
    outputs = [f'[[output]]\nfolder = "{name}"\n' for name in ("one", "two")]
    (tmp_path / "aksara.toml").write_text("".join(outputs) + start)
    assert aksara("build").returncode == 0 and (tmp_path / "two/faces.css").exists()
    (tmp_path / "two/mine.txt").write_text("x")
    other = {"made_by": "x", "licence": {"files": [{"path": "aksara.toml", "sha256": "0" * 64}]}}
    (tmp_path / "other.json").write_text(json.dumps(other))
    built = manifest_of(tmp_path / "one")
    assert built["outputs"] == ["faces.json", "../two/faces.json"]
    built["outputs"].append("../other.json")  # no manifest of ours, so nothing of it goes
    (tmp_path / "one/faces.json").write_text(json.dumps(built, indent=1))
    (tmp_path / "aksara.toml").write_text(outputs[0] + start)
    done = aksara("build")
    assert done.returncode == 0, done.stderr
    assert [path.name for path in (tmp_path / "two").rglob("*") if path.is_file()] == ["mine.txt"]
    assert (tmp_path / "other.json").exists() and (tmp_path / "one/faces.css").exists()


def test_an_output_that_moves_leaves_nothing_where_it_was(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    project, other = tmp_path / "aksara.toml", tmp_path / "other.toml"
    text = '[[family]]\nfonts = ["a.ttf"]\n[output]\nfolder = "{}"\n'
    project.write_text(text.format("one"))
    other.write_text(text.format("others"))
    assert aksara("build").returncode == 0 and aksara("build", "--project", "other.toml").returncode == 0
    (tmp_path / "one/mine.txt").write_text("x")
    # A build elsewhere for once moves nothing.
    assert aksara("build", "--to", "trial").returncode == 0 and (tmp_path / "one/faces.css").exists()
    project.write_text(text.format("site/two"))
    done = aksara("build")
    assert done.returncode == 0 and "old removed" in done.stdout, done.stdout
    assert [path.name for path in (tmp_path / "one").rglob("*") if path.is_file()] == ["mine.txt"]
    assert (tmp_path / "others/faces.css").exists() and (tmp_path / "site/two/faces.css").exists()
    assert (tmp_path / "trial/faces.css").exists()


def test_fonts_can_be_embedded_in_the_style_sheet(aksara: Run, tmp_path: Path, browser: Browser) -> None:
    shutil.copy(_REGULAR, tmp_path)
    assert aksara("build", _REGULAR.name, "--for-text", "Ferry", "--inline", "all").returncode == 0
    folder = tmp_path / "web-fonts"
    assert not list(folder.rglob("*.woff*"))
    (face,) = manifest_of(folder)["families"][0]["faces"]
    assert [(file["inline"], file["path"]) for file in face["files"]] == [(True, "")]
    (folder / "index.html").write_text(
        '<!doctype html><link rel=stylesheet href=faces.css><p style="font-family: Penyu Sans">Ferry'
    )
    with watched_page(browser) as (page, problems):
        page.goto((folder / "index.html").as_uri())
        assert page.evaluate("document.fonts.ready.then(() => document.fonts.check('16px \"Penyu Sans\"', 'Ferry'))")
    assert not problems
    size = face["files"][0]["bytes"]
    budget = ("build", _REGULAR.name, "--for-text", "Ferry", "--budget", f"{size + 100} B", "--inline")
    # As data it is a third larger, and that counts.
    assert aksara(*budget, "all").returncode == 1
    done = aksara(*budget, f"{size - 1} B")
    assert done.returncode == 0 and list(folder.rglob("*.woff2"))


def test_built_fonts_are_not_built_again(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    given = ("build", ".", "--to", "out", "--fonts", "../web", "--manifest", "list.json", "--no-cache")
    assert aksara(*given).returncode == 0
    before = sorted(path.name for path in (tmp_path / "web").iterdir())
    assert aksara(*given).returncode == 0
    assert sorted(path.name for path in (tmp_path / "web").iterdir()) == before
    assert [each["path"] for each in json.loads((tmp_path / "list.json").read_text())["families"][0]["faces"]] == [
        "a.ttf"
    ]


def test_a_host_gives_its_own_addresses(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    project = tmp_path / "aksara.toml"
    project.write_bytes(
        b'[output]\r\nfolder = "out"\r\n[output.addresses]\r\n# host\r\n[[family]]\r\nfonts = ["a.ttf"]'
    )
    done = aksara("build")
    assert "2 files without one" in done.stdout
    written = project.read_bytes().split(b"\r\n")
    assert (
        written[3] == b"# host"
        and written[4].endswith((b'.woff2" = ""', b'.woff" = ""'))
        and written[-1] == b'fonts = ["a.ttf"]'
    )
    project.write_bytes(project.read_bytes().replace(b'.woff2" = ""', b'.woff2" = "https://files.example/1"'))
    assert "1 file without one" in aksara("build").stdout
    sheet = (tmp_path / "out/faces.css").read_text()
    assert 'url("https://files.example/1")' in sheet and 'url("fonts/' in sheet
    # A second output may have a list of its own, and a list in another form is an error before anything is made.
    two = (
        project.read_text()
        .replace("[output]", "[[output]]")
        .replace("[[family]]", '[[output]]\nfolder = "b"\n[[family]]')
    )
    (tmp_path / "two.toml").write_text(two.replace('folder = "b"', 'folder = "b"\n\n[output.addresses]\n\n# end\n'))
    assert aksara("build", "--project", "two.toml").returncode == 0
    assert re.search(
        r'\n\[output.addresses\]\n\n# end\n("[^"]+" = ""\n){2}\n\[\[family', (tmp_path / "two.toml").read_text()
    )
    (tmp_path / "three.toml").write_text('[output]\naddresses = {}\n[[family]]\nfonts = ["a.ttf"]\n')
    done = aksara("build", "--project", "three.toml")
    assert done.returncode == 2 and "three.toml, line 2: " in done.stderr and "on a line of its own" in done.stderr
    # Another font is another file, which has to go to the host again.
    (tmp_path / "a.ttf").write_bytes(small_font({0x41: 1}))
    assert "2 files without one" in aksara("build").stdout
    assert project.read_text().count('= ""') == 2 and "files.example" in project.read_text()


def test_a_face_may_serve_several_weights(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a[b].ttf").write_bytes(small_font())
    done = aksara("build", "a[b].ttf", "--face", "a[b].ttf", "100..900", "normal", "--width", "a[b].ttf", "75%")
    assert done.returncode == 0, done.stderr
    sheet = (tmp_path / "web-fonts/faces.css").read_text()
    assert "font-weight: 100 900;" in sheet and "font-stretch: 75%;" in sheet.split("To use it")[1]
    (tmp_path / "aksara.toml").write_text(
        '[output]\nformats = "woff"\n[[family]]\nfonts = ["a[b].ttf"]\n[[family.face]]\nfile = "a[b].ttf"\n'
        "weight = [200, 300]\nwidth = 125\n"
    )
    assert aksara("build").returncode == 0
    (face,) = manifest_of(tmp_path / "web-fonts")["families"][0]["faces"]
    assert (face["weight"], face["width"], len(face["files"])) == ([200, 300], 125, 1)
    for wrong in ("900..100", "bold"):
        assert aksara("build", "a[b].ttf", "--face", "a[b].ttf", wrong, "normal").returncode == 2


def test_icons_have_their_own_form(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font({0xE000: 1, 0xE001: 2}))
    assert aksara("build", "a.ttf").returncode == 0
    sheet = (tmp_path / "web-fonts/faces.css").read_text()
    assert "font-display: block" in sheet and 'Kotak", sans-serif;' in sheet and ".icon { font-family" in sheet
    assert "white-space: nowrap" not in sheet, "its icons differ in width"
    assert "body {" not in sheet and "size-adjust" not in sheet


def test_lines_that_name_the_old_family_are_listed(theme: Path, aksara: Run) -> None:
    sheet = theme / "style.css"
    sheet.write_text(
        "/* font-family: Arial */\nbody { margin: 0;\n font: 1em Arial, sans-serif }\nh1 { font-weight: 700 }"
    )
    (project := theme.parent / "aksara.toml").write_text(project.read_text() + 'replaces = ["Arial"]\n')
    done = aksara("build")
    assert done.returncode == 0, done.stderr
    assert "write var(--penyu-sans) for Arial:" in done.stdout
    number = next(n for n, line in enumerate(sheet.read_text().splitlines(), 1) if "1em Arial" in line)
    assert re.findall(r"style.css:(\d+)  Arial", done.stdout) == [str(number)]


@contextmanager
def _served(folder: Path) -> Iterator[str]:
    """A local server over a folder; its address."""

    class Handler(http.server.SimpleHTTPRequestHandler):
        def log_message(self, format: str, *args: object) -> None:
            """Nothing."""

    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(Handler, directory=str(folder))) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}/"
        server.shutdown()


def test_marks_are_known_on_a_server(theme: Path, aksara: Run, site: str, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "page.html").write_text(
        "<html><head><title>A</title></head><p style='font-family: Kotak'>AB</p></html>"
    )
    given = ("build", "a.ttf", "--for-site", "page.html", "--links", "page.html", "--to", "type")
    assert aksara(*given).returncode == 0
    sound = aksara("check", f"{site}/page.html", "--json")
    assert not [each for each in json.loads(sound.stdout)["findings"] if each["kind"].startswith("marks")]
    text = (tmp_path / "page.html").read_text()
    (tmp_path / "page.html").write_text(re.sub(r"Kotak-Regular\.[0-9a-f]{8}", "Kotak-Regular.00000000", text))
    found = json.loads(aksara("check", f"{site}/page.html", "--json").stdout)["findings"]
    assert "marks-outdated" in [each["kind"] for each in found]


def test_a_proof_among_the_pages_gets_no_links(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "site").mkdir()
    page = tmp_path / "site/index.html"
    page.write_text("<html><head><title>A</title></head><p style='font-family: Kotak'>AB</p></html>")
    project = (
        '[site]\npages = ["site"]\n[output]\nfolder = "site/type"\n'
        'links = ["site/**/*.html"]\n[[family]]\nfonts = ["a.ttf"]\n'
    )
    (tmp_path / "aksara.toml").write_text(project)
    for text in ("AB", "ABC"):
        page.write_text(page.read_text().replace("AB", text))
        done = aksara("build")
        assert done.returncode == 0, done.stderr
        assert "aksara: begin" in page.read_text() and (tmp_path / "site/type/proof.html").exists()
        assert "aksara: begin" not in (tmp_path / "site/type/proof.html").read_text()


def test_old_rules_are_to_be_removed_and_not_to_name_ours(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "old.css").write_text(
        "/* @font-face { font-family: Old } */\n"
        + "".join(f'@font-face {{\n  font-family: "Old";\n  src: url(old{weight}.woff2)\n}}\n' for weight in (4, 7))
        + "".join(f".a{number} {{ font-family: Old, serif }}\n" for number in range(12))
    )
    hosted = '<link href="https://fonts.example/css2?family=Old:wght@400;700&amp;display=swap" rel="stylesheet">'
    (tmp_path / "page.html").write_text(
        f'<html lang="en">\n{hosted}\n<link rel=stylesheet href=old.css><p class=a1>Ferry'
    )
    given = ("build", DEMO_FONTS[0], "--for-site", "page.html", "--replaces", "Old")
    told = aksara(*given).stdout
    assert "Remove the old @font-face rules of Old:\n       old.css:3  2 rules\n" in told
    assert "for Old:\n       old.css:10  Old" in told and "and 4 more (-v lists them)" in told
    assert "(unless they bring others that you keep):\n       page.html:2  Old\n" in told
    assert "old.css:21  Old" in aksara("-v", *given).stdout
    # So are links that fetch a family that keeps its name; its declarations are right as they are.
    (tmp_path / "page.html").write_text(
        f'<html lang="en">{hosted.replace("=Old", "=Penyu+Sans")}<p style="font-family: Penyu Sans">Ferry'
    )
    kept = aksara("build", DEMO_FONTS[0], "--for-site", "page.html").stdout
    assert "that you keep):\n       page.html:1  Penyu Sans\n" in kept and "In these lines" not in kept


def test_families_whose_names_only_begin_or_end_alike_are_left_alone(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "old.css").write_text(
        '@import url("https://fonts.example/css?family=Penyu+Old+Text");\n'
        ".a { font-family: Old, serif }\n.b { font-family: Old Black, serif }\n"
    )
    (tmp_path / "page.html").write_text(
        '<html lang="en"><link rel="stylesheet" href="old.css">\n'
        '<link rel="stylesheet" href="//fonts.example/css?family=Penyu+Sans+Wide|Tall+Penyu+Sans">'
        '<p class=a>Ferry <b style="font-family: Penyu Sans">Kapal'
    )
    told = aksara("build", DEMO_FONTS[0], "--for-site", "page.html", "--replaces", "Old").stdout
    assert "for Old:\n       old.css:2  Old\n" in told and "old.css:3" not in told and "Remove these links" not in told


def test_old_names_are_looked_for_in_time(aksara: Run, tmp_path: Path) -> None:
    """Each of these takes hours where work grows with the square of a file's length."""
    for text in (
        "@import" + " " * 400_000,
        "@font-face{font:a}" * 60_000,
        "@font-face" + " " * 400_000,
        "<link " * 50_000,
    ):
        (tmp_path / "old.css").write_text(f".a {{ font-family: Old }}\n{text}")
        (tmp_path / "page.html").write_text('<html lang="en"><link rel="stylesheet" href="old.css"><p class=a>Ferry')
        done = aksara("build", DEMO_FONTS[0], "--for-site", "page.html", "--replaces", "Old")
        assert "old.css:1  Old" in done.stdout, done.stderr


def test_an_address_is_repeated_without_its_password(aksara: Run, site: str, tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<p>Ferry")
    shown = aksara("scan", site.replace("http://", "http://captain:s3cret@")).stdout
    assert "--for-site http://127.0.0.1:" in shown and "s3cret" not in shown

"""`aksara.toml` and `aksara init`: a build written down, read back, and told of when it is wrong."""

from __future__ import annotations

import json
import re
import shutil
import tomllib
import zipfile
from datetime import date
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

from aksara.errors import AksaraError, RequestError
from aksara.pipeline import make_plan
from aksara.project import project_schema, read_project
from aksara.project.keys import TABLES
from aksara.project.lines import find_lines
from aksara.project.reading import _Project
from aksara.project.schema import SCHEMA_FILE
from aksara.sizes import parse_size
from conftest import Run, manifest_of
from fonts import DEMO_FONTS, small_font
from places import ROOT

FAMILY = '[[family]]\nname = "Penyu Sans"\nfonts = ["fonts/PenyuSans-*.ttf"]\n'


@pytest.fixture
def home(tmp_path: Path) -> Path:
    """A site with pages and the desktop fonts, no project file."""
    shutil.copytree(ROOT / "src/aksara/demo/site", tmp_path / "site")
    shutil.copytree(ROOT / "src/aksara/demo/fonts", tmp_path / "fonts")
    return tmp_path


def _toml(home: Path, text: str) -> Path:
    path = home / "aksara.toml"
    path.write_text(text, encoding="utf-8")
    return path


def test_init_writes_down_what_is_there_and_it_builds(aksara: Run, home: Path) -> None:
    (home / "site/node_modules/x").mkdir(parents=True)
    shutil.copy(home / "site/index.html", home / "site/node_modules/x/index.html")
    done = aksara("init", "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert [family["fonts"] for family in told["families"]] == [
        ["fonts/PenyuSans*.ttf"], ["fonts/PenyuSignals-Regular.ttf"], ["fonts/PenyuSlab-*.otf"],
    ]  # fmt: skip
    assert told["languages"] == ["en", "id", "vi"]
    assert len(told["pages"]) == 4
    text = (home / "aksara.toml").read_text()
    written = tomllib.loads(text)
    Draft202012Validator(project_schema()).validate(written)
    assert written["site"] == {"pages": ["site/**/*.html"]}
    # Every key that is not used is named, with what it is for, and would be right if its "#" were taken away.
    everything = re.sub(r"^# (?=[a-z-]+ = )", "", text, flags=re.MULTILINE)
    Draft202012Validator(project_schema()).validate(
        {table: values for table, values in tomllib.loads(everything).items() if table != "licence"}
    )
    again = aksara("init")
    assert again.returncode == 2
    assert "exists already and is left as it is" in again.stderr
    built = aksara("build")
    assert built.returncode == 0, built.stderr
    families = manifest_of(home / "site/web-fonts")["families"]
    assert [(family["family"], len(family["faces"])) for family in families] == [
        ("Penyu Sans", 3), ("Penyu Signals", 1), ("Penyu Slab", 4),
    ]  # fmt: skip
    # The second time the proof and the style sheet of the first are no pages of the site.
    before = (home / "site/web-fonts/faces.css").read_bytes()
    assert re.search(r"\(nothing new, \d+ unchanged\)", aksara("build", "--no-cache").stdout)
    assert (home / "site/web-fonts/faces.css").read_bytes() == before


def test_a_draft_leaves_out_what_no_page_asks_for(aksara: Run, home: Path) -> None:
    shutil.copytree(ROOT / "src/aksara/demo/candidates", home / "candidates")
    (home / "site/index.html").write_text(
        "<style>p { font-family: Penyu Sans } b { font-family: Penyu Sans Variable } h1 { font-family: Penyu Slab } "
        "i { font-family: Penyu Signals } u { font-family: Kapal Lama }</style>"
        "<h1>Kapal</h1><p>laut <b>biru</b> <i>A</i> <u>lama</u>"
    )
    told = json.loads(aksara("init", "--json").stdout)
    assert [family["families"][0] for family in told["families"] if family["left_out"]] == [
        "Penyu Ombak",
        "Penyu Selat",
    ]
    text = (home / "aksara.toml").read_text()
    drafted = tomllib.loads(text)["family"]
    assert [family["name"] for family in drafted] == ["Penyu Sans", "Penyu Signals", "Penyu Slab"]
    # Two families that might stand for one name are told of and stand for none.
    assert [family.get("replaces") for family in drafted] == [["Penyu Sans Variable"], None, None]
    assert "# Penyu Ombak: candidates/PenyuOmbak-Regular.otf" in text
    assert told["others"] == ["Kapal Lama"] and '# replaces = ["Kapal Lama=Penyu ' in text


def test_init_works_in_unusual_folders(aksara: Run, tmp_path: Path) -> None:
    fonts = tmp_path / "Our [old] fonts"
    fonts.mkdir()
    for name, style in (("Satu", "Regular"), ("Satu", "Bold"), ("Dua", "Regular")):
        names = {1: f'{name} "x"', 2: style}
        (fonts / f"{name}{style} & co.ttf").write_bytes(small_font(names=names, weight=700 if style == "Bold" else 400))
    with zipfile.ZipFile(tmp_path / "order.zip", "w") as archive:
        for path in DEMO_FONTS:
            archive.write(path, f"a/{path.name}")
        archive.writestr("a/Lain.ttf", small_font(names={1: "Lain", 2: "Regular"}))
    (tmp_path / "broken.ttf").write_bytes(b"\0\1\0\0")
    (tmp_path / "old.html").write_bytes("<html lang=vi><p>é".encode("latin-1"))
    (tmp_path / "new.html").write_text("<html lang=id><p lang='no such tag'>Kapal")
    done = aksara("init")
    assert done.returncode == 0, done.stderr
    assert "broken.ttf" in done.stderr
    families = tomllib.loads((tmp_path / "aksara.toml").read_text())["family"]
    assert {family.get("name") for family in families} == {'Satu "x"', 'Dua "x"', None}
    (nameless,) = (family for family in families if "name" not in family)
    assert nameless["fonts"] == ["order.zip"]
    (tmp_path / "broken.ttf").unlink()
    project = (tmp_path / "aksara.toml").read_text()
    (tmp_path / "aksara.toml").write_text(project.replace("# languages = ", "languages = ", 1))
    (tmp_path / "old.html").unlink()
    built = aksara("build", "--format", "woff2")
    assert built.returncode == 0, built.stderr
    names = [family["family"] for family in manifest_of(tmp_path / "web-fonts")["families"]]
    assert sorted(names) == ['Dua "x"', "Lain", "Penyu Sans", 'Satu "x"']
    empty = tmp_path / "empty"
    empty.mkdir()
    assert aksara("init", cwd=empty).returncode == 3


def test_a_project_file_can_set_everything_options_can(aksara: Run, home: Path) -> None:
    _toml(
        home,
        f"""
        [site]
        also = "Penyu"
        languages = "id"
        [output]
        folder = "out put"
        css = "css/type.css"
        formats = ["woff", "woff2"]
        preload = ["Bold Italic"]
        zip = "all.zip"
        budget = "1 MB"
        [licence]
        web = true
        holder = "Penyu Ferries"
        domains = ["penyu.example", "perahu.example"]
        until = 2031-12-31
        css = '@import url("https://count.example/1");'
        {FAMILY}
        stack = ["Times New Roman"]
        display = "optional"
        local = true
        features = ["smcp"]
        no-features = ["liga"]
        hinting = "drop"
        uses = ["600"]
        budget = 90000
        [[family.face]]
        file = "PenyuSans-Bold.ttf"
        weight = 800
        """,
    )
    done = aksara("build", "--json")
    assert done.returncode == 0, done.stderr
    told = manifest_of(home / "out put")
    assert json.loads(done.stdout) == told
    (family,) = told["families"]
    assert (family["family"], family["display"], family["stack"]) == (
        "Penyu Sans", "optional", ["Times New Roman", "sans-serif"])  # fmt: skip
    assert [(face["weight"], face["style"]) for face in family["faces"]] == [
        (400, "normal"), (400, "italic"), (700, "italic"), (800, "normal")]  # fmt: skip
    assert family["missing_faces"] == [{"desired": "600", "nearest": "800"}]
    assert {file["format"] for file in family["faces"][0]["files"]} == {"woff", "woff2"}
    assert "smcp" in family["faces"][0]["features"]
    assert "liga" not in family["faces"][0]["features"]
    assert told["licence"] | {"files": []} == {
        "web_licence": True, "holder": "Penyu Ferries", "domains": ["penyu.example", "perahu.example"],
        "until": "2031-12-31", "files": []}  # fmt: skip
    assert told["preload"][0]["label"] == "Bold Italic"
    assert told["css"] == "../css/type.css"
    assert [(budget["what"], budget["limit"]) for budget in told["budget"]] == [
        ("a page's first view", 1_000_000), ("Penyu Sans", 90_000)]  # fmt: skip
    css = (home / "css/type.css").read_text()
    head, _, rest = css.partition('@import url("https://count.example/1");')
    assert head.startswith("/* Made by Aksara")
    assert "for penyu.example, perahu.example until 2031-12-31" in head
    assert "@font-face" not in head
    assert 'local("PenyuSans-Regular")' in rest
    # Bold was overridden to 800, so its own name would find another weight.
    assert 'PenyuSans-Bold"' not in rest
    with zipfile.ZipFile(home / "all.zip") as archive:
        assert "css/type.css" in archive.namelist()
        assert archive.read("css/type.css") == (home / "css/type.css").read_bytes()


def test_options_override_the_project(aksara: Run, home: Path) -> None:
    _toml(
        home, f'[site]\nlanguages = ["id"]\n[output]\nfolder = "one"\nformats = ["woff2"]\n{FAMILY}stack = ["Arial"]\n'
    )
    options = ["--to", "two", "--for-text", "ab", "--format", "woff", "--stack", "Verdana", "--family", "Laut"]
    options += ["--display", "block", "--feature", "onum", "--hinting", "drop", "--licensed-to", "Penyu Ferries"]
    done = aksara("build", *options)
    assert done.returncode == 0, done.stderr
    assert not (home / "one").exists()
    told = manifest_of(home / "two")
    (family,) = told["families"]
    assert (family["family"], family["stack"], family["display"]) == ("Laut", ["Verdana", "sans-serif"], "block")
    assert family["faces"][0]["slices"][0]["unicode_range"] == "U+20, U+61-62"
    assert {file["format"] for file in family["faces"][0]["files"]} == {"woff"}
    assert told["licence"]["holder"] == "Penyu Ferries"
    # A font is overridden in whichever family it is.
    slab = FAMILY.replace("Sans", "Slab").replace("ttf", "otf")
    _toml(home, f'[site]\nalso = "a"\n{FAMILY}{slab}')
    told = json.loads(aksara("build", "--face", "PenyuSlab-Bold.otf", "800", "normal", "--dry-run", "--json").stdout)
    assert [max(face["weight"] for face in family["faces"]) for family in told["families"]] == [700, 800]
    assert "no font here is called" in aksara("build", "--face", "PenyuSlob-Bold.otf", "800", "normal").stderr


def test_several_sites_from_the_same_fonts(aksara: Run, home: Path) -> None:
    outputs = """
        [site]
        languages = ["id"]
        [[output]]
        folder = "a"
        [[output]]
        folder = "b"
        families = ["Penyu Slab"]
        also = ["Kapal"]
        """
    slab = FAMILY.replace("Sans", "Slab").replace("ttf", "otf")
    _toml(home, outputs + FAMILY + slab)
    done = aksara("build", "--format", "woff2", "--json")
    assert done.returncode == 0, done.stderr
    first, second = json.loads(done.stdout)["outputs"]
    assert (first, second) == (manifest_of(home / "a"), manifest_of(home / "b"))
    assert [family["family"] for family in first["families"]] == ["Penyu Sans", "Penyu Slab"]
    assert [family["family"] for family in second["families"]] == ["Penyu Slab"]
    assert second["families"][0]["faces"][0]["characters"] == 5
    for option in ("--to", "--css", "--zip"):
        refused = aksara("build", option, "x")
        assert (refused.returncode, f"{option} names one path" in refused.stderr) == (2, True)
    assert "--family gives one name" in aksara("build", "--family", "X").stderr
    # One that cannot be made leaves both as they were.
    before = (home / "a/faces.json").read_bytes()
    (home / "aksara.toml").write_text((outputs + FAMILY + slab).replace('"Kapal"', '"語"'))
    assert aksara("build", "--format", "woff2", "--display", "block").returncode == 3
    assert (home / "a/faces.json").read_bytes() == before


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('[output]\nfolder = "x"\nbudgett = "1 KB"\n', r"line 3: \[output\] has no key 'budgett'; .*'budget'"),
        ('[outputs]\nfolder = "x"\n', "line 1: there is no table 'outputs'; did you mean 'output'"),
        ("[output]\nbudget = true\n", 'line 2: \'budget\' must be a size, as "120 KB", not true'),
        ("[site]\n\n# note\nlanguages = 3\n", "line 4: 'languages' must be a list of texts"),
        ('[output]\nformats = [\n  "woff2",\n  3,\n]\n', "line 2: 'formats' must be a list of texts"),
        ('[output]\nformats = ["wof2"]\n', "line 2: 'formats' cannot be 'wof2'; did you mean 'woff2'"),
        ('[output]\nbudget = "lots"\n', "line 2: budget: 'lots' is not a size"),
        ('[site]\nlanguages = ["Indonesian"]\n', "line 2: .*Indonesian is id"),
        ('[site]\npages = ["nowhere/*.html"]\n', r"line 2: pages: no page matches 'nowhere/\*\.html'"),
        ("[output\n", "not valid TOML: .*line 1"),
        ('[output]\nurl = "/static/"\n', "line 2: .*names no font"),
        ('[licence]\nuntil = "soon"\n', "line 2: 'until' must be a date, as 2028-01-31"),
        ("[licence]\nuntil = 2028-01-31T10:00:00\n", "line 2: 'until' must be a date"),
        ('[licence]\ncss = ".a {"\n', "line 2: .*not whole"),
        ('[licence]\npublish = "none.txt"\n', "line 2: there is no file 'none.txt'"),
        ('[[output]]\nfolder = "x"\n[[output]]\nfolder = "./x"\n', "line 3: two outputs go to the same folder"),
        ('[[output]]\nfamilies = ["Penyu"]\n', "line 2: no .*'Penyu'; did you mean 'Penyu Sans'"),
        ('output = 3\n', r"line 1: 'output' must be a table"),
        ('[[family]]\nname = "X"\n', "line 1: 'fonts' is missing here"),
        ('[[family]]\nfonts = ["font/*.ttf"]\n', r"line 2: fonts: nothing matches 'font/\*\.ttf'"),
        ('[[family]]\nfonts = ["fonts"]\nuses = ["heavy metal"]\n', "line 3: uses: 'heavy metal' is not a face"),
        ('[[family]]\nfonts = ["fonts"]\nstack = ["Arial", ""]\n', "line 3: the stack has an empty family"),
        ('[[family]]\nfonts = ["fonts"]\n[[family.face]]\nfile = "x.ttf"\nweigth = 3\n',
         "line 5: .*no key 'weigth'"),
        ('[[family]]\nfonts = ["fonts"]\n[[family.face]]\nfile = "x.ttf"\nweight = 7000\n', "line 3: .*7000 is not"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_reported_with_its_line(text: str, said: str, home: Path) -> None:
    whole = text if "[[family]]" in text or text == "[output\n" else f"{text}{FAMILY}"
    path = _toml(home, whole)
    with pytest.raises(RequestError, match=said) as caught:
        for request in read_project(path):
            make_plan(request)  # what files say is read by the plan
    assert str(caught.value).count(", line ") <= 1
    assert str(path) in str(caught.value)


def test_invalid_project_files(aksara: Run, home: Path) -> None:
    for arguments, said in (
        (("build",), "no aksara.toml here"),
        (("build", "--project", "none.toml"), "no such file"),
        (("build", "fonts", "--project", "aksara.toml"), "only one of them"),
    ):
        done = aksara(*arguments)
        assert (done.returncode, said in done.stderr) == (2, True), done.stderr
    (home / "aksara.toml").write_bytes(b"\xff\xfe")
    assert aksara("build").returncode == 3
    (home / "aksara.toml").write_text("x = " + "[" * 5000 + "]" * 5000)
    done = aksara("build")
    assert (done.returncode, "Traceback" in done.stderr) == (2, False)
    (home / "aksara.toml").write_text("")
    assert "there is no [[family]]" in aksara("build").stderr


_VALUES = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=8) | st.dates(),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text("abc.-\"' ", max_size=4), inner, max_size=3),
    max_leaves=6,
)


def _dumped(value: object) -> str:
    if isinstance(value, dict):
        return "{" + ", ".join(f"{json.dumps(key)} = {_dumped(each)}" for key, each in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(_dumped, value)) + "]"
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, str):
        return json.dumps("".join(c for c in value if c.isprintable()))
    return {True: "true", False: "false", None: '""'}.get(value, str(value)) if not isinstance(value, float) else '"1"'  # type: ignore[call-overload, no-any-return]


@given(st.sampled_from([*TABLES]), st.data())
def test_no_value_of_any_key_crashes_it(table: str, data: st.DataObject) -> None:
    key = data.draw(st.sampled_from([key.name for key in TABLES[table]]))
    header = "" if "." in table else f"[[{table}]]\n" if table in ("family", "output") else f"[{table}]\n"
    nested = f"[[family]]\nfonts = 'x'\n[[{table}]]\n" if "." in table else header
    text = f"{nested}{key} = {_dumped(data.draw(_VALUES))}\n"
    path = Path("nowhere/never-written.toml")
    try:
        _Project(path, text).requests()
    except AksaraError as error:
        assert "never-written.toml" in str(error)


def test_lines_are_found_in_all_that_toml_allows() -> None:
    text = '''# note
a = 1
"b c".d = [ # [x]
  "]", 2,
]
[[t]]
s = """
k = 1
[no]
"""
[[t.u]]
x = { y = 1 }
[[t]]
'z' = \'\'\'
'\'\'\'
[v."w.x"]
k.l=1
'''
    assert find_lines(text.replace("\n", "\r\n")) == find_lines(text)
    assert find_lines(text) == {
        ("a",): 2, ("b c", "d"): 3, ("t", 0): 6, ("t", 0, "s"): 7, ("t", 0, "u", 0): 11, ("t", 0, "u", 0, "x"): 12,
        ("t", 1): 13, ("t", 1, "z"): 14, ("v", "w.x"): 16, ("v", "w.x", "k", "l"): 17,
    }  # fmt: skip


def test_the_published_schema_is_that_of_the_program() -> None:
    published = json.loads(SCHEMA_FILE.read_text())
    assert published == project_schema(), "run `make schemas`"
    Draft202012Validator.check_schema(published)
    # JSON has no dates: editors see them as texts.
    demo = json.loads(json.dumps(tomllib.loads((ROOT / "src/aksara/demo/aksara.toml").read_text()), default=str))
    Draft202012Validator(published).validate(demo)
    for wrong in ({}, {"family": []}, {"family": [{"fonts": "x", "colour": 1}]}, {"family": [{"fonts": "x"}], "x": 1}):
        assert not Draft202012Validator(published).is_valid(wrong)


@pytest.mark.parametrize(
    ("text", "count"), [("120 KB", 120_000), ("1.5MB", 1_500_000), ("800 B", 800), (4096, 4096), ("12 kb", 12_000)]
)
def test_sizes_are_read(text: str | int, count: int) -> None:
    assert parse_size(text) == count


@pytest.mark.parametrize("text", ["", "KB", "-1 KB", "1 GB", "0", 0, -5, "1e3 KB", "9" * 40])
def test_bad_sizes_are_reported(text: str | int) -> None:
    with pytest.raises(RequestError, match="is not a size"):
        parse_size(text)


def test_two_families_of_one_name_and_two_faces_for_one_place_are_asked_about(aksara: Run, home: Path) -> None:
    _toml(home, f'[site]\nalso = "a"\n{FAMILY}{FAMILY}')
    done = aksara("build")
    assert (done.returncode, "are called Penyu Sans" in done.stderr) == (2, True)
    # Slab in the same family claims the same places.
    _toml(home, '[site]\nalso = "a"\n[[family]]\nname = "Penyu"\nfonts = ["fonts/*Regular.*"]\n')
    done = aksara("build")
    assert (done.returncode, "the fonts are of several families, Penyu S" in done.stderr) == (2, True)
    assert not (home / "web-fonts").exists()


def test_init_reads_templates_where_there_are_no_pages(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "fonts").mkdir()
    shutil.copy(DEMO_FONTS[0], tmp_path / "fonts")
    (tmp_path / "layout").mkdir()
    (tmp_path / "layout/index.ejs").write_text(
        '<html lang="id"><head><link rel="stylesheet" href="/css/theme.css"></head><p><%= post.title %> Kapal</p>'
    )
    (tmp_path / "source/css").mkdir(parents=True)
    (tmp_path / "source/css/theme.css").write_text('body { font-family: "Old Sans", sans-serif }')
    done = aksara("init", "fonts", ".")
    assert "  1 template\n" in done.stdout, done.stdout + done.stderr
    text = (tmp_path / "aksara.toml").read_text()
    assert 'pages = ["."]' in text and 'replaces = ["Old Sans"]' in text
    built = aksara("build")
    assert built.returncode == 0 and "write var(--penyu-sans) for Old Sans" in built.stdout, built.stderr
    # What nobody asks for by name is not a family to replace.
    (tmp_path / "source/css/theme.css").write_text("p { margin: 0 }")
    (tmp_path / "aksara.toml").write_text(text.replace('replaces = ["Old Sans"]\n', ""))
    assert "Times New Roman" not in aksara("build").stderr

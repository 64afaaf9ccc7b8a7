"""`aksara build` as its users run it: files in, files out, and nothing else harmed."""

from __future__ import annotations

import json
import re
import shutil
from hashlib import sha256
from pathlib import Path

import pytest
from playwright.sync_api import Browser

import aksara
from aksara.errors import OutputError
from aksara.font import Font, open_font
from aksara.pipeline import BuildRequest, write_output
from aksara.pipeline.writing import output as output_module
from aksara.pipeline.writing.targets import OutputFile
from aksara.sizes import format_size
from conftest import Run, watched_page
from fonts import DEMO_FONTS, LIBERATION, box, small_font


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder as a customer has it: the demo's fonts beside other things."""
    place = tmp_path / "My fonts"
    (place / "desktop").mkdir(parents=True)
    for path in DEMO_FONTS:
        shutil.copy(path, place / "desktop")
    (place / "desktop" / "._PenyuSans-Bold.ttf").write_bytes(b"\0\5\x16\7")
    (place / "Licence.pdf").write_bytes(b"%PDF-1.4")
    return place


def _files(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def test_a_feature_that_no_font_has_is_reported(aksara: Run, penyu: dict[str, Path]) -> None:
    done = aksara(
        "build", penyu["Regular"], "--for-text", "abc", "--feature", "smpc", "--feature", "onum", "--format", "woff2"
    )
    assert done.returncode == 0
    assert "no font here has the feature smpc; did you mean smcp?" in done.stderr
    assert "feature onum" not in done.stderr
    wrong = aksara("build", penyu["Regular"], "--feature", "liga", "--no-feature", "liga")
    assert wrong.returncode == 2
    assert "--feature: liga is both kept and left out" in wrong.stderr


def test_what_features_would_cost_is_found_out_once_a_family(
    aksara: Run, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from aksara.subsetting import subsetter

    asked: list[str] = []
    found_out = subsetter.omitted_features
    monkeypatch.setattr(
        subsetter, "omitted_features", lambda font, *rest: asked.append(font.path) or found_out(font, *rest)
    )
    done = aksara("build", folder, "--for-range", "U+20-7E", "--no-cache", "--json", "--jobs", "1")
    faces = json.loads(done.stdout)["families"][0]["faces"]
    told = [[cost["tag"] for cost in face["features_omitted"]] for face in faces]
    assert len(told) == 4 and told[0] and told.count(told[0]) == 4
    assert len(asked) == 1


def test_a_folder_becomes_web_fonts(aksara: Run, folder: Path, tmp_path: Path) -> None:
    done = aksara("build", folder, "--for-range", "U+20-7E")
    assert done.returncode == 0, done.stderr
    out = tmp_path / "web-fonts"
    made = _files(out)
    assert made.pop("fonts/Licence.pdf") == (folder / "Licence.pdf").read_bytes(), "the licence travels"
    names = {name.partition("/")[2] for name in made if name.startswith("fonts/")}
    pattern = re.compile(r"PenyuSans-(Regular|Italic|Bold|BoldItalic)\.([0-9a-f]{8})\.woff2?")
    assert len(names) == 8
    for name in names:
        match = pattern.fullmatch(name)
        assert match
        assert sha256(made[f"fonts/{name}"]).hexdigest().startswith(match[2])
        assert set(Font.read(made[f"fonts/{name}"]).characters) == set(range(0x20, 0x7F))
    assert made.keys() - {f"fonts/{name}" for name in names} == {"faces.css", "faces.json", "proof.html"}
    css = made["faces.css"].decode()
    assert css.count('font-family: "Penyu Sans";') == 4
    assert css.count("unicode-range: U+20-7E;") == 4
    assert re.search(r'--penyu-sans: "Penyu Sans", .*"Penyu Sans on Arial", .*Arial, sans-serif;', css)
    # What to do next is told, ready to paste.
    assert '<link rel="stylesheet" href="web-fonts/faces.css">' in done.stdout
    assert "var(--penyu-sans)" in done.stdout
    before = format_size(sum(path.stat().st_size for path in DEMO_FONTS))
    after = format_size(sum(len(body) for name, body in made.items() if name.endswith(".woff2")))
    assert re.search(rf"All 4 faces +{before} +{after} ", done.stdout)


def test_the_manifest_lists_everything(aksara: Run, folder: Path, tmp_path: Path) -> None:
    done = aksara("build", folder, "--json", "--for-range", "U+20-7E", "--display", "optional")
    told = json.loads(done.stdout)
    assert told == json.loads((tmp_path / "web-fonts/faces.json").read_text())
    (family,) = told["families"]
    assert [face["label"] for face in family["faces"]] == ["Regular", "Italic", "Bold", "Bold Italic"]
    bold = family["faces"][3]
    assert (bold["weight"], bold["style"], bold["width"]) == (700, "italic", 100)
    for file in bold["files"]:
        data = (tmp_path / "web-fonts" / file["path"]).read_bytes()
        assert (file["bytes"], file["sha256"]) == (len(data), sha256(data).hexdigest())
        assert file["unicode_range"] == "U+20-7E"
    assert "font-display: optional" in (tmp_path / "web-fonts/faces.css").read_text()


def test_equal_input_gives_equal_bytes_with_any_number_of_jobs(aksara: Run, folder: Path, tmp_path: Path) -> None:
    aksara("build", folder, "--to", "one", "--jobs", "1", "--no-cache")
    aksara("build", folder, "--to", "two", "--jobs", "2", "--no-cache")
    first, second = _files(tmp_path / "one"), _files(tmp_path / "two")
    assert first == second
    again = aksara("build", folder, "--to", "one", "--jobs", "2")
    assert "(nothing new, 12 unchanged)" in again.stdout
    assert _files(tmp_path / "one") == first


def test_old_files_of_ours_go_and_all_others_stay(aksara: Run, folder: Path, tmp_path: Path) -> None:
    out = tmp_path / "web-fonts"
    aksara("build", folder, "--for-range", "U+20-7E")
    before = _files(out)
    (out / "notes.txt").write_text("mine")
    (out / "fonts" / "Other-Regular.12345678.woff2").write_bytes(b"not what the name says")
    changed = out / "fonts" / next(name for name in before if "Sans-Bold." in name).partition("/")[2]
    changed.write_bytes(changed.read_bytes() + b"\0")
    # A manifest that somebody bent may name anything: nothing outside goes.
    (tmp_path / "precious.txt").write_text("keep me")
    told = json.loads((out / "faces.json").read_text())
    told["families"][0]["faces"][0]["files"].append({"path": "../precious.txt"})
    told["families"][0]["faces"][0]["files"].append({"path": "fonts/../../precious.txt"})
    (out / "faces.json").write_text(json.dumps(told, indent=1))

    done = aksara("build", folder, "--for-range", "U+20-7F,U+E9")
    assert "old removed" in done.stdout
    after = _files(out)
    gone = before.keys() - after.keys()
    assert len(gone) == 7, "eight fonts were listed; the changed one is no longer ours"
    assert all(name.startswith("fonts/PenyuSans") for name in gone)
    assert after["notes.txt"] == b"mine"
    assert "fonts/Other-Regular.12345678.woff2" in after
    assert (tmp_path / "precious.txt").exists()


def test_an_output_folder_inside_the_font_folder_is_not_built_from(aksara: Run, folder: Path) -> None:
    for _ in range(2):
        done = aksara("build", ".", "--for-text", "Penyu", cwd=folder)
        assert done.returncode == 0, done.stderr
    assert len(list((folder / "web-fonts/fonts").glob("*.woff*"))) == 8
    other = aksara("build", ".", "--to", "another", "--for-text", "Penyu", "--json", cwd=folder)
    assert len(json.loads(other.stdout)["families"][0]["faces"]) == 4


def test_nothing_of_the_users_is_overwritten(aksara: Run, folder: Path, tmp_path: Path) -> None:
    (tmp_path / "main.css").write_text("body { color: teal }")
    done = aksara("build", folder, "--css", "main.css", "--for-text", "a")
    assert done.returncode == 2
    assert "main.css: Aksara did not write this file" in done.stderr
    assert (tmp_path / "main.css").read_text() == "body { color: teal }"
    assert not (tmp_path / "web-fonts").exists()


def test_a_dry_run_writes_nothing(aksara: Run, folder: Path, tmp_path: Path) -> None:
    done = aksara("build", folder, "--dry-run", "--for-text", "Penyu")
    assert done.returncode == 0
    assert "Nothing was written" in done.stdout
    assert not (tmp_path / "web-fonts").exists()


@pytest.mark.parametrize("fail_at", range(1, 13))
def test_when_writing_fails_midway_everything_is_as_it_was(
    fail_at: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    out = tmp_path / "out"
    write_output([OutputFile(out / "faces.css", b"/* Made by Aksara 1 */", "css")], out)
    (out / "keep.txt").write_bytes(b"")
    before = _files(tmp_path)
    new = [
        OutputFile(out / "fonts" / "A-B.00000000.woff2", b"font", "font"),
        OutputFile(tmp_path / "elsewhere" / "x.css", b"/* Made by Aksara 2 */", "css"),
        OutputFile(out / "faces.css", b"/* Made by Aksara 2 */", "css"),
    ]
    calls = 0

    def failing(function):  # type: ignore[no-untyped-def]
        def wrapped(*arguments, **options):  # type: ignore[no-untyped-def]
            nonlocal calls
            calls += 1
            if calls == fail_at:
                raise OSError(28, "No space left on device", str(arguments[0]))
            return function(*arguments, **options)

        return wrapped

    monkeypatch.setattr(output_module.os, "fsync", failing(output_module.os.fsync))
    monkeypatch.setattr(Path, "replace", failing(Path.replace))
    monkeypatch.setattr(output_module.shutil, "copy2", failing(shutil.copy2))
    monkeypatch.setattr(Path, "mkdir", failing(Path.mkdir))
    try:
        write_output(new, out)
    except OutputError as error:
        assert "No space left" in str(error)
        assert calls >= fail_at
        assert _files(tmp_path) == before
        assert not (tmp_path / "elsewhere").exists()
    else:
        assert calls < fail_at
        assert (out / "faces.css").read_bytes().endswith(b"2 */")


@pytest.mark.parametrize(
    ("css", "arguments"),
    [
        ("web-fonts/faces.css", ()),
        ("styles/type.css", ("--css", "styles/type.css")),
        ("type.css", ("--css", "type.css", "--to", "assets & co/schön")),
        ("site/css/deep/type.css", ("--css", "site/css/deep/type.css", "--to", "site/type")),
        ("web-fonts/faces.css", ("--url", "/web-fonts/fonts/<file>")),
        ("web-fonts/faces.css", ("--format", "woff")),
        ("web-fonts/faces.css", ("--format", "sfnt")),
    ],
)
def test_wherever_the_css_stands_the_fonts_load(
    css: str, arguments: tuple[str, ...], aksara: Run, folder: Path, tmp_path: Path, site: str, browser: Browser
) -> None:
    done = aksara("build", folder, "--for-text", "Kapal cepat", *arguments)
    assert done.returncode == 0, done.stderr
    (tmp_path / "page.html").write_text(
        f'<!doctype html><link rel="icon" href="data:,"><link rel="stylesheet" href="{css}">'
        "<p style='font-family: var(--penyu-sans)'>Kapal <em>cepat</em> <b>Kapal <em>cepat</em></b></p>"
    )
    with watched_page(browser) as (page, problems):
        page.goto(f"{site}/page.html")
        states = page.evaluate(
            "document.fonts.ready.then(fonts => [...fonts].filter(f => !f.family.includes(' on ')).map(f => f.status))"
        )
        rules = page.evaluate(
            "[...document.styleSheets[0].cssRules].filter(rule => rule instanceof CSSFontFaceRule)"
            ".map(rule => ['font-family', 'font-weight', 'font-style', 'font-display', 'unicode-range', 'src']"
            ".map(name => rule.style.getPropertyValue(name)))"
        )
    assert problems == []
    assert states == ["loaded"] * 4
    rules = [rule for rule in rules if " on " not in rule[0]]
    assert [rule[1:3] for rule in rules] == [["400", "normal"], ["400", "italic"], ["700", "normal"], ["700", "italic"]]
    assert all(rule[0] == '"Penyu Sans"' and rule[3] == "swap" and all(rule) for rule in rules)


def test_characters_of_texts_files_and_ranges_add_up(aksara: Run, folder: Path, tmp_path: Path) -> None:
    (tmp_path / "words.txt").write_text("\ufeffđảo\r\n", encoding="utf-8")
    done = aksara(
        "build",
        folder,
        "--json",
        "--for-text",
        "Ab",
        "--for-file",
        "words.txt",
        "--for-range",
        "U+31",
        "--for-text",
        "語",
    )
    files = [file for face in json.loads(done.stdout)["families"][0]["faces"] for file in face["files"]]
    assert {file["unicode_range"] for file in files} == {"U+20, U+31, U+41, U+62, U+6F, U+111, U+1EA3"}


def test_what_no_font_has_is_reported(aksara: Run, folder: Path) -> None:
    done = aksara("build", folder, "--for-text", "a語")
    assert done.returncode == 0
    assert "none of these fonts contains 語 (U+8A9E)" in done.stderr


def test_a_face_that_would_draw_nothing_is_left_out(aksara: Run, tmp_path: Path) -> None:
    glyphs = [b"", b"", box(500)[0]]
    (tmp_path / "one.ttf").write_bytes(small_font({0x20: 1, 0x41: 2}, glyphs, names={1: "Satu", 2: "Regular"}))
    (tmp_path / "two.ttf").write_bytes(small_font(names={1: "Dua", 2: "Regular"}))
    done = aksara("build", ".", "--for-text", " B", "--json")
    assert [family["family"] for family in json.loads(done.stdout)["families"]] == ["Dua"]
    assert "one.ttf: has none of the characters asked for; left out" in done.stderr
    assert aksara("build", "one.ttf", "--for-text", " ").returncode == 3


def test_family_face_and_stack_are_the_users(aksara: Run, folder: Path, tmp_path: Path) -> None:
    font = folder / "desktop" / "PenyuSans-Bold.ttf"
    done = aksara("build", font, "--family", 'Laut "Biru" </style>', "--face", "PenyuSans-Bold.ttf", "650", "oblique",
                  "--stack", "Segoe UI, Arial", "--for-text", "a")  # fmt: skip
    assert done.returncode == 0, done.stderr
    css = (tmp_path / "web-fonts/faces.css").read_text()
    assert r'font-family: "Laut \"Biru\" \3C /style>";' in css
    assert "font-weight: 650;" in css
    assert "font-style: oblique;" in css
    assert '"Segoe UI", Arial, sans-serif;' in css
    assert "</style" not in css
    assert "<" not in (tmp_path / "web-fonts/proof.html").read_text().split("<title>")[1].split("</title>")[0]


def test_copies_are_skipped_and_conflicting_faces_are_asked_about(aksara: Run, folder: Path, tmp_path: Path) -> None:
    regular = folder / "desktop" / "PenyuSans-Regular.ttf"
    (folder / "web").mkdir()
    (folder / "web" / "PenyuSans-Regular.woff").write_bytes(open_font(regular).write("woff"))
    shutil.copy(regular, folder / "web" / "Copy of Penyu.ttf")
    done = aksara("build", folder, "--for-text", "Penyu", "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert [len(family["faces"]) for family in told["families"]] == [4]
    assert {Path(warning["where"]).name for warning in told["warnings"]} == {
        "Copy of Penyu.ttf",
        "PenyuSans-Regular.woff",
    }
    rival = folder / "web" / "Rival.ttf"
    rival.write_bytes(small_font(names={1: "Penyu Sans", 2: "Regular"}))
    done = aksara("build", folder, "--for-text", "A")
    assert done.returncode == 2
    assert "both claim to be Penyu Sans Regular" in done.stderr
    done = aksara("build", folder, "--for-text", "A", "--face", "Rival.ttf", "500", "normal")
    assert done.returncode == 0, done.stderr


def test_three_real_families_in_one_build(aksara: Run) -> None:
    done = aksara("build", LIBERATION[0].parent, "--for-text", "Wave", "--format", "woff2", "--json")
    told = json.loads(done.stdout)
    assert {f["family"]: len(f["faces"]) for f in told["families"]} == {
        "Liberation Mono": 4, "Liberation Sans": 8, "Liberation Serif": 4,
    }  # fmt: skip
    assert [family["generic"] for family in told["families"]] == ["monospace", "sans-serif", "serif"]


def test_the_core_can_be_used_without_the_command_line(folder: Path, tmp_path: Path) -> None:
    steps = []
    request = aksara.BuildRequest(
        families=(aksara.FamilyRequest(fonts=(folder,)),),
        folder=tmp_path / "x",
        characters=aksara.CharacterRequest(texts=("A",)),
    )
    plan = aksara.make_plan(request)
    build = aksara.run(plan, steps.append)
    assert [step.done for step in steps] == list(range(1, 9))
    assert {step.total for step in steps} == {8}
    written = aksara.write_output(build.files, plan.request.folder)
    assert len(written.new) == 12
    with pytest.raises(aksara.RequestError, match=r"^BuildRequest\.formats: there is no 'pfb'"):
        BuildRequest(families=request.families, formats=("pfb",))  # type: ignore[arg-type]

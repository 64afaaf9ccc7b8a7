"""From the build onto the site: URLs that lead to the fonts, preloading, licence texts, ZIPs, budgets."""

from __future__ import annotations

import difflib
import json
import re
import shutil
import zipfile
from hashlib import sha256
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator
from playwright.sync_api import Browser

from aksara import BuildRequest, FamilyRequest, RequestError, make_plan
from aksara.cli.flags import FLAGS
from aksara.container import sfnt
from aksara.font import Font, open_font
from aksara.sources import find_sources, is_own_archive
from conftest import Run, manifest_of, watched_page
from fonts import DEMO_FONTS, DEMO_SLABS, small_font
from places import ROOT

SCHEMA = json.loads((ROOT / "docs/faces.schema.json").read_text())


@pytest.fixture
def fonts(tmp_path: Path) -> Path:
    """Two faces of Penyu Sans and their licence."""
    folder = tmp_path / "désktop fonts"
    folder.mkdir()
    for path in DEMO_FONTS:
        if path.stem.endswith(("Regular", "-Bold")):
            shutil.copy(path, folder)
    shutil.copy(DEMO_FONTS[0].parent / "LICENCE.txt", folder)
    return folder


@pytest.mark.parametrize(
    ("folder", "css", "url"),
    [
        ("type", "type/faces.css", "<path>"),  # the same folder
        ("type", "faces.css", "<path>"),  # above
        ("type", "type/css/faces.css", "<path>"),  # below
        ("type/fönts & co", "css/1 2/faces.css", "<path>"),  # elsewhere
        ("type", "css/faces.css", "/type/fonts/<file>"),  # a prefix
        ("type", "css/faces.css", "../type/fonts/<file>?v=1"),  # a pattern
        ("type", "css/faces.css", "<path>#a b"),
    ],
)
def test_fonts_load_wherever_the_style_sheet_stands(
    folder: str, css: str, url: str, aksara: Run, fonts: Path, tmp_path: Path, site: str, browser: Browser
) -> None:
    done = aksara(
        "build", fonts, "--to", folder, "--fonts", "fonts", "--css", css, "--url", url, "--for-text", "Kapal",
        "--format", "woff2",
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "leads nowhere" not in done.stderr
    (link,) = re.findall(r'<link rel="preload".*>', done.stdout)
    (tmp_path / "page.html").write_text(
        f'<!doctype html><link rel="icon" href="data:,">{link}<link rel="stylesheet" href="{css.replace(" ", "%20")}">'
        "<p style='font-family: var(--penyu-sans)'>Kapal <b>Kapal</b></p>"
    )
    fetched: list[str] = []
    with watched_page(browser) as (page, problems):
        page.on("request", lambda request: fetched.append(request.url))
        page.goto(f"{site}/page.html")
        states = page.evaluate(
            "document.fonts.ready.then(fonts => [...fonts].filter(f => !f.family.includes(' on ')).map(f => f.status))"
        )
        page.wait_for_timeout(300)
    assert (states, problems) == (["loaded", "loaded"], [])
    # What the page preloads is what the style sheet asks for: no font is fetched twice.
    assert len([address for address in fetched if ".woff2" in address]) == 2


def test_broken_and_unresolvable_urls_are_reported(aksara: Run, fonts: Path) -> None:
    lost = aksara("build", fonts, "--url", "type/<file>", "--for-text", "a")
    assert lost.returncode == 0
    assert re.search(r'web-fonts/faces.css: url\("type/PenyuSans-Regular\S+"\) leads nowhere', lost.stderr)
    assert "leads nowhere" in manifest_of(fonts.parent / "web-fonts")["warnings"][-1]["message"]
    assert "Penyu Sans: no Italic, Bold Italic; browsers slant or thicken" in lost.stderr
    assert "All" not in lost.stdout.partition("Written")[2].partition("Next")[0]
    unknown = aksara("build", fonts, "--url", '{{ "<file>" | asset }}', "--for-text", "a")
    assert 'Not checked: where {{ "PenyuSans-' in unknown.stdout
    dry = aksara("build", fonts, "--url", "type/<file>", "--for-text", "a", "--dry-run", "--to", "new")
    assert "leads nowhere" in dry.stderr


def test_preload_is_the_users_choice(aksara: Run, fonts: Path, tmp_path: Path) -> None:
    shutil.copy(DEMO_SLABS[0], fonts)
    chosen = ("--preload", "Bold", "--preload", "penyu slab bold", "--preload", "Bold")
    done = aksara("build", fonts, "--for-text", "a", *chosen, "--format", "woff", "--format", "sfnt")
    assert done.returncode == 0, done.stderr
    preload = manifest_of(tmp_path / "web-fonts")["preload"]
    assert [(each["family"], each["label"], each["type"]) for each in preload] == [
        ("Penyu Sans", "Bold", "font/woff"), ("Penyu Slab", "Bold", "font/woff")]  # fmt: skip
    for each in preload:
        assert f'href="{each["path"]}"' in each["link"]
        assert each["link"].endswith('as="font" type="font/woff" crossorigin>')
        assert (tmp_path / "web-fonts" / each["path"]).is_file()
    wrong = aksara("build", fonts, "--for-text", "a", "--preload", "Black")
    assert (wrong.returncode, "has no such face; it has Regular, Bold" in wrong.stderr) == (2, True)
    # Before any face is made, which may take minutes.
    with pytest.raises(RequestError, match="no such face"):
        make_plan(BuildRequest(families=(FamilyRequest(fonts=(fonts,)),), preload=("Black",)))


def test_the_manifest_is_as_its_schema_says(aksara: Run, fonts: Path, tmp_path: Path) -> None:
    Draft202012Validator.check_schema(SCHEMA)
    check = Draft202012Validator(SCHEMA)
    aksara("build", fonts, "--budget", "1 KB", "--use", "600", "--licensed-to", "Penyu Ferries", "--url", "x/<file>",
           "--effort", "fast", "--for-range", "U+20-7E")  # fmt: skip
    told = manifest_of(tmp_path / "web-fonts")
    check.validate(told)
    # Nothing stands there that the schema does not describe, and nothing it promises is empty here.
    assert all(told[key] for key in ("families", "preload", "licence", "budget", "warnings"))
    assert told["families"][0]["fallbacks"]
    assert told["families"][0]["missing_faces"]
    for place in (
        told,
        told["families"][0],
        told["families"][0]["faces"][0],
        told["families"][0]["faces"][0]["files"][0],
    ):
        for key in list(place):
            kept = place.pop(key)
            assert not check.is_valid(told), key
            place[key] = kept
        place["unheard of"] = 1
        assert not check.is_valid(told)
        del place["unheard of"]


def test_licence_texts_travel_and_go_with_the_fonts(aksara: Run, fonts: Path, tmp_path: Path) -> None:
    (fonts / "deep").mkdir()
    (fonts / "deep" / "LICENCE.txt").write_text("another")
    (fonts / "deep" / "Licence (1) «é».PDF").write_bytes((fonts / "LICENCE.txt").read_bytes())
    (tmp_path / "contract.txt").write_text("contract")
    done = aksara("build", fonts, "--for-text", "a", "--publish-licence", "contract.txt")
    assert done.returncode == 0, done.stderr
    out = tmp_path / "web-fonts"
    files = manifest_of(out)["licence"]["files"]
    assert [file["path"] for file in files] == ["fonts/contract.txt", "fonts/LICENCE.txt", "fonts/LICENCE-2.txt"]
    for file in files:
        assert sha256((out / file["path"]).read_bytes()).hexdigest() == file["sha256"]
    assert "Licence texts beside the fonts: contract.txt, LICENCE.txt, LICENCE-2.txt" in (out / "faces.css").read_text()
    # What was copied goes when it is no longer wanted, unless somebody changed it.
    (out / "fonts/LICENCE-2.txt").write_text("changed")
    for path in (fonts / "deep").iterdir():
        path.unlink()
    assert aksara("build", fonts, "--for-text", "a").returncode == 0
    assert sorted(path.name for path in (out / "fonts").glob("*.txt")) == ["LICENCE-2.txt", "LICENCE.txt"]
    # A text of the user's that is in the way is not replaced.
    (out / "fonts/contract.txt").write_text("mine")
    refused = aksara("build", fonts, "--for-text", "a", "--publish-licence", "contract.txt")
    assert (refused.returncode, (out / "fonts/contract.txt").read_text()) == (2, "mine")
    assert aksara("build", fonts, "--publish-licence", "none.txt").returncode == 3


def test_a_licence_that_ends_is_reported_on_the_day_and_in_no_file(aksara: Run, fonts: Path, tmp_path: Path) -> None:
    for until, said in (("2001-01-31", "it ended on 2001-01-31"), ("9999-01-31", "")):
        (tmp_path / "aksara.toml").write_text(
            f'[site]\nalso = "a"\n[licence]\nuntil = {until}\n[[family]]\nfonts = ["désktop fonts"]\n', encoding="utf-8"
        )
        done = aksara("build", "--format", "woff2")
        assert done.returncode == 0
        assert ("licence" in done.stderr) == bool(said)
        assert said in done.stderr
        assert "ended" not in (tmp_path / "web-fonts/faces.json").read_text()


def test_an_archive_contains_everything_and_is_deterministic(aksara: Run, fonts: Path, tmp_path: Path) -> None:
    place = ("--to", "site/type", "--fonts", "fonts", "--css", "site/css/type.css")
    for name in ("one.zip", "two.zip"):
        done = aksara("build", fonts, "--for-text", "Kapal", *place, "--zip", name, "--no-cache")
        assert done.returncode == 0, done.stderr
    assert (tmp_path / "one.zip").read_bytes() == (tmp_path / "two.zip").read_bytes()
    with zipfile.ZipFile(tmp_path / "one.zip") as archive:
        assert archive.testzip() is None
        assert {info.date_time for info in archive.infolist()} == {(1980, 1, 1, 0, 0, 0)}
        for name in archive.namelist():
            assert archive.read(name) == (tmp_path / "site" / name).read_bytes()
        assert {"css/type.css", "type/faces.json", "type/proof.html", "type/fonts/LICENCE.txt"} <= set(
            archive.namelist()
        )
        assert len(archive.namelist()) == 8
    # It is ours: replaced by the next build, and no source of fonts.
    assert is_own_archive(tmp_path / "one.zip")
    shutil.copy(tmp_path / "one.zip", fonts)
    assert all(file.member is None for file in find_sources([fonts]).fonts)
    with zipfile.ZipFile(tmp_path / "order.zip", "w") as archive:
        archive.writestr("a.txt", "theirs")
    refused = aksara("build", fonts, "--for-text", "a", "--zip", "order.zip")
    assert (refused.returncode, "did not write this file" in refused.stderr) == (2, True)
    assert aksara("build", fonts, "--css", "x.css", "--zip", "x.css").returncode == 2


def _option(change: dict) -> list[str]:  # type: ignore[type-arg]
    """The option of the command line that makes a change of the manifest."""
    return [FLAGS[change["parameter"]], *change["values"]]


def test_a_missed_budget_is_reported_with_savings_that_hold(aksara: Run, fonts: Path, tmp_path: Path) -> None:
    some = ("--for-range", "U+30-5A,U+66-69", "--format", "woff2")
    fine = aksara("build", fonts, *some, "--effort", "fast", "--budget", "1 MB")
    assert (fine.returncode, "within the budget of 1,000 KB" in fine.stdout) == (0, True)
    limit = f"{manifest_of(tmp_path / 'web-fonts')['budget'][0]['bytes'] // 2} B"
    done = aksara("build", fonts, *some, "--effort", "fast", "--feature", "all", "--budget", limit)
    assert done.returncode == 1
    assert "over the budget of" in done.stdout
    assert (tmp_path / "web-fonts/faces.css").exists(), "missed, but made"
    (budget,) = manifest_of(tmp_path / "web-fonts")["budget"]
    files = [file for face in manifest_of(tmp_path / "web-fonts")["families"][0]["faces"] for file in face["files"]]
    assert budget["bytes"] == sum(file["bytes"] for file in files if file["format"] == "woff2")
    assert 1 <= len(budget["savings"]) <= 3
    assert any(saving["enough"] for saving in budget["savings"])
    # The figures are of files that were made: done as it says, it saves what it says.
    tried = 0
    for saving in budget["savings"]:
        options = [part for change in saving["changes"] for part in _option(change)]
        if not options or "--feature" in options:
            continue
        assert " ".join(options) in done.stdout
        effort = [] if "--effort" in options else ["--effort", "fast"]
        again = aksara("build", fonts, "--feature", "all", "--budget", limit, *some, *effort, *options, "--to", "again")
        assert manifest_of(tmp_path / "again")["budget"][0]["bytes"] == budget["bytes"] - saving["saves"], saving
        assert (again.returncode == 0) == saving["enough"]
        tried += 1
    assert tried
    hopeless = aksara("build", fonts, *some, "--effort", "fast", "--budget", "500 B")
    assert (hopeless.returncode, "None of this is enough" in hopeless.stdout) == (1, True)


def test_budgets_count_only_what_the_site_uses(aksara: Run, fonts: Path) -> None:
    whole = json.loads(aksara("build", fonts, "--for-text", "Kapal", "--budget", "9 MB", "--json").stdout)
    used = json.loads(
        aksara("build", fonts, "--for-text", "Kapal", "--budget", "9 MB", "--use", "400", "--json").stdout
    )
    sizes = [face["files"][0]["bytes"] for face in whole["families"][0]["faces"]]
    assert whole["budget"][0]["bytes"] == sum(sizes)
    assert used["budget"][0]["bytes"] == sizes[0]


def test_a_changed_face_changes_its_own_lines_only(aksara: Run, fonts: Path, tmp_path: Path) -> None:
    aksara("build", fonts, "--for-range", "U+20-7E", "--stack", "Arial")
    before = (tmp_path / "web-fonts/faces.css").read_text().splitlines()
    bold = next(fonts.glob("*-Bold.ttf"))
    font = open_font(bold)
    glyf = bytearray(font.raw("glyf"))
    glyf[2] ^= 1  # the bounding box of the first glyph
    tables = {tag: font.raw(tag) for tag in font} | {"glyf": bytes(glyf)}
    bold.write_bytes(sfnt.write(tables, "\0\1\0\0"))
    assert aksara("build", fonts, "--for-range", "U+20-7E", "--stack", "Arial").returncode == 0
    after = (tmp_path / "web-fonts/faces.css").read_text().splitlines()
    changed = [line for line in difflib.ndiff(before, after) if line[0] in "+-"]
    assert changed
    assert all("PenyuSans-Bold." in line for line in changed)


def test_an_installed_copy_is_tried_under_names_that_mean_no_other_face(aksara: Run, tmp_path: Path) -> None:
    fonts = {
        "a.ttf": {1: "Kotak", 2: "Regular", 4: "Kotak", 6: "Kotak-Regular"},
        "b.ttf": {1: "Kotak", 2: "Bold", 4: "Kotak", 6: "Kotak-Bold"},  # its full name is the regular's
        "c.ttf": {1: "Kotak", 2: "Italic", 4: "Kotak Italic", 6: "KotakSomething"},
        "d.ttf": {1: "Kotak", 2: "Light", 4: "Kotak Medium", 6: "Kotak-Medium"},  # says another weight
    }
    marks = {"Bold": (700, 1 << 5, 0.0), "Italic": (400, 1, -12.0), "Light": (300, 1 << 6, 0.0)}
    for name, names in fonts.items():
        weight, selection, angle = marks.get(names[2], (400, 1 << 6, 0.0))
        (tmp_path / name).write_bytes(small_font(names=names, weight=weight, selection=selection, angle=angle))
    done = aksara("build", ".", "--local", "--format", "woff2")
    assert done.returncode == 0, done.stderr
    css = (tmp_path / "web-fonts/faces.css").read_text()
    rules = re.findall(r"from (\w)\.ttf \*/\n@font-face \{(.*?)\n\}", css, re.DOTALL)
    names = {name: re.findall(r'local\("(.*?)"\)', rule) for name, rule in rules}
    assert names == {"a": ["Kotak-Regular"], "b": ["Kotak-Bold"], "c": ["Kotak Italic"], "d": []}
    assert "d.ttf: its names could mean another face" in done.stderr


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("--to", "fonts"), "the fonts are in this folder"),
        (("--use", "heavy metal"), "is not a face"),
        (("--budget", "much"), "is not a size"),
        (("--zip", "fonts"), "--zip: fonts is a folder, not a file"),
        (("--for-site", "nowhere"), "no such file or folder"),
        (("--for-site", "empty"), "no pages or templates here"),
    ],
)
def test_impossible_requests_are_refused(arguments: tuple[str, ...], said: str, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "fonts").mkdir()
    (tmp_path / "empty").mkdir()
    (tmp_path / "fonts/a.ttf").write_bytes(small_font())
    done = aksara("build", "fonts", *arguments)
    assert (done.returncode, said in done.stderr) == (2, True), done.stderr
    assert sorted(path.name for path in tmp_path.iterdir()) == ["empty", "fonts"]


def test_the_characters_of_a_site(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "site").mkdir()
    (tmp_path / "site/index.html").write_text(
        '<!doctype html><html lang="id"><style>p::after { content: "\\2192" }</style><script>"§"</script>'
        "<p title='é'>Kapal &euro;&#x127;</p><img alt=Ω>", encoding="utf-8")  # fmt: skip
    (tmp_path / "site/a.css").write_text('a::before { content: "\\a9 x" }')
    (tmp_path / "site/photo.jpg").write_bytes(b"\xff\xd8")
    done = aksara("build", DEMO_FONTS[0], "--for-site", "site", "--format", "sfnt", "--exact")
    assert done.returncode == 0, done.stderr
    (path,) = (tmp_path / "web-fonts/fonts").glob("*.ttf")
    kept = {chr(code) for code in Font.read(path.read_bytes()).characters}
    assert kept >= set("Kapl €→ ")
    assert not kept & set("§éÉ©x"), "neither scripts, nor tooltips, nor sheets that no page links to"
    assert "Ω" in done.stderr

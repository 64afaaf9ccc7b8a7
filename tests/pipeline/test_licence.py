"""The licence: what the font says, what the user states, and what travels with the files."""

from __future__ import annotations

import json
import re
import shutil
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import pytest

from aksara.container import add_metadata
from aksara.errors import InputError
from aksara.faces import WebLicence, read_metadata, web_metadata
from aksara.faces.permission import embedding
from aksara.faces.reserved import ReservedName, reserved_names
from aksara.font import Font, open_font
from aksara.inspection import licence_beginning
from aksara.sources import SourceFile, find_sources
from aksara.tables import Cff, Name
from conftest import Run
from fonts import DEMO_FONTS, DEMO_SLABS, corpus, small_font

PENYU = DEMO_FONTS[0]


@pytest.mark.parametrize(
    ("fs_type", "said"),
    [(0x0002, "restricted: must not be embedded"), (0x0108, "editable.*must not be subsetted"),
     (0x0200, "only its bitmaps")],
)  # fmt: skip
def test_a_font_that_forbids_web_use_is_refused_in_three_lines(
    fs_type: int, said: str, aksara: Run, tmp_path: Path
) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font(fs_type=fs_type))
    done = aksara("build", "a.ttf")
    assert done.returncode == 3
    lines = done.stderr.strip().splitlines()
    assert len(lines) == 3
    assert lines[0].startswith("aksara: a.ttf: the font itself forbids this use")
    assert re.search(said, lines[1])
    assert "--web-licence" in lines[2]
    assert not (tmp_path / "web-fonts").exists()


def test_a_stated_licence_is_recorded_everywhere(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font(fs_type=2))
    holder = 'Penyu <Ferries> & "Söhne" */'
    done = aksara("build", "a.ttf", "--web-licence", "--licensed-to", holder, "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert told["licence"] == {"web_licence": True, "holder": holder, "domains": [], "until": None, "files": []}
    assert told["families"][0]["faces"][0]["embedding"].startswith("restricted")
    css = (tmp_path / "web-fonts/faces.css").read_text()
    assert 'Penyu (Ferries) & "Söhne" * / holds a licence for the web' in css
    for path in (tmp_path / "web-fonts/fonts").iterdir():
        assert read_metadata(open_font(path).metadata)["Licensee"] == holder


def test_several_families_are_refused_at_once(aksara: Run, tmp_path: Path) -> None:
    for name in ("Satu", "Dua"):
        (tmp_path / f"{name}.ttf").write_bytes(small_font(fs_type=2, names={1: name, 2: "Regular"}))
    done = aksara("build", ".")
    assert done.stderr.count("the font itself forbids") == 2


def test_fonts_that_allow_it_come_with_a_reminder(aksara: Run, tmp_path: Path) -> None:
    shutil.copytree(PENYU.parent, tmp_path / "fonts")
    done = aksara("build", "fonts", "--for-text", "a")
    assert "check the seller's licence (see fonts/LICENCE.txt)" in done.stdout
    told = json.loads((tmp_path / "web-fonts/faces.json").read_text())
    (file,) = told["licence"]["files"]
    assert (told["licence"]["web_licence"], file["source"]) == (False, "fonts/LICENCE.txt")
    assert (tmp_path / "web-fonts" / file["path"]).read_bytes() == (tmp_path / "fonts/LICENCE.txt").read_bytes()


@pytest.mark.parametrize(
    ("fs_type", "contradictory", "reserved"), [(0, False, False), (0x000C, True, False), (0x0011, False, True)]
)
def test_contradictions_are_reported(fs_type: int, contradictory: bool, reserved: bool) -> None:
    found = embedding(Font.read(small_font(fs_type=fs_type)))
    assert (found.contradictory, found.reserved_bits) == (contradictory, reserved)
    assert ("several permissions" in found.words, "mean nothing yet" in found.words) == (contradictory, reserved)


def test_metadata_says_who_made_it_and_who_may_use_it() -> None:
    font = open_font(PENYU)
    xml = web_metadata(font, WebLicence(holder="Penyu Ferries"))
    root = ElementTree.fromstring(xml)
    assert root.tag == "metadata"
    assert root.get("version") == "1.0"
    assert [child.tag for child in root] == ["uniqueid", "vendor", "credits", "license", "copyright", "licensee"]
    shown = read_metadata(xml)
    assert shown["Licensee"] == "Penyu Ferries"
    assert shown["Vendor"] == "Penyu Ferries"
    assert "as long as this notice stays" in shown["Licence"]
    assert "https://penyu.example/type/licence" in shown["Licence"]
    assert web_metadata(Font.read(small_font(without=("name",))), WebLicence()) == b""


@pytest.mark.parametrize("form", ["woff", "woff2"])
def test_metadata_travels_in_the_file_and_changes_no_table(form: str) -> None:
    font = open_font(PENYU)
    plain = font.write(form)
    xml = web_metadata(font, WebLicence(holder="Penyu Ferries"))
    noted = Font.read(add_metadata(plain, xml))
    assert noted.metadata == xml
    assert {tag: noted.raw(tag) for tag in noted} == {tag: Font.read(plain).raw(tag) for tag in noted}
    assert Font.read(plain).metadata == b""


def test_small_files_do_not_pay_for_metadata_unless_a_holder_is_named(aksara: Run, tmp_path: Path) -> None:
    aksara("build", PENYU, "--for-text", "ab", "--to", "small")
    aksara("build", PENYU, "--for-text", "ab", "--to", "named", "--licensed-to", "Penyu Ferries")
    for folder, has in (("small", False), ("named", True)):
        assert [bool(open_font(path).metadata) for path in (tmp_path / folder / "fonts").glob("*.woff*")] == [has, has]


def test_foreign_metadata_is_read_and_not_trusted() -> None:
    theirs = [font for font in map(open_font, (p for p in corpus() if p.suffix == ".woff2")) if font.metadata]
    assert theirs, "the Padauk package carries metadata"
    assert all(read_metadata(font.metadata) for font in theirs)
    bomb = (
        b"<!DOCTYPE m [" + b"".join(b'<!ENTITY e%d "%s">' % (n, b"&e%d;" % (n - 1) * 10) for n in range(1, 9)) + b"]>"
    )
    for xml in (
        bomb + b"<metadata><licensee name='&e8;'/></metadata>",
        b'<!DOCTYPE m [<!ENTITY x SYSTEM "file:///etc/passwd">]><metadata><licensee name="a">&x;</licensee></metadata>',
        b"<metadata><licensee name='a'",
        b"\xff\xfe\0",
    ):
        assert read_metadata(xml) == {}
    nasty = b"<metadata><licensee name='a&#x202E;&#x9;b'/></metadata>"
    assert read_metadata(nasty) == {"Licensee": "a b"}


def test_inspect_shows_the_licence(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.woff2").write_bytes(
        add_metadata(
            open_font(PENYU).write("woff2"), web_metadata(open_font(PENYU), WebLicence(holder="Penyu Ferries"))
        )
    )
    (tmp_path / "EULA.txt").write_text("Line one\n\x1b[31mLine two\n" + "more\n" * 100)
    done = aksara("inspect", "a.woff2", "--licence")
    assert "Licensee (WOFF)" in done.stdout
    assert "EULA.txt" in done.stdout
    assert "Line two" in done.stdout
    assert "\x1b" not in done.stdout


def test_licence_texts_are_bounded(tmp_path: Path) -> None:
    path = tmp_path / "Licence.txt"
    for data, shown in (
        (b"%PDF-1.4", "Not plain text"),
        (b"a" * 3_000_000, "larger than 2 MB"),
        (b"Fair\n" * 99, "Fair"),
    ):
        path.write_bytes(data)
        text = licence_beginning(SourceFile(path, "Licence.txt"))
        assert shown in text
        assert len(text) < 1000


def _zip(path: Path, files: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return path


def test_a_zip_from_a_seller_is_built(aksara: Run, tmp_path: Path) -> None:
    fonts = {f"Penyu Sans/Desktop/{path.name}": path.read_bytes() for path in DEMO_FONTS}
    other = {"Penyu Sans/EULA.pdf": b"%PDF", "__MACOSX/._x.ttf": b"x", "../../evil.ttf": PENYU.read_bytes(),
             "Penyu Sans/specimen.png": b"png"}  # fmt: skip
    _zip(tmp_path / "order 1234.zip", fonts | other)
    done = aksara("build", "order 1234.zip", "--for-text", "a", "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    paths = [face["path"] for face in told["families"][0]["faces"]]
    assert "order 1234.zip/Penyu Sans/Desktop/PenyuSans-Italic.ttf" in paths
    assert len(paths) == 4, "a member that points out of the archive is no font of this delivery"
    assert [file["source"] for file in told["licence"]["files"]] == ["order 1234.zip/Penyu Sans/EULA.pdf"]
    assert (tmp_path / "web-fonts/fonts/EULA.pdf").read_bytes() == b"%PDF"
    assert sorted(path.name for path in tmp_path.iterdir()) == ["order 1234.zip", "web-fonts"]
    # A ZIP among other things in a folder is looked into as well.
    assert len(find_sources([tmp_path]).fonts) == 4


def test_hostile_zips(aksara: Run, tmp_path: Path) -> None:
    bomb = _zip(tmp_path / "bomb.zip", {"a.ttf": bytes(150_000_000)})
    done = aksara("build", bomb)
    assert done.returncode == 3
    assert "larger than 100 MB" in done.stderr
    data = bytearray(_zip(tmp_path / "b.zip", {"a.ttf": PENYU.read_bytes()}).read_bytes())
    data[200] ^= 0xFF
    (tmp_path / "b.zip").write_bytes(data)
    assert "cannot be unzipped" in aksara("build", "b.zip").stderr
    with pytest.raises(InputError, match="no fonts here"):
        find_sources([_zip(tmp_path / "c.zip", {"readme.txt": b""})])


_RESERVING = 'Copyright 2026 Penyu Ferries, with Reserved Font Name "Kotak".\n\nThis font may be changed.\n'


def test_a_reserved_name_is_reported_and_can_be_replaced_in_the_fonts(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "fonts").mkdir()
    names = {1: "Kotak", 2: "Regular", 4: "Kotak", 6: "Kotak-Regular", 0: "Copyright 2026 Kotak"}
    (tmp_path / "fonts/a.ttf").write_bytes(small_font(names=names))
    (tmp_path / "fonts/LICENCE.txt").write_text(_RESERVING)
    done = aksara("build", "fonts", "--effort", "fast")
    assert done.returncode == 0
    assert "reserves the name Kotak" in done.stderr and 'with Reserved Font Name "Kotak"' in done.stderr
    assert "LICENCE.txt" in done.stderr and "--family" in done.stderr
    done = aksara("build", "fonts", "--effort", "fast", "--family", "Perahu Baru", "--to", "renamed")
    assert done.returncode == 0 and "reserves" not in done.stderr
    for path in (tmp_path / "renamed/fonts").glob("*.woff*"):
        table = open_font(path).table(Name)
        said = {number: table.get(number) for number in (0, 1, 2, 4, 6)}
        assert said == {
            0: "Copyright 2026 Kotak", 1: "Perahu Baru", 2: "Regular", 4: "Perahu Baru", 6: "PerahuBaru-Regular",
        }  # fmt: skip
    # With PostScript outlines the table of these has a name, too.
    done = aksara("build", DEMO_SLABS[0], "--effort", "fast", "--family", "Perahu", "--to", "slab", "--for-text", "abc")
    (made,) = (tmp_path / "slab/fonts").glob("*.woff2")
    font = open_font(made)
    assert font.table(Cff).name == b"Perahu-Bold" and font.table(Name).get(4) == "Perahu Bold"


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ('with Reserved Font Name "Penyu" and ‘Lontar Sans’.', ["Penyu", "Lontar Sans"]),
        ("Copyright 2010, with Reserved Font Names Penyu Sans, Kapal.\nThis", ["Penyu Sans", "Kapal"]),
        ("(https://penyu.example), with Reserved Font Name Penyu. All rights", ["Penyu"]),
        ('"Reserved Font Name" refers to any names specified as such', []),
        ("No changed version may use the Reserved Font Name(s) unless", []),
        ("with Reserved Font Name <Reserved Font Name>.", []), ("", []),
        ("with reserved font name" + " x" * 9999, None),
    ],
)  # fmt: skip
def test_reserved_names_are_found_in_texts(text: str, names: list[str] | None) -> None:
    found = [each.name for each in reserved_names([("LICENCE.txt", text)])]
    assert found == names if names is not None else len(found) <= 20


@pytest.mark.parametrize(
    ("family", "taken"),
    [("Penyu Sans", True), ("PENYU", True), ("Penyuland", False), ("Perahu", False), ("Sans Penyu 2", True)],
)
def test_a_family_with_a_reserved_name_is_reported(family: str, taken: bool) -> None:
    assert ReservedName("Penyu", "", "").is_in(family) is taken


def test_the_same_is_reported_of_many_faces_once(aksara: Run) -> None:
    done = aksara("inspect", *DEMO_FONTS, "--licence")
    assert done.stdout.count("https://penyu.example/type/licence") == 1 and "All 4 faces" in done.stdout
    done = aksara("inspect", DEMO_FONTS[0], DEMO_FONTS[1], DEMO_SLABS[0], "--licence")
    assert "All 3 faces" in done.stdout


def test_a_project_keeps_a_ledger_of_licences(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "fonts").mkdir()
    (tmp_path / "fonts/a.ttf").write_bytes(
        small_font(names={1: "Kotak", 2: "Regular", 8: "Bengkel Huruf", 14: "https://x.example"})
    )
    (tmp_path / "fonts/LICENCE.txt").write_text("yes")
    (tmp_path / "aksara.toml").write_text(
        '[licence]\nweb = true\nholder = "Penyu Ferries"\ndomains = ["penyu.example"]\nuntil = 2020-01-31\n'
        '[[output]]\nfolder = "one"\n[[output]]\nfolder = "two"\n[[family]]\nfonts = ["fonts/"]\n'
    )
    done = aksara("inspect", "aksara.toml", "--licence")
    assert done.returncode == 0, done.stderr
    told = ("Bengkel Huruf", "https://x.example", "Penyu Ferries, for the web", "penyu.example", "one, two",
            "ended on 2020-01-31", "fonts/LICENCE.txt")  # fmt: skip
    for said in told:
        assert said in done.stdout, said
    (entry,) = json.loads(aksara("inspect", "aksara.toml", "--licence", "--json").stdout)["licences"]
    assert (entry["family"], entry["until"], entry["used_in"]) == ("Kotak", "2020-01-31", ["one", "two"])
    assert "Kotak" in aksara("inspect", "aksara.toml").stdout

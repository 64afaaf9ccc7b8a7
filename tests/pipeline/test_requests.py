"""Requests are values and paths; the plan finds out what they mean; errors name parameter and place, not options."""

from __future__ import annotations

import typing
from collections.abc import Callable
from pathlib import Path

import pytest
from msgspec import Struct
from msgspec.structs import fields

from aksara import (
    BuildRequest,
    CharacterRequest,
    FaceOverride,
    FamilyRequest,
    FeatureChoice,
    PathPattern,
    RequestError,
    WebLicence,
    make_plan,
    read_project,
    write_output,
)
from aksara.cli.flags import FLAGS
from aksara.errors import EmbeddingNotPermitted, FontError, Location, located
from aksara.font import Font
from aksara.pipeline import OutputFile
from aksara.project.keys import TABLES
from aksara.subsetting import subset
from aksara.web.font_matching import DesiredFace
from conftest import Run
from fonts import box, small_font


@pytest.fixture
def home(tmp_path: Path) -> Path:
    (tmp_path / "fonts").mkdir()
    (tmp_path / "fonts/a.ttf").write_bytes(small_font())
    (tmp_path / "page.html").write_text("<html lang=id><p>ABBA")
    return tmp_path


def test_a_request_contains_nothing_that_was_read() -> None:
    """Numbers, texts, dates, paths, and records of these: it can be written down, compared, and planned again."""
    plain = {str, int, bool, float, Path, type(None)}

    def check(kind: object, seen: set[object]) -> None:
        if kind in seen or kind in plain or kind is ...:
            return
        seen.add(kind)
        if isinstance(kind, type) and (issubclass(kind, Struct) or hasattr(kind, "_fields")):
            for hint in typing.get_type_hints(kind).values():
                check(hint, seen)
        elif typing.get_args(kind):
            assert typing.get_origin(kind) is typing.Literal or not [check(a, seen) for a in typing.get_args(kind)] or 1
        else:
            assert kind.__module__ in ("datetime", "builtins"), kind  # type: ignore[attr-defined]

    found: set[object] = set()
    check(BuildRequest, found)
    names = {kind.__name__ for kind in found if isinstance(kind, type)}
    assert {"FamilyRequest", "CharacterRequest", "WebLicence", "PathPattern", "FeatureChoice"} <= names
    assert not names & {"Font", "CharacterSelection", "PageText", "SourceFile"}


def test_making_a_request_reads_nothing(tmp_path: Path) -> None:
    request = BuildRequest(
        families=(FamilyRequest(fonts=(tmp_path / "nowhere", PathPattern("*.ttf", tmp_path))),),
        characters=CharacterRequest(pages=(tmp_path / "none",), text_files=(tmp_path / "none.txt",)),
        published_licences=(tmp_path / "none.pdf",),
    )
    assert request == request.with_choices()
    (tmp_path / "aksara.toml").write_text('[site]\npages = ["x/*.html"]\n[[family]]\nfonts = ["y/*.ttf"]\n')
    (read,) = read_project(tmp_path / "aksara.toml")
    assert read.families[0].fonts == (PathPattern("y/*.ttf", tmp_path),)
    assert read.characters.pages == (PathPattern("x/*.html", tmp_path),)


def test_the_same_request_is_planned_again_when_files_change(home: Path) -> None:
    request = BuildRequest(
        families=(FamilyRequest(fonts=(PathPattern("fonts/*.ttf", home),)),),
        characters=CharacterRequest(pages=(home / "page.html",), texts=("C",)),
        folder=home / "out",
    )
    first = make_plan(request)
    assert {0x41, 0x42, 0x43} <= set(first.selection.characters or ())
    assert first.page_folder == home
    (home / "page.html").write_text("<p>Ω")
    (home / "fonts/b.ttf").write_bytes(small_font(names={1: "Dua", 2: "Regular"}))
    second = make_plan(request)
    assert 0x3A9 in (second.selection.characters or ()) and 0x3A9 in second.missing
    assert [family.name for family in second.families] == ["Dua", "Kotak"]


def _request(home: Path, **fields: object) -> BuildRequest:
    return BuildRequest(**{"families": (FamilyRequest(fonts=(home / "fonts",)),), "folder": home / "out"} | fields)  # type: ignore[arg-type]


# What is wrong → the parameter that an error of it names.
WRONG: dict[str, Callable[[Path], object]] = {
    "BuildRequest.url": lambda home: _request(home, url="/x/"),
    "BuildRequest.formats": lambda home: _request(home, formats=()),
    "BuildRequest.effort": lambda home: _request(home, effort="least"),
    "BuildRequest.folder": lambda home: make_plan(_request(home, folder=home / "page.html")),
    "BuildRequest.css": lambda home: make_plan(_request(home, css=home / "fonts")),
    "BuildRequest.archive": lambda home: make_plan(_request(home, archive=home / "fonts")),
    "BuildRequest.preload": lambda home: make_plan(_request(home, preload=("Black",))),
    "CharacterRequest.ranges": lambda _: CharacterRequest(ranges=("A-Z!",)),
    "CharacterRequest.languages": lambda _: CharacterRequest(languages=("Indonesian",)),
    "CharacterRequest.scripts": lambda _: CharacterRequest(scripts=("Latin",)),
    "CharacterRequest.texts": lambda home: make_plan(_request(home, characters=CharacterRequest(texts=("",)))),
    "CharacterRequest.text_files": lambda home: make_plan(
        _request(home, characters=CharacterRequest(text_files=(home / "none",)))
    ),
    "CharacterRequest.pages": lambda home: make_plan(
        _request(home, characters=CharacterRequest(pages=(PathPattern("*.htm", home),)))
    ),
    "FamilyRequest.fonts": lambda home: make_plan(
        _request(home, families=(FamilyRequest(fonts=(PathPattern("*.otf", home),)),))
    ),
    "FamilyRequest.features": lambda _: FamilyRequest(fonts=(), features=FeatureChoice(frozenset({"liga!"}))),
    "FamilyRequest.name": lambda _: FamilyRequest(fonts=(), name=" "),
    "FamilyRequest.display": lambda _: FamilyRequest(fonts=(), display="never"),  # type: ignore[arg-type]
    "FamilyRequest.overrides": lambda _: FaceOverride("a.ttf", 0, "normal"),
    "WebLicence.css": lambda home: _request(home, licence=WebLicence(css=".a {")),
}


@pytest.mark.parametrize("parameter", WRONG)
def test_errors_name_their_parameter_and_no_option(parameter: str, home: Path) -> None:
    with pytest.raises(RequestError) as caught:
        WRONG[parameter](home)
    assert caught.value.parameter == parameter
    assert str(caught.value).startswith(f"{parameter}: ")
    assert "--" not in str(caught.value)


def test_every_parameter_is_a_field_and_has_an_option_or_a_key() -> None:
    owners = {kind.__name__: kind for kind in (BuildRequest, FamilyRequest, CharacterRequest, WebLicence)}
    keys = {key.parameter for keys in TABLES.values() for key in keys} - {""}
    for parameter in {*WRONG, *FLAGS, *keys}:
        owner, _, name = parameter.partition(".")
        assert name in {field.name for field in fields(owners[owner])}, parameter
    assert set(WRONG) <= set(FLAGS) | keys


def test_planning_errors_name_the_line_of_the_project_file(aksara: Run, home: Path) -> None:
    toml = (
        '[output]\npreload = ["Black"]\n\n[[family]]\nfonts = ["fonts"]\n[[family]]\nname = "Dua"\nfonts = ["none/*"]\n'
    )
    (home / "aksara.toml").write_text(toml)
    done = aksara("build")
    assert done.stderr.startswith("aksara: aksara.toml, line 8: fonts: nothing matches 'none/*'"), done.stderr
    (home / "aksara.toml").write_text(toml[: toml.rindex("[[family]]")])
    assert aksara("build").stderr.startswith("aksara: aksara.toml, line 2: preload: 'Black': Kotak has no such face")
    # What an option sets is not the file's fault.
    assert aksara("build", "--preload", "Thin").stderr.startswith("aksara: --preload: 'Thin': Kotak has no such face")
    (request,) = read_project(home / "aksara.toml")
    with pytest.raises(RequestError) as caught:
        make_plan(request)
    assert caught.value.location == Location(str(home / "aksara.toml"), 2, "preload")


def test_a_page_that_cannot_be_read_is_reported(aksara: Run, home: Path) -> None:
    (home / "large.html").write_bytes(b"<p>AB" + b" " * 10_000_000)
    (home / "aksara.toml").write_text('[[family]]\nfonts = ["fonts"]\n[site]\npages = ["*.html"]\n')
    done = aksara("build")
    # The rest of the site is still read.
    assert done.returncode == 0, done.stderr
    assert "large.html: larger than 10 MB" in done.stderr
    (home / "aksara.toml").write_text('[[family]]\nfonts = ["fonts"]\n[site]\npages = ["*.htm"]\n')
    assert "aksara.toml, line 4: pages: no page matches" in aksara("build").stderr


def test_a_refused_permission_is_an_error_of_its_own(home: Path) -> None:
    (home / "fonts/a.ttf").write_bytes(small_font(fs_type=2))
    with pytest.raises(EmbeddingNotPermitted) as caught:
        make_plan(_request(home))
    assert caught.value.files == (str(home / "fonts/a.ttf"),)
    assert caught.value.remedy == "WebLicence.stated"
    assert make_plan(_request(home, licence=WebLicence(stated=True))).faces


def test_a_file_in_the_way_is_reported_with_the_option_that_chose_its_path(aksara: Run, home: Path) -> None:
    (home / "main.css").write_text("body {}")
    with pytest.raises(RequestError) as caught:
        write_output([OutputFile(home / "main.css", b"x", "css", "BuildRequest.css")], home)
    assert caught.value.parameter == "BuildRequest.css"
    done = aksara("build", "fonts", "--css", "main.css")
    assert done.stderr.startswith("aksara: --css: main.css: Aksara did not write this file")


def test_errors_of_fonts_say_how_deep_they_lie() -> None:
    with pytest.raises(FontError) as caught, located(file="a.ttf", table="GSUB", lookup=3), located(subtable=1):
        raise FontError("it ends early", offset=20)
    assert str(caught.value).startswith("a.ttf: the font is damaged in table 'GSUB', lookup 3, subtable 1, byte 20: it")
    part = b"\xff\xff" + bytes(8) + b"\0\x02\0\x09\0\0"
    font = Font.read(small_font(glyphs=[b"", part, box(9)[0], box(9)[0]]), "a.ttf")
    with pytest.raises(FontError, match=r"a\.ttf: .* in table 'glyf', glyph 1: one of its components is glyph 9"):
        subset(font, {0x41})


def test_with_choices_reaches_requests_and_their_families(home: Path) -> None:
    request = _request(home).with_choices(effort="fast", display="block", uses=(DesiredFace(700),))
    assert (request.effort, request.families[0].display) == ("fast", "block")
    assert request.families[0].uses == (DesiredFace(700),)

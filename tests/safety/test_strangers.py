"""A stranger's project, cloned and built: nothing in it runs, nothing outside it is read into or written by a build."""

from __future__ import annotations

import re
import socket
import subprocess
import sys
import urllib.error
import urllib.request
from pathlib import Path
from threading import Thread

import pytest

from aksara.proof.serving import ProofServer
from aksara.text.ranges import parse_ranges
from conftest import Run, manifest_of
from fonts import small_font
from places import ROOT

_ROOT = ROOT
_PROGRAM = Path(sys.executable).with_name("aksara")


def _project(folder: Path, text: str) -> Path:
    folder.mkdir(exist_ok=True)
    (folder / "a.ttf").write_bytes(small_font())
    (folder / "aksara.toml").write_text(f'{text}\n[[family]]\nfonts = ["a.ttf"]\n')
    return folder


# ---- what runs


@pytest.mark.parametrize("start", [[str(_PROGRAM)], [sys.executable, "-P", "-m", "aksara"]])
def test_no_module_beside_the_project_is_imported(start: list[str], tmp_path: Path) -> None:
    _project(tmp_path, '[site]\npages = ["*.html"]\n[[output.template]]\nfrom = "m.j2"\nto = "out.txt"')
    (tmp_path / "m.j2").write_text("{{ families[0].family }} {{ 1234 | bytes }}")
    for number in range(50):  # enough pages to be read in several processes
        (tmp_path / f"{number}.html").write_text(f"<p style='font-family: Kotak'>{number} A")
    for name in ("aksara", "json", "random", "jinja2", "typing", "multiprocessing"):
        (tmp_path / f"{name}.py").write_text(f"open('ran-{name}', 'w')\nraise SystemExit(7)")
    done = subprocess.run([*start, "build", "--jobs", "2"], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "out.txt").read_text() == "Kotak 1.2 KB"
    assert not list(tmp_path.glob("ran-*"))


def test_rendering_a_template_imports_no_more_than_it_needs() -> None:
    code = "import sys, aksara.web.rendering; print([n for n in sys.modules if n.startswith(('aksara.', 'numpy'))])"
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert "aksara.pipeline" not in loaded and "numpy" not in loaded


def test_no_text_recommends_a_foreign_package(tmp_path: Path) -> None:
    texts = [
        _ROOT / "README.md",
        *(_ROOT / "docs").glob("*.md"),
        *(_ROOT / "src").rglob("*.py"),
        *(_ROOT / ".ci").iterdir(),
    ]
    commands = {
        (path.name, command)
        for path in texts
        for command in re.findall(r"pip install [^`\n)]*|additional_dependencies: .*", path.read_text())
    }
    named = {command for _, command in commands if "aksara" in command}
    wheel = "ci/aksara_fonts-0.3.0-py3-none-any.whl"
    assert named == {f"pip install {wheel}"}, named
    # Tried to the letter, but that nothing is fetched.
    (tmp_path / "ci").mkdir()
    subprocess.run(
        [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", tmp_path / "ci"],
        cwd=_ROOT, check=True, capture_output=True,
    )  # fmt: skip
    done = subprocess.run(
        [sys.executable, "-m", *f"pip install {wheel} --no-deps --no-index --target there".split()],
        cwd=tmp_path, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "there/aksara/__main__.py").exists() and (tmp_path / "there/bin/aksara").exists()


# ---- what is published


@pytest.fixture
def secret(tmp_path: Path) -> Path:
    """A file of the user's, beside the project."""
    path = tmp_path / "secret.txt"
    path.write_text("hush-hush")
    return path


@pytest.mark.parametrize(
    "said",
    [
        '[licence]\npublish = "{}"', '[licence]\npublish = "link.txt"',
        '[[output.template]]\nfrom = "{}"\nto = "out.txt"', '[[output.template]]\nfrom = "link.txt"\nto = "out.txt"',
    ],
)  # fmt: skip
@pytest.mark.parametrize("written", ["../secret.txt", "absolute"])
def test_no_text_outside_the_project_is_published(
    said: str, written: str, secret: Path, aksara: Run, tmp_path: Path
) -> None:
    home = _project(tmp_path / "home", said.format(secret if written == "absolute" else written))
    (home / "link.txt").symlink_to(secret)
    done = aksara("build", cwd=home)
    assert done.returncode == 2 and "outside the project's folder" in done.stderr, done.stderr
    assert "--allow-outside" in done.stderr and "aksara.toml, line" in done.stderr
    assert "hush-hush" not in done.stderr + done.stdout and not (home / "web-fonts").exists()
    done = aksara("build", "--allow-outside", cwd=home)
    assert done.returncode == 0, done.stderr
    assert any("hush-hush" in path.read_text() for path in home.rglob("*.txt") if not path.is_symlink())


def test_a_licence_text_that_is_a_link_leading_out_is_left_behind(secret: Path, aksara: Run, tmp_path: Path) -> None:
    home = _project(tmp_path / "home", "")
    (home / "LICENCE.txt").symlink_to(secret)
    (home / "texts").mkdir()
    (home / "texts/ours.txt").write_text("ours")
    (home / "OFL.txt").symlink_to("texts/ours.txt")
    done = aksara("build", cwd=home)
    assert done.returncode == 0 and "LICENCE.txt: a link to another folder" in done.stderr
    assert [file["path"] for file in manifest_of(home / "web-fonts")["licence"]["files"]] == ["fonts/OFL.txt"]
    assert "with the licence text OFL.txt" in " ".join(done.stdout.split())


def test_only_characters_come_from_pages_outside(aksara: Run, tmp_path: Path) -> None:
    page = "<p style='font-family: Kotak'>ABBA BABA AB BA ABAB BABAB"
    (tmp_path / "private.html").write_text(page)
    home = _project(tmp_path / "home", '[site]\npages = ["../private.html"]')
    for options, quoted in (((), False), (("--allow-outside",), True)):
        assert aksara("build", *options, cwd=home).returncode == 0
        assert ("BABAB" in (home / "web-fonts/proof.html").read_text()) == quoted
        (face,) = manifest_of(home / "web-fonts")["families"][0]["faces"]
        assert {0x41, 0x42} <= parse_ranges(face["files"][0]["unicode_range"])


@pytest.mark.parametrize("said", ['[[family]]\nfonts = ["../secret.txt"]', '[site]\npages = ["../secret.txt"]',
                                  '[site]\ndata = ["../secret.txt"]'])  # fmt: skip
def test_no_message_tells_what_a_file_outside_holds(said: str, secret: Path, aksara: Run, tmp_path: Path) -> None:
    home = _project(tmp_path / "home", said)
    done = aksara("build", cwd=home)
    assert "hush" not in done.stderr + done.stdout
    written = b"".join(path.read_bytes() for path in home.rglob("web-fonts/**/*") if path.is_file())
    assert b"hush-hush" not in written


# ---- what is written


@pytest.mark.parametrize(
    ("said", "word"),
    [
        ('[output]\nfolder = "link"', "outside the project's folder"),
        ('[output]\nfolder = "link/fonts"', "outside the project's folder"),
        ('[output]\nfolder = ".git/hooks"', "version control"), ('[output]\nfolder = ".GIT/hooks"', "version control"),
        ('[output]\ncss = ".git/hooks/x"', "version control"), ('[output]\nzip = ".hg/x"', "version control"),
        ('[output]\ncss = ".htaccess"', "hidden file"), ('[output]\nzip = "web/.profile"', "hidden file"),
        ('[[output.template]]\nfrom = "m.j2"\nto = ".git/hooks/post-checkout"', "version control"),
        ('[[output.template]]\nfrom = "m.j2"\nto = ".bashrc"', "hidden file"),
    ],
)  # fmt: skip
def test_nothing_is_written_where_it_could_do_harm(said: str, word: str, aksara: Run, tmp_path: Path) -> None:
    home = _project(tmp_path / "home", said)
    (home / "m.j2").write_text("#!/bin/sh\n")
    (home / ".git/hooks").mkdir(parents=True)
    outside = tmp_path / "outside"
    outside.mkdir()
    (home / "link").symlink_to(outside)
    before = set(tmp_path.rglob("*"))
    done = aksara("build", cwd=home)
    assert done.returncode == 2 and word in done.stderr, done.stderr
    assert set(tmp_path.rglob("*")) == before


# ---- what is served


def test_the_proof_is_served_to_its_own_address_alone(aksara: Run, tmp_path: Path) -> None:
    _project(tmp_path, "")
    assert aksara("build").returncode == 0
    out = tmp_path / "web-fonts"
    (font,) = (out / "fonts").glob("*.woff2")
    for name in (".env", "notes.txt", "fonts/.hidden.woff2", "fonts/notes.txt"):
        (out / name).write_text("mine")
    (out / "fonts/link.woff2").symlink_to(tmp_path / "a.ttf")
    server = ProofServer(out / "proof.html", out / "fonts")
    Thread(target=server.serve_forever, daemon=True).start()
    try:
        port = server.server_address[1]

        def status(path: str, host: str = f"127.0.0.1:{port}") -> int:
            asked = urllib.request.Request(f"http://127.0.0.1:{port}/{path}", headers={"Host": host})
            try:
                with urllib.request.urlopen(asked, timeout=10) as answer:
                    assert answer.headers["Content-Security-Policy"].startswith("default-src 'none'")
                    return int(answer.status)
            except urllib.error.HTTPError as error:
                return error.code

        assert status("proof.html") == status(f"fonts/{font.name}") == 200
        for host in ("evil.example", f"evil.example:{port}", f"localhost:{port}", "127.0.0.1", ""):
            assert status("proof.html", host) == 421, host
        for path in ("faces.json", ".env", "notes.txt", "fonts/.hidden.woff2", "fonts/notes.txt", "fonts/link.woff2",
                     "fonts", "", "../a.ttf", "fonts/../../a.ttf", "%00", "fonts/%2e%2e/%2e%2e/a.ttf"):  # fmt: skip
            assert status(path) == 404, path
        with socket.create_connection(("127.0.0.1", port), timeout=10) as raw:
            raw.sendall(b"GET /proof.html HTTP/1.0\r\n\r\n")
            assert b" 421 " in raw.recv(4096)
    finally:
        server.shutdown()
        server.server_close()


def test_a_folder_above_may_have_any_name(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "cvs/.sites").mkdir(parents=True)
    home = _project(tmp_path / "cvs/.sites/home", '[output]\nfolder = "type"')
    done = aksara("build", cwd=home)
    assert done.returncode == 0, done.stderr

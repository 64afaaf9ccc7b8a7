"""Help that fits: options under questions, what to do next, completion; and the proof over a local server."""

from __future__ import annotations

import re
import shutil
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from aksara.cli import main
from aksara.cli.build import command as build
from aksara.cli.shells import in_lines, typed
from conftest import Run
from fonts import DEMO_FONTS, small_font


def test_every_option_stands_under_one_question(aksara: Run) -> None:
    grouped = [name for names in build.groups.values() for name in names]  # type: ignore[attr-defined]
    options = {param.name for param in build.params if not param.required and param.name != "paths"}
    general = {"as_json", "quiet", "verbose", "colour"}
    # Those of the program come along once it has run.
    assert len(grouped) == len(set(grouped)) and {"as_json"} <= options - set(grouped) <= general
    text = aksara("build", "--help").stdout
    assert re.search(r"^Where does it go\?\n  --to PATH ", text, re.MULTILINE)
    for width in ("60", "200"):
        assert max(map(len, aksara("build", "--help", COLUMNS=width).stdout.splitlines())) <= 100


@pytest.mark.parametrize(
    ("typed", "offered"),
    [
        ("aksara pr", "proof"), ("aksara build --for-language id,v", "id,vi"), ("aksara build --feature sm", "smcp"),
        ("aksara build --for-script Cy", "Cyrl"), ("aksara build --stack Ar", "Arial"), ("aksara measure Ta", "Tahoma"),
        ("aksara build --disp", "--display"), ("aksara build --format ", "woff2"),
    ],
)  # fmt: skip
@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_shells_complete_what_is_typed(
    typed: str, offered: str, shell: str, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    words = typed.split(" ")
    environment = {"_AKSARA_COMPLETE": f"{shell}_complete", "COMP_WORDS": typed}
    environment["COMP_CWORD"] = words[-1] if shell == "fish" else str(len(words) - 1)
    for name, value in environment.items():
        monkeypatch.setenv(name, value)
    with pytest.raises(SystemExit) as end:
        main([])
    out, messages = capfd.readouterr()
    assert re.search(rf"(?m)(^|,){re.escape(offered)}($|\t)", out), out
    assert (end.value.code, messages) == (0, "")
    if offered == "proof":  # and as shells start it
        whole = subprocess.run([sys.executable, "-m", "aksara"], capture_output=True, text=True, check=True)
        assert (whole.stdout, whole.stderr) == (out, "")


def test_without_a_command_it_says_what_to_do_next(aksara: Run, tmp_path: Path) -> None:
    done = aksara()
    assert done.returncode == 0 and "no fonts here" in done.stdout and "aksara demo" in done.stdout
    (tmp_path / "our fonts").mkdir()
    shutil.copy(DEMO_FONTS[0], tmp_path / "our fonts")
    (tmp_path / "site").mkdir()
    (tmp_path / "site/index.html").write_text("<p>a")
    said = aksara().stdout
    assert 'aksara inspect "our fonts/"' in said.replace('"our fonts"/', '"our fonts/"') and "--for-site site/" in said
    (tmp_path / "aksara.toml").write_text('[[family]]\nfonts = ["our fonts/"]\n')
    assert "aksara build --watch" in aksara().stdout


def _served(folder: Path, *arguments: str) -> tuple[subprocess.Popen[str], str]:
    """The program as it serves a proof, and its address."""
    server = subprocess.Popen(
        [sys.executable, "-m", "aksara", "proof", "--no-open", *arguments],
        cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.default_int_handler),  # noqa: PLW1509
    )  # fmt: skip
    assert server.stdout is not None
    line = server.stdout.readline()
    return server, line.split(" is at ")[-1].strip()


def test_a_proof_is_made_and_served_here_alone(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "secret.txt").write_text("secret")
    (tmp_path / "aksara.toml").write_text('[[family]]\nfonts = ["a.ttf"]\n')
    server, address = _served(tmp_path)
    try:
        assert address.startswith("http://127.0.0.1:"), server.communicate(timeout=10)
        with urllib.request.urlopen(address, timeout=10) as answer:
            assert b"Proof" in answer.read() and answer.headers["Cache-Control"] == "no-store"
        (tmp_path / "web-fonts/link.txt").symlink_to(tmp_path / "secret.txt")
        base = address.removesuffix("proof.html")
        (font,) = (tmp_path / "web-fonts/fonts").glob("*.woff2")
        with urllib.request.urlopen(f"{base}fonts/{font.name}", timeout=10) as answer:
            assert answer.headers["Content-Type"] == "font/woff2"
        for path in ("", "fonts/", "../secret.txt", "%2e%2e/secret.txt", "link.txt", "none"):
            with pytest.raises(urllib.error.HTTPError, match="404"):
                urllib.request.urlopen(base + path, timeout=10)
        port = re.search(r":(\d+)/", address)[1]  # type: ignore[index]
        taken = aksara("proof", "web-fonts", "--no-open", "--port", port)
        assert taken.returncode == 2 and f"port {port} is taken" in taken.stderr
    finally:
        time.sleep(0.2)
        server.send_signal(signal.SIGINT)
        server.wait(10)
    assert server.returncode == 0


def test_a_proof_is_shown_where_the_project_puts_it(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    project = tmp_path / "aksara.toml"
    project.write_text('[[family]]\nfonts = ["a.ttf"]\n[output]\nproof = "looks/small.html"\n')
    server, address = _served(tmp_path)
    try:
        with urllib.request.urlopen(address, timeout=10) as answer:
            page = answer.read().decode()
        assert address.endswith("/small.html") and "Proof" in page
        assert page.count("data:font/woff2;base64,") == 1
    finally:
        time.sleep(0.2)
        server.send_signal(signal.SIGINT)
        server.wait(10)
    project.write_text('[[family]]\nfonts = ["a.ttf"]\n[output]\nproof = "none"\n')
    done = aksara("proof", "--no-open")
    assert done.returncode == 2 and 'makes no proof: remove proof = "none"' in done.stderr


def test_a_missing_proof_is_reported(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "proof.html").write_text("mine")
    done = aksara("proof", "--no-open")
    assert done.returncode == 2 and "run `aksara build` first" in done.stderr
    assert aksara("proof", "nowhere", "--no-open").returncode == 2


def test_commands_to_type_suit_the_shell() -> None:
    parts = ["aksara", "build", "My fonts", "--replaces", "Old $Name"]
    assert typed(parts, windows=False) == "aksara build 'My fonts' --replaces 'Old $Name'"
    assert typed(parts, windows=True) == 'aksara build "My fonts" --replaces "Old $Name"'
    assert in_lines([parts[:2], parts[2:]], windows=False).count("\\\n") == 1
    assert "\n" not in in_lines([parts[:2], parts[2:]], windows=True)

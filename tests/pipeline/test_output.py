"""Where a build writes: only its own files are replaced, and one that is killed is mended by the next."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import zipfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from hashlib import sha256
from pathlib import Path
from typing import Any

import pytest

from aksara.cli.stopping import Stopped, note_written, stoppable, undisturbed, written_so_far
from aksara.errors import InputError
from aksara.pipeline import write_output
from aksara.pipeline.writing.targets import PROOF_MARK, OutputFile
from aksara.sources import read_file
from aksara.threads import in_threads, is_abandoned_work_left
from attacks import layout_table, zipped
from conftest import Run
from fonts import DEMO_FONTS, DEMO_SLABS, box, small_font, words

# ---- killed at any moment


def _files(folder: Path, weights: Sequence[str], text: str) -> list[OutputFile]:
    """What a build of these faces would write, and a licence text."""
    fonts = {}
    for weight in weights:
        data = b"wOF2" + f"{weight} {text}".encode()
        fonts[f"Kotak-{weight}.{sha256(data).hexdigest()[:8]}.woff2"] = data
    beside = {**fonts, "LICENCE.txt": text.encode()}
    listed = [{"path": f"fonts/{name}", "sha256": sha256(data).hexdigest()} for name, data in fonts.items()]
    licence = [{"path": "fonts/LICENCE.txt", "sha256": sha256(text.encode()).hexdigest()}]
    page = folder.parent / "index.html"
    before = page.read_bytes() if page.exists() else None
    manifest = {"made_by": "Aksara 1", "families": [{"faces": [{"files": listed}]}], "licence": {"files": licence}}
    return [
        *(OutputFile(folder / "fonts" / n, d, "licence" if ".txt" in n else "font") for n, d in beside.items()),
        OutputFile(folder.parent / "css" / "main.css", f"/* Made by Aksara 1: {text} */".encode(), "css"),
        OutputFile(folder / "proof.html", f"{PROOF_MARK}1 {text}".encode(), "proof"),
        OutputFile(page, f"<!-- aksara: begin -->{text}<!-- aksara: end -->".encode(), "kept", before=before),
        OutputFile(folder / "faces.json", json.dumps(manifest, indent=1).encode(), "manifest"),
    ]


def _tree(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@contextmanager
def _killed_at(number: int) -> Iterator[None]:
    """Before the operation of that number on a file this process is killed."""
    count = 0

    def counted(function: Callable[..., Any]) -> Callable[..., Any]:
        def wrapped(*arguments: Any, **options: Any) -> Any:
            nonlocal count
            count += 1
            if count == number:
                os.kill(os.getpid(), signal.SIGKILL)
            return function(*arguments, **options)

        return wrapped

    for owner, name in ((os, "mkdir"), (os, "fsync"), (os, "replace"), (os, "chmod"), (os, "unlink"), (os, "rmdir")):
        setattr(owner, name, counted(getattr(owner, name)))
    for name in ("mkdir", "replace", "unlink", "chmod"):
        setattr(Path, name, counted(getattr(Path, name)))
    yield


def _write_and_die(files: Sequence[OutputFile], folder: Path, number: int) -> bool:
    """Write in another process, which is killed at that operation; whether it was."""
    child = os.fork()
    if not child:
        try:
            with _killed_at(number):
                write_output(files, folder)
        finally:
            os._exit(0)
    return os.WIFSIGNALED(os.waitpid(child, 0)[1])


def test_a_killed_build_is_cleaned_up_by_the_next(tmp_path: Path) -> None:
    old, new, other = (["Thin", "Bold"], "old"), (["Thin", "Bold", "Black"], "new"), (["Bold"], "other")
    undisturbed = {}
    for name, last in (("same", new), ("other", other)):
        folder = tmp_path / f"undisturbed-{name}" / "type"
        write_output(_files(folder, *old), folder)
        write_output(_files(folder, *last), folder)
        undisturbed[name] = _tree(folder.parent)
    assert len(undisturbed["same"]) == 8
    number, killed = 0, True
    while killed:
        number += 1
        # What the next build is to make matters little: each third moment is enough for another one.
        for name, last in (("same", new), ("other", other))[: 2 if number % 3 == 0 else 1]:
            folder = tmp_path / f"{number}-{name}" / "type"
            write_output(_files(folder, *old), folder)
            killed = _write_and_die(_files(folder, *new), folder, number)
            # A file of the user's is the old or the new one, whenever that is.
            assert (folder.parent / "index.html").read_text().split("-->")[1].partition("<")[0] in ("old", "new")
            _write_and_die(_files(folder, *new), folder, number)
            write_output(_files(folder, *last), folder)
            assert _tree(folder.parent) == undisturbed[name], number
            assert not list(folder.parent.rglob(".aksara-*")), number
    assert number > 30, "there are more moments than this"


def test_a_build_waits_for_another_one(tmp_path: Path) -> None:
    out = tmp_path / "out"
    write_output(_files(out, ["Bold"], "old"), out)
    code = (
        "import sys, time; from pathlib import Path; from aksara.pipeline.writing.staging import alone_in, staging_in\n"
    )
    code += "out = Path(sys.argv[1])\nwith alone_in(out), staging_in(out, {}) as staging:\n"
    code += "    print(staging, flush=True); time.sleep(2); print(staging.is_dir(), flush=True)"
    with subprocess.Popen([sys.executable, "-c", code, out], stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout is not None
        staging = Path(other.stdout.readline().strip())
        write_output(_files(out, ["Bold"], "new"), out)
        assert other.stdout.readline().strip() == "True", "it was at work until it ended"
    assert not staging.exists()
    assert b"new" in (out / "proof.html").read_bytes()


# ---- what stands in the way


def _pipe(path: Path) -> None:
    os.mkfifo(path)


def _socket(path: Path) -> None:
    before = Path.cwd()
    os.chdir(path.parent)  # a socket's path must be short
    with socket.socket(socket.AF_UNIX) as made:
        made.bind(path.name)
    os.chdir(before)


OBSTACLES: dict[str, Callable[[Path], object]] = {
    "a pipe": _pipe,
    "a socket": _socket,
    "a folder": lambda path: path.mkdir(),
    "a link to a device": lambda path: path.symlink_to("/dev/null"),
    "a dangling link": lambda path: path.symlink_to("nowhere"),
    "a loop of links": lambda path: path.symlink_to(path.name),
    "an empty file": lambda path: path.write_bytes(b""),
    "a file that quotes the mark": lambda path: path.write_text('x /* Made by Aksara 1 */ {\n "made_by": "Aksara'),
}


@pytest.mark.parametrize("what", ["--css", "--zip", "proof.html", "faces.json"])
@pytest.mark.parametrize("obstacle", OBSTACLES)
def test_only_our_own_files_are_replaced(what: str, obstacle: str, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    name = "main.css" if what.startswith("-") else f"web-fonts/{what}"
    (tmp_path / name).parent.mkdir(exist_ok=True)
    OBSTACLES[obstacle](tmp_path / name)
    before = (tmp_path / name).lstat()
    done = aksara("build", "a.ttf", *([what, name] if what.startswith("-") else []), "--effort", "fast")
    assert done.returncode == 2, done.stderr
    assert name in done.stderr
    after = (tmp_path / name).lstat()
    assert (before.st_ino, before.st_mode, before.st_size) == (after.st_ino, after.st_mode, after.st_size)
    assert not list(tmp_path.rglob("*.woff2"))


@pytest.mark.parametrize("device", ["/dev/null", "/dev/full"])
@pytest.mark.parametrize("option", ["--css", "--zip"])
def test_device_files_are_never_written(option: str, device: str, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    mode = Path(device).stat().st_mode
    done = aksara("build", "a.ttf", option, device)
    assert (done.returncode, "this is a device" in done.stderr) == (2, True), done.stderr
    assert Path(device).stat().st_mode == mode


@pytest.mark.parametrize(
    "options",
    [
        ("--css", "o/proof.html", "--to", "o"),
        ("--zip", "o/faces.json", "--to", "o"),
        ("--css", "o/fonts", "--to", "o"),
        ("--css", "x", "--zip", "./x"),
    ],
)
def test_two_files_cannot_share_a_path(options: tuple[str, ...], aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    done = aksara("build", "a.ttf", *options)
    assert (done.returncode, "would have this name" in done.stderr) == (2, True), done.stderr
    assert [path.name for path in tmp_path.iterdir()] == ["a.ttf"]


@pytest.mark.parametrize("line", ['folder = "../o"', 'css = "../main.css"', 'zip = "/tmp/../tmp/aksara-test.zip"'])
def test_a_project_writes_inside_its_folder(line: str, aksara: Run, tmp_path: Path) -> None:
    home = tmp_path / "home"
    home.mkdir()
    (home / "a.ttf").write_bytes(small_font())
    (home / "aksara.toml").write_text(f'[output]\n{line}\n[[family]]\nfonts = ["a.ttf"]\n')
    done = aksara("build", cwd=home)
    assert done.returncode == 2
    assert "aksara.toml, line 2" in done.stderr
    assert "--allow-outside" in done.stderr
    if "tmp" not in line:
        assert aksara("build", "--allow-outside", cwd=home).returncode == 0
        assert aksara("build", "--to", "../p", "--css", "../p/c.css", cwd=home).returncode == 0, "said by hand"


# ---- what is no file


@pytest.mark.parametrize("obstacle", ["a pipe", "a socket", "a loop of links"])
def test_special_files_do_not_block(obstacle: str, aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    odd = tmp_path / "odd.html"
    OBSTACLES[obstacle](odd)
    runs = [
        ["inspect", odd], ["build", odd], ["languages", odd], ["scan", odd], ["init", odd],
        ["build", "--project", odd], ["build", "a.ttf", "--for-site", odd], ["build", "a.ttf", "--for-file", odd],
        ["build", "a.ttf", "--publish-licence", odd],
    ]  # fmt: skip
    for arguments in runs:
        done = aksara(*arguments)
        assert done.returncode == 3, (arguments, done.stderr)
        assert "odd.html: " in done.stderr, arguments
    (tmp_path / "fonts").mkdir()
    OBSTACLES[obstacle](tmp_path / "fonts/odd.ttf")
    (tmp_path / "fonts/a.ttf").write_bytes(small_font())
    done = aksara("build", "fonts")
    assert (done.returncode, "odd.ttf" in done.stderr, "skipped" in done.stderr) == (0, True, True), done.stderr
    assert aksara("inspect", "fonts").returncode == 0


def test_unusual_paths_are_explained(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    long = "n" * 300
    for arguments in (
        ["inspect", long], ["build", long], ["build", "a.ttf", "--to", long], ["build", "a.ttf", "--css", long],
        ["build", "a.ttf", "--zip", long], ["build", "a.ttf", "--for-site", long], ["scan", long],
        ["build", "--project", long], ["build", "a.ttf", "--publish-licence", long], ["demo", long],
        ["build", "a.ttf", "--family", "\udcff"], ["build", "a.ttf", "--for-text", "A\udcff"],
        ["build", "a.ttf", "--stack", "\udcff, serif"], ["build", "a.ttf", "--url", "\udcff/<file>"],
        ["build", "a.ttf", "--licensed-to", "\udcff"],
    ):  # fmt: skip
        done = aksara(*arguments)
        assert done.returncode in (2, 3), (arguments, done.returncode, done.stderr)
        assert "Traceback" not in done.stderr
    (tmp_path / "aksara.toml").write_text(f'[output]\nbudget = {"9" * 5_000}\n[[family]]\nfonts = ["a\\u0000b"]\n')
    assert aksara("build").returncode == 2
    (tmp_path / "aksara.toml").write_text('[[family]]\nfonts = ["a\\u0000b"]\n')
    assert aksara("build").returncode == 2
    for name in ("\udcff.css", "\udcff"):
        assert aksara("build", "a.ttf", "--to", "o", "--css", f"o/{name}").returncode == 0
    assert aksara("build", "a.ttf", "--to", "\udcffo").returncode == 0


def test_a_closed_folder_is_reported(aksara: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "closed").mkdir()
    (tmp_path / "a.ttf").write_bytes(small_font())
    (tmp_path / "a.html").write_text("<p>a")
    scandir = os.scandir

    def closed(path: str) -> Any:  # to root no folder is
        if "closed" in str(path):
            raise PermissionError(13, "Permission denied", path)
        return scandir(path)

    monkeypatch.setattr(os, "scandir", closed)
    for command in (["inspect", "."], ["build", ".", "--for-text", "A"], ["scan", "."]):
        done = aksara(*command)
        assert done.returncode == 0
        assert "closed: cannot be read (Permission denied), so it is skipped" in done.stderr, command


@pytest.mark.parametrize("method", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_a_damaged_member_of_a_zip_is_reported(method: int, aksara: Run, tmp_path: Path) -> None:
    data = bytearray(zipped({"a.ttf": DEMO_FONTS[0].read_bytes(), "b.ttf": small_font()}, method))
    data[200:400] = bytes(200)
    (tmp_path / "order.zip").write_bytes(data)
    done = aksara("inspect", "order.zip")
    assert (done.returncode, "order.zip/a.ttf: cannot be unzipped" in done.stderr) == (3, True), done.stderr
    assert "Kotak" in done.stdout
    (tmp_path / "order.zip").write_bytes(
        zipped({"x.ttf": small_font(), "a.ttf": small_font()}).replace(b"x.ttf", b"\0.ttf")
    )
    assert aksara("inspect", "order.zip").returncode == 0


def test_a_collection_gives_one_font(aksara: Run, tmp_path: Path) -> None:
    from aksara.font import Font
    from variable import collection

    fonts = [Font.read(path.read_bytes()) for path in DEMO_FONTS[:2]]
    (tmp_path / "all.ttc").write_bytes(collection(fonts))
    listed = json.loads(aksara("inspect", "all.ttc", "--json").stdout)["families"][0]["faces"]
    assert sorted(face["path"] for face in listed) == ["all.ttc#1", "all.ttc#2"]
    built = json.loads(aksara("build", "all.ttc#2", "--for-text", "a", "--json").stdout)["families"][0]["faces"]
    assert [face["path"] for face in built] == ["all.ttc#2"]
    (tmp_path / "aksara.toml").write_text('[[family]]\nfonts = ["all.ttc#1"]\n')
    built = json.loads(aksara("build", "--for-text", "a", "--json").stdout)["families"][0]["faces"]
    assert [face["path"] for face in built] == ["all.ttc#1"]
    wrong = aksara("build", "all.ttc#3")
    assert (wrong.returncode, "there is no font 3; it holds 2" in wrong.stderr) == (3, True)


def test_families_of_a_collection_that_no_page_uses_are_left_out(aksara: Run, tmp_path: Path) -> None:
    from aksara.font import Font
    from variable import collection

    fonts = [Font.read(path.read_bytes()) for path in (DEMO_FONTS[0], DEMO_SLABS[0])]
    (tmp_path / "all.ttc").write_bytes(collection(fonts))
    (tmp_path / "page.html").write_text('<html lang="en"><p style="font-family: Penyu Slab">Ferries')
    used = aksara("build", "all.ttc", "--for-site", "page.html", "--json")
    assert [family["family"] for family in json.loads(used.stdout)["families"]] == ["Penyu Slab"]
    assert "all.ttc: no page uses 1 family of it, left out: Penyu Sans" in used.stderr
    for more in (["--all-faces"], ["--replaces", "Penyu Slab=Penyu Sans"]):
        both = aksara("build", "all.ttc", "--for-site", "page.html", "--json", *more)
        assert "Penyu Sans" in {family["family"] for family in json.loads(both.stdout)["families"]}, more


def test_outputs_reveal_nothing_about_the_computer(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "fonts").mkdir()
    (tmp_path / "fonts/a.ttf").write_bytes(small_font())
    (tmp_path / "fonts/LICENCE.txt").write_text("yes")
    done = aksara("build", tmp_path / "fonts", "--zip", tmp_path / "all.zip", "--to", tmp_path / "o")
    assert done.returncode == 0, done.stderr
    for path in (tmp_path / "o").rglob("*.*"):
        assert str(tmp_path).encode() not in path.read_bytes(), path
    assert str(tmp_path).encode() not in (tmp_path / "all.zip").read_bytes()
    assert json.loads((tmp_path / "o/faces.json").read_text())["families"][0]["faces"][0]["path"] == "fonts/a.ttf"


# ---- stopped, and read by nobody


def _start(*arguments: str, cwd: Path, **options: Any) -> subprocess.Popen[str]:
    program = [sys.executable, "-m", "aksara", *arguments]
    return subprocess.Popen(program, cwd=cwd, stderr=subprocess.PIPE, **{"text": True, **options})


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_a_signal_ends_a_build_and_leaves_no_files(number: signal.Signals, tmp_path: Path) -> None:
    fonts = str(DEMO_FONTS[0].parent)
    options: dict[str, Any] = {"preexec_fn": lambda: signal.signal(number, signal.SIG_DFL)}  # whatever nohup has said
    with _start("build", fonts, "--effort", "most", "--feature", "all", cwd=tmp_path, **options) as program:
        time.sleep(2)
        program.send_signal(number)
        said = program.communicate()[1]
    assert (program.returncode, "stopped; nothing was written" in said) == (128 + number, True), said
    assert not list(tmp_path.iterdir())


def test_an_interrupt_waits_for_no_work_that_has_begun() -> None:
    begun, released = threading.Event(), threading.Event()

    def work(number: int) -> bool:
        if number:
            begun.set()
            return released.wait(20)
        begun.wait(20)
        raise KeyboardInterrupt

    try:
        with pytest.raises(KeyboardInterrupt):
            in_threads(2, work, [0, 1])
        assert is_abandoned_work_left()
    finally:
        released.set()
        while is_abandoned_work_left():
            time.sleep(0.01)


def test_streams_that_take_nothing_stop_no_build(tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    reader, writer = os.pipe()
    os.close(reader)
    with open("/dev/full", "w") as full:  # noqa: PTH123
        for stream, status in ((writer, 0), (full.fileno(), 3)):
            with _start("build", "a.ttf", "--to", f"o{stream}", "--effort", "fast", cwd=tmp_path, stdout=stream) as run:
                said = run.communicate()[1]
            assert (run.returncode, "Traceback" in said, "Exception" in said) == (status, False, False), said
            assert (tmp_path / f"o{stream}/faces.json").exists()
    assert "No space left" in said
    shell = f"{sys.executable} -m aksara build a.ttf --to c --effort fast >&-"
    assert subprocess.run(shell, cwd=tmp_path, shell=True, capture_output=True, check=False).returncode == 0


@pytest.mark.parametrize("encoding", ["ascii", "cp1252"])
def test_streams_that_know_few_characters(encoding: str, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font(names={1: "Kotak\u4e00 é", 2: "Regular"}))
    environment = os.environ | {"PYTHONIOENCODING": encoding}
    for arguments in (["build", "a.ttf", "--effort", "fast"], ["inspect", "a.ttf", "--json"]):
        with _start(*arguments, cwd=tmp_path, stdout=subprocess.PIPE, env=environment, encoding=encoding) as run:
            shown, said = run.communicate()
        assert (run.returncode, said.count("Traceback")) == (0, 0), said
    assert json.loads(shown)["families"][0]["family"] == "Kotak\u4e00 é"


def test_no_name_reaches_the_terminal_raw(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font(names={1: "Ko\x1b]0;x\x07tak", 2: "Re\u202egular"}))
    key = '"\\u001b[2J\\u009b1m"'
    family = "[[family]]\nfonts = ['a.ttf']\n"
    texts = [f"[site]\n{key} = 1\n{family}", f"[[family]]\nfonts = [{key}]\n", f"{family}name = {key}\n",
             f"[site]\nlanguages = [{key}]\n{family}", f"[output]\nfolder = {key}\n{family}",
             f"{family}features = [{key}]\n", f"[output]\npreload = [{key}]\n{family}",
             f"[licence]\nfile = {key}\n{family}"]  # fmt: skip
    runs = [aksara("inspect", "a.ttf"), aksara("inspect", "a.ttf", "--json"), aksara("build", "a.ttf", "-h\x1b[1m"),
            aksara("build", "no\x1b[1m.ttf"), aksara("\x1b[1m"),
            aksara("build", "a.ttf", "--family", "x\x1b[1m")]  # fmt: skip
    for text in texts:
        (tmp_path / "aksara.toml").write_text(text)
        runs.append(aksara("build"))
    for done in runs:
        for shown in (done.stdout, done.stderr):
            assert not {"\x1b", "\x9b", "\u202e", "\x07"} & set(shown), (done.args, shown)


def test_numbers_may_be_long(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font())
    many = "9" * 5_000
    for option in ("--budget", "--for-range", "--use", "--jobs"):
        assert aksara("build", "a.ttf", option, f"U+{many}" if "range" in option else many).returncode == 2
    page = f"<p style='font-weight: {many}; line-height: 1e999'>a</p><ol start={many}><li value=1e999>b</ol>&#{many};"
    rules = (
        f"p:nth-child({many}n + 1) {{ font-weight: 1e999 }} @media (min-width: {many}px) {{ b {{ font-weight: 5 }} }}"
    )
    counters = (
        f"@counter-style x {{ range: -1e999 1e999; pad: 1e999 '0'; system: fixed {many} }} li {{ list-style: x }}"
    )
    (tmp_path / "p.html").write_text(f"<style>{rules} {counters}</style>{page}")
    assert aksara("scan", "p.html").returncode == 0


def test_signals_wait_for_uninterruptible_work() -> None:
    reached = []
    with stoppable():
        with pytest.raises(Stopped) as caught, undisturbed():
            os.kill(os.getpid(), signal.SIGTERM)
            reached.append("the end")
            note_written("web-fonts/")
        assert (reached, caught.value.number) == (["the end"], signal.SIGTERM)
        assert written_so_far() == "web-fonts/ was written whole"


def test_damage_that_no_glyph_uses_does_not_refuse_a_font(aksara: Run, tmp_path: Path) -> None:
    # As in a real font, whose offsets are beyond 16 bits: the coverage is rubbish, and so are two thousand sets, whose
    # sizes make text engines give up the table.
    count = 2_056
    pairs = (
        words(1, 10 + 2 * count, 0, 3, count, *(10 + 2 * n for n in range(count)))
        + words(152, 65460)
        + words(1) * 9_000
    )
    (tmp_path / "a.ttf").write_bytes(small_font(extra={"GPOS": layout_table(2, pairs, b"kern")}))
    done = aksara("build", "a.ttf")
    assert done.returncode == 0 and "table 'GPOS' is left out" in done.stderr


def test_a_damaged_font_still_gets_a_json_report(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "a.ttf").write_bytes(small_font()[:200])
    done = aksara("inspect", "a.ttf", "--json")
    assert done.returncode == 3
    assert "a.ttf" in json.loads(done.stdout)["errors"][0]["message"]


def test_a_font_that_draws_nothing_is_reported(aksara: Run, tmp_path: Path) -> None:
    (tmp_path / "icons.ttf").write_bytes(small_font({0xE000: 1, 0x41: 2}, [b"", b"", box(400)[0]]))
    done = aksara("build", "icons.ttf", "--for-range", "U+E000")
    assert (done.returncode, "their glyphs are empty" in done.stderr) == (3, True), done.stderr


def test_files_are_bounded(tmp_path: Path) -> None:
    (tmp_path / "a").write_bytes(bytes(100))
    with pytest.raises(InputError, match="larger than"):
        read_file(tmp_path / "a", limit=99)

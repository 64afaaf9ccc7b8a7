"""`aksara check` on running sites: how they send style sheets and fonts, and servers that do anything but answer."""

from __future__ import annotations

import gzip
import http.server
import json
import re
import shutil
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import combinations
from pathlib import Path
from typing import Any

import pytest
from msgspec import Struct, field

from aksara.site.access import fetching
from conftest import Run

_TYPES = {".html": "text/html; charset=utf-8", ".css": "text/css", ".woff2": "font/woff2", ".woff": "font/woff",
          ".json": "application/json"}  # fmt: skip
_FOR_LONG = "public, max-age=31536000, immutable"


class Response(Struct):
    """What is sent: changed by faults before it goes. `wait` is in seconds, `length` what is said of the body's."""

    path: str
    status: int = 200
    headers: dict[str, str] = field(default_factory=dict)
    body: bytes = b""
    length: int | None = None
    wait: float = 0.0


Change = Callable[[Response], None]


def _served(site: Path, path: str) -> Response:
    """How a good server sends a file."""
    file = site / (path.partition("?")[0].lstrip("/") or "index.html")
    if not file.is_file():
        return Response(path, 404, {"Content-Type": "text/html"}, b"<!doctype html>Not here")
    body, headers = file.read_bytes(), {"Content-Type": _TYPES.get(file.suffix, "application/octet-stream")}
    if file.suffix == ".css":
        body = gzip.compress(body, mtime=0)
        headers |= {"Content-Encoding": "gzip", "Cache-Control": "no-cache"}
    elif file.suffix.startswith(".woff"):
        headers["Cache-Control"] = _FOR_LONG
    return Response(path, 200, headers, body)


@contextmanager
def serving(site: Path, change: Change = lambda _: None, host: str = "127.0.0.1") -> Iterator[str]:
    """The site on a server; its address."""

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            response = _served(site, self.path)
            change(response)
            time.sleep(response.wait)
            self.send_response(response.status)
            length = len(response.body) if response.length is None else response.length
            for name, value in ({"Content-Length": str(length)} | response.headers).items():
                self.send_header(name, value)
            self.end_headers()
            self.wfile.write(response.body)

        def log_message(self, *_: Any) -> None:
            """Nothing."""

    server = http.server.ThreadingHTTPServer((host, 0), Handler)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://{host}:{server.server_address[1]}"
    finally:
        server.shutdown()


@pytest.fixture
def site(sound: Path, tmp_path: Path) -> Path:
    """A copy of the sound site."""
    shutil.copytree(sound / "site", tmp_path / "site")
    return tmp_path / "site"


def _headers(pattern: str, **headers: str) -> Change:
    """Other headers for the paths that match; "" leaves one out."""

    def change(response: Response) -> None:
        if re.search(pattern, response.path) and response.status == 200:
            response.headers |= {name.replace("_", "-"): value for name, value in headers.items()}
            response.headers = {name: value for name, value in response.headers.items() if value}

    return change


def _answer(pattern: str, **fields: Any) -> Change:
    """Another answer for the paths that match."""

    def change(response: Response) -> None:
        if re.search(pattern, response.path):
            for name, value in fields.items():
                setattr(response, name, value)

    return change


def _twice(response: Response) -> None:
    if response.path.endswith(".woff2"):
        response.body = gzip.compress(response.body)
        response.headers["Content-Encoding"] = "gzip"


def _moved(response: Response) -> None:
    if response.path.endswith(".woff2") and "?" not in response.path:
        response.status, response.headers = 301, {"Location": f"{response.path}?moved"}


def _plain(response: Response) -> None:
    if response.path.endswith(".css"):
        del response.headers["Content-Encoding"]
        response.body = gzip.decompress(response.body)


_PAGE = b"<!doctype html><title>Penyu Ferries</title><p>Welcome"

#: Fault → what the server does, the kind of the first finding, and words of it.
FAULTS: dict[str, tuple[Change, str, str]] = {
    "a font that is forbidden": (_answer("Regular.*woff", status=403), "font-missing", "answers 403 Forbidden"),
    "an error of the server": (_answer("Regular.*woff2", status=500), "font-missing", "answers 500"),
    "a style sheet that is gone": (_answer("faces.css", status=410), "sheet-missing", "answers 410 Gone"),
    "a page in place of a font": (
        _answer("Regular.*woff", body=_PAGE, headers={"Content-Type": "text/html", "Cache-Control": _FOR_LONG}),
        "font-damaged", "perhaps a page"),
    "a page for every path": (
        _answer(r"\.(css|woff2?|json)$", body=_PAGE, status=200, headers={"Content-Type": "text/html"}),
        "sheet-type-wrong", "answer every address with a page"),
    "a style sheet as text": (_headers("faces.css", Content_Type="text/plain"), "sheet-type-wrong", "as text/css"),
    "a style sheet without a type": (_headers("faces.css", Content_Type=""), "sheet-type-wrong", "as text/css"),
    "a style sheet kept for a year": (_headers("faces.css", Cache_Control=_FOR_LONG), "sheet-kept-long", "365 days"),
    "a style sheet as it is": (_plain, "sheet-uncompressed", "compress text/css"),
    "a redirect": (_moved, "address-redirected", "301"),
    "a circle of redirects": (_answer("Regular.*woff2", status=302, headers={"Location": "/type/fonts/Regular.woff2"}),
                              "font-missing", "redirects more than"),
    "a font as a page": (_headers("woff", Content_Type="text/html"), "font-type-wrong", "font/woff2"),
    "a font as bytes": (_headers("woff", Content_Type="application/octet-stream"), "font-type-wrong", "octet-stream"),
    "fonts that are not kept": (_headers("woff", Cache_Control="no-store"), "font-kept-shortly", "immutable"),
    "fonts kept for an hour": (_headers("woff", Cache_Control="max-age=3600"), "font-kept-shortly", "1 hour only"),
    "nothing is said of keeping": (_headers("woff", Cache_Control=""), "font-kept-shortly", "does not say"),
    "fonts compressed twice": (_twice, "font-compressed-twice", "although it is compressed"),
    "an answer that ends early": (
        lambda response: _answer("Regular.*woff2$", length=len(response.body) + 100)(response),
        "font-missing", "ends before all of it has come"),
}  # fmt: skip


@pytest.mark.parametrize("name", FAULTS)
def test_each_fault_of_a_server_is_found_and_named_first(name: str, site: Path, aksara: Run) -> None:
    change, kind, words = FAULTS[name]
    with serving(site, change) as address:
        done = aksara("check", address, "--json")
    findings = json.loads(done.stdout)["findings"]
    assert findings, done.stderr
    assert findings[0]["kind"] == kind, findings[:3]
    assert any(words in f"{each['problem']} {each['remedy']}" for each in findings if each["kind"] == kind), findings[
        :3
    ]


def test_a_good_server_is_reported_with_figures(site: Path, aksara: Run) -> None:
    with serving(site) as address:
        done = json.loads(aksara("check", address, "--json").stdout)
        shown = aksara("check", address)
    assert (done["findings"], shown.returncode) == ([], 0)
    assert "4 pages checked: nothing is wrong" in shown.stdout
    views = {view["page"].rpartition("/")[2]: view for view in done["first_views"]}
    sizes = [path.stat().st_size for path in (site / "type/fonts").glob("*.woff2")]
    islands = views["islands.html"]
    # A page, two style sheets, and fonts.
    assert islands["font_bytes"] in map(sum, combinations(sizes, islands["requests"] - 3))
    assert islands["bytes"] > islands["font_bytes"] > 0 and islands["seconds"] > 0


def test_fonts_on_another_host_need_cors_headers(site: Path, aksara: Run) -> None:
    def check(**headers: str) -> list[dict[str, Any]]:
        with serving(site, _headers("woff", **headers), "127.0.0.2") as fonts, serving(site) as address:
            sheet = site / "type/faces.css"
            whole = sheet.read_text()
            sheet.write_text(whole.replace('url("fonts/', f'url("{fonts}/type/fonts/'))
            found = json.loads(aksara("check", address, "--json").stdout)["findings"]
            sheet.write_text(whole)
        return [each for each in found if each["kind"] != "sheet-changed"]

    refused = check()
    assert {each["kind"] for each in refused} == {"font-not-allowed"} and refused[0]["level"] == "error"
    assert "Access-Control-Allow-Origin: http://127.0.0.1:" in refused[0]["remedy"]
    assert check(Access_Control_Allow_Origin="*") == []
    assert check(Access_Control_Allow_Origin="https://other.example")[0]["kind"] == "font-not-allowed"


def test_old_copies_of_a_build_are_reported(sound: Path, site: Path, aksara: Run) -> None:
    (site / "type/faces.css").write_text((site / "type/faces.css").read_text().replace("swap", "block"))
    with serving(site) as address:
        done = aksara("check", address, "--json", cwd=sound)
    (stale,) = [each for each in json.loads(done.stdout)["findings"] if each["kind"] == "stale-copy"]
    assert stale["file"].endswith("/type/faces.css") and "last build of the project" in stale["problem"]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (_answer("Regular.*woff2$", wait=3.0), "does not answer in time"),
        (_answer("Regular.*woff2$", headers={"Location": "ftp://x"}, status=302), "not a web address"),
        (_answer("Regular.*woff2$", headers={"Location": "http://[x"}, status=302), "no address"),
        (_answer("Regular.*woff2$", body=b"x" * 2_000_000), "is larger than 1 MB"),
    ],
)
def test_servers_that_do_not_answer_are_left(
    change: Change, words: str, site: Path, aksara: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(fetching, "_SILENCE", 1.5)
    monkeypatch.setattr(fetching, "MAX_ANSWER_SIZE", 1_000_000)
    with serving(site, change) as address:
        done = aksara("check", address, "--json")
    (first, *_) = json.loads(done.stdout)["findings"]
    assert first["kind"] == "font-missing" and words in first["problem"], first

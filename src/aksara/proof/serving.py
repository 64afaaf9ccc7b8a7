"""A server for one proof, on this computer alone.

It answers only requests for the host that it was told to be: a page of another site can have its own name resolve to
127.0.0.1 and read what is served there ("DNS rebinding"). It serves the proof and the fonts beside it, no other file.
"""

from __future__ import annotations

import re
from functools import partial
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote, urlsplit

HOST = "127.0.0.1"
_FONT_TYPES = {
    ".woff2": "font/woff2",
    ".woff": "font/woff",
    ".ttf": "font/ttf",
    ".otf": "font/otf",
    ".svg": "image/svg+xml",
}
#: The name of a font, as Aksara gives it.
_FONT_NAME = re.compile(r"[A-Za-z0-9_-][A-Za-z0-9._-]*")
#: The proof has its styles and its script inside, and fetches nothing but fonts.
_POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; font-src 'self' data:; img-src data:; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)


class ProofServer(ThreadingHTTPServer):
    """Serves a proof and the fonts in their folder. Raises `OSError` where no server can be started at the port."""

    daemon_threads = True

    def __init__(self, proof: Path, fonts: Path, port: int = 0) -> None:
        self.proof = proof
        super().__init__((HOST, port), partial(_Handler, proof=proof, fonts=fonts))

    @property
    def address(self) -> str:
        """The address of the proof."""
        return f"http://{HOST}:{self.server_address[1]}/{quote(self.proof.name)}"


class LocalHandler(BaseHTTPRequestHandler):
    """Answers requests for this server's own host; `policy` is the Content-Security-Policy of its pages."""

    timeout = 30
    policy = ""

    def is_for_us(self) -> bool:
        """Whether the request is for the host that this server is; one for another is refused."""
        ours = self.headers.get("Host", "") == f"{HOST}:{self.connection.getsockname()[1]}"
        if not ours:
            self.send_error(HTTPStatus.MISDIRECTED_REQUEST)
        return ours

    def answer(self, data: bytes, media_type: str) -> None:
        """Send the requested file without caching, so that a new build is seen at once."""
        self.send_response(HTTPStatus.OK)
        self.send_header("Content-Type", media_type)
        self.send_header("Content-Length", str(len(data)))
        self.send_header("Content-Security-Policy", self.policy)
        self.send_header("X-Content-Type-Options", "nosniff")
        self.send_header("Cache-Control", "no-store")
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, format: str, *args: Any) -> None:
        """Requests are not logged."""


class _Handler(LocalHandler):
    policy = _POLICY

    def __init__(self, *arguments: Any, proof: Path, fonts: Path) -> None:
        self._proof = proof
        self._fonts = fonts
        super().__init__(*arguments)

    def do_GET(self) -> None:  # the name that the library calls
        if not self.is_for_us():
            return
        try:
            data, media_type = self._file(unquote(urlsplit(self.path).path).removeprefix("/"))
        except (OSError, ValueError):
            self.send_error(HTTPStatus.NOT_FOUND)
            return
        self.answer(data, media_type)

    def _file(self, name: str) -> tuple[bytes, str]:
        """The bytes and type of a file that may be served. Raises `OSError` or `ValueError` for any other."""
        path, media_type = self._proof, "text/html; charset=utf-8"
        if name != self._proof.name:
            # Wherever the proof says that it is: there is one folder of fonts.
            font = name.rpartition("/")[2]
            path, media_type = self._fonts / font, _FONT_TYPES.get(Path(font).suffix, "")
            if not _FONT_NAME.fullmatch(font):
                raise ValueError(name)
        real = path.resolve(strict=True)
        if not media_type or real != path.parent.resolve() / path.name or not real.is_file():
            raise ValueError(name)
        return real.read_bytes(), media_type

"""A server for tests that answers whatever it is told to."""

from __future__ import annotations

import http.server
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

#: Status, headers (over a type and the right length), body.
Answer = tuple[int, dict[str, str], bytes]


@contextmanager
def answering(answer: Callable[[str], Answer]) -> Iterator[str]:
    """A server that answers each path so; its address, without a slash at the end."""

    class Handler(http.server.BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def do_GET(self) -> None:
            status, headers, body = answer(self.path)
            self.send_response(status)
            for name, value in ({"Content-Type": "text/html", "Content-Length": str(len(body))} | headers).items():
                self.send_header(name, value)
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_: Any) -> None:
            """Nothing."""

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, args=(0.01,), daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}"
    finally:
        server.shutdown()
        server.server_close()

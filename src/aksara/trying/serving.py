"""A server for one trial, on this computer alone: its page, candidates as they are built, and the choice.

It answers only requests for the host that it was told to be, and those that change or tell anything only with the token
that stands in its own page (see `proof.serving`).
"""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import partial
from http import HTTPStatus
from http.server import ThreadingHTTPServer
from secrets import compare_digest, token_urlsafe
from threading import Condition, Event
from typing import Any
from urllib.parse import parse_qs, urlsplit

from aksara.proof.serving import HOST, LocalHandler
from aksara.trying.candidates import Candidate
from aksara.trying.instructions import Instructions
from aksara.trying.present import TriedPage
from aksara.trying.rendering import Trial, candidate_json, trial_page

#: Seconds for which a request for candidates waits for the next one, and bytes of a choice.
_PATIENCE, _MOST_CHOSEN = 5.0, 10_000
_POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; font-src data: 'self'; img-src data:; "
    "connect-src 'self'; frame-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)


class RunningTrial:
    """The candidates of a trial while they are built: added by one thread, read by those of the server."""

    def __init__(
        self, page: TriedPage, families: int, instruct: Callable[[Candidate, TriedPage], Instructions]
    ) -> None:
        self._page, self._instruct = page, instruct
        self._pending = families
        self._candidates: list[Candidate] = []
        self._changed = Condition()
        #: Set once a browser has asked for the page.
        self.asked = Event()

    def add(self, candidate: Candidate) -> None:
        """One more has been built."""
        with self._changed:
            self._candidates.append(candidate)
            self._pending -= 1
            self._changed.notify_all()

    def state(self, start: int = 0, patience: float = 0.0) -> Trial:
        """The candidates from a number on; where there are none yet, wait for one for a while."""
        with self._changed:
            self._changed.wait_for(lambda: len(self._candidates) > start or not self._pending, patience)
            return Trial(self._page, tuple(self._candidates[start:]), self._pending, self._instruct)

    def find(self, family: str) -> Candidate | None:
        """The candidate of that family."""
        return next(
            (candidate for candidate in self.state().candidates if candidate.name == family and not candidate.problem),
            None,
        )


class TrialServer(ThreadingHTTPServer):
    """Serves a trial; `choose` is called with the family that was chosen, and says what came of it. Raises `OSError`
    where no server can be started at the port."""

    daemon_threads = True

    def __init__(self, trial: RunningTrial, version: str, choose: Callable[[Candidate], str], port: int = 0) -> None:
        self.token = token_urlsafe(24)
        super().__init__((HOST, port), partial(_Handler, trial=trial, version=version, choose=choose, token=self.token))

    @property
    def address(self) -> str:
        """The address of the page, which other users of this computer cannot guess."""
        return f"http://{HOST}:{self.server_address[1]}/{self.token}/"


class _Handler(LocalHandler):
    policy = _POLICY

    def __init__(
        self, *arguments: Any, trial: RunningTrial, version: str, choose: Callable[[Candidate], str], token: str
    ) -> None:
        self._trial, self._version, self._choose, self._token = trial, version, choose, token
        super().__init__(*arguments)

    def do_GET(self) -> None:  # noqa: N802  # the name that the library calls
        address = urlsplit(self.path)
        if not self.is_for_us():
            return
        if address.path == f"/{self._token}/":
            page = trial_page(self._trial.state(), self._version, token=self._token)
            self.answer(page, "text/html; charset=utf-8")
            self._trial.asked.set()
        elif address.path == f"/{self._token}/candidates" and self._has_token():
            first = parse_qs(address.query).get("from", ["0"])[0]
            start = int(first) if first.isdecimal() and len(first) < 6 else 0
            state = self._trial.state(start, _PATIENCE)
            listed = [candidate_json(candidate, state) for candidate in state.candidates]
            data = json.dumps({"candidates": listed, "pending": state.pending}).encode(errors="replace")
            self.answer(data, "application/json")
        else:
            self.send_error(HTTPStatus.NOT_FOUND)

    def do_POST(self) -> None:  # noqa: N802  # the name that the library calls
        if not self.is_for_us():
            return
        length = self.headers.get("Content-Length", "")
        is_choice = self.path == f"/{self._token}/choose" and self._has_token()
        if not is_choice or not length.isdecimal() or int(length) > _MOST_CHOSEN:
            self.send_error(HTTPStatus.NOT_FOUND)
            return
        try:
            asked = json.loads(self.rfile.read(int(length)))
            family = asked.get("family") if isinstance(asked, dict) else None
        except (ValueError, RecursionError):
            family = None
        candidate = self._trial.find(family) if isinstance(family, str) else None
        if candidate is None:
            self.send_error(HTTPStatus.NOT_FOUND)
            return
        self.answer(self._choose(candidate).encode(errors="replace"), "text/plain; charset=utf-8")

    def _has_token(self) -> bool:
        return compare_digest(self.headers.get("X-Token", "").encode(errors="replace"), self._token.encode())

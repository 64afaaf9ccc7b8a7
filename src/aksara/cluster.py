"""Work on other machines, through a running scheduler of Dask (the extra `cluster`); nothing of it is ours."""

from __future__ import annotations

import logging
import socket
from collections.abc import Iterator
from concurrent.futures import Executor
from contextlib import contextmanager, suppress
from importlib import import_module
from typing import Any, cast
from urllib.parse import urlsplit

from aksara.errors import RequestError

#: Seconds until a scheduler has to answer.
_PATIENCE = 5


def _place(address: str) -> tuple[str, int]:
    """The host and port of a scheduler. Raises `RequestError` for anything else."""
    with suppress(ValueError):
        parts = urlsplit(address)
        if parts.scheme in ("tcp", "tls", "ws", "wss") and parts.hostname and parts.port:
            return parts.hostname, parts.port
    raise RequestError(f"{address}: this is not the address of a scheduler; write tcp://HOST:PORT")


@contextmanager
def cluster_executor(address: str) -> Iterator[Executor]:
    """What gives work to the scheduler at an address such as `tcp://10.0.0.5:8786`.

    Work that a lost worker had begun is begun again by another. Raises `RequestError` where there is no scheduler at
    that address, or the extra is not installed.
    """
    nobody = f"{address}: no scheduler answers there; start one with `dask scheduler`, and workers beside it"
    try:
        # A client that cannot reach its scheduler, or reaches something else, takes long to give up.
        with socket.create_connection(_place(address), _PATIENCE) as connection:
            # A scheduler speaks first; where the connection is encrypted or HTTP, it waits for the client.
            if address.startswith("tcp:") and not connection.recv(1):
                raise RequestError(nobody)
    except OSError as error:
        raise RequestError(nobody) from error
    try:
        distributed: Any = import_module("distributed")
    except ImportError as error:
        raise RequestError("a cluster needs Dask, which is not installed; install aksara-fonts[cluster]") from error
    # What goes on between it and its workers is its own business, and ends up in the error that counts.
    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    try:
        client = distributed.Client(address, timeout=_PATIENCE, set_as_default=False)
    except (OSError, TimeoutError, ValueError) as error:
        raise RequestError(nobody) from error
    try:
        if not client.scheduler_info()["workers"]:
            text = f"{address}: the scheduler has no workers; start some with `dask worker {address}`"
            raise RequestError(text)
        yield cast(Executor, client.get_executor(pure=False))
    finally:
        client.close()

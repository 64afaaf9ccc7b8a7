"""Work on other machines, through a running scheduler of Dask (the extra `cluster`); nothing of it is ours."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from concurrent.futures import Executor
from contextlib import contextmanager
from importlib import import_module
from typing import Any, cast

from aksara.errors import RequestError

#: Seconds until a scheduler has to answer.
_PATIENCE = 5


@contextmanager
def cluster_executor(address: str) -> Iterator[Executor]:
    """What gives work to the scheduler at an address such as `tcp://10.0.0.5:8786`.

    Work that a lost worker had begun is begun again by another. Raises `RequestError` where there is no scheduler at
    that address, or the extra is not installed.
    """
    if not address.startswith(("tcp://", "tls://", "ws://", "wss://")):
        raise RequestError(f"{address}: this is no address of a scheduler; write tcp://HOST:PORT")
    try:
        distributed: Any = import_module("distributed")
    except ImportError as error:
        raise RequestError("a cluster needs Dask, which is not installed; install aksara-fonts[cluster]") from error
    # What goes on between it and its workers is its own business, and ends up in the error that counts.
    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    try:
        client = distributed.Client(address, timeout=_PATIENCE, set_as_default=False)
    except (OSError, TimeoutError, ValueError) as error:
        raise RequestError(
            f"{address}: no scheduler answers there; start one with `dask scheduler`, and workers beside it"
        ) from error
    try:
        if not client.scheduler_info()["workers"]:
            text = f"{address}: the scheduler has no workers; start some with `dask worker {address}`"
            raise RequestError(text)
        yield cast(Executor, client.get_executor(pure=False))
    finally:
        client.close()

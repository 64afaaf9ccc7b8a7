"""System families that were measured for a project, and lie beside its file."""

from __future__ import annotations

from pathlib import Path

from aksara.limits import MAX_MEASURED_SIZE
from aksara.sources import is_file, printable, read_text
from aksara.web.measured_families import MEASURED_NAME, read_measured
from aksara.web.system_families import SystemFamily


def measured_beside(folder: Path) -> tuple[SystemFamily, ...]:
    """The system families that were measured for the project in a folder. Raises `RequestError` for a damaged file."""
    path = folder / MEASURED_NAME
    if not is_file(path):
        return ()
    return read_measured(read_text(path, MAX_MEASURED_SIZE), printable(str(path)))

"""System families that were measured for a project, and lie beside its file."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from aksara.atomic import written_whole
from aksara.errors import OutputError
from aksara.limits import MAX_MEASURED_SIZE
from aksara.sources import is_file, printable, read_text
from aksara.web.measured_families import MEASURED_NAME, read_measured, write_measured
from aksara.web.system_families import SystemFamily


def measured_beside(folder: Path) -> tuple[SystemFamily, ...]:
    """The system families that were measured for the project in a folder. Raises `RequestError` for a damaged file."""
    path = folder / MEASURED_NAME
    if not is_file(path):
        return ()
    return read_measured(read_text(path, MAX_MEASURED_SIZE), printable(str(path)))


def keep_measured(folder: Path, families: Sequence[SystemFamily]) -> None:
    """Write the families that were measured for the project in a folder, all of them; a file that says the same already
    is left alone. Raises `OutputError`."""
    path, data = folder / MEASURED_NAME, write_measured(families).encode()
    if is_file(path) and path.read_bytes() == data:
        return
    try:
        with written_whole(path) as file:
            file.write(data)
    except OSError as error:
        raise OutputError(f"{path}: cannot be written ({error.strerror}); check the folder's permissions") from error

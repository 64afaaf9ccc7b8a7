"""Appending accepted findings to a project file; the rest of it is unchanged."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from aksara.atomic import written_whole
from aksara.checking.accepting import Acceptance, written_acceptance
from aksara.errors import InputError, OutputError
from aksara.limits import MAX_PROJECT_SIZE
from aksara.sources import is_file, printable, read_file
from aksara.toml_text import toml_value


def append_acceptances(path: Path, acceptances: Iterable[Acceptance]) -> None:
    """Append tables to a project file, or create it. Its other bytes and line endings stay.

    Raises `InputError` for a file that cannot be read, `OutputError` for one that cannot be written.
    """
    before = read_file(path, limit=MAX_PROJECT_SIZE) if is_file(path) else b""
    end = "\r\n" if b"\r\n" in before else "\n"
    text = "".join(f"{end}{_table(acceptance, end)}" for acceptance in acceptances)
    joint = "" if not before or before.endswith(b"\n") else end
    data = before + (joint + text if before else text.removeprefix(end)).encode()
    if len(data) > MAX_PROJECT_SIZE:
        raise InputError(f"{printable(str(path))}: it would be larger than {MAX_PROJECT_SIZE:,} bytes")
    try:
        with written_whole(path) as file:
            file.write(data)
    except OSError as error:
        name = printable(str(path))
        raise OutputError(f"{name}: cannot be written ({error.strerror}); check its permissions") from error


def _table(acceptance: Acceptance, end: str) -> str:
    lines = [f"{name} = {toml_value(value)}" for name, value in written_acceptance(acceptance).items()]
    return end.join(("[[check.accept]]", *lines, ""))

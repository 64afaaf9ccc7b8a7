"""All that a build writes in one ZIP, for upload forms; the same files give the same bytes."""

from __future__ import annotations

import io
import os
import zipfile
from collections.abc import Iterable
from pathlib import Path, PurePath

from aksara.pipeline.writing.targets import OutputFile
from aksara.sources import ARCHIVE_MARK

# The earliest date that a ZIP can say; when and by whom it is made must not show.
_DATE = (1980, 1, 1, 0, 0, 0)
_PLAIN_FILE = 0o644 << 16
_COMPRESSED = (".woff2", ".woff")


def zip_bytes(files: Iterable[OutputFile]) -> bytes:
    """A ZIP that keeps the files' relative paths, so that those in the style sheet stay right."""
    listed = list(files)
    base = os.path.commonpath([file.path.absolute().parent for file in listed])
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.comment = ARCHIVE_MARK
        for file in sorted(listed, key=lambda file: file.path):
            info = zipfile.ZipInfo(PurePath(os.path.relpath(file.path.absolute(), base)).as_posix(), _DATE)
            info.create_system = 3  # Unix everywhere, or the platform would show
            info.external_attr = _PLAIN_FILE
            compressed = file.path.suffix in _COMPRESSED
            info.compress_type = zipfile.ZIP_STORED if compressed else zipfile.ZIP_DEFLATED
            archive.writestr(info, file.data, compresslevel=9)
    return buffer.getvalue()


def archive_file(files: Iterable[OutputFile], path: Path) -> OutputFile:
    """The ZIP as a file to be written."""
    return OutputFile(path, zip_bytes(files), "zip", "BuildRequest.archive")

"""Font files that were made before, kept by all that their bytes depend on: the font, the recipe and the code.

An entry is one file in a folder: a header in JSON, after its length, and the files' bytes. It is written whole or not
at all, so several builds may use one folder; what cannot be read, or is not what was written, is made anew.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Mapping, Set
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import fields

from aksara.code_stamp import installation_stamp
from aksara.font import Font
from aksara.limits import MAX_FILE_SIZE
from aksara.pipeline.font_files import FontFile, FontFiles, FontRecipe, make_font_files
from aksara.subsetting import Costs, DroppedTable, OmittedFeature
from aksara.text import format_ranges
from aksara.text.ranges import parse_ranges
from aksara.user_cache import cache_folder, thin_out, written_whole
from aksara.web.formats import WEB_FORMATS, WebFormat

_MOST_FILES, _MOST_BYTES = 20_000, 500_000_000
#: Digits of the header's length.
_DIGITS = 8


class FontStore:
    """The store in a folder; without one nothing is kept."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder
        self._has_grown = False

    @classmethod
    def of_user(cls) -> FontStore:
        """The one in the user's cache folder."""
        return cls(cache_folder() / "fonts")

    def files(
        self,
        font: Font,
        recipe: FontRecipe,
        step: Callable[[WebFormat], None] = lambda _: None,
        *,
        costs: Costs = "all",
        last: bool = True,
    ) -> FontFiles:
        """The font's files, made only if they are not kept (see `make_font_files`)."""
        if self._folder is None:
            return make_font_files(font, recipe, step, costs=costs, last=last)
        path = self._folder / _key(font, recipe, costs)
        kept = _read(path)
        if kept is None:
            kept = make_font_files(font, recipe, step, costs=costs, last=last)
            _write(path, kept)
            self._has_grown = True
            return kept
        with suppress(OSError):
            # What was used longest ago goes first.
            os.utime(path)
        for font_format in recipe.formats:
            step(font_format)
        if last:
            font.forget()
        return kept

    def thin_out(self) -> None:
        """Remove what was used longest ago, if there is too much."""
        if self._folder is not None and self._has_grown:
            thin_out(self._folder, _MOST_FILES, _MOST_BYTES)


def _key(font: Font, recipe: FontRecipe, costs: Costs) -> str:
    parts = (installation_stamp(), font.digest, font.container, costs, _plain(recipe))
    digest = sha256(json.dumps(parts).encode()).hexdigest()
    return f"{digest[:2]}/{digest[2:]}"


def _plain(value: Any) -> Any:
    """A value as JSON, the same for equal ones."""
    if isinstance(value, Struct):
        return {field.name: _plain(getattr(value, field.name)) for field in fields(value)}
    if isinstance(value, Mapping):
        return sorted([key, _plain(each)] for key, each in value.items())
    if isinstance(value, Set):
        return sorted(value)
    if isinstance(value, tuple):
        return [_plain(each) for each in value]
    return value.decode("latin-1") if isinstance(value, bytes) else value


def _write(path: Path, made: FontFiles) -> None:
    """Keep an entry, all at once. A store that cannot be written is none: nothing fails for it."""
    known = {field.name: getattr(made, field.name) for field in fields(made)}
    known["files"] = [[file.format, len(file.data), sha256(file.data).hexdigest()] for file in made.files]
    known["characters"] = format_ranges(made.characters)
    known["features"] = sorted(made.features)
    for name in ("omitted", "dropped"):
        known[name] = [[getattr(each, field.name) for field in fields(each)] for each in known[name]]
    header = json.dumps(known).encode()
    with suppress(OSError), written_whole(path) as out:
        out.write(f"{len(header):0{_DIGITS}}".encode() + header)
        out.writelines(file.data for file in made.files)


def _read(path: Path) -> FontFiles | None:
    """An entry; None where there is none, or another than was written."""
    try:
        if path.stat().st_size > MAX_FILE_SIZE:
            return None
        data = path.read_bytes()
        end = _DIGITS + int(data[:_DIGITS])
        known: dict[str, Any] = json.loads(data[_DIGITS:end])
        files = []
        for font_format, size, digest in known["files"]:
            body = data[end : end + size]
            end += size
            if sha256(body).hexdigest() != digest or font_format not in WEB_FORMATS:
                return None
            files.append(FontFile(font_format, body))
        known["files"] = tuple(files)
        known["characters"] = frozenset(parse_ranges(known["characters"])) if known["characters"] else frozenset()
        known["features"] = frozenset(known["features"])
        known["omitted"] = tuple(OmittedFeature(*each) for each in known["omitted"])
        known["dropped"] = tuple(DroppedTable(*each) for each in known["dropped"])
        known["warnings"] = tuple(known["warnings"])
        return FontFiles(**known)
    except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return None

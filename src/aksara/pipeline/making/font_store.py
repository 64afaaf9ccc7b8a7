"""Font files that were made before, kept by all that their bytes depend on: the font, the recipe and the code.

An entry is one file in a folder: a header in JSON, after its length, and the files' bytes. It is written whole or not
at all, so several builds may use one folder; what cannot be read, or is not what was written, is made again.

A cache folder may have been restored from anywhere, and hashes beside the bytes prove nothing against somebody who
wrote both. So the font is cut down again, which takes a fraction of compressing it, and the files are compared with
that as they are when they are made.
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
from msgspec.json import decode as json_decode
from msgspec.json import encode as json_encode
from msgspec.structs import fields, replace

from aksara.atomic import written_whole
from aksara.code_stamp import installation_stamp
from aksara.errors import RequestError
from aksara.font import Font
from aksara.limits import MAX_FILE_SIZE, MAX_STORE_SIZE, MAX_STORED_FILES
from aksara.pipeline.making.font_files import (
    FontFile,
    FontFiles,
    FontRecipe,
    as_if_made,
    make_font_files,
    reckoned_size,
)
from aksara.subsetting import Costs
from aksara.text import format_ranges
from aksara.text.ranges import parse_ranges
from aksara.threads import WorkBounds
from aksara.user_cache import cache_folder, read_cached, thin_out
from aksara.web.formats import WebFormat

#: Digits of the header's length.
_DIGITS = 8


#: Entries that were compared in this process, by their path and the SHA-256 of all of it; `--watch` looks at them
#: often.
_compared: set[tuple[Path, str]] = set()


class _Header(Struct, frozen=True):
    """Format, bytes and SHA-256 of each file; the characters as ranges; and what else is known of the files."""

    files: tuple[tuple[WebFormat, int, str], ...]
    characters: str
    facts: FontFiles


class FontStore:
    """The store in a folder; without one nothing is kept."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder
        self._has_grown = False
        self._bounds = WorkBounds()
        #: What was made elsewhere for this build.
        self._made: dict[str, FontFiles] = {}

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
        published: bool = True,
    ) -> FontFiles:
        """The font's files, compressed only if they are not kept (see `make_font_files`).

        Files of which nothing but the size matters are not `published`; they are taken as they were kept.
        """
        kept = self.kept(font, recipe, costs=costs, published=published)
        if kept is None:
            kept = make_font_files(font, recipe, step, costs=costs, bounds=self._bounds)
            if self._folder is not None:
                self._write(_key(font, recipe, costs), kept)
            return kept
        for font_format in recipe.formats:
            step(font_format)
        return kept

    def reckoned_size(self, font: Font, recipe: FontRecipe) -> int:
        """About how large the first of the font's files is, without making it."""
        return reckoned_size(font, recipe, self._bounds)

    def kept(self, font: Font, recipe: FontRecipe, *, costs: Costs = "all", published: bool = True) -> FontFiles | None:
        """The font's files if they are kept, and are what would be made; else None. See `files`."""
        if self._folder is None and not self._made:
            return None
        key = _key(font, recipe, costs)
        if key in self._made or self._folder is None:
            return self._made.get(key)
        path = self._folder / key
        entry = read_cached(path, MAX_FILE_SIZE)
        kept = _parsed(entry) if entry is not None else None
        if entry is not None and kept is not None and published:
            mark = (path, sha256(entry).hexdigest())
            if mark not in _compared:
                kept = as_if_made(font, recipe, kept, self._bounds)
                _compared.update([mark] if kept is not None else [])
        if kept is not None:
            with suppress(OSError):
                # What was used longest ago goes first.
                os.utime(path)
        return kept

    def keep(self, font: Font, recipe: FontRecipe, made: FontFiles, *, costs: Costs = "all") -> None:
        """Keep the files that were made of the font elsewhere, for this build in any case."""
        key = _key(font, recipe, costs)
        self._made[key] = made
        self._write(key, made)

    def _write(self, key: str, made: FontFiles) -> None:
        if self._folder is not None:
            _write(self._folder / key, made)
            self._has_grown = True

    def thin_out(self) -> None:
        """Remove what was used longest ago, if there is too much."""
        if self._folder is not None and self._has_grown:
            thin_out(self._folder, MAX_STORED_FILES, MAX_STORE_SIZE)


def _key(font: Font, recipe: FontRecipe, costs: Costs) -> str:
    parts = (installation_stamp(), font.digest, font.container, costs, _plain(recipe))
    digest = sha256(json.dumps(parts).encode()).hexdigest()
    return f"{digest[:2]}/{digest[2:]}"


def _plain(value: Any) -> Any:
    """A value as JSON, the same for equal ones."""
    if isinstance(value, Struct):
        return {field.name: _plain(getattr(value, field.name)) for field in fields(value)}
    if isinstance(value, Mapping):
        return sorted([key, _plain(item)] for key, item in value.items())
    if isinstance(value, Set):
        return sorted(value)
    if isinstance(value, tuple):
        return [_plain(item) for item in value]
    return value.decode("latin-1") if isinstance(value, bytes) else value


def _write(path: Path, made: FontFiles) -> None:
    """Keep an entry, all at once. Errors are ignored: the store is optional."""
    files = tuple((file.format, len(file.data), sha256(file.data).hexdigest()) for file in made.files)
    facts = replace(made, files=(), characters=frozenset())
    header = json_encode(_Header(files, format_ranges(made.characters), facts))
    with suppress(OSError), written_whole(path, private=True) as out:
        out.write(f"{len(header):0{_DIGITS}}".encode() + header)
        out.writelines(file.data for file in made.files)


def _parsed(data: bytes) -> FontFiles | None:
    """What an entry holds; None where it is another than was written."""
    try:
        end = _DIGITS + int(data[:_DIGITS])
        header = json_decode(data[_DIGITS:end], type=_Header)
        characters = frozenset(parse_ranges(header.characters)) if header.characters else frozenset()
    except (ValueError, RequestError):  # other types than these, too
        return None
    files = []
    for font_format, size, digest in header.files:
        body = data[end : end + size]
        end += size
        if size < 0 or sha256(body).hexdigest() != digest:
            return None
        files.append(FontFile(font_format, body))
    return replace(header.facts, files=tuple(files), characters=characters)

"""Facts of font files that were looked at before, kept in the user's cache folder by the hash of their bytes."""

from __future__ import annotations

import json
import os
import tempfile
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import Any

import platformdirs

from aksara import __version__
from aksara.checking.font_facts import FontFacts, facts_of_font

_MOST_BYTES, _MOST_FILES = 20_000_000, 2_000


class FactsCache:
    """What is known of font files; without a path nothing is kept."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._known = _load(path) if path is not None else {}
        self._changed = False

    @classmethod
    def of_user(cls) -> FactsCache:
        """The one in the user's cache folder."""
        return cls(Path(platformdirs.user_cache_dir("aksara", appauthor=False)) / "font-facts.json")

    def facts(self, data: bytes, name: str) -> FontFacts:
        """The facts of a file with these bytes."""
        key = sha256(data).hexdigest()
        with suppress(KeyError, TypeError, ValueError, AttributeError, IndexError):
            return FontFacts.from_json(self._known[key])
        facts = facts_of_font(data, name)
        self._known[key], self._changed = facts.as_json(), True
        return facts

    def save(self) -> None:
        """Write what is known; the oldest go where it is too much. Nothing fails for a cache that cannot be written."""
        if self._path is None or not self._changed:
            return
        kept = dict(list(self._known.items())[-_MOST_FILES:])
        text = json.dumps({"made_by": __version__, "fonts": kept}, ensure_ascii=False)
        with suppress(OSError):
            self._path.parent.mkdir(parents=True, exist_ok=True)
            handle, name = tempfile.mkstemp(dir=self._path.parent, prefix=".fonts-")
            try:
                with os.fdopen(handle, "w", encoding="utf-8", errors="surrogatepass") as file:
                    file.write(text)
                Path(name).replace(self._path)
            except BaseException:
                Path(name).unlink(missing_ok=True)
                raise


def _load(path: Path) -> dict[str, Any]:
    try:
        if path.stat().st_size > _MOST_BYTES:
            return {}
        data = json.loads(path.read_text(encoding="utf-8", errors="surrogatepass"))
    except (OSError, ValueError, RecursionError):
        return {}
    fonts = data.get("fonts") if isinstance(data, dict) and data.get("made_by") == __version__ else None
    return fonts if isinstance(fonts, dict) else {}

"""Values as TOML writes them (TOML 1.0, "String")."""

from __future__ import annotations

import json


def toml_value(value: str | list[str]) -> str:
    """A text in quotes, or a list of texts: JSON's are TOML's, but for one character.

    >>> toml_value(['fonts/Penyu "Sans".ttf'])
    '["fonts/Penyu \\\\"Sans\\\\".ttf"]'
    """
    return json.dumps(value, ensure_ascii=False).replace("\x7f", "\\u007f")

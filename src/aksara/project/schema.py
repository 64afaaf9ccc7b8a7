"""The JSON Schema of `aksara.toml`, for editors that check and complete as one types."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from aksara.project.keys import REPEATED, TABLES, WORDS, Key
from aksara.slicing.slice_choice import MOST_SLICES

_TEXT = {"type": "string"}
#: The schema as a file of the package, for editors.
SCHEMA_FILE = Path(__file__).parent / "aksara.schema.json"


def project_schema() -> dict[str, Any]:
    """JSON Schema 2020-12 of the file as it is after reading the TOML."""
    tables = {name: _table(name) for name in TABLES if "." not in name}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "aksara.toml",
        "description": "A build of web fonts, written down. Paths count from the folder of the file.",
        "type": "object",
        "additionalProperties": False,
        "required": ["family"],
        "properties": tables,
    }


def _table(name: str) -> dict[str, Any]:
    keys = TABLES[name]
    one: dict[str, Any] = {
        "type": "object",
        "additionalProperties": False,
        "properties": {key.name: _value(name, key) for key in keys},
    }
    if required := [key.name for key in keys if key.required]:
        one["required"] = required
    words = {"description": WORDS[name]}
    if name not in REPEATED:
        return words | one
    several = {"type": "array", "minItems": 1, "items": one}
    return words | ({"anyOf": [one, several]} if name == "output" else several)


def _value(table: str, key: Key) -> dict[str, Any]:
    if key.value_type == "tables":
        return _table(f"{table}.{key.name}")
    text = {"type": "string", "enum": list(key.choices)} if key.choices else _TEXT
    types: dict[str, dict[str, Any]] = {
        "text": text,
        "texts": {"anyOf": [text, {"type": "array", "items": text}]},
        "size": {
            "anyOf": [{"type": "string", "pattern": r"^[0-9.]+ ?([kKmM]?[bB])?$"}, {"type": "integer", "minimum": 1}]
        },
        "inline": {"anyOf": [{"type": "string", "pattern": r"^([0-9.]+ ?([kKmM]?[bB])?|all|none)$"}]},
        "addresses": {"type": "object", "additionalProperties": _TEXT},
        "number": {"type": "integer", "minimum": 1, "maximum": 1000},
        "weights": {
            "anyOf": [
                {"type": "integer", "minimum": 1, "maximum": 1000},
                {"type": "array", "items": {"type": "integer"}, "minItems": 2, "maxItems": 2},
            ]
        },
        "switch": {"type": "boolean"},
        "date": {"type": "string", "format": "date"},
        "slices": {"anyOf": [text, {"type": "integer", "minimum": 1, "maximum": MOST_SLICES}]},
        "palettes": {
            "type": "object",
            "additionalProperties": {
                "type": "object",
                "additionalProperties": False,
                "properties": {
                    "base": {"type": "integer", "minimum": 0},
                    "colours": {
                        "type": "object",
                        "propertyNames": {"pattern": "^[0-9]+$"},
                        "additionalProperties": _TEXT,
                    },
                },
            },
        },
        "axes": {
            "type": "object",
            "propertyNames": {"pattern": "^[ -~]{4}$"},
            "additionalProperties": {
                "anyOf": [
                    {"type": "number"},
                    {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2},
                ]
            },
        },
    }
    return {"description": key.words, **types[key.value_type]}

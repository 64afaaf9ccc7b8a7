"""What `aksara.toml` says, as tables whose keys and types are right, and where each key is written."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date, datetime
from pathlib import Path
from typing import Any

from aksara.errors import InputError, Location, RequestError
from aksara.project.given_values import listed_of, nearest_key, written_as
from aksara.project.keys import REPEATED, TABLES, VALUE_TYPES, Key, ValueType
from aksara.project.lines import KeyPath, check_bounds, find_lines, line_of
from aksara.sources import printable

# What keys were called in earlier versions.
_RENAMED = {"text": "also", "file": "publish", "in-place-of": "replaces"}
#: Bits of a whole number (TOML 1.0, "Integer").
_MAX_BITS = 63
_TYPES: dict[ValueType, tuple[type, ...]] = {
    "text": (str,),
    "texts": (list,),
    "size": (str, int),
    "inline": (str,),
    "weights": (int, list),
    "addresses": (dict,),
    "number": (int,),
    "switch": (bool,),
    "date": (date,),
    "axes": (dict,),
    "slices": (str, int),
    "palettes": (dict,),
    "tables": (list,),
}


class CheckedFile:
    """The tables of a project file. Raises `RequestError`, with the line, for anything invalid."""

    def __init__(self, path: Path, text: str) -> None:
        self.name = printable(str(path))
        self.path, self.text = path, text
        self.base = path.parent
        try:
            check_bounds(text)
            self.data = tomllib.loads(text)
        except RequestError as error:
            raise RequestError(f"{self.name}: {error.problem}") from error
        except ValueError as error:  # also a number of thousands of digits
            raise RequestError(f"{self.name}: this is not valid TOML: {error}") from error
        except RecursionError as error:
            raise RequestError(f"{self.name}: its brackets are nested too deeply") from error
        self.lines = find_lines(text)
        self._check_numbers((), self.data)
        self._check_tables()

    def problem(self, path: KeyPath, text: str) -> RequestError:
        """An error at a key's line."""
        return RequestError(text, location=self.location(path))

    def location(self, path: KeyPath, key: str = "") -> Location:
        """Where a key is written."""
        return Location(self.name, line_of(self.lines, path), key)

    @contextmanager
    def at(self, *path: str | int) -> Iterator[None]:
        """Errors raised inside get the location of this key, or of the key below it that sets their parameter."""
        try:
            yield
        except RequestError as error:
            if error.location is None:
                error.location = self._location_of(path, error.parameter)
            raise
        except InputError as error:
            error.location = error.location or self.location(path)
            raise

    def _location_of(self, path: KeyPath, parameter: str) -> Location:
        for key in (key for keys in TABLES.values() for key in keys):
            if parameter and key.parameter == parameter and (*path, key.name) in self.lines:
                return self.location((*path, key.name), key.name)
        last = path[-1] if path and isinstance(path[-1], str) else ""
        return self.location(path, last)

    # What is there at all, and of which type.

    def _check_tables(self) -> None:
        top = [name for name in TABLES if "." not in name]
        for name, value in self.data.items():
            if name not in top:
                raise self.problem((name,), f"there is no table '{name}'{nearest_key(name, top)}")
            self._check_table(name, (name,), value)

    def _check_numbers(self, path: KeyPath, value: Any) -> None:
        """Raise `RequestError` for a whole number that no value can be: written out, it could have millions of
        digits."""
        if isinstance(value, int) and value.bit_length() > _MAX_BITS:
            raise self.problem(path, "this number is too large")
        pairs = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
        for key, inner in pairs:
            self._check_numbers((*path, key), inner)

    def _check_table(self, table: str, path: KeyPath, value: Any) -> None:
        if table in REPEATED and isinstance(value, list) and all(isinstance(one, dict) for one in value):
            for index, one in enumerate(value):
                self._check_keys(table, (*path, index), one)
        elif isinstance(value, dict) and table != "family" and "." not in table:
            self._check_keys(table, path, value)
        else:
            header = f"[[{table}]]" if table in REPEATED else f"[{table}]"
            raise self.problem(path, f"'{table}' must be a table; write {header} on a line of its own")

    def _check_keys(self, table: str, path: KeyPath, values: dict[str, Any]) -> None:
        keys = {key.name: key for key in TABLES[table]}
        for name, value in values.items():
            if name in _RENAMED and _RENAMED[name] in keys:
                raise self.problem((*path, name), f"the key '{name}' is now called '{_RENAMED[name]}'")
            if name not in keys:
                header = f"[[{table}]]" if isinstance(path[-1], int) else f"[{table}]"
                raise self.problem((*path, name), f"{header} has no key '{name}'{nearest_key(name, list(keys))}")
            self._check_value(keys[name], (*path, name), value)
            if keys[name].value_type == "tables":
                self._check_table(f"{table}.{name}", (*path, name), value)
        if lacking := [key for key in keys.values() if key.required and key.name not in values]:
            raise self.problem(
                path, f"'{lacking[0].name}' is missing here; add {lacking[0].name} = {lacking[0].example}"
            )

    def _check_value(self, key: Key, path: KeyPath, value: Any) -> None:
        fits = isinstance(value, _TYPES[key.value_type]) and isinstance(value, bool) == (key.value_type == "switch")
        fits = fits and not isinstance(value, datetime)
        if key.value_type == "texts":
            # One text is as good as a list of one.
            fits = isinstance(value, str) or (fits and all(isinstance(one, str) for one in value))
        if not fits:
            raise self.problem(path, f"'{key.name}' must be {VALUE_TYPES[key.value_type]}, not {written_as(value)}; "
                                      f"for instance {key.name} = {key.example}")  # fmt: skip
        for one in listed_of(value) if key.choices and not isinstance(value, int) else ():
            if one not in key.choices:
                near = nearest_key(one, list(key.choices)) or f"; choose from {', '.join(key.choices)}"
                raise self.problem(path, f"'{key.name}' cannot be '{one}'{near}")

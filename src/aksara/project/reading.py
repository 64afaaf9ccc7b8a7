"""Reading `aksara.toml` into requests. Whatever is wrong in it is told with file, line and what was expected."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import date, datetime
from difflib import get_close_matches
from pathlib import Path
from typing import Any

from aksara.build.request import BuildRequest, FamilyRequest, Overrule, feature_choice
from aksara.errors import InputError, RequestError
from aksara.faces import WebLicence
from aksara.project.keys import KINDS, REPEATED, TABLES, Key, Kind
from aksara.project.lines import Place, find_lines, line_of
from aksara.sizes import parse_size
from aksara.sources import common_folder, expand, read_pages, read_text, shown
from aksara.text import Wanted, read_page, wanted, wanted_characters
from aksara.web.matching import parse_asked
from aksara.web.syntax import check_leading_css
from aksara.web.urls import check_pattern

PROJECT_NAME = "aksara.toml"
_MAX_SIZE = 1_000_000
_TYPES: dict[Kind, tuple[type, ...]] = {
    "text": (str,),
    "texts": (list,),
    "size": (str, int),
    "number": (int,),
    "switch": (bool,),
    "date": (date,),
    "tables": (list,),
}


class _ProjectError(RequestError):
    """One that tells its file and line already."""


def read_project(path: Path) -> list[BuildRequest]:
    """The builds that the file asks for, one an output; its paths count from the folder that it is in.

    Raises `RequestError` for a file that is not there or says what cannot be, `InputError` for pages that cannot
    be read.
    """
    if not path.is_file():
        raise RequestError(f"{shown(str(path))}: there is no such file; `aksara init` writes one")
    return _Project(path, read_text(path, _MAX_SIZE)).requests()


class _Project:
    def __init__(self, path: Path, text: str) -> None:
        self.name = shown(str(path))
        self.base = path.parent
        try:
            self.data = tomllib.loads(text)
        except tomllib.TOMLDecodeError as error:
            raise RequestError(f"{self.name}: this is not sound TOML: {error}") from error
        except RecursionError as error:
            raise RequestError(f"{self.name}: brackets within brackets beyond all bounds; write it plainly") from error
        self.lines = find_lines(text)
        self._check_tables()

    def problem(self, place: Place, text: str) -> _ProjectError:
        return _ProjectError(f"{self.name}, line {line_of(self.lines, place)}: {text}")

    @contextmanager
    def at(self, *place: str | int) -> Iterator[None]:
        """Errors raised inside get the file and line of this place."""
        try:
            yield
        except _ProjectError:
            raise
        except RequestError as error:
            raise self.problem(place, str(error)) from error
        except InputError as error:
            raise InputError(f"{self.name}, line {line_of(self.lines, place)}: {error}") from error

    # What is there at all, and of which kind.

    def _check_tables(self) -> None:
        top = [name for name in TABLES if "." not in name]
        for name, value in self.data.items():
            if name not in top:
                raise self.problem((name,), f"'{name}' is no table here{_nearest(name, top)}")
            self._check_table(name, (name,), value)
        if not self.data.get("family"):
            raise RequestError(f'{self.name}: there is no [[family]] in it, so no fonts; add one with fonts = ["…"]')

    def _check_table(self, table: str, place: Place, value: Any) -> None:
        if table in REPEATED and isinstance(value, list) and all(isinstance(one, dict) for one in value):
            for index, one in enumerate(value):
                self._check_keys(table, (*place, index), one)
        elif isinstance(value, dict) and table != "family" and "." not in table:
            self._check_keys(table, place, value)
        else:
            header = f"[[{table}]]" if table in REPEATED else f"[{table}]"
            raise self.problem(place, f"'{table}' must be a table; write {header} on a line of its own")

    def _check_keys(self, table: str, place: Place, values: dict[str, Any]) -> None:
        keys = {key.name: key for key in TABLES[table]}
        for name, value in values.items():
            if name not in keys:
                header = f"[[{table}]]" if isinstance(place[-1], int) else f"[{table}]"
                raise self.problem((*place, name), f"'{name}' is no key of {header}{_nearest(name, list(keys))}")
            self._check_value(keys[name], (*place, name), value)
            if keys[name].kind == "tables":
                self._check_table(f"{table}.{name}", (*place, name), value)
        if lacking := [key for key in keys.values() if key.required and key.name not in values]:
            raise self.problem(
                place, f"'{lacking[0].name}' is missing here; add {lacking[0].name} = {lacking[0].example}"
            )

    def _check_value(self, key: Key, place: Place, value: Any) -> None:
        fits = isinstance(value, _TYPES[key.kind]) and isinstance(value, bool) == (key.kind == "switch")
        fits = fits and not isinstance(value, datetime)
        if key.kind == "texts":
            # One text is as good as a list of one.
            fits = isinstance(value, str) or (fits and all(isinstance(one, str) for one in value))
        if not fits:
            raise self.problem(place, f"'{key.name}' must be {KINDS[key.kind]}, not {_written(value)}; "
                                      f"for instance {key.name} = {key.example}")  # fmt: skip
        for one in _listed(value) if key.choices else ():
            if one not in key.choices:
                near = _nearest(one, list(key.choices)) or f"; choose from {', '.join(key.choices)}"
                raise self.problem(place, f"'{key.name}' cannot be '{one}'{near}")

    # What it asks for.

    def requests(self) -> list[BuildRequest]:
        tables = self.data.get("output", {})
        outputs = [(("output",), tables)] if isinstance(tables, dict) else [
            (("output", index), one) for index, one in enumerate(tables)
        ]  # fmt: skip
        families = [self._family(index, one) for index, one in enumerate(self.data["family"])]
        licence, files = self._licence(self.data.get("licence", {}))
        made = [self._request(place, one, families, licence, files) for place, one in outputs]
        for index, request in enumerate(made):
            if any(_clash(request, other) for other in made[:index]):
                raise self.problem(outputs[index][0], "two outputs go to the same folder or style sheet; give another")
        return made

    def _request(
        self,
        place: Place,
        table: dict[str, Any],
        families: list[FamilyRequest],
        licence: WebLicence,
        licence_files: tuple[Path, ...],
    ) -> BuildRequest:
        words, pages = self._wanted(place, table)
        chosen = self._chosen(place, table, families)
        with self.at(*place, "url"):
            check_pattern(table.get("url", "<path>"))
        with self.at(*place):
            return BuildRequest(
                tuple(chosen),
                folder=self.base / table.get("folder", "web-fonts"),
                css=self.base / table["css"] if "css" in table else None,
                url=table.get("url", "<path>"),
                formats=tuple(dict.fromkeys(_listed(table.get("formats", ["woff2", "woff"])))),
                wanted=words,
                effort=table.get("effort", "normal"),
                licence=licence,
                licence_files=licence_files,
                preload=tuple(_listed(table.get("preload", []))),
                budget=self._size(place, table),
                pack=self.base / table["zip"] if "zip" in table else None,
                pages=common_folder(pages),
            )

    def _chosen(self, place: Place, table: dict[str, Any], families: list[FamilyRequest]) -> list[FamilyRequest]:
        if "families" not in table:
            return families
        names = {family.name: family for family in families if family.name}
        for name in _listed(table["families"]):
            if name not in names:
                raise self.problem(
                    (*place, "families"), f"no [[family]] has the name '{name}'{_nearest(name, list(names))}"
                )
        return [names[name] for name in dict.fromkeys(_listed(table["families"]))]

    def _wanted(self, place: Place, table: dict[str, Any]) -> tuple[Wanted, list[Path]]:
        """The characters that an output keeps: what it says itself counts before what [site] says."""
        keys = [key.name for key in TABLES["site"]]
        own = any(key in table for key in keys)
        values, where = (table, place) if own else (self.data.get("site", {}), ("site",))
        files: list[Path] = []
        texts: list[tuple[str, str]] = []
        with self.at(*where, "pages"):
            for pattern in _listed(values.get("pages", [])):
                found = expand(pattern, self.base, pages=True)
                if not found:
                    raise RequestError(f"no page matches '{pattern}' (counted from {self._folder()})")
                files += found
            texts = read_pages(dict.fromkeys(files))
        for key in ("languages", "scripts", "ranges"):
            with self.at(*where, key):
                wanted_characters(**{key: _listed(values.get(key, []))})
        words = wanted(
            texts=[values["text"]] if "text" in values else [],
            ranges=_listed(values.get("ranges", [])),
            languages=_listed(values.get("languages", [])),
            scripts=_listed(values.get("scripts", [])),
            pages=[read_page(text, suffix) for text, suffix in texts] if files else None,
        )
        return words, files

    def _folder(self) -> str:
        return shown(str(self.base.resolve()))

    def _family(self, index: int, table: dict[str, Any]) -> FamilyRequest:
        place: Place = ("family", index)
        fonts: list[Path] = []
        for pattern in _listed(table["fonts"]):
            found = expand(pattern, self.base)
            if not found:
                raise self.problem(
                    (*place, "fonts"), f"nothing matches '{pattern}' (counted from {self._folder()}); correct the path"
                )
            fonts += found
        overrules = []
        for number, one in enumerate(table.get("face", [])):
            with self.at(*place, "face", number):
                overrules.append(Overrule(one["file"], one["weight"], one.get("style", "normal")))
        with self.at(*place, "uses"):
            uses = tuple(map(parse_asked, _listed(table.get("uses", []))))
        with self.at(*place):
            return FamilyRequest(
                tuple(dict.fromkeys(fonts)),
                name=table.get("name"),
                overrules=tuple(overrules),
                stack=self._stack(place, table),
                display=table.get("display", "swap"),
                features=feature_choice(_listed(table.get("features", [])), _listed(table.get("no-features", []))),
                hints=table.get("hinting", "keep") == "keep",
                local=table.get("local", False),
                uses=uses,
                budget=self._size(place, table),
            )

    def _stack(self, place: Place, table: dict[str, Any]) -> tuple[str, ...] | None:
        if "stack" not in table:
            return None
        names = [part for name in _listed(table["stack"]) for part in name.split(",")]
        if not all(name.strip() for name in names):
            raise self.problem((*place, "stack"), "an empty family stands in the stack; leave it out")
        return tuple(" ".join(name.split()) for name in names)

    def _size(self, place: Place, table: dict[str, Any]) -> int | None:
        if "budget" not in table:
            return None
        with self.at(*place, "budget"):
            return parse_size(table["budget"])

    def _licence(self, table: dict[str, Any]) -> tuple[WebLicence, tuple[Path, ...]]:
        files: list[Path] = []
        for name in _listed(table.get("file", [])):
            if not (self.base / name).is_file():
                raise self.problem(("licence", "file"), f"there is no file '{name}' (counted from {self._folder()})")
            files.append(self.base / name)
        with self.at("licence", "css"):
            check_leading_css(table.get("css", ""))
        licence = WebLicence(
            table.get("web", False),
            " ".join(table.get("holder", "").split()),
            tuple(_listed(table.get("domains", []))),
            table.get("until"),
            table.get("css", ""),
        )
        return licence, tuple(files)


def _listed(value: Any) -> list[str]:
    return [value] if isinstance(value, str) else list(value)


def _written(value: Any) -> str:
    """A wrong value as it stands in the file, roughly."""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return "a table"
    text = f'"{value}"' if isinstance(value, str) else str(value)
    return text if len(text) <= 40 else text[:37] + "…"


def _nearest(name: str, known: Sequence[str]) -> str:
    near = get_close_matches(name, known, 1, 0.5)
    return f"; did you mean '{near[0]}'?" if near else f"; there are {', '.join(known)}" if known else ""


def _clash(first: BuildRequest, second: BuildRequest) -> bool:
    return (
        first.folder.resolve() == second.folder.resolve()
        or first.css_file.resolve() == second.css_file.resolve()
        or (first.pack is not None and second.pack is not None and first.pack.resolve() == second.pack.resolve())
    )

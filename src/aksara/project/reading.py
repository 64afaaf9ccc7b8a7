"""Reading `aksara.toml` into requests. Errors name the file, the line and what was expected."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any, Literal

from msgspec.structs import replace

from aksara.checking.accepting import Acceptance
from aksara.checking.findings import Place
from aksara.errors import Location, RequestError
from aksara.faces import WebLicence
from aksara.instancing import AxisLimit
from aksara.limits import MAX_PROJECT_SIZE
from aksara.pipeline.characters import CharacterRequest
from aksara.pipeline.publishing.templates import TemplateRequest
from aksara.pipeline.request import (
    BuildRequest,
    FaceOverride,
    FamilyRequest,
    HostAddresses,
    Parameter,
    feature_choice,
    parse_inline,
    parse_replacements,
)
from aksara.project.addresses import count_address_tables
from aksara.project.checked_file import CheckedFile
from aksara.project.given_values import listed_of, nearest_key, parts_of
from aksara.project.keys import TABLES
from aksara.project.lines import KeyPath, line_of
from aksara.project.measured import measured_beside
from aksara.site import is_address
from aksara.sizes import parse_size
from aksara.sources import PathPattern, is_file, kind_of, printable, read_text, resolved
from aksara.text.ranges import parse_ranges
from aksara.web.font_matching import parse_desired_face
from aksara.web.palettes import PaletteRequest
from aksara.web.syntax import check_leading_css
from aksara.web.urls import check_address, check_pattern


def read_project(path: Path) -> list[BuildRequest]:
    """The builds that the file describes, one per output; its paths are relative to its folder.

    Raises `RequestError` for a missing file or one that says what cannot be, `InputError` for one that cannot be read.
    """
    if kind_of(path) == "missing":
        raise RequestError(f"{printable(str(path))}: no such file", remedy="project")
    return _Project(path, read_text(path, MAX_PROJECT_SIZE)).requests()


def read_acceptances(path: Path) -> list[Acceptance]:
    """The findings that the file accepts. Raises as `read_project` does, but for a file that names no fonts."""
    return _Project(path, read_text(path, MAX_PROJECT_SIZE)).acceptances()


def names_fonts(path: Path) -> bool:
    """Whether the file says what to build. Raises as `read_project` does."""
    return _Project(path, read_text(path, MAX_PROJECT_SIZE)).has_families


class _Project(CheckedFile):
    def acceptances(self) -> list[Acceptance]:
        """The findings that are accepted."""
        acceptances = []
        for index, table in enumerate(self.data.get("check", {}).get("accept", [])):
            path: KeyPath = ("check", "accept", index)
            with self.at(*path, "characters"):
                characters = frozenset(parse_ranges(table["characters"])) if table.get("characters") else frozenset()
            if not table["reason"].strip():
                raise self.problem((*path, "reason"), "the reason is empty; say why this is accepted")
            acceptances.append(
                Acceptance(
                    finding=table["finding"],
                    reason=table["reason"],
                    file=table.get("file", ""),
                    family=table.get("family", ""),
                    characters=characters,
                    until=table.get("until"),
                    place=Place(self.name, line_of(self.lines, path), "[[check.accept]]"),
                )
            )
        return acceptances

    @property
    def has_families(self) -> bool:
        """Whether it names fonts; a project may be there for its checks alone."""
        return bool(self.data.get("family"))

    @property
    def _takes_rules(self) -> bool:
        """Whether a style sheet names the fonts."""
        outputs = self.data.get("output", {})
        return any("rules" in output for output in (outputs if isinstance(outputs, list) else [outputs]))

    def requests(self) -> list[BuildRequest]:
        """One request for each output. Raises `RequestError` where no fonts are named."""
        if not self.has_families and not self._takes_rules:
            raise RequestError(f'{self.name}: there is no [[family]] in it, so no fonts; add one with fonts = ["…"]')
        tables = self.data.get("output", {})
        outputs: list[tuple[KeyPath, dict[str, Any]]] = [(("output",), tables)]
        if not isinstance(tables, dict):
            outputs = [(("output", index), one) for index, one in enumerate(tables)]
        families = [self._family(index, one) for index, one in enumerate(self.data.get("family", []))]
        licence = self._licence(self.data.get("licence", {}))
        made = [self._request(path, one, families, licence) for path, one in outputs]
        seen: set[Path] = set()
        for (path, _), request in zip(outputs, made, strict=True):
            paths = {resolved(place.parent) / place.name for place, _ in request.places}
            if paths & seen:
                raise self.problem(path, "two outputs go to the same folder or style sheet; give another")
            seen |= paths
        manifests = tuple(request.manifest_file for request in made)
        return [replace(request, project=self.path, outputs=manifests) for request in made]

    def _request(
        self, path: KeyPath, table: dict[str, Any], families: list[FamilyRequest], licence: WebLicence
    ) -> BuildRequest:
        characters, where, site = self._characters(path, table)
        chosen = self._chosen(path, table, families)
        with self.at(*path, "url"):
            check_pattern(table.get("url", "<path>"))
        with self.at(*path):
            return BuildRequest(
                within=self.base,
                families=tuple(self._sliced(path, table, index, families[index]) for index in chosen),
                folder=self.base / table.get("folder", "web-fonts"),
                fonts=Path(table["fonts"]) if "fonts" in table else None,
                css=self._path(table, "css"),
                css_into=self._path(table, "css-into"),
                rules=self._path(table, "rules"),
                links=tuple(PathPattern(pattern, self.base) for pattern in listed_of(table.get("links", []))),
                proof="none" if table.get("proof") == "none" else self._path(table, "proof"),
                manifest=self._path(table, "manifest"),
                inline=self._inline(path, table),
                addresses=self._addresses(path, table),
                url=table.get("url", "<path>"),
                formats=tuple(dict.fromkeys(listed_of(table["formats"]))) if "formats" in table else None,  # type: ignore[arg-type]
                characters=characters,
                effort=table.get("effort", "normal"),
                licence=licence,
                published_licences=tuple(
                    self.base / name for name in listed_of(self.data.get("licence", {}).get("publish", []))
                ),
                preload=tuple(listed_of(table.get("preload", []))),
                budget=self._size(path, table),
                archive=self.base / table["zip"] if "zip" in table else None,
                templates=tuple(
                    TemplateRequest.of(self.base / template["from"], self.base / template["to"])
                    for template in table.get("template", [])
                ),
                all_faces=site.get("all-faces", False),
                measured=measured_beside(self.base),
                replacements=self._replacements(chosen),
                locations=self._locations(path, where, chosen),
            )

    def _replacements(self, chosen: Sequence[int]) -> dict[str, str]:
        """Which family replaces which family of the site, for tables with fonts of several families."""
        tables = [self.data["family"][index] for index in chosen]
        given = [name for table in tables for name in listed_of(table.get("replaces", []))]
        return parse_replacements(given)[1]

    def _path(self, table: dict[str, Any], key: str) -> Path | None:
        return self.base / table[key] if key in table else None

    def _inline(self, path: KeyPath, table: dict[str, Any]) -> int | Literal["all"]:
        with self.at(*path, "inline"):
            return parse_inline(table.get("inline", "none"))

    def _addresses(self, path: KeyPath, table: dict[str, Any]) -> HostAddresses | None:
        """The addresses that are filled in, by file names; None without that table."""
        if "addresses" not in table:
            return None
        for name, address in table["addresses"].items():
            if not isinstance(address, str):
                raise self.problem((*path, "addresses", name), "write the address in quotes, empty if it is unknown")
            with self.at(*path, "addresses", name):
                check_address(address)
        outputs = self.data["output"] if isinstance(self.data["output"], list) else [self.data["output"]]
        if sum("addresses" in output for output in outputs) != count_address_tables(self.text):
            raise self.problem(
                (*path, "addresses"),
                "write [output.addresses] on a line of its own, so that a build can add lines below",
            )
        before = outputs[: path[-1]] if isinstance(path[-1], int) else []
        known = {name: address for name, address in table["addresses"].items() if address}
        return HostAddresses(known, self.path, sum("addresses" in table for table in before))

    def _sliced(self, path: KeyPath, output: dict[str, Any], index: int, family: FamilyRequest) -> FamilyRequest:
        """The family, cut as the output says where the family itself says nothing."""
        own = "slices" in self.data["family"][index]
        if own or "slices" not in output:
            return family
        with self.at(*path, "slices"):
            return replace(family, slices=output["slices"])

    def _locations(self, output: KeyPath, site: KeyPath, chosen: Sequence[int]) -> dict[Parameter, Location]:
        """Where each parameter that a build may complain of is written."""
        tables: list[tuple[str, KeyPath, int | None]] = [("output", output, None), ("licence", ("licence",), None)]
        tables += [("site", site, None)]
        tables += [("family", ("family", index), position) for position, index in enumerate(chosen)]
        return {
            (key.parameter, family): self.location(where, key.name)
            for table, path, family in tables
            for key in TABLES[table]
            # Of tables of their own the first stands for all.
            for where in [(*path, key.name, 0) if key.value_type == "tables" else (*path, key.name)]
            if where in self.lines
        }

    def _chosen(self, path: KeyPath, table: dict[str, Any], families: list[FamilyRequest]) -> list[int]:
        """The indices of the families of an output."""
        if "families" not in table:
            return list(range(len(families)))
        indices = {family.name: index for index, family in enumerate(families) if family.name}
        for name in listed_of(table["families"]):
            if name not in indices:
                raise self.problem(
                    (*path, "families"),
                    f"no [[family]] has the name '{name}'{nearest_key(name, list(map(str, indices)))}",
                )
        return [indices[name] for name in dict.fromkeys(listed_of(table["families"]))]

    def _characters(self, path: KeyPath, table: dict[str, Any]) -> tuple[CharacterRequest, KeyPath, dict[str, Any]]:
        """The characters that an output keeps, and the table that says so, with its path: its own before [site]."""
        own = any(key.name in table for key in TABLES["site"])
        values, where = (table, path) if own else (self.data.get("site", {}), ("site",))
        pages = listed_of(values.get("pages", []))
        with self.at(*where):
            characters = CharacterRequest(
                texts=tuple(listed_of(values.get("also", []))),
                ranges=parts_of(values.get("ranges", [])),
                languages=parts_of(values.get("languages", [])),
                scripts=parts_of(values.get("scripts", [])),
                emoji=parts_of(values.get("emoji", [])),
                icons=parts_of(values.get("icons", [])),
                pages=tuple(PathPattern(path, self.base) for path in pages if not is_address(path)),
                addresses=tuple(path for path in pages if is_address(path)),
                data=tuple(PathPattern(pattern, self.base) for pattern in listed_of(values.get("data", []))),
                exact=values.get("exact", False),
                exclude=tuple(listed_of(values.get("exclude", []))),
                root=self.base / values["root"] if "root" in values else None,
            )
        return characters, where, values

    def _family(self, index: int, table: dict[str, Any]) -> FamilyRequest:
        path: KeyPath = ("family", index)
        overrides = []
        for position, one in enumerate(table.get("face", [])):
            with self.at(*path, "face", position):
                overrides.append(self._override(path, position, one))
        with self.at(*path, "uses"):
            uses = tuple(map(parse_desired_face, listed_of(table.get("uses", []))))
        with self.at(*path):
            return FamilyRequest(
                fonts=tuple(PathPattern(pattern, self.base) for pattern in listed_of(table["fonts"])),
                name=table.get("name"),
                overrides=tuple(overrides),
                stack=self._stack(path, table),
                display=table.get("display"),
                features=feature_choice(listed_of(table.get("features", [])), listed_of(table.get("no-features", []))),
                hints=table.get("hinting", "keep") == "keep",
                local=table.get("local", False),
                uses=uses,
                budget=self._size(path, table),
                axes=self._axes(path, table),
                variable=table.get("variable", "keep"),
                replaces=parse_replacements(listed_of(table.get("replaces", [])))[0],
                slices=table.get("slices", "auto"),
                palettes=self._palettes(path, table),
                colour_format=table.get("colour-format", "auto"),
            )

    def _override(self, path: KeyPath, index: int, table: dict[str, Any]) -> FaceOverride:
        weight = table.get("weight")
        if isinstance(weight, list) and not (len(weight) == 2 and all(isinstance(bound, int) for bound in weight)):
            raise self.problem((*path, "face", index, "weight"), "a range of weights is as [100, 900]")
        # Who says the weight means that style, too: the font's own word is what is wrong.
        style = table.get("style", "normal" if weight is not None else None)
        weights = (weight[0], weight[1]) if isinstance(weight, list) else weight
        return FaceOverride(table["file"], weights, style, table.get("width"))

    def _palettes(self, path: KeyPath, table: dict[str, Any]) -> dict[str, PaletteRequest]:
        """The palettes that are made in addition to the fonts' own."""
        found = {}
        for name, said in table.get("palettes", {}).items():
            palette: dict[str, Any] = said if isinstance(said, dict) else {"base": ""}
            base, colours = palette.get("base", 0), palette.get("colours", {})
            right = isinstance(base, int) and isinstance(colours, dict) and set(palette) <= {"base", "colours"}
            if not right or not all(key.isdigit() and isinstance(value, str) for key, value in colours.items()):
                raise self.problem(
                    (*path, "palettes", name), f"'{name}' must be as {{ base = 1, colours = {{ 3 = \"#0b4f6c\" }} }}"
                )
            found[name] = PaletteRequest(base, {int(key): value for key, value in colours.items()})
        return found

    def _axes(self, path: KeyPath, table: dict[str, Any]) -> dict[str, AxisLimit]:
        """What remains of each axis: a number pins it, two limit it."""
        limits = {}
        for tag, value in table.get("axes", {}).items():
            numbers = value if isinstance(value, list) else [value, value]
            if len(numbers) != 2 or not all(isinstance(n, int | float) and not isinstance(n, bool) for n in numbers):
                raise self.problem(
                    (*path, "axes", tag), f"'{tag}' must be a value or a range, as 14 or [400, 700], not {value}"
                )
            with self.at(*path, "axes"):
                limits[tag] = AxisLimit.parse(str(numbers[0]), str(numbers[1]))
        return limits

    def _stack(self, path: KeyPath, table: dict[str, Any]) -> tuple[str, ...] | None:
        if "stack" not in table:
            return None
        names = [part for name in listed_of(table["stack"]) for part in name.split(",")]
        if not all(name.strip() for name in names):
            raise self.problem((*path, "stack"), "the stack has an empty family; leave it out")
        return tuple(" ".join(name.split()) for name in names)

    def _size(self, path: KeyPath, table: dict[str, Any]) -> int | None:
        if "budget" not in table:
            return None
        with self.at(*path, "budget"):
            return parse_size(table["budget"])

    def _licence(self, table: dict[str, Any]) -> WebLicence:
        for name in listed_of(table.get("publish", [])):
            if not is_file(self.base / name):
                folder = printable(str(resolved(self.base)))
                raise self.problem(("licence", "publish"), f"there is no file '{name}' (counted from {folder})")
        with self.at("licence", "css"):
            check_leading_css(table.get("css", ""))
        return WebLicence(
            table.get("web", False),
            " ".join(table.get("holder", "").split()),
            tuple(listed_of(table.get("domains", []))),
            table.get("until"),
            table.get("css", ""),
            " ".join(table.get("name-agreed", "").split()),
        )

"""The user's own templates, rendered with the manifest, for themes and page builders that list their fonts.

A template comes from anywhere, so it is rendered in a process of its own (`web.rendering`), with bounds on time and
memory.
"""

from __future__ import annotations

import json
import subprocess
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct

from aksara.errors import RequestError
from aksara.limits import MAX_PAGE_SIZE, MAX_TEMPLATE_SIZE
from aksara.processes import python_command
from aksara.sources import kind_of, printable, read_file, read_text
from aksara.web.json_pointer import with_value

#: Seconds that a template may take.
_SECONDS = 10
_PARAMETER = "BuildRequest.templates"
#: Targets in which markup would be taken for such.
_MARKUP = (".html", ".htm", ".xhtml", ".xml", ".svg", ".php", ".liquid", ".twig", ".vue")


class TemplateRequest(Struct, frozen=True):
    """A template and its output file; with a `pointer`, only the value there in that JSON file is replaced."""

    source: Path
    target: Path
    pointer: str = ""

    @classmethod
    def of(cls, source: Path, target: Path) -> TemplateRequest:
        """With the target as it is written: `theme.json#/settings/fonts` has a pointer behind the file."""
        path, mark, pointer = str(target).partition("#/")
        return cls(source, Path(path), f"/{pointer}") if mark else cls(source, target)


class Rendered(Struct, frozen=True):
    """A file to be: its bytes and, where it is the user's and one value in it is made, the bytes that it had."""

    path: Path
    data: bytes
    before: bytes | None = None


def render_templates(templates: Sequence[TemplateRequest], manifest: Mapping[str, Any]) -> list[Rendered]:
    """Render each template with the manifest. Raises `RequestError` for one that cannot be rendered."""
    made: dict[Path, Rendered] = {}
    for template in templates:
        data = _rendered(template, manifest)
        if template.pointer:
            # Several values may go into one file.
            made[template.target] = _into_json(template, data, made.get(template.target))
        else:
            made[template.target] = Rendered(template.target, data)
    return list(made.values())


def _into_json(template: TemplateRequest, data: bytes, made: Rendered | None) -> Rendered:
    """The user's JSON file, with the value at the pointer replaced by the rendered template."""
    name = printable(str(template.target))
    if made is None:
        if kind_of(template.target) != "file":
            raise RequestError(f"{name}: no such file to put a value into", parameter=_PARAMETER)
        before = read_file(template.target, limit=MAX_PAGE_SIZE)
        made = Rendered(template.target, before, before)
    try:
        value = data.decode().strip()
        json.loads(value, parse_constant=_not_in_json)
    except (ValueError, RecursionError) as error:
        raise RequestError(
            f"{printable(str(template.source))}: its output is not valid JSON ({error})", parameter=_PARAMETER
        ) from error
    try:
        text = with_value(made.data.decode(), template.pointer, value)
    except (RequestError, UnicodeDecodeError) as error:
        problem = error.problem if isinstance(error, RequestError) else "this is not UTF-8"
        raise RequestError(f"{name}: {problem}", parameter=_PARAMETER) from error
    return Rendered(template.target, text.encode(), made.before)


def _not_in_json(name: str) -> None:
    """Refuse `NaN` and the like, which Python reads (RFC 8259, section 6)."""
    raise ValueError(f"{name} is not a JSON number")


def _rendered(template: TemplateRequest, manifest: Mapping[str, Any]) -> bytes:
    name = printable(str(template.source))
    if kind_of(template.source) == "missing":
        raise RequestError(f"{name}: no such template; check the path", parameter=_PARAMETER)
    text = read_text(template.source, MAX_TEMPLATE_SIZE)
    task = {"template": text, "markup": template.target.suffix.lower() in _MARKUP, "manifest": manifest}
    try:
        done = subprocess.run(
            python_command("aksara.web.rendering"),
            input=json.dumps(task).encode(), capture_output=True, timeout=_SECONDS, check=False,
        )  # fmt: skip
    except subprocess.TimeoutExpired as error:
        raise RequestError(
            f"{name}: it did not finish within {_SECONDS} seconds; check it for an endless loop",
            parameter=_PARAMETER,
        ) from error
    except OSError as error:
        raise RequestError(f"{name}: no process can be started to render it ({error.strerror})") from error
    if done.returncode == 0:
        return done.stdout
    said = done.stderr.decode(errors="replace").strip().splitlines()
    reason = said[-1] if said and done.returncode == 1 else "it takes too much memory, or crashed"
    raise RequestError(f"{name}: {printable(reason)}", parameter=_PARAMETER)

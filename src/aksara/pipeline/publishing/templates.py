"""The user's own templates, rendered with the manifest: whatever a theme or a page builder wants to list its fonts.

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
from aksara.processes import python_command
from aksara.sources import kind_of, printable, read_text

#: Seconds that a template may take.
_SECONDS = 10
_MAX_TEMPLATE = 1_000_000
_PARAMETER = "BuildRequest.templates"
#: Targets in which markup would be taken for such.
_MARKUP = (".html", ".htm", ".xhtml", ".xml", ".svg", ".php", ".liquid", ".twig", ".vue")


class TemplateRequest(Struct, frozen=True):
    """A template, and the file that is made of it."""

    source: Path
    target: Path


def render_templates(templates: Sequence[TemplateRequest], manifest: Mapping[str, Any]) -> list[tuple[Path, bytes]]:
    """What each template makes of the manifest. Raises `RequestError` for one that cannot be rendered."""
    return [(each.target, _rendered(each, manifest)) for each in templates]


def _rendered(template: TemplateRequest, manifest: Mapping[str, Any]) -> bytes:
    name = printable(str(template.source))
    if kind_of(template.source) == "missing":
        raise RequestError(f"{name}: there is no such template; check the path", parameter=_PARAMETER)
    text = read_text(template.source, _MAX_TEMPLATE)
    task = {"template": text, "markup": template.target.suffix.lower() in _MARKUP, "manifest": manifest}
    try:
        done = subprocess.run(
            python_command("aksara.web.rendering"),
            input=json.dumps(task).encode(), capture_output=True, timeout=_SECONDS, check=False,
        )  # fmt: skip
    except subprocess.TimeoutExpired as error:
        raise RequestError(
            f"{name}: it is not done after {_SECONDS} seconds; is there a loop in it that does not end?",
            parameter=_PARAMETER,
        ) from error
    except OSError as error:
        raise RequestError(f"{name}: no process can be started to render it ({error.strerror})") from error
    if done.returncode == 0:
        return done.stdout
    said = done.stderr.decode(errors="replace").strip().splitlines()
    reason = said[-1] if said and done.returncode == 1 else "it takes too much memory, or ended without a word"
    raise RequestError(f"{name}: {printable(reason)}", parameter=_PARAMETER)

"""The user's own templates, rendered with the manifest: whatever a theme or a page builder wants to list its fonts.

A template comes from anywhere, so it is rendered in a process of its own, with bounds on time and memory, by Jinja2's
sandbox: it sees the manifest and nothing else, and loads no other file.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import unicodedata
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct

from aksara.errors import RequestError
from aksara.sources import kind_of, printable, read_text

#: Seconds, bytes of memory besides the program's own, and bytes of what is made.
_SECONDS, _MEMORY, _MOST = 10, 500_000_000, 10_000_000
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
            [sys.executable, "-c", "from aksara.pipeline.templates import worker; worker()"],
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


# ---- in the process that renders


def worker() -> None:
    """Render the task on standard input to standard output; what is wrong goes to standard error, with status 1."""
    _bound_memory()
    task = json.loads(sys.stdin.buffer.read())
    try:
        out = _render(task["template"], task["manifest"], markup=task["markup"])
    except (RecursionError, MemoryError) as error:
        sys.exit(f"it goes too deep, or takes too much memory ({type(error).__name__})")
    sys.stdout.buffer.write(out)


def _bound_memory() -> None:
    try:
        import resource
    except ImportError:  # Windows has no such bound; time and size are bounded there
        return
    _, most = resource.getrlimit(resource.RLIMIT_AS)
    limit = _MEMORY if most == resource.RLIM_INFINITY else min(_MEMORY, most)
    resource.setrlimit(resource.RLIMIT_AS, (limit, most))


def _render(template: str, manifest: Mapping[str, Any], *, markup: bool) -> bytes:
    from jinja2 import StrictUndefined, TemplateError
    from jinja2.exceptions import SecurityError
    from jinja2.sandbox import ImmutableSandboxedEnvironment

    environment = ImmutableSandboxedEnvironment(
        autoescape=markup, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True, keep_trailing_newline=True
    )
    environment.filters.update(_filters())
    out = bytearray()
    try:
        for piece in environment.from_string(template).generate(**manifest, manifest=manifest):
            out += piece.encode()
            if len(out) > _MOST:
                sys.exit(f"it makes more than {_MOST / 1e6:g} MB")
    except SecurityError as error:
        line = _line_of(error)
        sys.exit(f"{f'line {line}: ' if line else ''}a template may not do that ({error.message})")
    except TemplateError as error:
        line = getattr(error, "lineno", None) or _line_of(error)
        where = f"line {line}: " if line else ""
        sys.exit(f"{where}{error.message or type(error).__name__}")
    except (ArithmeticError, LookupError, TypeError, ValueError) as error:
        line = _line_of(error)
        sys.exit(f"{f'line {line}: ' if line else ''}{error}")
    return bytes(out)


def _line_of(error: BaseException) -> int | None:
    """The line of the template that raised."""
    found, trace = None, error.__traceback__
    while trace is not None:
        if trace.tb_frame.f_code.co_filename == "<template>":
            found = trace.tb_lineno
        trace = trace.tb_next
    return found


def _filters() -> dict[str, Callable[..., object]]:
    """Filters besides Jinja2's own: what lists of fonts need."""
    from aksara.sizes import format_size
    from aksara.web.syntax import string

    return {"bytes": format_size, "css_string": string, "slug": _slug}


def _slug(text: object) -> str:
    """A text as names in code have it: small letters and digits, with hyphens between."""
    plain = unicodedata.normalize("NFKD", str(text)).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-") or "font"

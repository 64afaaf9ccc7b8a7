"""Rendering a user's template with the manifest: what runs in the process that is started for it (`main`).

The template comes from anywhere. Jinja2's sandbox shows it the manifest and nothing else, and loads no other file;
memory and the size of the result are bounded here, time by whoever started the process. Nothing else of Aksara is
imported.
"""

from __future__ import annotations

import json
import re
import sys
import unicodedata
from collections.abc import Callable, Mapping
from typing import Any

from aksara.limits import MAX_RENDERED_SIZE, MAX_RENDERING_MEMORY


def main() -> None:
    """Render the task on standard input to standard output; errors go to standard error, with status 1."""
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
    limit = MAX_RENDERING_MEMORY if most == resource.RLIM_INFINITY else min(MAX_RENDERING_MEMORY, most)
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
            if len(out) > MAX_RENDERED_SIZE:
                sys.exit(f"it makes more than {MAX_RENDERED_SIZE / 1e6:g} MB")
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
    """Filters for lists of fonts, in addition to Jinja2's own."""
    from aksara.sizes import format_size
    from aksara.web.syntax import string

    return {"bytes": format_size, "css_string": string, "css_range": _css_range, "slug": _slug}


def _css_range(value: Any) -> str:
    """A number as CSS has it, or the two ends of a range: [300, 800] is "300 800"."""
    return " ".join(f"{number:g}" for number in (value if isinstance(value, list | tuple) else [value]))


def _slug(text: object) -> str:
    """A text as names in code have it: small letters and digits, with hyphens between."""
    plain = unicodedata.normalize("NFKD", str(text)).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-") or "font"

"""Aksara: desktop fonts in; small web fonts, their CSS and a page of proofs out.

The public API, without any interface: `open_font`, `subset`, `identify`,
`embedding`, and `BuildRequest` or `read_project`, `make_plan`, `run`,
`write_output` for a whole build. Failures are raised as `AksaraError`. See docs/python-api.md.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

__version__ = "0.1.0"

if TYPE_CHECKING:
    from aksara.build import BuildRequest, FamilyRequest, make_plan, run, write_output
    from aksara.errors import AksaraError, FontError, InputError, OutputError, RequestError, UnsupportedFont
    from aksara.faces import Face, embedding, identify
    from aksara.font import Font, open_font
    from aksara.project import read_project
    from aksara.subsetting import FeatureChoice, Options, Subset, subset
    from aksara.text import Wanted, wanted

# Name → module. Imported when first used, so that `aksara --help` need not load them.
_PLACES = {
    **dict.fromkeys(("BuildRequest", "FamilyRequest", "make_plan", "run", "write_output"), "aksara.build"),
    **dict.fromkeys(
        ("AksaraError", "FontError", "InputError", "OutputError", "RequestError", "UnsupportedFont"), "aksara.errors"
    ),
    **dict.fromkeys(("Face", "embedding", "identify"), "aksara.faces"),
    **dict.fromkeys(("Font", "open_font"), "aksara.font"),
    "read_project": "aksara.project",
    **dict.fromkeys(("Wanted", "wanted"), "aksara.text"),
    **dict.fromkeys(("FeatureChoice", "Options", "Subset", "subset"), "aksara.subsetting"),
}

__all__ = [
    "AksaraError",
    "BuildRequest",
    "Face",
    "FamilyRequest",
    "FeatureChoice",
    "Font",
    "FontError",
    "InputError",
    "Options",
    "OutputError",
    "RequestError",
    "Subset",
    "UnsupportedFont",
    "Wanted",
    "__version__",
    "embedding",
    "identify",
    "make_plan",
    "open_font",
    "read_project",
    "run",
    "subset",
    "wanted",
    "write_output",
]


def __getattr__(name: str) -> Any:
    if name not in _PLACES:
        raise AttributeError(f"module 'aksara' has no attribute '{name}'")
    value = getattr(import_module(_PLACES[name]), name)
    globals()[name] = value
    return value

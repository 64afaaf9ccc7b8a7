"""Aksara: desktop fonts in; small web fonts, their CSS and a page of proofs out.

The public API, without any interface: `open_font`, `subset`, `identify`,
`embedding`, and `BuildRequest` or `read_project`, `make_plan`, `run`,
`write_output` for a whole build (`build` plans and runs). Failures are raised as `AksaraError`. See docs/python-api.md.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from aksara.importing import on_demand

__version__ = "0.3.0"

if TYPE_CHECKING:
    from aksara.errors import (
        AksaraError,
        EmbeddingNotPermitted,
        FontError,
        InputError,
        OutputError,
        RequestError,
        UnsupportedFont,
    )
    from aksara.faces import Face, WebLicence, embedding, identify
    from aksara.font import Font, open_font
    from aksara.notices import Notice
    from aksara.pipeline import (
        BuildRequest,
        CharacterRequest,
        FaceOverride,
        FamilyRequest,
        build,
        make_plan,
        run,
        write_output,
    )
    from aksara.project import read_project
    from aksara.sources import PathPattern
    from aksara.subsetting import FeatureChoice, Subset, SubsetOptions, subset

# Module → what it offers. Imported when first used, so that `aksara --help` need not load them.
_MODULES = {
    "aksara.errors": (
        *("AksaraError", "EmbeddingNotPermitted", "FontError", "InputError", "OutputError", "RequestError"),
        "UnsupportedFont",
    ),
    "aksara.faces": ("Face", "WebLicence", "embedding", "identify"),
    "aksara.font": ("Font", "open_font"),
    "aksara.notices": ("Notice",),
    "aksara.pipeline": (
        *(
            "BuildRequest",
            "CharacterRequest",
            "FaceOverride",
            "FamilyRequest",
            "build",
            "make_plan",
            "run",
            "write_output",
        ),
    ),
    "aksara.project": ("read_project",),
    "aksara.sources": ("PathPattern",),
    "aksara.subsetting": ("FeatureChoice", "Subset", "SubsetOptions", "subset"),
}
_MODULE_OF = {name: module for module, names in _MODULES.items() for name in names}

__all__ = [
    "AksaraError",
    "BuildRequest",
    "CharacterRequest",
    "EmbeddingNotPermitted",
    "Face",
    "FaceOverride",
    "FamilyRequest",
    "FeatureChoice",
    "Font",
    "FontError",
    "InputError",
    "Notice",
    "OutputError",
    "PathPattern",
    "RequestError",
    "Subset",
    "SubsetOptions",
    "UnsupportedFont",
    "WebLicence",
    "__version__",
    "build",
    "embedding",
    "identify",
    "make_plan",
    "open_font",
    "read_project",
    "run",
    "subset",
    "write_output",
]


__getattr__ = on_demand(__name__, _MODULE_OF)

"""What a build writes besides fonts: style sheet, proof, manifest, what templates make of it, and what is kept between
marks in files of the user's."""

from __future__ import annotations

import json
import os
from collections.abc import Mapping, Sequence
from hashlib import sha256
from pathlib import Path, PurePath
from typing import Any
from urllib.parse import quote

from msgspec import Struct, to_builtins
from msgspec.structs import replace

from aksara import __version__
from aksara.notices import Notice
from aksara.pipeline.planning.kept_files import KeptFile
from aksara.pipeline.planning.plan import BuildPlan
from aksara.pipeline.publishing.archive import archive_file
from aksara.pipeline.publishing.page_links import links_of
from aksara.pipeline.publishing.proofs import family_proofs
from aksara.pipeline.publishing.published_paths import PublishedPaths
from aksara.pipeline.publishing.templates import Rendered, render_templates
from aksara.pipeline.request import BuildRequest
from aksara.pipeline.trials.budget import Budget
from aksara.pipeline.writing.targets import OutputFile, OutputKind
from aksara.proof import proof_page
from aksara.sources import printable
from aksara.web.css import style_sheet
from aksara.web.manifest import ManifestPaths, build_manifest
from aksara.web.marks import MarkedFile
from aksara.web.model import LicenceFile, LicenceNote, WebFamily
from aksara.web.preload import Preload


class Documents(Struct, frozen=True):
    """All files, fonts included, in the order in which they have to appear; the manifest comes last: it says that all
    the rest is there. `rules` are the text of the style sheet, or of what stands in the user's."""

    files: tuple[OutputFile, ...]
    manifest: dict[str, Any]
    rules: str


def make_documents(
    plan: BuildPlan,
    families: Sequence[WebFamily],
    preload: Sequence[Preload],
    budgets: Sequence[Budget],
    notices: Sequence[Notice],
) -> Documents:
    """All of them, for what was made."""
    request, shown = plan.request, PublishedPaths(plan.request)
    here = request.manifest_file.parent
    published = [_without_sources(family, shown) for family in families]
    licence = LicenceNote(request.licence, tuple(_shown_source(file, shown) for file in plan.licences.files))
    rules = style_sheet(families, version=__version__, licence=licence, is_kept=plan.kept.sheet is not None)
    manifest = build_manifest(
        published,
        paths=ManifestPaths(
            path_from(here, request.css_file),
            plan.kept.sheet is not None,
            path_from(here, request.fonts_folder).removeprefix("."),
        ),
        preload=[(link, link.link(plan.page_folder or request.folder)) for link in preload],
        licence=licence,
        budget=[budget.as_json() for budget in budgets],
        warnings=shown.notices(notices),
        version=__version__,
    )
    sheet, manifest["css_sha256"] = _sheet(plan, rules)
    files = [*_beside(plan, published), sheet]
    manifest["proof"] = {}
    if request.proof_file is not None:
        way = quote(path_from(request.proof_file.parent, request.fonts_folder))
        proof = proof_page(family_proofs(plan, published), __version__, way)
        files.append(OutputFile(request.proof_file, proof, "proof", "BuildRequest.proof"))
        manifest["proof"] = _listed(here, request.proof_file, proof)
    links = [_with_links(plan, kept, families, preload) for kept in plan.kept.links]
    files += [file for file, _ in links]
    manifest["links"] = [{"path": path_from(here, file.path), "sha256": digest} for file, digest in links]
    manifest |= _project(request, here)
    if plan.rules:
        manifest["rules"] = to_builtins(plan.rules)
    rendered = render_templates(request.templates, manifest) if request.templates else []
    files += (_template_file(document) for document in rendered)
    manifest["templates"] = [
        _listed(here, document.path, document.data) for document in rendered if document.before is None
    ]
    text = json.dumps(manifest, indent=1, ensure_ascii=False) + "\n"
    last = OutputFile(request.manifest_file, text.encode(), "manifest", "BuildRequest.manifest")
    if request.archive is not None:
        files.append(archive_file([*(file for file in files if file.kind != "kept"), last], request.archive))
    return Documents((*files, last), manifest, rules)


def _project(request: BuildRequest, here: Path) -> dict[str, object]:
    """The manifest's entries about the project; `here` is the manifest's folder."""
    entries: dict[str, object] = {}
    # An output path given as an option is not one of the project's outputs.
    if request.project is not None and request.manifest_file in request.outputs:
        entries["project"] = path_from(here, request.project)
    if len(request.outputs) > 1:
        entries["outputs"] = [path_from(here, path) for path in request.outputs]
    return entries


def _template_file(made: Rendered) -> OutputFile:
    kind: OutputKind = "template" if made.before is None else "kept"
    return OutputFile(made.path, made.data, kind, "BuildRequest.templates", made.before)


def path_from(folder: Path, path: Path) -> str:
    """A path as it is counted from a folder, with slashes."""
    return printable(PurePath(os.path.relpath(path.absolute(), folder.absolute())).as_posix())


def _listed(here: Path, path: Path, data: bytes) -> Mapping[str, str]:
    return {"path": path_from(here, path), "sha256": sha256(data).hexdigest()}


def _without_sources(family: WebFamily, shown: PublishedPaths) -> WebFamily:
    return replace(family, faces=tuple(map(shown.face, family.faces)))


def _shown_source(file: LicenceFile, shown: PublishedPaths) -> LicenceFile:
    return replace(file, source=shown.text(file.source))


def _beside(plan: BuildPlan, families: Sequence[WebFamily]) -> list[OutputFile]:
    """The font files, and the licence texts beside them."""
    request = plan.request
    fonts = (file for family in families for face in family.faces for file in face.files if not file.is_inline)
    beside: dict[str, tuple[bytes, OutputKind]] = {file.name: (file.data, "font") for file in fonts}
    beside |= {file.name: (file.data, "licence") for file in plan.licences.files}
    return [
        OutputFile(request.fonts_folder / name, *body, "BuildRequest.fonts") for name, body in sorted(beside.items())
    ]


def _sheet(plan: BuildPlan, rules: str) -> tuple[OutputFile, str]:
    """The style sheet, and the hash of the rules in it."""
    request, kept = plan.request, plan.kept.sheet
    if kept is None:
        data = rules.encode()
        return OutputFile(request.css_file, data, "css", request.css_parameter), sha256(data).hexdigest()
    return _with_content(kept, rules.rstrip("\n"), kept.marked.place_for_rules, "", request.css_parameter)


def _with_links(
    plan: BuildPlan, kept: KeptFile, families: Sequence[WebFamily], preload: Sequence[Preload]
) -> tuple[OutputFile, str]:
    """A page, template or fragment with its links, and the hash of these."""
    content = "\n".join(links_of(plan, kept, families, preload))
    position, indent = (0, "") if not kept.data or kept.marked.marked else kept.marked.place_for_links
    return _with_content(kept, content, position, indent, "BuildRequest.links")


def _with_content(kept: KeptFile, content: str, position: int, indent: str, parameter: str) -> tuple[OutputFile, str]:
    """The file with that between its marks, new ones at the place if it has none, and the hash of what is there."""
    marked = kept.marked
    data = marked.with_content(content) if marked.marked else marked.with_marks_at(position, content, indent)
    digest = MarkedFile.of(data, kept.path.name).content_digest
    return OutputFile(kept.path, data, "kept", parameter, kept.data), digest

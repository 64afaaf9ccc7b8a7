"""The end of a build's report: what was written, what to publish, and what is left to do by hand."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Iterator, Sequence
from difflib import unified_diff
from pathlib import Path
from urllib.parse import quote

from rich.text import Text

from aksara.cli.screen import Screen
from aksara.cli.work import Done
from aksara.phrases import count_of, listed
from aksara.pipeline import Build, Written
from aksara.sizes import format_size
from aksara.sources import printable
from aksara.web.css import property_names
from aksara.web.example_rules import first_rule
from aksara.web.preload import page_url
from aksara.web.urls import attribute_value, sheet_url

_SHOWN_TEXTS, _SHOWN_LINES, _SHOWN_FILES = 4, 8, 4
#: Lines of one file that a dry run shows.
_SHOWN_DIFFERENCES = 40
#: Style sheets that are compiled, and how they load another one.
_COMPILED = {".scss": '@use "{}";', ".sass": '@use "{}"', ".less": '@import "{}.less";'}
#: What a browser fetches, of all that is written.
_PUBLISHED = ("font", "licence", "css")


def counts_text(written: Sequence[Written]) -> str:
    """How many files were written, left as they were, and removed."""
    new, unchanged, removed = (
        sum(len(getattr(output, name)) for output in written) for name in ("new", "unchanged", "removed")
    )
    counts = [f"{new} new" if new else "nothing new"]
    counts += [f"{unchanged} unchanged"] if unchanged else []
    counts += [f"{removed} old removed"] if removed else []
    return ", ".join(counts)


def report_written(screen: Screen, done: Done, written: Written) -> None:
    """Report which files were written, which to publish, and which earlier ones the user has to handle."""
    request, build = done.plan.request, done.build
    screen.print(Text.assemble("Written to ", (f"{request.folder}/", "bold"), f" ({counts_text([written])})"))
    if kept := [file.path for file in build.files if file.kind == "kept" and file.data != file.before]:
        screen.print(f"Changed between the marks only: {_listed(kept)}")
    for path in written.left:
        screen.print(
            Text.assemble(
                ("Note ", "bold yellow"),
                f"{path.as_posix()} is of an earlier build, changed since or elsewhere; remove it yourself",
            )
        )
    screen.print(_what_to_publish(done))


def report_differences(screen: Screen, build: Build) -> None:
    """Report what a dry run would change in the user's own files."""
    for file in build.files:
        if file.kind != "kept" or file.before == file.data:
            continue
        name = printable(file.path.as_posix())
        screen.print("", Text(f"{name} would be {'changed' if file.before is not None else 'made'}:", style="bold"))
        old, new = (data.decode("utf-8", "replace").splitlines() for data in (file.before or b"", file.data))
        lines = [line for line in unified_diff(old, new, lineterm="", n=1) if not line.startswith(("---", "+++"))]
        for line in lines[:_SHOWN_DIFFERENCES]:
            style = {"+": "green", "-": "red", "@": "cyan"}.get(line[:1], "")
            screen.print(Text(f"  {line}", style=style))
        if len(lines) > _SHOWN_DIFFERENCES:
            screen.print(f"  … and {len(lines) - _SHOWN_DIFFERENCES} more lines")


def _what_to_publish(done: Done) -> Text:
    """What of all this a server needs, in a line."""
    request, build = done.plan.request, done.build
    files = [file for file in build.files if file.kind in _PUBLISHED]
    sheets = [file for file in build.files if file.path == request.css_file]
    published = [*(file for file in files if file.kind != "css"), *sheets]
    size = format_size(sum(len(file.data) for file in published))
    names = [request.css_file.as_posix()]
    names += [f"{request.fonts_folder.as_posix()}/"] if len(published) > len(sheets) else []
    others = [path.name for path in (request.manifest_file, request.proof_file) if path is not None]
    line = Text.assemble(("Publish ", "bold"), " and ".join(names), f": {count_of(len(published), 'file')}, {size}")
    if texts := [str(licence["source"]) for licence in build.manifest["licence"]["files"]]:
        line.append(f", with the licence text{'s' * (len(texts) != 1)} {listed(texts, _SHOWN_TEXTS)}")
    return line.append(f"; {' and '.join(others)} need not be published")


def report_next_steps(screen: Screen, done: Done) -> None:
    """The remaining steps, in order."""
    screen.print(Text("Next", style="bold"))
    for step, (first, *more) in enumerate(_steps(done, all_of_them=screen.verbose), 1):
        screen.print(f"  {step}. {first}", *(Text(f"       {line}", style="cyan") for line in more))


def _steps(done: Done, *, all_of_them: bool) -> Iterator[tuple[str, ...]]:
    """Each step: a sentence, and lines to copy or to look at."""
    request, build = done.plan.request, done.build
    suffix = request.css_file.suffix.lower()
    if suffix in _COMPILED and done.plan.kept.sheet is None:
        name = request.css_file.with_suffix("").as_posix()
        yield "In your main style sheet (adapt the path to it):", _COMPILED[suffix].format(name)
    if done.addresses is not None and done.addresses.empty:
        empty, new = len(done.addresses.empty), len(done.addresses.added)
        newer = f", {new} of them new" if 0 < new < empty else ""
        yield (
            f"Upload the fonts to your host, and write the address of each into aksara.toml, [output.addresses]: "
            f"{count_of(empty, 'file')} without one{newer}; then build again",
        )
    if not request.links:
        yield from _links_to_paste(done, with_sheet=suffix not in _COMPILED and done.plan.kept.sheet is None)
    yield from _names_to_change(done, all_of_them=all_of_them)
    yield from _old_fonts_to_remove(done, all_of_them=all_of_them)
    if request.proof_file is not None:
        yield (f"To see every face, open {request.proof_file}",)
    if any(file.kind == "font" for file in build.files):
        yield (f"Have your server send the fonts in {_below(request.fonts_folder)} with {_FOREVER}",)
    if any(file.is_inline for family in build.families for face in family.faces for file in face.files):
        yield ("If your site has a Content-Security-Policy, allow fonts in the style sheet: font-src 'self' data:",)
    if not request.licence.stated:
        licences = build.manifest["licence"]["files"]
        beside = f" (see {licences[0]['source']})" if licences else ""
        yield (f"The fonts themselves do not forbid web use; check the seller's licence{beside}",)


_FOREVER = "Cache-Control: public, max-age=31536000, immutable"


def _below(folder: Path) -> str:
    return f"{folder.name}/" if folder.name else "this folder"


def _links_to_paste(done: Done, *, with_sheet: bool) -> Iterator[tuple[str, ...]]:
    request, folder = done.plan.request, done.plan.page_folder
    base = folder or Path()
    links = [link.link(base) for link in done.build.preload]
    if with_sheet:
        url = sheet_url(request.url, request.css_file, request.fonts_folder)
        url = url or page_url(quote(os.fsencode(request.css_file.name)), request.css_file, base)
        links.append(f'<link rel="stylesheet" href={attribute_value(url)}>')
    if links:
        where = f"as seen from {base.as_posix()}/" if folder else "adapt the paths to your site"
        yield f"In the <head> of your pages ({where}; --links keeps them there for you):", *links


def _old_fonts_to_remove(done: Done, *, all_of_them: bool) -> Iterator[tuple[str, ...]]:
    """Where the site still has `@font-face` rules of the families that these replace, or fetches their style sheets."""
    rules = [line for line in done.build.old_names if line.kind == "rule"]
    if rules:
        files = Counter(rule.path for rule in rules)
        first = {rule.path: rule.line for rule in reversed(rules)}
        lines = [f"{path}:{first[path]}  {count_of(count, 'rule')}" for path, count in files.items()]
        names = ", ".join(dict.fromkeys(rule.family for rule in rules))
        yield f"Remove the old @font-face rules of {names}:", *_first(lines, all_of_them=all_of_them)
    links: dict[str, list[str]] = {}
    for line in done.build.old_names:
        if line.kind == "link":
            links.setdefault(f"{line.path}:{line.line}", []).append(line.family)
    if links:
        lines = [f"{place}  {', '.join(families)}" for place, families in links.items()]
        yield (
            "Remove these links, which fetch the old fonts from another host (unless they bring others that you keep):",
            *_first(lines, all_of_them=all_of_them),
        )


def _first(lines: Sequence[str], *, all_of_them: bool) -> list[str]:
    if all_of_them or len(lines) <= _SHOWN_LINES:
        return [*lines]
    return [*lines[:_SHOWN_LINES], f"and {len(lines) - _SHOWN_LINES} more (-v lists them)"]


def _names_to_change(done: Done, *, all_of_them: bool) -> Iterator[tuple[str, ...]]:
    """Where the site still names the families that these replace; else the rule that shows how to use them."""
    families, old = done.build.families, [line for line in done.build.old_names if line.kind == "name"]
    properties = property_names(family.name for family in families)
    if old:
        lines = [f"{line.path}:{line.line}  {line.family}" for line in old]
        names = dict(zip((family.name for family in families), properties, strict=True))
        new = {replace: family.name for family in done.plan.families for replace in family.request.replaces}
        replaced: dict[str, list[str]] = {}
        for name in dict.fromkeys(line.family for line in old):
            replaced.setdefault(names[new[name]], []).append(name)
        pairs = ", ".join(f"var({ours}) for {' and '.join(theirs)}" for ours, theirs in replaced.items())
        yield f"In these lines write {pairs}:", *_first(lines, all_of_them=all_of_them)
    elif done.plan.rules:
        return
    elif not any(need is not None for need in (family.needs for family in done.plan.families)):
        yield "In your own CSS (more at the end of the style sheet):", first_rule(families, properties)


def _listed(paths: Sequence[Path]) -> str:
    shown = ", ".join(path.as_posix() for path in paths[:_SHOWN_FILES])
    return shown + (f" and {len(paths) - _SHOWN_FILES} more" if len(paths) > _SHOWN_FILES else "")

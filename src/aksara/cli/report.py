"""The report of a build: a table of its faces, and what to do next."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from unicodedata import category

from rich.table import Table
from rich.text import Text

from aksara.cli.after_build import report_differences, report_next_steps, report_written
from aksara.cli.flags import FLAGS
from aksara.cli.screen import Screen, on_circle
from aksara.cli.wording import change_text, option_text
from aksara.cli.work import Done
from aksara.phrases import count_of
from aksara.pipeline import Budget, Build, BuildRequest
from aksara.sizes import format_saving, format_size
from aksara.text import find_language, listed_codes
from aksara.web.formats import WebFormat
from aksara.web.model import Change, FeatureCost, Way, WebFace, WebFamily

_SHOWN_MISSING = 20
_SHOWN_FEATURES = 8
#: Faces from which on a table has a row for each family.
_MOST_FACES = 9
_FEW_PAIRS, _SHOWN_PAIRS = 8, 200
#: The least relative difference between ways to slice that is reported.
_LEAST_DIFFERENCE = 0.05
#: The part of the files' size from which on a difference is worth a line.
_WORTH_TELLING = 0.05


def report_build(screen: Screen, done: Done) -> None:
    """The table, what was left out, what was written, what needs a decision, and the lines to paste."""
    request, build, written = done.plan.request, done.build, done.written
    if screen.quiet:
        screen.notify(build.notices)
        return
    report_result(screen, request, build)
    if screen.verbose:
        for contents in done.plan.site.contents if done.plan.site is not None else ():
            screen.say(f"Read of the site: {contents}")
        for path, dropped in build.dropped.items():
            for item in dropped:
                screen.say(f"{path}: left out table {item.tag} ({format_size(item.size)}): {item.reason}")
    if written is None:
        _report_ways_to_cut(screen, done)
        report_differences(screen, build)
        screen.notify(build.notices)
        _report_missing(screen, build)
        screen.print("", f"Nothing was written (dry run). The output would go to {request.folder}/")
        return
    report_written(screen, done, written)
    _report_urls(screen, request, build)
    screen.notify(build.notices)
    _report_missing(screen, build)
    screen.print("")
    report_next_steps(screen, done)


def report_result(screen: Screen, request: BuildRequest, build: Build) -> None:
    """Report what was made, its size, and what was left out."""
    report_table(screen, build)
    lines = [
        *_used_lines(build), *_slice_lines(build, verbose=screen.verbose),
        *_way_lines(request, build, verbose=screen.verbose),
        *(line for budget in build.budgets for line in budget_lines(request, budget)),
        *_feature_lines(build, verbose=screen.verbose), *_hint_lines(build),
    ]  # fmt: skip
    for line in lines:
        screen.print(line)
    if screen.verbose:
        for family in build.families:
            if family.cut is not None and family.cut.names:
                screen.print(_slice_table(screen, family))
    if lines:
        screen.print("")


def unchanged_lines(done: Done) -> list[str]:
    """The lines that the next build prints if nothing has changed: budgets and output."""
    request, build = done.plan.request, done.build
    faces = [web for family in build.families for web in family.faces]
    lines = [line.plain for budget in build.budgets for line in budget_lines(request, budget)]
    files = sum(len(web.files) for web in faces)
    counted = f"{len(faces)} face{'s' * (len(faces) != 1)} in {files} file{'s' * (files != 1)}"
    return [*lines, f"Nothing has changed since the last build: {request.folder}/ holds {counted}"]


def _report_missing(screen: Screen, build: Build) -> None:
    if build.missing:
        # What people notice first comes first: letters, then punctuation, then signs.
        shown = sorted(build.missing, key=_prominence)[:_SHOWN_MISSING]
        visible = " ".join(on_circle(chr(code)) for code in shown if chr(code).isprintable())
        more = "" if len(shown) == len(build.missing) else f" and {len(build.missing) - len(shown)} more"
        screen.say(
            Text.assemble(
                ("Note ", "bold yellow"),
                f"none of these fonts contains {visible} ({listed_codes(shown)}){more}; "
                "browsers use the next family in the stack",
            )
        )


def _prominence(code: int) -> tuple[int, int]:
    """How soon people notice that a character is missing: letters, digits, punctuation, then signs."""
    order = "LMNP"
    kind = category(chr(code))[0]
    return order.index(kind) if kind in order else len(order), code


def _used_lines(build: Build) -> Iterator[Text]:
    """The bytes saved by building only the faces and characters that the site uses."""
    used = [(family, family.used) for family in build.families if family.used is not None]
    letters = sum(figures.letters for _, figures in used)
    if letters > 0:
        option = FLAGS["CharacterRequest.exact"]
        yield Text(f"{format_size(letters)} of this are letters for future text ({option} omits them)")
    for family, figures in used:
        if figures.unused:
            names = ", ".join(f"{face.face.label} ({format_size(face.size)})" for face in figures.unused)
            option = FLAGS["BuildRequest.all_faces"]
            which = "it" if len(figures.unused) == 1 else "them"
            yield Text.assemble(
                (f"{family.name}: ", "bold"), f"no page uses {names}; not made ({option} makes {which})"
            )
        if figures.text_files:
            files = "1 file that is not a page"
            if figures.text_files > 1:
                files = f"{figures.text_files:,} files that are not pages"
            yield Text.assemble((f"{family.name}: ", "bold"), f"has the text of {files}, too")


def _slice_lines(build: Build, *, verbose: bool) -> Iterator[Text]:
    """What page views fetch of families that are in slices."""
    for family in build.families:
        found = family.cut
        if found is None:
            continue
        if not found.names:
            if verbose and found.reason:
                yield Text(f"{family.name} is not cut into slices: {found.reason}")
            continue
        line = Text.assemble((f"{family.name} ", "bold"), f"in {len(found.names)} slices")
        if found.typical is not None and found.most is not None and found.one_file is not None:
            about = "" if found.exact else "about "
            line.append(": ")
            line.append(f"{format_size(found.typical.size)} on the typical page", style="bold green")
            line.append(
                f", {format_size(found.most.size)} at most, {found.mean_files:.1f} files"
                f"; uncut it would be {about}{format_size(found.one_file.size)} on the typical page"
            )
        yield line
        if found.parted:
            yield Text(f"  {_pairs_text(found.parted, all_of_them=verbose)}")


def _report_ways_to_cut(screen: Screen, done: Done) -> None:
    """What page views would fetch of each family, cut in whichever way."""
    if all(family.slices is None for family in done.plan.families):
        return
    from aksara.pipeline.trials.slicing_comparison import ways_to_cut

    option = FLAGS["FamilyRequest.slices"]
    for family, web in zip(done.plan.families, done.build.families, strict=True):
        ways = ways_to_cut(family, web)
        if not (_differ([way.typical for way in ways]) or _differ([way.most for way in ways])):
            continue
        table = screen.table(option, ">Slices", ">Typical page", ">Largest page", ">?Files a page", ">?Pairs unkerned")
        for way in ways:
            table.add_row(
                way.way,
                str(way.slices),
                format_size(way.typical),
                format_size(way.most),
                f"{way.files:.1f}",
                f"{way.parted:,}" if way.parted else "–",
            )
        screen.print(Text.assemble((family.name, "bold"), " cut in other ways, about:"), table, "")


def _differ(sizes: Sequence[int]) -> bool:
    """Whether anybody would choose one of these sizes over another."""
    return max(sizes, default=0) * (1 - _LEAST_DIFFERENCE) > min(sizes, default=0)


def _pairs_text(pairs: Sequence[str], *, all_of_them: bool) -> str:
    count = "1 pair of characters loses" if len(pairs) == 1 else f"{len(pairs):,} pairs of characters lose"
    shown = pairs[: _SHOWN_PAIRS if all_of_them else _FEW_PAIRS]
    listed = " ".join("".join(map(on_circle, pair)) for pair in shown)
    return f"{count} the kerning between them, being in different files: {listed}{' …' * (len(pairs) > len(shown))}"


def _slice_table(screen: Screen, family: WebFamily) -> Table:
    table = screen.table("Slice", ">Pages that fetch it", ">Characters", ">All faces")
    for name in family.cut.names if family.cut is not None else ():
        parts = [part for web in family.faces for part in web.slices if part.name == name]
        share = parts[0].share if parts else None
        codes = frozenset[int]().union(*(part.characters for part in parts))
        table.add_row(
            name,
            f"{100 * share:.0f}%" if share is not None else "",
            f"{len(codes):,}",
            format_size(sum(part.best_size for part in parts)),
        )
    return table


def _way_lines(request: BuildRequest, build: Build, *, verbose: bool) -> Iterator[Text]:
    """How variable fonts were built, and the size of the alternative where it differs."""
    is_variable = any(web.face.is_variable for family in build.families for web in family.faces)
    if verbose and request.formats is None and is_variable:
        option = option_text(Change("BuildRequest.formats", ("woff",)))
        yield Text(f"No WOFF is made of variable fonts: browsers that need it cannot vary them ({option} makes it)")
    for family in build.families:
        way = family.way
        if way is None:
            continue
        if verbose or abs(way.other.size - way.taken.size) >= _WORTH_TELLING * max(way.taken.size, 1):
            options = " ".join(option_text(change) for change in way.changes)
            yield Text.assemble(
                (f"{family.name} ", "bold"), f"{_way_text(way.taken)}; {_way_text(way.other)} ({options})"
            )


def _way_text(way: Way) -> str:
    return f"{way.words}: {way.files} file{'s' * (way.files != 1)}, {format_size(way.size)}"


def _report_urls(screen: Screen, request: BuildRequest, build: Build) -> None:
    """Whether the paths in the style sheet lead to the fonts; those that do not are warned of already."""
    right_targets = [target for target in build.targets if target.verdict == "found"]
    unknown = [target for target in build.targets if target.verdict == "unknown"]
    name = request.css_file.name
    right = (
        f"All {len(right_targets)} font URLs in {name} are right"
        if len(right_targets) > 1
        else f"The font URL in {name} is right"
    )
    if right_targets and right_targets[0].url.startswith("/"):
        screen.print(f"{right}, if the root of your site is {right_targets[0].path}/")
    elif right_targets and screen.verbose:
        screen.print(right)
    elif unknown:
        screen.print(f"Not checked: where {unknown[0].url} leads depends on your server or templates")


def budget_lines(request: BuildRequest, budget: Budget) -> Iterator[Text]:
    """A budget in words."""
    style = "bold red" if budget.missed else "bold green"
    size, limit = format_size(budget.size), format_size(budget.limit)
    verdict = "over the budget of" if budget.missed else "within the budget of"
    yield Text.assemble((f"{budget.what[0].upper()}{budget.what[1:]}: {size}", style), f", {verdict} {limit}")
    for view in budget.views:
        page = f"a page in {find_language(view.of).name}" if view.kind == "language" else f"the {view.kind} page"
        where = "" if view.kind == "language" else f" ({view.of})"
        yield Text(f"  {page}{where}: {format_size(view.size)}")
    for saving in budget.savings:
        saves = f"saves {format_size(saving.saves)}" + (", enough" if saving.enough else "")
        options = " ".join(change_text(change, request.characters) for change in saving.changes)
        yield Text(f"  - {saving.words}{f' ({options})' if options else ''}: {saves}")
    if budget.missed and not any(saving.enough for saving in budget.savings):
        yield Text("  None of this is enough: raise the budget, or use lighter fonts")


def report_table(screen: Screen, build: Build) -> None:
    """The table of sizes before and after: a row per face, or per family if there are many faces."""
    faces = [web for family in build.families for web in family.faces]
    formats = list(dict.fromkeys(file.format for web in faces for file in web.files))
    labels = [f">{_label(build, font_format)}" for font_format in formats]
    by_family = len(faces) > _MOST_FACES and len(build.families) > 1 and not screen.verbose
    table = screen.table(
        *(("Family", ">Faces") if by_family else ("Face", ">Characters")), ">Before", *labels, ">Saved"
    )

    def add(name: str, count: str, webs: Sequence[WebFace], style: str = "") -> None:
        before, after = sum(web.source_size for web in webs), sum(web.best_size for web in webs)
        sizes = (sum(web.size(font_format) for web in webs) for font_format in formats)
        table.add_row(
            Text(name),  # a name is no markup
            count,
            format_size(before),
            *(format_size(size) if size else "–" for size in sizes),
            Text(format_saving(before, after), style="bold green"),
            style=style,
        )

    for family in build.families:
        if by_family:
            add(family.name, str(len(family.faces)), family.faces)
            continue
        for web in family.faces:
            kept, had = len(web.characters), web.source_characters
            add(f"{family.name} {web.face.label}", f"{kept:,}" if kept == had else f"{kept:,} of {had:,}", [web])
    if len(faces) > 1:
        table.add_section()
        add(f"All {len(faces)} faces", "", faces, "bold")
    screen.print(table, "")


def _label(build: Build, font_format: WebFormat) -> str:
    """The name of a format for these files: plain fonts may be TTF, OTF or both."""
    files = [file for family in build.families for web in family.faces for file in web.files]
    return "/".join(sorted({file.label for file in files if file.format == font_format}, reverse=True))


def _feature_lines(build: Build, *, verbose: bool) -> Iterator[Text]:
    """The OpenType features that were kept, and what the others would cost in all faces together."""
    faces = [web for family in build.families for web in family.faces]
    kept = sorted({tag for web in faces for tag in web.features})
    if kept and verbose:
        yield Text.assemble(("Features kept: ", "bold"), ", ".join(kept))
    costs: dict[str, list[FeatureCost]] = {}
    for web in faces:
        for cost in web.omitted:
            costs.setdefault(cost.tag, []).append(cost)
    if not costs:
        return
    # Nothing is lost by default: a browser shows these only where a style sheet asks for them.
    total = format_size(sum(cost.size for of_tag in costs.values() for cost in of_tag))
    shown = ", ".join(sorted(costs)[:_SHOWN_FEATURES]) + (" …" if len(costs) > _SHOWN_FEATURES else "")
    count = count_of(len(costs), "feature")
    more = "" if verbose else "; -v lists them"
    yield Text(f"{count} omitted ({shown}), about {total} (--feature TAG keeps one{more})")
    for tag, of_tag in sorted(costs.items()) if verbose else ():
        glyphs, size = max(cost.glyphs for cost in of_tag), sum(cost.size for cost in of_tag)
        drawn = count_of(glyphs, "glyph") if glyphs else "no glyphs of its own"
        where = f" in {len(of_tag)} faces" if len(of_tag) > 1 else ""
        name = f" {of_tag[0].name}" if of_tag[0].name else ""
        yield Text(f"  {tag}{name}: {drawn}, about {format_size(size)}{where}")


def _hint_lines(build: Build) -> Iterator[Text]:
    """The size of the hints, where it is large."""
    faces = [web for family in build.families for web in family.faces if web.hint_size]
    size, whole = sum(web.hint_size for web in faces), sum(web.best_size for web in faces)
    if not faces or size < _WORTH_TELLING * whole:
        return
    where = f" of {len(faces)} faces" if len(faces) > 1 else ""
    option = option_text(Change("FamilyRequest.hints", ("drop",)))
    yield Text.assemble(
        ("Hints: ", "bold"),
        f"about {format_size(size)} of the {format_size(whole)}{where}; they matter only at small sizes on Windows "
        f"screens of low resolution ({option} leaves them out)",
    )

"""What a build says at its end: a row a face, and what to do next."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from rich.table import Table
from rich.text import Text

from aksara.cli.after_build import report_differences, report_next_steps, report_written
from aksara.cli.flags import FLAGS
from aksara.cli.screen import Screen, on_circle
from aksara.cli.wording import change_text, option_text
from aksara.cli.work import Done
from aksara.pipeline import Budget, Build, BuildRequest
from aksara.sizes import format_saving, format_size
from aksara.text import find_language, listed_codes
from aksara.web.formats import WebFormat
from aksara.web.model import Change, FeatureCost, Way, WebFamily

_SHOWN_MISSING = 20
_SHOWN_FEATURES = 12
_FEW_PAIRS, _SHOWN_PAIRS = 8, 200
#: The part of the files' size from which on hints are worth a line.
_WORTH_TELLING = 0.05


def report_build(screen: Screen, done: Done) -> None:
    """The table, what is missing, what was written, and the lines to paste."""
    request, build, written = done.plan.request, done.build, done.written
    screen.notify(build.notices)
    if screen.quiet:
        return
    report_table(screen, request, build)
    report_used_faces(screen, request, build)
    report_slices(screen, build)
    report_variable_fonts(screen, request, build)
    _report_missing(screen, build)
    report_budgets(screen, request, build)
    report_features(screen, build)
    report_hints(screen, build)
    if screen.verbose:
        for contents in done.plan.site.contents if done.plan.site is not None else ():
            screen.say(f"Read of the site: {contents}")
        for path, dropped in build.dropped.items():
            for item in dropped:
                screen.say(f"{path}: left out table {item.tag} ({format_size(item.size)}): {item.reason}")
    if written is None:
        _report_ways_to_cut(screen, done)
        report_differences(screen, build)
        screen.print("", f"Nothing was written (dry run). The output would go to {request.folder}/")
        return
    report_written(screen, done, written)
    _report_urls(screen, request, build)
    screen.print("")
    report_next_steps(screen, done)


def unchanged_lines(done: Done) -> list[str]:
    """What the next build says if nothing has changed: the budgets, and what there is."""
    request, build = done.plan.request, done.build
    faces = [web for family in build.families for web in family.faces]
    lines = [line.plain for budget in build.budgets for line in budget_lines(request, budget)]
    files = sum(len(web.files) for web in faces)
    counted = f"{len(faces)} face{'s' * (len(faces) != 1)} in {files} file{'s' * (files != 1)}"
    return [*lines, f"Nothing has changed since the last build: {request.folder}/ holds {counted}"]


def _report_missing(screen: Screen, build: Build) -> None:
    if build.missing:
        shown = sorted(build.missing)[:_SHOWN_MISSING]
        visible = " ".join(on_circle(chr(code)) for code in shown if chr(code).isprintable())
        more = "" if len(shown) == len(build.missing) else f" and {len(build.missing) - len(shown)} more"
        screen.say(
            Text.assemble(
                ("Note ", "bold yellow"),
                f"no font here has {visible} ({listed_codes(shown)}){more}; the next family in the stack shows them",
            )
        )


def report_used_faces(screen: Screen, request: BuildRequest, build: Build) -> None:
    """What it saves that the site says which faces it shows, and what in each."""
    shown = [(family, family.used) for family in build.families if family.used is not None]
    for family, used in shown:
        if not (used.unused or used.text_files) and used.size >= used.together and used.letters <= 0:
            continue
        made, all_faces = len(family.faces), len(family.faces) + len(used.unused)
        count = "its one face" if all_faces == 1 else f"{made} of {all_faces} faces"
        line = Text.assemble((f"{family.name}: ", "bold"), (format_size(used.size), "bold green"))
        if used.unused or format_size(used.size) != format_size(used.together):
            line.append(f" for {count} instead of {format_size(used.together)}")
        if used.letters > 0:
            option = FLAGS["CharacterRequest.exact"]
            line.append(f", of which {format_size(used.letters)} are letters for future text ({option} omits them)")
        screen.print(line)
        if used.text_files:
            files = "1 file that is no page" if used.text_files == 1 else f"{used.text_files:,} files that are no pages"
            screen.print(f"  with the text of {files}; it counts for the family in which most is written")
        if used.unused:
            names = [f"{face.face.label} ({format_size(face.size)})" for face in used.unused]
            option = FLAGS["BuildRequest.all_faces"]
            screen.print(f"  not made, since no page uses it: {', '.join(names)} ({option} makes them)")
    if shown:
        screen.print("")


def report_slices(screen: Screen, build: Build) -> None:
    """What page views fetch of families that are in slices; the slices one by one where details are wanted."""
    cut = [(family, family.cut) for family in build.families if family.cut is not None]
    told = False
    for family, found in cut:
        if not found.names:
            if screen.verbose and found.reason:
                screen.print(f"{family.name} is not cut into slices: {found.reason}")
                told = True
            continue
        told = True
        line = Text.assemble((f"{family.name} ", "bold"), f"in {len(found.names)} slices")
        if found.typical is not None and found.most is not None and found.one_file is not None:
            about = "" if found.exact else "about "
            line.append(": ")
            line.append(f"{format_size(found.typical.size)} on the typical page", style="bold green")
            line.append(
                f", {format_size(found.most.size)} at most, {found.mean_files:.1f} files"
                f"; uncut it would be {about}{format_size(found.one_file.size)} on the typical page"
            )
        screen.print(line)
        if found.parted:
            screen.print(f"  {_pairs_text(found.parted, all_of_them=screen.verbose)}")
        if screen.verbose:
            screen.print(_slice_table(screen, family))
    if told:
        screen.print("")


def _report_ways_to_cut(screen: Screen, done: Done) -> None:
    """What page views would fetch of each family, cut in whichever way."""
    if all(family.slices is None for family in done.plan.families):
        return
    from aksara.pipeline.trials.slicing_comparison import ways_to_cut

    option = FLAGS["FamilyRequest.slices"]
    for family, web in zip(done.plan.families, done.build.families, strict=True):
        ways = ways_to_cut(family, web)
        if all(way.slices == 1 for way in ways):
            continue
        table = screen.table(option, ">Slices", ">Typical page", ">Largest page", ">Files a page", ">Pairs unkerned")
        for way in ways:
            table.add_row(
                way.way,
                str(way.slices),
                f"about {format_size(way.typical)}",
                f"about {format_size(way.most)}",
                f"{way.files:.1f}",
                f"{way.parted:,}" if way.parted else "–",
            )
        screen.print(Text.assemble((family.name, "bold"), " cut in other ways:"), table, "")


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


def report_variable_fonts(screen: Screen, request: BuildRequest, build: Build) -> None:
    """What became of variable fonts, and what the other way would take."""
    if request.formats is None and any(web.face.is_variable for family in build.families for web in family.faces):
        screen.print(
            "No WOFF is made of variable fonts: browsers that need it cannot vary them (--format woff makes it)", ""
        )
    for family in build.families:
        if (way := family.way) is not None:
            options = " ".join(option_text(change) for change in way.changes)
            screen.print(
                Text.assemble(
                    (f"{family.name} ", "bold"), f"{_way_text(way.taken)}; {_way_text(way.other)} ({options})"
                ),
                "",
            )


def _way_text(way: Way) -> str:
    return f"{way.words}: {way.files} file{'s' * (way.files != 1)}, {format_size(way.size)}"


def _report_urls(screen: Screen, request: BuildRequest, build: Build) -> None:
    """Whether the paths in the style sheet lead to the fonts; those that do not are warned of already."""
    found = [target for target in build.targets if target.verdict == "found"]
    unknown = [target for target in build.targets if target.verdict == "unknown"]
    name = request.css_file.name
    right = f"All {len(found)} font URLs in {name} are right" if len(found) > 1 else f"The font URL in {name} is right"
    if found and found[0].url.startswith("/"):
        screen.print(f"{right}, if the root of your site is {found[0].path}/")
    elif found:
        screen.print(right)
    elif unknown:
        screen.print(f"Not checked: where {unknown[0].url} leads depends on your server or templates")


def report_budgets(screen: Screen, request: BuildRequest, build: Build) -> None:
    """Each budget; for one that was missed what would save enough."""
    for budget in build.budgets:
        screen.print(*budget_lines(request, budget))
    if build.budgets:
        screen.print("")


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


def report_table(screen: Screen, request: BuildRequest, build: Build) -> None:
    """A row a face: characters, size before and after, what is saved."""
    formats = list(
        dict.fromkeys(file.format for family in build.families for web in family.faces for file in web.files)
    )
    table = screen.table(
        "Face", ">Characters", ">Before", *(f">{_label(build, font_format)}" for font_format in formats), ">Saved"
    )
    before = after = 0
    for family in build.families:
        for web in family.faces:
            kept, had = len(web.characters), web.source_characters
            table.add_row(
                Text(f"{family.name} {web.face.label}"),  # a name is no markup
                f"{kept:,}" if kept == had else f"{kept:,} of {had:,}",
                format_size(web.source_size),
                *(format_size(size) if (size := web.size(font_format)) else "–" for font_format in formats),
                Text(format_saving(web.source_size, web.best_size), style="bold green"),
            )
            before, after = before + web.source_size, after + web.best_size
    faces = [web for family in build.families for web in family.faces]
    if len(faces) > 1:
        table.add_section()
        totals = [format_size(sum(web.size(font_format) for web in faces)) for font_format in formats]
        saving = Text(format_saving(before, after), style="bold green")
        table.add_row(f"All {len(faces)} faces", "", format_size(before), *totals, saving, style="bold")
    screen.print(table, "")


def _label(build: Build, font_format: WebFormat) -> str:
    """What the files of a format are: some of plain fonts may be TTFs, and others OTFs."""
    files = [file for family in build.families for web in family.faces for file in web.files]
    return "/".join(sorted({file.label for file in files if file.format == font_format}, reverse=True))


def report_features(screen: Screen, build: Build) -> None:
    """Which OpenType features were kept, and what the others would cost in all faces together."""
    faces = [web for family in build.families for web in family.faces]
    kept = sorted({tag for web in faces for tag in web.features})
    if kept:
        screen.print(Text.assemble(("Features kept: ", "bold"), ", ".join(kept)))
    costs: dict[str, list[FeatureCost]] = {}
    for web in faces:
        for cost in web.omitted:
            costs.setdefault(cost.tag, []).append(cost)
    if costs:
        total = format_size(sum(cost.size for each in costs.values() for cost in each))
        screen.print(Text.assemble(("Left out, since they only show where a style sheet asks for them", "bold"), ":"))
        shown = sorted(costs.items()) if screen.verbose else sorted(costs.items())[:_SHOWN_FEATURES]
        for tag, each in shown:
            glyphs, size = max(cost.glyphs for cost in each), sum(cost.size for cost in each)
            count = f"{glyphs} glyph" + "s" * (glyphs != 1) if glyphs else "no glyphs of its own"
            where = f" in {len(each)} faces" if len(each) > 1 else ""
            name = f" {each[0].name}" if each[0].name else ""
            screen.print(f"  {tag}{name}: {count}, about {format_size(size)}{where} (add with --feature {tag})")
        if len(shown) < len(costs):
            screen.print(f"  … and {len(costs) - len(shown)} more (-v lists them); --feature all adds about {total}")
    if kept or costs:
        screen.print("")


def report_hints(screen: Screen, build: Build) -> None:
    """What the hints take, where it is much."""
    faces = [web for family in build.families for web in family.faces if web.hint_size]
    size, whole = sum(web.hint_size for web in faces), sum(web.best_size for web in faces)
    if not faces or size < _WORTH_TELLING * whole:
        return
    where = f" of {len(faces)} faces" if len(faces) > 1 else ""
    option = option_text(Change("FamilyRequest.hints", ("drop",)))
    screen.print(
        Text.assemble(
            ("Hints: ", "bold"),
            f"about {format_size(size)} of the {format_size(whole)}{where}; they only matter at small sizes on Windows "
            f"screens of low resolution ({option} leaves them out)",
        ),
        "",
    )

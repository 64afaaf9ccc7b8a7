"""`aksara languages`: which languages are known, and which can this font set?"""

from __future__ import annotations

from pathlib import Path

import click
from rich.text import Text

from aksara.cli.screen import Screen, on_circle
from aksara.faces import identify
from aksara.font import Font, open_fonts
from aksara.sources import find_fonts
from aksara.text import Coverage, all_languages, coverage, format_ranges, script_name

#: How the three verdicts are written.
VERDICTS = {"full": ("yes", "green"), "nearly": ("nearly", "yellow"), "no": ("no", "dim")}


@click.command("languages")
@click.argument("paths", metavar="[PATH...]", nargs=-1, type=click.Path(path_type=Path))
@click.option("--all", "show_all", is_flag=True, help="With fonts: also the languages that they cannot set.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document on standard output.")
@click.pass_context
def command(ctx: click.Context, paths: tuple[Path, ...], show_all: bool, as_json: bool) -> None:
    """List the languages, or those that a font can set.

    Without PATH, lists the languages that --for-language takes. With fonts, says which of
    them every face can set.
    """
    screen = Screen.of(ctx)
    if not paths:
        _list_all(screen, as_json=as_json)
        return
    given = [open_fonts(file)[0] for file in find_fonts(paths)]
    # Fonts of icons set no language, and are asked for none.
    fonts = [font for font in given if _sets_any(font)] or given
    # A text needs every face that it is set in: what one of them missing is missing.
    characters = frozenset.intersection(*(frozenset(font.characters) for font in fonts))
    coverages = [coverage(language, characters) for language in all_languages()]
    if as_json:
        screen.json({"fonts": [font.path for font in fonts], "languages": [coverage_json(item) for item in coverages]})
        return
    names = sorted({identify(font).family for font in fonts})
    counts = {verdict: sum(item.verdict == verdict for item in coverages) for verdict in VERDICTS}
    screen.print(
        Text.assemble(
            (", ".join(names), "bold cyan"),
            f"  covers {counts['full']} of {len(coverages)} known languages in full, {counts['nearly']} nearly",
        )
    )
    print_coverage(screen, [item for item in coverages if show_all or item.verdict != "no"])


def _sets_any(font: Font) -> bool:
    """Whether the font can set any language in full."""
    characters = frozenset(font.characters)
    return any(coverage(language, characters).verdict == "full" for language in all_languages())


def print_coverage(screen: Screen, coverages: list[Coverage]) -> None:
    """The languages that are set in full, script by script; then one row for each other, with its missing letters."""
    by_script: dict[str, list[Coverage]] = {}
    for item in coverages:
        if item.verdict == "full":
            by_script.setdefault(script_name(item.language.script), []).append(item)
    for script, items in sorted(by_script.items(), key=lambda entry: -len(entry[1])):
        ordered = sorted((item.language for item in items), key=lambda language: language.name.casefold())
        names = ", ".join(f"{language.name} ({language.tag})" for language in ordered)
        screen.print(Text.assemble((f"In full, {script}: ", "bold green"), names), "")
    others = [item for item in coverages if item.verdict != "full"]
    others.sort(key=lambda item: (item.verdict == "no", item.language.name.casefold()))
    if not others:
        return
    table = screen.table("Not in full", "Tag", "Script", ">Letters", "Covered", "Missing")
    for item in others:
        word, colour = VERDICTS[item.verdict]
        language = item.language
        missing = " ".join(map(on_circle, map(chr, item.missing[:24]))) + (" …" if len(item.missing) > 24 else "")
        shown = missing if item.verdict == "nearly" else f"{len(item.missing):,} letters"
        cells = (language.name, language.tag, script_name(language.script), f"{len(language.letters):,}")
        table.add_row(*cells, Text(word, colour), Text(shown))
    screen.print(table)


def coverage_json(item: Coverage) -> dict[str, object]:
    """The JSON form of one language's coverage."""
    return {
        "tag": item.language.tag,
        "name": item.language.name,
        "script": item.language.script,
        "covered": item.verdict,
        "missing": format_ranges(item.missing),
    }


def _list_all(screen: Screen, *, as_json: bool) -> None:
    languages = all_languages()
    if as_json:
        rows = [
            {"tag": one.tag, "name": one.name, "script": one.script, "unicode_range": format_ranges(one.characters)}
            for one in languages
        ]
        screen.json({"languages": rows})
        return
    table = screen.table("Tag", "Language", "Script", ">Letters", ">Characters")
    for one in languages:
        table.add_row(one.tag, one.name, script_name(one.script), f"{len(one.letters):,}", f"{len(one.characters):,}")
    screen.print(
        table, f"{len(languages)} languages; --for-language takes their tags, also with a region (pt-BR, zh-TW)"
    )

"""Compare web fonts with their sources, for every font of a folder: `make fidelity FONTS=folder`.

Each font is cut down to Basic Latin, to a language that it can set, to a random third of its characters, and not at
all (with every feature), variable fonts at places all over their axes and with the axes limited; FreeType must draw
the same outlines and metrics from source and result, HarfBuzz set the same pictures of text, and Chromium take the
files without a word. Prints a line for each difference, and a total; ends with status 1 if there was any. Fonts that
Aksara refuses are listed, with the reason.
"""

from __future__ import annotations

import argparse
import multiprocessing
import random
import sys
import traceback
from base64 import b64encode
from collections.abc import Iterator
from pathlib import Path

from msgspec import Struct, field
from playwright.sync_api import Browser, sync_playwright

from aksara.container import FontFormat
from aksara.errors import InputError
from aksara.font import Font
from aksara.instancing import AxisLimit, narrow
from aksara.sources import SourceFile, find_fonts
from aksara.subsetting import FeatureChoice, SubsetOptions, draws_any, needed_glyphs, subset
from aksara.tables import Fvar
from aksara.text import covered_languages, named_characters

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))
from comparison import Comparison, farthest
from variable import places

BASIC_LATIN = frozenset(range(0x20, 0x7F))
_SHOWN = 3
#: Units that a point of a limited font may be away: rounded once by us, and once more, of components, by FreeType.
_FARTHEST = 2.0


class Outcome(Struct):
    """What came of one file: comparisons made, differences, refusals, and web fonts for the browser to try."""

    compared: int = 0
    differences: list[str] = field(default_factory=list)
    refused: list[str] = field(default_factory=list)
    files: list[tuple[str, bytes]] = field(default_factory=list)


def requests(font: Font, rng: random.Random) -> Iterator[tuple[str, frozenset[int] | None, SubsetOptions]]:
    characters = sorted(font.characters)
    yield "Basic Latin", BASIC_LATIN, SubsetOptions()
    languages = [language for language in covered_languages(frozenset(characters)) if language.tag != "en"]
    if languages:
        tag = rng.choice(languages).tag
        yield tag, named_characters(languages=[tag]), SubsetOptions()
    if characters:
        yield "a third", frozenset(rng.sample(characters, max(1, len(characters) // 3))), SubsetOptions()
    yield "everything", None, SubsetOptions(features=FeatureChoice(everything=True))


def compare(file: SourceFile) -> Outcome:
    """All comparisons of one file but the browser's."""
    outcome = Outcome()
    try:
        fonts = Font.read_all(file.read(), file.name)
    except InputError as error:
        outcome.refused.append(str(error))
        return outcome
    for font in fonts:
        rng = random.Random(font.path)
        try:
            font.require_supported()
            for name, characters, options in requests(font, rng):
                if draws_any(font, characters):
                    compare_one(font, name, characters, options, outcome)
        except InputError as error:
            outcome.refused.append(str(error))
        except Exception:
            outcome.differences.append(f"{font.path}: {traceback.format_exc().strip().splitlines()[-1]}")
    return outcome


def compare_one(
    font: Font, name: str, characters: frozenset[int] | None, options: SubsetOptions, outcome: Outcome
) -> None:
    cut = subset(font, characters, options)
    features = tuple(sorted(cut.features)) if options.features.everything else ()
    for place in places(font, randomly=10) if font.is_variable else ({},):
        found = Comparison(font, cut, features, location=place).run()
        where = ", ".join([font.path, name, *(f"{tag} {value:g}" for tag, value in place.items())])
        outcome.compared += 1
        outcome.differences += [f"{where}: {each.what}: {each.where}" for each in found[:_SHOWN]]
        if len(found) > _SHOWN:
            outcome.differences.append(f"{where}: and {len(found) - _SHOWN} more")
    if font.is_variable:
        limited(font, name, characters, outcome)
    for variant in cut.variants:
        outcome.files += [
            (f"{font.path}, {name}, {font_format}", variant.write(font_format, effort="fast"))
            for font_format in FORMATS
        ]


def limited(font: Font, name: str, characters: frozenset[int] | None, outcome: Outcome) -> None:
    """The middle half of each axis, and a place on all of them: within a unit of what the source draws there."""
    ranges = {axis.tag: axis.range for axis in font.table(Fvar).axes}
    half = {tag: AxisLimit(a + (b - a) / 4, b - (b - a) / 4) for tag, (a, b) in ranges.items()}
    pinned = {tag: AxisLimit(a + (b - a) * 0.6, a + (b - a) * 0.6) for tag, (a, b) in ranges.items()}
    glyphs = None if characters is None else needed_glyphs(font, characters, SubsetOptions())
    for limits in (half, pinned):
        narrowed = narrow(font, limits, glyphs)
        for share in (0.0, 0.5, 1.0):
            place = {tag: limit.low + (limit.high - limit.low) * share for tag, limit in limits.items()}
            worst = farthest(font, narrowed, place, glyphs)
            outcome.compared += 1
            if worst > _FARTHEST:
                outcome.differences.append(f"{font.path}, {name}, limited, {place}: a point is {worst:.2f} units away")


FORMATS: tuple[FontFormat, ...] = ("woff2", "woff")


def accepted(browser: Browser, files: list[tuple[str, bytes]]) -> list[str]:
    """What the browser has against these files."""
    page = browser.new_page()
    messages: list[str] = []
    page.on("console", lambda message: messages.append(message.text))
    page.set_content("<link rel=icon href='data:,'>")
    problems = []
    for label, data in files:
        messages.clear()
        status = page.evaluate(
            "async url => { const face = new FontFace('T', `url(${url})`);"
            " try { await face.load() } catch {} return face.status }",
            "data:font/woff2;base64," + b64encode(data).decode(),
        )
        if status != "loaded" or messages:
            problems.append(f"{label}: Chromium says {status} {' '.join(messages)}".strip())
    page.close()
    return problems


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("paths", nargs="+", type=Path, help="folders, fonts or ZIPs")
    parser.add_argument("--jobs", type=int, default=multiprocessing.cpu_count())
    given = parser.parse_args()
    files = find_fonts(given.paths)
    total = Outcome()
    # Workers start afresh: a copy of a process in which a browser is driven would hang.
    workers = multiprocessing.get_context("spawn")
    with workers.Pool(given.jobs, maxtasksperchild=50) as pool, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        for outcome in pool.imap(compare, files):
            problems = [*outcome.differences, *accepted(browser, outcome.files)]
            for line in problems:
                print(line, flush=True)
            for line in outcome.refused:
                print(f"Refused: {line}", flush=True)
            total.compared += outcome.compared
            total.differences += problems
            total.refused += outcome.refused
        browser.close()
    print(
        f"{len(files)} files, {total.compared} comparisons, {len(total.differences)} differences, "
        f"{len(total.refused)} refused"
    )
    return 1 if total.differences else 0


if __name__ == "__main__":
    sys.exit(main())

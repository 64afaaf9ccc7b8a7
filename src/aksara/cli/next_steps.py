"""What to do next in this folder: what `aksara` alone says."""

from __future__ import annotations

from itertools import islice
from pathlib import Path

from rich.text import Text

from aksara.cli.screen import Screen
from aksara.errors import InputError
from aksara.sources import PROJECT_NAME, is_file, is_own_output, printable
from aksara.sources.finding import FONT_SUFFIXES
from aksara.sources.walking import walk

#: Files that are looked at; a home folder has more.
_MOST = 20_000
_PAGES = frozenset({".html", ".htm", ".xhtml"})
_DEFAULT_FOLDER = Path("web-fonts")


def say_next_steps(screen: Screen) -> None:
    """Look at the folder, and say which commands are of use in it."""
    fonts, pages = _found()
    steps: list[tuple[str, str]] = []
    if is_file(Path(PROJECT_NAME)):
        screen.print(f"This folder has an {PROJECT_NAME}.")
        steps += [
            ("aksara build", "make the web fonts that it describes"),
            ("aksara proof", "see them"),
            ("aksara check", "find what keeps them from loading"),
            ("aksara build --watch", "make them again whenever something changes"),
        ]
    elif fonts:
        where, site = _shortest(fonts), _shortest(pages) if pages else ""
        screen.print(f"There are fonts {_in(where)}" + (f", and pages {_in(site)}." if pages else "."))
        build = f"aksara build {where}" + (f" --for-site {site}" if pages else "")
        steps += [
            (f"aksara inspect {where}", "what they are, and whether you may use them"),
            (build, "make web fonts of them" + (", with what the pages show" if pages else "")),
            ("aksara init", f"write an {PROJECT_NAME}, so that it can be done again"),
        ]
    else:
        screen.print("There are no fonts here: go to the folder that has them, or give it to a command.")
        steps += [("aksara inspect FOLDER", "what is in it"), ("aksara demo", "the whole job on an example")]
        if pages:
            steps.insert(0, (f"aksara scan {_shortest(pages)}", "which characters, weights and styles the pages use"))
    if is_own_output(_DEFAULT_FOLDER) and not is_file(Path(PROJECT_NAME)):
        steps.append(("aksara proof", f"see what is in {_DEFAULT_FOLDER}/"))
    width = max(len(command) for command, _ in steps)
    for command, words in steps:
        screen.print(Text.assemble("  ", (command.ljust(width), "cyan"), f"   {words}"))
    screen.print("All commands: aksara --help")


def _in(folder: str) -> str:
    return "here" if folder == "." else f"in {folder}"


def _found() -> tuple[list[Path], list[Path]]:
    """The folders that fonts and pages are in, from here."""
    fonts: dict[Path, None] = {}
    pages: dict[Path, None] = {}
    try:
        for path in islice((item for item in walk(Path()) if isinstance(item, Path)), _MOST):
            suffix = path.suffix.lower()
            if suffix in FONT_SUFFIXES or suffix == ".zip":
                fonts[path if suffix == ".zip" else path.parent] = None
            elif suffix in _PAGES:
                pages[path.parent] = None
    except InputError:
        return [], []
    return list(fonts), list(pages)


def _shortest(folders: list[Path]) -> str:
    """The one that is least deep, as it is typed; a folder with a slash."""
    best = min(folders, key=lambda folder: (len(folder.parts), str(folder)))
    name = printable(best.as_posix())
    quoted = f'"{name}"' if " " in name else name
    return quoted if best.suffix.lower() == ".zip" or name == "." else f"{quoted}/"

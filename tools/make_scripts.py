"""Make src/aksara/data/scripts.py from the Unicode Character Database (Debian package unicode-data).

python tools/make_scripts.py /usr/share/unicode > src/aksara/data/scripts.py
"""

from __future__ import annotations

import re
import sys
from collections import defaultdict
from itertools import groupby
from pathlib import Path

HEADER = '''"""Unicode scripts by ISO 15924 code: name, and the code points as hexadecimal ranges.

`SCRIPTS` has the Script property (UAX 24); `SHARED` the code points of Common and Inherited whose Script_Extensions
name the script. Made by tools/make_scripts.py from {source}, Unicode Character Database (Unicode License v3, see
LICENCE-UNICODE.txt). Do not edit.
"""

'''
_LINE = re.compile(r"([0-9A-F]+)(?:\.\.([0-9A-F]+))?\s*;\s*([^#]+?)\s*(?:#.*)?")


def read(path: Path) -> list[tuple[range, str]]:
    found = (_LINE.fullmatch(line.strip()) for line in path.read_text().splitlines())
    return [(range(int(m[1], 16), int(m[2] or m[1], 16) + 1), m[3]) for m in found if m]


def ranges(codes: set[int]) -> str:
    parts = []
    for _, group in groupby(enumerate(sorted(codes)), key=lambda pair: pair[1] - pair[0]):
        run = [code for _, code in group]
        parts.append(f"{run[0]:X}" if len(run) == 1 else f"{run[0]:X}-{run[-1]:X}")
    return " ".join(parts)


def main(folder: Path) -> None:
    aliases = (line.split(";") for line in (folder / "PropertyValueAliases.txt").read_text().splitlines())
    codes = {parts[2].strip(): parts[1].strip() for parts in aliases if parts[0].strip() == "sc"}
    scripts: dict[str, set[int]] = defaultdict(set)
    for span, name in read(folder / "Scripts.txt"):
        scripts[codes[name]].update(span)
    neutral = scripts["Zyyy"] | scripts["Zinh"]
    shared: dict[str, set[int]] = defaultdict(set)
    for span, names in read(folder / "ScriptExtensions.txt"):
        for name in names.split():
            shared[name].update(set(span) & neutral)
    source = (folder / "Scripts.txt").read_text().splitlines()[0].lstrip("# ")
    print(HEADER.format(source=source), end="")
    print("SCRIPTS: dict[str, tuple[str, str]] = {")
    names_of = {code: name.replace("_", " ") for name, code in codes.items()}
    for code in sorted(scripts.keys() - {"Zyyy", "Zinh", "Zzzz"}):
        print(f'    "{code}": ("{names_of[code]}", "{ranges(scripts[code])}"),')
    print("}\n\nSHARED: dict[str, str] = {")
    for code in sorted(shared):
        print(f'    "{code}": "{ranges(shared[code])}",')
    print("}")


if __name__ == "__main__":
    main(Path(sys.argv[1]))

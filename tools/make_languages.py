"""Make src/aksara/data/languages.json from Unicode CLDR.

    npm pack cldr-misc-full cldr-core cldr-localenames-full
    # unpack each into a folder of its name, then
    python tools/make_languages.py FOLDER > src/aksara/data/languages.json

For every locale whose characters differ from its parent's: the exemplar sets, as UnicodeSet patterns without blanks
(UTS 35, part 2, "Exemplars"); and what is needed to find a locale by a BCP 47 tag.
"""

from __future__ import annotations

import json
import re
import sys
import unicodedata
from itertools import groupby
from pathlib import Path
from typing import Any

SETS = {
    "main": ("exemplarCharacters",),
    "auxiliary": ("auxiliary",),
    "punctuation": ("punctuation",),
    "numbers": ("numbers",),
    "index": ("index",),
}


def parse(pattern: str) -> set[str]:
    """The strings of a UnicodeSet pattern as CLDR writes exemplars: characters, ranges, {sequences}, escapes."""
    text = pattern.strip()
    if not (text.startswith("[") and text.endswith("]")):
        raise ValueError(pattern)
    tokens = re.findall(r"\{[^}]*\}|\\u[0-9A-Fa-f]{4}|\\U[0-9A-Fa-f]{8}|\\.|\S", text[1:-1])
    plain = [re.sub(r"\\u([0-9A-Fa-f]{4})|\\U([0-9A-Fa-f]{8})", _code, token) for token in tokens]
    found: list[str] = []
    index = 0
    while index < len(plain):
        token = plain[index]
        if token == "-" and found and index + 1 < len(plain):
            index += 1
            last = _literal(plain[index])
            found += [chr(code) for code in range(ord(found[-1]) + 1, ord(last) + 1)]
        else:
            found.append(_literal(token))
        index += 1
    return set(found) - {""}


def _code(match: re.Match[str]) -> str:
    return "\\" + chr(int(match[1] or match[2], 16))


def _literal(token: str) -> str:
    if token.startswith("{"):
        return re.sub(r"\\(.)", r"\1", token[1:-1]).replace(" ", "")
    return token[1:] if token.startswith("\\") and len(token) > 1 else token


def pattern_of(strings: set[str]) -> str:
    """The shortest pattern of this kind: ranges of three and more, sequences in braces, `- { } \\` escaped."""
    out = ""
    codes = sorted(ord(s) for s in strings if len(s) == 1)
    for _, group in groupby(enumerate(codes), key=lambda pair: pair[1] - pair[0]):
        run = [_escaped(chr(code)) for _, code in group]
        out += "".join(run) if len(run) < 3 else f"{run[0]}-{run[-1]}"
    return out + "".join(f"{{{''.join(map(_escaped, s))}}}" for s in sorted(s for s in strings if len(s) > 1))


def _escaped(character: str) -> str:
    return "\\" + character if character in "-{}\\" else character


def read(folder: Path, package: str, *parts: str) -> Any:
    return json.loads((folder / package / "package" / Path(*parts)).read_text())


def _character_sets(folder: Path) -> dict[str, dict[str, set[str]]]:
    """The characters of each language, by kind."""
    found: dict[str, dict[str, set[str]]] = {}
    for path in sorted((folder / "cldr-misc-full/package/main").iterdir()):
        data = json.loads((path / "characters.json").read_text())["main"][path.name]["characters"]
        sets = {name: set().union(*(parse(data.get(key, "[]")) for key in keys)) for name, keys in SETS.items()}
        quotes = json.loads((path / "delimiters.json").read_text())["main"][path.name]["delimiters"]
        sets["punctuation"] |= {mark for mark in quotes.values() if isinstance(mark, str) and len(mark) == 1}
        if sets["main"]:
            found[path.name] = {
                name: {unicodedata.normalize("NFC", text) for text in strings} for name, strings in sets.items()
            }
    return found


def main(folder: Path) -> None:
    version = read(folder, "cldr-core", "package.json")["version"]
    english = "cldr-localenames-full", "main", "en"
    names = read(folder, *english, "languages.json")["main"]["en"]["localeDisplayNames"]["languages"]
    script_names = read(folder, *english, "scripts.json")["main"]["en"]["localeDisplayNames"]["scripts"]
    supplemental = "cldr-core", "supplemental"
    parents = read(folder, *supplemental, "parentLocales.json")["supplemental"]["parentLocales"]["parentLocale"]
    likely = read(folder, *supplemental, "likelySubtags.json")["supplemental"]["likelySubtags"]
    metadata = read(folder, *supplemental, "aliases.json")["supplemental"]["metadata"]
    aliases = metadata["alias"]["languageAlias"]

    found = _character_sets(folder)

    languages: dict[str, dict[str, str]] = {}
    for tag, sets in found.items():
        parent = parents.get(tag) or tag.rpartition("-")[0]
        if found.get(parent) == sets or tag in ("und", "root"):
            continue
        language, _, rest = tag.partition("-")
        script = next((part for part in tag.split("-") if len(part) == 4 and part.isalpha()), None)
        script = script or likely.get(tag, likely.get(language, "--")).split("-")[1]
        name = names.get(tag) or names.get(language) or language
        if tag not in names and rest:
            shown = [script_names.get(part, part) for part in rest.split("-")]
            name += f" ({', '.join(shown)})"
        languages[tag] = {"name": name, "script": script, **{key: pattern_of(value) for key, value in sets.items()}}

    known = {tag.split("-")[0] for tag in languages}
    scripts = {}
    for tag, full in likely.items():
        parts = tag.split("-")
        if len(parts) == 2 and len(parts[1]) == 2 and parts[0] in known:
            script = full.split("-")[1]
            if script != likely.get(parts[0], "--").split("-")[1]:
                scripts[tag] = script
    replaced = {
        old: entry["_replacement"]
        for old, entry in aliases.items()
        if re.fullmatch("[a-z]{2,3}", old) and entry["_replacement"] in languages
    }
    # A language that has its parent's characters, and is no mere region of it ("nb" of "no").
    replaced |= {tag: parents[tag] for tag in found if tag not in languages and parents.get(tag) in languages}
    result = {
        "source": f"Unicode CLDR {version}, by tools/make_languages.py; Unicode License v3, see LICENCE-UNICODE.txt",
        "scripts_of_regions": scripts,
        "replaced": replaced,
        "languages": languages,
    }
    json.dump(result, sys.stdout, ensure_ascii=False, indent=0)
    print()


if __name__ == "__main__":
    main(Path(sys.argv[1]))

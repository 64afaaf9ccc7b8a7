"""Cases for fuzzing that go through whole builds: odd fonts in all formats, project files, manifests, caches, servers.

See `cases`, which lists them.
"""

from __future__ import annotations

import gzip
import json
import os
import random
import zlib
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import brotli

from aksara.checking.facts_cache import FactsCache
from aksara.checking.manifests import read_manifest
from aksara.checking.site_check import check_site
from aksara.faces import font_variation
from aksara.font import Font
from aksara.instancing import AxisLimit
from aksara.pipeline import BuildRequest, CharacterRequest, FamilyRequest, make_plan, run
from aksara.pipeline.making.font_files import FontRecipe, make_font_files
from aksara.pipeline.making.font_store import FontStore
from aksara.pipeline.planning.slices import _last_slices
from aksara.pipeline.writing.targets import listed_in, places_of
from aksara.project import read_project
from aksara.project.keys import REPEATED, TABLES
from aksara.receipts import Receipt
from aksara.site import Exchanges, SiteRequest, cache_of, read_site
from aksara.sources import MANIFEST_MARK
from aksara.subsetting import FeatureChoice
from aksara.user_cache import read_entries
from fonts import small_font
from servers import Answer, answering

_ALL = FeatureChoice(everything=True)


def use_everything(data: bytes) -> None:
    """Make files of all formats of a font: limited where it varies, with all features, and all of it or a little."""
    for font in Font.read_all(data, "mutant")[:1]:
        variation = font_variation(font)
        axes = {axis.tag: AxisLimit(axis.minimum, axis.default) for axis in variation.axes} if variation else {}
        for characters, limits in ((frozenset(map(ord, "ABfi")), axes), (None, {})):
            recipe = FontRecipe(
                characters=characters,
                features=_ALL,
                hints=True,
                formats=("woff", "sfnt", "eot", "svg"),
                effort="fast",
                axes=limits,
            )
            make_font_files(font, recipe)


def in_slices(data: bytes, folder: Path) -> None:
    """Build a font in slices."""
    (folder / "a.ttf").write_bytes(data)
    family = FamilyRequest(fonts=(folder / "a.ttf",), slices=3)
    request = BuildRequest(
        families=(family,),
        folder=folder / "o",
        formats=("woff",),
        effort="fast",
        jobs=1,
        cache=False,
        characters=CharacterRequest(texts=("ABC fi Vé 123",)),
    )
    run(make_plan(request))


# ---- project files

_VALUES = (
    "0",
    "-1",
    "0xffffffffffffffff",
    "1e308",
    "nan",
    "inf",
    "true",
    '""',
    '"\\u0000"',
    '"../../x"',
    '"/"',
    '"/etc/passwd"',
    '"http://h:port/"',
    '"http://["',
    '"**/**/*"',
    '"[["',
    "[]",
    "[[]]",
    "{}",
    '["a.ttf", "a.ttf"]',
    "2028-01-31",
    "2028-01-31T00:00:00",
    '"U+0-10FFFF"',
    '"' + "x" * 3000 + '"',
    '"auto"',
    '"a.ttf"',
    "{ wght = [400, 700] }",
    '{ a = { base = 1, colours = { 3 = "#0b4f6c" } } }',
    '"{{ x }}"',
    '"<file>"',
    '"\\u202e"',
    "3",
)


def project_files(seed: int) -> Iterator[bytes]:
    """Files with known keys, most of them with values that fit."""
    chance = random.Random(seed)
    while True:
        lines = []
        for table in ["family", *chance.sample(sorted(set(TABLES) - {"family"}), chance.randint(1, 4))]:
            keys = chance.sample(TABLES[table], chance.randint(0, min(3, len(TABLES[table]))))
            said = {key.name: key.example if chance.random() < 0.7 else chance.choice(_VALUES) for key in keys}
            said |= {"fonts": '"a.ttf"'} if table == "family" and chance.random() < 0.95 else {}
            text = "\n".join(f"{name} = {value}" for name, value in said.items() if value)
            header = f"[[{table}]]" if table in REPEATED and table != "output" else f"[{table}]"
            lines.append(f"{header}\n{text}")
        yield "\n".join(lines).encode()


def use_project(data: bytes, folder: Path) -> None:
    """Build what a project file says; nothing is written."""
    (folder / "a.ttf").write_bytes(small_font())
    (folder / "index.html").write_text("<p style='font-family: Kotak'>A")
    (folder / "aksara.toml").write_bytes(data)
    for request in read_project(folder / "aksara.toml"):
        if not request.characters.addresses:
            run(make_plan(request.with_choices(cache=False, jobs=1, effort="fast")))


# ---- what is kept

_ODD: tuple[Any, ...] = (
    "U+110000",
    "U+41-40",
    "",
    "x" * 5000,
    "../../../x",
    None,
    -1,
    1e308,
    10**30,
    [],
    {},
    True,
    "\ud800",
    "9999-99-99",
    "2028-01-31",
    "U+??????",
    [[]],
    {"a": [None]},
)


def bent(value: Any, chance: random.Random, odd: Sequence[Any] = _ODD) -> Any:
    """The value with one of the odd ones somewhere in it."""
    if isinstance(value, dict) and value and chance.random() < 0.93:
        name = chance.choice(list(value))
        return {**value, name: bent(value[name], chance, odd)}
    if isinstance(value, list) and value and chance.random() < 0.93:
        place = chance.randrange(len(value))
        return [*value[:place], bent(value[place], chance, odd), *value[place + 1 :]]
    return chance.choice(odd)


def manifests(seed: int) -> Iterator[bytes]:
    """Manifests of builds that somebody has changed."""
    chance = random.Random(seed)
    whole = {
        "made_by": "Aksara 0.3.0",
        "version": 2,
        "css": "faces.css",
        "css_sha256": "0" * 64,
        "families": [
            {
                "family": "Kotak",
                "slices": {"asked": "3", "names": ["core"]},
                "faces": [
                    {
                        "files": [{"path": "fonts/a.woff2", "sha256": "0" * 64}],
                        "slices": [{"name": "core", "unicode_range": "U+41-42"}],
                    }
                ],
            },
        ],
        "licence": {
            "files": [{"path": "fonts/L.txt", "sha256": "0" * 64}],
            "domains": ["a.example"],
            "until": "2028-01-31",
        },
        "templates": [{"path": "../x", "sha256": "0" * 64}],
    }
    while True:
        changed: Any = whole
        for _ in range(chance.randint(1, 4)):
            changed = bent(changed, chance)
        text = json.dumps(changed, indent=1).encode()
        yield text if chance.random() < 0.9 else MANIFEST_MARK + text[chance.randrange(len(text)) :]


def use_manifest(data: bytes, folder: Path) -> None:
    """What builds and checks do with a manifest that is there."""
    (folder / "a.ttf").write_bytes(small_font())
    (folder / "o").mkdir()
    (folder / "o/faces.json").write_bytes(data)
    read_manifest(data, folder.as_uri())
    listed_in(places_of([], folder / "o"))
    family = FamilyRequest(fonts=(folder / "a.ttf",), slices=3)
    _last_slices(BuildRequest(families=(family,), folder=folder / "o", cache=False))


def cache_files(seed: int) -> Iterator[bytes]:
    """Files of caches that somebody has changed."""
    chance = random.Random(seed)
    page = {
        "page": {"page": "a", "faces": [], "sheets": []},
        "sheets": {"digests": {"a": "b"}, "missing": [["a", "b"]]},
    }
    facts = {"facts": {"size": 1, "sha256": "0" * 64, "weight": [400, 400]}, "characters": "U+41"}
    outcome = {"status": 0, "notices": [["a", "b"]], "said": [{"segments": [["a", "b"]], "always": True}], "day": ""}
    receipt = {"kept_at": 1, "files": [["a", [1, 2, 3, 4, 5], ""]], "folders": [["a", ["b"]]], "outcome": outcome}
    while True:
        entry: Any = chance.choice((page, facts, receipt))
        yield json.dumps({"made_by": "x", "entries": {"k": bent(entry, chance)}}).encode()


def use_cache_file(data: bytes, folder: Path) -> None:
    """Read a file of a cache as each kind."""
    (folder / "kept").write_bytes(data)
    from aksara.checking.facts_cache import _KeptFacts
    from aksara.site.cache import _Entry

    for kind in (_KeptFacts, _Entry, Receipt):
        read_entries(folder / "kept", "x", 1_000_000, kind)


def font_entries(seed: int) -> Iterator[bytes]:
    """Entries of the store of fonts: changed by bytes, or in their header."""
    chance = random.Random(seed)
    while True:
        yield json.dumps([chance.random(), chance.randrange(1 << 30)]).encode()


def use_font_entry(data: bytes, folder: Path) -> None:
    """Build with an entry that was changed; the same must be made."""
    chance = random.Random(json.loads(data)[1])
    store = FontStore(folder)
    font = Font.read(small_font())
    recipe = FontRecipe(characters=frozenset((0x41,)), features=_ALL, hints=True, formats=("woff",), effort="fast")
    made = store.files(font, recipe)
    (entry,) = (path for path in folder.rglob("*") if path.is_file())
    kept = entry.read_bytes()
    size = int(kept[:8])
    if chance.random() < 0.5:
        header = json.dumps(bent(json.loads(kept[8 : 8 + size]), chance)).encode()
        entry.write_bytes(f"{len(header):08}".encode() + header + kept[8 + size :])
    else:
        at = chance.randrange(len(kept))
        entry.write_bytes(kept[:at] + bytes((chance.randrange(256),)) + kept[at + chance.choice((0, 1, 1, 9)) :])
    again = store.files(Font.read(small_font()), recipe)
    assert again.files == made.files, "what somebody put into the cache is not what is made"


# ---- servers

_WORDS = (
    "http://h:x/",
    "http://[",
    "/",
    "//h",
    "\u00b2",
    "-1",
    "9" * 40,
    "gzip",
    "br, gzip",
    "deflate",
    "zstd",
    "a" * 3000,
    "text/css",
    "text/html; charset=no-such",
    "no-store",
    "max-age=\u00b2",
    "Mon, 99 Jan",
    "*",
    "../a",
    "/a.css",
)
_HEADERS = (
    "Location",
    "Content-Encoding",
    "Content-Type",
    "Cache-Control",
    "Expires",
    "Date",
    "Content-Language",
    "Access-Control-Allow-Origin",
    "Set-Cookie",
    "Content-Length",
)
_BODIES = (
    b"<p>Hello<a href=/b>b</a>",
    b"<link rel=stylesheet href=/a.css><style>p{font-family:A}</style><p>A",
    b"@font-face{font-family:A;src:url(a.woff2)}p{font-family:A}",
    b"@import '/a.css'; @import 'http://h:x/'; p{}",
    b"<urlset><url><loc>http://[x</loc></url></urlset>",
    b"<?xml version='1.0' encoding='x'?><a/>",
    b"",
    b"\xff\xfe\0\xd8",
    b"<a href='http://h:x/'>a</a><base href='http://['><a href=b>c</a>",
    b"<a>" * 3000,
)


def servers(seed: int) -> Iterator[bytes]:
    """The seeds of what servers answer."""
    chance = random.Random(seed)
    while True:
        yield str(chance.randrange(1 << 30)).encode()


def use_server(data: bytes, folder: Path) -> None:
    """Scan and check a site on a server that answers whatever it likes."""
    with _serving(random.Random(int(data))) as address:
        exchanges = Exchanges()
        site = read_site(SiteRequest(addresses=(f"{address}/",)), cache_of(folder), exchanges=exchanges)
        check_site(site, FactsCache(None), exchanges)


@contextmanager
def _serving(chance: random.Random) -> Iterator[str]:
    answers: dict[str, Answer] = {}

    def answer(path: str) -> Answer:
        if path not in answers:
            body = chance.choice(_BODIES if chance.random() < 0.8 else (os.urandom(9), small_font()))
            pack: Callable[[bytes], bytes] = chance.choice(
                (bytes, bytes, bytes, gzip.compress, brotli.compress, zlib.compress)
            )
            status = chance.choice((200, 200, 200, 200, 302, 301, 404, 500, 204, 304))
            words = {name: chance.choice(_WORDS) for name in chance.sample(_HEADERS, chance.randint(0, 3))}
            answers[path] = status, words, pack(body)
        return answers[path]

    with answering(answer) as address:
        yield address

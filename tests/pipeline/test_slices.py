"""Slices: what belongs together stays together, a page fetches only what it shows, and nothing looks different."""

from __future__ import annotations

import base64
import io
import itertools
import json
import random
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageChops, ImageFont
from playwright.sync_api import Browser

from aksara.font import Font, open_font
from aksara.pipeline.trials import slice_figures
from aksara.slicing.cut import Material, cut_characters
from aksara.slicing.cutting import RULE_BYTES, cheapest, cost_of
from aksara.slicing.interactions import Interactions
from aksara.slicing.kinds import kind_of
from aksara.slicing.slice_choice import WAYS
from aksara.slicing.views import View, language_views, page_views
from aksara.slicing.weights import Sizes, font_sizes
from aksara.subsetting import FeatureChoice, SubsetOptions, subset
from aksara.tables import Gpos, Kern
from aksara.tables.layout.features import FeatureRecord
from aksara.tables.layout.gpos import SINGLE
from aksara.tables.layout.gpos.single import SingleAdjustment
from aksara.tables.layout.lookups import Lookup
from aksara.tables.layout.scripts import LanguageSystem, Script
from aksara.text import find_language
from aksara.text.ideographs import ideograph_shares
from aksara.text.neighbours import pairs_in
from aksara.text.ranges import parse_ranges
from conftest import Run, manifest_of, open_page, watched_page
from fonts import SYSTEM, box, small_font, words

_DEJAVU = SYSTEM / "dejavu/DejaVuSans.ttf"
_INTER = SYSTEM / "inter-vf/Inter.var.ttf"
_LANGUAGES = ("en", "pl", "ru", "hy", "ka", "fa")
_COUNT = "performance.getEntriesByType('resource').filter(r => r.name.endsWith('.woff2')).map(r => r.name)"


# --- what belongs together


@pytest.mark.parametrize(
    ("text", "pairs"),
    [
        ("ab", {"ab"}),
        ("a\n\tb", {"a ", "  ", " b"}),
        ("e\u0301t", {"e\u0301", "\u0301t", "et"}),
        ("a\u00adb", {"a\u00ad", "\u00adb", "ab"}),
        ("", set()),
    ],
)
def test_pairs_of_adjacent_characters(text: str, pairs: set[str]) -> None:
    assert pairs_in(text) == pairs


@pytest.mark.parametrize(
    ("font", "pair", "expected"),
    [
        (_DEJAVU, "fi", "shaping"),
        (_DEJAVU, "AV", "kerning"),
        (_DEJAVU, "HH", "none"),
        (_DEJAVU, "e\u0301", "shaping"),
        (_DEJAVU, "سل", "shaping"),
        (_INTER, "1\u2044", "shaping"),
        (_INTER, "Т,", "kerning"),
        (_INTER, "HH", "none"),
        (_INTER, "->", "shaping"),
        (SYSTEM / "lohit-kannada/Lohit-Kannada.ttf", "ಕ್", "shaping"),
    ],
)
def test_what_interacts_in_a_font(font: Path, pair: str, expected: str) -> None:
    found = Interactions.of(open_font(font), set(map(ord, pair)), FeatureChoice())
    assert found.between(pair) == expected


def test_every_pair_of_an_old_kerning_table_is_known() -> None:
    font = open_font(_DEJAVU).with_tables((), ["GPOS"])
    code_of = {glyph: code for code, glyph in font.characters.items()}
    found = Interactions.of(font, set(font.characters), FeatureChoice())
    rows = np.concatenate([subtable.pairs for subtable in font.table(Kern).subtables])
    pairs = [(code_of[a], code_of[b]) for a, b, value in rows.tolist() if value and {a, b} <= code_of.keys()]
    assert len(pairs) > 2_000
    assert [pair for pair in pairs if found.between("".join(map(chr, pair))) == "none"] == []


def test_every_pair_that_a_shaper_kerns_is_known() -> None:
    """HarfBuzz sets two letters closer than each by itself: then they interact."""
    path = SYSTEM / "dejavu/DejaVuSerif.ttf"
    drawn = ImageFont.truetype(str(path), 2048, layout_engine=ImageFont.Layout.RAQM)
    letters = "ATVWYLPFaeovwyrtkf.,-\"'ТГУоа"
    found = Interactions.of(open_font(path), set(map(ord, letters)), FeatureChoice())
    alone = {letter: drawn.getlength(letter) for letter in letters}
    kerned = [a + b for a, b in itertools.product(letters, repeat=2)
              if drawn.getlength(a + b) != alone[a] + alone[b]]  # fmt: skip
    assert len(kerned) > 30
    assert [pair for pair in kerned if found.between(pair) == "none"] == []


def test_punctuation_that_a_browser_sets_closer_stays_together(browser: Browser) -> None:
    """Every two marks that Chromium sets closer than each by itself, of a font in which all can be half as wide."""
    marks = "、。，．・：；！？「」『』（）［］｛｝〈〉《》【】〔〕〖〗“”‘’\u3000()[]«»"
    count = 1 + len(marks)
    halved = SingleAdjustment(4, dict.fromkeys(range(1, count), (-500,)))
    script = Script(LanguageSystem(None, (0,)))
    gpos = Gpos({"DFLT": script, "hani": script}, [FeatureRecord("halt", (0,))], [Lookup(SINGLE, 0, (halved,))])
    data = small_font(
        {ord(mark): 1 + index for index, mark in enumerate(marks)},
        [box(400)[0]] * count,
        extra={"GPOS": gpos.compile(), "hmtx": words(1000, 0) * count},
    )
    (group,) = Interactions.of(Font.read(data), set(map(ord, marks)), FeatureChoice()).implied
    pairs = ["".join(pair) for pair in itertools.product(marks, repeat=2)]
    with open_page(browser) as view:
        view.set_content("<html lang=ja><p style='font: 20px X; white-space: pre'>")
        widths = view.evaluate(
            """async ([data, pairs]) => {
                const face = new FontFace('X', Uint8Array.from(atob(data), letter => letter.charCodeAt(0)).buffer)
                document.fonts.add(await face.load())
                const line = document.querySelector('p').appendChild(document.createElement('span'))
                return pairs.map(pair => (line.textContent = pair, line.getBoundingClientRect().width))
            }""",
            [base64.b64encode(data).decode(), pairs],
        )
    closer = [pair for pair, width in zip(pairs, widths, strict=True) if width < 40]
    assert len(closer) > 300
    assert [pair for pair in closer if not group.issuperset(map(ord, pair))] == []
    assert not Interactions.of(Font.read(data).with_tables((), ["GPOS"]), set(map(ord, marks)), FeatureChoice()).implied


@pytest.mark.parametrize(
    ("character", "kind"),
    [("a", "latin"), ("ß", "latin"), ("\u0301", "latin"), ("я", "cyrillic"), ("ا", "arabic"), ("\u064b", "arabic"),
     ("我", "cjk"), ("。", "cjk"), ("가", "hangul"), (",", "core"), ("→", "symbols"), ("😀", "emoji")],
)  # fmt: skip
def test_kinds_of_characters(character: str, kind: str) -> None:
    assert kind_of(ord(character)) == kind


@pytest.mark.parametrize("tag", ["zh", "zh-Hant", "ja", "ko"])
def test_frequencies_of_ideographs(tag: str) -> None:
    shares = ideograph_shares(tag)
    assert sum(shares.values()) == pytest.approx(1, abs=0.01)
    common, rare = {"ja": ("の", "鬱"), "ko": ("이", "뷁")}.get(tag, ("的", "龜"))
    assert shares[ord(common)] > 0.005 > 50 * shares.get(ord(rare), 0)


# --- cutting


@st.composite
def _materials(draw: Any) -> tuple[list[frozenset[int]], list[View], Sizes]:
    count = draw(st.integers(2, 14))
    codes = list(range(0x61, 0x61 + count))
    groups = [frozenset(codes[at : at + 2]) for at in range(0, count, 2)]
    shown = st.frozensets(st.sampled_from(codes), min_size=1)
    views = page_views([(f"page {n}", draw(shown)) for n in range(draw(st.integers(1, 6)))])
    of_part = {part: draw(st.floats(0, 3000)) for part in range(3)}
    sizes = Sizes(
        of_character={code: draw(st.floats(1, 4000)) for code in codes},
        parts={code: draw(st.frozensets(st.sampled_from(sorted(of_part)))) for code in codes},
        of_part=of_part,
    )
    return groups, views, sizes


@given(_materials())
@settings(max_examples=120)
def test_a_cut_keeps_groups_whole_and_costs_no_more_than_one_file(
    material: tuple[list[frozenset[int]], list[View], Sizes],
) -> None:
    groups, views, sizes = material
    slices = cheapest(groups, lambda group: "latin", views, sizes)
    everything = frozenset[int]().union(*groups)
    assert sorted(itertools.chain(*slices)) == sorted(everything), "covered exactly, and disjoint"
    assert all(any(group <= codes for codes in slices) for group in groups)
    assert cost_of(slices, views, sizes).total <= cost_of([everything], views, sizes).total + 1
    wanted = max(len(groups) - 1, 1)
    assert len(cheapest(groups, lambda group: "latin", views, sizes, wanted)) <= wanted


def test_the_best_cut_of_few_groups_is_found() -> None:
    """Two languages that share next to nothing: the cut is that of all possible ones that costs least."""
    groups = [frozenset({code}) for code in range(6)]
    pages = [frozenset({0, 1, 2})] * 5 + [frozenset({0, 3, 4})] * 5
    views = page_views([(str(n), shown) for n, shown in enumerate(pages)])
    sizes = Sizes(of_character=dict.fromkeys(range(6), 3000.0))
    found = cheapest(groups, lambda group: "latin", views, sizes)
    best = min(_partitions(list(range(6))), key=lambda cut: cost_of(cut, views, sizes).total)
    assert cost_of(found, views, sizes).total == pytest.approx(cost_of(best, views, sizes).total, abs=RULE_BYTES)
    assert sorted(map(sorted, found)) == [[0], [1, 2], [3, 4], [5]]


def _partitions(codes: Sequence[int]) -> list[list[frozenset[int]]]:
    if not codes:
        return [[]]
    first, *rest = codes
    found = []
    for partition in _partitions(rest):
        found.append([frozenset({first}), *partition])
        for place, part in enumerate(partition):
            found.append([*partition[:place], part | {first}, *partition[place + 1 :]])
    return found


def test_slices_of_twenty_thousand_ideographs_without_pages() -> None:
    codes = frozenset(range(0x4E00, 0x4E00 + 20_000)) | frozenset(range(0x20, 0x7F))
    sizes = Sizes(of_character=dict.fromkeys(codes, 120.0))
    material = Material(
        characters=codes, views=language_views(["zh", "ja"]), languages=("zh", "ja"), pairs={}, size_of=sizes
    )
    cut = cut_characters(material, "auto")
    whole, cost = material.cost([codes]), material.cost(list(cut.slices.values()))
    assert whole is not None and cost is not None
    assert 5 < len(cut.slices) <= 100
    assert cost.total < whole.total / 3
    assert sorted(itertools.chain(*cut.slices.values())) == sorted(codes)
    assert cut_characters(material, 100).slices.keys() >= {"core", "cjk-1", "cjk-50"}


@pytest.mark.parametrize(("tag", "hints"), [("hy", True), ("hy", False), ("ru", False), ("fa", True), ("vi", True)])
def test_reckoned_sizes_are_near_those_of_files(tag: str, hints: bool) -> None:
    font = open_font(_DEJAVU)
    letters = find_language(tag).letters
    sizes = font_sizes(font, letters, FeatureChoice(), hints=hints)
    file = subset(font, letters, SubsetOptions(hints=hints)).font.write("woff2")
    assert sizes.of_file + sizes.of(letters) == pytest.approx(len(file), rel=0.12)


# --- the whole way


def _words(tag: str, count: int, seed: int) -> str:
    """Made-up words of a language's own letters, as upright as sentences are."""
    draw = random.Random(f"{tag} {seed}")
    letters = [each for each in sorted(find_language(tag).main) if len(each) == 1 and each.isalpha()]
    words = ["".join(draw.choices(letters, k=draw.randint(2, 9))) for _ in range(count)]
    return ", ".join(word.capitalize() if n % 5 == 0 else word for n, word in enumerate(words)) + "."


def _page(tag: str, text: str) -> str:
    return (
        f'<!doctype html><html lang="{tag}" dir="{"rtl" if tag == "fa" else "ltr"}"><meta charset="utf-8">'
        '<title>Ferry</title><link rel="icon" href="data:,"><link rel="stylesheet" href="{sheet}">'
        f'<style>p {{ font: 20px "Ferry", monospace; width: 700px }}</style><p>{text}</p></html>'
    )


@pytest.fixture
def pages(tmp_path: Path) -> Path:
    """A site in six languages, three pages each; every page has room for the style sheet's address."""
    folder = tmp_path / "site"
    folder.mkdir()
    for tag in _LANGUAGES:
        for number in range(3):
            source = _page(tag, _words(tag, 150, number) + " 6:45 – (Ferry 12)")
            (folder / f"{tag}-{number}.html").write_text(source.replace("{sheet}", "type/faces.css"))
    return folder


def _build(aksara: Run, pages: Path, *options: object) -> dict[str, Any]:
    done = aksara("build", _DEJAVU, "--for-site", "site", "--family", "Ferry", "--format", "woff2", "--to", "site/type",
                  "--effort", "fast", "--exact", *options)  # fmt: skip
    assert done.returncode == 0, done.stderr
    return manifest_of(pages / "type")


def _files(manifest: dict[str, Any]) -> dict[str, str]:
    return {file["slice"]: file["path"] for face in manifest["families"][0]["faces"] for file in face["files"]}


def _view(browser: Browser, address: str) -> tuple[Image.Image, set[str]]:
    """What a page looks like in a browser that has fetched nothing yet, and the fonts that it fetches."""
    with watched_page(browser, viewport={"width": 760, "height": 1000}, locale="en") as (page, problems):
        page.goto(address)
        page.evaluate("document.fonts.ready")
        names = {name.rpartition("/")[2] for name in page.evaluate(_COUNT)}
        shown = Image.open(io.BytesIO(page.screenshot())).convert("RGB")
    assert problems == []
    return shown, names


def test_a_page_fetches_what_it_shows_and_looks_as_with_one_file(
    aksara: Run, pages: Path, site: str, browser: Browser, monkeypatch: pytest.MonkeyPatch
) -> None:
    uncut = _build(aksara, pages, "--slices", "none")
    whole = sum(file["bytes"] for face in uncut["families"][0]["faces"] for file in face["files"])
    expected = {path.name: _view(browser, f"{site}/site/{path.name}")[0] for path in pages.glob("*-0.html")}
    manifest = _build(aksara, pages)
    (family,) = manifest["families"]
    assert {"core", "arabic", "armenian", "georgian"} <= set(family["slices"]["names"])
    assert family["slices"]["pairs_parted"]["count"] == 0
    (face,) = family["faces"]
    ranges = [parse_ranges(part["unicode_range"]) for part in face["slices"]]
    assert sum(map(len, ranges)) == len(set().union(*ranges)), "disjoint"
    sizes = {file["path"].rpartition("/")[2]: file["bytes"] for file in face["files"]}
    fetched = []
    for path in sorted(pages.glob("*.html")):
        shown = set(map(ord, re.sub("<[^>]*>", "", path.read_text().partition("<p>")[2])))
        needed = {
            file["path"].rpartition("/")[2] for file in face["files"] if parse_ranges(file["unicode_range"]) & shown
        }
        # Pages of one language differ in their words alone: the browser opens one of each.
        if path.name in expected:
            picture, names = _view(browser, f"{site}/site/{path.name}")
            assert names == needed, path.name
            assert ImageChops.difference(picture, expected[path.name]).getbbox() is None, path.name
        fetched.append(sum(sizes[name] for name in needed))
    typical, largest = family["slices"]["typical_page"], family["slices"]["largest_page"]
    assert typical["bytes"] == sorted(fetched)[(len(fetched) - 1) // 2] and largest["bytes"] == max(fetched)
    assert sum(fetched) / len(fetched) < 0.7 * whole
    assert family["slices"]["one_file_was_made"] and family["slices"]["one_file"]["bytes"] == whole
    # Of a family with many characters the whole is only tried.
    monkeypatch.setattr(slice_figures, "_FEW", 0)
    monkeypatch.setattr(slice_figures, "_CERTAIN", 1.0)
    (tried,) = _build(aksara, pages, "--no-cache")["families"]
    assert tried["faces"] == family["faces"] and not tried["slices"]["one_file_was_made"]
    assert tried["slices"]["one_file"]["bytes"] == pytest.approx(whole, rel=0.05)


def test_pages_that_change_recut_nothing(aksara: Run, pages: Path) -> None:
    manifest = _build(aksara, pages)
    before, had = _files(manifest), _ranges(manifest)
    text = (pages / "ru-0.html").read_text()
    (pages / "ru-0.html").write_text(text.replace("<p>", "<p>" + _words("ru", 30, 9)))
    assert _files(_build(aksara, pages)) == before, "no new characters, no new file"
    # New pages in the same languages, one with a character that no page had.
    for number in range(3, 15):
        for tag in _LANGUAGES:
            source = _page(tag, _words(tag, 60, number)).replace("{sheet}", "type/faces.css")
            (pages / f"{tag}-{number}.html").write_text(source)
    (pages / "en-99.html").write_text(_page("en", "Ф Ƿ").replace("{sheet}", "type/faces.css"))
    manifest = _build(aksara, pages)
    after = _files(manifest)
    changed = {name for name in after if after[name] != before.get(name)}
    gained = {name for name, codes in _ranges(manifest).items() if codes - had.get(name, set())}
    assert changed == gained < before.keys(), "only slices that have gained a character"
    # From an empty folder, and with other jobs, the first cut is the same again.
    for other in ("a", "b"):
        jobs = ("--jobs", 1) if other == "a" else ("--jobs", 4)
        aksara(
            "build",
            _DEJAVU,
            "--for-site",
            "site",
            "--family",
            "Ferry",
            "--format",
            "woff2",
            "--to",
            other,
            "--no-cache",
            *jobs,
        )
    assert (pages.parent / "a/faces.css").read_bytes() == (pages.parent / "b/faces.css").read_bytes()


def _ranges(manifest: dict[str, Any]) -> dict[str, set[int]]:
    (face,) = manifest["families"][0]["faces"]
    return {part["name"]: parse_ranges(part["unicode_range"]) for part in face["slices"]}


def test_a_manifest_that_was_tampered_with_names_no_files(aksara: Run, pages: Path) -> None:
    path = pages / "type/faces.json"
    before = _files(_build(aksara, pages))
    contents = json.loads(path.read_text())
    for number, part in enumerate(contents["families"][0]["faces"][0]["slices"]):
        part["name"] = ["../../up", "a/b", "x" * 500, 7, None, "url(x)", "-x"][number % 7]
    path.write_text(json.dumps(contents, indent=1))
    after = _files(_build(aksara, pages))
    assert after.keys() == before.keys()
    assert {each.name for each in pages.parent.iterdir()} == {"site"}


def test_every_way_to_slice_and_its_cost(aksara: Run, pages: Path) -> None:
    by_script = _build(aksara, pages, "--slices", "script")["families"][0]["slices"]
    assert {"core", "cyrillic", "armenian", "georgian", "arabic"} <= set(by_script["names"])
    by_language = _build(aksara, pages, "--slices", "language")["families"][0]["slices"]
    assert {"core", "pl"} <= set(by_language["names"])
    two = _build(aksara, pages, "--slices", 2)["families"][0]["slices"]
    assert len(two["names"]) == 2
    done = aksara("build", _DEJAVU, "--for-site", "site", "--to", "dry", "--dry-run", "--exact", "--effort", "fast")
    rows = [line.partition(" ")[0] for line in done.stdout.splitlines()]
    assert [row for row in rows if row in WAYS] == list(WAYS)
    assert not (pages.parent / "dry").exists()
    dear = ("--budget", "9 KB", "--exact", "--effort", "fast")
    missed = aksara("build", _DEJAVU, "--for-site", "site", "--to", "x", *dear)
    assert missed.returncode == 1
    assert "the largest page (site/" in missed.stdout and "a page in Persian: " in missed.stdout


@pytest.mark.parametrize(
    ("options", "status", "said"),
    [
        (("--slices", "0"), 2, "0 is not a number of slices"),
        (("--slices", "100000"), 2, "give 1 to 1,000"),
        (("--slices", "7", "--for-text", "abcde"), 0, "are as many as there can be"),
        (("--slices", "language", "--for-text", "abcde"), 2, "no languages are known"),
        (("--slices", "language", "--for-language", "en,hi,th"), 0, ""),
        (("--slices", "each"), 2, "there is no 'each'"),
        (("--slices", "3", "--for-text", "  a"), 0, "2 are as many as there can be"),
    ],
)
def test_impossible_slices_are_refused(aksara: Run, options: tuple[str, ...], status: int, said: str) -> None:
    done = aksara("build", _DEJAVU, "--effort", "fast", "--format", "woff2", *options)
    assert done.returncode == status, done.stderr
    assert said in done.stderr
    assert "Traceback" not in done.stderr


def test_the_project_file_says_how_to_cut(aksara: Run, tmp_path: Path) -> None:
    project = tmp_path / "aksara.toml"
    text = f'[site]\nlanguages = ["en", "ru"]\n[output]\nslices = "script"\n[[family]]\nfonts = ["{_DEJAVU}"]\n'
    project.write_text(text)
    assert aksara("build", "--effort", "fast").returncode == 0
    assert "cyrillic" in manifest_of(tmp_path / "web-fonts")["families"][0]["slices"]["names"]
    project.write_text(text + 'slices = "none"\n')
    assert aksara("build", "--effort", "fast").returncode == 0
    (family,) = manifest_of(tmp_path / "web-fonts")["families"]
    assert [part["name"] for part in family["faces"][0]["slices"]] == ["all"]
    project.write_text(text.replace('"script"', "0"))
    done = aksara("build")
    assert (
        done.returncode == 2
        and "aksara.toml, line 4: slices: " in done.stderr
        and "0 is not a number of slices" in done.stderr
    )


def test_a_page_fetches_no_slice_early_that_it_does_not_show(aksara: Run, tmp_path: Path) -> None:
    """Four of five pages show Cyrillic text, so its slice is one that nearly all pages fetch; the fifth does not."""
    site = tmp_path / "site"
    site.mkdir()
    texts = ["Паром идёт to the island"] * 4 + ["To the island"]
    for index, text in enumerate(texts):
        page = f"<!doctype html><html lang=ru><head><style>body{{font-family:DejaVu Sans}}</style></head><p>{text}"
        (site / f"{index}.html").write_text(page)
    done = aksara("build", _DEJAVU, "--for-site", "site", "--slices", "script", "--links", "site/*.html")
    assert done.returncode == 0, done.stderr
    preloaded = [
        re.findall(r'rel="preload" href="[^"]*-Regular\.(\w+)', (site / f"{n}.html").read_text()) for n in range(5)
    ]
    assert preloaded == [["core", "cyrillic"]] * 4 + [["core"]]

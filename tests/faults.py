"""Faults that a site may have: what breaks the demo's, the finding that has to come first, and words of it."""

from __future__ import annotations

import base64
import json
import re
import shutil
from collections.abc import Callable
from pathlib import Path

from fonts import DEMO_FONTS

Break = Callable[[Path], object]


def _css(old: str, new: str, count: int = 1) -> Break:
    """A fault in the style sheet of the fonts: the first match of a pattern replaced."""

    def apply(site: Path) -> None:
        path = site / "type/faces.css"
        text, made = re.subn(old, new, path.read_text(), count=count, flags=re.DOTALL)
        assert made, old
        path.write_text(text)

    return apply


def _page(old: str, new: str, name: str = "index.html") -> Break:
    def apply(site: Path) -> None:
        path = site / name
        assert old in path.read_text(), old
        path.write_text(path.read_text().replace(old, new, 1))

    return apply


def _font(change: Callable[[bytes], bytes], pattern: str = "PenyuSans-Regular.*.woff*") -> Break:
    def apply(site: Path) -> None:
        for path in (site / "type/fonts").glob(pattern):
            path.write_bytes(change(path.read_bytes()))

    return apply


def _remove(pattern: str) -> Break:
    return lambda site: [path.unlink() for path in (site / "type/fonts").glob(pattern)]


def _all(*breaks: Break) -> Break:
    return lambda site: [each(site) for each in breaks]


def _append(text: str) -> Break:
    return lambda site: (site / "penyu.css").write_text((site / "penyu.css").read_text() + text)


def _manifest(old: str, new: str) -> Break:
    def apply(site: Path) -> None:
        path = site / "type/faces.json"
        assert old in path.read_text(), old
        path.write_text(path.read_text().replace(old, new))

    return apply


def _regular(site: Path) -> Path:
    return next((site / "type/fonts").glob("PenyuSans-Regular.*.woff2"))


def _preload(site: Path, attributes: str) -> None:
    link = f'<link rel="preload" {attributes} href="type/fonts/{_regular(site).name}">'
    _page("</head>", f"{link}</head>")(site)


#: A rule without `font-display` is the least of faults.
remove_displays = _css("font-display: swap;\n", "", 0)


#: Fault → what breaks the site, the kind of the first finding, and words of what is said.
FAULTS: dict[str, tuple[Break, str, str]] = {
    "a file is gone": (_remove("PenyuSans-Regular.*"), "font-missing", "is missing"),
    "one of two files is gone": (_remove("PenyuSans-Bold.*.woff2"), "font-missing", "take the next source"),
    "a folder too far up": (_css(r'url\("fonts/PenyuSans-R', 'url("../fonts/PenyuSans-R', 2), "font-missing",
                            "paths in a style sheet count from the style sheet"),
    "a path from the page": (_css(r'url\("fonts/', 'url("type/fonts/', 0), "font-missing", 'write url("fonts/'),
    "capitals": (_css(r'url\("fonts/PenyuSans-Regular', 'url("fonts/penyusans-regular', 2), "font-missing",
                 "capitals count"),
    "a number sign": (
        _all(_css(r"PenyuSans-Regular\.", "Penyu#Sans.", 2),
             lambda site: [path.rename(path.with_name(path.name.replace("PenyuSans-Regular.", "Penyu#Sans.")))
                           for path in (site / "type/fonts").glob("PenyuSans-Regular.*")]),
        "font-missing", "write %23 for it"),
    "no quotes and a blank": (_css(r'url\("fonts/PenyuSans-Regular[^"]*"\) format\("woff2"\),\s*url\("[^"]*"\)',
                                   "url(fonts/Penyu Sans.woff2)"), "rule-ignored", "put it in quotes"),
    "no source": (_css(r"  src: .*?;\n", ""), "rule-ignored", "names no file"),
    "no family": (_css(r'  font-family: "Penyu Sans";\n', ""), "rule-ignored", "names no family"),
    "a format that is none": (_css(r'format\("woff2"\),\s*url\("[^"]*"\) format\("woff"\)', 'format("ttf")'),
                              "format-unknown", 'write format("woff2")'),
    "a format of another file": (_css(r'format\("woff2"\)', 'format("woff")'), "format-contradicts-file",
                                 "which is a WOFF2"),
    "the better format last": (_css(r'(url\("[^"]*woff2"\) format\("woff2"\)),\s*(url\("[^"]*"\) format\("woff"\))',
                                    r"\2, \1"), "better-format-later", "put the WOFF2 first"),
    "a weight that is none": (_css("font-weight: 400;", "font-weight: bolder;"), "descriptor-ignored",
                              "is not the weight of a face"),
    "a display that is none": (_css("font-display: swap;", "font-display: fast;"), "descriptor-ignored", "is none of"),
    "a missing semicolon": (_css("font-style: normal;", "font-style normal"), "declaration-broken",
                            "not a declaration"),
    "two rules for one face": (
        lambda site: (site / "type/faces.css").write_text((text := (site / "type/faces.css").read_text())
                                                          + text[text.index("@font-face") : text.index("}") + 1]),
        "rule-hidden", "repeats this rule"),
    "a weight said of the wrong face": (_css(r"font-weight: 700;", "font-weight: 400;"), "weight-contradicts-file",
                                        "has weight 700"),
    "a font that is cut short": (_font(lambda data: data[: len(data) // 2]), "font-damaged", "damaged: "),
    "a font that is a page": (_font(lambda data: b"<!doctype html><h1>Not found</h1>"), "font-damaged", "not a font"),
    "a font as text": (_font(lambda data: data.replace(b"\n", b"\r\n").replace(b"\0", b" ")), "font-damaged",
                       "damaged"),
    "a WOFF called WOFF2": (
        lambda site: shutil.copy(next((site / "type/fonts").glob("PenyuSans-Regular.*.woff")),
                                 next((site / "type/fonts").glob("PenyuSans-Regular.*.woff2"))),
        "format-contradicts-file", "which is a WOFF"),
    "a weight of another file": (_css(r"font-weight: 700;\n  font-display", "font-weight: 300;\n  font-display"),
                                 "weight-contradicts-file", "has weight 700"),
    "a style of another file": (_css(r"font-style: italic;(\n  font-weight: 400)", r"font-style: normal;\1"),
                                "style-contradicts-file", "is italic"),
    "a range of another script": (_css(r"unicode-range: [^;]*;", "unicode-range: U+900-97F;"), "range-hides-characters",
                                  "and the file has"),
    "a family misspelt": (
        lambda site: [path.write_text(path.read_text().replace("var(--penyu-slab, serif)", '"Penyu Slap", serif'))
                      for path in site.glob("*.css")],
        "family-undefined", "write Penyu Slab"),
    "a character that lacks": (_page("</h1>", " ☂ Ж</h1>"), "characters-missing", "U+0416 cyrillic"),
    "a style sheet that is gone": (lambda site: (site / "type/faces.css").unlink(), "sheet-missing",
                                   "faces.css is missing"),
    "a preload without crossorigin": (
        lambda site: _preload(site, 'as="font"'),
        "preload-without-crossorigin", "fetched twice"),
    "a preload without a kind": (
        lambda site: _preload(site, "crossorigin"),
        "preload-without-kind", 'as="font"'),
    "digits without quotes": (_css('font-family: "Penyu Sans";', "font-family: Penyu 2 Sans;"), "rule-ignored",
                              'write font-family: "Penyu 2 Sans"'),
    "a family in a page without quotes": (
        _append("h2 { font-family: 7 Islands; }"),
        "family-without-quotes", "put names with digits or signs in quotes"),
    "a blank in an address": (
        _all(_css(r"fonts/PenyuSans-Regular\.", "fonts/Penyu Sans.", 2),
             lambda site: [path.rename(path.with_name(path.name.replace("PenyuSans-Regular.", "Penyu Sans.")))
                           for path in (site / "type/fonts").glob("PenyuSans-Regular.*")]),
        "url-needs-encoding", "Penyu%20Sans"),
    "a percent sign": (
        _all(_css(r"fonts/PenyuSans-Regular\.", "fonts/100%Sans.", 2),
             lambda site: [path.rename(path.with_name(path.name.replace("PenyuSans-Regular.", "100%Sans.")))
                           for path in (site / "type/fonts").glob("PenyuSans-Regular.*")]),
        "url-needs-encoding", "100%25Sans"),
    "plain HTTP": (_css(r'url\("fonts/PenyuSans-Regular', 'url("http://penyu.example/PenyuSans-Regular', 2),
                   "mixed-content", "browsers block it"),
    "a width that is none": (_css(r"font-style: normal;\n", "font-style: normal;\n  font-stretch: wide;\n"),
                             "descriptor-ignored", "is not the width"),
    "a width of another file": (_css(r"font-style: normal;\n", "font-style: normal;\n  font-stretch: 75%;\n"),
                                "width-contradicts-file", "100%"),
    "a range that hides": (_css(r"unicode-range: U\+20-[^;]*;", "unicode-range: U+20-7E, U+1EA0-1EF9;"),
                           "range-hides-characters", "does not include"),
    "a range that is none": (_css(r"unicode-range: [^;]*;", "unicode-range: A-Z;"), "descriptor-ignored",
                             "is not a list of ranges"),
    "a range that claims a script": (_css(r"unicode-range: U\+20-", "unicode-range: U+4E00-9FFF, U+20-"),
                                     "range-claims-too-much", "cannot use it"),
    "an unknown descriptor": (_css("font-display: swap;", "font-display: swap; font-smoothing: auto;"),
                              "descriptor-ignored", "not a descriptor"),
    "a style that is none": (_css("font-style: normal;", "font-style: upright;"), "descriptor-ignored",
                             "is not the style"),
    "a desktop font served": (
        _all(lambda site: shutil.copy(DEMO_FONTS[0].with_name("PenyuSans-Regular.ttf"), site / "type/fonts/a.ttf"),
             _css(r'src: url\("fonts/PenyuSans-Regular[^;]*;', 'src: url("fonts/a.ttf") format("truetype");')),
        "font-uncompressed", "make a WOFF2"),
    "another font under the name": (
        lambda site: shutil.copy(next((site / "type/fonts").glob("PenyuSlab-Regular*.woff2")), _regular(site)),
        "characters-missing", ""),
    "the manifest has other hashes": (
        lambda site: (site / "type/faces.json").write_text(
            (text := (site / "type/faces.json").read_text()).replace(
                json.loads(text)["families"][0]["faces"][0]["files"][0]["sha256"], "0" * 64)),
        "file-changed", "by its hash"),
    "a licence that ended": (_manifest("2031-12-31", "2020-12-31"), "licence-ended", "2020-12-31"),
    "a licence for others": (_page("<head>", '<head><link rel="canonical" href="https://other.example/">'),
                             "licence-for-other-domains", "is for penyu.example"),
    "a rule without quotes around a blank family": (
        _css('font-family: "Penyu Slab";', 'font-family: "Penyu  Slab";', 0), "family-undefined", "Penyu"),
    "no bold": (_css(r"/\* Penyu Sans Bold:.*?(?=/\* Penyu Sans Bold Italic)", ""), "face-missing", "Penyu Sans"),
    "no rules at all": (lambda site: (site / "type/faces.css").write_text(""), "property-undefined",
                        "takes a font from"),
    "a page without the link": (_page('<link rel="stylesheet" href="type/faces.css">', ""), "property-undefined",
                                "link site/type/faces.css"),
    "no display": (remove_displays, "display-missing", "font-display: swap"),
    "no generic family": (
        _append('h2 { font-family: "Penyu Slab"; }'),
        "fallback-missing", "Penyu Slab on"),
    "a variable font without its range": (_css(r"  font-weight: 300 800;\n", ""), "weight-range-missing", "300 to 800"),
    "a template": (_css(r'url\("fonts/PenyuSans-Regular[^"]*woff2"\)', 'url("{{ static }}/a.woff2")'),
                   "url-is-template", "a template completes"),
    "a data: font cut short": (
        _css(r'url\("fonts/PenyuSans-Regular[^;]*;', 'url("data:font/woff2;base64,d09GMgABAAAAA") format("woff2");'),
        "font-missing", "is cut short"),
    "a preload of what the page does not show": (
        lambda site: _page("</head>", '<link rel="preload" as="font" crossorigin href="type/fonts/'
                           + next((site / "type/fonts").glob("PenyuSans-Regular.*.woff")).name + '"></head>')(site),
        "preload-unused", "no text of this page"),
    "a preload of the wrong face": (
        lambda site: _page("</head>", '<link rel="preload" as="font" crossorigin href="type/fonts/'
                           + next((site / "type/fonts").glob("PenyuSlab-Bold.*.woff2")).name + '"></head>')(site),
        "preload-misses", "most text of the page"),
    "an import that leads nowhere": (
        lambda site: (site / "penyu.css").write_text('@import "lost.css";' + (site / "penyu.css").read_text()),
        "sheet-missing", "lost.css is missing"),
    "a preload of an old file": (
        _page("</head>", '<link rel="preload" as="font" href="type/fonts/Old.00000000.woff2" crossorigin></head>'),
        "preload-outdated", "get an error"),
}  # fmt: skip


def _inline(site: Path) -> None:
    """The style sheet of the fonts inside the page, its addresses counted from there."""
    sheet = (site / "type/faces.css").read_text().replace('url("', 'url("type/')
    _page('<link rel="stylesheet" href="type/faces.css">', f"<style>{sheet}</style>")(site)


def _data(site: Path) -> None:
    data = base64.b64encode(_regular(site).read_bytes()).decode()
    _css(r'src: url\("fonts/PenyuSans-Regular[^;]*;', f'src: url("data:font/woff2;base64,{data}") format("woff2");')(
        site
    )


def _rename(old: str, new: str) -> Break:
    return lambda site: [path.rename(path.with_name(path.name.replace(old, new)))
                         for path in (site / "type/fonts").glob(f"{old}*")]  # fmt: skip


#: Sites as people make them, with no fault that harms anybody.
SOUND: dict[str, Break] = {
    "as it was built": lambda site: None,
    "written small": lambda site: (site / "type/faces.css").write_text(
        re.sub(r"\s+", " ", re.sub(r"/\*.*?\*/", "", (site / "type/faces.css").read_text(), flags=re.DOTALL))),
    "in the page": _inline,
    "a font in the style sheet": _data,
    "paths from the root": _css(r'url\("fonts/', 'url("/type/fonts/', 0),
    "a version behind the address": _css(r'\.woff2"', '.woff2?v=3"', 0),
    "the trick for old browsers": _css(r'src: url\("(fonts/PenyuSans-Regular[^"]*)woff2"\)',
                                       r'src: url("old.eot");\n  src: url("old.eot?#iefix")'
                                       r' format("embedded-opentype"), url("\1woff2")'),
    "an installed copy first": _css(r"src: url", 'src: local("Penyu Sans"), url', 0),
    "no quotes": _css(r'url\("([^"]*)"\)', r"url(\1)", 0),
    "an import": _all(
        _page('<link rel="stylesheet" href="type/faces.css">', ""),
        lambda site: (site / "penyu.css").write_text('@import "type/faces.css";' + (site / "penyu.css").read_text())),
    "a base address": _all(
        _page("<head>", '<head><base href="type/">'), _page('href="type/faces.css"', 'href="faces.css"'),
        _page('href="penyu.css"', 'href="../penyu.css"')),
    "formats as words": _css(r'format\("(woff2?)"\)', r"format(\1)", 0),
    "technologies": _css(r'(PenyuSansVariable[^"]*"\) format\("woff2"\))', r"\1 tech(variations)"),
    "encoded names": _all(_css(r"fonts/PenyuSans-Regular\.", "fonts/Penyu%20Sans.", 2),
                          _rename("PenyuSans-Regular.", "Penyu Sans.")),
    "only WOFF2": _css(r',\s*url\("[^"]*woff"\) format\("woff"\)', "", 0),
    "weights as words": _all(_css("font-weight: 400;", "font-weight: normal;", 0),
                             _css("font-weight: 700;", "font-weight: bold;", 0)),
    "an oblique with an angle": _append("blockquote { font-style: oblique 12deg; }"),
    "no fonts at all": lambda site: (
        [path.write_text("body { font-family: Georgia, serif; }") for path in site.glob("*.css")],
        [path.write_text(path.read_text().replace('<link rel="stylesheet" href="type/faces.css">', ""))
         for path in site.glob("*.html")]),
    "fonts of another host": _css(r'url\("fonts/', 'url("https://fonts.penyu.example/', 0),
    "names with capitals": _append("H2 { FONT-FAMILY: 'PENYU SLAB', 'Penyu Slab on Georgia', Georgia, serif; }"),
    "a print sheet": _append("@media print { body { font: 12pt/1.5 Georgia, serif; } @page { margin: 2cm } }"),
    "a family in a comment": _append("/* font-family: 7 Islands; url(gone.woff2) */"),
}  # fmt: skip

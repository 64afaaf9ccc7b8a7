"""Hold what `aksara check` says of sites against what Chromium does with them: `python tools/site_truth.py FOLDER...`.

Each folder is served as it is. Chromium opens its pages without scripts and without any other host, and tells which
style sheets and fonts are missing, which fonts it refuses, and which font draws each character. What `check` calls an
error or a warning is then true, false, or of a kind that Chromium says nothing of; and of what fails in
Chromium some is found and some is not.
"""

from __future__ import annotations

import functools
import glob
import http.server
import re
import sys
import threading
import unicodedata
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote, unquote, urljoin, urlsplit

from playwright.sync_api import Browser, sync_playwright

from aksara.checking.findings import Finding
from aksara.checking.site_check import check_site
from aksara.errors import AksaraError
from aksara.site import SiteRequest, read_site
from aksara.site.findings import is_common

#: Pages of a site that are opened, and characters of a face that are looked at.
_PAGES, _CHARACTERS = 25, 300
_FACE_RULE = re.compile(r"@font-face\s*\{([^}]*)\}", re.IGNORECASE)
_URL = re.compile(r"url\(\s*[\"']?([^\"')]+)[\"']?\s*\)(?:\s*format\(\s*[\"']?([\w-]+))?", re.IGNORECASE)
#: Every face in which text is shown, with its characters.
_SHOWN = """
() => {
  const found = {};
  const say = (style, text) => {
    const key = JSON.stringify([style.fontFamily, style.fontWeight, style.fontStyle, style.fontStretch]);
    found[key] = (found[key] || '') + text;
  };
  const walk = (element) => {
    const style = getComputedStyle(element);
    const silent = ['HEAD', 'STYLE', 'SCRIPT', 'NOSCRIPT', 'TEMPLATE'];
    if (style.display === 'none' || silent.includes(element.tagName)) return;
    for (const name of ['::before', '::after']) {
      const own = getComputedStyle(element, name);
      if (own.content.startsWith('"') && own.display !== 'none') say(own, own.content.slice(1, -1));
    }
    for (const node of element.childNodes) {
      if (node.nodeType === 3 && node.data.trim()) {
        let text = node.data;
        if (style.textTransform === 'uppercase') text = text.toUpperCase();
        if (style.textTransform === 'lowercase') text = text.toLowerCase();
        say(style, text);
      }
      if (node.nodeType === 1) walk(node);
    }
  };
  if (document.body) walk(document.body);
  return Object.entries(found).map(([key, text]) => [JSON.parse(key), [...new Set([...text])].join('')]);
}
"""
#: Families with a rule whose fonts are on another host.
_HOSTED = """
() => [...document.styleSheets].flatMap((sheet) => {
  try {
    return [...sheet.cssRules];
  } catch {
    return [];
  }
}).filter((rule) => rule.type === CSSRule.FONT_FACE_RULE && /url\\(["']?(https?:)?\\/\\//.test(rule.style.src))
  .map((rule) => rule.style.fontFamily)
"""
#: Whether a font file can be used.
_LOADS = "url => new FontFace('truth', `url(${url})`).load().then(() => true, () => false)"
#: One element for each character of a face.
_LAY_OUT = """
([families, weight, style, stretch, text]) => {
  document.querySelectorAll('.aksara-truth').forEach((element) => element.remove());
  for (const character of text) {
    const element = document.createElement('span');
    element.className = 'aksara-truth';
    element.style.cssText = 'all: initial; position: absolute; top: 0';
    element.style.fontFamily = families;
    element.style.fontWeight = weight;
    element.style.fontStyle = style;
    element.style.fontStretch = stretch;
    element.textContent = character;
    document.body.append(element);
  }
  return document.fonts.ready.then(() => true);
}
"""


class Truth(NamedTuple):
    """What Chromium does with the pages of a folder: addresses that are not there, fonts that it refuses, characters
    that are shown in another font (page, family, character), families that pages ask for first and nothing defines."""

    gone: set[str]
    refused: set[str]
    elsewhere: set[tuple[str, str, str]]
    undefined: set[tuple[str, str]]


@contextmanager
def _serving(folder: Path) -> Iterator[str]:
    class Handler(http.server.SimpleHTTPRequestHandler):
        def log_message(self, *_: Any) -> None:
            """Nothing."""

    handler = functools.partial(Handler, directory=str(folder))
    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}/"
    finally:
        server.shutdown()


def _truth(browser: Browser, folder: Path, pages: list[str], fonts: set[str]) -> Truth:
    """What becomes of these pages, and of these font files that no page may load."""
    found = Truth(set(), set(), set(), set())
    with _serving(folder) as root:
        page = browser.new_page()
        page.goto(root)
        found.refused.update(name for name in sorted(fonts) if not page.evaluate(_LOADS, urljoin(root, quote(name))))
        page.close()
        for name in pages[:_PAGES]:
            context = browser.new_context(java_script_enabled=False)
            page = context.new_page()
            page.route("**/*", functools.partial(_only_here, root))
            page.on("response", functools.partial(_note_answer, root, found))
            page.on("console", functools.partial(_note_message, root, found))
            try:
                page.goto(urljoin(root, name), wait_until="load", timeout=20_000)
                _look_at(page, name, found)
            except Exception as error:  # a page that cannot be opened tells nothing
                print(f"  {name}: {str(error).splitlines()[0]}", file=sys.stderr)
            context.close()
    return found


def _only_here(root: str, route: Any) -> None:
    if route.request.url.startswith(root):
        route.continue_()
    else:
        route.abort()


def _note_answer(root: str, found: Truth, answer: Any) -> None:
    if answer.status >= 400 and answer.request.resource_type in ("stylesheet", "font"):
        found.gone.add(unquote(answer.url.removeprefix(root).partition("?")[0]))


def _note_message(root: str, found: Truth, message: Any) -> None:
    for address in re.findall(r"Failed to decode downloaded font: (\S+)", message.text):
        found.refused.add(unquote(address.removeprefix(root).partition("?")[0]))


def _look_at(page: Any, name: str, found: Truth) -> None:
    client = page.context.new_cdp_session(page)
    client.send("DOM.enable")
    client.send("CSS.enable")
    defined = {family.strip("\"'").casefold() for family in page.evaluate("[...document.fonts].map((f) => f.family)")}
    # Of fonts on other hosts nothing is known: they are not fetched here.
    hosted = {family.strip("\"'").casefold() for family in page.evaluate(_HOSTED)}
    for (families, weight, style, stretch), text in page.evaluate(_SHOWN):
        listed = [each.strip().strip("\"'") for each in families.split(",")]
        first = listed[0]
        leading = next((each for each in listed if each.casefold() in defined or is_common(each)), "")
        if first.casefold() not in defined and not is_common(first):
            found.undefined.add((name, first.casefold()))
        if leading.casefold() not in defined or leading.casefold() in hosted:
            continue
        wanted = [each for each in sorted(set(text)) if unicodedata.category(each)[0] not in "CZ" or each >= "\ue000"]
        page.evaluate(_LAY_OUT, [families, weight, style, stretch, "".join(wanted[:_CHARACTERS])])
        document = client.send("DOM.getDocument", {"depth": 0})["root"]["nodeId"]
        nodes = client.send("DOM.querySelectorAll", {"nodeId": document, "selector": ".aksara-truth"})["nodeIds"]
        for character, node in zip(wanted, nodes, strict=False):
            fonts = client.send("CSS.getPlatformFontsForNode", {"nodeId": node})["fonts"]
            if fonts and not any(font["isCustomFont"] for font in fonts):
                found.elsewhere.add((name, leading.casefold(), character))


def _dead_rules(folder: Path) -> Iterator[str]:
    """Rules in the folder's style sheets of whose sources none is there, read in the simplest way; as "sheet:first"."""
    for sheet in sorted(path for path in folder.rglob("*.css") if path.is_file()):
        if {"node_modules", "vendor", "bower_components"} & set(sheet.relative_to(folder).parts):
            continue
        for rule in _FACE_RULE.findall(re.sub(r"/\*.*?\*/", "", sheet.read_text("utf-8", "replace"), flags=re.DOTALL)):
            sources = [(url, kind) for url, kind in _URL.findall(rule) if kind not in ("embedded-opentype", "svg")]
            local = [url for url, _ in sources if not urlsplit(url).scheme and not url.startswith("//")]
            if not local or len(local) < len(sources) or any("{" in url for url in local):
                continue
            if not any(_file(sheet, url, folder).is_file() for url in local):
                yield f"{sheet}:{local[0]}"


def _file(sheet: Path, url: str, folder: Path) -> Path:
    path = unquote(url.partition("#")[0].partition("?")[0])
    return folder / path.lstrip("/") if path.startswith("/") else sheet.parent / path


def _verdict(found: Finding, truth: Truth, folder: Path, opened: set[str]) -> bool | None:
    """Whether a finding is true; None where Chromium tells nothing of it."""
    page = _inner(found.page, folder) if found.page else ""
    if found.kind == "sheet-missing" and found.level == "error":
        path = urlsplit(urljoin(f"http://x/{page}", found.address)).path.lstrip("/")
        return unquote(path) in truth.gone if page in opened else None
    if found.kind == "font-missing":
        return not _file(Path(found.place.path), found.address, folder).is_file()
    if found.kind == "font-damaged":
        return _inner(found.place.path, folder) in truth.refused
    if found.kind in ("characters-missing", "range-hides-characters") and page in opened:
        shown = {character for _, family, character in truth.elsewhere if family == found.family.casefold()}
        return all(chr(code) in shown for code in found.characters)
    if found.kind in ("family-not-linked", "family-undefined") and page in opened:
        return (page, found.family.casefold()) in truth.undefined
    return None


def _inner(path: str, folder: Path) -> str:
    return path.removeprefix(f"{folder}/")


def _missed(truth: Truth, findings: list[Finding], folder: Path) -> tuple[list[str], int]:
    """Failures of which no finding tells, and how many there are."""
    # Of the sources of a rule that are all missing one is named; text in its family is in another font, too.
    gone = {_stem(each.address) for each in findings if each.kind in ("font-missing", "sheet-missing")}
    gone |= {_stem(each.place.path) for each in findings if each.kind == "font-damaged"}
    without = {each.family.casefold() for each in findings if each.kind in ("font-missing", "font-damaged")}
    missed: list[str] = []
    # What is there below another folder is asked for from a root that is not this one.
    elsewhere = {address for address in truth.gone if any(folder.glob(f"*/{glob.escape(address)}"))}
    failures = sorted((truth.gone | truth.refused) - elsewhere)
    missed += [address for address in failures if _stem(address) not in gone]
    for page, family, character in sorted(truth.elsewhere):
        if family in without:
            continue
        failures.append(f"{page} {family} {character}")
        if not any(each.family.casefold() == family and ord(character) in each.characters for each in findings):
            missed.append(f"{page}: {family} {character!r}")
    for rule in _dead_rules(folder):
        failures.append(rule)
        if _stem(rule) not in gone:
            missed.append(rule)
    return missed, len(failures)


def _stem(address: str) -> str:
    name = unquote(address.partition("#")[0].partition("?")[0]).rpartition("/")[2]
    return name.rpartition(".")[0] or name


def main() -> int:
    """Check each folder, print its figures and what was wrong, and the sums."""
    sums: Counter[str] = Counter()
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path="/usr/bin/chromium")
        for folder in map(Path, sys.argv[1:]):
            try:
                site = read_site(SiteRequest((folder,), whole=True, sheets_alone=True))
            except AksaraError as error:
                print(f"{folder}: {error}")
                continue
            findings = list(check_site(site).findings)
            pages = [_inner(page.page, folder) for page in site.pages if not page.template]
            damaged = {_inner(each.place.path, folder) for each in findings if each.kind == "font-damaged"}
            truth = _truth(browser, folder, pages, damaged)
            print(f"{folder}: {len(pages)} pages, {len(findings)} findings", flush=True)
            for each in findings:
                verdict = _verdict(each, truth, folder, set(pages[:_PAGES]))
                word = {True: "true", False: "FALSE", None: "open"}[verdict]
                sums[f"{each.level} {word}"] += 1
                if verdict is False and each.level != "note":
                    print(f"  FALSE {each.level} {each.kind} {each.place}: {each.problem[:160]}")
                elif verdict is None and each.level != "note":
                    sums[f"open {each.kind}"] += 1
            missed, count = _missed(truth, findings, folder)
            sums["failures"] += count
            sums["missed"] += len(missed)
            for failure in missed[:12]:
                print(f"  MISSED {failure}")
        browser.close()
    for name, count in sorted(sums.items()):
        print(f"{name:40} {count:6,}")
    return 0


if __name__ == "__main__":
    sys.exit(main())

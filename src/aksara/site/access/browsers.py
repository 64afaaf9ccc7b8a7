"""Pages as their scripts make them: read in a browser that is installed, by its own computed styles.

Needs the package Playwright (the extra `browser`), which drives the browser. No browser is downloaded.
"""

from __future__ import annotations

import shutil
from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.errors import InputError, RequestError
from aksara.site.css.declarations import parse_declaration
from aksara.site.css.defined_faces import DefinedFace, defined_face
from aksara.site.css.face_rules import face_rules_in
from aksara.site.css.features import requested_features
from aksara.site.css.properties import LONGHANDS, Declared
from aksara.site.css.styles import FaceKey, Style
from aksara.site.page.face_text import best_sample
from aksara.site.usage import FaceUse, Origin, PageUse
from aksara.site.web_addresses import web_address
from aksara.sources import resolved
from aksara.text.neighbours import pairs_in
from aksara.text.sequences import sequences_in

#: Milliseconds that a page may take, and how long it must be quiet.
_MOST, _QUIET = 30_000, 500
_BROWSERS = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "microsoft-edge", "chrome")
_MAC = "/Applications/{0}.app/Contents/MacOS/{0}"
_PROPERTIES = tuple(name for name in LONGHANDS if name.startswith("font-"))

# One entry for each text, with the styles of the element or pseudo-element that it is in.
_SCRIPT = """
(names) => {
  const found = [];
  const styles = (style) => names.map((name) => style.getPropertyValue(name));
  const say = (element, style, text, hidden) => {
    if (text) found.push([styles(style), text, hidden, (element.closest('[lang]') || {lang: ''}).lang,
                          element.localName]);
  };
  const transformed = (text, how) => how.includes('uppercase') ? text.toLocaleUpperCase() :
    how.includes('lowercase') ? text.toLocaleLowerCase() :
    how.includes('capitalize') ? text.replace(/(^|\\s)(\\S)/g, (_, space, letter) => space + letter.toUpperCase()) :
    text;
  const visit = (element, hidden) => {
    const style = getComputedStyle(element);
    hidden = hidden || style.display === 'none';
    if (['script', 'style', 'noscript', 'template', 'title', 'head'].includes(element.localName)) return;
    for (const pseudo of ['::before', '::after', '::marker']) {
      const own = getComputedStyle(element, pseudo), content = own.content;
      if (pseudo === '::marker' && style.display !== 'list-item') continue;
      if (!content || content === 'none' || content === 'normal') continue;
      const text = [...content.matchAll(/"((?:[^"\\\\]|\\\\.)*)"/g)].map((match) => match[1]).join('');
      say(element, own, text, hidden);
    }
    if ('value' in element && typeof element.value === 'string' && ['input', 'textarea'].includes(element.localName)
        && !['hidden', 'checkbox', 'radio', 'password'].includes(element.type))
      say(element, style, element.value, hidden);
    if (element.placeholder) say(element, getComputedStyle(element, '::placeholder'), element.placeholder, hidden);
    if (element.alt) say(element, style, element.alt, hidden);
    for (const node of (element.shadowRoot || element).childNodes) {
      if (node.nodeType === 3) say(element, style, transformed(node.data, style.textTransform), hidden);
      if (node.nodeType === 1) visit(node, hidden);
    }
    if (element.shadowRoot) for (const node of element.children) visit(node, hidden);
  };
  visit(document.documentElement, false);
  const faces = [...document.fonts].map((face) =>
    [face.family, face.weight, face.style, face.stretch, face.unicodeRange]);
  return [found, faces];
}
"""


def read_in_browser(pages: Sequence[Path | str]) -> Iterator[PageUse]:
    """What pages (files or addresses) show after their scripts have run.

    Raises `RequestError` where the library is not installed, `InputError` where no browser is.
    """
    try:
        from playwright.sync_api import Error, sync_playwright
    except ImportError as error:
        raise RequestError(
            "reading pages in a browser needs one more package: pip install playwright",
            parameter="SiteRequest.browser",
        ) from error
    with sync_playwright() as driver:
        try:
            browser = driver.chromium.launch(executable_path=_installed())
        except Error as error:
            raise InputError(
                "the browser does not start; install Chromium or Chrome, or read pages without it"
            ) from error
        with browser:
            for page in pages:
                address = page if isinstance(page, str) else resolved(page).as_uri()
                name = web_address(page) if isinstance(page, str) else page.as_posix()
                tab = browser.new_page(viewport={"width": 1280, "height": 800})
                try:
                    tab.goto(address, timeout=_MOST, wait_until="load")
                    tab.wait_for_timeout(_QUIET)
                    texts, faces = tab.evaluate(_SCRIPT, list(_PROPERTIES))
                    yield _page_use(name, texts, list(_defined(faces, name)))
                except Error as error:
                    yield PageUse(name, (), problems=(f"the browser cannot read it ({error.message.splitlines()[0]})",))
                finally:
                    tab.close()


def _installed() -> str:
    """The browser's program. Raises `InputError` if none is installed."""
    for name in _BROWSERS:
        if found := shutil.which(name):
            return found
    for name in ("Google Chrome", "Chromium", "Microsoft Edge"):
        if Path(_MAC.format(name)).exists():
            return _MAC.format(name)
    raise InputError("no browser is found; install Chromium, Chrome or Edge, or read pages without one")


def _page_use(name: str, entries: Sequence[Any], defined: Sequence[DefinedFace]) -> PageUse:
    groups: dict[tuple[FaceKey, bool], _FaceTexts] = {}
    for values, text, hidden, language, element in entries:
        style = _style(tuple(values))
        group = groups.setdefault((style.face, bool(hidden)), _FaceTexts(str(element)))
        group.texts.setdefault(str(language), []).append(str(text))
        group.features |= requested_features(style, {})
    faces = tuple(
        use for (face, hidden), group in groups.items() if (use := group.use(face, name, hidden=hidden)).count
    )
    size = sum(use.count - use.characters.get(" ", 0) for use in faces if not use.hidden)
    return PageUse(name, faces, tuple(defined), size=size)


class _FaceTexts(Struct):
    """The texts of a face by their language, as a browser shows them; `element` is the first that asks for the face."""

    element: str
    texts: dict[str, list[str]] = field(default_factory=dict)
    features: set[str] = field(default_factory=set)

    def use(self, face: FaceKey, page: str, *, hidden: bool) -> FaceUse:
        """The page's text in this face."""
        counts: Counter[str] = Counter()
        languages: Counter[str] = Counter()
        every = [text for texts in self.texts.values() for text in texts]
        for language, texts in self.texts.items():
            for text in texts:
                drawn = " ".join(text.split())
                counts.update(drawn)
                languages[language] += len(drawn)
        samples = ((language, best_sample(self.texts[language])) for language, _ in languages.most_common())
        return FaceUse(
            face,
            hidden,
            counts,
            languages,
            tuple(sorted(self.features)),
            Origin(page, 0, self.element),
            neighbours=frozenset().union(*map(pairs_in, every)),
            sequences=sequences_in(every, words=False),
            samples=tuple((language, text) for language, text in samples if text),
        )


def _defined(faces: Sequence[Any], page: str) -> Iterator[DefinedFace]:
    """The faces that a page defines, as the browser lists them; it does not say where their fonts come from."""
    names = {str(family).strip("\"'") for family, *_ in faces}
    for family, weight, style, width, ranges in faces:
        name = str(family).strip("\"'")
        text = f'font-family: "{name}"; src: url(_); font-weight: {weight}; font-style: {style}; font-stretch: {width}'
        for rule in face_rules_in(f"@font-face {{ {text}; unicode-range: {ranges} }}", 0):
            if (face := defined_face(rule, page)) is None:
                continue
            # Fallback faces are named after the family that they stand in for, and rest on installed fonts.
            stands_in = any(name.startswith(f"{other} on ") for other in names)
            yield replace(face, local=stands_in, ranges=() if face.ranges == ((0, 0x10FFFF),) else face.ranges)


def _style(values: tuple[str, ...]) -> Style:
    """The style with these computed values."""
    declared: Declared = {}
    for property_name, text in zip(_PROPERTIES, values, strict=True):
        declared |= parse_declaration(property_name, text)
    return Style(tuple(declared.get(name, longhand.initial) for name, longhand in LONGHANDS.items()), {}, hidden=False)

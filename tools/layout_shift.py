"""How far pages move when their web fonts arrive: `python tools/layout_shift.py FONTS... -- PAGE...`.

Each page is set in each family (a folder of fonts, or a font), with a style sheet that `aksara build` makes for its
text, and opened in Chromium at three widths, on a system that has the Liberation fonts. The fonts are held back until
the page stands in the fallback fonts. What is printed is the layout shift that Chromium then measures (Layout
Instability API), and the bytes of CSS of the fallback faces.
"""

from __future__ import annotations

import functools
import http.server
import json
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Error, sync_playwright

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
from conftest import launch

VIEWPORTS = ((1280, 800), (820, 1180), (390, 844))
#: What a page may shift by, in the unit of the API.
_MUCH = 0.005
#: Icons are not text; all else is set in the family.
_SET_IN = (
    "*:not(i, svg, svg *, [class*=icon], [class*='fa-'], code, pre, kbd, samp) {{ font-family: var(--{}) !important }}"
)
_OPTIONS = ["--to", "type", "--format", "woff2", "--effort", "fast", "--exact"]
_WATCH = """window.shift = 0;
new PerformanceObserver(list => { for (const entry of list.getEntries()) window.shift += entry.value })
    .observe({type: 'layout-shift', buffered: true});"""
_LOADED = """() => [...document.fonts].filter(face => face.status == 'loaded').map(face => face.family)"""


class _HeldFonts(http.server.SimpleHTTPRequestHandler):
    released = threading.Event()

    def do_GET(self) -> None:
        if self.path.endswith(".woff2") and "/type/" in self.path:
            self.released.wait(30)
        super().do_GET()

    def log_message(self, format: str, *args: object) -> None:
        pass


@contextmanager
def _served(folder: Path) -> Iterator[str]:
    handler = functools.partial(_HeldFonts, directory=str(folder))
    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, args=(0.01,), daemon=True).start()
        yield f"http://127.0.0.1:{server.server_port}"
        server.shutdown()


def built(fonts: Path, page: Path, folder: Path) -> tuple[str, int]:
    """The page's folder copied into `folder`, the page set in the family; its name, and the bytes of fallback rules."""
    shutil.copytree(page.parent, folder, dirs_exist_ok=True, ignore=shutil.ignore_patterns("*.map", "*.mp4"))
    text = page.read_text(errors="replace")
    copy = folder / page.name
    sheet = "type/faces.css"
    # Once to know the name of the custom property, and once with the text that then asks for the family.
    style = ""
    for _ in range(2):
        copy.write_text(f'{text}<link rel="stylesheet" href="{sheet}"><style>{style}</style>')
        command = [sys.executable, "-m", "aksara", "-q", "build", fonts.resolve(), "--for-site", page.name, *_OPTIONS]
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
        if done.returncode > 1:
            raise RuntimeError(done.stderr)
        css = (folder / sheet).read_text()
        style = _SET_IN.format(re.findall(r"^  --([\w-]+):", css, re.M)[-1])
    rules = re.findall(r"@font-face {[^}]*size-adjust[^}]*}", css)
    return page.name, sum(map(len, rules))


def shift(browser: Browser, address: str, viewport: tuple[int, int]) -> float | None:
    """What the page shifts by; None if it was not set in a fallback face and then in the web font."""
    page = browser.new_page(viewport={"width": viewport[0], "height": viewport[1]})
    try:
        page.add_init_script(_WATCH)
        page.route("**/*", lambda route: route.continue_() if "127.0.0.1" in route.request.url else route.abort())
        _HeldFonts.released.clear()
        page.goto(address, wait_until="domcontentloaded")
        page.wait_for_timeout(900)
        before = page.evaluate(_LOADED)
        # Scripts of the page may have moved things: only what comes now counts.
        moved = page.evaluate("window.shift")
        _HeldFonts.released.set()
        page.evaluate("document.fonts.ready")
        page.wait_for_timeout(500)
        after = page.evaluate(_LOADED)
        if len(after) <= len(before) or not any(" on " in family for family in before):
            return None
        return float(page.evaluate("window.shift")) - moved
    except Error:
        return None
    finally:
        _HeldFonts.released.set()
        page.close()


def main() -> None:
    arguments = sys.argv[1:]
    divide = arguments.index("--")
    families, pages = map(Path, arguments[:divide]), [Path(path) for path in arguments[divide + 1 :]]
    views: list[dict[str, Any]] = []
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        for browser in launch(playwright, Path(folder), "liberation"):
            for fonts in families:
                for number, page in enumerate(pages):
                    place = Path(folder) / f"{fonts.stem}-{number}"
                    try:
                        name, rules = built(fonts, page, place)
                    except (RuntimeError, IndexError) as error:
                        print(f"{fonts.name} {page}: {str(error).strip()[:160]}", file=sys.stderr)
                        continue
                    with _served(place) as address:
                        for viewport in VIEWPORTS:
                            value = shift(browser, f"{address}/{name}", viewport)
                            views.append(
                                {
                                    "fonts": fonts.name,
                                    "page": str(page),
                                    "width": viewport[0],
                                    "shift": value,
                                    "css": rules,
                                }
                            )
                            print(json.dumps(views[-1]), flush=True)
                    shutil.rmtree(place)
    known = [view["shift"] for view in views if view["shift"] is not None]
    if known:
        print(
            f"{len(known)} of {len(views)} views: mean {statistics.mean(known):.5f}, most {max(known):.4f}, "
            f"{sum(value > _MUCH for value in known)} above {_MUCH}; "
            f"{statistics.mean(view['css'] for view in views):.0f} bytes of fallback rules"
        )


if __name__ == "__main__":
    main()

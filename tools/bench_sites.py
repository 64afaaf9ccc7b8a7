"""What reading a site takes, and what it saves; a part of `make bench`."""

from __future__ import annotations

import re
import tempfile
import time
from pathlib import Path

from aksara.demo import copy_demo
from aksara.pipeline import make_plan, run
from aksara.pipeline.characters import CharacterRequest
from aksara.project import PROJECT_NAME, read_project
from aksara.site import PageCache, SiteRequest, read_site
from aksara.site.tree import parse_html

PAGES, PAGE_SIZE, SHEET_SIZE = 120, 50_000, 200_000


def site_bytes() -> None:
    """The demo's families in WOFF2: whole, with all that the site shows in every face, and face by face."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "demo"
        copy_demo(folder)
        (request,) = read_project(folder / PROJECT_NAME)
        whole = run(make_plan(request.with_choices(characters=CharacterRequest(), formats=("woff2",))))
        shown = run(make_plan(request.with_choices(formats=("woff2",))))
        exact = CharacterRequest(pages=request.characters.pages, exact=True)
        only = run(make_plan(request.with_choices(characters=exact, formats=("woff2",))))
    print("\nBytes of the demo's families: whole, all that the site shows in every face, face by face, and no more")
    for family, used, least in zip(whole.families, shown.families, only.families, strict=True):
        sizes = [sum(web.best_size for web in each.faces) for each in (family, used, least)]
        together = used.used.together if used.used is not None else sizes[1]
        print(f"  {family.name:24} {sizes[0]:8,} {together:8,} {sizes[1]:8,} {sizes[2]:8,}")


def reading() -> None:
    """CPU time of a page of 50 KB with a style sheet of 200 KB, again and unchanged, over building its tree alone."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "site"
        copy_demo(Path(name) / "demo")
        folder.mkdir()
        source = Path(name) / "demo/site"
        page = (source / "islands.html").read_text()
        head, main, foot = re.split("<main[^>]*>|</main>", page)
        main *= max(1, (PAGE_SIZE - len(head) - len(foot)) // len(main))
        sheet = (source / "penyu.css").read_text()
        rules = "\n".join(
            re.sub(r"(?m)^(?=[a-z.])", f".theme{number} ", sheet) for number in range(SHEET_SIZE // len(sheet))
        )
        (folder / "penyu.css").write_text(sheet + rules)
        for number in range(PAGES):
            text = f"{head}<main>{main}<p>{number}</p></main>{foot}"
            (folder / f"{number}.html").write_text(text)
        start = time.process_time()
        for _ in range(PAGES):
            parse_html(text)
        tree = (time.process_time() - start) / PAGES
        store = Path(name) / "cache.json"
        again, unchanged = (_cpu(SiteRequest((folder,)), store) for _ in range(2))
    print(
        f"\nReading a page of {len(text) / 1000:.0f} KB, style sheet of {(len(sheet) + len(rules)) / 1000:.0f} KB "
        f"included: {1000 * again:.1f} ms of CPU (wanted: at most 60), {again / tree:.1f} times its "
        f"tree alone; unchanged: {1000 * unchanged:.2f} ms (wanted: at most 2)"
    )


def _cpu(request: SiteRequest, store: Path) -> float:
    start = time.process_time()
    read_site(request, PageCache(store))
    return (time.process_time() - start) / PAGES

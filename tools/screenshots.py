"""Take the pictures of docs/screenshots from the demo data: `make screenshots`.

Pages are shown by headless Chromium, commands in a terminal window under a virtual screen, both at 1280x800.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parent.parent
SHOTS = ROOT / "docs" / "screenshots"
DISPLAY = ":87"

# Picture → the command typed, in a folder that holds the demo as `penyu-ferries`; size of letters, columns, rows.
NORMAL, SMALL = ("11.5", 126, 42), ("9", 156, 53)
TERMINAL = {
    "build": ("cd penyu-ferries; aksara build --no-cache", NORMAL),
    "init": ("cd penyu-ferries; rm aksara.toml; aksara -q init fonts site; cat aksara.toml", NORMAL),
    "budget": ("aksara build penyu-ferries/fonts --for-language en,id,vi --budget '60 KB'", NORMAL),
    "variable": (
        "aksara build 'penyu-ferries/fonts/PenyuSans[slnt,wght].ttf' --for-language en --use 400 --use 700"
        " --to variable",
        NORMAL,
    ),
    "scan": ("cd penyu-ferries; aksara scan site", NORMAL),
    "inspect": ("aksara inspect penyu-ferries/fonts", NORMAL),
    "inspect-detail": ("aksara inspect penyu-ferries/fonts/PenyuSans-Regular.ttf --tables", SMALL),
    "check": ("cd penyu-ferries; aksara check", NORMAL),
    "languages": ("aksara --colour always languages penyu-ferries/fonts | head -42", SMALL),
}
# Picture → what is done to the demo first.
BROKEN = {
    "check": "cd penyu-ferries; mv site/type/fonts/PenyuSlab-Regular.*.woff2 site/;"
    " sed -i '/font-display/d' site/type/faces.css; sed -i 's#</h1>#: open ☂</h1>#' site/index.html;"
    " echo 'h2 { font-family: Penyu Slap, serif }' >> site/penyu.css",
}
# Picture → the page, and what is done on it first.
ON_PAGES = {
    "proof-variable": (
        "penyu-ferries/site/type/proof.html",
        "document.querySelector('.axes').closest('.card').scrollIntoView();"
        " [...document.querySelectorAll('.instances button')].find(b => b.textContent == 'Bold Oblique').click()",
    ),
    "proof-questions": (
        "penyu-ferries/site/type/proof.html",
        "document.getElementById('faked-2').scrollIntoView()",
    ),
    "demo-variable": ("penyu-ferries/site/index.html", "document.querySelector('.three').scrollIntoView()"),
}
PAGES = {
    "proof": "penyu-ferries/site/type/proof.html",
    "demo-home": "penyu-ferries/site/index.html",
    "demo-timetable": "penyu-ferries/site/timetable.html",
    "demo-booking": "penyu-ferries/site/booking.html",
}


def pages(folder: Path) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for name, path in PAGES.items():
            page.goto(f"file://{folder / path}")
            page.evaluate("document.fonts.ready")
            page.screenshot(path=SHOTS / f"{name}.png")
        for name, (path, script) in ON_PAGES.items():
            page.goto(f"file://{folder / path}")
            page.evaluate("document.fonts.ready")
            page.evaluate(script)
            page.screenshot(path=SHOTS / f"{name}.png")
        page.goto(f"file://{folder / 'trial.html'}")
        page.locator(".choice", has_text="Penyu Selat").click()
        page.wait_for_timeout(1000)
        page.screenshot(path=SHOTS / "trial.png")
        phone = browser.new_page(viewport={"width": 390, "height": 800}, color_scheme="dark")
        phone.goto(f"file://{folder / PAGES['proof']}")
        phone.evaluate("document.fonts.ready")
        phone.evaluate("document.getElementById('family-3').scrollIntoView()")
        phone.screenshot(path=SHOTS / "proof-phone.png")
        phone.close()
        # The same page as it is while the web fonts are on their way.
        page.route("**/fonts/*", lambda route: route.abort())
        page.goto(f"file://{folder / PAGES['demo-timetable']}")
        page.wait_for_timeout(500)
        page.screenshot(path=SHOTS / "demo-fallback.png")
        browser.close()


def terminal(folder: Path) -> None:
    screen = subprocess.Popen(["Xvfb", DISPLAY, "-screen", "0", "1280x800x24"], stderr=subprocess.DEVNULL)
    environment = os.environ | {"DISPLAY": DISPLAY, "PATH": f"{Path(sys.executable).parent}:{os.environ['PATH']}"}
    environment.pop("NO_COLOR", None)
    try:
        time.sleep(1)
        for name, (command, (size, columns, rows)) in TERMINAL.items():
            done = folder / f"{name}.done"
            subprocess.run(["sh", "-c", BROKEN.get(name, "")], cwd=folder, check=True)
            script = f"export COLUMNS={columns - 2}; printf '\\033[1;32m$\\033[0m %s\\n\\n' \"{command}\"; {command}"
            script += f"; touch {done}; sleep 60"
            window = subprocess.Popen(
                ["xterm", "-geometry", f"{columns}x{rows}+0+0", "-fa", "DejaVu Sans Mono", "-fs", size, "-b", "14",
                 "-bg", "#14191e", "-fg", "#e3e8ec", "+sb", "-e", "sh", "-c", script],
                cwd=folder, env=environment | {"TERM": "xterm-256color"}, stderr=subprocess.DEVNULL,
            )  # fmt: skip
            while not done.exists():
                time.sleep(0.1)
            time.sleep(0.8)
            subprocess.run(["scrot", "--overwrite", str(SHOTS / f"{name}.png")], env=environment, check=True)
            window.terminate()
            window.wait()
    finally:
        screen.terminate()


def main() -> None:
    SHOTS.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        program = Path(sys.executable).parent / "aksara"
        subprocess.run([str(program), "-q", "demo", "penyu-ferries"], cwd=folder, check=True)
        terminal(folder)
        subprocess.run([str(program), "-q", "demo", "penyu-ferries"], cwd=folder, check=True)
        trial = [
            "try",
            "fonts",
            "candidates",
            "--on",
            "site/index.html",
            "--to",
            str(folder / "trial.html"),
            "--no-open",
        ]
        subprocess.run([str(program), "-q", *trial], cwd=folder / "penyu-ferries", check=True)
        pages(folder)
    print(f"{len(list(SHOTS.glob('*.png')))} pictures in {SHOTS.relative_to(ROOT)}")


if __name__ == "__main__":
    main()

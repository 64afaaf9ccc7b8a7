"""The documents as a small site: `make docs` puts it into `site/`, which is not kept.

Pages are made of the Markdown by MkDocs with a theme of our own; their fonts, the made-up typefaces of the demo, by
Aksara, which then checks the site.
"""

from __future__ import annotations

import json
import logging
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from mkdocs.commands.build import build
from mkdocs.config import load_config

ROOT = Path(__file__).parent.parent
OUT = ROOT / "site"
#: Documents by what people want to do; what is not named here is not on the site.
CONTENTS = {
    "Start": {"Aksara": "index.md", "By task": "tasks.md", "Trying families": "trying.md"},
    "Your site": {
        "Reading sites": "reading-sites.md", "Checking": "checking.md", "Putting it in": "putting-in.md",
        "Fallback faces": "fallback-faces.md", "Slices": "slices.md", "Serving": "serving.md",
    },
    "With others": {
        "Recipes": "recipes/README.md", "Handing over": "handing-over.md", "Continuous integration": "ci.md",
        "Catalogues": "catalogues.md", "Safety": "safety.md",
    },
    "Reference": {
        "Project file": "project-file.md", "Formats": "formats.md", "Python API": "python-api.md",
        "Glossary": "glossary.md", "Changes": "changes.md",
    },
    "For contributors": {"Architecture": "architecture.md", "Contributing": "contributing.md"},
}  # fmt: skip


ABOVE = {
    "README.md": "index.md",
    "CHANGELOG.md": "changes.md",
    "LICENSE": "licence.md",
    "src/aksara/data/LICENCES.md": "licences-of-data.md",
}


def make_pages(out: Path) -> None:
    """The pages and the theme's style sheet, into that folder; a link that leads nowhere ends it with exit status 1."""
    with tempfile.TemporaryDirectory() as folder:
        stage = Path(folder) / "docs"
        shutil.copytree(ROOT / "docs", stage)
        # These stand one folder above the documents, or elsewhere.
        for source, name in ABOVE.items():
            text = (ROOT / source).read_text(encoding="utf-8")
            for other, own in ABOVE.items():
                text = text.replace(f"]({other})", f"]({own})")
            (stage / name).write_text(re.sub(r"\]\(docs/", "](", text), encoding="utf-8")
        settings = {
            "site_name": "Aksara",
            "docs_dir": str(stage),
            "site_dir": str(out),
            "theme": {"name": None, "custom_dir": str(ROOT / "tools/docs_site/theme")},
            "nav": [{group: [{title: path} for title, path in pages.items()]} for group, pages in CONTENTS.items()],
            "use_directory_urls": False,
            "plugins": [],
            "markdown_extensions": ["tables", "fenced_code", "toc"],
        }
        file = Path(folder) / "mkdocs.yml"
        # JSON is YAML, too.
        file.write_text(json.dumps(settings), encoding="utf-8")
        config = load_config(str(file), strict=True)
        build(config)


def main() -> None:
    logging.basicConfig(level=logging.WARNING, format="%(message)s")
    make_pages(OUT)
    drawn = ROOT / "src/aksara/demo/fonts"
    fonts = sorted(str(path) for pattern in ("PenyuSans-*", "PenyuSlab-*") for path in drawn.glob(pattern))
    for command in (
        ["build", *sorted(fonts), "--for-site", "site", "--to", "site/type", "--format", "woff2"],
        ["check", "site"],
    ):
        done = subprocess.run([sys.executable, "-m", "aksara", *command], cwd=ROOT, check=False)
        if done.returncode:
            sys.exit(done.returncode)


if __name__ == "__main__":
    main()

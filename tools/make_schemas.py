"""Write docs/aksara.schema.json, the JSON Schema of the project file, from the list of its keys: `make schemas`."""

from __future__ import annotations

import json
from pathlib import Path

from aksara.project import project_schema

PLACE = Path(__file__).resolve().parent.parent / "docs" / "aksara.schema.json"


if __name__ == "__main__":
    PLACE.write_text(json.dumps(project_schema(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")

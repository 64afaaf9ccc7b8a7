"""Write what in docs/ is made of the code's own tables: `make schemas`.

The package has the JSON Schema of the project file, docs/checking.md the kinds of findings.
"""

from __future__ import annotations

import json
from pathlib import Path

from aksara.checking.describing import with_tables
from aksara.project import project_schema
from aksara.project.schema import SCHEMA_FILE

DOCS = Path(__file__).resolve().parent.parent / "docs"


if __name__ == "__main__":
    schema = json.dumps(project_schema(), indent=1, ensure_ascii=False) + "\n"
    SCHEMA_FILE.write_text(schema, encoding="utf-8")
    checking = DOCS / "checking.md"
    checking.write_text(with_tables(checking.read_text(encoding="utf-8")), encoding="utf-8")

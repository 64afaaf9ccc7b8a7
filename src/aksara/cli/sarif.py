"""Findings in the form that code hosts show beside the lines they are about (SARIF 2.1.0, OASIS)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from aksara import __version__
from aksara.checking.findings import Finding
from aksara.checking.kinds import KINDS

_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"


def sarif_document(found: Sequence[Finding]) -> dict[str, Any]:
    """The findings of one run."""
    results = []
    for finding in found:
        region = {"region": {"startLine": finding.place.line}} if finding.place.line else {}
        location = {"physicalLocation": {"artifactLocation": {"uri": finding.place.path}, **region}}
        text = f"{finding.problem}. What readers see: {finding.effect}. What to do: {finding.remedy}."
        results.append(
            {
                "ruleId": finding.kind,
                "level": finding.level,
                "message": {"text": text},
                "locations": [location],
                "properties": finding.as_json(),
            }
        )
    rules = [
        {
            "id": kind,
            "shortDescription": {"text": KINDS[kind].what.replace("`", "")},
            "defaultConfiguration": {"level": KINDS[kind].level},
        }
        for kind in sorted({finding.kind for finding in found})
    ]
    driver = {"name": "Aksara", "version": __version__, "rules": rules}
    return {"$schema": _SCHEMA, "version": "2.1.0", "runs": [{"tool": {"driver": driver}, "results": results}]}

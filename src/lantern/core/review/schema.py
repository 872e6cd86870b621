"""The published JSON Schema (2020-12) of reports as JSON."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter

from lantern.core.review.records import PlanRecord, RunRecord, TrendRecord

ID = "https://lantern.example/report.schema.json"


def report_schema() -> dict[str, Any]:
    """Return the schema: a run, a run of a plan, or trends, as `records.plain` writes them."""
    made = TypeAdapter(RunRecord | PlanRecord | TrendRecord).json_schema(mode="serialization")
    step = made["$defs"]["StepRecord"]
    for name in ("picture", "then"):  # bytes are left out
        del step["properties"][name]
    for one in made["$defs"].values():
        one["additionalProperties"] = False
        one["required"] = list(one["properties"])
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": ID}
    return {**head, "title": "A report of Lantern", **made}

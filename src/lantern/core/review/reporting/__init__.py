"""Reports: what is told of a run, a run of a plan or of trends, as blocks that any format writes.

A template says which parts a report has. What a part says is said here once, for all formats.
"""

from __future__ import annotations

from lantern.core.review.records import PlanRecord, RunRecord, Told, TrendRecord
from lantern.core.review.reporting.blocks import Report
from lantern.core.review.reporting.plans import of_plan
from lantern.core.review.reporting.runs import of_run
from lantern.core.review.reporting.templates import TEMPLATES, Template, template
from lantern.core.review.reporting.trends import of_trends

__all__ = ["TEMPLATES", "Template", "of", "of_plan", "of_run", "of_trends", "template"]


def of(told: Told, parts: Template) -> Report:
    """Return the report of whatever is told."""
    match told:
        case RunRecord():
            return of_run(told, parts)
        case PlanRecord():
            return of_plan(told, parts)
        case TrendRecord():
            return of_trends(told, parts)

"""Designing rows: how many, and in how many seconds, by the shape of the inputs."""

from __future__ import annotations

import time

from bench._bench import report, say, sized
from lantern.core.data.variations.coverage import coverage
from lantern.core.data.variations.designing import design
from lantern.core.data.variations.plans import Plan

Shape = list[tuple[int, int]]
SHAPES: dict[str, tuple[Shape, int]] = {
    "3^4": ([(3, 4)], 2),
    "3^13": ([(3, 13)], 2),
    "4^15 3^17 2^29": ([(4, 15), (3, 17), (2, 29)], 2),
    "4^1 3^39 2^35": ([(4, 1), (3, 39), (2, 35)], 2),
    "3^10 triples": ([(3, 10)], 3),
    "4^10 triples": ([(4, 10)], 3),
    "2^100": ([(2, 100)], 2),
    "4^100": ([(4, 100)], 2),
    "10^20": ([(10, 20)], 2),
    "3^50": ([(3, 50)], 2),
}
"""Name -> ((values, how many inputs of so many), strength). A further shape is one entry."""

CONSTRAINED = (
    "if a0 = 0 then a1 != 0",
    "if a2 = 1 and a3 = 1 then a4 = 2",
    "a5 != a6 or a7 = 0",
    "not (a8 = 2 and a9 in (0, 1))",
)


def inputs(shape: Shape) -> dict[str, list[str]]:
    """Return inputs a0, a1, … of a shape."""
    sizes = [size for size, count in shape for _ in range(count)]
    return {f"a{n}": [str(value) for value in range(size)] for n, size in enumerate(sizes)}


def main() -> None:
    """Measure each shape once, and prove what it covers."""
    plans = {
        name: Plan.read({"inputs": inputs(shape)}, strength)
        for name, (shape, strength) in SHAPES.items()
    }
    plans["4^10 3^10, 4 constraints"] = Plan.read(
        {"inputs": inputs([(4, 10), (3, 10)]), "constraints": list(CONSTRAINED)}
    )
    figures: dict[str, float] = {}
    for name, plan in list(plans.items())[: sized(len(plans), 1)]:
        start = time.monotonic()
        rows = design(plan, seed=1)
        seconds = time.monotonic() - start
        told = coverage(plan, [row.values for row in rows])
        assert told.missing == 0, f"{name}: {told.missing} combinations are not covered"
        say(f"  {name}: {len(rows)} rows in {seconds:.2f} s; {told.covered} combinations")
        figures[f"rows {name}"] = len(rows)
        figures[f"seconds {name}"] = round(seconds, 2)
    report("variations", figures)


if __name__ == "__main__":
    main()

"""Arrays that algebra gives at once, where one fits; each entry of `CONSTRUCTIONS` is one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import combinations, product
from math import comb

import numpy as np

from lantern.core.data.variations.growing import Rows

_FIELDS = {2: (2, 1, ()), 3: (3, 1, ()), 4: (2, 2, (1, 1)), 5: (5, 1, ()), 7: (7, 1, ()),
           8: (2, 3, (1, 1, 0)), 9: (3, 2, (1, 0)), 11: (11, 1, ()), 13: (13, 1, ())}  # fmt: skip
"""Finite fields by size: the prime, the degree, and the lower coefficients of the polynomial."""


def _field(size: int) -> tuple[list[list[int]], list[list[int]]]:
    """Return the tables of addition and multiplication of a finite field."""
    prime, degree, lower = _FIELDS[size]

    def digits(number: int) -> list[int]:
        return [number // prime**place % prime for place in range(degree)]

    def number(figures: Sequence[int]) -> int:
        return sum(figure % prime * prime**place for place, figure in enumerate(figures))

    def times(a: int, b: int) -> int:
        whole = [0] * (2 * degree - 1)
        for i, one in enumerate(digits(a)):
            for j, other in enumerate(digits(b)):
                whole[i + j] += one * other
        for place in range(2 * degree - 2, degree - 1, -1):
            for j, coefficient in enumerate(lower):
                whole[place - degree + j] -= whole[place] * coefficient
        return number(whole[:degree])

    every = range(size)
    plus = [[number([x + y for x, y in zip(digits(a), digits(b), strict=True)]) for b in every]
            for a in every]  # fmt: skip
    return plus, [[times(a, b) for b in every] for a in every]


def orthogonal(levels: Sequence[int], strength: int) -> Rows | None:
    """Return an orthogonal array after Bush (1952): polynomials of degree < t over a field.

    It fits up to q + 1 inputs of at most q values, q a prime power; q**t rows. Inputs of fewer
    values take theirs in turn.
    """
    size = next((one for one in sorted(_FIELDS) if one >= max(levels)), 0)
    if not size or len(levels) > size + 1 or size**strength > 5000:
        return None
    plus, times = _field(size)
    rows = []
    for polynomial in product(range(size), repeat=strength):
        row = []
        for point in range(min(len(levels), size)):
            value = 0
            for coefficient in polynomial:
                value = plus[times[value][point]][coefficient]
            row.append(value)
        if len(levels) > size:
            row.append(polynomial[0])
        rows.append([value % level for value, level in zip(row, levels, strict=True)])
    return np.array(rows, np.int64)


def _rows_for(inputs: int) -> int:
    count = 4
    while comb(count - 1, count // 2 - 1) < inputs:
        count += 1
    return count


def fewest(levels: Sequence[int], strength: int) -> int:
    """Return a number of rows that no array for these inputs can undercut."""
    if strength == 2 and set(levels) == {2}:
        return _rows_for(len(levels))
    return int(np.prod(sorted(levels)[-strength:]))


def two_valued(levels: Sequence[int], strength: int) -> Rows | None:
    """Return the smallest array of pairs for two-valued inputs (Kleitman and Spencer, 1973).

    Each input is a different set of ⌊n/2⌋ of n rows, all of them holding the first row: two such
    sets never hold all rows together.
    """
    if strength != 2 or set(levels) != {2}:
        return None
    count = _rows_for(len(levels))
    chosen = combinations(range(1, count), count // 2 - 1)
    rows = np.zeros((count, len(levels)), np.int64)
    for column, those in zip(range(len(levels)), chosen, strict=False):
        rows[[0, *those], column] = 1
    return rows


CONSTRUCTIONS: tuple[Callable[[Sequence[int], int], Rows | None], ...] = (orthogonal, two_valued)

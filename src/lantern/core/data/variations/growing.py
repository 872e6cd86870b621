"""Growing a covering array column by column.

After Forbes, Lawrence, Lei, Kacker and Kuhn, “Refining the in-parameter-order strategy for
constructing covering arrays” (J. Res. NIST 113, 2008): the rows so far get the value of the next
column that covers most (horizontal growth, the best row first), and what is still missing goes
into open places or new rows (vertical growth). Constraints are asked before each value is set.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product

import numpy as np
from numpy.typing import NDArray

from lantern.core.data.variations.possible import OPEN, Possible

Rows = NDArray[np.int64]
Combination = tuple[int, ...]
"""Inputs of which every allowed tuple of values is to be covered."""


class _Column:
    """What the next column has to cover: the tuples it forms with sets of earlier columns.

    A tuple is a cell (which set, and its values in mixed radix) and a value of the column. The
    last cell stands for “not all values are known” and needs nothing.
    """

    def __init__(self, place: int, sets: Sequence[Combination], levels: Sequence[int]) -> None:
        self.place, self.levels = place, levels[place]
        self.sets = sets
        width = max(1, *map(len, sets))
        spare = len(levels)  # a column of zeros stands for "no further member"
        self.members = np.full((len(sets), width), spare)
        self.radix = np.zeros((len(sets), width), np.int64)
        self.start = np.zeros(len(sets), np.int64)
        total = 0
        for number, columns in enumerate(sets):
            size = 1
            for member in range(len(columns) - 1, -1, -1):
                self.members[number, member] = columns[member]
                self.radix[number, member] = size
                size *= levels[columns[member]]
            self.start[number] = total
            total += size
        self.nowhere = total
        self.open = np.ones((total + 1, self.levels), bool)
        self.open[total] = False
        self._all_levels = levels

    def cells(self, rows: Rows) -> Rows:
        """Return the cell of each set for each row."""
        values = rows[:, self.members]
        found: Rows = (values * self.radix).sum(2) + self.start
        found[(values < 0).any(2)] = self.nowhere
        return found

    def values_of(self, cell: int) -> list[tuple[int, int]]:
        """Return the (column, value) pairs that a cell stands for."""
        number = int(np.searchsorted(self.start, cell, side="right")) - 1
        rest = cell - int(self.start[number])
        return [
            (column, rest // int(self.radix[number, member]) % self._all_levels[column])
            for member, column in enumerate(self.sets[number])
        ]


class Growth:
    """One attempt: `order` is the order of the columns, `random` breaks ties.

    `fixed` are rows to begin with; their values stay, their open places are filled.
    """

    def __init__(
        self,
        levels: Sequence[int],
        order: Sequence[int],
        possible: Possible,
        random: np.random.Generator,
        fixed: Rows,
    ) -> None:
        self._order, self._random, self._possible = list(order), random, possible
        self._place = {column: place for place, column in enumerate(order)}
        self._levels = [levels[column] for column in order]
        self._asked = [self._place[column] for column in possible.inputs]
        self._constrained = frozenset(self._asked)
        self._fixed = fixed[:, self._order]
        self._rows = np.full((len(fixed), len(levels) + 1), OPEN, np.int64)
        self._rows[:, -1] = 0

    def grow(self, combinations: Sequence[Combination]) -> Rows:
        """Return rows that cover every allowed tuple of every combination; places may be OPEN."""
        ending: list[list[Combination]] = [[] for _ in self._levels]
        for combination in combinations:
            *before, last = sorted(self._place[column] for column in combination)
            ending[last].append(tuple(before))
        for place, sets in enumerate(ending):
            column = _Column(place, sets, self._levels) if sets else None
            self._take_fixed(place, column)
            if column is None:
                continue
            self._forbid(column)
            self._fill(column)
            self._add(column)
        back = np.argsort(self._order)
        return self._rows[:, :-1][:, back]

    def _take_fixed(self, place: int, column: _Column | None) -> None:
        given = self._fixed[:, place]
        for row in np.flatnonzero(given != OPEN):
            self._rows[row, place] = given[row]
        if column is None or not len(given):
            return
        cells = column.cells(self._rows)
        for row in np.flatnonzero(given != OPEN):
            column.open[cells[row], given[row]] = False

    def _allowed(self, row: Rows) -> bool:
        return self._possible.allows(tuple(row[self._asked].tolist()))

    def _forbid(self, column: _Column) -> None:
        """Take out the tuples that no row can have."""
        speaks = np.zeros(len(self._levels) + 1, bool)
        speaks[self._asked] = True
        asked = np.flatnonzero(speaks[column.members].any(1))
        if column.place in self._constrained:
            asked = np.arange(len(column.sets))
        blank = np.full(len(self._levels) + 1, OPEN, np.int64)
        for number in asked:
            start = column.start[number]
            end = column.nowhere if number + 1 == len(column.start) else column.start[number + 1]
            for cell, value in product(range(start, end), range(column.levels)):
                row = blank.copy()
                row[column.place] = value
                for member, its in column.values_of(cell):
                    row[member] = its
                if not self._allowed(row):
                    column.open[cell, value] = False

    def _fill(self, column: _Column) -> None:
        """Horizontal growth: the row and value that cover most, again and again."""
        rows = self._rows
        if not len(rows):
            return
        cells = column.cells(rows)
        gains = column.open[cells].sum(1).astype(np.int64)
        taken = rows[:, column.place] != OPEN
        gains[taken] = -1
        asks = column.place in self._constrained
        while (most := gains.max()) > 0:
            best = np.flatnonzero(gains == most)
            pick = best[self._random.integers(len(best))] if len(best) > 1 else best[0]
            row, value = divmod(int(pick), column.levels)
            rows[row, column.place] = value
            if asks and not self._allowed(rows[row]):
                rows[row, column.place] = OPEN
                gains[row, value] = -1
                continue
            column.open[cells[row], value] = False
            again = column.open[cells, value].sum(1)
            gains[:, value] = np.where(gains[:, value] >= 0, again, -1)
            gains[row] = -1

    def _add(self, column: _Column) -> None:
        """Vertical growth: what is still missing goes into open places, else into new rows."""
        missing = np.argwhere(column.open)
        self._random.shuffle(missing)
        for cell, value in missing:
            if not column.open[cell, value]:
                continue  # came with an earlier one
            wanted = [*column.values_of(int(cell)), (column.place, int(value))]
            row = self._home(wanted)
            column.open[column.cells(self._rows[row : row + 1])[0], value] = False

    def _home(self, wanted: list[tuple[int, int]]) -> int:
        """Return a row that has all the values now: one with open places, or a new one."""
        rows = self._rows
        fits = np.ones(len(rows), bool)
        alike = np.zeros(len(rows), np.int64)
        for place, value in wanted:
            there = rows[:, place]
            fits &= (there == value) | (there == OPEN)
            alike += there == value
        places, values = [place for place, _ in wanted], [value for _, value in wanted]
        asks = any(place in self._constrained for place in places)
        candidates = np.flatnonzero(fits)
        for row in candidates[np.argsort(-alike[candidates], kind="stable")]:
            before = rows[row].copy()
            rows[row, places] = values
            if not asks or self._allowed(rows[row]):
                return int(row)
            rows[row] = before
        fresh = np.full((1, rows.shape[1]), OPEN, np.int64)
        fresh[0, -1] = 0
        fresh[0, places] = values
        self._rows = np.vstack([rows, fresh])
        return len(rows)

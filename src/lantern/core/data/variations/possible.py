"""What constraints allow: whether a row, full or partial, can be completed, and to what.

Decided by a SAT solver: one variable a value of a constrained input, exactly one of them true,
and the constraints as clauses after Tseitin (1968), each switched on by a variable of its own so
that a clash can be named.
"""

from __future__ import annotations

from collections.abc import Sequence

from pysat.solvers import Minisat22

from lantern.core.data.variations.rules import Atom, Condition, Every, Not, Rule, Some

OPEN = -1
"""In a row: no value yet."""


class Possible:
    """Decides for inputs with `levels` numbers of values what `rules` allow."""

    def __init__(self, levels: Sequence[int], rules: Sequence[Rule]) -> None:
        self._rules = tuple(rules)
        self.inputs = tuple(sorted(frozenset[int]().union(*(rule.inputs() for rule in rules))))
        """The inputs that any constraint speaks of; all others are free."""
        self._top = 0
        self._values = {one: [self._fresh() for _ in range(levels[one])] for one in self.inputs}
        self._solver = Minisat22()
        self._known: dict[tuple[int, ...], bool] = {}
        for variables in self._values.values():
            self._exactly_one(variables)
        self._switches = [self._fresh() for _ in rules]
        for switch, rule in zip(self._switches, rules, strict=True):
            self._solver.add_clause([-switch, self._literal(rule.condition)])

    def _fresh(self) -> int:
        self._top += 1
        return self._top

    def _exactly_one(self, variables: Sequence[int]) -> None:
        self._solver.add_clause(list(variables))
        for place, one in enumerate(variables):
            for other in variables[place + 1 :]:
                self._solver.add_clause([-one, -other])

    def _literal(self, condition: Condition) -> int:
        """Return a variable that is true exactly when the condition holds."""
        match condition:
            case Not():
                return -self._literal(condition.part)
            case Every():
                return -self._any([-self._literal(part) for part in condition.parts])
            case Some():
                return self._any([self._literal(part) for part in condition.parts])
            case Atom() if len(condition.inputs) == 1:
                variables = self._values[condition.inputs[0]]
                return self._any([variables[place] for (place,) in sorted(condition.allowed)])
            case Atom():
                one, two = (self._values[put] for put in condition.inputs)
                pairs = sorted(condition.allowed)
                return self._any([-self._any([-one[a], -two[b]]) for a, b in pairs])

    def _any(self, literals: Sequence[int]) -> int:
        if len(literals) == 1:
            return literals[0]
        whole = self._fresh()
        self._solver.add_clause([-whole, *literals])
        for literal in literals:
            self._solver.add_clause([whole, -literal])
        return whole

    def __call__(self, row: Sequence[int]) -> bool:
        """Tell whether a row with OPEN places can be completed."""
        return self.allows(tuple(row[one] for one in self.inputs))

    def allows(self, values: tuple[int, ...]) -> bool:
        """Tell the same for the values of `inputs` alone, in their order."""
        known = self._known.get(values)
        if known is None:
            given = [
                self._values[one][value]
                for one, value in zip(self.inputs, values, strict=True)
                if value != OPEN
            ]
            known = not values or bool(self._solver.solve(self._switches + given))
            self._known[values] = known
        return known

    def _given(self, row: Sequence[int]) -> list[int]:
        return [self._values[one][row[one]] for one in self.inputs if row[one] != OPEN]

    def clash(self, row: Sequence[int] = ()) -> list[str]:
        """Return the texts of constraints that can not hold together with a row; [] if all can.

        No text can be left out: without any of them, the rest can be satisfied.
        """
        given = self._given(row) if row else []
        if self._solver.solve(self._switches + given):
            return []
        needed = list(self._switches)
        for switch in self._switches:
            fewer = [one for one in needed if one != switch]
            if not self._solver.solve(fewer + given):
                needed = fewer
        texts = {s: rule.text for s, rule in zip(self._switches, self._rules, strict=True)}
        return [texts[switch] for switch in needed]

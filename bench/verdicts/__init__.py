"""Planted faults of known kind: whether the verdicts on them are right."""

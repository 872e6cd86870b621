"""Designing variations: few rows that together try every allowed combination of values.

`plans` says what is asked for, `rules` reads constraints, `possible` decides what they allow,
`growing` and `arrays` make rows, `designing` puts them together, and `coverage` proves, on its
own, what a set of rows covers.
"""

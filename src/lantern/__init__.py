"""Lantern: record, feed, run and debug automated UI tests, and review what they found."""

__version__ = "0.2.0"

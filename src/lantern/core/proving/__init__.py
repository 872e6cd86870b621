"""Proving a recording: that playing it does to the pages what doing it did."""

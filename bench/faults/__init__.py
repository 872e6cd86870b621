"""Kills and outages, spread at random over every part of a Lantern, and what became of its work."""

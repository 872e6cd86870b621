"""The demo's tracker: a list and a form of items, in plain REST too, and it tells of changes."""

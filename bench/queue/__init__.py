"""The queue under load: many casts of a fake browser, some stations, and tries in between."""

"""A real browser behind the interface that the station drives."""

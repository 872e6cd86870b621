"""From raw page events to steps."""

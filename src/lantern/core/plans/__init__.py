"""Plans: what to run together, in which order, how long that takes, and what came of it."""

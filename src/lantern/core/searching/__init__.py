"""The search otherwise: why an element was not found, or could not be used, told from facts."""

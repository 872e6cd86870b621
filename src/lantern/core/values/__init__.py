"""Where a value comes from."""

"""Years of results, and ten people who look at them."""

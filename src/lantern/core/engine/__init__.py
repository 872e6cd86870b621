"""The interpreter of a test: a generator of requests that someone else answers."""

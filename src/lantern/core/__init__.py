"""The rules of the job: pure, without I/O, clock or randomness of its own."""

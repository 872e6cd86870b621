"""Acts of people: which of them can be taken back, and what taking one back comes to."""

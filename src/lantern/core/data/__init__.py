"""Tables of test data and the choice of rows."""

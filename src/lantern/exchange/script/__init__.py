"""A test as a Python script that pytest and Selenium run on their own."""

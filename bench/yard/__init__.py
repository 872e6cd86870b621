"""The yard: pages built with widely used interface libraries, and people who use them.

What is recorded of each story is played on a fresh page, and the page's states are compared.
"""

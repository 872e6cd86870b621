"""Blind spots: what of a page may change without any check of a test noticing.

`tree` reads a saved page as a tree and changes one thing of it, `changes` says which things may
change, `sight` tells by the facts which sentences of a test would notice, and `spots` puts it
together, with a share and with the check that each blind spot lacks.
"""

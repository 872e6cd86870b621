"""The client of pipelines: starts a run of a plan on a Lantern elsewhere, and follows it.

It needs Python and nothing else: it is one file when `./lantern client` has packed it.
"""

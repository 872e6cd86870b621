"""The sample project of a team at work: its tests, and sixty days of what came of them.

Everything in it was played on the Kiln Desk; what is loaded are dated copies of those plays.
"""

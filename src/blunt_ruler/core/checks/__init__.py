"""Checks on runs: each a small function that finds one thing, with its evidence and its remedy.

One run alone (`one_run`), a run among its repeats (`repeats`), and runs across rigs and cases
(`across`). A run that a check has explained is not reported again as an odd repeat.
"""

"""Runs: every pass with its trace and figures, importing logs, and deciding what counts."""

"""How a log or typed figures become a run: whose it is, and how it is trimmed.

Reading files is not done here; what a file said comes in as values.
"""

__all__ = [
    "bring_in",
    "changes",
    "completions",
    "entry",
    "import_runs",
    "import_scores",
    "matching",
    "parts_notation",
    "published",
    "read_again",
    "read_runs",
    "review_templates",
    "sampled",
    "score_parts",
    "trim_run",
    "typed_cells",
]

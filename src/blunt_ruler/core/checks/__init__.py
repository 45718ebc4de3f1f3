"""Checks on runs: each a small function that finds one thing, with evidence and remedy.

One run alone (`one_run`), weighed against the other passes (`sharing`), beside them window by
window (`passes`), among its repeats (`repeats`, by `consensus`), across rigs and cases (`across`).
"""

__all__ = [
    "across",
    "all",
    "answers",
    "by_eye",
    "consensus",
    "findings",
    "one_run",
    "passes",
    "registry",
    "repeats",
    "sharing",
    "told",
]

"""The bench plan: which passes are left, in what order, and how long they take.

Works on minutes and counts; it starts no run.
"""

__all__ = [
    "bench_order",
    "bench_plan",
    "matrix",
    "next_pass",
    "passes_taken",
    "plan_edits",
    "repeats_needed",
    "shorten",
    "shortest_tour",
    "timetable",
]

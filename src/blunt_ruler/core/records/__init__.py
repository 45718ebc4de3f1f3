"""What a logbook holds, as immutable records checked once when they are made.

Records name each other by id; nothing is worked out from them here.
"""

__all__ = [
    "alternatives",
    "bench_notes",
    "by_cell",
    "diary",
    "edits",
    "hardware",
    "narration_style",
    "plan_settings",
    "pricing",
    "rebase",
    "records",
    "review_edits",
    "roles",
    "severity",
    "soundness",
    "thresholds",
    "typed_figures",
    "writeup_settings",
]

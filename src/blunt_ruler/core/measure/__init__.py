"""What a trace shows: frame times, telemetry, trims, distributions and means.

Arrays in, figures out; knows no record and no rig.
"""

__all__ = [
    "compiled",
    "composite_score",
    "courses",
    "distribution",
    "frames",
    "held_rates",
    "kinds",
    "machine_samples",
    "means",
    "metrics",
    "moments",
    "profile",
    "reading",
    "resolution",
    "robust_line",
    "special",
    "telemetry",
    "trace_summary",
    "trimming",
]

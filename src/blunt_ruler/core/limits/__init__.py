"""What took the frames, and what another link, card or host would give.

`cells` gathers what was measured, `model` says how long a frame takes, `fit` finds the
unknowns; `split`, `whatif` and `next_measurement` ask the fit. Nothing here knows the simulated
bench.
"""

__all__ = [
    "cells",
    "evidence",
    "fit",
    "left_out",
    "link_curve",
    "memory",
    "misfit",
    "model",
    "next_measurement",
    "report",
    "solve",
    "split",
    "whatif",
    "words",
]

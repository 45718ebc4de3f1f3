"""Where every check draws its line: one place, shown, adjustable for each review.

The defaults were set on the simulated bench, so that sound runs stay silent; those marked so are
common practice in the trade, no source.
"""

from typing import Any

from pydantic import Field

from blunt_ruler.core.values import Value


def share(default: float, says: str) -> Any:
    """A share from 0 to 1 with what it decides; forms derive from it."""
    return Field(default, gt=0, le=1, description=says, json_schema_extra={"unit": "of 1"})


def amount_of(default: float, says: str, unit: str, most: float) -> Any:
    """A quantity with what it decides; forms derive from it."""
    return Field(default, gt=0, le=most, description=says, json_schema_extra={"unit": unit})


class Thresholds(Value):
    """The lines of a review's checks."""

    on_step: float = share(0.8, "seconds on one rate, on a refresh step or its half")
    on_any_step: float = share(0.94, "seconds on one rate, any rate")
    on_grid: float = share(0.9, "frames on multiples of a refresh")
    on_edge: float = share(0.07, "time on the fastest rate, and nothing faster")
    calm: float = share(0.55, "change from frame to frame there, against elsewhere")
    cut_s: float = amount_of(1.0, "menu or loading screen, from", "s", 60)
    freeze_s: float = amount_of(1.0, "one frame lasts: a freeze", "s", 60)
    early_stutters_per_min: float = amount_of(27.0, "first-pass stutter, from", "/min", 600)
    early_over_late: float = amount_of(1.25, "times the stutter of the rest", "×", 50)
    shortest_s: float = amount_of(20.0, "shortest valid run", "s", 3600)
    length: float = share(0.1, "shorter than the others of its cell: cut short")
    drift: float = share(0.05, "fall of the rate over a run or a bench day")
    clock_drift: float = share(0.04, "fall of the card's clock over a run")
    repeat_spreads: float = amount_of(4.5, "times the usual spread: a repeat disagrees", "×", 20)
    repeat_share: float = share(
        0.03, "and a repeat is off by at least"
    )  # common practice, no source
    encoder_busy: float = amount_of(5.0, "encoder busy: a recorder is on from", "%", 100)
    idle_card_busy: float = amount_of(10.0, "card busy: it idles below", "%", 100)
    power_reached: float = share(0.9, "of the board power counts as reached")
    memory_apart: float = share(0.2, "memory use differs between rigs, same settings")
    level: float = share(0.03, "rates within this are level")
    pairing: float = share(0.7, "alternation of frame times: generated frames")
    twins: float = share(0.7, "likeness inside groups of frames: generated frames")
    follows: float = share(0.4, "of the others' ups and downs are followed, at least")
    collapsed: float = share(0.72, "steadiness against other passes: a collapsed low")
    misfit: float = amount_of(3.0, "typed figure against its repeats", "×", 100)

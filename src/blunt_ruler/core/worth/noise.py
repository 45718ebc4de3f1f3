"""Sound levels: sums, distance and background.

Levels add as powers: L = 10·log₁₀ Σ 10^(Lᵢ/10), the usual sum of levels of sources that do not
keep step with one another (transcribed from memory of the standards on sound power, ISO 3744 and
its kin). Over distance a small source in the open falls by 20·log₁₀ of the ratio: 6 dB for each
doubling; a room gives back more, so levels moved over distance are estimates and said to be.
"""

import math
from collections.abc import Iterable

from blunt_ruler.core.errors import BadFigure

# Under 3 dB above the background a correction is larger than what it corrects (ISO 3744: 6 dB
# for a full survey, 3 dB at the least; from memory).
CLEAR_OF_BACKGROUND_DB = 3.0


def sum_levels(levels_db: Iterable[float]) -> float:
    """10·log₁₀ Σ 10^(Lᵢ/10): several sources together, dB.

    BadFigure for none or one that is not finite.
    """
    levels = list(levels_db)
    if not levels or not all(math.isfinite(level) for level in levels):
        raise BadFigure("noise", "there is no level to add", "Give levels in dB(A)")
    return 10.0 * math.log10(math.fsum(10.0 ** (level / 10.0) for level in levels))


def mean_level(levels_db: Iterable[float]) -> float:
    """10·log₁₀ (Σ 10^(Lᵢ/10) / n): levels over equal times as one, dB."""
    levels = list(levels_db)
    return sum_levels(levels) - 10.0 * math.log10(len(levels))


def at_distance(level_db: float, read_m: float, listener_m: float) -> float:
    """L − 20·log₁₀(d/d₀): a small source's level at another distance, dB, as if in the open."""
    if not (read_m > 0 and listener_m > 0):
        raise BadFigure("noise", "a distance is not above 0", "Give distances in metres")
    return level_db - 20.0 * math.log10(listener_m / read_m)


def without_background(level_db: float, background_db: float | None) -> float | None:
    """10·log₁₀ (10^(L/10) − 10^(B/10)): a level without the room's own, dB.

    None where it is not clear of it.
    """
    if background_db is None:
        return level_db
    if level_db - background_db < CLEAR_OF_BACKGROUND_DB:
        return None
    return 10.0 * math.log10(10.0 ** (level_db / 10.0) - 10.0 ** (background_db / 10.0))

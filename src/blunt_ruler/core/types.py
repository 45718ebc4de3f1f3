"""Types shared by the core, so that signatures read like their units."""

from collections.abc import Callable
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

FloatArray: TypeAlias = npt.NDArray[np.float64]
IntArray: TypeAlias = npt.NDArray[np.int_]
BoolArray: TypeAlias = npt.NDArray[np.bool_]
ByteArray: TypeAlias = npt.NDArray[np.uint8]

Progress: TypeAlias = Callable[[str, float], None]
"""Long work calls it as it goes: what is being done, in words that name no record of a user's,
and how far it is, 0 to 1. It may raise to stop the work."""


def no_progress(_words: str, _share: float) -> None:
    """Progress that nobody watches."""

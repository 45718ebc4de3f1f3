"""How frame times are spread: a histogram and the curve of percentiles."""

import numpy as np

from blunt_ruler.core.types import FloatArray

BINS = 120
CURVE_POINTS = 200


def histogram(frame_times_ms: FloatArray) -> tuple[FloatArray, FloatArray]:
    """(bin edges in ms, shape (b+1,); share of the time in each bin, shape (b,)).

    From the fastest frame to the 99.9th percentile; what is longer counts in the last bin.
    """
    top = float(np.quantile(frame_times_ms, 0.999))
    low = float(frame_times_ms.min())
    edges = np.linspace(low, max(top, low * 1.01), BINS + 1)
    shown = np.minimum(frame_times_ms, edges[-1])
    share, _ = np.histogram(shown, edges, weights=frame_times_ms)
    return edges, share / frame_times_ms.sum()


def percentile_curve(frame_times_ms: FloatArray) -> tuple[FloatArray, FloatArray]:
    """(share of frames that are faster, frame time in ms), both shape (k,), from a half up.

    The share runs close to 1 in even steps of −log₁₀(1 − share), where lows live.
    """
    most = np.log10(max(frame_times_ms.size, 10))
    share = 1.0 - 10.0 ** -np.linspace(np.log10(2.0), most, CURVE_POINTS)
    return share, np.quantile(frame_times_ms, share)

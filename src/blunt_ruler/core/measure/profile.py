"""The course of a pass in few numbers: what passes of one case are compared by.

A profile is the rate and the restlessness of short windows; a fingerprint is where the longest
frames stand. Both are kept as text with the run, so that comparing passes opens no trace.
"""

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from blunt_ruler.core.measure.frames import frame_ends_s
from blunt_ruler.core.measure.robust_line import medians_of
from blunt_ruler.core.types import FloatArray

WINDOW_S = 0.5
MOST_WINDOWS = 240
PEAKS = 40
THOUSAND = 1000.0
LOWEST_FPS = 0.05  # a window inside a freeze still has a logarithm
SAME_MS = 0.006  # logs that keep two digits agree within this
SAME_SHARE = 0.6
FEWEST_PEAKS = 12


class Profile(NamedTuple):
    """`log_rates` and `restless` (median change from frame to frame, log), shape (n,), in
    windows of `window_s`.
    """

    window_s: float
    log_rates: FloatArray
    restless: FloatArray


def profile_of(frame_times_ms: FloatArray) -> Profile:
    """The profile of a trace. Shape (n,), ms."""
    ends_s = frame_ends_s(frame_times_ms)
    window_s = max(WINDOW_S, float(ends_s[-1]) / MOST_WINDOWS)
    edges = np.arange(0.0, float(ends_s[-1]) + 1e-9, window_s)
    if edges.size < 3:
        return Profile(window_s, np.empty(0), np.empty(0))
    frames = np.interp(edges, np.append(0.0, ends_s), np.arange(frame_times_ms.size + 1.0))
    rates = np.log(np.maximum(np.diff(frames) / window_s, LOWEST_FPS))
    changes = np.abs(np.diff(np.log(frame_times_ms)))
    cuts = np.searchsorted(ends_s[1:], edges)
    starts, ends = cuts[:-1], cuts[1:]
    full = ends > starts
    restless = np.zeros(starts.size)
    if full.any():
        restless[full] = medians_of(changes[cuts[0] : cuts[-1]], starts[full] - cuts[0])
    return Profile(window_s, rates, restless)


def profile_text(profile: Profile) -> str:
    """A profile as text: the window, then thousandths in 16 bits each."""
    rows = np.concatenate([profile.log_rates, profile.restless]) * THOUSAND
    whole = np.clip(np.round(rows), -32767, 32767).astype("<i2")
    return _text(np.float32(profile.window_s).tobytes() + whole.tobytes())


ALPHABET = b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz!#$%&()*+-;<=>?@^_`{|}~"
NO_DIGIT = 85
DIGITS = np.full(256, NO_DIGIT, np.uint64)
DIGITS[np.frombuffer(ALPHABET, np.uint8)] = np.arange(NO_DIGIT)
PLACES = np.array([85**4, 85**3, 85**2, 85, 1], np.uint64)


def _text(raw: bytes) -> str:
    """Bytes as text: base64.b85encode, which takes a step for each letter, at once."""
    short = -len(raw) % 4
    values = np.frombuffer(raw + b"\0" * short, ">u4").astype(np.uint64)
    letters = np.frombuffer(ALPHABET, np.uint8)[values[:, None] // PLACES % 85]
    return bytes(letters)[: letters.size - short].decode("ascii")


def _raw(text: str) -> bytes:
    """What `_text` made text of: base64.b85decode, which takes a step for each letter, at once.

    ValueError for what is no such text.
    """
    short = -len(text) % 5
    digits = DIGITS[np.frombuffer((text + "~" * short).encode("latin-1"), np.uint8)]
    values = digits.reshape(-1, 5) @ PLACES
    if values.size and (digits.max() == NO_DIGIT or values.max() >= 2**32):
        raise ValueError("this is no text that bytes were kept as")
    return values.astype(">u4").tobytes()[: values.size * 4 - short]


@lru_cache(maxsize=512)
def profile_from(text: str) -> Profile | None:
    """The profile that was kept; None where a run has none."""
    raw = _raw(text)
    if len(raw) < 8:
        return None
    whole = np.frombuffer(raw, "<i2", offset=4) / THOUSAND
    window_s = round(float(np.frombuffer(raw, "<f4", count=1)[0]), 6)
    return Profile(window_s, whole[: whole.size // 2], whole[whole.size // 2 :])


def peaks_text(frame_times_ms: FloatArray) -> str:
    """Where the longest frames stand and how long they last, microseconds, as text."""
    count = min(PEAKS, frame_times_ms.size)
    at = np.sort(np.argpartition(frame_times_ms, -count)[-count:])
    lasting = np.minimum(np.round(frame_times_ms[at] * THOUSAND), 2**31 - 1)
    return _text(np.concatenate([at, lasting]).astype("<i4").tobytes())


@lru_cache(maxsize=2048)
def _peaks(text: str) -> tuple[np.ndarray, FloatArray, float]:
    """(places, lengths in ms, the last digit these were kept with) of a fingerprint."""
    whole = np.frombuffer(_raw(text), "<i4").astype(np.int64)
    half = whole.size // 2
    lasting = whole[half:] / THOUSAND
    return whole[:half], lasting, _last_digit(lasting)


def same_recording(one: str, other: str) -> bool:
    """Whether two fingerprints are of one recording, re-saved, rounded or cut at its ends.

    The longest frames then stand in the same places from one another and last as long; of two
    real passes nearly none do.
    """
    if not one or not other:
        return False
    at, lasting, digit = _peaks(one)
    other_at, other_lasting, other_digit = _peaks(other)
    if min(at.size, other_at.size) < FEWEST_PEAKS:
        return False
    # Logs of whole or tenths of milliseconds agree within half of their last digit.
    digit = max(digit, other_digit)
    alike = np.abs(lasting[:, None] - other_lasting[None, :]) <= max(SAME_MS, 0.51 * digit)
    lags = (at[:, None] - other_at[None, :])[alike]
    if lags.size == 0:
        return False
    _, counts = np.unique(lags, return_counts=True)
    # Peaks of the part that only one of them holds can have no partner.
    return bool(counts.max() >= max(FEWEST_PEAKS, SAME_SHARE * min(at.size, other_at.size)))


def places(text: str) -> list[tuple[int, int, int]]:
    """How far apart four neighbouring peaks stand, for each four: equal in two fingerprints of
    one recording, wherever it was cut.
    """
    gaps = np.diff(_peaks(text)[0]).tolist() if text else []
    return list(zip(gaps, gaps[1:], gaps[2:], strict=False))


def grain_ms(frame_times_ms: FloatArray) -> float:
    """The last digit that a log keeps, ms: 1, 0.1 or 0.01; 0 where it is finer."""
    return _last_digit(frame_times_ms[: PEAKS * 10])


def _last_digit(values_ms: FloatArray) -> float:
    for digit in (1.0, 0.1, 0.01):
        if np.all(np.abs(values_ms / digit - np.round(values_ms / digit)) < 1e-6):
            return digit
    return 0.0

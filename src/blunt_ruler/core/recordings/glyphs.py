"""The digits of one overlay, learned from readings that agree: a second opinion on every reading.

Each character is a patch of so many pixels around where the recogniser saw it. Of every kind the
mean and the variance of each pixel are kept: pixels of the letters vary little, those of the scene
behind much. A patch is then the kind under which it is likeliest (Gaussian, pixels independent).
Places beside the figure are learned too, as blank, so that a digit left out or made up is noticed.
"""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from blunt_ruler.core.types import ByteArray, FloatArray

BLANK = " "
HEIGHT = 32  # pixels to which crops are brought: the recogniser's steps are then five of them wide
WIDTH = 14
SHIFTS = range(-5, 6)  # pixels by which a character may stand beside where it was seen
FEWEST = 6  # examples that make a kind
MOST = 60  # examples of a kind that are learned from
ROUGH = 14.0  # levels of brightness by which compression moves a pixel, at least
# By which the log of the likelihood, a pixel, must be better to object. Of 3,954 digits and blanks
# of 22 made-up overlays that were read rightly, 1 in 250 would be objected to.
MARGIN, MARGIN_OF_BLANKS = 0.35, 0.5


@dataclass(frozen=True, slots=True)
class Example:
    """A crop of a box, shape (h, w, 3), and the characters read in it with their centres.

    Centres are shares of the width.
    """

    crop: ByteArray
    text: str
    centres: tuple[float, ...]


class Glyphs:
    """The kinds of characters of one box."""

    def __init__(self, examples: Iterable[Example]) -> None:
        patches: dict[str, list[FloatArray]] = defaultdict(list)
        for example in examples:
            wanted = [one for one in _places(example) if len(patches[one[0]]) < MOST]
            if not wanted:
                continue
            crop = _brought_to_size(example.crop)
            for kind, centre in wanted:
                patches[kind].append(_wide(crop, centre))
        learned = {
            kind: _learned(np.stack([_shifted(one) for one in own]), aligned=kind != BLANK)
            for kind, own in patches.items()
            if len(own) >= FEWEST
        }
        self._kinds = tuple(learned)
        self._fits = _Fits(list(learned.values())) if learned else None

    def knows(self, text: str) -> bool:
        """Whether every digit of a text has been learned."""
        return bool(self._kinds) and all(one in self._kinds for one in text if one.isdigit())

    def objects_to(self, example: Example) -> bool:
        """Whether another digit, or none, is clearly likelier somewhere than what was read."""
        crop = _brought_to_size(example.crop)
        return any(self._objects(crop, kind, at) for kind, at in _places(example))

    def agrees_with(self, example: Example) -> bool:
        """Whether every digit is known and none would be anything else."""
        crop = _brought_to_size(example.crop)
        digits = [(kind, at) for kind, at in _places(example) if kind.isdigit()]
        if not digits or not self.knows(example.text):
            return False
        scores = [(kind, self._scores(crop, at)) for kind, at in digits]
        return all(max(told, key=lambda one: told[one]) == kind for kind, told in scores)

    def _objects(self, crop: FloatArray, kind: str, centre: float) -> bool:
        if kind not in self._kinds:
            return False
        scores = self._scores(crop, centre)
        best = max(scores, key=lambda one: scores[one])
        margin = MARGIN_OF_BLANKS if BLANK in (kind, best) else MARGIN
        return scores[best] - scores[kind] > margin

    def _scores(self, crop: FloatArray, centre: float) -> dict[str, float]:
        """For each kind the log of the likelihood, a pixel, of the place where it fits best."""
        assert self._fits is not None, "asked before anything was learned"
        best = self._fits.of(_shifted(_wide(crop, centre))).max(axis=0)
        return dict(zip(self._kinds, best.tolist(), strict=True))


def _brought_to_size(crop: ByteArray) -> FloatArray:
    """A crop of `HEIGHT` pixels, its width in proportion, linearly; shape (HEIGHT, w, 3)."""
    height, width = crop.shape[:2]
    wide = max(round(width * HEIGHT / height), 2)
    found = crop.astype(np.float64)
    for axis, size in ((0, HEIGHT), (1, wide)):
        places = np.clip((np.arange(size) + 0.5) * found.shape[axis] / size - 0.5, 0, None)
        low = np.minimum(places.astype(int), found.shape[axis] - 1)
        high = np.minimum(low + 1, found.shape[axis] - 1)
        part = (places - low).reshape((-1, 1, 1) if axis == 0 else (1, -1, 1))
        found = np.take(found, low, axis) * (1 - part) + np.take(found, high, axis) * part
    return found


def _wide(crop: FloatArray, centre: float) -> FloatArray:
    """The patch around a place with room for shifts, the edge repeated beyond the crop."""
    half = WIDTH // 2 + max(SHIFTS)
    middle = round(centre * crop.shape[1])
    columns = np.clip(np.arange(middle - half, middle + half), 0, crop.shape[1] - 1)
    return crop[:, columns]


def _shifted(wide: FloatArray) -> FloatArray:
    """A patch at each of the shifts, its points in a row; shape (11, points)."""
    starts = (max(SHIFTS) + shift for shift in SHIFTS)
    return np.stack([wide[:, start : start + WIDTH].ravel() for start in starts])


def _learned(shifted: FloatArray, *, aligned: bool) -> tuple[FloatArray, FloatArray]:
    """Mean and variance of each point of some patches, each shifted to where it fits best.

    `shifted` are the patches at every shift, shape (n, 11, points).
    """
    every = np.arange(len(shifted))
    best = np.full(len(shifted), SHIFTS.index(0))
    for _ in range(4 if aligned else 1):
        own = shifted[every, best]
        mean, variance = own.mean(axis=0), own.var(axis=0) + ROUGH**2
        if aligned:
            best = _Fits([(mean, variance)]).of(shifted)[..., 0].argmax(axis=1)
    return mean, variance


class _Fits:
    """The log of the likelihood of patches under some kinds, for each point of a patch.

    −½ Σ ((x − m)²/v + ln v) / points, multiplied out, so that it is two products of matrices.
    """

    def __init__(self, kinds: Sequence[tuple[FloatArray, FloatArray]]) -> None:
        means, variances = (np.stack(one).T for one in zip(*kinds, strict=True))
        self._weights, self._pulls = 1.0 / variances, means / variances
        self._alone = (means**2 / variances + np.log(variances)).sum(axis=0)

    def of(self, patches: FloatArray) -> FloatArray:
        """Shape (…, kinds) of patches of shape (…, points)."""
        moved = patches**2 @ self._weights - 2.0 * patches @ self._pulls + self._alone
        return np.asarray(-0.5 * moved / patches.shape[-1])


def _places(example: Example) -> list[tuple[str, float]]:
    """The digits of an example with where they stand, and the blank places beside its figure."""
    signs = [
        (sign, at)
        for sign, at in zip(example.text, example.centres, strict=False)
        if not sign.isspace()
    ]
    digits = [(sign, at) for sign, at in signs if sign.isdigit()]
    if len(digits) < 1:
        return []
    share = example.crop.shape[0] / example.crop.shape[1]
    advance = (digits[-1][1] - digits[0][1]) / (len(digits) - 1) if len(digits) > 1 else 0.4 * share
    before, after = digits[0][1] - advance, digits[-1][1] + advance
    blanks = [
        (BLANK, at)
        for at in (before, after)
        if 0.1 * share < at < 1.0 - 0.1 * share
        and all(abs(at - other) > 0.8 * advance for _, other in signs)
    ]
    return [*digits, *blanks]

"""Kinds of figures, how a figure was read, bounds, what a figure can be instead of one, and the
schools of means.

Apart from the values that hold them, for the window names kinds before it needs any figure.
"""

from collections.abc import Iterable
from enum import StrEnum


class Kind(StrEnum):
    """How a figure was read, the surest first."""

    LOG = "log"
    RECORDING = "recording"
    SAMPLES = "samples"
    SUMMARY = "summary"
    PUBLISHED = "published"
    STATED = "stated"
    EYE = "eye"
    RANGE = "range"
    ABOUT = "about"
    AT_LEAST = "at_least"
    AT_MOST = "at_most"


COUNTED = frozenset(
    {Kind.LOG, Kind.RECORDING, Kind.SAMPLES, Kind.SUMMARY}
)  # what a machine wrote down

KIND_WORDS = {
    Kind.LOG: "from a log",
    Kind.RECORDING: "read from a recording",
    Kind.SAMPLES: "samples of a counter",
    Kind.SUMMARY: "benchmark summary",
    Kind.PUBLISHED: "published by others",
    Kind.STATED: "known as a percentage",
    Kind.EYE: "by eye",
    Kind.RANGE: "seen between",
    Kind.ABOUT: "about, ± 5 % assumed",
    Kind.AT_LEAST: "at least",
    Kind.AT_MOST: "at most",
}


class Bound(StrEnum):
    """Whether a figure is one, or what the true one is above or below; OPEN is neither."""

    POINT = "point"
    AT_LEAST = "at least"
    AT_MOST = "at most"
    OPEN = "open"

    def turned(self) -> "Bound":
        """The same of what one divides by, or of what one lacks."""
        return {Bound.AT_LEAST: Bound.AT_MOST, Bound.AT_MOST: Bound.AT_LEAST}.get(self, self)

    def and_(self, other: "Bound") -> "Bound":
        """Of a sum, a product or a mean of two: both at least, or both at most, else open."""
        if Bound.POINT in (self, other):
            return other if self is Bound.POINT else self
        return self if self is other else Bound.OPEN


def bound_of(kinds: Iterable[Kind]) -> Bound:
    """What a mean of figures of some kinds is."""
    bound = Bound.POINT
    for kind in kinds:
        if kind is Kind.AT_LEAST:
            bound = bound.and_(Bound.AT_LEAST)
        elif kind is Kind.AT_MOST:
            bound = bound.and_(Bound.AT_MOST)
    return bound


AT_CAP = 0.97  # of a case's frame cap: a rate from there on is held by it


def under_cap(bound: Bound, rate_fps: float | None, cap_fps: float | None) -> Bound:
    """What a rate is under a frame cap."""
    held = cap_fps is not None and rate_fps is not None and rate_fps >= AT_CAP * cap_fps
    return Bound.AT_LEAST if held and bound is Bound.POINT else bound


def least_sure(kinds: Iterable[Kind]) -> Kind:
    """The kind that says how sure a mean of several is."""
    return max(kinds, key=list(Kind).index, default=Kind.LOG)


class MeanSchool(StrEnum):
    """How ratios of several cases become one."""

    GEOMETRIC = "geometric"
    RATE = "rate"
    PERCENT = "percent"
    HARMONIC = "harmonic"


MEAN_WORDS = {
    MeanSchool.GEOMETRIC: "geometric mean of ratios",
    MeanSchool.RATE: "ratio of arithmetic mean rates",
    MeanSchool.PERCENT: "mean of percentages",
    MeanSchool.HARMONIC: "ratio of harmonic mean rates",
}

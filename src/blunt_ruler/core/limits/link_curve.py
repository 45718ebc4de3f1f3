"""Frames against link: the curve of one card on one host, with the measured rigs as points.

The curve is the model's geometric mean over the cases that every rig with the card has, at widths
from one lane of generation 3 to sixteen of generation 5; its band is 80 %. A rig that lies under it
by more than both leave open is named: another host is slower, or the link is not what it says.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeAlias

import numpy as np

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.limits.cells import NO_LINK_GB_PER_S, Cell, FittedLink
from blunt_ruler.core.limits.fit import Z_80, Fit
from blunt_ruler.core.limits.model import jacobian, link_slope, log_rate, times_of
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.links import UsualLink, usual_links
from blunt_ruler.core.text import amount, list_text, percent_text
from blunt_ruler.core.types import FloatArray

NARROWEST, WIDEST, STEPS = 0.7, 56.0, 57  # GB/s, widths of the curve
DRAWS = 200  # curves that the data leave open
SURE = 1.25  # ends of a span so near one another are one width
PAYS = 0.03  # a doubling that gives less is not worth a wider link
ASKED = "asked for"
LATENCY_MS = 0.02


Span: TypeAlias = tuple[float, float]  # GB/s


@dataclass(frozen=True, slots=True)
class LinkPoint:
    """One measured rig on the curve's cases: its width, its mean rate with 95 % bounds, what the
    curve has there, and what the model has for the rig itself, with its delay and its screen path.
    `low_1_fps` is the mean of its 1 % lows, None where a case has none.
    """

    rig_id: str
    name: str
    gb_per_s: float
    fps: float
    low: float
    high: float
    curve_fps: float
    curve_low: float
    path_fps: float
    path_low: float
    other_host: bool
    measured_link: bool
    low_1_fps: float | None = None

    @property
    def is_below(self) -> bool:
        """Whether it lies under the curve by more than both leave open."""
        return self.high < self.curve_low

    @property
    def is_explained(self) -> bool:
        """Whether the model finds it where it stands: host, delay and screen path are enough."""
        return self.high >= self.path_low


@dataclass(frozen=True, slots=True)
class Doubling:
    """What twice the width gives: from and to in GB/s, and the share gained."""

    start: float
    end: float
    gain: float


@dataclass(frozen=True, slots=True)
class LinkCurve:
    """The curve of a card: widths in GB/s, rates and bounds in fps, shape (n,) each.

    `half_gb_per_s` is the width at which half of what the widest gives over the narrowest measured
    one is reached; `knee_gb_per_s` the one beyond which a doubling gives under 3 %. None where the
    curve has no such place. The spans are where 80 % of the curves that the data leave open have
    theirs, infinite where they have none.
    """

    card_id: str
    card: str
    host: str
    over: str
    case_ids: tuple[str, ...]
    gb_per_s: FloatArray
    fps: FloatArray
    low: FloatArray
    high: FloatArray
    points: tuple[LinkPoint, ...]
    half_gb_per_s: float | None
    knee_gb_per_s: float | None
    half_span: Span
    knee_span: Span
    doublings: tuple[Doubling, ...]

    @property
    def told(self) -> dict[str, float]:
        """The widths with a mark of their own, where the data tell them apart from others."""
        places = {
            "half": (self.half_gb_per_s, self.half_span),
            "enough": (self.knee_gb_per_s, self.knee_span),
        }
        return {
            name: width
            for name, (width, (low, high)) in places.items()
            if width is not None and high <= SURE**2 * low
        }

    def kept(self, gb_per_s: float) -> float:
        """Share of the rate at the widest link that a width keeps."""
        return _at(self.gb_per_s, self.fps, gb_per_s) / float(self.fps[-1])


def cards_of(fit: Fit, contents: Contents) -> tuple[str, ...]:
    """Cards that were measured behind a link, the most measured first."""
    counts: dict[str, int] = {}
    for cell in fit.measured.cells:
        if fit.measured.links[cell.link].gb_per_s < NO_LINK_GB_PER_S:
            counts[cell.card] = counts.get(cell.card, 0) + 1
    built_in = {key for key, card in contents.cards.items() if card.built_in}
    return tuple(sorted((key for key in counts if key not in built_in), key=lambda k: -counts[k]))


def first_curve(contents: Contents, board: Board, fit: Fit | None) -> LinkCurve | None:
    """The curve of the card most measured behind links, over all titles; None where there is none.

    A card that was measured on one width alone has no curve to show.
    """
    for card_id in cards_of(fit, contents) if fit else ():
        curve = link_curve(contents, board, fit, card_id) if fit else None
        if curve is not None and len({one.gb_per_s for one in curve.points}) > 1:
            return curve
    return None


def link_curve(
    contents: Contents, board: Board, fit: Fit, card_id: str, title: str = ""
) -> LinkCurve | None:
    """The curve of a card over the cases that all its rigs share, or over those of one title.

    None where no case is shared.
    """
    cells = [cell for cell in fit.measured.cells if cell.card == card_id]
    if title:
        titles = {row.case_id for row in board.rows if row.title == title}
        cells = [cell for cell in cells if cell.case in titles]
    by_rig: dict[str, dict[str, Cell]] = {}
    for cell in cells:
        by_rig.setdefault(cell.rig, {})[cell.case] = cell
    every = dict.fromkeys(cell.case for cell in cells)
    shared = [key for key in every if all(key in of for of in by_rig.values())]
    if not shared:
        return None
    hosts = [next(iter(of.values())).host for of in by_rig.values()]
    host = max(dict.fromkeys(hosts), key=hosts.count)
    own = next(of for of, one in zip(by_rig.values(), hosts, strict=True) if one == host)
    base = [replace(own[key], sent_back_mb=0.0) for key in shared]
    widths = np.geomspace(NARROWEST, WIDEST, STEPS)
    asked = _means_at(fit, base, widths)
    fps, low, high = (np.exp(one) for one in (asked.middle, asked.low, asked.high))
    drawn = np.exp(asked.drawn(fit))
    points = tuple(
        _point(contents, board, fit, rig_id, [of[key] for key in shared], base, host)
        for rig_id, of in by_rig.items()
    )
    points = tuple(sorted(points, key=lambda one: one.gb_per_s))
    narrowest = points[0].gb_per_s
    return LinkCurve(
        card_id=card_id,
        card=contents.cards[card_id].name,
        host=contents.hosts[host].name,
        over=title or "all titles",
        case_ids=tuple(shared),
        gb_per_s=widths,
        fps=fps,
        low=low,
        high=high,
        points=points,
        half_gb_per_s=_half(widths, fps, narrowest),
        knee_gb_per_s=_knee(widths, fps),
        half_span=_span([_half(widths, one, narrowest) for one in drawn]),
        knee_span=_span([_knee(widths, one) for one in drawn]),
        doublings=_doublings(widths, fps),
    )


@dataclass(frozen=True, slots=True)
class _Means:
    """Mean log rates with 80 % bounds, shape (n,), and how they answer to the unknowns (n, k)."""

    middle: FloatArray
    slope: FloatArray
    half: FloatArray

    @property
    def low(self) -> FloatArray:
        return self.middle - self.half

    @property
    def high(self) -> FloatArray:
        return self.middle + self.half

    def drawn(self, fit: Fit) -> FloatArray:
        """Means that the data leave open, seeded, shape (DRAWS, n)."""
        return np.asarray(self.middle + fit.drawn(DRAWS) @ self.slope.T)


def _means_at(fit: Fit, cells: Sequence[Cell], widths: FloatArray) -> _Means:
    """Means over some cells through links of widths."""
    names = [f"{ASKED} {place}" for place in range(len(widths))]
    links = {
        name: FittedLink(name, float(width), 0.0, LATENCY_MS)
        for name, width in zip(names, widths, strict=True)
    }
    asked = [replace(one, link=name) for name in links for one in cells]
    return _means(fit, asked, links, len(cells))


def _means(fit: Fit, cells: Sequence[Cell], links: Mapping[str, FittedLink], each: int) -> _Means:
    """Means over every `each` of some cells as they are."""
    places = fit.places_for(cells, links)
    times = times_of(fit.x, places)
    middle = log_rate(fit.x, places, times).reshape(-1, each).mean(axis=1)
    model = fit.off_by(link_slope(times)).reshape(-1, each).mean(axis=1) / each
    slope = jacobian(fit.x, places).reshape(-1, each, fit.layout.size).mean(axis=1)
    variance = np.sum((slope @ fit.covariance) * slope, axis=1) + model
    return _Means(middle, slope, Z_80 * np.sqrt(variance))


def _mean_at(fit: Fit, cells: Sequence[Cell], gb_per_s: float) -> tuple[float, float, float]:
    found = _means_at(fit, cells, np.array([gb_per_s]))
    return float(found.middle[0]), float(found.low[0]), float(found.high[0])


def _point(
    contents: Contents,
    board: Board,
    fit: Fit,
    rig_id: str,
    cells: Sequence[Cell],
    base: Sequence[Cell],
    host: str,
) -> LinkPoint:
    link = fit.measured.links[cells[0].link]
    logs = np.log([cell.average_fps for cell in cells])
    halves, lows = [], []
    for cell in cells:
        shown = board.cells[rig_id, cell.case]
        lows += [shown.low_1_fps] if shown.low_1_fps else []
        low, high = shown.rate_low, shown.rate_high
        halves.append(math.log(high / low) / 2 if low and high else 2 * cell.spread)
    half = math.sqrt(math.fsum(one**2 for one in halves)) / len(halves)
    at, curve_low, _ = _mean_at(fit, base, link.gb_per_s)
    path = _means(fit, cells, {}, len(cells))
    # What nobody measured of the link leaves the width itself open.
    places = fit.places_for([replace(base[0], link=ASKED)], {ASKED: replace(link, name=ASKED)})
    felt = float(np.abs(link_slope(times_of(fit.x, places))).mean()) * link.spread
    middle = float(logs.mean())
    return LinkPoint(
        rig_id=rig_id,
        name=contents.rigs[rig_id].name,
        gb_per_s=link.gb_per_s,
        fps=math.exp(middle),
        low=math.exp(middle - half),
        high=math.exp(middle + half),
        curve_fps=math.exp(at),
        curve_low=math.exp(curve_low - felt),
        path_fps=math.exp(path.middle[0]),
        path_low=math.exp(path.low[0] - felt),
        other_host=cells[0].host != host,
        measured_link=contents.rigs[rig_id].measured_gb_per_s is not None,
        low_1_fps=float(np.exp(np.mean(np.log(lows)))) if len(lows) == len(cells) else None,
    )


def _at(widths: FloatArray, fps: FloatArray, width: float) -> float:
    return float(np.interp(math.log(width), np.log(widths), fps))


def _half(widths: FloatArray, fps: FloatArray, narrowest: float) -> float | None:
    """Where half of what the widest link gives over the narrowest measured one is reached."""
    start, end = _at(widths, fps, narrowest), float(fps[-1])
    if end < start * (1.0 + PAYS):
        return None
    return math.exp(float(np.interp((start + end) / 2.0, fps, np.log(widths))))


def _knee(widths: FloatArray, fps: FloatArray) -> float | None:
    """The narrowest width from which no doubling gives 3 % any more."""
    logs = np.log(widths)
    starts = widths[2.0 * widths <= widths[-1]]
    gains = np.interp(np.log(2.0 * starts), logs, fps) / fps[: starts.size] - 1.0
    pays = np.flatnonzero(gains >= PAYS)
    first = int(pays[-1]) + 1 if pays.size else 0
    return float(starts[first]) if first < starts.size else None


def _span(places: Sequence[float | None]) -> Span:
    """Where 80 % of some places lie, infinite for those that are none."""
    every = np.sort([math.inf if one is None else one for one in places])
    low, high = every[round(0.1 * (every.size - 1))], every[round(0.9 * (every.size - 1))]
    return float(low), float(high)


def _doublings(widths: FloatArray, fps: FloatArray) -> tuple[Doubling, ...]:
    found = []
    width = 1.0
    while 2 * width <= widths[-1]:
        gained = _at(widths, fps, 2 * width) / _at(widths, fps, width) - 1.0
        found.append(Doubling(width, 2 * width, gained))
        width *= 2
    return tuple(found)


# Words


def marks() -> tuple[UsualLink, ...]:
    """Links by lanes and generation that the rule is graduated in, by what they move."""
    return tuple(sorted(usual_links(), key=lambda one: one.gb_per_s))


def usual_name(gb_per_s: float) -> str:
    """The narrowest usual link that moves as much: "PCIe 4.0 x4"; blank beyond the widest."""
    return next((one.name for one in marks() if one.gb_per_s >= gb_per_s * 0.97), "")


def curve_line(curve: LinkCurve) -> str:
    """How many lanes a card needs, and which rig is worse than its lanes."""
    said = []
    low, _ = curve.knee_span
    if (ends := knee_ends(curve)) is not None:
        enough = f"{_knee_words(*ends)}{_predicted(curve)}"
        said.append(f"The {curve.card} needs {enough}: twice as much gives under 3\u202f%")
    elif math.isinf(low):
        said.append(f"The {curve.card} gains from every doubling of its link up to 5.0 x16")
    else:
        least = amount(low, "GB/s", 1)
        said.append(f"How wide a link the {curve.card} needs is open: {least} or more")
    below = [one for one in curve.points if one.is_below]
    if "half" in curve.told:
        half = amount(curve.told["half"], "GB/s", 1)
        said.append(f"{half} would win back half of what its width costs {curve.points[0].name}")
    if below:
        names = list_text([one.name for one in below])
        verb = "lies" if len(below) == 1 else "lie"
        whole = all(one.is_explained for one in below)
        why = ", as host, delay and screen path explain" if whole else ""
        said.append(f"{names} {verb} below the curve{why}")
    return f"{'. '.join(said)}."


def knee_ends(curve: LinkCurve) -> Span | None:
    """From where to where the width that is enough may lie, one width where the data tell it; None
    where it may lie beyond every link.
    """
    low, high = curve.knee_span
    if curve.knee_gb_per_s is None or math.isinf(high):
        return None
    known = curve.told.get("enough")
    return (low, high) if known is None else (known, known)


def _knee_words(low: float, high: float) -> str:
    if high > low:
        return f"{low:.1f} to {amount(high, 'GB/s', 1)}"
    enough = amount(low, "GB/s", 1)
    return f"{enough} ({usual_name(low) or enough})"


def _predicted(curve: LinkCurve) -> str:
    """Blank where a knee lies between measured rigs; else that nobody measured there."""
    widths = [one.gb_per_s for one in curve.points]
    knee = curve.knee_gb_per_s
    if knee is None or min(widths) <= knee <= max(widths):
        return ""
    return ", predicted outside what was measured"


def below_words(point: LinkPoint, curve: LinkCurve) -> str:
    """Why a rig may lie under the curve, and the check that would settle it."""
    short = percent_text(1.0 - point.fps / point.curve_fps)
    said = f"{point.name} gives {short} less than the {curve.card} would at its width"
    if point.is_explained:
        short = percent_text(1.0 - point.path_fps / point.curve_fps)
        return (
            f"{said}. Its lanes are not to blame: by the model its host, the delay of its link and "
            f"its screen path take {short}."
        )
    if point.other_host:
        return f"{said}: its host is another one. Take the same card on the same host."
    if not point.measured_link:
        return f"{said}: its link was never measured. Play or import a bus sweep on the Bench."
    return (
        f"{said}: a fault or another path. Read the negotiated lanes under load, and set the "
        "picture's way and the power mode side by side."
    )


def doubling_words(curve: LinkCurve) -> tuple[str, ...]:
    """What each further doubling gives."""
    return tuple(
        f"{one.start:g} → {amount(one.end, 'GB/s')}: "
        f"{percent_text(one.gain, signed=True, decimals=1)}"
        for one in curve.doublings
    )

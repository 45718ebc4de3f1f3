"""Frames against link: the curve of one card on one host, with the measured rigs as points.

The curve is the model's geometric mean over the cases that every rig with the card has, at widths
from one lane of generation 3 to sixteen of generation 5; its band is 80 %. A rig that lies under it
by more than both leave open is named: another host is slower, or the link is not what it says.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

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
PAYS = 0.03  # a doubling that gives less is not worth a wider link
ASKED = "asked for"
LATENCY_MS = 0.02


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
    curve has no such place.
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
    doublings: tuple[Doubling, ...]

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
    fps, low, high = (np.exp(one) for one in _means_at(fit, base, widths))
    points = tuple(
        _point(contents, board, fit, rig_id, [of[key] for key in shared], base, host)
        for rig_id, of in by_rig.items()
    )
    points = tuple(sorted(points, key=lambda one: one.gb_per_s))
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
        half_gb_per_s=_half(widths, fps, min(one.gb_per_s for one in points)),
        knee_gb_per_s=_knee(widths, fps),
        doublings=_doublings(widths, fps),
    )


def _means_at(
    fit: Fit, cells: Sequence[Cell], widths: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """(mean log rate, lower, upper) over some cells through links of widths, 80 %; shape (n,)."""
    names = [f"{ASKED} {place}" for place in range(len(widths))]
    links = {
        name: FittedLink(name, float(width), 0.0, LATENCY_MS)
        for name, width in zip(names, widths, strict=True)
    }
    asked = [replace(one, link=name) for name in links for one in cells]
    return _means(fit, asked, links, len(cells))


def _means(
    fit: Fit, cells: Sequence[Cell], links: Mapping[str, FittedLink], each: int
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """(mean log rate, lower, upper) over every `each` of some cells as they are, 80 %."""
    places = fit.places_for(cells, links)
    middle = log_rate(fit.x, places).reshape(-1, each).mean(axis=1)
    slope = jacobian(fit.x, places).reshape(-1, each, fit.layout.size).mean(axis=1)
    variance = np.sum((slope @ fit.covariance) * slope, axis=1) + fit.scatter**2 / each
    half = Z_80 * np.sqrt(variance)
    return middle, middle - half, middle + half


def _mean_at(fit: Fit, cells: Sequence[Cell], gb_per_s: float) -> tuple[float, float, float]:
    middle, low, high = _means_at(fit, cells, np.array([gb_per_s]))
    return float(middle[0]), float(low[0]), float(high[0])


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
    path, path_low, _ = _means(fit, cells, {}, len(cells))
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
        path_fps=math.exp(path[0]),
        path_low=math.exp(path_low[0] - felt),
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
    found = None
    for width in widths[::-1]:
        if width * 2 > widths[-1]:
            continue
        if _at(widths, fps, 2 * width) / _at(widths, fps, width) - 1.0 >= PAYS:
            break
        found = float(width)
    return found


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
    if curve.knee_gb_per_s is not None:
        wide = usual_name(curve.knee_gb_per_s) or amount(curve.knee_gb_per_s, "GB/s", 1)
        enough = amount(curve.knee_gb_per_s, "GB/s", 1)
        enough = f"{enough} ({wide}){_predicted(curve)}"
        said.append(f"The {curve.card} needs {enough}: twice as much gives under 3\u202f%")
    else:
        said.append(f"The {curve.card} gains from every doubling of its link up to 5.0 x16")
    below = [one for one in curve.points if one.is_below]
    if curve.half_gb_per_s is not None and curve.points:
        half = amount(curve.half_gb_per_s, "GB/s", 1)
        said.append(f"{half} would win back half of what its width costs {curve.points[0].name}")
    if below:
        names = list_text([one.name for one in below])
        verb = "lies" if len(below) == 1 else "lie"
        whole = all(one.is_explained for one in below)
        why = ", as host, delay and screen path explain" if whole else ""
        said.append(f"{names} {verb} below the curve{why}")
    return f"{'. '.join(said)}."


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

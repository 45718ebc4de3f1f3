"""What the fit is given: one row for each sound cell, with the parts it was measured on."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.lenses import by_eye
from blunt_ruler.core.compare.cell_parts import CellParts
from blunt_ruler.core.compare.comparability import Standing
from blunt_ruler.core.compare.results import CaseResult
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.reading import NORMAL
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.hardware import Link, Rig, ScreenPath
from blunt_ruler.core.records.records import Case, Contents, Role, Title
from blunt_ruler.core.rigs.links import has_tunnel, link_gb_per_s, link_width
from blunt_ruler.core.types import FloatArray

NO_LINK_GB_PER_S = 1e6  # built-in graphics: nothing crosses a link
MEASURED_SPREAD = 0.03  # of a bandwidth that was measured
DESCRIBED_SPREAD = 0.35  # of one that is only described: practice ranges are this wide
TUNNEL_LATENCY_MS = 0.09
SLOT_LATENCY_MS = 0.02  # both common practice, no source; weakly felt by the fit
SENT_BACK_MB_PER_MPX = 4.0
ASSUMED_SPREAD = 0.02
NO_RESULT = ("No limits yet", "there is no valid result", "Take runs of one title on two rigs")
DESCRIBE = "Describe host, card, link"


class TooLittle(UserFixable):
    """Data that cannot tell the limits apart."""


@dataclass(frozen=True, slots=True)
class FittedLink:
    """A link as the fit sees it: what it moves, how sure that is, and its latency."""

    name: str
    gb_per_s: float
    spread: float
    latency_ms: float


@dataclass(frozen=True, slots=True)
class Cell:
    """One case on one rig: its rate, how sure it is, and what it was measured on.

    `family` is the case without its resolution. `sent_back_mb` is what the picture adds for
    each frame where it goes back over the link. `time` names an earlier time it was measured at,
    since when title and driver may have changed; blank for now. `noise` is the part of the spread
    that repeats and reading have shown: 0 where it was only assumed.
    """

    rig: str
    case: str
    family: str
    megapixels: float
    host: str
    card: str
    link: str
    average_fps: float
    spread: float
    sent_back_mb: float = 0.0
    time: str = ""
    noise: float = 0.0


@dataclass(frozen=True, slots=True)
class Measured:
    """The cells of a review, the links they use, and the reference host and card whose speed is 1.

    `beside` are cells of `reviews` other reviews, which the fit learns from and nothing is said of.
    `watts` is the board power of the cards.
    """

    cells: tuple[Cell, ...]
    links: Mapping[str, FittedLink]
    host: str
    card: str
    card_guess: Mapping[str, float]
    watts: Mapping[str, float] = field(default_factory=dict)
    beside: tuple[Cell, ...] = ()
    reviews: int = 0

    @property
    def every(self) -> tuple[Cell, ...]:
        """All that the fit learns from: the review's own cells first."""
        return (*self.cells, *self.beside)

    def families(self) -> tuple[str, ...]:
        """Families of the review, in the order they first appear."""
        return tuple(dict.fromkeys(cell.family for cell in self.cells))

    def without(self, keep: Sequence[bool]) -> "Measured":
        """Only those of the review's cells that are to be kept."""
        cells = tuple(cell for cell, stays in zip(self.cells, keep, strict=True) if stays)
        return replace(self, cells=cells)

    def alone(self) -> "Measured":
        """Without what other reviews know."""
        return replace(self, beside=(), reviews=0)

    def log_rates(self) -> FloatArray:
        """Log of the measured rates, shape (n,)."""
        return np.log([cell.average_fps for cell in self.cells])


def family_of(title: Title, case: Case) -> str:
    """A case without its resolution, in words."""
    rest = (case.scene, case.preset, case.ray_tracing, case.upscaler)
    return " / ".join(part for part in (title.name, *rest) if part)


def _link_name(contents: Contents, link: Link) -> str:
    """What tells a link apart: its name, with its width where another of that name has another."""
    alike = {link_gb_per_s(one) for one in contents.links.values() if one.name == link.name}
    width = link_gb_per_s(link)
    return link.name if len(alike) == 1 or width is None else f"{link.name}, {width:.2f}\u202fGB/s"


def fitted_link_of(contents: Contents, rig: Rig) -> FittedLink:
    """The link of a rig: measured bandwidth where there is one, else as described."""
    card, link = contents.card_of(rig.id), contents.link_of(rig.id)
    if card is not None and card.built_in:
        return FittedLink("no link", NO_LINK_GB_PER_S, 0.01, 0.0)
    tunnel = link is not None and has_tunnel(link)
    latency = TUNNEL_LATENCY_MS if tunnel else SLOT_LATENCY_MS
    name = _link_name(contents, link) if link else rig.name
    if rig.measured_gb_per_s:
        return FittedLink(name, rig.measured_gb_per_s, MEASURED_SPREAD, latency)
    described = link_width(link)
    if described is None and link is None:
        where, what = f"rig {rig.name}", "it has no link"
        raise TooLittle(where, what, "Choose one, or mark its card as built in")
    if described is None:
        raise TooLittle(
            f"link of {rig.name}", "its bandwidth is not known", "Describe its hops, or measure it"
        )
    # A range that nobody narrowed is as likely here as there; its half stands for one deviation.
    spread = math.hypot(DESCRIBED_SPREAD, math.log(described.most / described.least) / 2.0)
    return FittedLink(name, described.middle, spread, latency)


@dataclass(frozen=True, slots=True)
class Found:
    """What a Board has for the fit: cells, the links they use, the board power of the cards."""

    cells: tuple[Cell, ...] = ()
    links: Mapping[str, FittedLink] = field(default_factory=dict)
    watts: Mapping[str, float] = field(default_factory=dict)

    def joined(self, other: "Found") -> "Found":
        """Both together; of a link that both know the surer."""
        links = dict(self.links)
        for name, link in other.links.items():
            if name not in links or link.spread < links[name].spread:
                links[name] = link
        return Found((*self.cells, *other.cells), links, {**self.watts, **other.watts})


def found_in(contents: Contents, board: Board, handover: Handover, strict: bool = True) -> Found:
    """The clean cells of a Board that are figures, not bounds, with a resolution and a rig that is
    described. A link whose bandwidth nobody knows raises TooLittle, or its rig is passed over.
    """
    links: dict[str, FittedLink] = {}
    reads = {}
    watts: dict[str, float] = {}
    for column in board.columns:
        rig = contents.rigs.get(column.rig_id)
        if rig is None or not rig.host_id or not rig.card_id:
            continue
        try:
            link = fitted_link_of(contents, rig)
        except TooLittle:
            if strict:
                raise
            continue
        known = links.get(link.name)
        if known is None or link.spread < known.spread:
            links[link.name] = link
        card = contents.cards[rig.card_id]
        if card.board_power_w:
            watts[card.id] = card.board_power_w * (0.5 if card.built_in else 1.0)
        of_rig = board.parts.get(rig.id, {})
        for row in board.rows:
            parts, case = of_rig.get(row.case_id), contents.cases[row.case_id]
            standing = board.standings.get((rig.id, row.case_id))
            if parts is None or (standing and standing.worst is not Standing.CLEAN):
                continue
            # Of figures that eyes read the cell says how far they leave the rate open.
            seen = board.cells[rig.id, row.case_id] if by_eye(parts.kinds) else None
            title = contents.titles[case.title_id]
            reads[rig.id, case.id] = rig, case, title, link.name, parts, seen
    made = handover.of_cells(
        ("fit cell", board.review.id), reads, lambda cell: _cell_of(*reads[cell])
    )
    return Found(tuple(cell for cell in made.values() if cell is not None), links, watts)


def _cell_of(
    rig: Rig,
    case: Case,
    title: Title,
    link: str,
    parts: CellParts,
    seen: CaseResult | None,
) -> Cell | None:
    """A cell for the fit; None for one that is a bound, or of no known size."""
    mpx = megapixels(case.resolution)
    if mpx is None or parts.bound is not Bound.POINT:
        return None
    spread = parts.spread if parts.spread is not None else ASSUMED_SPREAD
    spread = max(spread, 0.005) / math.sqrt(parts.runs)
    read = _read_spread(seen) if seen is not None else 0.0
    return Cell(
        rig=rig.id,
        case=case.id,
        family=family_of(title, case),
        megapixels=mpx,
        host=rig.host_id or "",
        card=rig.card_id or "",
        link=link,
        average_fps=parts.average_fps,
        spread=math.hypot(spread, read),
        noise=math.hypot(spread if parts.spread is not None else 0.0, read),
        sent_back_mb=SENT_BACK_MB_PER_MPX * mpx if rig.screen_path is ScreenPath.SENT_BACK else 0.0,
    )


def speed_guess(watts: Mapping[str, float], own: float) -> dict[str, float]:
    """How fast cards may be against one of so many watts: common practice, no source."""
    return {card: (power / own) ** 0.8 for card, power in watts.items()}


def measured_of(contents: Contents, board: Board, handover: Handover | None = None) -> Measured:
    """What a Board has for the fit.

    The reference's host and card are the yardsticks; without a reference those of the first rig.
    """
    found = found_in(contents, board, handover or Handover())
    watts = found.watts
    reference = contents.rigs.get(board.review.rig_in(Role.REFERENCE) or "")
    first = next((contents.rigs[cell.rig] for cell in found.cells), None)
    yard = reference if reference is not None and reference.card_id in watts else first
    if yard is None or yard.host_id is None or yard.card_id is None:
        if not board.cells:
            raise TooLittle(*NO_RESULT)
        raise TooLittle("No limits yet", "no valid result has a described rig", DESCRIBE)
    guess = speed_guess(watts, watts.get(yard.card_id, 1.0))
    return Measured(found.cells, found.links, yard.host_id, yard.card_id, guess, watts)


def _read_spread(cell: CaseResult) -> float:
    """How far the reading itself leaves a rate open: the deviation of its log."""
    if cell.rate_low is None or cell.rate_high is None:
        return 0.0
    return math.log(cell.rate_high / cell.rate_low) / (2.0 * NORMAL)


def check_enough(measured: Measured) -> None:
    """Raise TooLittle where the data say nothing of the parts, with what would."""
    cells = measured.cells
    if not cells:
        raise TooLittle(*NO_RESULT)
    rigs = {cell.rig for cell in cells}
    if len(rigs) < 2:
        raise TooLittle(
            "No limits yet",
            "all cells are of one rig, so card, CPU and link look alike",
            f"Take {cells[0].family} on another link, and on a rig with another card",
        )
    on = {(cell.family, cell.rig) for cell in cells}
    if len(on) == len({family for family, _ in on}):
        raise TooLittle(
            "No limits yet",
            "no title was taken on two rigs",
            f"Take {cells[0].family} on one more rig",
        )

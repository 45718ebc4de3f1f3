"""What telemetry says of a cell's limit, beside the fit and not part of it.

Each rule is one line of `RULES`: when it speaks, what it points to, and in which words. Where the
fit and the evidence disagree, it is said aloud.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.scaling import LEVEL, met_ceilings, series
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import amount, percent_text


@dataclass(frozen=True, slots=True)
class Gauges:
    """Means over the kept runs of a cell, None where no log and nobody read them."""

    card_busy: float | None
    power_share: float | None  # of the board power
    core: float | None
    traffic_share: float | None  # of the link's bandwidth
    traffic: float | None
    flat: bool  # the rate does not move with resolution
    met: bool  # another card on this link has the same rate
    step: float  # share of seconds on one rate
    by_eye: bool = False  # read off a screen, not logged


@dataclass(frozen=True, slots=True)
class Evidence:
    """One thing that speaks for a limit: its words and the limits it points to."""

    words: str
    points_to: tuple[str, ...]


# A busy card and its fitted share are different sums; within this they say the same.
BUSY_AS_FITTED = 0.15


def _how(gauges: Gauges) -> str:
    return ", by eye," if gauges.by_eye else ""


Rule = tuple[Callable[[Gauges], bool], tuple[str, ...], Callable[[Gauges], str]]
RULES: tuple[Rule, ...] = (
    (
        lambda g: (g.card_busy or 0) >= 95 and (g.power_share is None or g.power_share >= 0.85),
        ("card",),
        lambda g: f"the card is {g.card_busy:.0f}\u202f% busy{_how(g)}",
    ),
    (
        lambda g: g.card_busy is not None and g.card_busy < 88 and (g.core or 0) < 85,
        ("link",),
        lambda g: (
            f"the card is {g.card_busy:.0f}\u202f% busy{_how(g)} and no core is pegged: it waits"
        ),
    ),
    (
        lambda g: (g.core or 0) >= 90,
        ("CPU",),
        lambda g: f"the busiest core is at {g.core:.0f}\u202f%{_how(g)}",
    ),
    (
        lambda g: (g.traffic_share or 0) >= 0.7,
        ("link",),
        lambda g: f"the link moves {percent_text(g.traffic_share)} of what it can",
    ),
    (lambda g: g.flat, ("CPU", "link"), lambda _g: "the rate does not move with resolution"),
    (lambda g: g.met, ("CPU", "link"), lambda _g: "another card on this link has the same rate"),
    (lambda g: g.step >= 0.9, ("cap",), lambda _g: "the rate sits on one step: a cap?"),
)


def gauges_of(contents: Contents, board: Board, rig_id: str, case_id: str) -> Gauges:
    """The telemetry of a cell's kept runs, and what its neighbours on the Board tell."""
    runs = board.counted(rig_id, case_id)

    def mean(gauge: Gauge) -> float | None:
        values = [value for run in runs if (value := run.reading(gauge)) is not None]
        return sum(values) / len(values) if values else None

    by_eye = not any(run.gauge(Gauge.CARD_BUSY) for run in runs)

    card = contents.card_of(rig_id)
    rig = contents.rigs[rig_id]
    power, traffic = mean(Gauge.CARD_POWER), mean(Gauge.LINK_TRAFFIC)
    board_w = card.board_power_w if card else None
    width = rig.measured_gb_per_s
    # No other cells are worked out than those that tell.
    rows = tuple(row for row in board.rows if row.case_id == case_id)
    titles = {row.title for row in rows}
    own = replace(
        board,
        rows=tuple(row for row in board.rows if row.title in titles),
        columns=tuple(column for column in board.columns if column.rig_id == rig_id),
    )
    flat = any(
        max(one.rates_fps) / min(one.rates_fps) - 1.0 <= LEVEL for one in series(contents, own)
    )
    met = any(rig_id in one.rig_ids for one in met_ceilings(contents, replace(board, rows=rows)))
    return Gauges(
        card_busy=mean(Gauge.CARD_BUSY),
        power_share=None if power is None or not board_w else power / board_w,
        core=mean(Gauge.CPU_CORE),
        traffic_share=None if traffic is None or not width else traffic / width,
        traffic=traffic,
        flat=flat,
        met=met,
        step=max((run.observed.step_share for run in runs if run.observed), default=0.0),
        by_eye=by_eye,
    )


def evidence_of(gauges: Gauges) -> tuple[Evidence, ...]:
    """Everything the rules say of some gauges."""
    return tuple(
        Evidence(words(gauges), points_to) for speaks, points_to, words in RULES if speaks(gauges)
    )


def agreement(limit: str, card_works: float, gauges: Gauges, evidence: Sequence[Evidence]) -> str:
    """Whether the evidence agrees with the fit, in a sentence."""
    if not evidence:
        return "No telemetry speaks for or against it."
    pointed = {one for found in evidence for one in found.points_to}
    where = " and ".join(sorted(pointed))
    busy = gauges.card_busy
    waits = busy is not None and limit in ("card", "mixed") and pointed == {"link"}
    if waits and busy is not None and abs(busy / 100.0 - card_works) <= BUSY_AS_FITTED:
        return (
            f"Telemetry agrees: the card works {busy:.0f}\u202f% of the time, the fit says "
            f"{percent_text(card_works)}; the rest it waits."
        )
    if limit == "mixed":
        return f"The fit finds no single limit; telemetry points to {where}."
    if limit == "open":
        return f"The fit leaves it open; telemetry points to {where}."
    if limit in pointed:
        return "Telemetry agrees."
    return f"Telemetry disagrees: it points to {where}."


def gauge_rows(gauges: Gauges) -> tuple[tuple[str, str], ...]:
    """The gauges as rows: (name, figure)."""
    rows = []
    if gauges.card_busy is not None:
        rows.append(("card busy", f"{gauges.card_busy:.0f}\u202f%"))
    if gauges.power_share is not None:
        rows.append(("of its board power", percent_text(gauges.power_share)))
    if gauges.core is not None:
        rows.append(("busiest core", f"{gauges.core:.0f}\u202f%"))
    if gauges.traffic is not None:
        rows.append(("link traffic", amount(round(gauges.traffic, 2), "GB/s")))
    return tuple(rows)

"""What the Limits say: sentences over a fit, its losses and its ceilings."""

import math
from collections.abc import Mapping

import numpy as np

from blunt_ruler.core.board.lenses import span_text
from blunt_ruler.core.limits.fit import MIXED, OPEN, Fit
from blunt_ruler.core.limits.report import LimitsReport
from blunt_ruler.core.limits.split import PARTS, LossSplit
from blunt_ruler.core.limits.whatif import (
    Ceiling,
    card_speeds,
    narrowest_link,
)
from blunt_ruler.core.measure.resolution import KNOWN_LINES
from blunt_ruler.core.text import (
    MINUS,
    adding_up,
    amount,
    capital,
    count_text,
    list_text,
    percent_text,
)

PART_WORDS = {
    "link": "link",
    "host": "host",
    "screen": "screen path",
    "card": "card",
    "unexplained": "unexplained",
}
WIDE = 0.03  # half of what a part may reach over, from which on its ends are told


def told_texts(report: LimitsReport, rig_id: str) -> list[tuple[str, float, str]]:
    """Parts of a rig's mean loss as (name, share, text): "15 %", or "8 to 19 %" where the data
    leave that much open.
    """
    shares, reach = report.lost_by_part(rig_id), report.part_reach(rig_id)
    told = []
    for name, share in told_shares(shares):
        low, high = reach.get(name, (share, share))
        wide = high - low > 2 * WIDE
        text = f"{percent_text(low).split()[0]} to {percent_text(high)}" if wide else ""
        told.append((name, shares[name], text or percent_text(share)))
    return told


def whole_shares(shares: Mapping[str, float]) -> dict[str, float]:
    """Parts of a mean loss in whole per cents that add up to the printed whole."""
    rounded = adding_up([*shares.values()], sum(shares.values()), 0.01)
    return dict(zip(shares, rounded, strict=True))


def told_shares(shares: Mapping[str, float]) -> list[tuple[str, float]]:
    """Parts of a mean loss in whole per cents that add up to the printed whole, the largest
    first and the unexplained last, which is always told.
    """
    rounded = whole_shares(shares)
    told = sorted(
        ((name, rounded[name]) for name in PARTS if abs(rounded[name]) >= 0.005),
        key=lambda part: -part[1],
    )
    return [*told, ("unexplained", rounded["unexplained"])]


def fit_words(report: LimitsReport) -> str:
    """How well the fit holds, and how well it foresaw each link left out."""
    fit = report.fit
    if fit is None:
        return report.why_not
    off = float(np.median(np.abs(fit.residuals)))
    said = (
        f"{count_text(len(fit.measured.cells), 'cell')}{remembered_words(fit)}, {fit.layout.size} "
        f"parameters, residual {percent_text(off, decimals=1)}"
    )
    if report.left_out is not None:
        said += (
            f"; each link left out in turn: {percent_text(report.left_out.median_error)} median "
            f"error, {percent_text(report.left_out.p90_error)} for nine in ten, and "
            f"{percent_text(report.left_out.interval_hits)} of the 80\u202f% intervals held"
        )
    if report.left_out is not None and report.left_out_alone is not None:
        alone = percent_text(report.left_out_alone.median_error)
        said += f"; without the other reviews {alone} median error"
    if report.withheld:
        kinds = list_text([*dict.fromkeys(str(one.kind) for one in report.withheld.values())])
        cells = count_text(len(report.withheld), "cell")
        said += f"; {cells} left out, which the model does not cover: {kinds}"
    resting = len(fit.rests_on_prior)
    if resting:
        said += f"; {count_text(resting, 'parameter')} not determined by the data"
    return f"{said}."


def remembered_words(fit: Fit) -> str:
    """How much of a fit came from elsewhere: " and 212 cells of 6 other reviews"; blank for
    nothing.
    """
    beside = len(fit.measured.beside)
    if not beside:
        return ""
    reviews = count_text(fit.measured.reviews, "other review")
    return f" and {count_text(beside, 'result')} of {reviews}"


def cell_limit_line(report: LimitsReport, index: int) -> str:
    """What holds one cell back, with the time it waits."""
    assert report.fit is not None
    fit = report.fit
    limits = fit.times.limits[:, index]
    name = fit.limit_of(index)
    frame_ms = float(fit.times.whole[index])
    waits = float(fit.times.card_waits[index])
    if name == OPEN:
        return f"The data leave open what sets the pace: {_shares_words(limits)} is the best guess."
    said = f"{capital(f'the {name}')} sets the pace ({percent_text(float(limits.max()))})"
    if name == MIXED:
        said = f"No single limit: {_shares_words(limits)}"
    if waits > 0.05 * frame_ms:
        said += (
            f". The card waits {amount(round(waits, 1), 'ms')} of every "
            f"{amount(round(frame_ms, 1), 'ms')} frame for the link"
        )
    return f"{said}."


def _shares_words(limits: np.ndarray) -> str:
    names = ("card", "CPU", "link")
    order = np.argsort(-limits)
    return ", ".join(f"{names[i]} {percent_text(float(limits[i]))}" for i in order)


def size_words(megapixels: float) -> str:
    """A size as people call it: "1440p", else in megapixels."""
    for lines, width in KNOWN_LINES.items():
        if abs(lines * width / 1e6 - megapixels) < 0.01:
            return f"{lines}p"
    return f"{megapixels:.1f} megapixels"


def ceiling_text(one: Ceiling) -> str:
    """A ceiling with its 80 % interval: “1.29 (0.8 to 2.1)”."""
    high = None if math.isinf(one.high_80) else f"{one.high_80:.2f}"
    return f"{one.card_speed:.2f} ({span_text(f'{one.low_80:.2f}', high)})"


def ceiling_words(report: LimitsReport, one: Ceiling) -> str:
    """A ceiling in few words: which cards it wastes, or how much faster a card may be."""
    if one.wasted:
        return f"{list_text([report.contents.cards[card].name for card in one.wasted])} wasted"
    if one.open:
        return f"open for {list_text([report.contents.cards[card].name for card in one.open])}"
    assert report.fit is not None
    fastest = max((card_speeds(report.fit)[card] for card in one.fitting), default=1.0)
    return f"pays up to {one.card_speed / fastest:.1f} × the fastest on it"


def narrowest_words(report: LimitsReport, card: str, megapixels: float) -> str:
    """The narrowest link that costs a card under 5 %."""
    assert report.fit is not None
    found = narrowest_link(report.fit, report.fit.measured.host, card, megapixels)
    if found is None:
        return ""
    name = report.contents.cards[card].name
    return f"{name} {amount(round(found, 1), 'GB/s')}"


def split_rows(split: LossSplit) -> Mapping[str, float]:
    """A loss by part in frames per second, the unexplained last."""
    return {
        **{name: part.fps for name, part in split.parts.items()},
        "unexplained": split.unexplained_fps,
    }


def lost_as_printed(split: LossSplit) -> float:
    """The loss between both rates as they are printed, in tenths of a frame."""
    return round(split.reference_fps, 1) - round(split.average_fps, 1)


def part_span(split: LossSplit, name: str, *, lost: bool = True) -> str:
    """The 80 % interval of a part in frames per second, above zero for what is `lost`, else below;
    blank for the unexplained, which is what the parts leave.
    """
    part = split.parts.get(name)
    if part is None:
        return ""
    ends = (part.low_fps, part.high_fps) if lost else (-part.high_fps, -part.low_fps)
    return " to ".join(f"{end:.1f}".replace("-", MINUS) for end in ends)


def told_rows(split: LossSplit) -> list[tuple[str, float]]:
    """A loss by part in tenths of a frame that add up to the printed loss; parts of nothing are
    left out, the unexplained is always told.
    """
    rows = split_rows(split)
    rounded = adding_up([*rows.values()], lost_as_printed(split), 0.1)
    return [
        (name, fps)
        for name, fps in zip(rows, rounded, strict=True)
        if abs(fps) >= 0.05 or name == "unexplained"
    ]

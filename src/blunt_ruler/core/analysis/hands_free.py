"""Passes taken without a hand: how often to repeat, and what is said in large figures meanwhile.

A cell is done when its 95 % interval is as narrow as the plan asks: half of the difference that the
plan wants to show, so that two rigs that differ by it have intervals that do not meet.
"""

import math
import shlex
from collections.abc import Sequence
from dataclasses import dataclass

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.checks.all import Checked
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.records import Contents, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.text import MINUS, count_text, fps_text, percent_text

FEWEST, MOST = 2, 6  # passes; odd results are repeated up to six times: common practice, no source


class BadCommand(UserFixable):
    """A start command that cannot be run."""


def parse_command(text: str) -> tuple[str, ...]:
    """A start command as program and arguments, quoted as in a shell; nothing else of a shell is
    understood: no pipes, no variables, no files.
    """
    try:
        parts = shlex.split(text)
    except ValueError as error:
        raise BadCommand("start command", f"“{text}” has {error}", "Close the quotes") from error
    if not parts:
        raise BadCommand("start command", "it is blank", "Write a program and its arguments")
    return tuple(parts)


@dataclass(frozen=True, slots=True)
class Narrow:
    """How narrow a cell is: counted passes, half of its 95 % interval as a share, what is asked."""

    passes: int
    half: float | None
    asked: float

    @property
    def is_enough(self) -> bool:
        """Whether no further pass is asked for."""
        if self.passes >= MOST:
            return True
        return self.passes >= FEWEST and self.half is not None and self.half <= self.asked


def narrowness(board: Board, plan: Plan, rig_id: str, case_id: str) -> Narrow:
    """How narrow a cell of a Board is, and what its plan asks."""
    cell = board.cells.get((rig_id, case_id))
    half = None
    if cell is not None and cell.rate_low and cell.rate_high:
        half = math.log(cell.rate_high / cell.rate_low) / 2.0
    return Narrow(cell.runs if cell else 0, half, plan.difference / 2.0)


@dataclass(frozen=True, slots=True)
class Told:
    """What is shown of a pass from afar: a figure, its words, what was found, what to do next."""

    figure: str
    words: str
    found: str
    then: str
    again: bool  # whether another pass follows by itself


def tell(
    contents: Contents, board: Board, checked: Checked, plan: Plan, run: Run, passes_taken: int
) -> Told:
    """What a pass gave, and whether another follows; `passes_taken` are those of this sitting."""
    rate = run.average_fps
    figure = "–" if rate is None else fps_text(rate)
    low = run.low_1_fps(board.review.low_school)
    words = "frames per second" if low is None else f"frames per second, 1 % low {fps_text(low)}"
    stops = [one for one in checked.by_run.get(run.id, ()) if one.severity is Severity.BLOCKING]
    if stops:
        return Told(figure, words, stops[0].says, stops[0].remedy, False)
    narrow = narrowness(board, plan, run.rig_id, run.case_id)
    asked = f"±{percent_text(narrow.asked, decimals=1)}"
    if narrow.half is None or narrow.passes == 0:
        return Told(figure, words, "It does not count yet.", "Look at it in All runs.", False)
    passes = count_text(narrow.passes, "pass", "passes")
    said = f"±{percent_text(narrow.half, decimals=1)} after {passes}"
    if narrow.is_enough:
        why = f"as narrow as asked ({asked})" if narrow.half <= narrow.asked else "and no narrower"
        name = contents.rigs[run.rig_id].name
        return Told(figure, words, f"{said}, {why}.", f"{name} is done with this case.", False)
    if passes_taken >= MOST:
        return Told(figure, words, f"{said}, {asked} is asked.", "Look at its spread.", False)
    return Told(figure, words, f"{said}, {asked} is asked.", "One more pass follows.", True)


def without_log(seconds: float) -> Told:
    """No log came."""
    return Told(
        MINUS,
        "no log",
        f"No log arrived within {seconds:.0f} s of the end of the pass.",
        "Is the capture on, and is its folder the inbox? Start again when it is.",
        False,
    )


def shown_command(parts: Sequence[str]) -> str:
    """A command as it will be run, each part quoted where it needs it."""
    return shlex.join(parts)

"""Passes taken without a hand: how often to repeat, and what is said in large figures meanwhile.

A cell is done when its 95 % interval is as narrow as the plan asks: half of the difference that the
plan wants to show, so that two rigs that differ by it have intervals that do not meet.
"""

import math
import shlex
import unicodedata
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

# Kinds of characters that leave no mark of their own, and letters that are drawn as nothing; in a
# command something could hide behind them. U+FFFD stands where such a character was taken out.
UNSEEN = frozenset({"Cc", "Cf", "Cs", "Co", "Cn", "Zs", "Zl", "Zp", "Mn", "Me"})
BLANKS = "\u115f\u1160\u2800\u3164\uffa0\ufffd"


class BadCommand(UserFixable):
    """A start command that cannot be run."""


def parse_command(text: str) -> tuple[str, ...]:
    """A start command as program and arguments, quoted as in a shell; nothing else of a shell is
    understood: no pipes, no variables, no files.

    The program is a whole path, or a name to be looked for on PATH. BadCommand where it is neither,
    or where a letter in it could not be seen by whoever is to allow it.
    """
    try:
        parts = shlex.split(text)
    except ValueError as error:
        raise BadCommand("start command", f"“{text}” has {error}", "Close the quotes") from error
    if not parts or not parts[0]:
        raise BadCommand("start command", "it is blank", "Write a program and its arguments")
    for letter in text:
        if letter != " " and (unicodedata.category(letter) in UNSEEN or letter in BLANKS):
            raise BadCommand(
                "start command",
                f"it holds U+{ord(letter):04X}, which cannot be seen",
                "Type it again without that",
            )
    if "/" in parts[0] and not parts[0].startswith("/"):
        raise BadCommand(
            "start command",
            f"“{parts[0]}” is not a full path",
            "Write the whole path of the program, from / on",
        )
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


def not_allowed(why: str) -> Told:
    """A title is not started, or no longer runs, for want of consent."""
    return Told(MINUS, "not started", f"{why.rstrip('.')}.", "Read it and allow it again.", False)


def ended_early(words: str, code: int) -> Told:
    """A title ended before the pass was over; a code below zero is the signal that ended it."""
    how = f"was ended by signal {-code}" if code < 0 else f"ended with code {code}"
    return Told(
        MINUS,
        "ended early",
        f"{words} {how} before the pass was over.",
        "See why it ended, then start again.",
        False,
    )


def shown_command(parts: Sequence[str]) -> str:
    """A command as it will be run, each part quoted where it needs it."""
    return shlex.join(parts)

"""What lies on the desk, as every view sees it: one frozen value, whole or not at all."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:  # the window is up before it needs any of these; they come with the first logbook
    from collections.abc import Mapping

    from blunt_ruler.core.analysis.analyse import Analysis
    from blunt_ruler.core.analysis.rail_states import StopState
    from blunt_ruler.core.board.board import Board
    from blunt_ruler.core.checks.all import Checked
    from blunt_ruler.core.records.records import Contents, Review


def new_id() -> str:
    """An id that no other record has."""
    return os.urandom(16).hex()


@dataclass(frozen=True, slots=True)
class Snapshot:
    """A logbook's contents, the review that is shown, and all that follows from them.

    Attributes:
        analysis: None only where there is no review. Its contents and review are these; while
            some of it is still to be worked out it is not `settled`, and another snapshot follows.
        undo, redo: names of the edits that can be taken back or done again.
        states: what the rail says of every stop.
        others: how often changes of other windows were taken in; what was seen dates by it.
    """

    path: Path
    contents: Contents
    review: Review | None
    analysis: Analysis | None
    undo: str | None = None
    redo: str | None = None
    others: int = 0
    states: Mapping[str, StopState] | None = None

    @property
    def board(self) -> Board | None:
        """The Board of the review."""
        return self.analysis.board if self.analysis else None

    @property
    def checked(self) -> Checked | None:
        """What the checks found."""
        return self.analysis.checked if self.analysis else None

"""How one reading of a statement stands."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Verdict:
    """How one reading stands: None where the logbook has nothing of it.

    `true_sentence` is what it should be, `repair` the figure that should stand there; `value` is
    the true figure, and `note` what to know of it.
    """

    fits: bool | None
    true_sentence: str = ""
    repair: str = ""
    value: float | None = None
    note: str = ""
    figure: str = ""
    case: str = ""
    open_words: str = ""  # what the words leave open, where that decides


UNHEARD = Verdict(None)

"""What every page of Worth shares: the chosen rig, the line and the evidence."""

from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.prices import worth_line
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_text
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.sentences import basis_words, missing_words
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.explained import explained
from blunt_ruler.ui.kit.widgets import Parts, figure_row, label

SHOWN = (
    WorthFigure.COST,
    WorthFigure.VALUE,
    WorthFigure.FRAMES,
    WorthFigure.GAINED,
    WorthFigure.PER_FRAME,
    WorthFigure.PER_GAINED,
    WorthFigure.PER_GAINED_LOW,
    WorthFigure.MONTHLY,
    WorthFigure.LOAD_W,
    WorthFigure.ENERGY_COST,
    WorthFigure.NOISE,
    WorthFigure.WEIGHT,
    WorthFigure.DOCKING,
)
MOST_MISSING = 6


class WorthPage(Page):
    """A page about all rigs and one of them."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self.chosen = chosen
        self.worth: Worth | None = None
        self.contents: Contents | None = None
        self.claims: Claims | None = None

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Take in the worth of the review."""
        self.worth = snapshot.analysis.worth if snapshot.analysis else None
        self.contents = snapshot.contents
        self.claims = snapshot.analysis.claims if snapshot.analysis else None
        if self.worth is not None:
            self.fill(snapshot.contents, self.worth, self.chosen.rig)

    def fill(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show all rigs, one of them chosen."""
        raise NotImplementedError

    def line(self) -> str:
        """Which rig gives the cheapest gained frame."""
        return worth_line(self.worth) if self.worth else ""

    def evidence(self) -> Parts | None:
        """The figures of the chosen rig, what is not known of it, and on what they rest."""
        worth = self.worth
        row = worth.row(self.chosen.rig) if worth else None
        if worth is None or row is None:
            return []
        name = row.column.name
        parts: Parts = [label(name.upper(), "heading")]
        for one in SHOWN:
            text = figure_text(row.figures[one], one, worth.currency)
            parts.append(
                figure_row(FIGURES[one].short, text, explained(f"worth {FIGURES[one].short}"))
            )
        own = [one for one in worth.missing if any(name in rigs for rigs in one.blocks.values())]
        if own:
            parts += [12, label("NOT KNOWN", "heading")]
            parts += [label(missing_words(one), "quiet") for one in own[:MOST_MISSING]]
        parts += [12, label("ON WHAT IT RESTS", "heading")]
        parts.append(label(f"{basis_words(worth)}.", "quiet"))
        return parts

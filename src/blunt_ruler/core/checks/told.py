"""What was found so far of some runs, and which of them are sound by it."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from blunt_ruler.core.checks.findings import About, Finding, RunFacts
from blunt_ruler.core.once import Cell
from blunt_ruler.core.records.records import Decision
from blunt_ruler.core.records.severity import Severity

Runs = tuple[RunFacts, ...]
Cells = Mapping[Cell, Runs]


@dataclass(frozen=True, eq=False, slots=True)
class Told:
    """Findings by run, as they came in scope by scope; it is replaced and never altered.

    Attributes:
        cells: all runs by cell.
        cell_of: the cell of each run by its id.
        sound: kept runs that nothing blocks, by cell; cells without one are not in it.
    """

    cells: Cells
    cell_of: Mapping[str, Cell]
    by_run: Mapping[str, tuple[Finding, ...]]
    sound: Cells

    @classmethod
    def nothing_of(cls, cells: Cells) -> "Told":
        """Nothing yet, of some cells."""
        cell_of = {facts.run.id: key for key, all_ in cells.items() for facts in all_}
        kept = {key: _without(all_, _is_aside) for key, all_ in cells.items()}
        return cls(cells, cell_of, {}, {key: all_ for key, all_ in kept.items() if all_})

    def and_(self, findings: Iterable[Finding]) -> "Told":
        """With more findings: each is put to the run it accuses, or to all that it is about."""
        by_run, spoken_of = dict(self.by_run), set[Cell]()
        for finding in findings:
            for run_id in (finding.run_id,) if finding.about is About.RUN else finding.runs:
                by_run[run_id] = (*by_run.get(run_id, ()), finding)
                spoken_of.add(self.cell_of[run_id])

        def is_out(facts: RunFacts) -> bool:
            found = by_run.get(facts.run.id, ())
            return any(one.severity is Severity.BLOCKING for one in found)

        sound = dict(self.sound)
        for key in spoken_of & sound.keys():
            sound[key] = _without(sound[key], is_out)
            if not sound[key]:
                del sound[key]
        return Told(self.cells, self.cell_of, by_run, sound)

    def unexplained(self, key: Cell) -> Runs:
        """The runs of a cell against which themselves nothing was found."""
        return _without(self.cells[key], self._explains)

    def facts(self, run_id: str) -> RunFacts:
        """What is known of a run."""
        return next(one for one in self.cells[self.cell_of[run_id]] if one.run.id == run_id)

    def _explains(self, facts: RunFacts) -> bool:
        return any(one.about is About.RUN for one in self.by_run.get(facts.run.id, ()))


def _is_aside(facts: RunFacts) -> bool:
    return facts.run.decision is not Decision.KEEP


def _without(all_: Runs, is_out: Callable[[RunFacts], bool]) -> Runs:
    """Some runs without others."""
    part = tuple(facts for facts in all_ if not is_out(facts))
    return all_ if len(part) == len(all_) else part

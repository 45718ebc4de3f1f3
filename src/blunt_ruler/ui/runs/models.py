"""Runs as lines of a table, and its columns."""

from dataclasses import dataclass

from blunt_ruler.core.checks.all import NOTHING, Checked
from blunt_ruler.core.checks.findings import Finding
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.records.records import Contents, Decision, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.text import fps_text
from blunt_ruler.ui.kit.rows import Column


@dataclass(frozen=True, slots=True)
class RunLine:
    """A run with the words it is shown by, each put together when it is shown: a logbook may hold
    ten thousand runs.
    """

    run: Run
    contents: Contents
    school: LowSchool
    found: tuple[Finding, ...] = ()

    @property
    def title(self) -> str:
        """The title of its case."""
        return self.contents.titles[self.contents.cases[self.run.case_id].title_id].name

    @property
    def settings(self) -> str:
        """Resolution and preset of its case."""
        case = self.contents.cases[self.run.case_id]
        return " ".join(part for part in (case.resolution, case.preset) if part)

    @property
    def rig(self) -> str:
        """The name of its rig."""
        return self.contents.rigs[self.run.rig_id].name

    @property
    def average_fps(self) -> float | None:
        """Its average."""
        return self.run.average_fps

    @property
    def low_fps(self) -> float | None:
        """Its low, by the definition of the review."""
        return self.run.low_1_fps(self.school)

    @property
    def finding(self) -> str:
        """The worst that was found against it, in words; notes are none."""
        worst = (one.check.words for one in self.found if one.severity is not Severity.NOTE)
        return next(worst, "")


def _ink(line: RunLine) -> str:
    return "ink" if line.run.decision is Decision.KEEP else "steel"


def _tip(line: RunLine) -> str:
    return line.run.reason or line.run.origin.file


def _case(line: RunLine) -> str:
    return f"{line.title}, {line.settings}" if line.settings else line.title


COLUMNS = (
    Column("Case", _case, tip=_tip, colour=_ink, sort=lambda line: (line.title, line.settings)),
    Column("Rig", lambda line: line.rig, tip=_tip, colour=_ink),
    Column(
        "Pass",
        lambda line: str(line.run.repeat),
        46,
        figures=True,
        tip=_tip,
        colour=_ink,
        sort=lambda line: line.run.repeat,
    ),
    Column(
        "Average",
        lambda line: fps_text(line.average_fps),
        68,
        figures=True,
        tip=_tip,
        colour=_ink,
        sort=lambda line: line.average_fps or 0,
    ),
    Column(
        "1 % low",
        lambda line: fps_text(line.low_fps),
        64,
        figures=True,
        tip=_tip,
        colour=_ink,
        sort=lambda line: line.low_fps or 0,
    ),
    Column("Finding", lambda line: line.finding, tip=_tip, colour=lambda _line: "loss"),
    Column(
        "Decision",
        lambda line: str(line.run.decision),
        78,
        tip=_tip,
        colour=lambda line: "ink" if line.run.decision is Decision.KEEP else "caution",
    ),
)


def filter_words(line: RunLine) -> str:
    """What the filter of the list looks at."""
    return f"{line.title} {line.settings} {line.rig} {line.run.decision} {line.finding}"


def run_lines(
    contents: Contents, school: LowSchool, checked: Checked = NOTHING
) -> tuple[RunLine, ...]:
    """Every run of the logbook, newest import last."""
    found = checked.by_run
    return tuple(
        RunLine(run, contents, school, found.get(key, ())) for key, run in contents.runs.items()
    )

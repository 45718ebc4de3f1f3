"""Take measured logs into a review: which records a logbook must gain or change.

The same rules serve the window, the command and the demo: a rig or title that is not known yet
is made, the review takes in the rig and the case, repeats count on, and a review that has no
base yet gets its roles from the roles asked for.
"""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.frames import FrameFigures, measure
from blunt_ruler.core.measure.resolution import pixels
from blunt_ruler.core.measure.telemetry import GaugeDigest
from blunt_ruler.core.measure.trace_summary import Observed, observe
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Decision,
    FromRecording,
    Origin,
    Record,
    Review,
    Role,
    Run,
    Title,
    TitleKind,
    Trace,
    Trim,
    TypedFigures,
    case_label,
)
from blunt_ruler.core.values import LONGEST_NAME, LONGEST_WORDS


class BadIntake(UserFixable):
    """A log that cannot be placed: its rig or case is not named."""


@dataclass(frozen=True, slots=True)
class CaseName:
    """A case as one names it: title, scene, resolution and preset, all but the title optional."""

    title: str
    scene: str = ""
    resolution: str = ""
    preset: str = ""

    @property
    def label(self) -> str:
        """The case in one string, as `parse_case` reads it."""
        return case_label(self.title, self.scene, self.resolution, self.preset)


@dataclass(frozen=True, slots=True)
class Arrival:
    """A measured log on its way in."""

    rig: str
    case: CaseName
    figures: FrameFigures | None
    trace_sha256: str | None
    origin: Origin
    observed: Observed | None = None
    trim: Trim | None = None
    typed: TypedFigures | None = None
    sampled: tuple[GaugeDigest, ...] = ()
    recording: FromRecording | None = None
    case_id: str = ""  # where the case is known already
    decision: Decision = Decision.KEEP
    reason: str = ""
    role: Role | None = None
    taken_at: str = ""
    generated: bool = False  # the log flags generated frames


def seen_in(trace: Trace, where: str = "trace") -> tuple[FrameFigures, Observed]:
    """What is kept of a trace beside it: its figures, and the numbers that checks decide on."""
    return measure(trace.frame_times_ms, where), observe(trace.frame_times_ms, trace.telemetry)


def parse_case(words: str) -> CaseName:
    """Read "Title / scene / 1080p / High"; a part that looks like a resolution is one.

    Two parts after the title without a resolution are scene and preset.
    """
    parts = [part.strip() for part in words.split("/") if part.strip()]
    if not parts or len(parts) > 4:
        raise BadIntake(
            "case",
            f"“{words}” does not name a case" if words.strip() else "no case is named for it",
            "Write it as “Title / scene / 1080p / High”, the title at least",
        )
    title, *rest = parts
    longest = max(parts, key=len)
    if len(title) > LONGEST_NAME or len(longest) > LONGEST_WORDS:
        raise BadIntake(
            "case",
            f"“{longest[:40]}…” has {len(longest)} letters",
            f"Shorten it: a title has at most {LONGEST_NAME}",
        )
    at = next((index for index, part in enumerate(rest) if looks_like_resolution(part)), None)
    if at is None:
        scene, preset = [*rest, "", ""][:2]
        return CaseName(title, scene, rest[2] if len(rest) > 2 else "", preset)
    return CaseName(title, " / ".join(rest[:at]), rest[at], " / ".join(rest[at + 1 :]))


KILO = re.compile(r"[0-9]{1,2}k", re.I)


def looks_like_resolution(word: str) -> bool:
    """Whether a word is a resolution: "1080p", "4K" or "2560x1440"."""
    return (
        pixels(word) is not None or re.fullmatch(r"[0-9]{1,2}k", word.strip().lower()) is not None
    )


BYTES = re.compile(r"[kmgt]?i?(?:b|bits?|bytes?)/s", re.IGNORECASE)  # what a link moves is no work


def is_throughput(unit: str) -> bool:
    """Whether a unit is one of what is moved: “GB/s”."""
    return BYTES.fullmatch(unit) is not None


def kind_of_score(unit: str) -> TitleKind:
    """What a test with scores in a unit is: one in seconds or so many a second is work."""
    by_the_second = unit == "fps" or (unit.endswith("/s") and not is_throughput(unit))
    if unit in LESS_IS_BETTER or by_the_second:
        return "work"
    return "synthetic"


LESS_IS_BETTER = frozenset(["s", "ms", "min"])  # units of scores that are times


UNITS = {"sec": "s", "seconds": "s", "minutes": "min"}
IN_UNIT = re.compile(
    r"(?P<name>.*[^\s,])[\s,]+\(?"
    r"(?P<unit>(?i:[kmgt]?i?(?:b|bits?|bytes?)/s|[a-z]+/s|sec|seconds|minutes|fps)|s|ms|min)\)?"
)


def in_unit(words: str) -> tuple[str, str]:
    """A test's name and the unit of its scores: “Copy GB/s” and “Encode (s)”; blank for points."""
    found = IN_UNIT.fullmatch(words.strip())
    if found is None:
        return words, ""
    return found["name"], UNITS.get(found["unit"].lower(), found["unit"])


class Ledger:
    """Records by name as arrivals are taken in, new ones included; `made` are the new ones."""

    def __init__(self, contents: Contents, new_id: Callable[[], str]) -> None:
        self._new_id = new_id
        self.rigs = {rig.name: rig for rig in contents.rigs.values()}
        self.titles = {title.name: title for title in contents.titles.values()}
        self.cases_by_id = dict(contents.cases)
        self.titles_by_id = {title.id: title.name for title in contents.titles.values()}
        self.cases = {contents.case_label(case.id): case for case in contents.cases.values()}
        self.repeats: dict[tuple[str, str], int] = {}
        for run in contents.runs.values():
            key = (run.rig_id, run.case_id)
            self.repeats[key] = max(self.repeats.get(key, 0), run.repeat)
        self.made: list[Record] = []
        self._runs = contents.runs

    def title_for(self, name: str, *, scores: bool, unit: str = "") -> str:
        """The title of a name that takes scores, or frame rates: where the one of that name takes
        the other, or scores in another unit, another beside it.
        """
        known = next(
            (one for one in self.titles.values() if one.name.lower() == name.lower()), None
        )
        if known is None:
            return name
        own = [
            run for run in self._runs.values() if self.cases_by_id[run.case_id].title_id == known.id
        ]
        rated = any(run.average_fps is not None for run in own)
        scored = any(run.typed and (run.typed.score or run.typed.parts) for run in own)
        takes_scores = known.kind != "game" and not rated
        if scores and takes_scores and unit in ("", known.score_unit):
            return known.name
        if not scores and not (takes_scores and scored):
            return known.name
        return f"{known.name} ({(unit or 'score') if scores else 'fps'})"

    def rig(self, name: str) -> Rig:
        """The rig of a name."""
        if name not in self.rigs:
            self.rigs[name] = Rig(id=self._new_id(), name=name)
            self.made.append(self.rigs[name])
        return self.rigs[name]

    def case(self, named: CaseName, kind: TitleKind = "game", unit: str = "") -> Case:
        """The case of a name, and its title; a new title is of a kind, its scores in a unit."""
        if named.label not in self.cases:
            if named.title not in self.titles:
                title = Title(
                    id=self._new_id(),
                    name=named.title,
                    kind=kind,
                    score_unit=unit,
                    lower_is_better=unit in LESS_IS_BETTER,
                )
                self.titles[named.title] = title
                self.made.append(self.titles[named.title])
            case = Case(
                id=self._new_id(),
                title_id=self.titles[named.title].id,
                scene=named.scene,
                resolution=named.resolution,
                preset=named.preset,
            )
            self.cases[named.label] = case
            self.made.append(case)
        return self.cases[named.label]

    def with_generated_frames(self, case: Case) -> Case:
        """A case of which a log says that frames were generated."""
        changed = case.model_copy(update={"frame_generation": "on"})
        self.cases_by_id[case.id] = changed
        for label, one in self.cases.items():
            if one.id == case.id:
                self.cases[label] = changed
        self.made = [one for one in self.made if one.id != case.id]
        self.made.append(changed)
        return changed

    def run(self, arrival: Arrival, rig: Rig, case: Case) -> Run:
        """A run of an arrival, its repeat counted on."""
        key = (rig.id, case.id)
        self.repeats[key] = self.repeats.get(key, 0) + 1
        run = Run(
            id=self._new_id(),
            rig_id=rig.id,
            case_id=case.id,
            repeat=self.repeats[key],
            taken_at=arrival.taken_at,
            origin=arrival.origin,
            trace_sha256=arrival.trace_sha256,
            figures=arrival.figures,
            observed=arrival.observed,
            trim=arrival.trim,
            typed=arrival.typed,
            sampled=arrival.sampled,
            recording=arrival.recording,
            decision=arrival.decision,
            reason=arrival.reason,
        )
        self.made.append(run)
        return run


def take_in(
    contents: Contents,
    review: Review | None,
    arrivals: Sequence[Arrival],
    new_id: Callable[[], str],
) -> tuple[tuple[Record, ...], Review]:
    """The records to put for some arrivals, the review last; and that review.

    Raises BadIntake where a rig or title has no name.
    """
    ledger = Ledger(contents, new_id)
    review = review or Review(id=new_id(), name="First review")
    for arrival in arrivals:
        if not arrival.rig.strip() or not arrival.case.title.strip():
            what = "rig" if not arrival.rig.strip() else "title"
            raise BadIntake(
                arrival.origin.file or "log", f"no {what} is named for it", f"Name the {what}"
            )
        rig = ledger.rig(arrival.rig.strip())
        scored = arrival.typed is not None and arrival.typed.score is not None
        case = ledger.cases_by_id.get(arrival.case_id) or ledger.case(
            arrival.case, "synthetic" if scored else "game"
        )
        if arrival.generated and not case.frame_generation:
            case = ledger.with_generated_frames(case)
        ledger.run(arrival, rig, case)
        review = review.joined_by(rig.id, case.id)
        if arrival.role is not None:
            review = review.with_role(rig.id, arrival.role)
    return (*ledger.made, review), review


def cases_named(
    contents: Contents, wanted: Iterable[CaseName], new_id: Callable[[], str]
) -> tuple[tuple[Record, ...], tuple[str, ...]]:
    """The titles and cases to put for some names, and the ids of the cases in that order."""
    ledger = Ledger(contents, new_id)
    ids = tuple(ledger.case(named).id for named in wanted)
    return tuple(ledger.made), ids


def propose_roles(averages_fps: Sequence[float], has_base: bool) -> tuple[Role, ...]:
    """Roles for new rigs by their measured rates: the slowest is the base, the fastest the
    reference where there are three or more. Where a base is chosen already, all are under test.
    """
    roles = [Role.TESTED] * len(averages_fps)
    if has_base or len(averages_fps) < 2:
        return tuple(roles)
    order = sorted(range(len(averages_fps)), key=lambda index: averages_fps[index])
    roles[order[0]] = Role.BASE
    if len(order) > 2:
        roles[order[-1]] = Role.REFERENCE
    return tuple(roles)


def roles_by_rates(rates_fps: Mapping[str, Sequence[float]]) -> dict[str, Role]:
    """Roles for new rigs by their slowest log, where no base is chosen yet."""
    roles = propose_roles([min(own) for own in rates_fps.values()], has_base=False)
    return dict(zip(rates_fps, roles, strict=True))


def known_name(stem: str, known: Sequence[str]) -> str | None:
    """The longest known name whose words all stand in a file's name, None where none does."""
    words = {*name_words(stem)}
    fitting = [name for name in known if name and words.issuperset(name_words(name))]
    return max(fitting, key=len, default=None)


@lru_cache(maxsize=4096)
def name_words(text: str) -> tuple[str, ...]:
    """The words of a file's or a part's name, in lower case, whatever parts them."""
    for mark in "_-/.,()":
        text = text.replace(mark, " ")
    return tuple(text.lower().split())

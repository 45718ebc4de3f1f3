"""The sheet at work: which pass comes next, what is done before it, and its settings in words."""

from dataclasses import dataclass

from blunt_ruler.core.plan.bench_order import ItemKind
from blunt_ruler.core.plan.bench_plan import BenchPlan
from blunt_ruler.core.plan.matrix import PlanCell
from blunt_ruler.core.records.records import Case, Contents, Review, Run
from blunt_ruler.core.rigs.preflight import latest_ticks, steps_for
from blunt_ruler.core.text import amount, count_text, duration_text

CASE_FACTS = (
    ("scene", "scene"),
    ("method", "method"),
    ("resolution", "resolution"),
    ("preset", "preset"),
    ("upscaler", "upscaler"),
    ("ray_tracing", "ray tracing"),
    ("frame_generation", "frame generation"),
    ("graphics_api", "graphics API"),
)


@dataclass(frozen=True, slots=True)
class NextPass:
    """One pass to take: where, which repeat, what to do before it, and how many are left."""

    rig_id: str
    case_id: str
    repeat: int
    steps: tuple[str, ...]
    pass_s: float
    left: int


def next_pass(contents: Contents, review: Review, bench_plan: BenchPlan) -> NextPass | None:
    """The pass to take now; None where nothing is left.

    It stays on the rig of the newest run while that has passes left, takes the cells that have
    the most left first, and stays with the title that is loaded.
    """
    last = newest_run(contents, review)
    todo = [cell for cell in bench_plan.kept if cell.left > 0]
    if not todo:
        return None
    rigs = [
        rig_id for rig_id in bench_plan.order.tour.order if any(c.rig_id == rig_id for c in todo)
    ]
    here = last.rig_id if last is not None else None
    rig_id = here if here in {cell.rig_id for cell in todo} else rigs[0]
    on_rig = [cell for cell in todo if cell.rig_id == rig_id]
    most = max(cell.left for cell in on_rig)
    place = {
        item.case_id: index
        for index, item in reversed(list(enumerate(bench_plan.order.items)))
        if item.rig_id == rig_id and item.kind is ItemKind.PASS
    }

    def rank(cell: PlanCell) -> tuple[bool, bool, int]:
        title_id = contents.cases[cell.case_id].title_id
        loaded = (
            last is not None
            and last.rig_id == rig_id
            and contents.cases[last.case_id].title_id == title_id
        )
        return cell.left < most, not loaded, place.get(cell.case_id, len(place))

    cell = min(on_rig, key=rank)
    return pass_on(contents, bench_plan, cell.rig_id, cell.case_id, last)


def pass_on(
    contents: Contents, bench_plan: BenchPlan, rig_id: str, case_id: str, last: Run | None
) -> NextPass:
    """One more pass of a case on a rig, after the newest run."""
    repeats = [
        run.repeat
        for run in contents.runs.values()
        if (run.rig_id, run.case_id) == (rig_id, case_id)
    ]
    title_id = contents.cases[case_id].title_id
    times = bench_plan.plan.times_of(title_id)
    return NextPass(
        rig_id=rig_id,
        case_id=case_id,
        repeat=max(repeats, default=0) + 1,
        steps=_steps(contents, rig_id, case_id, last, times.warm_up),
        pass_s=times.pass_s,
        left=sum(cell.left for cell in bench_plan.kept),
    )


def newest_run(contents: Contents, review: Review) -> Run | None:
    """The run of a review that was taken last; of runs without a moment, the last entered."""
    rig_ids = {seat.rig_id for seat in review.seats}
    runs = [run for run in contents.runs.values() if run.rig_id in rig_ids]
    if not runs:
        return None
    return max(enumerate(runs), key=lambda pair: (pair[1].taken_at, pair[0]))[1]


def _steps(
    contents: Contents, rig_id: str, case_id: str, last: Run | None, warm_up: bool
) -> tuple[str, ...]:
    """What to do before the pass, in order."""
    rig, case = contents.rigs[rig_id], contents.cases[case_id]
    title = contents.titles[case.title_id].name
    steps = []
    if last is None or last.rig_id != rig_id:
        steps.append(f"Set up {rig.name}.")
        last = None
    ticks = latest_ticks(contents, rig_id)
    left = sum(step.key not in ticks for step in steps_for(contents, rig_id) if not step.optional)
    if left:
        steps.append(f"Go through pre-flight: {count_text(left, 'step')} left.")
    loaded = last is not None and contents.cases[last.case_id].title_id == case.title_id
    if not loaded:
        steps.append(f"Load {title}.")
    if last is None or last.case_id != case_id:
        steps.append(f"Set {_settings(case)}.")
    if not loaded and warm_up:
        steps.append("Play one pass that is not counted.")
    return tuple(steps)


def _settings(case: Case) -> str:
    said = [word for word in (case.resolution, case.preset) if word]
    said += [f"{name} {word}" for name, word in settings_of(case) if name not in SETTINGS_FIRST]
    return ", ".join(said) or "the settings of the case"


SETTINGS_FIRST = ("scene", "method", "resolution", "preset")


def settings_of(case: Case) -> tuple[tuple[str, str], ...]:
    """The settings of a case written out: (name, words), blanks left out, the cap always said."""
    said = [(name, getattr(case, field)) for field, name in CASE_FACTS]
    cap = "off" if case.frame_cap_fps is None else amount(case.frame_cap_fps, "fps")
    return (*((name, words) for name, words in said if words), ("frame cap", cap))


def work_line(contents: Contents, going: NextPass | None) -> str:
    """What is to be done now, in one sentence."""
    if going is None:
        return "Every planned pass is done. Look at the findings, or plan more repeats."
    rig = contents.rigs[going.rig_id].name
    return (
        f"Next: {contents.case_label(going.case_id)} on {rig}, pass {going.repeat}, "
        f"{duration_text(going.pass_s)}; {count_text(going.left, 'pass', 'passes')} left."
    )

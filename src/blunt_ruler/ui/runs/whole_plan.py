"""Passes as the simulated bench plays them: one that is looked at, and all a plan still wants."""

import zlib
from collections.abc import Iterator
from dataclasses import dataclass, replace

from blunt_ruler.bench.simulator import Faults, Setting, check_setting, play_run
from blunt_ruler.bench.specs import BenchRig, bench_rig, bench_rigs, bench_titles
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.plan.bench_plan import BenchPlan
from blunt_ruler.core.plan.next_pass import NextPass, pass_on
from blunt_ruler.core.records.records import Contents, Decision, Origin, Trace
from blunt_ruler.core.runs.import_runs import Arrival, CaseName
from blunt_ruler.core.text import list_text
from blunt_ruler.core.types import Progress
from blunt_ruler.logbook.store import now_text
from blunt_ruler.processes import spread_out

TOUR_TITLE = "Tidewrack"
MENU_S = 9.0
ENOUGH_REPEATS = 3  # for one of them to be faulty
SOUND = Faults()
FEWEST = 12  # passes, from which on it pays to start processes


@dataclass(frozen=True, slots=True)
class BenchPass:
    """One pass: its rig and case in the review, and what the bench plays for it."""

    rig_id: str
    case_id: str
    rig: BenchRig
    setting: Setting
    seed: int
    repeat: int
    faults: Faults = SOUND


def bench_pass(contents: Contents, going: NextPass) -> BenchPass:
    """What the bench plays for a pass; UserFixable says why it cannot."""
    rig = contents.rigs[going.rig_id].name
    case = contents.cases[going.case_id]
    title = contents.titles[case.title_id].name
    played_on = bench_rig(rig)  # in the state that its name says
    if played_on is None:
        fix = f"It has {list_text([*bench_rigs()])}"
        raise UserFixable("rig", f"it has no rig “{rig}”", fix)
    if title not in bench_titles():
        fix = f"It has {list_text([*bench_titles()])}"
        raise UserFixable("title", f"it has no title “{title}”", fix)
    setting = Setting(bench_titles()[title], case.resolution, case.preset, going.pass_s)
    check_setting(setting)
    seed = zlib.crc32(f"{going.rig_id}/{going.case_id}".encode())  # the same in every session
    return BenchPass(going.rig_id, going.case_id, played_on, setting, seed, going.repeat)


def passes_left(contents: Contents, plan: BenchPlan) -> tuple[tuple[BenchPass, ...], int, str]:
    """The passes of a plan that are not taken yet, rig after rig in its order; how many of them the
    bench cannot play, and why not the first. One pass of the tour's title has a menu left in, so
    that there is something to find.
    """
    place = {rig_id: at for at, rig_id in enumerate(plan.order.tour.order)}
    todo = sorted(
        (cell for cell in plan.kept if cell.left > 0),
        key=lambda cell: place.get(cell.rig_id, len(place)),
    )
    passes: list[BenchPass] = []
    left_out, why, planted = 0, "", False
    for cell in todo:
        first = pass_on(contents, plan, cell.rig_id, cell.case_id, None)
        try:
            one = bench_pass(contents, first)
        except UserFixable as error:
            left_out, why = left_out + cell.left, why or f"{error.what}. {error.fix}"
            continue
        repeats = [replace(one, repeat=one.repeat + more) for more in range(cell.left)]
        wanted = one.setting.title.name == TOUR_TITLE and cell.left >= ENOUGH_REPEATS
        if wanted and not planted:
            planted = True
            repeats[1] = replace(repeats[1], faults=Faults(menu_s=MENU_S))
        passes += repeats
    return tuple(passes), left_out, why


def arrival_of(contents: Contents, one: BenchPass, stopped: str = "") -> Arrival:
    """A pass of the bench as it is taken in; one that was stopped is to be redone."""
    case = contents.cases[one.case_id]
    title = contents.titles[case.title_id].name
    return Arrival(
        rig=contents.rigs[one.rig_id].name,
        case=CaseName(title, case.scene, case.resolution, case.preset),
        figures=None,
        trace_sha256=None,
        origin=Origin(kind="simulated"),
        taken_at=now_text(),
        case_id=case.id,
        decision=Decision.REDO if stopped else Decision.KEEP,
        reason=stopped,
    )


def played(passes: tuple[BenchPass, ...], step: Progress) -> Iterator[tuple[BenchPass, Trace]]:
    """Each pass with its trace, in their order, on all cores."""
    for number, trace in enumerate(spread_out(_play, passes, FEWEST)):
        one = passes[number]
        step(f"Taking {one.setting.title.name} on {one.rig.name}", number / len(passes))
        yield one, trace


def _play(one: BenchPass) -> Trace:
    return play_run(one.rig, one.setting, one.seed, one.repeat, one.faults)

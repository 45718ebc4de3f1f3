"""Runs of the simulated bench in the contents of a logbook, without a file."""

from dataclasses import replace

import pytest

from blunt_ruler.bench.simulator import Faults, Setting, play_run
from blunt_ruler.bench.specs import bench_rigs, bench_titles
from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.measure.trace_summary import observe
from blunt_ruler.core.records.records import Contents, Origin, Review, Run
from blunt_ruler.demo import scenario

SECONDS = 25.0


class Lab:
    """Plays passes of the demo's rigs and cases and keeps them as the runs of a review."""

    def __init__(self):
        self.contents = replace(
            Contents.empty(),
            hosts={host.id: host for host in scenario.HOSTS},
            cards={card.id: card for card in scenario.CARDS},
            docks={dock.id: dock for dock in scenario.DOCKS},
            links={link.id: link for link in scenario.LINKS},
            rigs={rig.id: rig for rig in scenario.RIGS},
            titles={title.id: title for title in scenario.TITLES},
            cases={case.id: case for case in scenario.CASES},
        )
        seats = tuple(scenario.ReviewRig(rig_id=rig.id) for rig in scenario.RIGS)
        cases = tuple(case.id for case in scenario.CASES)
        self.review = Review(id="all", name="All", seats=seats, case_ids=cases)

    def take(self, rig_id, case_id, seed, repeat=1, seconds=SECONDS, play=None, **faults):
        """One pass; `play` plays another case's settings than the one it is entered for."""
        rig, case = self.contents.rigs[rig_id], self.contents.cases[play or case_id]
        title = bench_titles()[self.contents.titles[case.title_id].name]
        setting = Setting(title, case.resolution, case.preset, seconds)
        trace = play_run(bench_rigs()[rig.name], setting, seed, repeat, Faults(**faults))
        run = Run(
            id=f"{rig_id}_{case_id}_{repeat}",
            rig_id=rig_id,
            case_id=case_id,
            repeat=repeat,
            origin=Origin(kind="simulated"),
            trace_sha256=f"{rig_id}{case_id}{repeat}{seed}",
            figures=measure(trace.frame_times_ms),
            observed=observe(trace.frame_times_ms, trace.telemetry),
        )
        return self.put(run)

    def put(self, run):
        self.contents = self.contents.with_records({"runs": {run.id: run}})
        return run


@pytest.fixture
def lab():
    return Lab()


@pytest.fixture(scope="session")
def new_lab():
    return Lab

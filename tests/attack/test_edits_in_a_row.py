"""Random edits one after another: what is taken over from before is what is found from nothing."""

import os
from dataclasses import fields

import numpy as np
import pytest

from blunt_ruler.core.analysis.analyse import begin, fit_whole, settle
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Tick, TickState
from blunt_ruler.core.records.records import CaseWeight, Contents, Decision
from blunt_ruler.core.writeup.trace import traced_figures

DEEP = bool(os.environ.get("TEST_DEEP"))
SEEDS = int(os.environ.get("ATTACK_EDITS", "0")) // 4 or 3
STEPS = 6


def anew(contents):
    """The same records as other objects, so that nothing that is kept knows them."""
    return Contents(
        **{
            one.name: {
                key: record.model_copy(deep=True)
                for key, record in getattr(contents, one.name).items()
            }
            for one in fields(contents)
        }
    )


def edited(rng, contents):
    """Contents with something changed that an analysis reads."""

    def pick(table):
        records = getattr(contents, table)
        return records[str(rng.choice(list(records)))]

    def put(table, record, **update):
        return contents.with_records({table: {record.id: record.model_copy(update=update)}})

    run, rig, review = pick("runs"), pick("rigs"), pick("reviews")
    case, title = pick("cases"), pick("titles")
    match int(rng.integers(0, 24)):
        case 0 | 1 | 2 if run.figures is not None:
            rate = run.figures.average_fps * float(np.exp(rng.normal(0, 0.06)))
            return put("runs", run, figures=run.figures.model_copy(update={"average_fps": rate}))
        case 3:
            return put("runs", run, decision=list(Decision)[int(rng.integers(0, 3))], reason="x")
        case 4:
            return put("rigs", rig, name=f"{rig.name}x")
        case 5:
            return put(
                "rigs", rig, state=rig.state.model_copy(update={"driver": str(rng.random())})
            )
        case 6:
            return put("titles", title, name=f"{title.name}y")
        case 7:
            ids = [str(one) for one in rng.permutation(review.case_ids)]
            return put("reviews", review, case_ids=tuple(ids[: max(2, len(ids) - 1)]))
        case 8:
            return put("reviews", review, clean_only=not review.clean_only, notes="n")
        case 9:
            return contents.with_records({"runs": {run.id: None}})
        case 10:
            drift = review.thresholds.model_copy(update={"drift": float(rng.uniform(0.01, 0.1))})
            return put("reviews", review, thresholds=drift)
        case 11 if contents.links:
            link = pick("links")
            return put("links", link, hops=link.hops[::-1], name=f"{link.name}z")
        case 12 if rig.measured_gb_per_s:
            return put("rigs", rig, measured_gb_per_s=rig.measured_gb_per_s * 0.8)
        case 13:
            card = pick("cards")
            return put("cards", card, board_power_w=float(rng.uniform(60, 320)))
        case 14:
            return put("cases", case, frame_cap_fps=None if case.frame_cap_fps else 60.0)
        case 15:
            return put("cases", case, preset=str(rng.choice(("Low", "High", "Ultra"))))
        case 16:
            return put("titles", title, tags=("x",) if not title.tags else ())
        case 17:
            low, mean = (
                list(one)[int(rng.integers(0, len(one)))] for one in (LowSchool, MeanSchool)
            )
            return put("reviews", review, low_school=low, mean=mean)
        case 18:
            weights = (CaseWeight(case_id=case.id, weight=2.0),)
            return put("reviews", review, weights=weights, remembers=not review.remembers)
        case 19:
            again = run.model_copy(update={"id": str(rng.random()), "repeat": run.repeat + 9})
            return contents.with_records({"runs": {again.id: again}})
        case 20:
            seats = [review.seats[int(at)] for at in rng.permutation(len(review.seats))]
            return put("reviews", review, seats=tuple(seats))
        case 21:
            other = pick("rigs")
            return put("runs", run, rig_id=other.id)
        case 22 if contents.changes:
            return contents.with_records({"changes": {pick("changes").id: None}})
        case 23:
            tick = Tick(
                id=str(rng.random()),
                rig_id=rig.id,
                step="link_under_load",
                state=TickState.DONE,
                at="2026-10-01T08:00:00",
                reading="3.0 x2",
            )
            return contents.with_records({"ticks": {tick.id: tick}})
        case _:
            day = f"2026-10-0{rng.integers(5, 8)}"
            change = Change(id=str(rng.random()), at=day, what="driver", rig_ids=(rig.id,))
            return contents.with_records({"changes": {change.id: change}})


def figures(analysis):
    """Every figure but those of the fit, which ends within its tolerance of where another does."""
    return {
        (one.figure, one.rig, one.case): (one.value, one.low, one.high, one.runs)
        for one in traced_figures(analysis)
        if not one.figure.startswith(("lost_", "loss_", "limit"))
    }


@pytest.mark.parametrize("seed", range(SEEDS))
def test_what_is_taken_over_is_what_is_found_from_nothing(demo_contents, seed):
    rng = np.random.default_rng(seed)
    contents, found = demo_contents, None
    for _ in range(STEPS):
        contents = edited(rng, contents)
        review = contents.reviews[str(rng.choice(list(contents.reviews)))]
        begun = begin(contents, review, found)
        found = begun if begun.settled else settle(contents, review, before=found, begun=begun)
        if rng.random() < 0.7:
            found = fit_whole(found)
    fresh = anew(contents)
    expected = settle(fresh, fresh.reviews[review.id])
    assert found.checked.findings == expected.checked.findings
    assert dict(found.board.cells) == dict(expected.board.cells)
    assert found.board.totals == expected.board.totals
    assert found.bench_plan == expected.bench_plan
    got, wanted = figures(found), figures(expected)
    assert got.keys() == wanted.keys()
    for key, (value, low, high, runs) in wanted.items():
        assert got[key][3] == runs, key
        assert got[key][:3] == pytest.approx((value, low, high), nan_ok=True), key

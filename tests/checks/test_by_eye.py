"""Checks on figures that no trace stands behind, and the sentence that says what was checked."""

import numpy as np
import pytest

from blunt_ruler.core.checks.all import check_runs, checks_line
from blunt_ruler.core.checks.findings import About, Check
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.records.hardware import Card, Host, Link, Rig
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.records.review_edits import first_review
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells


def typed(*cells, records=()):
    """Contents and review after some cells were typed: (rig, case, text)."""
    ids = iter(range(10_000))
    review = first_review(lambda: "review")
    contents = Contents.empty().with_records({"reviews": {review.id: review}})
    for table, record in records:
        contents = contents.with_records({table: {record.id: record}})
    edit = type_cells(
        contents, review, [TypedCell(*cell) for cell in cells], lambda: f"id{next(ids)}"
    )
    tables = {"Rig": "rigs", "Title": "titles", "Case": "cases", "Run": "runs", "Review": "reviews"}
    for record in edit.put:
        table = tables[type(record).__name__]
        contents = contents.with_records({table: {record.id: record}})
    return contents, contents.reviews[review.id]


def found(contents, check):
    return [one for one in check_runs(contents, None).findings if one.check is check]


def test_five_cells_on_sixty_are_named_and_said():
    cases = [f"Title {n} / 1080p" for n in range(5)]
    others = [("A", f"Other {n} / 1080p", str(71 + 7 * n)) for n in range(7)]
    contents, _ = typed(*[("A", case, "60.0") for case in cases], *others)
    (one,) = found(contents, Check.HELD_FIGURE)
    assert (one.about, one.severity, len(one.runs)) == (About.CASE, Severity.BLOCKING, 5)
    said = checks_line(check_runs(contents, None))
    assert said.startswith("12 kept; none has a trace, so caps and menus cannot be seen")
    assert "5 sit on 60" in said


def test_a_figure_on_a_step_that_more_pixels_beat_is_held():
    contents, _ = typed(("A", "Tidewrack / 1080p", "60"), ("A", "Tidewrack / 1440p", "74"))
    (one,) = found(contents, Check.HELD_FIGURE)
    assert one.severity is Severity.BLOCKING
    assert "more pixels are faster" in one.signs
    assert found(contents, Check.FASTER_AT_HIGHER_RESOLUTION)
    assert "1 sits on 60" in checks_line(check_runs(contents, None))


def test_more_pixels_that_are_level_beat_no_figure_on_a_step():
    contents, _ = typed(("A", "Tidewrack / 1080p", "60"), ("A", "Tidewrack / 1440p", "61.5"))
    assert not found(contents, Check.HELD_FIGURE)


def test_passes_on_both_sides_of_a_step_are_no_cap():
    """Three passes between 84.9 and 86.2, whose mean lies on half of 170."""
    cells = [("A", "One / 1080p", rate) for rate in ("84.9", "85.6", "86.2")]
    contents, _ = typed(*cells, ("A", "Two / 1080p", "85"), ("A", "One / 1440p", "91"))
    assert not found(contents, Check.HELD_FIGURE)


def test_once_on_a_step_is_chance_and_twice_a_caution():
    contents, _ = typed(("A", "One / 1080p", "60"), ("A", "Two / 1080p", "81"))
    assert not found(contents, Check.HELD_FIGURE)
    contents, _ = typed(("A", "One / 1080p", "60"), ("A", "Two / 1080p", "60"))
    (one,) = found(contents, Check.HELD_FIGURE)
    assert one.severity is Severity.CAUTION


def test_a_cap_that_is_meant_is_none():
    contents, _ = typed(*[("A", f"Title {n} / 1080p", "60") for n in range(4)])
    capped = {
        key: case.model_copy(update={"frame_cap_fps": 60.0}) for key, case in contents.cases.items()
    }
    assert not found(contents.with_records({"cases": capped}), Check.HELD_FIGURE)


def test_one_figure_in_many_cells_is_asked_about():
    same = [(rig, f"Title {n} / 1080p", "67") for rig in "AB" for n in range(2)]
    contents, _ = typed(*same, ("A", "Other / 1080p", "93"))
    (one,) = found(contents, Check.SAME_FIGURE)
    assert "67 appears in 4 cells" in one.says


def test_flat_over_resolution_is_a_note_without_a_trace():
    contents, _ = typed(("A", "Tidewrack / 1080p", "71"), ("A", "Tidewrack / 2160p", "70.5"))
    (one,) = found(contents, Check.FLAT_OVER_RESOLUTION)
    assert one.severity is Severity.NOTE


def test_a_lesser_host_that_wins_is_named():
    card, link = Card(id="c", name="Marram 12"), Link(id="l", name="Cord", hops=())
    hosts = [
        Host(id="small", name="Quillon 24", cores=4, sustained_power_w=25),
        Host(id="large", name="Workbench", cores=12, sustained_power_w=120),
    ]
    rigs = [
        Rig(id="a", name="A", host_id="small", card_id="c", link_id="l", measured_gb_per_s=6),
        Rig(id="b", name="B", host_id="large", card_id="c", link_id="l", measured_gb_per_s=24),
    ]
    records = [("cards", card), ("links", link)]
    records += [("hosts", host) for host in hosts] + [("rigs", rig) for rig in rigs]
    cells = [("A", "Tidewrack / 1080p", "91"), ("B", "Tidewrack / 1080p", "70")]
    contents, _ = typed(*cells, records=records)
    (one,) = found(contents, Check.LESSER_PART_WINS)
    assert "lesser host" in one.says
    contents, _ = typed(cells[0], ("B", "Tidewrack / 1080p", "~90"), records=records)
    assert not found(contents, Check.LESSER_PART_WINS)


def test_ten_times_too_much_against_the_other_cells_is_asked_about():
    rates = {"A": 1.0, "C": 1.2, "D": 1.4, "B": 1.6}
    cells = [
        (rig, f"Title {n} / 1080p", f"{rate * (41 + 13 * n):.0f}")
        for rig, rate in rates.items()
        for n in range(5)
    ]
    cells[-1] = ("B", "Title 4 / 1080p", "1490")
    contents, _ = typed(*cells)
    (one,) = found(contents, Check.IMPOSSIBLE_FIGURES)
    assert "Was 149 meant?" in one.remedy


def test_passes_read_by_eye_that_scatter_are_not_accused():
    contents, _ = typed(("A", "Tidewrack / 1080p", "58 66 61 55"), ("B", "Tidewrack / 1080p", "90"))
    assert not check_runs(contents, None).findings


@pytest.mark.parametrize("bad", range(3))
@pytest.mark.parametrize("digits", [0, 1])
@pytest.mark.parametrize("times", [0.7, 0.85, 1.2, 1.5])
def test_the_odd_one_of_three_typed_passes_is_named(times, digits, bad):
    values = [70.1, 69.8, 70.4]
    values[bad] *= times
    odd = " ".join(f"{value:.{digits}f}" for value in values)
    beside = ("35.2 35.0 34.9", "55.1 54.8 55.4")
    contents, _ = typed(
        ("C", "Tidewrack / 1080p", odd),
        *((rig, "Tidewrack / 1080p", text) for rig, text in zip("AB", beside, strict=True)),
    )
    (one,) = check_runs(contents, None).findings
    assert (one.check, one.about) == (Check.DISAGREEING_REPEAT, About.RUN)
    run = contents.runs[one.run_id]
    assert (contents.rigs[run.rig_id].name, run.repeat) == ("C", bad + 1)


def test_two_typed_passes_that_disagree_are_named_as_a_pair():
    contents, _ = typed(("A", "Tidewrack / 1080p", "70.1 104.9"))
    (one,) = check_runs(contents, None).findings
    assert (one.about, set(one.runs)) == (About.CELL, set(contents.runs))
    assert "70.1, 104.9" in one.says
    contents, _ = typed(("A", "Tidewrack / 1080p", "60-68 64-75"))
    assert not check_runs(contents, None).findings  # the ranges overlap


def test_a_bound_is_no_pass_that_disagrees():
    contents, _ = typed(("A", "Tidewrack / 1080p", "104.9 104.2 60+"))
    assert not check_runs(contents, None).findings


def test_bounds_are_not_set_beside_figures():
    contents, _ = typed(("A", "Tidewrack / 1080p", "60+"), ("A", "Tidewrack / 1440p", "90"))
    assert not found(contents, Check.FASTER_AT_HIGHER_RESOLUTION)


@pytest.mark.parametrize("rigs", [2, 4])
def test_sound_figures_by_eye_are_left_alone(rigs):
    """Rates that follow the pixels and a host, read as whole numbers: few are asked about."""
    rng = np.random.default_rng(rigs)
    asked = cells = 0
    for _ in range(60):
        speeds = np.cumprod(1.0 + rng.uniform(0.15, 0.8, rigs))
        sheet = []
        for title in range(5):
            scale = rng.uniform(30, 110)
            for pixels, name in ((1.0, "1080p"), (1.78, "1440p")):
                for rig, speed in enumerate(speeds):
                    rate = scale * speed * pixels**-0.7 * np.exp(rng.normal(0, 0.025))
                    sheet.append((f"R{rig}", f"T{title} / {name}", f"{rate:.0f}"))
        contents, _ = typed(*sheet)
        blocked = {
            run
            for one in check_runs(contents, None).findings
            if one.severity is Severity.BLOCKING
            for run in one.runs
        }
        asked += len(blocked)
        cells += len(sheet)
    assert asked <= 0.01 * cells


def test_kinds_are_kept_with_the_run():
    contents, _ = typed(("A", "Tidewrack / 1080p", "45-50"))
    (run,) = contents.runs.values()
    assert run.how_read.kind is Kind.RANGE

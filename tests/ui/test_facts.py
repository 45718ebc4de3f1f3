"""Facts in the evidence column: every field can be said, unsaid, undone and found in the file."""

import pytest
from PyQt6.QtWidgets import QComboBox
from reach import stop

from blunt_ruler.core.limits.evidence import evidence_of, gauges_of
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.records import Case, Meters, Review, Run, Title
from blunt_ruler.core.rigs.fields import UNKNOWN, FieldKind, fields_of
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.desk.snapshot import new_id

CASE = "Tidewrack / coast run / 1080p / High"
VALUES = {
    "parts": "graphics 0.85; cpu 0.15",
    "scene": "harbour",
    "resolution": "1440p",
    "preset": "Low",
    "kind": "synthetic",
}
HEADINGS = {
    "This case": Case,
    "This title": Title,
    "This review": Review,
    "Read beside the run": Meters,
    "This run": Run,
}
FIELDS = [
    (heading, spec)
    for heading, model in HEADINGS.items()
    for spec in fields_of(model)
    if spec.name not in ("name",)
]


@pytest.fixture
def cells(window, tmp_path, settle):
    """The Board of a small logbook, standing on a typed cell."""
    window.desk.create(tmp_path / "small.blunt")
    settle(window)
    sheet = [TypedCell(rig, CASE, text) for rig, text in (("Built-in", "27"), ("Sluice", "69.5"))]
    window.desk.make("typing", lambda contents, review: type_cells(contents, review, sheet, new_id))
    settle(window)
    page = stop(window, "Board").cells
    page.table.setCurrentIndex(page.model.index(0, 1))
    return page


def record(window, heading):
    return record_of(window.desk.snapshot.contents, heading)


def record_of(contents, heading):
    if heading == "This review":
        return next(iter(contents.reviews.values()))
    (case,) = contents.cases.values()
    if heading == "This case":
        return case
    if heading == "This title":
        return contents.titles[case.title_id]
    run = list(contents.runs.values())[-1]
    return run if heading == "This run" else run.meters or Meters()


def say(page, heading, spec, text):
    field = page.facts.of[heading].form.fields[spec.name]
    if isinstance(field.box, QComboBox):
        field.box.setCurrentText(text)
        field.box.textActivated.emit(text)
    else:
        field.box.setText(text)
        field.box.editingFinished.emit()


def value_for(spec, before=""):
    if spec.kind is FieldKind.CHOICE:
        others = [one for one in spec.choices[::-1] if one not in (UNKNOWN, before)]
        return VALUES.get(spec.name) or others[0]
    return VALUES.get(spec.name, "42" if spec.kind is FieldKind.NUMBER else "as said")


@pytest.mark.parametrize(
    "heading",
    [
        pytest.param(one, marks=[pytest.mark.deep] if one in ("This title", "This case") else [])
        for one in HEADINGS
    ],
)
def test_every_fact_can_be_said_undone_and_found_in_the_file(cells, window, settle, heading):
    for spec in [spec for one, spec in FIELDS if one == heading]:

        def stored(spec=spec):
            return spec.text(getattr(record(window, heading), spec.name))

        before = stored()
        wanted = value_for(spec, before)
        assert wanted != before, spec.says
        say(cells, heading, spec, wanted)
        settle(window)
        assert stored() == wanted, spec.says
        with Logbook.open(window.desk.snapshot.path) as book:
            filed = record_of(book.contents(), heading)
            assert spec.text(getattr(filed, spec.name)) == wanted, spec.says
        window.desk.undo()
        settle(window)
        assert stored() == before, spec.says
        if before == "" and not spec.choices:
            say(cells, heading, spec, wanted)
            settle(window)
            say(cells, heading, spec, "")
            settle(window)
            assert stored() == "", spec.says


def test_the_heading_counts_what_is_open(cells, window, settle):
    head = cells.facts.of["Read beside the run"].head
    assert head.text() == "Read beside the run · 10 open"
    spec = next(one for one in fields_of(Meters) if one.name == "card_busy_pct")
    say(cells, "Read beside the run", spec, "97")
    settle(window)
    assert head.text() == "Read beside the run · 9 open"


def test_a_run_on_the_sheet_has_the_same_facts(demo_window, settle):
    runs = stop(demo_window, "Runs")
    demo_window.go_to("Runs")
    run = next(iter(demo_window.desk.snapshot.contents.runs.values()))
    runs.show_run(run.id)
    settle(demo_window)
    field = runs.list.facts.of["This run"].form.fields["notes"]
    field.box.setText("fan at full speed")
    field.box.editingFinished.emit()
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.runs[run.id].notes == "fan at full speed"


def test_what_cannot_stand_says_why_and_stays(cells, window, settle):
    spec = next(one for one in fields_of(Meters) if one.name == "card_busy_pct")
    say(cells, "Read beside the run", spec, "140")
    settle(window)
    field = cells.facts.of["Read beside the run"].form.fields["card_busy_pct"]
    assert "at most 100" in field.wrong.text()
    assert field.text() == "140"
    assert record(window, "Read beside the run").is_blank


def test_readings_of_figures_by_eye_feed_the_evidence_of_limits(cells, window, settle):
    for name, text in (("card_busy_pct", "98"), ("core_busy_pct", "50"), ("wall_w", "240")):
        spec = next(one for one in fields_of(Meters) if one.name == name)
        say(cells, "Read beside the run", spec, text)
        settle(window)
    snapshot = window.desk.snapshot
    run = record(window, "This run")
    gauges = gauges_of(snapshot.contents, snapshot.board, run.rig_id, run.case_id)
    assert (gauges.card_busy, gauges.core, gauges.by_eye) == (98, 50, True)
    assert any("98" in one.words and "by eye" in one.words for one in evidence_of(gauges))
    assert run.reading(Gauge.WALL_POWER) == 240
    assert run.reading(Gauge.NOISE) is None


def test_what_is_varied_on_purpose_and_the_school_of_lows_are_chosen_with_the_review(
    demo_window, settle
):
    box = stop(demo_window, "Board").cells.order_box
    assert box.varies.text() == "varies nothing on purpose"
    box.facts["power_mode"].trigger()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.varies == ("power_mode",)
    assert box.varies.text() == "varies: power mode"
    box.lows.setCurrentIndex(1)
    box.lows.activated.emit(1)
    settle(demo_window)
    assert demo_window.desk.snapshot.review.low_school == box.lows.itemData(1)
    demo_window.desk.undo()
    settle(demo_window)
    demo_window.desk.undo()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.varies == ()

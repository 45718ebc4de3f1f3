"""The write-up says what the figures say, in the reviewer's order, and hides nothing."""

from dataclasses import replace

import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Tick, TickState
from blunt_ruler.core.records.pricing import Price
from blunt_ruler.core.records.records import Contents, Decision, Origin, Review, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.writeup_settings import Disclosure, SectionKey, Terms, WriteUp
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.corrections import PastEdit
from blunt_ruler.core.writeup.document import Bullets, ChartKey, Grid, Paragraph
from blunt_ruler.core.writeup.narration import (
    narration,
)
from blunt_ruler.core.writeup.trace import DESCRIBED, figure_words, traced_figures
from blunt_ruler.logbook import Logbook

REVIEWS = ("which-link", "which-card")


@pytest.fixture(scope="module")
def analyses(demo_contents, demo_analysis):
    other = analyse(demo_contents, demo_contents.reviews["which-card"])
    return {"which-link": demo_analysis, "which-card": other}


def with_writeup(analysis, **changes):
    """The same analysis with the write-up decided otherwise."""
    writeup = analysis.review.writeup.model_copy(update=changes)
    return replace(analysis, review=analysis.review.model_copy(update={"writeup": writeup}))


def section(document, key):
    return next(one for one in document.sections if one.key is key)


def words_of(document, key):
    return [one.words for one in section(document, key).sentences]


@pytest.mark.parametrize("review", REVIEWS)
def test_every_printed_figure_is_traced_to_its_value_and_its_runs(analyses, demo_edits, review):
    analysis = analyses[review]
    document = compose(analysis, demo_edits)
    traced = {(one.figure, one.rig, one.case): one for one in traced_figures(analysis)}
    figures = document.figures
    assert len(figures) > 150
    for figure in figures:
        found = traced[figure.figure, figure.rig, figure.case]
        assert found.value == pytest.approx(figure.value, rel=1e-12)
        if figure.figure not in DESCRIBED:
            assert found.runs, figure
            for run_id in found.runs:
                assert analysis.contents.runs[run_id].decision is Decision.KEEP


@pytest.mark.parametrize("review", REVIEWS)
def test_traced_means_lie_within_their_bounds(analyses, review):
    for one in traced_figures(analyses[review]):
        if one.low is not None and one.high is not None and one.value is not None:
            assert one.low <= one.value + 1e-9 <= one.high + 2e-9, one


def test_it_has_every_section_and_every_chart(analyses, demo_edits):
    document = compose(analyses["which-link"], demo_edits)
    # nothing went wrong in the demo, and nobody wrote points
    quiet = {SectionKey.FOR_AND_AGAINST, SectionKey.WENT_WRONG}
    assert [one.key for one in document.sections] == [k for k in SectionKey if k not in quiet]
    assert set(document.charts) == set(ChartKey) - {ChartKey.REFERENCES}, "it has one reference"
    for one in document.sections:
        assert one.blocks, one.key
    assert document.as_of == "2026-10-13"


def test_what_a_reviewer_forgets_is_stated(analyses, demo_edits):
    document = compose(analyses["which-link"], demo_edits)
    tested = " ".join(words_of(document, SectionKey.TESTED))
    method = " ".join(words_of(document, SectionKey.METHOD))
    assert "driver Dune 41.3" in tested
    assert "monitor on the card at 1920 × 1080, 60 Hz" in tested
    assert "No case has a frame cap noted" in method
    assert "played by the simulated bench" in method
    assert "is the percentile one" in method
    assert "157 runs were taken and 150 counted" in method
    said = words_of(document, SectionKey.DISCLOSURES)
    assert said[0].startswith("Sluice dock: on loan from its maker")
    assert said[-1] == (
        "Where these came from is not stated: Groyne, Breakwater and Workbench tower."
    )


@pytest.mark.parametrize("review", REVIEWS)
def test_counted_runs_with_a_finding_are_as_many_as_the_checks_found(analyses, review):
    analysis = analyses[review]
    grave = {
        run_id
        for run_id, found in analysis.checked.by_run.items()
        if any(one.severity in (Severity.BLOCKING, Severity.CAUTION) for one in found)
    }
    runs = analysis.board.runs
    count = sum(run.id in grave for place in runs for run in analysis.board.counted(*place))
    method = " ".join(words_of(compose(analysis), SectionKey.METHOD))
    said = f"{count} counted run" if count else "no counted run carries a finding"
    assert said in method


def test_runs_that_do_not_count_are_named_with_their_reason(analyses, demo_edits):
    said = words_of(compose(analyses["which-link"], demo_edits), SectionKey.NOT_TESTED)
    assert sum(one.startswith("Not counted, set aside") for one in said) == 7
    assert any("(cord came up at two lanes)" in one for one in said)


def test_a_cell_without_a_run_is_not_passed_over(analyses, demo_contents):
    review = demo_contents.reviews["which-link"]
    gone = {
        run.id: None
        for run in demo_contents.runs.values()
        if run.rig_id == "groyne-marram-12" and run.case_id == "tidewrack-1080p"
    }
    fewer = demo_contents.with_records({"runs": gone})
    said = words_of(compose(analyse(fewer, review)), SectionKey.NOT_TESTED)
    assert said[0] == ("Groyne Marram 12 was not taken on Tidewrack / coast run / 1080p / High.")
    none = {run.id: None for run in demo_contents.runs.values() if run.rig_id == "groyne-marram-12"}
    without = demo_contents.with_records({"runs": none})
    said = words_of(compose(analyse(without, review)), SectionKey.NOT_TESTED)
    assert said[0] == "Groyne Marram 12 has no counted run."


def test_an_empty_review_says_what_is_missing_and_breaks_nothing():
    review = Review(id="r", name="Nothing yet")
    contents = Contents.empty().with_records({"reviews": {"r": review}})
    document = compose(analyse(contents, review))
    assert words_of(document, SectionKey.RESULTS) == ["There is no counted run yet."]
    assert document.charts == ()
    assert traced_figures(analyse(contents, review)) == ()
    assert narration(analyse(contents, review))


def test_cautions_of_the_parts_used_are_given_and_defer_to_those_who_know(analyses, demo_edits):
    said = words_of(compose(analyses["which-link"], demo_edits), SectionKey.CAUTIONS)
    assert any("Never open a power supply" in one for one in said)
    assert any("Nothing that conducts" in one for one in said), "Groyne is an open board"
    assert "leave mains work to a licensed electrician" in said[-1]
    other = words_of(compose(analyses["which-card"]), SectionKey.CAUTIONS)
    assert (
        "Sluice Marram 8, Sluice Marram 12 and Sluice Marram 16: Quillon 24 asks for "
        "90\u202fW and Sluice charges with 60\u202fW."
    ) in other, "what holds for several rigs is said once"


def test_sections_go_in_the_reviewers_order(analyses):
    base = analyses["which-link"].review.writeup
    moved = base.moved(SectionKey.WORTH, -10).shown(SectionKey.CAUTIONS, False)
    document = compose(with_writeup(analyses["which-link"], **dict(moved)))
    keys = [one.key for one in document.sections]
    assert keys[0] is SectionKey.WORTH
    assert SectionKey.CAUTIONS not in keys
    assert len(keys) == len(SectionKey) - 3
    assert moved.shown(SectionKey.CAUTIONS, True).hidden == ()
    assert moved.moved(SectionKey.WORTH, -1) == moved, "the first cannot go earlier"


def test_a_section_that_an_older_order_does_not_know_stands_where_it_does_by_default():
    old = WriteUp(order=(SectionKey.RESULTS, SectionKey.VERDICT))
    order = old.sections()
    assert order[0] is SectionKey.RESULTS
    at = order.index(SectionKey.VERDICT)
    assert order[at + 1] is SectionKey.FOR_AND_AGAINST
    assert set(old.sections()) == set(SectionKey)


def test_what_did_not_run_and_how_sleep_ended_is_told_as_gone_wrong(demo_contents):
    review = demo_contents.reviews["which-link"]
    failed = Run(
        id="x",
        rig_id="sluice-marram-12",
        case_id=review.case_ids[0],
        repeat=9,
        origin=Origin(kind="typed"),
        outcome="artefacts after a minute",
    )
    tick = Tick(
        id="t",
        rig_id="groyne-marram-12",
        step="sleep",
        state=TickState.DONE,
        at="2026-10-12T10:00:00+00:00",
        reading="no picture.",
    )
    change = Change(id="c", at="2026-10-14", what="title updated")
    contents = demo_contents.with_records(
        {"runs": {"x": failed}, "ticks": {"t": tick}, "changes": {"c": change}}
    )
    said = words_of(compose(analyse(contents, review)), SectionKey.WENT_WRONG)
    assert said == [
        "Tidewrack / coast run / 1080p / High did not run on Sluice Marram 12: artefacts after a "
        "minute.",
        "Groyne Marram 12, after sleep: no picture.",
        "Changed on 2026-10-14: title updated on every rig.",
    ]


def test_own_words_stand_with_a_mark_and_say_when_figures_changed(analyses, demo_contents):
    analysis = analyses["which-link"]
    key = "verdict.rig.groyne-marram-12"
    before = next(
        one for one in section(compose(analysis), SectionKey.VERDICT).sentences if one.key == key
    )
    own = analysis.review.writeup.said(key, "The cord is enough.", before.computed)
    document = compose(with_writeup(analysis, **dict(own)))
    after = next(one for one in section(document, SectionKey.VERDICT).sentences if one.key == key)
    assert (after.words, after.stale) == ("The cord is enough.", False)
    assert after.computed == before.computed
    dearer = demo_contents.with_records({"prices": {"groyne": Price(id="groyne", amount=999)}})
    review = analysis.review.model_copy(update={"writeup": own})
    changed = next(
        one
        for one in section(compose(analyse(dearer, review)), SectionKey.VERDICT).sentences
        if one.key == key
    )
    assert changed.stale
    assert own.said(key, "  ", before.computed).own_words == ()
    assert own.said(key, before.computed, before.computed).own_words == ()


def test_disclosures_in_words(analyses):
    given = (
        Disclosure(what="Groyne and Breakwater", terms=Terms.GIFT, by="a reader"),
        Disclosure(what="Workbench tower", terms=Terms.SPONSOR, notes="named at the end"),
        Disclosure(what="Sluice", terms=Terms.EARLY),
        Disclosure(what="Marram 12", terms=Terms.BOUGHT, by="us"),
    )
    said = words_of(
        compose(with_writeup(analyses["which-link"], disclosures=given)), SectionKey.DISCLOSURES
    )
    assert said == [
        "Groyne and Breakwater: a gift from a reader.",
        "Workbench tower: sponsored; named at the end.",
        "Sluice: an early sample.",
        "Marram 12: bought by us.",
    ], "and nothing is left unstated"


# Corrections, from a journal that was really written


@pytest.fixture
def edited(demo_book):
    """The demo with a few corrections made after it, and how to read them."""
    with Logbook.open(demo_book, clock=lambda: "2026-11-02T10:00:00+00:00") as book:
        contents = book.contents()
        run = contents.runs["groyne-marram-12_tidewrack-1440p_1"]
        away = run.model_copy(update={"decision": Decision.REDO, "reason": "window was open"})
        book.commit("redo", put=[away])
        price = contents.prices["sluice"]
        book.commit("price", put=[price.model_copy(update={"amount": 299.0})])
        book.commit("undone", put=[price.model_copy(update={"amount": 1.0})])
        book.undo()
        other = contents.runs["workbench-marram-16_tidewrack-1440p_1"]
        book.commit("other review", put=[other.model_copy(update={"reason": "x"})])
        reading = contents.readings["groyne-marram-12"]
        book.commit("reading", put=[reading.model_copy(update={"idle_wall_w": 49.0})])
        review = contents.reviews["which-link"]
        book.commit("role", put=[review.model_copy(update={"notes": "n"})])
        return book.contents(), book.edits()


def test_corrections_come_from_the_journal(edited):
    contents, edits = edited
    review = contents.reviews["which-link"]
    said = words_of(compose(analyse(contents, review), edits), SectionKey.CORRECTIONS)
    assert said[0] == "10 changes after first entry, oldest first:"
    assert said[-3:] == [
        "2026-11-02: pass 1 of Tidewrack / coast run / 1440p / High on Groyne Marram 12: redo, "
        "was keep (window was open).",
        "2026-11-02: price of Sluice: amount 299.0, was 310.0.",
        "2026-11-02: readings of Groyne Marram 12: idle wall w 49.0, was 51.0.",
    ]
    assert compose(analyse(contents, review), edits).as_of == "2026-11-02"


def test_a_typed_figure_that_was_mended_and_one_taken_away_are_told(analyses):
    analysis = analyses["which-link"]
    before = (
        '{"id":"a","rig_id":"built-in-ig-6","case_id":"tidewrack-1080p","repeat":2,'
        '"decision":"keep","typed":{"average_fps":519.0}}'
    )
    after, trim = before.replace("519.0", "51.9"), ',"trim":{"from_s":2.0}}'
    edits = (
        PastEdit("2026-11-02T10:00:00", "slip", (("runs", before, after),)),
        PastEdit("2026-11-03T10:00:00", "gone", (("runs", after, None),)),
        PastEdit("2026-11-03T10:00:00", "names only", (("rigs", "{}", "{}"),)),
        PastEdit("2026-11-03T10:00:00", "trim", (("runs", after, f"{after[:-1]}{trim}"),)),
    )
    said = words_of(compose(analysis, edits), SectionKey.CORRECTIONS)
    name = "pass 2 of Tidewrack / coast run / 1080p / High on Built-in iG-6"
    assert said == [
        "3 changes after first entry, oldest first:",
        f"2026-11-02: {name}: 51.9 frames per second, was 519.0.",
        f"2026-11-03: {name}: taken away.",
        f"2026-11-03: {name}: trimmed again.",
    ]


def test_nothing_corrected_is_said_too(analyses):
    said = words_of(compose(analyses["which-link"]), SectionKey.CORRECTIONS)
    assert said == ["No figure was changed after it was first entered."]


# Narration


def test_the_narration_says_which_of_several_references_is_nearest(demo_contents):
    review = demo_contents.reviews["which-link"].with_one_more_reference("breakwater-marram-12")
    analysis = analyse(demo_contents, review)
    lines = [line for cue in narration(analysis) for line in cue.lines]
    said = next(one for one in lines if one.startswith("Groyne Marram 12 comes closest"))
    nearest = analysis.references.nearest("groyne-marram-12")
    assert f"closest to {nearest.reference.name}: " in said
    assert not any(one.startswith("Breakwater Marram 12 comes") for one in lines)


def test_the_narration_follows_the_order_and_names_its_bases(analyses):
    analysis = analyses["which-link"]
    cues = narration(analysis)
    assert cues[0].title == "Verdict"
    results = next(one for one in cues if one.title == "Results")
    assert results.lines[:2] == (
        "The Marram 12 over the 40 Gb/s cable is 2.7 times as fast as the built-in iG-6 on "
        "average, faster in all 6 titles (1.56 to 3.49 times).",
        "It keeps 75 per cent of its speed in the Workbench tower on average, slower in all 6 "
        "titles.",
    )
    scored = next(one for one in results.lines if "scores" in one)
    mean = analysis.scores.means["overall"]["sluice-marram-12"].over_base
    assert f"scores {mean.ratio:.2f} times as high as the built-in iG-6" in scored
    limits = next(one for one in cues if one.title == "What took the frames")
    assert "The Marram 12 has enough at about 8.6 gigabytes a second" in limits.lines[-1]
    moved = with_writeup(analysis, **dict(analysis.review.writeup.moved(SectionKey.RESULTS, -9)))
    assert narration(moved)[0].title == "Results"
    hidden = with_writeup(analysis, hidden=(SectionKey.RESULTS,))
    assert "Results" not in [one.title for one in narration(hidden)]
    for cue in cues:
        for line in cue.lines:
            assert line.endswith(".")
            assert "%" not in line, "read aloud, a sign is a word"


def test_figures_have_plain_names():
    assert figure_words("mean_gain") == "mean gain"
    assert figure_words("cost") == "to buy"
    assert figure_words("loss_link") == "loss: link"


def test_tables_hold_the_boards_figures(analyses):
    document = compose(analyses["which-link"])
    grids = [b for b in section(document, SectionKey.RESULTS).blocks if isinstance(b, Grid)]
    assert [grid.says for grid in grids] == [
        "Average frames per second",
        "1 % low, percentile definition, frames per second",
        "Gain over Built-in iG-6",
        "Change against Workbench Marram 12",
        "Means by resolution, gain over Built-in iG-6",
        "Means by resolution, change against Workbench Marram 12",
        "Scores of synthetic tests, in no mean of games",
        "Scores, gain over Built-in iG-6",
        "Scores, change against Workbench Marram 12",
    ]
    board = analyses["which-link"].board
    for row in grids[0].rows[: len(board.rows)]:
        for cell in row[1:]:
            assert cell.value == board.cells[cell.rig, cell.case].average_fps
    for block in section(document, SectionKey.VERDICT).blocks:
        assert isinstance(block, Bullets | Paragraph | Grid)

"""Reviews from the first click: always one; new, rename, duplicate, delete, all undoable."""

import threading

import pytest
from PyQt6.QtCore import Qt
from reach import stop

from blunt_ruler.core.records.review_edits import FIRST, BadName, new_review, rename_review
from blunt_ruler.core.runs.review_templates import TEMPLATES
from blunt_ruler.logbook import Logbook


@pytest.fixture
def fresh(window, settle, tmp_path):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    return window


def act(window, words):
    window.actions_of.by_name[words].trigger()


def names(window):
    return [one.name for one in window.desk.snapshot.contents.reviews.values()]


def answer(window, settle, name):
    dialog = window.reviews.asking
    dialog.setTextValue(name)
    dialog.accept()
    settle(window)


def test_a_new_logbook_has_a_review_that_rigs_join_and_undo_leaves_it(fresh, qtbot, settle):
    assert names(fresh) == [FIRST]
    assert fresh.desk.snapshot.undo is None  # it is no edit
    fresh.go_to("Bench")
    settle(fresh)
    bench = stop(fresh, "Bench")
    for _ in range(2):
        qtbot.mouseClick(bench.new, Qt.MouseButton.LeftButton)
        settle(fresh)
    assert len(fresh.desk.snapshot.review.seats) == 2
    for _ in range(2):
        fresh.desk.undo()
        settle(fresh)
    assert names(fresh) == [FIRST]
    assert not fresh.desk.snapshot.review.seats


def test_a_review_is_made_renamed_copied_and_deleted(fresh, settle):
    act(fresh, "New review…")
    answer(fresh, settle, "Cable or cord")
    assert names(fresh) == [FIRST, "Cable or cord"]
    assert fresh.desk.snapshot.review.name == "Cable or cord"
    act(fresh, "Rename the review…")
    answer(fresh, settle, FIRST)  # another one's name is said, and asked again
    assert "is another one's" in fresh.reviews.asking.labelText()
    answer(fresh, settle, "Cable or edge")
    assert names(fresh) == [FIRST, "Cable or edge"]
    act(fresh, "Duplicate the review…")
    answer(fresh, settle, "A copy")
    assert fresh.desk.snapshot.review.name == "A copy"
    act(fresh, "Delete the review")
    settle(fresh)
    assert names(fresh) == [FIRST, "Cable or edge"]
    assert "Undo brings it back" in fresh.banner.words.text()
    fresh.desk.undo()
    settle(fresh)
    assert names(fresh) == [FIRST, "Cable or edge", "A copy"]


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda one: one.name)
def test_a_review_is_begun_from_a_template_with_rigs_in_their_roles(fresh, settle, template):
    for count in (1, 2):  # the second takes the rigs that are there
        act(fresh, f"New review: {template.name}…")
        assert fresh.reviews.asking.textValue().startswith(template.name)
        answer(fresh, settle, f"Review {count}")
        snapshot = fresh.desk.snapshot
        rigs = snapshot.contents.rigs
        seats = [(rigs[one.rig_id].name, one.role) for one in snapshot.review.seats]
        assert (snapshot.review.name, seats) == (f"Review {count}", [*template.rigs])
        assert len(rigs) == len(template.rigs)
    fresh.desk.undo()
    settle(fresh)
    assert names(fresh) == [FIRST, "Review 1"]


def test_after_the_last_review_comes_an_empty_one(fresh, settle):
    act(fresh, "Rename the review…")
    answer(fresh, settle, "Mine")
    act(fresh, "Delete the review")
    settle(fresh)
    assert names(fresh) == [FIRST]


def test_a_copy_has_the_rigs_cases_settings_and_plan(demo_window, settle):
    before = demo_window.desk.snapshot
    act(demo_window, "Duplicate the review…")
    answer(demo_window, settle, "Again")
    after = demo_window.desk.snapshot
    assert after.review.model_copy(update={"id": "", "name": ""}) == before.review.model_copy(
        update={"id": "", "name": ""}
    )
    plan = before.contents.plans[before.review.id]
    assert after.contents.plans[after.review.id].repeats == plan.repeats
    assert len(after.contents.runs) == len(before.contents.runs)


def test_the_menu_under_the_name_lists_reviews_and_what_can_be_done(demo_window):
    from blunt_ruler.ui.shell.logbook_menu import logbook_menu

    menu = logbook_menu(
        demo_window, demo_window.desk, demo_window.settings, demo_window.actions_of.menus
    )
    words = [one.text() for one in menu.actions()]
    reviews = [one.name for one in demo_window.desk.snapshot.contents.reviews.values()]
    assert words[: len(reviews)] == reviews
    under = next(one.menu() for one in menu.actions() if one.text() == "Review")
    begun = [f"New review: {one.name}…" for one in TEMPLATES]
    done = (
        "New review…",
        *begun,
        "Rename the review…",
        "Duplicate the review…",
        "Delete the review",
    )
    assert tuple(one.text() for one in under.actions()) == done


@pytest.mark.parametrize("name", ["", "   ", "x" * 121, FIRST])
def test_a_name_that_will_not_do_is_one_sentence(tmp_path, name):
    with Logbook.create(tmp_path / "n.blunt") as book:
        contents = book.contents()
    from blunt_ruler.core.records.records import Review

    contents = contents.with_records({"reviews": {"a": Review(id="a", name=FIRST)}})
    with pytest.raises(BadName, match="name of the review"):
        new_review(contents, name, "b")
    if name == FIRST:  # its own name is no other's
        assert rename_review(contents, contents.reviews["a"], name)


@pytest.mark.parametrize(
    "order", [("Bench", "Plan", "Board"), ("Plan", "Board", "Bench"), ("Board", "Plan", "Bench")]
)
def test_a_review_is_begun_at_any_stop(fresh, qtbot, settle, order):
    """Each stop gives the review what is made there, whichever comes first."""

    def at_bench():
        for _ in range(2):
            qtbot.mouseClick(stop(fresh, "Bench").new, Qt.MouseButton.LeftButton)
            settle(fresh)

    def at_plan():
        page = stop(fresh, "Plan").matrix_page
        qtbot.keyClicks(page.case, "Skitter / 1080p / Low")
        qtbot.keyClick(page.case, Qt.Key.Key_Return)

    def at_board():
        cells = stop(fresh, "Board").cells
        cells.typing.open_rig("Sluice")
        qtbot.keyClick(cells.typing.editor, Qt.Key.Key_Escape)
        cells.typing.open_rig("")
        qtbot.keyClicks(cells.typing.editor, "Sluice")
        qtbot.keyClick(cells.typing.editor, Qt.Key.Key_Return)

    steps = {"Bench": at_bench, "Plan": at_plan, "Board": at_board}
    for name in order:
        fresh.go_to(name)
        settle(fresh)
        steps[name]()
        settle(fresh)
    review = fresh.desk.snapshot.review
    assert (len(review.seats), len(review.case_ids)) == (3, 1)
    board = stop(fresh, "Board").cells.model.board
    assert [row.title for row in board.rows] == ["Skitter"]
    assert len(board.columns) == 3


def test_undone_to_its_very_beginning_a_logbook_still_has_a_review(
    window, settle, run, logs, tmp_path
):
    book = tmp_path / "by_command.blunt"
    run("import", book, logs[1], "--rig", "Cable", "--case", "Coast / 1080p")
    window.desk.open(book)
    settle(window)
    assert window.desk.snapshot.contents.runs
    while window.desk.snapshot.undo:
        window.desk.undo()
        settle(window)
    assert not window.desk.snapshot.contents.runs
    assert names(window) == [FIRST]
    assert window.desk.snapshot.review is not None
    window.desk.redo()
    settle(window)
    assert len(window.desk.snapshot.contents.runs) == 1
    assert window.desk.snapshot.review is not None


def test_a_review_that_is_chosen_stays_chosen_whatever_comes_late(demo_window, settle):
    """An analysis of the review before, or the end of an edit of it, came between and took the
    choice back.
    """
    desk, go_on = demo_window.desk, threading.Event()
    one, other = desk.snapshot.contents.reviews
    assert desk.snapshot.review.id == one
    desk.edit("slow", lambda *_: go_on.wait(60) and {})
    desk.choose_review(other)
    desk._show(desk.snapshot)  # as an analysis does that comes now
    desk.edit("more", lambda *_: {})
    go_on.set()
    settle(demo_window)
    assert desk.snapshot.review.id == other
    desk.edit("more", lambda *_: {})
    settle(demo_window)
    assert desk.snapshot.review.id == other

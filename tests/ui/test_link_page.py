"""The Link page of the Board, driven: a card, a title, and what they say."""

import pytest
from reach import stop

from blunt_ruler.core.records.edits import Edit

AT = "Limits"


@pytest.fixture
def page(demo_window, settle):
    settle(demo_window)
    demo_window.go_to("Board")
    board = stop(demo_window, "Board")
    board.show_page("Link")
    settle(demo_window)
    return board.page("Link")


def test_the_sentence_answers_how_many_lanes_and_who_is_below(page, demo_window):
    said = stop(demo_window, "Board").blunt.text()
    assert said.startswith("The Marram 12 needs 8.6")
    assert "below the curve" not in said and len(said.split()) <= 30
    assert page.doublings.text().startswith("Each further doubling: 1 →")
    heard = page.picture.accessibleDescription()
    assert "Groyne Marram 12: 6.4 GB/s" in heard


def test_a_title_has_its_own_sentence(page, demo_window, settle, qtbot):
    before = stop(demo_window, "Board").blunt.text()
    place = page.title.findText("Ninefold Siege")
    page.title.setCurrentIndex(place)
    page.title.activated.emit(place)
    settle(demo_window)
    qtbot.waitUntil(lambda: stop(demo_window, "Board").blunt.text() != before)
    assert page.title.currentText() == "Ninefold Siege"


def test_a_review_that_cannot_be_fitted_says_why(page, demo_window, settle):
    contents = demo_window.desk.snapshot.contents
    other = next(
        one for one in contents.reviews.values() if one.id != demo_window.desk.snapshot.review.id
    )
    demo_window.desk.choose_review(other.id)
    settle(demo_window)
    assert stop(demo_window, "Board").blunt.text()
    assert demo_window.desk.snapshot.review.id == other.id


def test_where_nothing_can_be_fitted_no_words_of_another_curve_stay(page, demo_window, settle):
    assert page.doublings.text()
    review = demo_window.desk.snapshot.review
    bare = review.model_copy(update={"seats": review.seats[:1]})
    demo_window.desk.apply(Edit("one rig", (bare,)))
    settle(demo_window)
    assert demo_window.desk.snapshot.analysis.limits.fit is None
    assert (page.doublings.text(), page.below.text()) == ("", "")
    assert page.picture.isHidden()
    said = stop(demo_window, "Board").blunt.text()
    assert demo_window.desk.snapshot.analysis.limits.why_not in said

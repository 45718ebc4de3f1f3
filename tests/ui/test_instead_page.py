"""What one could buy instead: added, filled in and taken away by keyboard, and drawn hollow."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from blunt_ruler.core.drawing.worth import draw_worth
from blunt_ruler.ui.kit.picture_view import new_picture

AT = "Worth"


@pytest.fixture
def page(demo_window, settle):
    demo_window.go_to("Worth")
    settle(demo_window)
    stop = demo_window.controllers["Worth"].stop
    stop.show_page("Instead")
    stop.chosen.choose("sluice-marram-12")
    settle(demo_window)
    return stop.pages.currentWidget()


def typed(page, field, text):
    box = page.form.fields[field].box
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, text)
    QTest.keyClick(box, Qt.Key.Key_Return)


def added(page, window, settle):
    page.add.setFocus()
    QTest.keyClick(page.add, Qt.Key.Key_Space)
    settle(window)


def test_from_nothing_to_a_sentence_by_keys_and_back(page, demo_window, settle):
    assert page.line() == "Nothing that one could buy instead is noted yet."
    assert not page.drop.isEnabled()
    added(page, demo_window, settle)
    name = page.form.fields["name"].box
    assert name.hasFocus() and name.selectedText() == "Another computer"
    for field, text in (("name", "Used tower"), ("amount", "640"), ("frames", "75-90")):
        typed(page, field, text)
        settle(demo_window)
    assert page.line().startswith(
        "To gain frames as cheaply as Used tower (estimated), Sluice Marram 12"
    )
    assert demo_window.banner.isHidden() or "Used tower" not in demo_window.banner.words.text()
    demo_window.desk.undo()
    settle(demo_window)
    (row,) = page.worth.alternatives
    assert row.frames.value is None and page.line() == "Not known: the frames of Used tower."
    QTest.keyClick(page.drop, Qt.Key.Key_Space)
    settle(demo_window)
    assert page.worth.alternatives == ()
    assert page.itself.isVisible() and page.itself.text().startswith("Add a laptop")


@pytest.mark.parametrize(
    ("field", "text", "why"),
    [
        ("amount", "cheap", "is not a number"),
        ("frames", "fast", "it is not understood"),
        ("frames", "88% of Workbench Marram 12", "may be what it keeps or what it loses"),
        ("frames", "60 70", "is not one figure"),
        ("currency", "euros", "“euros” cannot be. Write it like EUR."),
    ],
)
def test_what_cannot_be_is_said_beside_its_field_and_kept(
    page, demo_window, settle, field, text, why
):
    added(page, demo_window, settle)
    before = demo_window.desk.snapshot.contents
    typed(page, field, text)
    settle(demo_window)
    assert why in page.form.fields[field].wrong.text()
    assert page.form.fields[field].box.text() == text
    assert demo_window.desk.snapshot.contents.alternatives == before.alternatives


def test_it_is_drawn_hollow_and_a_rig_keeps_its_place(page, demo_window, settle):
    def drawn(worth):
        picture = new_picture(700, 360, dict.fromkeys(worth.points(), "#123456"))
        spots = draw_worth(picture, worth, worth.points(), "")
        return picture, spots

    added(page, demo_window, settle)
    for field, text in (("name", "Used tower"), ("amount", "640"), ("frames", "75-90")):
        typed(page, field, text)
        settle(demo_window)
    picture, spots = drawn(page.worth)
    (key,) = [one.alternative.id for one in page.worth.alternatives]
    assert [item for item in picture.items if getattr(item, "key", "") == f"alternative.{key}"]
    assert key not in spots
    words = [getattr(item, "text", "") for item in picture.items]
    assert "Used tower (estimated)" in words

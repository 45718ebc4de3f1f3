"""The Worth stop driven as a reviewer would: prices, readings, lines, and wrong input in each."""

import pytest
from forms import type_in
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QLabel
from reach import Hand, stop

from blunt_ruler.core.records.pricing import Price
from blunt_ruler.core.worth.audiences import TEMPLATES
from blunt_ruler.core.worth.figures import WorthFigure
from blunt_ruler.ui.worth.view import PRICES, RUNNING, VALUE, VERDICT

AT = "Worth"

PAGES = (VALUE, PRICES, RUNNING, VERDICT)


@pytest.fixture
def worth(demo_window, settle):
    demo_window.go_to("Worth")
    settle(demo_window)
    return stop(demo_window, "Worth")


def row_of(table, name):
    return next(row for row in table.texts() if name in row[0])


def choose_row(table, place):
    table.setCurrentIndex(table.rows_model.index(place, 0))


def evidence(stop):
    return " | ".join(one.text() for one in stop.evidence.findChildren(QLabel))


def test_it_opens_on_the_value_of_the_first_rig_under_test(worth):
    assert worth.rig.currentText() == "Sluice Marram 12"
    assert worth.blunt.text().startswith("Groyne Marram 12 gives the cheapest gained frame")
    assert row_of(worth.value.table, "Groyne")[1:6] == ["585", "88.7", "72.2", "6.60", "9.62"]
    assert row_of(worth.value.table, "Groyne")[0].startswith("◆ ")
    assert not row_of(worth.value.table, "Sluice")[0].startswith("◆ ")
    assert "755\u202fEUR" in evidence(worth)
    assert "10 shared cases" in evidence(worth)


@pytest.mark.parametrize("page", PAGES)
def test_every_page_has_its_line_and_its_evidence(worth, page):
    worth.show_page(page)
    assert worth.pages.currentWidget() is worth.page(page)
    assert len(worth.blunt.text()) > 20
    assert "SLUICE MARRAM 12" in evidence(worth)


def test_a_price_is_typed_and_everything_follows(worth, demo_window, settle):
    worth.show_page(PRICES)
    worth.chosen.choose("groyne-marram-12")
    tree = worth.prices.table
    assert [row[0] for row in tree.texts()] == [
        "Quillon 24",
        "Marram 12",
        "Groyne",
        "PCIe 4.0 x4 cord",
        "Monitor, 1080p",
    ]
    choose_row(tree, 2)
    assert worth.prices.form_head.text() == "PRICE OF GROYNE"
    type_in(worth.prices.form, "amount", "265")
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.prices["groyne"].amount == 265.0
    assert row_of(tree, "Groyne")[2] == "265\u202fEUR"
    assert worth.prices.chosen_line().what == "Groyne", "the chosen line stays chosen"
    assert (
        demo_window.desk.snapshot.analysis.worth.row("groyne-marram-12").value(WorthFigure.COST)
        == 685
    )
    assert worth.blunt.text() == (
        "Groyne Marram 12 asks for 685\u202fEUR, 390\u202fEUR of it for Marram 12."
    )
    worth.show_page(VALUE)
    assert "Breakwater Marram 12 gives the cheapest gained frame" in worth.blunt.text()
    worth.show_page(PRICES)
    demo_window.actions_of.by_name["Undo"].trigger()
    settle(demo_window)
    assert row_of(tree, "Groyne")[2] == "165\u202fEUR"
    assert worth.prices.form.fields["amount"].text() == "165"


@pytest.mark.parametrize(
    ("field", "text", "says"),
    [
        ("amount", "cheap", "“cheap” is not a number"),
        ("amount", "-5", "a discount is a line beside the parts"),
        ("count", "0", "at least 1"),
        ("count", "many", "is not a number"),
        ("currency", "euros", "“euros” cannot be. Write it like EUR."),
    ],
)
def test_a_wrong_price_stays_with_a_sentence(worth, demo_window, settle, field, text, says):
    worth.show_page(PRICES)
    before = dict(demo_window.desk.snapshot.contents.prices)
    type_in(worth.prices.form, field, text)
    settle(demo_window)
    shown = worth.prices.form.fields[field]
    assert says in shown.wrong.text()
    assert shown.wrong.isVisible()
    assert shown.text() == text
    assert dict(demo_window.desk.snapshot.contents.prices) == before


def test_a_price_that_is_taken_back_blocks_and_is_named(worth, demo_window, settle):
    worth.show_page(PRICES)
    worth.chosen.choose("groyne-marram-12")
    choose_row(worth.prices.table, 1)
    assert "Used by 4 rigs" in worth.prices.shared.text()
    type_in(worth.prices.form, "amount", "")
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.prices["m12"].amount is None
    assert row_of(worth.prices.table, "Marram 12")[6] == "–"
    assert worth.blunt.text() == (
        "What Groyne Marram 12 costs is not known: the price of Marram 12."
    )
    assert "NOT KNOWN" in evidence(worth)
    assert demo_window.rail.stops["Worth"].state.words == "1 of 5 rigs priced"
    worth.show_page(VALUE)
    assert not worth.value.slider.isEnabled()
    assert worth.value.changed._whole == "its price is not fully known"


def test_something_beside_the_parts_is_added_named_and_taken_off(worth, demo_window, settle):
    worth.show_page(PRICES)
    worth.chosen.choose("groyne-marram-12")
    worth.prices.add.click()
    settle(demo_window)
    assert worth.prices.chosen_line().what == "Another item"
    assert worth.prices.form.fields["name"].isVisible()
    type_in(worth.prices.form, "name", "Fan")
    settle(demo_window)
    type_in(worth.prices.form, "amount", "15,50")
    settle(demo_window)
    assert row_of(worth.prices.table, "Fan")[2] == "15.50\u202fEUR"
    worth.chosen.choose("sluice-marram-12")
    assert all(row[0] != "Fan" for row in worth.prices.table.texts())
    worth.chosen.choose("groyne-marram-12")
    items = worth.prices.table
    choose_row(items, [row[0] for row in items.texts()].index("Fan"))
    worth.prices.drop.click()
    settle(demo_window)
    assert all(row[0] != "Fan" for row in worth.prices.table.texts())
    choose_row(items, 0)
    assert not worth.prices.drop.isEnabled(), "a part is taken away on the Bench, not here"


def test_the_slider_moves_a_price_on_the_plot_only(worth, demo_window):
    worth.chosen.choose("groyne-marram-12")
    page = worth.value
    assert "585\u202fEUR" in page.changed._whole
    before = page.plot.place("groyne-marram-12")
    page.slider.setValue(20)
    assert (
        "+20\u202f%: 702\u202fEUR, 11.54\u202fEUR per gained frame; beaten" in page.changed._whole
    )
    assert page.plot.place("groyne-marram-12").x() > before.x()
    assert demo_window.desk.snapshot.contents.prices["groyne"].amount == 165.0
    worth.chosen.choose("sluice-marram-12")
    assert page.slider.value() == 0, "another rig starts at its own price"


def test_two_rigs_are_drawn_level(worth):
    worth.chosen.choose("sluice-marram-12")
    page = worth.value
    assert page.other.currentText() == "Groyne Marram 12"
    assert page.level.text() == (
        "Sluice Marram 12 costs as much as Groyne Marram 12 per gained frame at 455\u202fEUR, "
        "300\u202fEUR less than now."
    )
    page.other.setCurrentIndex(page.other.findText("Built-in iG-6"))
    page.other.activated.emit(page.other.currentIndex())
    assert "gains no frame" in page.level.text()
    page.kind.setCurrentIndex(0)
    page.kind.activated.emit(0)
    assert "per frame at 0\u202fEUR" in page.level.text()
    assert "would have to fall by 40\u202f%" in page.turning.text()


def test_a_click_on_the_plot_chooses_a_rig(worth, qtbot):
    spot = worth.value.plot.place("workbench-marram-12")
    qtbot.mouseClick(
        worth.value.plot, Qt.MouseButton.LeftButton, pos=QPoint(round(spot.x()), round(spot.y()))
    )
    assert worth.rig.currentText() == "Workbench Marram 12"
    qtbot.mouseClick(worth.value.plot, Qt.MouseButton.LeftButton, pos=QPoint(2, 2))
    assert worth.rig.currentText() == "Workbench Marram 12"
    assert "nothing is cheaper and faster" in worth.value.plot.accessibleDescription()


def test_another_rig_of_the_logbook_is_set_beside_and_put_away(worth, demo_window, settle):
    box = worth.value.against
    box.setCurrentIndex(box.findText("Workbench Marram 16"))
    box.activated.emit(box.currentIndex())
    settle(demo_window)
    review = demo_window.desk.snapshot.review
    assert review.worth.against == "workbench-marram-16"
    assert len(review.seats) == 5, "the review keeps its own rigs"
    assert row_of(worth.value.table, "Workbench Marram 16")[1] == "1\u202f850"
    assert "5 shared cases" in evidence(worth)
    assert len(demo_window.desk.snapshot.board.columns) == 5
    box.setCurrentIndex(0)
    box.activated.emit(0)
    settle(demo_window)
    assert demo_window.desk.snapshot.review.worth.against is None


def test_readings_are_typed_and_unknowns_filled(worth, demo_window, settle):
    worth.show_page(RUNNING)
    worth.chosen.choose("breakwater-marram-12")
    grid = worth.running.table
    assert row_of(grid, "Card above the air")[4] == "unknown"
    tip = grid.rows_model.index(5, 4).data(Qt.ItemDataRole.ToolTipRole)
    assert "The air temperature around Breakwater Marram 12 is not known" in tip
    type_in(worth.running.readings, "ambient_c", "22")
    settle(demo_window)
    assert row_of(grid, "Card above the air")[4] != "unknown"
    type_in(worth.running.readings, "noise", "card 40 at 0.5 m; supply 34 at 1 m")
    settle(demo_window)
    assert row_of(grid, "Noise at the listener")[4] == "36.9"
    type_in(worth.running.readings, "noise", "loud")
    assert "“loud” is not a reading" in worth.running.readings.fields["noise"].wrong.text()
    assert demo_window.desk.snapshot.contents.readings["breakwater-marram-12"].noise[0].dba == 40
    grid.clicked.emit(grid.rows_model.index(5, 2))
    assert worth.rig.currentText() == "Sluice Marram 12"


@pytest.mark.parametrize(
    ("field", "text", "says"),
    [
        ("tariff_per_kwh", "dear", "is not a number"),
        ("play_h_per_week", "200", "at most 168"),
        ("years", "0", "above 0"),
        ("interest", "300 %", "at most 100"),
        ("currency", "E", "cannot be"),
        ("rates", "USD", "is not a rate"),
    ],
)
def test_wrong_settings_stay_with_a_sentence(worth, demo_window, settle, field, text, says):
    worth.show_page(RUNNING)
    before = demo_window.desk.snapshot.review
    type_in(worth.running.settings, field, text)
    settle(demo_window)
    assert says in worth.running.settings.fields[field].wrong.text()
    assert demo_window.desk.snapshot.review == before


def test_a_tariff_changes_the_cost_of_energy(worth, demo_window, settle):
    worth.show_page(RUNNING)
    old = float(row_of(worth.running.table, "Energy cost")[2])
    type_in(worth.running.settings, "tariff_per_kwh", "0.64")
    settle(demo_window)
    new = float(row_of(worth.running.table, "Energy cost")[2])
    assert new == pytest.approx(2 * old, rel=0.01)
    type_in(worth.running.settings, "interest", "5 %")
    settle(demo_window)
    assert demo_window.desk.snapshot.review.worth.interest == 0.05


def test_lines_are_moved_and_the_verdict_with_them(worth, demo_window, settle):
    worth.show_page(VERDICT)
    page = worth.verdict
    assert row_of(page.held, "Sluice")[-1] == "✓ narrowly"  # the line lies inside the interval
    type_in(page.form, "gain_at_least", "200 %")
    settle(demo_window)
    assert demo_window.desk.snapshot.review.audiences[0].gain_at_least == 2.0
    assert row_of(page.held, "Sluice")[1] == "✕ +170\u202f%"
    assert row_of(page.held, "Sluice")[-1] == "✕ no"
    assert worth.blunt.text() == (
        "For evenings in the reading room Groyne Marram 12 (narrowly) and Breakwater Marram 12 "
        "(narrowly) make sense."
    )
    type_in(page.form, "gain_at_least", "")
    settle(demo_window)
    assert demo_window.desk.snapshot.review.audiences[0].gain_at_least is None
    type_in(page.form, "loss_at_most", "200")
    assert "at most 100" in page.form.fields["loss_at_most"].wrong.text()


def test_audiences_come_and_go(worth, demo_window, settle):
    worth.show_page(VERDICT)
    page = worth.verdict
    type_in(page.form, "low_at_least_fps", "fast")
    assert "is not a number" in page.form.fields["low_at_least_fps"].wrong.text()
    page.audience.setCurrentIndex(1)
    page.audience.activated.emit(1)
    assert page.form.fields["low_at_least_fps"].text() == "50", "typed for the other audience"
    assert page.form.fields["carry_at_most_kg"].text() == "12"
    assert row_of(page.held, "Breakwater")[-1] == "? open"
    page.add.click()
    settle(demo_window)
    assert page.audience.currentText() == "Audience 3"
    assert [row[-1] for row in page.held.texts()] == ["✓ yes"] * 5
    page.drop.click()
    settle(demo_window)
    assert page.audience.count() == 2
    for _ in range(2):
        page.drop.click()
        settle(demo_window)
    assert not page.drop.isEnabled()
    assert "Add an audience" in page.held.rows_model.columns[0].head
    assert "Say what each audience requires" in worth.blunt.text()


def test_audiences_are_begun_from_templates(worth, demo_window, settle):
    page = worth.page("Verdict")
    worth.show_page("Verdict")
    before = len(demo_window.desk.snapshot.review.audiences)
    for action in (*page.templates.menu().actions(), page.templates.menu().actions()[0]):
        action.trigger()
        settle(demo_window)
    added = demo_window.desk.snapshot.review.audiences[before:]
    assert [one.name for one in added[:-1]] == [one.name for one in TEMPLATES]
    assert [*added[:-1]] == [*TEMPLATES]
    assert added[-1].name not in [one.name for one in TEMPLATES]
    assert page.audience.currentText() == added[-1].name


def test_a_sentence_in_own_words_is_marked_and_taken_back(worth, demo_window, settle, qtbot):
    worth.show_page(VERDICT)
    page = worth.verdict
    choose_row(page.said, 1)
    assert "RESTS ON" in evidence(worth)
    assert "3.18 times" in evidence(worth)
    page.own.selectAll()
    qtbot.keyClicks(page.own, "The cord is enough.")
    qtbot.keyClick(page.own, Qt.Key.Key_Return)
    settle(demo_window)
    assert page.said.texts()[1][0] == "The cord is enough.  (your words)"
    assert page.back.isEnabled()
    Hand(demo_window).put("dearer", Price(id="groyne", amount=400))
    settle(demo_window)
    assert "(the figures have changed since)" in page.said.texts()[1][0]
    page.back.click()
    settle(demo_window)
    assert page.said.texts()[1][0].startswith(
        "The Marram 12 over the PCIe 4.0 x4 cord is 3.18 times"
    )


def test_before_there_is_anything_it_says_what_to_do(window, settle, tmp_path):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    window.go_to("Worth")
    assert "No rig is in this review yet" in stop(window, "Worth").blunt.text()
    assert not stop(window, "Worth").pages.isVisible()
    assert window.rail.stops["Worth"].state.words == ""
    window.go_to("Limits")
    assert "No limits yet" in stop(window, "Limits").blunt.text()
    window.go_to("Write-up")
    assert not stop(window, "Write-up").pages.isVisible()


def test_a_rig_without_parts_is_sent_to_the_bench(worth, demo_window, settle):
    rig = demo_window.desk.snapshot.contents.rigs["groyne-marram-12"]
    bare = rig.model_copy(
        update={"host_id": None, "card_id": None, "dock_id": None, "link_id": None}
    )
    price = demo_window.desk.snapshot.contents.prices["monitor-groyne-marram-12"]
    Hand(demo_window).put("bare", bare, drop=[price])
    settle(demo_window)
    worth.show_page(PRICES)
    worth.chosen.choose("groyne-marram-12")
    assert (
        "Choose host, card, dock and link of this rig on the Bench." in worth.prices.shared.text()
    )
    assert not worth.prices.form.isEnabled()
    assert worth.prices.add.isEnabled()


def test_slate_repaints_it(worth, demo_window, settle):
    from blunt_ruler.ui.kit import theme

    before = worth.value.plot.grab().toImage()
    demo_window.pin_theme(theme.ThemeName.SLATE)
    settle(demo_window)
    assert worth.value.plot.grab().toImage() != before
    demo_window.pin_theme(theme.ThemeName.PAPER)

"""The Bench for real: build a rig, break it, read the finding, mend it, tick, print, undo."""

import pytest
from PyQt6.QtCore import QItemSelectionModel, QPoint, Qt
from PyQt6.QtWidgets import QApplication, QComboBox, QLabel, QPlainTextEdit
from reach import Hand, stop

from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig, ScreenPath, TickState
from blunt_ruler.core.rigs.compatibility import check_fit
from blunt_ruler.core.rigs.fields import UNKNOWN, FieldKind, fields_of
from blunt_ruler.core.rigs.preflight import outcomes
from blunt_ruler.core.rigs.strip import Place
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.bench.place_facts import MODELS, MORE, field_names, parts_at
from blunt_ruler.ui.bench.rigs_table import dragged_part

AT = "Bench"


@pytest.fixture
def bench(demo_window, settle):
    demo_window.go_to("Bench")
    settle(demo_window)
    return stop(demo_window, "Bench")


def words(widget):
    return " | ".join(label.text() for label in widget.findChildren(QLabel) if label.text())


def type_in(qtbot, field, text):
    """Type a text over what a field holds, and leave it."""
    box = field.box
    box.setFocus()
    if isinstance(box, QPlainTextEdit):
        box.setPlainText(text)
    else:
        box.selectAll()
        if text.isascii():
            qtbot.keyClicks(box, text)
        else:  # no keyboard has an arrow
            box.setText(text)
        qtbot.keyClick(box, Qt.Key.Key_Return)
    box.clearFocus()


def say(bench, qtbot, heading, name, text):
    """Type a fact of what is chosen into the evidence column."""
    field = bench.facts.of[heading].form.fields[name]
    type_in(qtbot, field, text)
    return field


def cell(bench, rig_id, place):
    rows = [row.rig_id for row in bench.rigs.grid.rows]
    row = rows.index(rig_id) if rig_id else len(rows)
    return bench.rigs.grid.index(row, list(Place).index(place))


def type_cell(bench, qtbot, rig_id, place, text):
    """Type into a cell of the rigs; None for the ghost row."""
    bench.rigs.setCurrentIndex(cell(bench, rig_id, place))
    qtbot.keyClick(bench.rigs, Qt.Key.Key_Return)
    editor = bench.rigs.editor
    editor.selectAll()
    qtbot.keyClicks(editor, text)
    qtbot.keyClick(editor, Qt.Key.Key_Return)


def test_from_an_empty_logbook_to_a_rig_that_lacks_an_outlet(window, qtbot, settle, tmp_path):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    window.go_to("Bench")
    bench = stop(window, "Bench")
    assert "No rig is described yet" in bench.blunt.text()

    type_cell(bench, qtbot, None, Place.RIG, "Sluice Marram 12")
    settle(window)
    (rig,) = window.desk.snapshot.contents.rigs.values()
    assert rig.name == "Sluice Marram 12"
    for place, name in (
        (Place.HOST, "Quillon 24"),
        (Place.LINK, "host port: 4.0 x4; cord: 3.0 x4; slot: 4.0 x4"),
        (Place.DOCK, "Sluice"),
        (Place.CARD, "Marram 12"),
    ):
        type_cell(bench, qtbot, rig.id, place, name)
        settle(window)
    say(bench, qtbot, "card", "power_inputs", "8-pin ×2")
    settle(window)
    say(bench, qtbot, "card", "board_power_w", "180")
    settle(window)
    bench.choose_rig(rig.id, Place.DOCK)
    say(bench, qtbot, "dock", "outlets", "8-pin")
    settle(window)

    assert "needs 8-pin ×2 and Sluice offers 1" in words(bench.evidence)
    assert "will not work as described" in bench.blunt.text()
    bench.show_page("Ladder")
    assert "cord generation 3" in bench.blunt.text()
    assert "left for the game" in bench.blunt.text()
    bench.show_page("Pre-flight")
    assert len(bench.preflight_page.cards) >= 10
    window.controllers["Bench"].print_list(rig.id, tmp_path / "list.pdf")
    settle(window)
    assert (tmp_path / "list.pdf").read_bytes().startswith(b"%PDF")


def test_three_slots_in_a_two_slot_bracket_and_back(bench, demo_window, qtbot, settle):
    bench.choose_rig("breakwater-marram-12", Place.CARD)
    field = say(bench, qtbot, "card", "slots_wide", "3")
    settle(demo_window)
    bench.choose_rig("breakwater-marram-12", Place.DOCK)
    settle(demo_window)
    told = " ".join(one.text() for one in bench.evidence.findChildren(QLabel))
    assert "Marram 12 is 3 slots wide and the bracket of Breakwater has 2" in told
    assert "ran on it all the same" in told, "its passes say that it fits somehow"
    assert "3 cautions" in demo_window.rail.stops["Bench"].state.words
    demo_window.desk.undo()
    bench.choose_rig("breakwater-marram-12", Place.CARD)
    settle(demo_window)
    assert field.text() == "2"
    assert "is the narrow place" in bench.blunt.text()


def test_a_wrong_value_stays_with_a_sentence_and_is_not_stored(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12", Place.DOCK)
    field = say(bench, qtbot, "dock", "supply_w", "plenty")
    settle(demo_window)
    assert field.text() == "plenty"
    assert "is not a number. Give a number in W." in field.wrong.text()
    assert field.wrong.isVisible()
    assert demo_window.desk.snapshot.contents.docks["sluice"].supply_w == 330
    Hand(demo_window).rename_rig("groyne-marram-12", "Another edit")
    settle(demo_window)
    assert field.text() == "plenty"
    type_in(qtbot, field, "450")
    settle(demo_window)
    assert not field.wrong.isVisible()
    assert demo_window.desk.snapshot.contents.docks["sluice"].supply_w == 450


def test_a_rig_is_duplicated_and_one_part_changed_in_two_actions(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12")
    qtbot.mouseClick(bench.duplicate, Qt.MouseButton.LeftButton)
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    rig = next(rig for rig in contents.rigs.values() if rig.name == "Sluice Marram 12 2")
    assert bench.chosen.rig == rig.id
    type_cell(bench, qtbot, rig.id, Place.LINK, "pcie 4.0 x4 cord")
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    assert contents.rigs[rig.id].link_id == "cord"
    assert contents.rigs["sluice-marram-12"].link_id == "cable"
    assert len(demo_window.desk.snapshot.review.seats) == 6
    bench.choose_rig(rig.id)
    assert "link (PCIe 4.0 x4 cord" in words(bench.evidence)


def test_a_link_of_unknown_generation_is_chosen_from_the_likely_ones(
    bench, demo_window, qtbot, settle
):
    rig_id = "sluice-marram-12"
    bench.rigs.setCurrentIndex(cell(bench, rig_id, Place.LINK))
    qtbot.keyClick(bench.rigs, Qt.Key.Key_Return)
    editor = bench.rigs.editor
    editor.selectAll()
    qtbot.keyClicks(editor, "OCuLink")
    offered = bench.rigs._names(Place.LINK, editor.text())
    assert offered[:3] == ["OCuLink 4.0 x4", "OCuLink 3.0 x4", "OCuLink 3.0 to 4.0 x4"]
    qtbot.keyClicks(editor, ", not known")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    link = contents.link_of(rig_id)
    assert (link.name, link.hops[0].generation_least, link.hops[0].generation) == ("OCuLink", 3, 4)
    bench.choose_rig(rig_id)
    bench.show_page("Ladder")
    bench.ladder_page.measured.setText("")  # that was of the cable
    bench.ladder_page.measured.editingFinished.emit()
    settle(demo_window)
    assert "The generation of OCuLink is not known" in bench.blunt.text()
    assert "GB/s left for the game: OCuLink 3.0 to 4.0 ×4" in bench.blunt.text()


def test_a_shared_part_says_that_an_edit_changes_them_all(bench):
    bench.choose_rig("sluice-marram-12", Place.HOST)
    assert "Used by 7 rigs" in words(bench.evidence)


def test_past_rigs_join_and_leave_the_review(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-16")
    assert bench.join.text() == "Join review"
    qtbot.mouseClick(bench.join, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert bench.join.text() == "Leave review"
    assert len(demo_window.desk.snapshot.board.columns) == 6
    qtbot.mouseClick(bench.join, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert len(demo_window.desk.snapshot.board.columns) == 5


def test_what_is_as_in_the_row_above_is_pale(bench):
    grid = bench.rigs.grid

    def ink(row, place):
        at = grid.index(row, list(Place).index(place))
        return at.data(Qt.ItemDataRole.ForegroundRole).name()

    rows = [row.words[0] for row in grid.rows]
    sluice, groyne = rows.index("Sluice Marram 12"), rows.index("Groyne Marram 12")
    assert ink(groyne, Place.CARD) != ink(groyne, Place.LINK) == ink(sluice, Place.CARD)
    heard = grid.index(groyne, list(Place).index(Place.CARD)).data(
        Qt.ItemDataRole.AccessibleTextRole
    )
    assert heard == "card of Groyne Marram 12: Marram 12, as in the row above"


def test_the_strip_is_walked_by_arrows_and_a_block_opens_its_facts(bench, qtbot):
    bench.choose_rig("sluice-marram-12", Place.HOST)
    strip = bench.strip
    for _ in range(2):
        qtbot.keyClick(strip, Qt.Key.Key_Right)
    assert bench.rigs.place() is Place.DOCK
    assert bench.facts.of["dock"].isVisibleTo(bench.evidence)
    assert not bench.facts.of["host"].isVisibleTo(bench.evidence)
    assert "Quillon 24 asks for" in words(bench.evidence)
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(strip.width() - 40, 40))
    assert bench.rigs.place() is Place.PICTURE
    assert "2.6 GB/s behind the link" in strip.accessibleDescription()


def test_a_part_of_the_shelf_goes_on_all_chosen_rigs(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12", Place.CARD)
    flags = QItemSelectionModel.SelectionFlag
    bench.rigs.selectionModel().select(bench.rigs.grid.index(2, 0), flags.Select | flags.Rows)
    chips = bench.shelf.chips
    texts = [chips.item(row).text() for row in range(chips.count())]
    assert texts[:3] == ["iG-6", "Marram 8", "Marram 16"]
    chips.setCurrentRow(1)
    qtbot.keyClick(chips, Qt.Key.Key_Return)
    settle(demo_window)
    rigs = demo_window.desk.snapshot.contents.rigs
    assert rigs["sluice-marram-12"].card_id == rigs["groyne-marram-12"].card_id == "m8"
    assert rigs["breakwater-marram-12"].card_id == "m12"
    bench.choose_rig("sluice-marram-12", Place.LINK)
    generic = next(
        chips.item(row)
        for row in range(chips.count())
        if chips.item(row).text() == "USB4 tunnel, 80 Gb/s"
    )
    mime = chips.mimeData([generic])
    kind, part_id = dragged_part(mime)
    bench.rigs.dropped.emit("groyne-marram-12", kind, part_id)
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    assert contents.link_of("groyne-marram-12").name == "USB4 tunnel, 80 Gb/s"
    assert contents.link_of("sluice-marram-12").id == "cable"


def test_facts_of_several_rigs_are_said_together(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12", Place.STATE)
    flags = QItemSelectionModel.SelectionFlag
    bench.rigs.selectionModel().select(bench.rigs.grid.index(0, 0), flags.Select | flags.Rows)
    field = bench.facts.of["state"].form.fields["driver"]
    assert field.box.placeholderText() == "several"
    assert not field.text()
    type_in(qtbot, field, "Dune 42")
    settle(demo_window)
    rigs = demo_window.desk.snapshot.contents.rigs
    drivers = [rigs[key].state.driver for key in ("built-in-ig-6", "sluice-marram-12")]
    assert drivers == ["Dune 42", "Dune 42"]
    assert rigs["groyne-marram-12"].state.driver != "Dune 42"
    assert demo_window.desk.snapshot.undo == "driver of 2 rigs"


def test_what_cannot_be_a_picture_stays_in_its_cell(bench, demo_window, qtbot, settle):
    type_cell(bench, qtbot, "sluice-marram-12", Place.PICTURE, "on the wall")
    settle(demo_window)
    at = cell(bench, "sluice-marram-12", Place.PICTURE)
    assert at.data() == "on the wall"
    assert "is not a screen path" in at.data(Qt.ItemDataRole.ToolTipRole)
    assert "is not a screen path" in demo_window.banner.words.text()
    type_cell(bench, qtbot, "sluice-marram-12", Place.PICTURE, "sent back")
    settle(demo_window)
    rig = demo_window.desk.snapshot.contents.rigs["sluice-marram-12"]
    assert rig.screen_path is ScreenPath.SENT_BACK
    assert at.data() == "sent back"


SAYABLE = [
    (str(place) if spec.name in first else MORE + place, place, spec)
    for place in Place
    for first, rest in [field_names(place)]
    for spec in fields_of(MODELS[place])
    if spec.name in first + rest and spec.name != "name"
]
AS_TYPED = {
    "ports": "USB4 40 Gb/s; M.2 4.0 x4",
    "sockets": "USB 10 Gb/s; Ethernet",
    "hops": "host port: 4.0 x4\ncord: 4.0 x2",
    "display": "2560x1440@144x32",
    "screen": "2560x1440@144x32",
    "outlets": "8-pin ×2",
    "power_inputs": "8-pin, 6-pin",
    "adapters": "8-pin ×2 → 12V-2x6 300 W",
    "slots_wide": "2.5",
    "generation": "3",
}


@pytest.mark.parametrize("heading", list(dict.fromkeys(heading for heading, _, _ in SAYABLE)))
def test_every_fact_of_a_rig_can_be_said_undone_and_found_again(
    small_bench, window, qtbot, settle, heading
):
    bench, rig_id = small_bench
    for place, spec in [(place, spec) for one, place, spec in SAYABLE if one == heading]:
        bench.choose_rig(rig_id, place)

        def stored(contents, place=place, spec=spec):
            (found,) = parts_at(contents, [contents.rigs[rig_id]], place)
            return spec.text(getattr(found, spec.name))

        before = stored(window.desk.snapshot.contents)
        choices = [one for one in spec.choices if one not in (UNKNOWN, before)]
        wanted = AS_TYPED.get(spec.name) or (
            choices[-1] if choices else "4" if spec.kind is FieldKind.NUMBER else "as said"
        )
        field = bench.facts.of[heading].form.fields[spec.name]
        if isinstance(field.box, QComboBox):
            field.box.setCurrentText(wanted)
            field.box.textActivated.emit(wanted)
        else:
            type_in(qtbot, field, wanted)
        settle(window)
        assert stored(window.desk.snapshot.contents) == wanted, spec.says
        with Logbook.open(window.desk.snapshot.path) as book:
            assert stored(book.contents()) == wanted, spec.says
        window.desk.undo()
        settle(window)
        assert stored(window.desk.snapshot.contents) == before, spec.says
        shown = before or (UNKNOWN if isinstance(field.box, QComboBox) else "")
        assert field.text() == shown, spec.says


@pytest.fixture
def small_bench(window, qtbot, settle, tmp_path):
    """One rig with all its parts, blank."""
    window.desk.create(tmp_path / "small.blunt")
    rig = Rig(id="r", name="One", host_id="h", link_id="l", dock_id="d", card_id="c")
    parts = (
        Host(id="h", name="Host"),
        Link(id="l", name="Link"),
        Dock(id="d", name="Dock"),
        Card(id="c", name="Card"),
    )
    Hand(window).put("one rig", *parts, rig)
    settle(window)
    window.go_to("Bench")
    settle(window)
    return stop(window, "Bench"), "r"


def test_no_fact_of_a_rig_is_left_out_of_the_evidence_column():
    unsayable = {
        f"{model.__name__}.{name}"
        for place, model in MODELS.items()
        for name in model.model_fields
        if not any(name in sum(field_names(one), ()) for one in Place if MODELS[one] is model)
    }
    # ids, which are chosen by name in the rows; the state, which is a place; graphics by a box
    chosen = {f"Rig.{part}_id" for part in ("host", "card", "dock", "link")}
    ids = {f"{model.__name__}.id" for model in (Host, Link, Dock, Card, Rig)}
    assert unsayable == {*chosen, *ids, "Rig.state", "Rig.sweep", "Host.built_in_card_id"}


def test_the_built_in_graphics_of_a_host_are_chosen(bench, demo_window, settle):
    bench.choose_rig("workbench-marram-12", Place.HOST)
    box = bench.facts.graphics
    box.setCurrentIndex(box.findText("iG-6"))
    box.activated.emit(box.currentIndex())
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    assert contents.cards[contents.host_of("workbench-marram-12").built_in_card_id].name == "iG-6"


def test_the_demo_shows_a_finding_of_each_severity(demo_window):
    contents = demo_window.desk.snapshot.contents
    severities = {finding.severity for rig in contents.rigs for finding in check_fit(contents, rig)}
    assert len(severities) == 3


def test_ladders_side_by_side_and_a_measured_figure(bench, demo_window, qtbot, settle, tmp_path):
    bench.show_page("Ladder")
    flags = QItemSelectionModel.SelectionFlag
    bench.choose_rig("sluice-marram-12")
    for row in (2, 3):
        bench.rigs.selectionModel().select(bench.rigs.grid.index(row, 0), flags.Select | flags.Rows)
    assert bench.ladder_page.drawings.count() == 3
    bench.choose_rig("groyne-marram-12")
    page = bench.ladder_page
    page.measured.setText("a lot")
    page.measured.editingFinished.emit()
    assert "is not a number" in page.wrong.text()
    assert page.measured.text() == "a lot"
    page.measured.setText("2,6")
    page.measured.editingFinished.emit()
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.rigs["groyne-marram-12"].measured_gb_per_s == 2.6
    assert "half the lanes" in page.below.text()
    assert "as measured (typed)" in bench.blunt.text()
    qtbot.mouseClick(page.sweep, Qt.MouseButton.LeftButton)
    settle(demo_window)
    rig = demo_window.desk.snapshot.contents.rigs["groyne-marram-12"]
    assert rig.measured_gb_per_s == pytest.approx(6.4, rel=0.05)
    assert "simulated bus sweep" in rig.measured_how
    assert len(rig.sweep) == 13
    assert rig.sweep[0][1] < rig.sweep[-1][1] == pytest.approx(rig.measured_gb_per_s, abs=1e-3)
    assert page.sweep_frame.isVisibleTo(page)
    sweep = tmp_path / "sweep.csv"
    sweep.write_text("block MB,rate GB/s\n1,5.0\n64,6.1\n256,6.0\n")
    demo_window.controllers["Bench"].import_sweep(rig.id, sweep)
    settle(demo_window)
    rig = demo_window.desk.snapshot.contents.rigs["groyne-marram-12"]
    assert (rig.measured_gb_per_s, rig.measured_how) == (6.1, "sweep sweep.csv")
    assert rig.sweep == ((1.0, 5.0), (64.0, 6.1), (256.0, 6.0))
    page.rate.setValue(120)
    left = rig.measured_gb_per_s * 1000 / 120
    assert f"{left:.1f}\u202fMB a frame" in page.budget.text()


def test_preflight_is_ticked_with_readings_and_undone(bench, demo_window, qtbot, settle):
    bench.choose_rig("breakwater-marram-12")
    bench.show_page("Pre-flight")
    cards = {card.step.key: card for card in bench.preflight_page.cards}
    card = cards["link_under_load"]
    card.reading.setText("wide open")
    qtbot.mouseClick(card.done, Qt.MouseButton.LeftButton)
    assert "is not a hop" in card.says.text()
    assert not card.done.isChecked()
    card.reading.setText("4.0 x4")
    qtbot.mouseClick(card.done, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert "came up at 4 lanes, 8 expected" in bench.blunt.text()
    ticks = [
        t
        for t in demo_window.desk.snapshot.contents.ticks.values()
        if t.rig_id == "breakwater-marram-12"
    ]
    assert [(tick.state, tick.reading) for tick in ticks] == [(TickState.DONE, "4.0 x4")]
    assert ticks[0].at.startswith("20")
    demo_window.desk.undo()
    settle(demo_window)
    assert "left before" in bench.blunt.text()


def test_a_skipped_step_shows_on_the_runs_that_followed(demo_window, settle):
    demo_window.go_to("Runs")
    settle(demo_window)
    runs = stop(demo_window, "Runs")
    row = next(
        row
        for row, line in enumerate(runs.list.model.rows)
        if line.run.id == "groyne-marram-12_tidewrack-1080p_1"
    )
    runs.list.table.selectRow(row)
    settle(demo_window)
    shown = words(runs.evidence)
    assert "PRE-FLIGHT STEPS SKIPPED BEFORE IT" in shown
    assert "Plug the monitor into the Marram 12, never into the host." in shown


def test_a_machine_is_read_compared_watched_and_filled_in(bench, demo_window, qtbot, settle):
    bench.choose_rig("groyne-marram-12")
    bench.show_page("Machine")
    page = bench.machine_page
    page.stand_in.setCurrentText("quillon-cord-two-lanes")
    assert not page.root.isEnabled()
    qtbot.mouseClick(page.look, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "lanes 2, not 4" in page.says.text(), timeout=30_000)
    qtbot.mouseClick(page.watch, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Narrow" in page.strip.toPlainText(), timeout=30_000)
    page.stand_in.setCurrentText("quillon-cord")
    qtbot.waitUntil(lambda: "as it should be" in page.strip.toPlainText(), timeout=30_000)
    bench.show_page("Shelf")
    assert not page.watch.isChecked()
    bench.show_page("Machine")
    qtbot.mouseClick(page.fill, Qt.MouseButton.LeftButton)
    settle(demo_window)
    cord = demo_window.desk.snapshot.contents.links["cord"]
    assert [hop.name for hop in cord.hops] == ["0000:00:01.1"]


def test_what_another_system_shows_is_pasted_and_compared(bench, demo_window, qtbot, settle):
    bench.choose_rig("groyne-marram-12")
    bench.show_page("Machine")
    page = bench.machine_page
    QApplication.clipboard().setText("PCIe x16 4.0 @ x2 4.0\nDriver version 31.0.15")
    qtbot.mouseClick(page.paste, Qt.MouseButton.LeftButton)
    assert page.says.text().startswith("The system that was pasted is not Groyne Marram 12")
    assert "lanes 2, not 4" in page.says.text()
    assert page.seen.text().endswith("Besides: driver version 31.0.15.")
    qtbot.mouseClick(page.fill, Qt.MouseButton.LeftButton)
    settle(demo_window)
    rig = demo_window.desk.snapshot.contents.rigs["groyne-marram-12"]
    assert rig.state.driver == "31.0.15"
    assert demo_window.desk.snapshot.contents.links["cord"].hops, "the described hops stay"
    QApplication.clipboard().setText("x4 1.1 and x4 4.0")
    qtbot.mouseClick(page.paste, Qt.MouseButton.LeftButton)
    assert "it describes two links, PCIe 1.0 x4 and PCIe 4.0 x4" in page.says.text()


def test_a_root_without_a_tree_is_said(bench, qtbot, tmp_path):
    bench.show_page("Machine")
    page = bench.machine_page
    page.root.setText(str(tmp_path))
    qtbot.mouseClick(page.look, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "no device tree" in page.says.text(), timeout=30_000)


def test_parts_are_pasted_catalogued_and_exported(bench, demo_window, settle, tmp_path):
    controller = demo_window.controllers["Bench"]
    QApplication.clipboard().setText("kind,name,length_mm\ncard,Marram 12,250\n")
    bench.parts_requested.emit("paste")
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.cards["m12"].length_mm == 250
    QApplication.clipboard().setText("kind,name\nfan,x\n")
    bench.parts_requested.emit("paste")
    settle(demo_window)
    assert "no kind “fan”" in demo_window.banner.words.text()
    bench.parts_requested.emit("catalogue")
    settle(demo_window)
    names = {link.name for link in demo_window.desk.snapshot.contents.links.values()}
    assert "USB4 tunnel, 80 Gb/s" in names
    controller.export_parts(tmp_path / "parts.csv")
    settle(demo_window)
    before = len(demo_window.desk.snapshot.contents.docks)
    controller.import_parts(tmp_path / "parts.csv")
    settle(demo_window)
    assert len(demo_window.desk.snapshot.contents.docks) == before
    controller.import_parts(tmp_path / "none.json")
    settle(demo_window)
    assert "cannot be read" in demo_window.banner.words.text()


def test_a_change_is_noted_put_into_words_and_taken_away(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12")
    bench.show_page("Changes")
    page = bench.changes
    assert "Nothing is noted to have changed" in bench.blunt.text()
    qtbot.mouseClick(page.here, Qt.MouseButton.LeftButton)
    settle(demo_window)
    (change,) = demo_window.desk.snapshot.contents.changes.values()
    assert change.rig_ids == ("sluice-marram-12",)
    type_in(qtbot, page.form.fields["what"], "card driver 42")
    settle(demo_window)
    runs = demo_window.desk.snapshot.contents.runs.values()
    days = sorted({run.taken_at[:10] for run in runs if run.rig_id == "sluice-marram-12"})
    type_in(qtbot, page.form.fields["at"], "3.10.")
    settle(demo_window)
    assert "is not a date" in page.wrong.text()
    type_in(qtbot, page.form.fields["at"], days[-1])
    settle(demo_window)
    (change,) = demo_window.desk.snapshot.contents.changes.values()
    assert (change.what, change.at) == ("card driver 42", days[-1])
    assert page.table.texts()[0][:3] == [days[-1], "card driver 42", "Sluice Marram 12"]
    with Logbook.open(demo_window.desk.snapshot.path) as book:
        assert [*book.contents().changes.values()] == [change]
    qtbot.mouseClick(page.drop, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert not demo_window.desk.snapshot.contents.changes
    demo_window.desk.undo()
    settle(demo_window)
    assert [*demo_window.desk.snapshot.contents.changes.values()] == [change]


def test_a_step_of_ones_own_is_asked_of_every_rig(bench, demo_window, qtbot, settle):
    bench.choose_rig("sluice-marram-12")
    bench.show_page("Pre-flight")
    page = bench.preflight_page
    before = len(page.cards)
    page.own.setText("Close the chat program")
    page.ask.setChecked(True)
    qtbot.mouseClick(page.add, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert len(page.cards) == before + 1
    assert page.cards[-1].step.do == "Close the chat program."
    page.cards[-1].reading.setText("it came back by itself")
    qtbot.mouseClick(page.cards[-1].done, Qt.MouseButton.LeftButton)
    settle(demo_window)
    sleep = next(card for card in page.cards if card.step.key == "sleep")
    sleep.reading.setText("no picture until the dock was unplugged")
    qtbot.mouseClick(sleep.done, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert outcomes(demo_window.desk.snapshot.contents, "sluice-marram-12") == (
        "after sleep: no picture until the dock was unplugged",
        "Close the chat program: it came back by itself",
    )
    qtbot.mouseClick(page.cards[-1].drop, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert len(page.cards) == before


def rigs_of(window):
    return {rig.name: rig for rig in window.desk.snapshot.contents.rigs.values()}


def keys(qtbot, bench, text):
    """Type as a hand does: into whatever has the focus; "\\r" and "\\t" are Enter and Tab."""
    for letter in text:
        target = bench.rigs.editor or bench.rigs
        named = {"\r": Qt.Key.Key_Return, "\t": Qt.Key.Key_Tab}
        if letter in named:
            qtbot.keyClick(target, named[letter])
        else:
            qtbot.keyClicks(target, letter)


@pytest.mark.parametrize("wait", [True, False], ids=["slowly", "at once"])
def test_names_typed_one_after_another_are_rigs_of_their_own(window, qtbot, settle, tmp_path, wait):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    window.go_to("Bench")
    bench = stop(window, "Bench")
    bench.rigs.setCurrentIndex(cell(bench, None, Place.RIG))
    for name in ("Tower", "Cable", "Cord"):
        keys(qtbot, bench, f"{name}\r")
        if wait:
            settle(window)
    settle(window)
    assert list(rigs_of(window)) == ["Tower", "Cable", "Cord"]
    assert bench.rigs.on_ghost()
    seats = window.desk.snapshot.review.seats
    assert [seat.rig_id for seat in seats] == [rig.id for rig in rigs_of(window).values()]


@pytest.mark.parametrize("wait", [True, False], ids=["slowly", "at once"])
def test_tab_after_a_name_goes_to_the_host_and_on_through_the_row(
    window, qtbot, settle, tmp_path, wait
):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    window.go_to("Bench")
    bench = stop(window, "Bench")
    bench.rigs.setCurrentIndex(cell(bench, None, Place.RIG))
    for part in ("Cable\t", "Quillon 24\t", "\t", "Sluice\t", "Marram 12\r"):
        keys(qtbot, bench, part)
        if wait:
            settle(window)
    settle(window)
    contents, (rig,) = window.desk.snapshot.contents, rigs_of(window).values()
    assert rig.name == "Cable"
    assert contents.hosts[rig.host_id].name == "Quillon 24"
    assert rig.link_id is None
    assert contents.docks[rig.dock_id].name == "Sluice"
    assert contents.cards[rig.card_id].name == "Marram 12"
    assert bench.chosen.rig == rig.id


def test_a_name_that_is_taken_stays_where_it_was_typed(bench, demo_window, qtbot, settle):
    before = len(rigs_of(demo_window))
    bench.rigs.setCurrentIndex(cell(bench, None, Place.RIG))
    keys(qtbot, bench, "Built-in iG-6\r")
    settle(demo_window)
    assert len(rigs_of(demo_window)) == before
    assert bench.rigs.on_ghost()
    assert cell(bench, None, Place.RIG).data() == "Built-in iG-6"
    keys(qtbot, bench, "\rx\r")
    settle(demo_window)
    assert len(rigs_of(demo_window)) == before + 1


def test_tab_leaves_the_rigs_at_the_end_of_a_row(bench, demo_window, qtbot):
    bench.rigs.setFocus()
    bench.rigs.setCurrentIndex(cell(bench, "breakwater-marram-12", Place.RIG))
    seen = []
    for _ in range(len(Place)):
        qtbot.keyClick(bench.rigs, Qt.Key.Key_Tab)
        seen.append(bench.rigs.place())
        if not bench.rigs.hasFocus():
            break
    assert not bench.rigs.hasFocus()
    assert seen[:2] == [Place.HOST, Place.LINK]


def test_what_was_typed_and_refused_by_the_file_is_shown_no_more(
    bench, demo_window, qtbot, settle, monkeypatch
):
    def refuse(*_args, **_names):
        raise LogbookBusy("demo", "the disk is full", "Make room on it")

    from blunt_ruler.logbook import Logbook, LogbookBusy

    before = list(rigs_of(demo_window))
    monkeypatch.setattr(Logbook, "commit", refuse)
    bench.rigs.setCurrentIndex(cell(bench, None, Place.RIG))
    keys(qtbot, bench, "Cable 2\r")
    assert "Cable 2" in [row.words[0] for row in bench.rigs.grid.rows]
    settle(demo_window)
    assert "the disk is full" in demo_window.banner.words.text()
    assert [row.words[0] for row in bench.rigs.grid.rows] == before


def test_a_tall_page_looked_at_before_takes_no_room_of_the_rows(demo_window, settle):
    demo_window.resize(1280, 800)
    stop = demo_window.controllers["Bench"].stop
    demo_window.go_to("Bench")
    for name in ("Trouble", "Machine", "Pre-flight"):
        stop.show_page(name)
        settle(demo_window)
    assert stop.rigs.geometry().bottom() < stop.bar.geometry().top()
    assert stop.pages.minimumSizeHint() == stop.pages.currentWidget().minimumSizeHint()

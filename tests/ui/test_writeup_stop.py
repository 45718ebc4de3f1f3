"""The Write-up stop driven for real: from a line of the verdict to the exported PDF."""

import pytest
from forms import type_in
from pypdf import PdfReader
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtWidgets import QFileDialog, QLabel
from reach import Hand, stop

from blunt_ruler.core.records.writeup_settings import SectionKey
from blunt_ruler.core.writeup.private_words import Private, PrivateWords
from blunt_ruler.exchange.documents.writeup.files import Format
from blunt_ruler.logbook import Logbook

AT = "Write-up"


def text_of(browser):
    return browser.toPlainText().replace("\u00a0", " ").replace("\u202f", " ")


@pytest.fixture
def composed(qtbot):
    """Wait until everything is analysed, composed and drawn."""

    def composed(window):
        deeds = window.controllers["Write-up"]

        def quiet():
            desk = window.desk
            return not (desk.jobs._running or desk.analyses._running or deeds.jobs._running)

        qtbot.waitUntil(quiet, timeout=120_000)
        qtbot.wait(30)
        qtbot.waitUntil(quiet, timeout=120_000)

    return composed


@pytest.fixture
def writeup(demo_window, settle, composed):
    demo_window.go_to("Write-up")
    composed(demo_window)
    return stop(demo_window, "Write-up")


def evidence(stop):
    return " | ".join(one.text() for one in stop.evidence.findChildren(QLabel))


def test_the_preview_is_the_report(writeup):
    text = text_of(writeup.preview.preview)
    assert text.startswith("Which link")
    for words in ("Verdict", "How it was measured", "What it is worth", "Corrections"):
        assert words in text
    assert "The Marram 12 over the PCIe 4.0 x4 cord is 3.18 times as fast" in text
    assert "50 cells over 5 rigs and 10 cases are ready to export." in writeup.blunt.text()
    page = writeup.preview.preview.document()
    image = page.resource(2, QUrl("chart:ruler"))
    assert image.width() > 400, "the charts are drawn into it"
    colours = {image.pixel(x, y) for x in range(0, 500, 7) for y in range(0, 280, 7)}
    assert len(colours) > 5


def test_from_a_line_of_the_verdict_to_the_exported_pdf(
    writeup, demo_window, settle, composed, tmp_path
):
    demo_window.go_to("Worth")
    stop(demo_window, "Worth").show_page("Verdict")
    type_in(stop(demo_window, "Worth").verdict.form, "gain_at_least", "220 %")
    settle(demo_window)
    demo_window.go_to("Write-up")
    composed(demo_window)
    said = "For evenings in the reading room Breakwater Marram 12"
    assert said in text_of(writeup.preview.preview)
    shown = text_of(writeup.preview.preview)
    assert "Not Groyne Marram 12: gain over Built-in iG-6 +218 %, just under the +220 %" in shown
    assert "asked for; other titles could meet it" in shown
    demo_window.actions_of.by_name["Write the report…"].trigger()
    dialog = demo_window.controllers["Write-up"].dialog
    for one, box in dialog.boxes.items():
        box.setChecked(one is Format.PDF)
    dialog.folder.setText(str(tmp_path / "out"))
    composed(demo_window)
    assert not dialog.private.isVisibleTo(dialog)
    dialog.bundle.setChecked(True)
    assert not dialog.private.isVisibleTo(dialog), "nothing of it is private"
    dialog.show_private([PrivateWords(Private.PATH, "/srv/q/a", "notes of rig “R”")])
    assert dialog.private.toPlainText().endswith("Path in notes of rig “R”: /srv/q/a")
    assert dialog.private.isVisibleTo(dialog)
    dialog.go.click()
    composed(demo_window)
    names = sorted(path.name for path in (tmp_path / "out").iterdir())
    assert names == ["bundle.blunt", "bundle.sha256.txt", "report.pdf", "review.zip"]
    assert "4 files written to" in demo_window.banner.words.text()
    pages = PdfReader(tmp_path / "out" / "report.pdf").pages
    text = " ".join(" ".join(one.extract_text() for one in pages).split()).replace("\u00a0", " ")
    assert said in text
    assert "under the +220 % asked" in text
    with Logbook.open(tmp_path / "out" / "bundle.blunt") as book:
        audiences = book.contents().reviews["which-link"].audiences
    assert audiences[0].gain_at_least == pytest.approx(2.2)


def test_sections_are_moved_and_hidden_by_mouse_and_key(
    writeup, demo_window, settle, composed, qtbot
):
    sections = writeup.preview.sections
    sections.list.setCurrentRow(6)
    assert sections.chosen() is SectionKey.WORTH
    sections.up.click()
    settle(demo_window)
    assert sections.list.currentItem().text() == "What it is worth"
    assert sections.list.currentRow() == 5
    sections.list.setFocus()
    qtbot.keyClick(sections.list, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    composed(demo_window)
    assert sections.list.currentRow() == 4
    text = text_of(writeup.preview.preview)
    assert text.index("What it is worth") < text.index("Results\n")
    item = sections.list.item(0)
    item.setCheckState(Qt.CheckState.Unchecked)
    composed(demo_window)
    assert "Verdict\n" not in text_of(writeup.preview.preview)
    assert demo_window.actions_of.by_name["Undo"].text() == "Undo: hide the section Verdict"
    demo_window.actions_of.by_name["Undo"].trigger()
    composed(demo_window)
    assert "Verdict\n" in text_of(writeup.preview.preview)
    sections.list.setCurrentRow(0)
    sections.up.click()
    settle(demo_window)
    assert sections.list.currentRow() == 0


def test_a_sentence_shows_its_figures_and_takes_own_words(writeup, demo_window, composed, qtbot):
    writeup.preview.preview.anchorClicked.emit(QUrl("says:verdict.rig.groyne-marram-12"))
    shown = evidence(writeup)
    assert "mean gain" in shown
    assert "3.18 times" in shown
    assert "Groyne Marram 12, against Built-in iG-6 · 60 runs" in shown
    assert "as described" in shown, "a cost rests on prices, not on runs"
    writeup.preview.own.selectAll()
    qtbot.keyClicks(writeup.preview.own, "The cord is enough.")
    qtbot.keyClick(writeup.preview.own, Qt.Key.Key_Return)
    composed(demo_window)
    text = text_of(writeup.preview.preview).replace("’", "'")
    assert "The cord is enough. (the reviewer's words; computed: The Marram 12 over the" in text
    assert "In your words. Computed:" in evidence(writeup)
    assert writeup.preview.back.isEnabled()
    writeup.preview.back.click()
    composed(demo_window)
    assert "The cord is enough" not in text_of(writeup.preview.preview)
    writeup.preview.preview.anchorClicked.emit(QUrl("says:method.average"))
    assert "It states no measured figure." in evidence(writeup)


def choose(table, key):
    table.setCurrentIndex(table.rows_model.index(table.rows_model.place_of(key), 0))


def test_disclosures_are_added_changed_and_taken_away(writeup, demo_window, settle, composed):
    writeup.show_page("Disclosures")
    page = writeup.disclosures
    rows = {row[0]: row[1] for row in page.table.texts()}
    assert rows["Groyne"] == rows["Workbench tower"] == "not stated"
    assert "do not say where they came from" in writeup.blunt.text()
    choose(page.table, "Groyne")
    page.form.fields["terms"].box.setCurrentText("a gift")
    page.form.fields["terms"].box.textActivated.emit("a gift")
    settle(demo_window)
    disclosed = demo_window.desk.snapshot.review.writeup.disclosures[-1]
    assert (disclosed.what, str(disclosed.terms)) == ("Groyne", "a gift")
    assert page.table.chosen().what == "Groyne"
    type_in(page.form, "what", "")
    assert "Give a name" in page.form.fields["what"].wrong.text() or (
        "cannot be" in page.form.fields["what"].wrong.text()
    )
    composed(demo_window)
    assert "Where these came from is not stated: Breakwater and Workbench tower." in text_of(
        writeup.preview.preview
    )
    page.byline.setText("another bench")
    page.byline.setModified(True)
    page.byline.editingFinished.emit()
    composed(demo_window)
    assert "Tested by another bench." in text_of(writeup.preview.preview)
    page.drop.click()
    settle(demo_window)
    assert len(demo_window.desk.snapshot.review.writeup.disclosures) == 2
    page.add.click()
    settle(demo_window)
    assert page.table.chosen().what == "A tested thing"


def test_without_disclosures_the_line_and_the_rail_say_so(writeup, demo_window, settle):
    writeup.show_page("Disclosures")
    page = writeup.disclosures
    for what in [one.what for one in demo_window.desk.snapshot.review.writeup.disclosures]:
        choose(page.table, what)
        page.drop.click()
        settle(demo_window)
    assert "do not say where they came from" in page.line()
    assert demo_window.rail.stops["Write-up"].state.words == "no disclosures"
    assert not page.drop.isEnabled()


def test_points_for_and_against_are_printed_after_the_verdict(
    writeup, demo_window, settle, composed
):
    writeup.show_page("For and against")
    page = writeup.points
    for side, text in (("pros", "quiet in the room\n\n one cord\n"), ("cons", "no sleep")):
        page.sides[side].setFocus()
        page.sides[side].setPlainText(text)
        page.sides[side].clearFocus()
        settle(demo_window)
    kept = demo_window.desk.snapshot.review.writeup
    assert (kept.pros, kept.cons) == (("quiet in the room", "one cord"), ("no sleep",))
    assert writeup.blunt.text() == "2 points for and 1 point against, printed in your words."
    composed(demo_window)
    shown = text_of(writeup.preview.preview)
    assert (
        shown.index("Verdict") < shown.index("For and against") < shown.index("quiet in the room")
    )
    demo_window.desk.undo()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.writeup.cons == ()


def test_the_narration_is_shown(writeup):
    writeup.show_page("Narration")
    assert "2.7 times as fast as the built-in iG-6" in text_of(writeup.narration.sheet)


def test_the_export_asks_again_where_it_cannot_write(
    writeup, demo_window, composed, tmp_path, monkeypatch
):
    writeup.export.click()
    dialog = demo_window.controllers["Write-up"].dialog
    assert dialog.go.isEnabled()
    for box in dialog.boxes.values():
        box.setChecked(False)
    assert "Nothing is ticked" in dialog.problem.text()
    assert not dialog.go.isEnabled()
    dialog.boxes[Format.MD].setChecked(True)
    dialog.folder.setText("")
    dialog.folder.textEdited.emit("")
    assert "No folder is named" in dialog.problem.text()
    (tmp_path / "file").write_text("")
    dialog.folder.setText(str(tmp_path / "file"))
    dialog.folder.textEdited.emit("")
    assert "is a file, not a folder" in dialog.problem.text()
    below = tmp_path / "file" / "below"
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_a, **_k: str(below))
    dialog._on_choose()
    assert dialog.folder.text() == str(below)
    dialog.go.click()
    composed(demo_window)
    assert "cannot be written" in demo_window.banner.words.text()
    assert demo_window.banner.isVisible()
    writeup.export.click()
    again = demo_window.controllers["Write-up"].dialog
    assert again.folder.text() == str(below), "what was typed last is offered again"
    again.reject()


def test_a_preview_that_nobody_sees_is_not_made(demo_window, settle):
    demo_window.go_to("Board")
    settle(demo_window)
    seen = demo_window.controllers["Write-up"]._composing
    assert seen is not None
    Hand(demo_window).put("an edit", demo_window.desk.snapshot.review)
    settle(demo_window)
    assert demo_window.controllers["Write-up"]._composing is seen


@pytest.mark.deep
def test_another_review_is_written_up_when_it_is_chosen(writeup, demo_window, composed):
    demo_window.desk.choose_review("which-card")
    composed(demo_window)
    assert text_of(writeup.preview.preview).startswith("Which card")


@pytest.mark.deep
def test_the_preview_keeps_its_place(writeup, demo_window, composed):
    bar = writeup.preview.preview.verticalScrollBar()
    bar.setValue(bar.maximum() // 2)
    place = bar.value()
    writeup.disclosures.byline.setText("x")
    writeup.disclosures.byline.setModified(True)
    writeup.disclosures.byline.editingFinished.emit()
    composed(demo_window)
    assert abs(bar.value() - place) < 60


@pytest.mark.parametrize("review", ["Which link", "Which card"])
def test_no_table_of_the_preview_is_wider_than_the_page(
    writeup, demo_window, settle, composed, review
):
    bar = writeup.preview.preview.horizontalScrollBar()
    shown = []
    bar.rangeChanged.connect(lambda _least, most: shown.append(most))
    demo_window.desk.choose_review("which-card" if review == "Which link" else "which-link")
    settle(demo_window)
    composed(demo_window)
    found = {one.name: one.id for one in demo_window.desk.snapshot.contents.reviews.values()}
    demo_window.desk.choose_review(found[review])
    settle(demo_window)
    composed(demo_window)
    assert demo_window.width() == 1280
    assert bar.maximum() == 0
    assert not any(shown), "nor does one flash while it is laid out"


def test_for_and_against_are_filled_from_the_findings_by_one_key(writeup, demo_window, settle):
    writeup.show_page("For and against")
    page = writeup.points
    page.sides["pros"].setPlainText("Quiet.")
    action = demo_window.actions_of.by_name["Fill for and against from the findings"]
    assert action.shortcut().toString() == "Ctrl+Shift+F"
    action.trigger()
    settle(demo_window)
    kept = demo_window.desk.snapshot.review.writeup
    assert kept.pros[0] == "Quiet."
    assert any("is 2.7 times as fast as the built-in iG-6" in one for one in kept.pros)
    assert any("keeps 75\u202f% of its speed in the Workbench tower" in one for one in kept.cons)
    before = kept
    page.fill.click()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.writeup == before, "nothing is added twice"

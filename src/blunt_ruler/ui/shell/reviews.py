"""New, rename, duplicate, delete: reviews, under the logbook's name and in the palette."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING, TypeAlias

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog, QLabel, QWidget

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.ui.desk.desk import Desk
from blunt_ruler.ui.desk.snapshot import new_id

if TYPE_CHECKING:  # they come with the first logbook
    from blunt_ruler.core.records.edits import Edit
    from blunt_ruler.core.records.records import Contents, Review
    from blunt_ruler.core.runs.review_templates import ReviewTemplate
    from blunt_ruler.ui.desk.controller import Offer

    Make: TypeAlias = Callable[[Contents, Review, str], Edit]


class Reviews:
    """What the window does with reviews; `asking` is the dialog that asks for a name."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        self._desk, self._parent = desk, parent
        self.asking: QInputDialog | None = None

    def offers(self) -> Iterator[Offer]:
        """Every action with reviews."""
        from blunt_ruler.core.runs.review_templates import TEMPLATES
        from blunt_ruler.ui.desk.controller import Offer

        yield Offer("New review…", self.new)
        for template in TEMPLATES:
            yield Offer(f"New review: {template.name}…", partial(self.begin, template))
        yield Offer("Rename the review…", self.rename)
        yield Offer("Duplicate the review…", self.duplicate)
        yield Offer("Delete the review", self.delete)

    def new(self) -> None:
        """Ask for the name of an empty review, and show it."""
        from blunt_ruler.core.records.review_edits import new_review, suggested_name

        def make(contents: Contents, _review: Review, name: str) -> Edit:
            return new_review(contents, name, made)

        made = new_id()
        self._ask("New review", lambda contents, _: suggested_name(contents), make, made)

    def begin(self, template: ReviewTemplate) -> None:
        """Ask for the name of a review with the rigs of a template, and show it."""
        from blunt_ruler.core.records.edits import free_name
        from blunt_ruler.core.runs.review_templates import review_from

        def suggest(contents: Contents, _review: Review) -> str:
            return free_name(template.name, [one.name for one in contents.reviews.values()])

        def make(contents: Contents, _review: Review, name: str) -> Edit:
            return review_from(contents, template, name, made, new_id)

        made = new_id()
        self._ask("New review", suggest, make, made)

    def rename(self) -> None:
        """Ask for another name of the present review."""
        from blunt_ruler.core.records.review_edits import rename_review

        self._ask("Rename the review", lambda _, review: review.name, rename_review, None)

    def duplicate(self) -> None:
        """Ask for the name of a copy of the present review, and show it."""
        from blunt_ruler.core.records.review_edits import duplicate_review, suggested_name

        def make(contents: Contents, review: Review, name: str) -> Edit:
            return duplicate_review(contents, review, name, made)

        made = new_id()
        self._ask("Duplicate the review", suggested_name, make, made)

    def delete(self) -> None:
        """Take the present review away; rigs, cases and runs stay, and undo brings it back."""
        from blunt_ruler.core.records.review_edits import delete_review

        snapshot = self._desk.snapshot
        if snapshot is None or snapshot.review is None:
            return
        edit = delete_review(snapshot.contents, snapshot.review, new_id)
        said = f"{snapshot.review.name} is deleted; rigs, cases and runs stay. Undo brings it back."
        self._desk.apply_to_review(replace(edit, notice=said), None)

    def _ask(
        self,
        title: str,
        suggest: Callable[[Contents, Review], str],
        make: Make,
        review_id: str | None,
    ) -> None:
        """Ask for a name, and make the edit; a name that will not do is said and asked again."""
        snapshot = self._desk.snapshot
        if snapshot is None or snapshot.review is None:
            return
        contents, review = snapshot.contents, snapshot.review
        self._open(title, "Its name:", suggest(contents, review), contents, review, make, review_id)

    def _open(
        self,
        title: str,
        words: str,
        text: str,
        contents: Contents,
        review: Review,
        make: Make,
        review_id: str | None,
    ) -> None:
        dialog = QInputDialog(self._parent)
        dialog.setWindowTitle(title)
        dialog.setLabelText(words)
        for part in dialog.findChildren(QLabel):
            part.setTextFormat(Qt.TextFormat.PlainText)
        dialog.setTextValue(text)
        dialog.resize(420, dialog.sizeHint().height())

        def named(name: str) -> None:
            try:
                edit = make(contents, review, name)
            except UserFixable as error:
                self._open(title, f"{error}", name, contents, review, make, review_id)
                return
            self._desk.apply_to_review(edit, review_id or review.id)

        dialog.textValueSelected.connect(named)
        self.asking = dialog
        dialog.open()

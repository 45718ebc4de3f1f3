"""A form for any part: fields, units and bounds come from the model's own declaration.

What is typed is checked at once and stays while it is wrong; a sentence says why.
"""

from collections.abc import Callable, Sequence

from pydantic import BaseModel
from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QSizePolicy,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.rigs.fields import (
    UNKNOWN,
    FieldKind,
    FieldSpec,
    fields_of,
    said,
    with_field,
)
from blunt_ruler.ui.kit.layouts import STRETCH, stacked
from blunt_ruler.ui.kit.widgets import allow, label

NAME_WIDTH = 108  # of a narrow form
SEVERAL = "several"  # the parts that are edited together do not agree


class _Field(QWidget):
    """One field: label, box, unit, and below the box what is wrong with it.

    Signals:
        text_committed(str, str): the field's name and a text that can stand.
    """

    text_committed = pyqtSignal(str, str)

    def __init__(
        self, spec: FieldSpec, checked: Callable[[str, str], None], blank: str, narrow: bool
    ) -> None:
        super().__init__()
        self.spec = spec
        self._blank = blank
        self._checked = checked
        self._shown = ""
        self.box: QLineEdit | QComboBox | QPlainTextEdit = self._make_box()
        unit_words = f", {spec.typed_unit}" if spec.unit else ""
        self.box.setAccessibleName(f"{spec.says}{unit_words}")
        name = label(spec.says, "quiet", wrap=False)
        name.setBuddy(self.box)
        name.setMinimumWidth(10)  # long words must not make one column wider than the other
        name.setToolTip(spec.says)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.box.setMinimumWidth(44)
        row.addWidget(self.box, 1)
        if spec.kind is FieldKind.NUMBER and spec.unit:
            unit = label(spec.typed_unit, "small", wrap=False)
            unit.setMinimumWidth(20)
            row.addWidget(unit)
        self._said = ""
        self.wrong = label("", "error")
        self.wrong.hide()
        if narrow and spec.kind not in (FieldKind.CHOICE, FieldKind.LINES):  # these need the room
            name.setFixedWidth(NAME_WIDTH)
            name.setWordWrap(True)
            row.insertWidget(0, name)
            stacked(row, self.wrong, spacing=2, on=self)
        else:
            stacked(name, row, self.wrong, STRETCH, spacing=2, on=self)

    def _make_box(self) -> QLineEdit | QComboBox | QPlainTextEdit:
        if self.spec.kind is FieldKind.CHOICE:
            choice = QComboBox()
            choice.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            choice.setMinimumContentsLength(4)
            choice.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            choice.addItems(self.spec.choices)
            choice.setPlaceholderText(SEVERAL)
            choice.textActivated.connect(lambda _text: self._commit())
            return choice
        if self.spec.kind is FieldKind.LINES:
            lines = QPlainTextEdit()
            lines.setFixedHeight(78)
            lines.setTabChangesFocus(True)
            lines.setPlaceholderText("host port: 4.0 x4\ncable: 40 Gb/s")
            lines.textChanged.connect(self._check)
            lines.installEventFilter(self)
            return lines
        edit = QLineEdit()
        if self.spec.kind is FieldKind.NUMBER:
            edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        figure = self.spec.kind is FieldKind.NUMBER
        blank = self._blank if figure or self._blank != UNKNOWN else ""
        self._hint = self.spec.example or blank
        edit.setPlaceholderText(self._hint)
        edit.textEdited.connect(lambda _text: self._check())
        edit.editingFinished.connect(self._commit)
        return edit

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """A field of lines commits when the focus leaves it."""
        if event is not None and event.type() == QEvent.Type.FocusOut:
            self._commit()
        return super().eventFilter(watched, event)

    def text(self) -> str:
        """What is typed."""
        if isinstance(self.box, QComboBox):
            return self.box.currentText()
        return self.box.toPlainText() if isinstance(self.box, QPlainTextEdit) else self.box.text()

    def show_text(self, text: str, several: bool = False) -> None:
        """Show a stored value; what is being typed and cannot stand yet is left alone.

        `several` parts do not agree: the field is blank and says so.
        """
        if isinstance(self.box, QLineEdit):
            self.box.setPlaceholderText(SEVERAL if several else self._hint)
        changed = text != self._shown
        self._shown = text
        if not changed and self.text() != text:
            return
        if isinstance(self.box, QComboBox):
            if several:
                self.box.setCurrentIndex(-1)
            else:
                self.box.setCurrentText(text or UNKNOWN)
        elif isinstance(self.box, QPlainTextEdit):
            if self.box.toPlainText() != text:
                self.box.setPlainText(text)
        elif self.box.text() != text:
            self.box.setText(text)
            self.box.setCursorPosition(0)  # a long text shows its beginning
        self._say("")  # what is stored can stand

    def _check(self) -> bool:
        try:
            self._checked(self.spec.name, self.text())
        except UserFixable as error:
            self._say(said(error))
            return False
        self._say("")
        return True

    def _say(self, words: str) -> None:
        if words == self._said:
            return
        was_wrong, self._said = bool(self._said), words
        self.wrong.setText(words)
        self.wrong.setVisible(bool(words))
        if bool(words) == was_wrong:
            return
        self.box.setProperty("wrong", bool(words))
        style = self.box.style()
        if style is not None:
            style.unpolish(self.box)
            style.polish(self.box)

    def _commit(self) -> None:
        if self.text().strip() != self._shown and self._check():
            self.text_committed.emit(self.spec.name, self.text())


class PartForm(QWidget):
    """The fields of one part, some beside each other; `blank` stands in an empty number.

    `narrow` puts one below the other, its name beside it: for the evidence column. `only` names
    the fields to show. Several parts are edited together: a field is theirs where they agree.

    Signals:
        part_changed(object, str): the part as it should be, and the words of the field.
        parts_changed(object, str): the same as a tuple, of all that are edited together.
    """

    part_changed = pyqtSignal(object, str)
    parts_changed = pyqtSignal(object, str)

    def __init__(
        self,
        model: type[BaseModel],
        wide: tuple[str, ...] = (),
        blank: str = UNKNOWN,
        columns: int = 2,
        of: str = "",
        narrow: bool = False,
        only: Sequence[str] = (),
    ) -> None:
        super().__init__()
        self._parts: tuple[BaseModel, ...] = ()
        self._key = ""
        self.fields: dict[str, _Field] = {}
        self.rated: dict[str, float | None] = {}  # what fields are percentages of, typed so
        columns = 1 if narrow else columns
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(6)
        for place in range(columns):
            grid.setColumnStretch(place, 1)
        row = column = 0
        for spec in fields_of(model):
            if only and spec.name not in only:
                continue
            field = _Field(spec, self._check, blank, narrow)
            field.text_committed.connect(self._on_committed)
            if of:  # beside other forms: heard, a field says whose it is
                field.box.setAccessibleName(f"{of}: {field.box.accessibleName()}")
            self.fields[spec.name] = field
            if spec.name in wide and column:
                row, column = row + 1, 0
            grid.addWidget(field, row, column, 1, columns if spec.name in wide else 1)
            column = columns if spec.name in wide else column + 1
            if column >= columns:
                row, column = row + 1, 0

    def show_part(self, part: BaseModel | None, key: str = "") -> None:
        """Show a part, or a blank form that cannot be typed in.

        `key` tells parts without an id from one another: what was typed belongs to the old one.
        """
        self.show_parts(() if part is None else (part,), key)

    def show_parts(self, parts: Sequence[BaseModel], key: str = "") -> None:
        """Show what several parts agree in; what is typed is said of them all."""
        key = key or " ".join(str(getattr(part, "id", "")) for part in parts)
        if parts and tuple(parts) == self._parts and key == self._key:
            return  # they stand there, and what is typed goes on
        fresh = bool(parts) and (not self._parts or key != self._key)
        self._parts, self._key = tuple(parts), key
        allow(self, "" if parts else "Make or choose one first")
        for name, field in self.fields.items():
            if fresh:
                field._shown = "\0"
            texts = {field.spec.text(getattr(part, name)) for part in parts}
            field.show_text(texts.pop() if len(texts) == 1 else "", several=len(texts) > 1)

    def _check(self, name: str, text: str) -> None:
        if len(self._parts) > 1 and not text:
            return  # they do not agree, and nothing is typed
        for part in self._parts:
            with_field(part, name, text, self.rated)

    def _on_committed(self, name: str, text: str) -> None:
        if self._parts:
            made = tuple(with_field(part, name, text, self.rated) for part in self._parts)
            says = self.fields[name].spec.says
            self.part_changed.emit(made[0], says)
            self.parts_changed.emit(made, says)


def heading(words: str) -> QLabel:
    """The heading of a section."""
    return label(words, "heading", wrap=False)

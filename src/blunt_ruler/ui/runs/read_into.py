"""Where what was read off a screen goes: the rig and case that dialogs ask for, alike."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtWidgets import QComboBox

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.recordings.quantities import MEANINGS, Quantity
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.runs.import_runs import known_name, parse_case
from blunt_ruler.core.text import is_blank
from blunt_ruler.core.values import LONGEST_NAME
from blunt_ruler.exchange.file_names import proposed


def known_names(contents: Contents | None, review: Review | None) -> tuple[list[str], list[str]]:
    """The rigs of a logbook and the cases of a review, by name; none where there is no logbook."""
    if contents is None:
        return [], []
    ids = review.case_ids if review is not None else ()
    rigs = [rig.name for rig in contents.rigs.values()]
    return rigs, [contents.case_label(one) for one in ids]


def place_boxes(
    rigs: Sequence[str], cases: Sequence[str], cell: tuple[str, str], stem: str
) -> tuple[QComboBox, QComboBox]:
    """Fields for a rig and a case, filled in from a cell, else from the words of a file's name."""
    (told,) = proposed([Path(f"{stem}.mp4")])
    rig, case = told if told.case else ("", "")  # one name alone may be anything
    return (
        _place_box(rigs, "Rig", "Rig", cell[0] or known_name(stem, rigs) or rig),
        _place_box(
            cases,
            "Case",
            "Title / scene / 1080p / High",
            cell[1] or known_name(stem, cases) or case,
        ),
    )


def _place_box(names: Sequence[str], name: str, words: str, own: str) -> QComboBox:
    box = QComboBox()
    box.setEditable(True)
    box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
    box.addItems(list(names))
    box.setAccessibleName(name)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    line = box.lineEdit()
    assert line is not None
    line.setPlaceholderText(words)
    box.setEditText(own)
    return box


def why_not_into(rig: str, case: str, which: str = "") -> str:
    """Why a run cannot go to a rig and case as they are written; blank where it can. `which` says
    of what, as " of pass 2".
    """
    if is_blank(rig):
        return f"Name the rig{which}"
    if len(rig.strip()) > LONGEST_NAME:
        return f"The rig{which} has {len(rig.strip())} letters. Give it at most {LONGEST_NAME}"
    if is_blank(case):
        return f"Name the case{which}, as in “Title / scene / 1080p / High”"
    try:
        parse_case(case)
    except UserFixable as error:
        return f"{error.what}{which}. {error.fix}"
    return ""


def quantity_box(name: str) -> QComboBox:
    """A choice of what a figure is."""
    box = QComboBox()
    box.setAccessibleName(name)
    for quantity in Quantity:
        box.addItem(MEANINGS[quantity].words, quantity)
    return box

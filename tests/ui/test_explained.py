"""Every figure's name explains itself on hover: formula and source."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel
from reach import stop

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.limits.split import PARTS
from blunt_ruler.core.worth.figures import FIGURES
from blunt_ruler.core.writeup.trace import PLAIN_WORDS
from blunt_ruler.ui.kit.explained import explained
from blunt_ruler.ui.kit.rows import RowsTable
from blunt_ruler.ui.limits.page import PART_WORDS

NAMES = [
    *map(str, Lens),
    *(f"worth {said.short}" for said in FIGURES.values()),
    *PLAIN_WORDS.values(),
    *(PART_WORDS[part] for part in PARTS),
]


@pytest.mark.parametrize("name", dict.fromkeys(NAMES))
def test_a_name_has_its_formula_and_its_source(name):
    said = explained(name)
    assert said.startswith("<b>")
    assert said.count("<i>") == 1


def test_a_name_that_two_places_use_is_explained_for_each():
    assert "Shapley" in explained("card")
    assert "hottest" in explained("worth card")
    assert explained("1\u202f% low") == explained("1 % low")
    assert explained("Tidewrack") == ""


@pytest.mark.parametrize("name", ["Board", "Limits", "Worth", "Runs"])
def test_names_in_the_evidence_explain_themselves(demo_window, settle, name):
    demo_window.go_to(name)
    settle(demo_window)
    evidence = stop(demo_window, name).evidence
    tips = [one.toolTip() for one in evidence.findChildren(QLabel) if "<b>" in one.toolTip()]
    assert len(tips) >= 2
    assert all("<i>" in tip for tip in tips)


def test_lenses_and_heads_explain_themselves(demo_window, settle):
    page = stop(demo_window, "Board").cells
    assert "a/b − 1" in page.lens_buttons[Lens.GAIN].toolTip()
    demo_window.go_to("Worth")
    settle(demo_window)
    tables = demo_window.controllers["Worth"].stop.findChildren(RowsTable)
    models = [table.model() for table in tables if table.isVisible()]
    tip = Qt.ItemDataRole.ToolTipRole
    heads = [
        str(model.headerData(place, Qt.Orientation.Horizontal, tip))
        for model in models
        for place in range(model.columnCount())
    ]
    assert any("cost as “to buy”" in head for head in heads)

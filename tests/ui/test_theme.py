"""Colours can be told apart and read; figures line up; the ruler paints what it is given."""

import pytest
from PyQt6.QtGui import QColor, QFontInfo, QFontMetrics

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.drawing import palette
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.board.ruler import Ruler
from blunt_ruler.ui.kit import theme

THEMES = {"paper": theme.PAPER, "slate": theme.SLATE, "contrast": theme.CONTRAST}


def test_contrast_is_that_of_wcag():
    # WCAG 2.2, relative luminance: black on white is 21, and #767676 on white just passes 4.5.
    assert palette.contrast("#000000", "#FFFFFF") == pytest.approx(21.0)
    assert palette.contrast("#767676", "#FFFFFF") == pytest.approx(4.54, abs=0.01)


@pytest.mark.parametrize("colours", THEMES.values(), ids=THEMES)
@pytest.mark.parametrize("surface", ["paper", "card", "side"])
@pytest.mark.parametrize("text", ["ink", "steel", "blue", "gain", "loss", "caution"])
def test_text_can_be_read_on_every_surface(colours, surface, text):
    assert palette.contrast(getattr(colours, text), getattr(colours, surface)) >= 4.5


@pytest.mark.parametrize("colours", THEMES.values(), ids=THEMES)
def test_the_rail_and_the_selection_can_be_read(colours):
    assert palette.contrast(colours.rail_ink, colours.rail) >= 4.5
    assert palette.contrast(colours.rail_steel, colours.rail) >= 4.5
    assert palette.contrast(colours.ink, colours.selected) >= 4.5
    assert palette.contrast(colours.card, colours.blue) >= 4.5  # the primary button
    assert palette.contrast(colours.ink, colours.rule) >= 4.5  # numbers on the rule


@pytest.mark.parametrize("colours", THEMES.values(), ids=THEMES)
@pytest.mark.parametrize("mark", ["narrow", "middle", "wide", "built_in", "reference"])
def test_bars_stand_out_from_the_card(colours, mark):
    assert palette.contrast(getattr(colours, mark), colours.card) >= 3.0


def test_barlow_is_shipped_and_its_figures_are_of_one_width(dressed):
    font = theme.font(15, theme.BOLD)
    assert QFontInfo(font).family() == "Barlow"
    metrics = QFontMetrics(font)
    assert len({metrics.horizontalAdvance(digit * 8) for digit in "0123456789"}) == 1


def test_wider_links_are_darker_and_every_rig_has_a_colour(dressed, demo_book):
    with Logbook.open(demo_book) as book:
        contents = book.contents()
    board = build_board(contents, contents.reviews["which-link"])
    colours = palette.rig_shades(board, theme.PAPER)
    assert set(colours) == {column.rig_id for column in board.columns}
    darkness = [
        palette.contrast(colours[rig], theme.PAPER.card)
        for rig in ("sluice-marram-12", "groyne-marram-12", "breakwater-marram-12")
    ]
    assert darkness == sorted(darkness)


def test_the_ruler_draws_longer_bars_for_faster_rigs(dressed, demo_book, qtbot):
    with Logbook.open(demo_book) as book:
        contents = book.contents()
    board = build_board(contents, contents.reviews["which-link"])
    ruler = Ruler()
    qtbot.addWidget(ruler)
    ruler.show_case(board, board.rows[0], "sluice-marram-12")
    ruler.resize(800, ruler.sizeHint().height())
    image = ruler.grab().toImage()
    colours = palette.rig_shades(board, theme.PAPER)
    ends = []
    for column in board.columns:
        wanted = QColor(colours[column.rig_id]).rgb()
        xs = [
            x
            for x in range(178, image.width() - 100)
            if any(image.pixel(x, y) == wanted for y in range(40, image.height() - 32))
        ]
        ends.append(max(xs))
    assert ends == sorted(ends)


@pytest.mark.parametrize("name", [n for n in theme.ThemeName if n is not theme.ThemeName.AUTO])
def test_a_pinned_theme_is_the_theme(name):
    themes = {"paper": theme.PAPER, "slate": theme.SLATE, "high contrast": theme.CONTRAST}
    assert theme.wanted_theme(name) is themes[name]

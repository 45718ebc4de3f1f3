"""Bars of parts: a rule where there is something to measure, else that there is nothing yet."""

import pytest

from blunt_ruler.core.drawing.picture import Picture, Words
from blunt_ruler.core.drawing.stacks import Piece, Stack, draw_stacks
from blunt_ruler.ui.kit.theme import PAPER


@pytest.mark.parametrize(("watts", "has_rule"), [((), False), ((0.0,), False), ((180.0,), True)])
def test_a_rule_stands_under_bars_alone(watts, has_rule):
    picture = Picture(PAPER, 600, 120, lambda text, size, _weight: 0.5 * size * len(text), {})
    pieces = tuple(Piece("playing", value) for value in watts)
    draw_stacks(picture, [Stack("Tower", pieces, "–"), Stack("Dock", (), "–")], "W")
    said = [one.text for one in picture.items if type(one) is Words]
    assert ("50" in said) == has_rule
    assert ("No bar yet: no figure in W is noted" in said) != has_rule

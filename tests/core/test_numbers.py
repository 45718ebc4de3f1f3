"""Numbers as people type them."""

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.numbers import number, number_in, read_number
from blunt_ruler.core.text import capital


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("58.2", 58.2),
        ("58,2", 58.2),
        (" 1 234,5 ", 1234.5),
        ("1.234,5", 1234.5),
        ("1,234.5", 1234.5),
        ("1\u202f234", 1234.0),
        ("−3", -3.0),
        ("+3.", 3.0),
        (".5", 0.5),
        ("1e3", 1000.0),
    ],
)
def test_either_mark_and_spaces_between_thousands(text, value):
    assert number(text) == value


@pytest.mark.parametrize("text", ["", "1O1", "nan", "inf", "1_000", "0x10", "1.2.3", "1e9999", "٣"])
def test_what_is_no_number_is_refused(text):
    with pytest.raises(ValueError, match="is not a number"):
        number(text)


def test_bounds_are_said():
    assert read_number("", "hours", most=10) is None
    assert read_number("2,5", "hours", most=10) == 2.5
    assert read_number("0.5", "hours", most=10) == 0.5
    with pytest.raises(UserFixable, match="Give above 0, at most 10"):
        read_number("0", "hours", most=10)
    with pytest.raises(UserFixable, match="Give at least 1, at most 50"):
        read_number("51", "repeats", most=50, least=1)


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("the tower loses", "The tower loses"),
        ("eGPU gains", "eGPU gains"),
        ("x16 slot", "X16 slot"),
        ("", ""),
    ],
)
def test_a_sentence_begins_with_a_capital_unless_a_name_has_its_own(words, said):
    assert capital(words) == said


@pytest.mark.parametrize(
    ("unit", "text", "value"),
    [
        ("l", "250 ml", 0.25),
        ("l", "5 litres", 5.0),
        ("kg", "850 g", 0.85),
        ("W", "1.2 kW", 1200.0),
        ("h", "90 min", 1.5),
        ("GB", "512 MB", 0.5),
    ],
)
def test_another_unit_of_its_kind_is_brought_to_its_own(unit, text, value):
    assert number_in(unit, text) == pytest.approx(value)

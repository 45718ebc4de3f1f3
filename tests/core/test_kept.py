"""What is remembered is told by identity, and the oldest goes first."""

from blunt_ruler.core.compare.comparability import CellStanding, Standing
from blunt_ruler.core.kept import Kept, remembered
from blunt_ruler.core.records.severity import Severity


def test_a_thing_is_worked_out_once_and_its_equal_apart():
    made = []

    @remembered()
    def doubled(things: list[int]) -> list[int]:
        """Twice each."""
        made.append(things)
        return [2 * one for one in things]

    one, equal = [1, 2], [1, 2]
    assert doubled(one) == doubled(one) == doubled(equal) == [2, 4]
    assert len(made) == 2
    assert doubled.__doc__ == "Twice each."


def test_no_other_thing_takes_the_identity_of_one_that_is_remembered():
    length = remembered()(len)
    assert [length([0] * count) for count in range(200)] == [*range(200)]


def test_the_oldest_half_goes():
    made = []
    things = [[number] for number in range(5)]
    first = remembered(4)(lambda thing: made.append(thing) or thing[0])
    assert [first(one) for one in things] == [0, 1, 2, 3, 4]
    first(things[2])
    assert len(made) == 5
    first(things[0])
    assert len(made) == 6
    kept, count = Kept[int](4), []
    for one in (*things, things[2], things[0]):
        kept.of((one,), lambda: count.append(1) or 0)
    assert len(count) == 6


def test_words_in_an_order_know_their_rank():
    assert [one.rank for one in Severity] == [0, 1, 2]
    assert max(Standing, key=lambda one: one.rank) is Standing.NOT_COMPARABLE
    assert CellStanding(Standing.CLEAN, Standing.MIXED).worst is Standing.MIXED
    assert CellStanding(Standing.NOT_COMPARABLE, Standing.MIXED).worst is Standing.NOT_COMPARABLE

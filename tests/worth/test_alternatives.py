"""What one could buy instead, by sums on paper: the base does √(20·45) = 30 fps, the rig on the
cable √(60·90) = 73.48 for 750 EUR, the tower √(80·125) = 100.
"""

import pytest
from shop import with_records

from blunt_ruler.core.records.alternatives import Alternative, AlternativeKind, FramesAre
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.pricing import Audience, NoiseReading, Readings
from blunt_ruler.core.rigs.fields import with_field
from blunt_ruler.core.worth.alternatives import (
    alternative_sentence,
    later,
    later_sentence,
    pairs_to_win,
    to_win_sentence,
)
from blunt_ruler.core.worth.figures import WorthFigure
from blunt_ruler.core.worth.verdict import judge

GAINED = (60.0 * 90.0) ** 0.5 - 30.0


def other(frames, amount=600.0, **more):
    made = Alternative(id="a", name="Old tower", amount=amount, **more)
    return with_field(made, "frames", frames) if frames else made


def the_pair(worth):
    (found,) = [one for one in pairs_to_win(worth) if one.row.rig_id == "cable"]
    return found


def said(worth, found):
    return to_win_sentence(worth, found).computed.replace("\u202f", " ")


def test_a_rig_is_told_what_it_would_have_to_cost_or_gain(shop, worth_of):
    worth = worth_of(with_records(shop, other("70")))
    (one,) = worth.alternatives
    assert one.per_gained.value == pytest.approx(600 / (70 - 30))
    found = the_pair(worth)
    assert not found.wins
    assert found.price == pytest.approx(GAINED * 15)  # 652
    assert found.gain == pytest.approx(750 / 15)
    assert said(worth, found) == (
        "To gain frames as cheaply as Old tower (estimated), Cable would have to cost at most "
        "652 EUR (98 EUR less than now), or gain 50 fps instead of 43."
    )


def test_a_change_of_a_rig_is_that_rigs_mean_changed(shop, worth_of):
    worth = worth_of(with_records(shop, other("20% behind the tower", 900.0)))
    (one,) = worth.alternatives
    assert one.frames.value == pytest.approx(80.0)
    found = the_pair(worth)
    assert found.wins  # 900 / 50 = 18 each, 750 / 43.48 = 17.25
    assert "up to a price of 783 EUR" in said(worth, found)


def test_a_range_that_decides_is_said_to_decide(shop, worth_of):
    worth = worth_of(with_records(shop, other("55-75")))
    found = the_pair(worth)
    assert found.ends == pytest.approx((GAINED * 600 / 45, GAINED * 600 / 25))
    assert found.is_open
    assert said(worth, found).startswith(
        "Whether Cable gains frames more cheaply than Old tower (estimated) depends"
    )
    sure = the_pair(worth_of(with_records(shop, other("68-72"))))
    assert not sure.is_open


@pytest.mark.parametrize(
    ("one", "words"),
    [
        (other(""), "Not known: the frames of Old tower."),
        (other("70", None), "Not known: the price of Old tower."),
        (other("-10% of a friend's"), "Not known: the rig that “a friend's” names."),
        (other("25"), "which gains nothing over Built-in"),
    ],
)
def test_what_is_not_known_is_said_and_no_price_is_set(shop, worth_of, one, words):
    worth = worth_of(with_records(shop, one))
    assert words in alternative_sentence(worth, worth.alternatives[0]).computed
    assert not list(pairs_to_win(worth))


def test_another_currency_wants_a_rate(shop, worth_of):
    (one,) = worth_of(with_records(shop, other("70", currency="USD"))).alternatives
    assert one.cost.missing == ("the rate of USD in EUR",)


def test_it_says_whose_frames_and_that_a_computer_is_whole(shop, worth_of):
    made = other(
        "70",
        kind=AlternativeKind.TOWER,
        frames_are=FramesAre.PUBLISHED,
        source="a reader",
    )
    worth = worth_of(with_records(shop, made))
    told = alternative_sentence(worth, worth.alternatives[0]).computed
    assert "Old tower (published)" in told
    assert "stands in for the host too; frames from a reader." in told


def test_none_is_among_the_rigs(shop, worth_of):
    worth = worth_of(with_records(shop, other("500", 1.0)))
    alone = worth_of(shop)
    assert [row.figures for row in worth.rows] == [row.figures for row in alone.rows]
    assert [row.efficient for row in worth.rows] == [row.efficient for row in alone.rows]


def test_what_carries_over_and_what_the_path_costs(shop, worth_of):
    review = shop.reviews["review"]
    settings = review.worth.model_copy(update={"next_host": 700.0})
    shop = with_records(shop, review.model_copy(update={"worth": settings}))
    worth = worth_of(shop)
    found = later(shop, worth, worth.row("cable"))
    assert (found.worth, found.path) == (750.0, 1450.0)
    words = later_sentence(worth, found).computed.replace("\u202f", " ")
    assert words == (
        "Marram 12, Sluice and 40 Gb/s cable of Cable carry over to the next host (worth 750 EUR) "
        "if that takes the 40 Gb/s cable; with a host at 700 EUR the path costs 1 450 EUR in all."
    )
    assert later(shop, worth, worth.row("tower")) is None


# Living with it


@pytest.mark.parametrize(("most", "word"), [(3.0, True), (1.0, False), (None, True)])
def test_a_verdict_counts_the_minutes_of_docking(shop, worth_of, most, word):
    rig = shop.rigs["cable"].model_copy(update={"driver_switch_min": 1.5, "opening_min": 1.0})
    worth = worth_of(with_records(shop, rig))
    row = worth.row("cable")
    assert row.value(WorthFigure.DOCKING) == 2.5
    judged = judge(worth, row, Audience(name="A", gain_at_least=1.0, docking_at_most_min=most))
    assert judged.makes_sense is word


def test_docking_that_nobody_timed_leaves_a_verdict_open_and_nothing_else(shop, worth_of):
    worth = worth_of(shop)
    audience = Audience(name="A", docking_at_most_min=3.0)
    assert judge(worth, worth.row("cable"), audience).makes_sense is None
    assert judge(worth, worth.row("tower"), audience).makes_sense is True  # it is not docked
    assert not any("docking" in one.what for one in worth.missing)
    bare = with_records(shop, Rig(id="cable", name="Cable"))
    assert worth_of(bare).row("cable").value(WorthFigure.DOCKING) is None


def test_noise_at_the_seat_needs_no_distance(shop, worth_of):
    readings = with_field(Readings(id="cable", rig_id="cable"), "noise", "all of it 41 at the seat")
    assert readings.noise == (NoiseReading(source="all of it", dba=41, at_seat=True),)
    worth = worth_of(with_records(shop, readings))
    assert worth.row("cable").value(WorthFigure.NOISE) == pytest.approx(41.0)
    meter = Readings(id="cable", rig_id="cable", noise_at_seat=True)  # its runs read 40 dB(A)
    worth = worth_of(with_records(shop, meter))
    assert worth.row("cable").value(WorthFigure.NOISE) == pytest.approx(40.0)


# Boxes with the card built in


def test_a_sealed_box_has_the_price_and_the_weight_of_its_card(shop, worth_of):
    card = shop.cards["m12"].model_copy(update={"weight_kg": None})
    shop = with_records(shop, card, shop.docks["box"].model_copy(update={"sealed": True}))
    shop = shop.with_records({"prices": {"m12": None}})
    worth = worth_of(shop)
    row = worth.row("cable")
    assert row.value(WorthFigure.COST) == 250 + 2 * 50
    assert [line.bundle for line in row.lines if line.kind == "card"] == ["Sluice"]
    assert row.value(WorthFigure.BESIDE) == 3.0
    assert worth.row("tower").value(WorthFigure.COST) is None  # there it is a part by itself


def test_a_card_of_its_own_price_keeps_it_in_a_sealed_box(shop, worth_of):
    sealed = shop.docks["box"].model_copy(update={"sealed": True})
    row = worth_of(with_records(shop, sealed)).row("cable")
    assert row.value(WorthFigure.COST) == 400 + 250 + 2 * 50
    assert row.value(WorthFigure.BESIDE) == 4.0


def test_a_box_whose_supply_is_noted_as_nothing_has_no_share_of_it(shop, worth_of):
    bare = shop.docks["box"].model_copy(update={"supply_w": 0.0})
    answer = worth_of(with_records(shop, bare)).row("cable").figures[WorthFigure.SUPPLY_FREE]
    assert answer.value is None and answer.missing == ()

"""Every figure of Worth against a shop worked out by hand; unknowns stay unknown."""

import math

import numpy as np
import pytest
from shop import with_records

from blunt_ruler.core.claims.prices import (
    level_sentence,
    turning_sentence,
    value_per_gained,
    worth_line,
    worth_sentence,
)
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.measure.trace_summary import observe
from blunt_ruler.core.records.hardware import Dock, Host, Link, Rig, ScreenPath
from blunt_ruler.core.records.pricing import (
    ExchangeRate,
    NoiseReading,
    Price,
    PriceThen,
    WorthSettings,
)
from blunt_ruler.core.records.records import CaseWeight, Decision, Meters, Origin, Run, TypedFigures
from blunt_ruler.core.worth.answers import lacks_words
from blunt_ruler.core.worth.comparing import cheapest_gain, draw_level, moved_name, moved_prices
from blunt_ruler.core.worth.costs import parts_list
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_text, money_text
from blunt_ruler.core.worth.sentences import (
    basis_words,
    missing_words,
    prices_line,
    running_line,
)

F = WorthFigure
MEAN = {"built-in": 30.0, "cable": math.sqrt(60 * 90), "tower": 100.0}
LOW = {"built-in": math.sqrt(15 * 30), "cable": math.sqrt(45 * 60), "tower": math.sqrt(60 * 90)}
COST = {"built-in": 0.0, "cable": 400 + 250 + 2 * 50, "tower": 1200.0}
LOAD = {"built-in": 55.0, "cable": 200.0, "tower": 300.0}
IDLE = {"built-in": 30.0, "cable": 50.0, "tower": 60.0}
RIGS = tuple(MEAN)


def value(worth, rig, figure):
    return worth.row(rig).value(figure)


@pytest.mark.parametrize("rig", RIGS)
def test_money_and_frames_are_those_worked_out_by_hand(shop, worth_of, rig):
    worth = worth_of(shop)
    assert worth.case_ids == ("one", "two")
    assert value(worth, rig, F.FRAMES) == pytest.approx(MEAN[rig])
    assert value(worth, rig, F.LOW) == pytest.approx(LOW[rig])
    assert value(worth, rig, F.COST) == COST[rig]
    assert value(worth, rig, F.VALUE) == COST[rig] + (900 if rig != "tower" else 0)
    assert value(worth, rig, F.PER_FRAME) == pytest.approx(COST[rig] / MEAN[rig])
    assert value(worth, rig, F.PER_LOW) == pytest.approx(COST[rig] / LOW[rig])
    assert value(worth, rig, F.GAINED) == pytest.approx(MEAN[rig] - 30.0)
    if rig == "built-in":
        assert value(worth, rig, F.PER_GAINED) is None
        assert not worth.row(rig).figures[F.PER_GAINED].missing
    else:
        assert value(worth, rig, F.PER_GAINED) == pytest.approx(COST[rig] / (MEAN[rig] - 30.0))
        gained = LOW[rig] - LOW["built-in"]
        assert value(worth, rig, F.PER_GAINED_LOW) == pytest.approx(COST[rig] / gained)


@pytest.mark.parametrize("rig", RIGS)
def test_energy_and_power_are_those_worked_out_by_hand(shop, worth_of, rig):
    worth = worth_of(shop)
    kwh = (LOAD[rig] * 10 + IDLE[rig] * 20) / 1000 * 365.25 / 7
    assert value(worth, rig, F.IDLE_W) == IDLE[rig]
    assert value(worth, rig, F.LOAD_W) == LOAD[rig]
    assert value(worth, rig, F.PER_WATT) == pytest.approx(MEAN[rig] / LOAD[rig])
    assert value(worth, rig, F.ENERGY_KWH) == pytest.approx(kwh)
    assert value(worth, rig, F.ENERGY_COST) == pytest.approx(0.30 * kwh)
    assert value(worth, rig, F.MONTHLY) == pytest.approx(COST[rig] / 60 + 0.30 * kwh / 12)


def test_supply_heat_noise_and_weight_are_those_worked_out_by_hand(shop, worth_of):
    worth = worth_of(shop)
    # A dock by its ratings: 180 W card, 60 W charging, 12 W of its own; a host by the wall meter.
    assert value(worth, "cable", F.SUPPLY_FREE) == pytest.approx(1 - 252 / 330)
    assert value(worth, "tower", F.SUPPLY_FREE) == pytest.approx(1 - 300 / 650)
    assert value(worth, "cable", F.OVER_AMBIENT) == 40.0
    assert value(worth, "cable", F.BELOW_THROTTLE) == 26.0
    # 40 dB(A) at 0.5 m in a room of 30: 39.54 of its own, 33.52 at 1 m.
    alone = 10 * math.log10(10**4 - 10**3)
    assert value(worth, "cable", F.NOISE) == pytest.approx(alone - 20 * math.log10(2))
    assert value(worth, "cable", F.WEIGHT) == 10.0
    assert value(worth, "cable", F.BESIDE) == 4.0
    assert value(worth, "cable", F.VOLUME) == 30.0
    # One lead each for host and dock, one cord, one monitor.
    assert value(worth, "cable", F.CABLES) == 4.0
    assert value(worth, "tower", F.CABLES) == 2.0


def test_only_what_nothing_beats_is_efficient(shop, worth_of):
    worth = worth_of(shop)
    assert [row.efficient for row in worth.rows] == [True, True, True]
    dearer = with_records(shop, Price(id="box", amount=2000))
    assert [row.efficient for row in worth_of(dearer).rows] == [True, False, True]


@pytest.mark.parametrize(
    ("school", "tower"),
    [
        (MeanSchool.GEOMETRIC, 100.0),
        (MeanSchool.RATE, (80 + 125) / 2),
        (MeanSchool.HARMONIC, 2 / (1 / 80 + 1 / 125)),
        # 30 of the base, by its geometric mean, times the mean of 80/20 and 125/45.
        (MeanSchool.PERCENT, 30 * (80 / 20 + 125 / 45) / 2),
    ],
)
def test_frames_follow_the_reviews_mean(shop, worth_of, school, tower):
    review = shop.reviews["review"].model_copy(update={"mean": school})
    worth = worth_of(with_records(shop, review))
    assert value(worth, "tower", F.FRAMES) == pytest.approx(tower)
    ratio = value(worth, "tower", F.FRAMES) / value(worth, "built-in", F.FRAMES)
    assert ratio == pytest.approx(worth.board.totals["tower"].over_base.ratio)


def test_what_is_owned_costs_nothing_more_and_value_compares(shop, worth_of):
    prices = [price.model_copy(update={"owned": True}) for price in shop.prices.values()]
    worth = worth_of(with_records(shop, *prices))
    said = worth_line(worth)
    assert "0\u202fEUR" not in said
    assert "are owned already, so their gained frames cost nothing more" in said
    cheapest, *_ = value_per_gained(worth)
    each = value(worth, cheapest, F.VALUE) / value(worth, cheapest, F.GAINED)
    assert worth_sentence(worth).figures[0].value == pytest.approx(each)


def test_a_reference_that_is_mixed_leaves_the_frames_of_the_others_known(shop, worth_of):
    changed = [
        rig.model_copy(update={"state": rig.state.model_copy(update={"overclock": overclock})})
        for rig, overclock in ((shop.rigs["tower"], "+5"), (shop.rigs["cable"], "none"))
    ]
    worth = worth_of(with_records(shop, *changed))
    assert worth.board.totals["cable"].of_reference is None
    assert value(worth, "cable", F.FRAMES) == pytest.approx(math.sqrt(60 * 90))
    assert value(worth, "cable", F.GAINED) is not None


def test_weights_and_cases_left_out_count_as_on_the_board(shop, worth_of):
    review = shop.reviews["review"]
    without = review.with_case_left_out("two", "one monitor was set otherwise")
    assert value(worth_of(with_records(shop, without)), "tower", F.FRAMES) == pytest.approx(80.0)
    weighed = review.model_copy(update={"weights": (CaseWeight(case_id="one", weight=3.0),)})
    expected = (80**3 * 125) ** 0.25
    assert value(worth_of(with_records(shop, weighed)), "tower", F.FRAMES) == pytest.approx(
        expected
    )


@pytest.mark.parametrize(
    ("record", "says", "blocked"),
    [
        (Price(id="m12"), "the price of Marram 12", {F.COST, F.PER_FRAME, F.MONTHLY}),
        (
            Host(id="pc", name="Quillon 24", supply_w=120),
            "the weight of Quillon 24",
            {F.WEIGHT},
        ),
        (
            Dock(id="box", name="Sluice", weight_kg=3.0),
            "the supply of Sluice",
            {F.SUPPLY_FREE},
        ),
        (Link(id="cable", name="40 Gb/s cable"), "the cords of the 40 Gb/s cable", {F.CABLES}),
    ],
)
def test_an_unknown_stays_unknown_and_says_what_it_blocks(shop, worth_of, record, says, blocked):
    worth = worth_of(with_records(shop, record))
    row = worth.row("cable")
    for figure in blocked:
        assert row.value(figure) is None
        assert says in row.figures[figure].missing
        assert figure_text(row.figures[figure], figure, "EUR") == "–"
    known = next(one for one in worth.missing if one.what == says)
    assert blocked <= set(known.blocks)
    assert "is missing: blocks" in missing_words(known)
    assert lacks_words(["the hours of play in a week"]) == "the hours of play in a week are missing"
    assert lacks_words(("a kept run", "the price"), "not known").endswith("are not known")
    assert row.value(F.FRAMES) == pytest.approx(MEAN["cable"]), "what is known stays known"


def test_no_figure_is_made_up_where_nothing_is_described(shop, worth_of):
    bare = with_records(shop, Rig(id="cable", name="Cable"))
    row = worth_of(bare).row("cable")
    assert {figure for figure in FIGURES if row.value(figure) is not None} <= {
        *(F.FRAMES, F.LOW, F.GAINED, F.GAINED_LOW, F.LOAD_W, F.PER_WATT, F.IDLE_W),
        *(F.CARD_C, F.OVER_AMBIENT, F.NOISE, F.ENERGY_KWH, F.ENERGY_COST),
        *(F.VALUE, F.BESIDE, F.CABLES),
    }
    assert row.figures[F.COST].missing == ("the parts of Cable",)


def test_owned_parts_cost_nothing_unless_the_review_counts_them(shop, worth_of):
    review = shop.reviews["review"]
    counted = review.worth.model_copy(update={"count_owned": True})
    worth = worth_of(with_records(shop, review.model_copy(update={"worth": counted})))
    assert value(worth, "cable", F.COST) == 900 + 750
    assert value(worth, "built-in", F.COST) == 900


def test_an_owned_parts_unknown_price_blocks_only_the_whole_value(shop, worth_of):
    worth = worth_of(with_records(shop, Price(id="pc", owned=True)))
    assert value(worth, "cable", F.COST) == 750
    assert worth.row("cable").figures[F.VALUE].missing == ("the price of Quillon 24",)


def test_another_currency_needs_its_rate(shop, worth_of):
    shop = with_records(shop, Price(id="box", amount=300, currency="usd"))
    assert shop.prices["box"].currency == "USD"
    assert worth_of(shop).row("cable").figures[F.COST].missing == ("the rate of USD in EUR",)
    review = shop.reviews["review"]
    settings = review.worth.model_copy(update={"rates": (ExchangeRate(currency="USD", rate=0.9),)})
    rated = with_records(shop, review.model_copy(update={"worth": settings}))
    assert value(worth_of(rated), "cable", F.COST) == pytest.approx(400 + 270 + 100)


def test_something_beside_the_parts_belongs_to_one_rig(shop, worth_of):
    beside = Price(id="x", rig_id="cable", name="Fan", amount=15, count=2)
    worth = worth_of(with_records(shop, beside))
    assert value(worth, "cable", F.COST) == 780
    assert value(worth, "tower", F.COST) == 1200
    lines = parts_list(with_records(shop, beside), "cable", WorthSettings())
    assert [line.kind for line in lines] == ["host", "card", "dock", "link", "beside"]
    assert [line.what for line in parts_list(shop, "tower", WorthSettings())] == [
        "Workbench tower",
        "Marram 12",
    ], "a slot is not bought apart"


def test_sources_read_apart_are_moved_and_summed(shop, worth_of):
    noise = (
        NoiseReading(source="card", dba=40, distance_m=0.5),
        NoiseReading(source="supply", dba=34, distance_m=1.0),
    )
    read = shop.readings["cable"].model_copy(update={"noise": noise, "background_dba": None})
    found = value(worth_of(with_records(shop, read)), "cable", F.NOISE)
    assert found == pytest.approx(10 * math.log10(10**3.4 + 10 ** ((40 - 20 * math.log10(2)) / 10)))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"noise_distance_m": None}, "the distance of the noise meter at Cable"),
        ({"background_dba": 38.0}, "a reading of Cable above the room's noise"),
    ],
)
def test_noise_that_cannot_be_told_stays_unknown(shop, worth_of, change, says):
    read = shop.readings["cable"].model_copy(update=change)
    answer = worth_of(with_records(shop, read)).row("cable").figures[F.NOISE]
    assert (answer.value, answer.missing) == (None, (says,))


def test_a_case_that_one_rig_lacks_is_not_shared(shop, worth_of):
    gone = shop.runs["tower-two"].model_copy(update={"decision": Decision.SET_ASIDE})
    worth = worth_of(with_records(shop, gone))
    assert worth.case_ids == ("one",)
    assert value(worth, "cable", F.FRAMES) == pytest.approx(60.0)
    assert "1 shared case" in basis_words(worth)


def test_a_rig_without_runs_does_not_take_the_others_cases(shop, worth_of):
    review = shop.reviews["review"].model_copy(update={})
    late = Rig(id="late", name="Late", host_id="pc", card_id="m12", link_id="slot")
    joined = review.joined_by("late", "one")
    worth = worth_of(with_records(shop, late, joined))
    assert value(worth, "cable", F.FRAMES) == pytest.approx(MEAN["cable"])
    assert worth.row("late").figures[F.FRAMES].missing == ("a kept run of Late",)
    assert value(worth, "late", F.COST) == 400


def test_a_rig_of_the_logbook_can_be_set_beside(shop, worth_of):
    review = shop.reviews["review"]
    seats = review.seats[:2]
    settings = review.worth.model_copy(update={"against": "tower"})
    alone = review.model_copy(update={"seats": seats, "worth": settings})
    worth = worth_of(with_records(shop, alone))
    assert [row.rig_id for row in worth.rows] == ["built-in", "cable", "tower"]
    assert value(worth, "tower", F.PER_GAINED) == pytest.approx(1200 / 70)
    assert worth.review == alone, "the review itself keeps its rigs"


def test_the_picture_sent_back_needs_no_monitor(shop, worth_of):
    rig = shop.rigs["cable"].model_copy(update={"screen_path": ScreenPath.SENT_BACK})
    assert value(worth_of(with_records(shop, rig)), "cable", F.CABLES) == 3.0


def test_two_rigs_are_drawn_level_by_a_price(shop, worth_of):
    worth = worth_of(shop)
    level = draw_level(worth, "tower", "cable", F.GAINED)
    each = 750 / (MEAN["cable"] - 30)
    assert level.price.value == pytest.approx(each * 70)
    assert level.change.value == pytest.approx(each * 70 - 1200)
    assert level_sentence(worth, level).computed == (
        f"Tower costs as much as Cable per gained frame at {money_text(each * 70, 'EUR')}, "
        f"{money_text(each * 70 - 1200, 'EUR')} more than now."
    )
    base = draw_level(worth, "cable", "built-in", F.GAINED)
    assert level_sentence(worth, base).computed == (
        "Built-in gains no frame, so no price draws it level with another."
    )
    same = draw_level(worth, "cable", "cable", F.FRAMES)
    assert "which it costs now" in level_sentence(worth, same).computed
    unpriced = worth_of(with_records(shop, Price(id="box")))
    assert (
        "the price of Sluice is missing"
        in level_sentence(unpriced, draw_level(unpriced, "tower", "cable", F.FRAMES)).computed
    )


def test_the_line_names_the_cheapest_gained_frame_or_what_is_missing(shop, worth_of):
    worth = worth_of(shop)
    # 1200 / 70 = 17.14 against 750 / 43.48 = 17.25.
    assert cheapest_gain(worth).rig_id == "tower"
    assert worth_line(worth) == (
        "Tower gives the cheapest gained frame, 17.14\u202fEUR for each over Built-in; Cable asks "
        "1\u202f% more."
    )
    bare = with_records(shop, Price(id="m12"))
    assert worth_line(worth_of(bare)) == (
        "No gained frame has a price yet: the price of Marram 12 is missing."
    )
    slow = with_records(
        shop,
        *(
            run.model_copy(update={"typed": TypedFigures(average_fps=10.0, low_1_fps=8.0)})
            for run in shop.runs.values()
            if run.rig_id != "built-in"
        ),
    )
    assert "No rig gains a frame over the base" in worth_line(worth_of(slow))


def test_prices_that_move_are_told_with_their_turning_point(shop, worth_of):
    worth = worth_of(shop)
    best = cheapest_gain(worth)
    assert (
        "stays the cheapest gained frame until its price rises by"
        in turning_sentence(worth, best.rig_id).computed
    )
    assert turning_sentence(worth, "built-in") is None
    names = [row.rig_id for row, _ in moved_prices(worth)]
    assert names == ["cable", "tower"]
    costs = dict(zip(names, (costs for _, costs in moved_prices(worth)), strict=True))
    assert costs["cable"][3] == pytest.approx(value(worth, "cable", F.PER_GAINED))
    assert costs["cable"][0] == pytest.approx(0.7 * value(worth, "cable", F.PER_GAINED))
    assert moved_name(-0.3) == "cost_per_gained_frame_at_-30"


def test_meters_of_runs_count_before_their_logs(shop, worth_of):
    hot = Run(
        id="cable-one",
        rig_id="cable",
        case_id="one",
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=60.0, low_1_fps=45.0),
        meters=Meters(wall_w=230.0, card_c=85.0),
    )
    worth = worth_of(with_records(shop, hot))
    assert value(worth, "cable", F.CARD_C) == 85.0, "the hottest run counts"
    assert value(worth, "cable", F.LOAD_W) == pytest.approx(220.0)


@pytest.mark.parametrize(
    ("amount", "text"),
    [
        (0, "0\u202fEUR"),
        (30, "30\u202fEUR"),
        (9.616, "9.62\u202fEUR"),
        (99.996, "100\u202fEUR"),
        (1480.4, "1\u202f480\u202fEUR"),
        (-5.5, "−5.50\u202fEUR"),
    ],
)
def test_money_is_written_with_as_many_digits_as_it_needs(amount, text):
    assert money_text(amount, "EUR") == text


def test_a_log_counts_by_the_95th_percentile_of_its_temperatures(shop, worth_of):
    seen = observe(np.full(601, 16.7), {"card temp C": np.linspace(60.0, 80.0, 601)})
    logged = Run(
        id="cable-one",
        rig_id="cable",
        case_id="one",
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=60.0, low_1_fps=45.0),
        meters=Meters(wall_w=190.0),
        observed=seen,
    )
    assert value(worth_of(with_records(shop, logged)), "cable", F.CARD_C) == pytest.approx(79.0)


def test_without_a_noise_meter_a_log_counts_by_the_mean_of_its_own(shop, worth_of):
    seen = observe(np.full(601, 16.7), {"noise dBA": np.linspace(38.0, 44.0, 601)})
    logged = [
        one.model_copy(update={"meters": None, "observed": seen})
        for one in shop.runs.values()
        if one.rig_id == "cable"
    ]
    found = value(worth_of(with_records(shop, *logged)), "cable", F.NOISE)
    # 41 dB(A) at 0.5 m in a room of 30, heard from 1 m.
    assert found == pytest.approx(10 * math.log10(10**4.1 - 10**3) - 20 * math.log10(2))


def test_watts_over_cases_are_their_mean(shop, worth_of):
    worth = worth_of(shop)
    assert value(worth, "built-in", F.LOAD_W) != value(worth, "cable", F.LOAD_W)
    assert value(worth, "cable", F.LOAD_W) == pytest.approx((190.0 + 210.0) / 2)
    assert value(worth, "tower", F.LOAD_W) == pytest.approx((290.0 + 310.0) / 2)


@pytest.mark.parametrize(
    ("meters", "said"),
    [
        ({"card_c": 62.0}, "The card of Cable reaches 62 °C."),
        ({"wall_w": 200.0}, "Cable draws 200 W while playing."),
        (
            {"wall_w": 200.0, "card_c": 62.0},
            "Cable draws 200 W while playing and its card reaches 62 °C.",
        ),
        ({}, "Nothing was read of power, heat or noise of Cable yet."),
    ],
)
def test_what_runs_is_said_in_a_sentence_whatever_was_read(shop, worth_of, meters, said):
    runs = [
        run.model_copy(update={"meters": Meters(**meters)})
        for run in shop.runs.values()
        if run.rig_id == "cable"
    ]
    read = with_records(shop, *runs)
    read = read.with_records({"readings": dict.fromkeys(read.readings)})
    assert running_line(worth_of(read), "cable").replace("\u202f", " ") == said


def test_a_price_that_moved_is_said_by_how_much(shop, worth_of):
    review = next(iter(shop.reviews.values()))
    then = review.worth.model_copy(update={"then": "2026-06-01"})
    moved = with_records(
        shop,
        review.model_copy(update={"worth": then}),
        Price(
            id="m12",
            amount=400,
            date="2026-11-01",
            earlier=(PriceThen(amount=300, date="2026-05-01"),),
        ),
        Price(id="box", amount=250, date="2026-01-01"),
        Price(id="cable", amount=50, count=2, date="2026-01-01"),
    )
    said = prices_line(worth_of(moved), "cable").replace("\u202f", " ")
    assert "Cable asks for" in said and "; +15 % since 2026-06-01." in said  # 750 after 650

"""A verdict is nothing but lines held against figures, and says which figures."""

import pytest
from shop import with_records

from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.claims.verdict import verdict_line
from blunt_ruler.core.claims.verdict import verdict_sentences as sentences_of
from blunt_ruler.core.records.pricing import Audience, Price
from blunt_ruler.core.sentences import Figure, joined, plain, sentence
from blunt_ruler.core.worth.figures import WorthFigure
from blunt_ruler.core.worth.verdict import judge, judgements


@pytest.fixture
def verdict_sentences(shop):
    """The sentences of a verdict on the shop's rigs."""
    return lambda worth: sentences_of(worth, claims_on(shop, worth.board))


def judged(worth, rig, **lines):
    return judge(worth, worth.row(rig), Audience(name="Anyone", **lines))


def of(shop, *audiences):
    return with_records(
        shop, shop.reviews["review"].model_copy(update={"audiences": tuple(audiences)})
    )


@pytest.mark.parametrize(
    ("line", "limit", "holds"),
    [
        ("gain_at_least", 1.4, True),
        ("gain_at_least", 1.5, False),
        ("low_at_least_fps", 51.0, True),
        ("low_at_least_fps", 52.0, False),
        ("loss_at_most", 0.27, True),
        ("loss_at_most", 0.26, False),
        ("budget", 750.0, True),  # a line that is just met holds
        ("budget", 749.99, False),
        ("carry_at_most_kg", 10.0, True),
        ("carry_at_most_kg", 9.0, False),
        ("noise_at_most_dba", 34.0, True),
        ("noise_at_most_dba", 33.0, False),
    ],
)
def test_a_line_holds_or_does_not(shop, worth_of, line, limit, holds):
    # By hand: gain √(60·90)/30 − 1 = 1.449, low √(45·60) = 51.96, loss 1 − √(60·90)/100 = 0.265.
    found = judged(worth_of(shop), "cable", **{line: limit})
    assert found.makes_sense is holds
    (check,) = found.checks
    assert check.holds is holds
    assert check.figure.value == check.answer.value


def test_one_broken_line_is_enough_and_an_unknown_leaves_it_open(shop, worth_of):
    unpriced = worth_of(with_records(shop, Price(id="m12")))
    open_ = judged(unpriced, "cable", gain_at_least=1.0, budget=1000)
    assert (open_.makes_sense, open_.word) == (None, "open")
    broken = judged(unpriced, "cable", gain_at_least=2.0, budget=1000)
    assert (broken.makes_sense, broken.word) == (False, "no")
    assert judged(unpriced, "cable", gain_at_least=0.5).word == "yes"


def test_a_line_inside_an_interval_is_just_held_and_says_so(shop, worth_of, verdict_sentences):
    found = judged(worth_of(shop), "cable", gain_at_least=1.4)  # 1.449, two cases of one run
    (check,) = found.checks
    assert (found.makes_sense, found.word) == (True, "narrowly")
    low, high = check.crosses.split(" to ")
    assert low.startswith("+") and high.startswith("+")
    worth = worth_of(of(shop, Audience(name="The library", gain_at_least=1.4)))
    text = " ".join(one.computed for one in verdict_sentences(worth))
    assert "meets the +140\u202f% asked for, though other titles could fall short" in text
    assert judged(worth_of(shop), "cable", gain_at_least=0.2).word == "yes"
    assert judged(worth_of(shop), "cable", budget=800.0).word == "yes"


def test_rigs_under_test_come_first(shop, worth_of):
    found = judgements(worth_of(shop), Audience(name="Anyone", budget=1000))
    assert [one.row.rig_id for one in found] == ["cable", "built-in", "tower"]


def test_every_figure_of_a_sentence_is_the_one_that_was_worked_out(
    shop, worth_of, verdict_sentences
):
    worth = worth_of(of(shop, Audience(name="The library", gain_at_least=1.0, budget=1000)))
    figures = [f for one in verdict_sentences(worth) for f in one.figures]
    assert figures
    for figure in figures:
        if figure.figure in list(WorthFigure):
            assert figure.value == worth.row(figure.rig).value(WorthFigure(figure.figure))
        else:
            total = worth.board.totals[figure.rig]
            means = {
                "mean_gain": total.mean_gain,
                "mean_loss": total.mean_loss,
                "mean_kept": 1.0 - (total.mean_loss or 0.0),
            }
            assert figure.value == pytest.approx(means[figure.figure])
            assert figure.base in ("Built-in", "Tower")


def test_the_sentences_say_for_whom_and_for_whom_not(shop, worth_of, verdict_sentences):
    worth = worth_of(
        of(
            with_records(shop, Price(id="big")),
            Audience(name="The library", gain_at_least=1.0, budget=1000),
        )
    )
    said = {one.key: one.computed for one in verdict_sentences(worth)}
    assert said["verdict.0.yes"] == (
        "For the library Cable (gain over Built-in +145\u202f%, cost to buy 750\u202fEUR) "
        "makes sense."
    )
    assert said["verdict.0.built-in"] == (
        "Not Built-in: gain over Built-in ±0\u202f%, under the +100\u202f% asked for."
    )
    assert said["verdict.0.tower"] == (
        "Tower is undecided: the price of Workbench tower is not known."
    )
    assert verdict_line(worth) == "For the library Cable makes sense; Tower is undecided."


def test_several_that_make_sense_are_told_apart(shop, worth_of, verdict_sentences):
    worth = worth_of(of(shop, Audience(name="Anyone", gain_at_least=1.0)))
    said = {one.key: one.computed for one in verdict_sentences(worth)}
    assert said["verdict.0.yes"] == "For anyone Cable and Tower make sense."
    assert said["verdict.0.best"] == (
        "Of these Cable costs least (750\u202fEUR) and Tower is the fastest (100.0\u202ffps)."
    )


def test_without_lines_nothing_is_recommended(shop, worth_of, verdict_sentences):
    nobody = worth_of(of(shop))
    assert "No audience has a requirement yet" in verdict_sentences(nobody)[-1].computed
    assert "Say what each audience requires" in verdict_line(nobody)
    empty = worth_of(of(shop, Audience(name="Anyone")))
    assert "nothing is required, so nothing is recommended" in verdict_sentences(empty)[-1].computed
    strict = worth_of(of(shop, Audience(name="Anyone", gain_at_least=9.0)))
    assert verdict_line(strict) == "For anyone no rig meets every requirement."


def test_a_sentence_is_its_spans(shop):
    figure = Figure("5 W", "load_w", "a", value=5.0)
    one = sentence("k", "It draws ", figure, joined([("a",), ("b",), ("c",)]), ".")
    assert one.computed == one.words == "It draws 5 Wa, b and c."
    assert one.figures == (figure,)
    assert plain(one.spans) == one.computed

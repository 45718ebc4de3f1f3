"""Twenty reviews in the manner of the trade, each with what a practitioner would conclude.

The conclusions were written before the code: for each question they are among its first five
claims, and what would contradict one is in none of them.
"""

import pytest
from lab import AT_LEAST, BASE, REFERENCE, Lab, eye

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.analysis.rail_states import stop_states
from blunt_ruler.core.board.lines import cell_next
from blunt_ruler.core.checks.all import runs_line
from blunt_ruler.core.claims.claim import ClaimKind
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.claims.points import points_of
from blunt_ruler.core.claims.prices import worth_line

GAIN, LOSS, OPEN = "gain", "loss", "open"


def three_titles(rates, **given):
    lab = Lab(**given).rig("Box", BASE).rig("Dock")
    for title, (base, dock) in rates.items():
        lab.measured("Box", title, base).measured("Dock", title, dock)
    return lab


def faster_in_all_three():
    return three_titles({"Tidewrack": (50, 95), "Skitter": (100, 116), "Loom": (80, 84.8)})


def level_rigs():
    return three_titles({"Tidewrack": (50, 50.2), "Skitter": (100, 99.8), "Loom": (80, 80.1)})


def slightly_slower():
    rates = {f"T{n}": (60 + n, (60 + n) * 0.9846) for n in range(8)}
    return three_titles(rates, spread=0.002)


def mixed_titles():
    rates = {f"T{n}": (60, 72) for n in range(5)} | {"Even": (50, 50), "Skitter": (100, 95)}
    return three_titles(rates)


def one_title_carries():
    rates = {f"T{n}": (60, 60.1) for n in range(4)} | {"Skitter": (40, 55)}
    return three_titles(rates)


def one_title_turns_the_mean():
    rates = {f"T{n}": (60, 57) for n in range(3)} | {"Skitter": (20, 80)}
    return three_titles(rates)


def averages_up_lows_not():
    lab = Lab().rig("Box", BASE).rig("Dock")
    for title in ("Tidewrack", "Skitter", "Loom"):
        lab.measured("Box", title, 40, low=30).measured("Dock", title, 96, low=33)
    return lab


def lows_collapse():
    lab = Lab().rig("Box", BASE).rig("Dock")
    for title in ("Tidewrack", "Skitter"):
        lab.measured("Box", title, 40, low=30).measured("Dock", title, 60, low=20)
    return lab


def only_scores():
    lab = Lab().rig("Box", BASE).rig("Dock")
    return lab.scored("Box", "Lattice", 2000).scored("Dock", "Lattice", 5000)


def a_box_and_a_tower():
    lab = Lab().rig("Box", BASE, "M12", "Box", "cable").rig("Tower", REFERENCE, "M12", "Tower")
    for title in ("Tidewrack", "Skitter", "Loom"):
        lab.measured("Box", title, 71).measured("Tower", title, 100)
    return lab


def same_host_other_link():
    lab = Lab().rig("Built-in", BASE, "iG", "Mini", built_in=True)
    lab.rig("Cabled", card="M12", host="Mini", link="cable")
    lab.rig("Slotted", REFERENCE, card="M12", host="Mini", link="slot")
    for title in ("Tidewrack", "Skitter", "Loom"):
        lab.measured("Built-in", title, 20)
        lab.measured("Cabled", title, 71).measured("Slotted", title, 100)
    return lab


def two_cards_two_towers():
    lab = Lab().rig("Built-in", BASE, "iG", "Mini", built_in=True)
    lab.rig("Dock 12", card="M12", host="Mini", link="cable")
    lab.rig("Dock 16", card="M16", host="Mini", link="cable")
    lab.rig("Tower 12", card="M12", host="Tower", link="slot")
    lab.rig("Tower 16", REFERENCE, card="M16", host="Tower", link="slot")
    rates = {
        "1080p": {"Built-in": 20, "Dock 12": 70, "Dock 16": 75, "Tower 12": 100, "Tower 16": 140},
        "1440p": {"Built-in": 14, "Dock 12": 55, "Dock 16": 78, "Tower 12": 70, "Tower 16": 105},
        "2160p": {"Built-in": 8, "Dock 12": 33, "Dock 16": 52, "Tower 12": 38, "Tower 16": 62},
    }
    for at, of_rig in rates.items():
        for rig, rate in of_rig.items():
            for title, by in (("Tidewrack", 1.0), ("Skitter", 1.2), ("Loom", 0.8)):
                lab.measured(rig, title, rate * by, at=at)
    return lab


def one_bound_among_figures():
    lab = faster_in_all_three()
    lab.measured("Box", "Ninefold", 30).measured("Dock", "Ninefold", 60, how=AT_LEAST)
    return lab


def both_on_a_cap():
    lab = Lab().rig("Box", BASE).rig("Dock")
    lab.measured("Box", "Tidewrack", 60, how=AT_LEAST)
    return lab.measured("Dock", "Tidewrack", 60, how=AT_LEAST)


def read_by_eye_and_close():
    lab = Lab().rig("Box", BASE).rig("Dock")
    return lab.measured("Box", "Tidewrack", 60, how=eye()).measured(
        "Dock", "Tidewrack", 61, how=eye()
    )


def it_crashed():
    lab = Lab().rig("Box", BASE).rig("Dock").measured("Box", "Tidewrack", 40)
    return lab.failed("Dock", "Tidewrack", "artefacts after a minute")


def weaker_link_wins():
    lab = same_host_other_link()
    for title in ("Tidewrack", "Skitter", "Loom"):
        lab.measured("Cabled", title, 112)
    return lab


def loss_shrinks_with_resolution():
    lab = Lab().rig("Built-in", BASE, "iG", "Mini", built_in=True)
    lab.rig("Dock", card="M12", host="Mini", link="cable")
    lab.rig("Tower", REFERENCE, card="M12", host="Tower", link="slot")
    for at, dock, tower in (("1080p", 65, 100), ("1440p", 56, 70), ("2160p", 33, 38)):
        for title in ("Tidewrack", "Skitter", "Loom"):
            lab.measured("Built-in", title, 15, at=at).measured("Dock", title, dock, at=at)
            lab.measured("Tower", title, tower, at=at)
    return lab


def some_lack_a_side():
    lab = three_titles({"Tidewrack": (50, 75), "Skitter": (80, 120), "Loom": (60, 90)})
    for title in ("Ninefold", "Copper", "Lantern"):
        lab.measured("Dock", title, 70)
    return lab


def one_title_once():
    lab = Lab().rig("Box", BASE).rig("Dock")
    return lab.measured("Box", "Tidewrack", 50).measured("Dock", "Tidewrack", 60)


def twice_as_fast_many_titles():
    rates = {f"T{n}": (30 + n, (30 + n) * (2.0 + 0.05 * (n % 3))) for n in range(9)}
    return three_titles(rates)


BENCHES = {
    "faster in all three": (faster_in_all_three, {
        GAIN: ["33 % faster than Box on average, faster in all 3 titles (6 % to 90 %)",
               "Three titles say little about others"]},
        ["no difference", "−39", "level"]),
    "level": (level_rigs, {GAIN: ["is level with Box (within 3 %)"]}, ["faster", "no difference"]),
    "slightly slower": (slightly_slower, {GAIN: ["is slightly slower than Box (2 %)"]}, ["level"]),
    "mixed titles": (mixed_titles, {
        GAIN: ["faster in 5 of 7, level in 1, slower in Skitter (−5 %)"]}, ["all 7"]),
    "one title carries the mean": (one_title_carries, {
        GAIN: ["only through Skitter; level in the other four"]}, ["all 5"]),
    "one title turns the mean": (one_title_turns_the_mean, {
        GAIN: ["only through Skitter; slower on average in the other three"]}, ["all 4"]),
    "averages up, lows not": (averages_up_lows_not, {
        GAIN: ["2.4 times as fast as Box", "has 1% lows 10 % higher than those of Box"]}, []),
    "lows collapse": (lows_collapse, {
        GAIN: ["50 % faster than Box", "1% lows 33 % lower"]}, []),
    "only scores": (only_scores, {
        GAIN: ["Dock scores 2.5 times as high as Box in Lattice"]}, ["no kept run"]),
    "a box and a tower": (a_box_and_a_tower, {
        LOSS: ["keeps 71 % of its speed in the Tower"]}, ["no rig is under test"]),
    "same host, other link": (same_host_other_link, {
        LOSS: ["keeps 71 % of its speed over the slot"]}, ["in the Mini"]),
    "two cards and two towers": (two_cards_two_towers, {
        LOSS: ["The M12 over the cable loses 30 % at 1080p to the same card in the Tower",
               "the M16 over the cable overtakes"]}, []),
    "one bound among figures": (one_bound_among_figures, {
        GAIN: ["33 % faster than Box on average, faster in all 3 titles",
               "At least +100 % in Ninefold"]}, ["at most", "is at least"]),
    "both on a cap": (both_on_a_cap, {OPEN: ["cannot be compared: both sit on a cap"]},
        ["level", "faster"]),
    "by eye and close": (read_by_eye_and_close, {
        GAIN: ["is not told apart from Box"],
        OPEN: ["too close to call by eye: frame logs of both would settle it"]},
        ["level", "no difference"]),
    "it crashed": (it_crashed, {GAIN: ["Dock did not run Tidewrack: artefacts after a minute"]},
        ["0 FPS", "missing"]),
    "the weaker link wins": (weaker_link_wins, {
        LOSS: ["is 12 % faster than over the slot, which is unexplained"]}, ["CPU-bound"]),
    "the loss shrinks with resolution": (loss_shrinks_with_resolution, {
        LOSS: ["loses 35 % at 1080p to the same card in the Tower; that shrinks to 13 % at 2160p"]},
        []),
    "some titles lack a side": (some_lack_a_side, {
        GAIN: ["50 % faster than Box on average, faster in all 3 titles"]}, ["all 6"]),
    "one title": (one_title_once, {GAIN: ["is 20 % faster than Box in Tidewrack"]},
        ["on average", "say little"]),
    "many titles": (twice_as_fast_many_titles, {
        GAIN: ["2.05 times as fast as Box on average, faster in all 9 titles",
               "Other titles like these"]}, ["say little"]),
}  # fmt: skip


@pytest.mark.parametrize("name", BENCHES)
def test_a_practitioners_conclusions_are_among_the_first_five_claims(name):
    make, wanted, never = BENCHES[name]
    lab = make()
    for question, conclusions in wanted.items():
        said = lab.sentences(question)[:5]
        for conclusion in conclusions:
            assert any(conclusion in one for one in said), (conclusion, said)
    every = [one for question in (GAIN, LOSS, OPEN) for one in lab.sentences(question)]
    for words in never:
        assert not any(words in one for one in every), (words, every)


@pytest.mark.parametrize("name", BENCHES)
def test_headlines_are_short_and_contradict_no_claim(name):
    make, _, never = BENCHES[name]
    lab = make()
    for seat in lab.seats:
        headline = lab.headline(seat.rig_id)
        assert len(headline.split()) <= 30, headline
        assert headline.endswith(".")
        for words in never:
            assert words not in headline


def test_lows_that_tell_another_story_are_in_the_headline():
    assert averages_up_lows_not().headline() == (
        "Dock is 2.4 times as fast as Box on average, faster in all 3 titles, but its lows gain "
        "only 10 %."
    )
    assert "but its lows lose 33 %" in lows_collapse().headline()


def test_a_crossing_names_who_overtakes_whom_and_from_where():
    said = two_cards_two_towers().sentences(LOSS)
    assert (
        "From 1440p up, the M16 over the cable overtakes the M12 over the slot; below that it is "
        "behind."
    ) in said
    assert any("The M16 over the cable keeps" in one or "loses 46 %" in one for one in said)


def test_a_wider_link_that_is_faster_is_no_riddle():
    lab = Lab().rig("Built-in", BASE, "iG", "Mini", built_in=True)
    lab.rig("Slotted", card="M12", host="Mini", link="slot")
    lab.rig("Cabled", REFERENCE, card="M12", host="Mini", link="cable")
    for title in ("Tidewrack", "Skitter"):
        lab.measured("Built-in", title, 20)
        lab.measured("Cabled", title, 75).measured("Slotted", title, 100)
    said = lab.sentences(LOSS)
    assert any("is 33 % faster than over the cable on average" in one for one in said)
    assert not any("unexplained" in one for one in said)


def test_a_crash_is_the_headline_where_nothing_else_is_measured():
    assert board_headline(it_crashed().claims) == (
        "Dock did not run Tidewrack: artefacts after a minute."
    )
    held = both_on_a_cap().claims
    assert board_headline(held).startswith("Dock and Box cannot be compared: both sit on a cap")
    assert cell_next(held.board, "Dock", "Tidewrack 1080p").startswith(
        "It is known only as a bound"
    )


def test_scores_alone_leave_no_gap_of_frame_rates():
    assert only_scores().sentences(OPEN) == []


def test_scores_alone_are_work_on_the_rail_and_at_worth():
    claims = only_scores().claims
    contents = claims.pairings.contents
    analysis = analyse(contents, contents.reviews["v"])
    states = stop_states(contents, analysis)
    assert states["Board"].words == "1 test × 2 rigs" and states["Board"].share == 1.0
    assert states["Write-up"].words != "nothing yet"
    assert runs_line(contents, analysis.review, analysis.checked) == "2 runs: 2 kept."
    crashed = it_crashed().claims.pairings.contents
    found = analyse(crashed, crashed.reviews["v"])
    said = runs_line(crashed, found.review, found.checked)
    assert said.endswith("caps and menus cannot be seen; 1 did not run to the end.")
    assert worth_line(analysis.worth).startswith("Only scores were measured")


def test_a_test_in_seconds_is_compared_as_a_speed():
    lab = Lab().rig("Box", BASE).rig("Dock")
    lab.scored("Box", "Loom compile", 120.0).scored("Dock", "Loom compile", 100.0)
    title = lab.contents.titles["Loom compile"]
    timed = title.model_copy(update={"score_unit": "s", "lower_is_better": True})
    lab.contents = lab.contents.with_records({"titles": {title.id: timed}})
    (said,) = lab.sentences(GAIN)
    assert said == "Dock is 20 % faster than Box in Loom compile."


def test_reasons_for_and_against_come_from_claims():
    pros, cons = points_of(averages_up_lows_not().claims)
    assert pros == ("Dock is 2.4 times as fast as Box on average, faster in all 3 titles.",)
    lows = "Dock has 1% lows 10\u202f% higher than those of Box on average, higher in all 3 titles."
    assert cons == (lows,)
    _, cons = points_of(it_crashed().claims)
    assert cons == ("Dock did not run Tidewrack: artefacts after a minute.",)


def test_lows_are_not_held_against_a_base_that_has_none():
    lab = Lab().rig("Box", BASE).rig("Dock").rig("Tower", REFERENCE)
    for title in ("Tidewrack", "Skitter", "Loom"):
        lab.measured("Box", title, 40).measured("Dock", title, 80, low=60)
        lab.measured("Tower", title, 100, low=80)
    found = [
        (one.question, one.against.name, round(one.value.ratio, 3))
        for one in lab.claims.all()
        if one.metric == "1% low"
    ]
    assert found == [(LOSS, "Tower", 0.75)]
    assert "lows" not in lab.headline().split(". ")[0]


def test_a_rig_keeps_the_first_letter_of_its_own_name_in_a_crossing():
    lab = Lab().rig("Built-in", BASE, "iG", "Mini", built_in=True)
    lab.rig("Alpha", card="M12", host="Mini").rig("Beta", REFERENCE, "M16", "Mini")
    for at, alpha, beta in (("1080p", 100, 70), ("2160p", 40, 60)):
        for title in ("Tidewrack", "Skitter", "Loom"):
            lab.measured("Built-in", title, 15, at=at)
            lab.measured("Alpha", title, alpha, at=at).measured("Beta", title, beta, at=at)
    said = lab.sentences(LOSS)
    assert "From 2160p up, Beta overtakes Alpha; below that it is behind." in said


def resolutions(dock, tower, how=None):
    """Two towers' worth of three titles at two resolutions; the rates of each, small to large."""
    lab = Lab(passes=1).rig("Built-in", BASE, "iG", "Mini", built_in=True)
    lab.rig("Dock", card="M12", host="Mini").rig("Tower", REFERENCE, "M16", "Mini")
    for at, mine, theirs in zip(("1080p", "2160p"), dock, tower, strict=True):
        for title in ("Tidewrack", "Skitter", "Loom"):
            lab.measured("Built-in", title, 15, at=at)
            lab.measured("Dock", title, mine, at=at, how=how)
            lab.measured("Tower", title, theirs, at=at, how=how)
    return lab


def crossings(lab):
    return [one for one in lab.claims.all() if one.kind is ClaimKind.CROSSING]


def test_a_crossing_needs_both_ends_told_apart_and_not_only_a_margin():
    assert crossings(resolutions((105, 80), (100, 100)))
    by_eye = resolutions((105, 80), (100, 100), how=eye((103.0, 107.0, 110.0, 98.0)))
    assert not crossings(by_eye)

"""Troubles: the sums by hand, planted causes found, a bad afternoon kept as it happens."""

import json
import random
import statistics
from itertools import count

import pytest
from pydantic import ValidationError

from blunt_ruler.core.records.hardware import Card, Dock, Hop, Host, Link, Rig, ScreenPath, SlotFeed
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.trouble.diagnosis import (
    OTHER,
    Seen,
    diagnose,
    entropy,
    gain,
    posterior,
    updated,
)
from blunt_ruler.core.trouble.diary import (
    diagnosis_of,
    note_answer,
    note_cure,
    note_symptom,
    open_trouble,
    seen_of,
    stories,
    taken_as,
    trouble_line,
    troubles_of,
)
from blunt_ruler.core.trouble.knowledge import Cause, Knowledge, Trial
from blunt_ruler.core.trouble.traits import traits
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.exchange.trouble import knowledge
from blunt_ruler.logbook import Logbook

KNOWN = knowledge()


def small():
    """Two causes and one test, for sums on paper."""
    return Knowledge(
        symptoms={"dead": "it is dead"},
        times={"start": "at start"},
        cautions={},
        causes=(
            Cause(key="a", words="a", cure="fix a", prior=3.0, symptoms={"dead": "often"}),
            Cause(
                key="b",
                words="b",
                cure="fix b",
                prior=1.0,
                symptoms={"dead": "always"},
                factors={"odd": 6.0},
            ),
        ),
        tests=(Trial(key="t", do="Do.", asks="?", minutes=5, otherwise="hardly",
                     yes={"a": "always"}),),
    )  # fmt: skip


def test_shares_are_those_of_bayes_by_hand():
    shares = posterior(small(), Seen(symptoms=("dead",)))
    weights = {"a": 3 * 0.7, "b": 1 * 0.95, OTHER: 4 * 0.12}
    total = sum(weights.values())
    assert shares == pytest.approx({key: one / total for key, one in weights.items()})
    after = updated(shares, small().tests[0], True)
    weights = {"a": 3 * 0.7 * 0.95, "b": 0.95 * 0.02, OTHER: 0.48 * 0.02}
    total = sum(weights.values())
    assert after == pytest.approx({key: one / total for key, one in weights.items()})


def test_what_the_rig_is_and_what_was_cured_before_weigh():
    plain = posterior(small(), Seen(symptoms=("dead",)))
    odd = posterior(small(), Seen(symptoms=("dead",), traits=frozenset({"odd"})))
    assert odd["b"] / odd["a"] == pytest.approx(6 * plain["b"] / plain["a"])
    before = posterior(small(), Seen(symptoms=("dead",), cured_before={"b": 2}))
    assert before["b"] / before["a"] == pytest.approx(3 * plain["b"] / plain["a"])


def test_the_information_of_a_test_is_that_of_shannon():
    shares = {"a": 0.5, "b": 0.5}
    assert entropy(shares) == pytest.approx(1.0)
    test = small().tests[0]
    yes = 0.5 * 0.95 + 0.5 * 0.02
    after = yes * entropy(updated(shares, test, True)) + (1 - yes) * entropy(
        updated(shares, test, False)
    )
    assert gain(shares, test) == pytest.approx(1.0 - after)
    assert gain({"a": 1.0, "b": 0.0}, test) == pytest.approx(0.0, abs=1e-9)


# The knowledge itself


def test_the_knowledge_fits_together_and_every_cause_can_be_found():
    assert len(KNOWN.causes) > 20 and len(KNOWN.tests) > 25
    for cause in KNOWN.causes:
        told = [one for one in KNOWN.tests if one.yes.get(cause.key) in ("always", "often")]
        assert told, f"no test would tell {cause.key}"
    for symptom in KNOWN.symptoms:
        assert any(symptom in one.symptoms for one in KNOWN.causes), symptom


@pytest.mark.parametrize(
    ("where", "change"),
    [
        ("causes", {"symptoms": {"purple": "often"}}),
        ("causes", {"symptoms": {"black": "mostly"}}),
        ("tests", {"yes": {"nobody": "often"}}),
        ("tests", {"cautions": ["run"]}),
    ],
)
def test_knowledge_that_does_not_fit_is_refused(where, change):
    body = KNOWN.model_dump(mode="json")
    body[where][0] |= change
    with pytest.raises(ValidationError, match="there is no"):
        Knowledge.model_validate(body)


def test_nobody_is_told_to_open_a_supply_or_touch_the_mains():
    words = " ".join(
        (*(one.do for one in KNOWN.tests), *(one.cure for one in KNOWN.causes))
    ).lower()
    for never in ("open the supply", "open a supply", "mains", "bypass", "interlock", "fuse"):
        assert never not in words
    for test in KNOWN.tests:
        if any(
            word in test.do.lower() for word in ("unplugged", "take the card", "another supply")
        ):
            assert test.risk >= 1 and "off" in test.cautions, test.key


# On rigs with a planted cause

KINDS = (
    frozenset({"tunnel", "own-supply", "two-driver-families", "stock-clocks", "hot-plug-made"}),
    frozenset({"no-tunnel", "own-supply", "m2", "generation-4", "long-cord", "stock-clocks"}),
    frozenset({"no-tunnel", "generation-4", "own-supply", "little-headroom", "overclocked"}),
)


def planted(rnd, kind):
    """A cause drawn by its weight on a rig, with what it shows and how it answers."""
    weights = []
    for cause in KNOWN.causes:
        weight = cause.prior
        for trait, factor in cause.factors.items():
            weight *= factor if trait in kind else 1.0
        weights.append(weight)
    cause = rnd.choices(KNOWN.causes, weights)[0]
    symptom = rnd.choices([*KNOWN.symptoms], [cause.shows(one) for one in KNOWN.symptoms])[0]
    time = rnd.choices([*KNOWN.times], [cause.at(one) for one in KNOWN.times])[0]
    return cause, symptom, time, {t.key: rnd.random() < t.says_yes(cause.key) for t in KNOWN.tests}


def test_a_planted_cause_is_first_within_three_tests_and_in_less_time_than_by_a_checklist():
    rnd = random.Random(11)
    firsts, ours, theirs = [], [], []
    checklist = sorted(
        KNOWN.tests, key=lambda one: one.minutes
    )  # the quick ones first: the fair one
    for _ in range(40):
        kind = rnd.choice(KINDS)
        cause, symptom, time, answers = planted(rnd, kind)
        given, first, minutes = {}, None, 0.0
        while True:
            found = diagnose(KNOWN, Seen((symptom,), time, dict(given), kind))
            if first is None and found.first.key == cause.key:
                first = len(given)
            if found.first.share >= 0.9 or not found.tests or len(given) > 20:
                break
            test = found.tests[0].test
            given[test.key] = answers[test.key]
            minutes += test.minutes
        firsts.append(99 if first is None else first)
        ours.append(minutes)
        given, minutes = {}, 0.0
        for test in checklist:
            if max(posterior(KNOWN, Seen((symptom,), time, given, kind)).values()) >= 0.9:
                break
            given = {**given, test.key: answers[test.key]}
            minutes += test.minutes
        theirs.append(minutes)
    assert statistics.median(firsts) <= 3
    assert statistics.mean(ours) <= 0.6 * statistics.mean(theirs)


# What a rig is


def rig_of(**given):
    parts = {
        "host": Host(id="h", name="Mini", charging_w=90, built_in_card_id="g"),
        "built_in": Card(id="g", name="iG", built_in=True, driver_family="Lamp"),
        "card": Card(id="c", name="M12", board_power_w=180, driver_family="Dune"),
        "dock": Dock(id="d", name="Box", supply_w=230, own_power_w=10, charging_w=60),
        "link": Link(id="l", name="M.2 adapter", length_m=0.8,
                     hops=(Hop(name="M.2", generation=4, lanes=4),)),
    } | given  # fmt: skip
    rig = Rig(id="r", name="Rig", host_id="h", card_id="c", dock_id="d", link_id="l",
              screen_path=ScreenPath.SENT_BACK)  # fmt: skip
    return Contents.empty().with_records(
        {
            "hosts": {"h": parts["host"]},
            "cards": {"g": parts["built_in"], "c": parts["card"]},
            "docks": {"d": parts["dock"]},
            "links": {"l": parts["link"]},
            "rigs": {"r": rig},
        }
    )


def test_traits_are_read_off_the_described_rig():
    assert traits(rig_of(), "r") == {
        "no-tunnel", "long-cord", "generation-4", "m2", "own-supply", "little-headroom",
        "weak-charging", "two-driver-families", "picture-back", "stock-clocks",
    }  # fmt: skip
    tunnel = Link(id="l", name="cable", hot_plug=True, hops=(Hop(name="t", tunnel_gbps=40),))
    assert {"tunnel", "hot-plug-made"} <= traits(rig_of(link=tunnel), "r")
    assert traits(Contents.empty(), "r") == frozenset()


# The diary


def afternoon():
    """A bad afternoon of eight entries, as it happens."""
    ids = (f"e{number}" for number in count())
    contents = rig_of()

    def apply(edit):
        nonlocal contents
        contents = edit.on(contents)

    def new_id():
        return next(ids)

    at = "2026-12-01T20:15"
    apply(note_symptom("r", at, "narrow", "start", KNOWN, new_id))
    apply(note_symptom("r", at, "a faint click from the box", "", KNOWN, new_id))
    apply(note_answer("r", at, "read-link", True, KNOWN, new_id))
    likeliest = diagnosis_of(contents, "r", KNOWN).first
    apply(note_answer("r", at, "monitor", False, KNOWN, new_id))
    apply(note_answer("r", at, "reseat", False, KNOWN, new_id))
    apply(note_answer("r", at, "other-devices", False, KNOWN, new_id))
    apply(note_answer("r", at, "reseat-adapter", True, KNOWN, new_id))
    return contents, likeliest, apply, new_id


def test_a_bad_afternoon_is_kept_as_it_happens_and_told_in_one_honest_paragraph():
    contents, likeliest, _, new_id = afternoon()
    assert likeliest.key in ("adapter", "lanes-shared", "seating"), "on screen before the fourth"
    found = diagnosis_of(contents, "r", KNOWN)
    assert found.first.key == "adapter" and found.first.share > 0.7
    (open_story,) = stories(contents, "r", "Rig")
    assert open_story.endswith("It was not cured.")
    contents = note_cure("r", "2026-12-01T21:40", "adapter", "", KNOWN, new_id).on(contents)
    assert len(contents.diary) == 8
    (story,) = stories(contents, "r", "Rig")
    assert story.startswith("Rig, 2026-12-01: the link has fewer lanes or a lower generation")
    assert "a faint click from the box" in story
    assert "5 tests, about 28 minutes: 2 answered yes, 3 no." in story
    assert "It was this: the adapter is not fully in" in story
    assert open_trouble(contents, "r") == ()
    assert seen_of(contents, "r", ()).cured_before == {"adapter": 1}
    assert len(troubles_of(contents, "r")) == 1


def test_a_symptom_in_own_words_is_kept_and_ranks_nothing():
    contents = note_symptom("r", "", "it smells of violets", "", KNOWN, lambda: "x").on(rig_of())
    assert diagnosis_of(contents, "r", KNOWN) is None
    assert contents.diary["x"].says == "it smells of violets"


@pytest.mark.parametrize(
    ("words", "symptom", "time"),
    [
        ("Blue screen in the second game", "freezes", ""),
        ("no signal on the monitor after standby", "black", "sleep"),
        ("there is a yellow triangle, code 43", "error", ""),
        ("the card fell off the bus mid-game", "drops", "load"),
        ("keeps restarting as soon as I plug it in", "boot-loop", "plugging"),
        ("battery drains while I play although it's plugged in", "not-charging", "plugging"),
        ("only 2 lanes of the x16", "narrow", ""),
        ("my hotplug is fine", "", ""),
        ("the fans are far too loud", "noise", ""),
        ("artefacts, then the driver timed out", "freezes", ""),
        ("won\u2019t wake from sleep", "wakes-badly", "sleep"),
        ("since the update everything is slow", "slow", "update"),
    ],
)
def test_free_words_are_taken_as_what_they_say(words, symptom, time):
    assert KNOWN.heard_in(words, KNOWN.symptoms) == symptom
    assert KNOWN.heard_in(words, KNOWN.times) == time
    (entry,) = note_symptom("r", "", words, "", KNOWN, lambda: "x").put
    assert (entry.symptom, entry.time, entry.says) == (symptom, time, words)
    assert taken_as(entry, KNOWN) or not symptom


def test_the_line_says_what_it_takes_to_be_sure():
    found = diagnose(KNOWN, Seen(("black",), "always"))
    assert trouble_line(found, "Rig").startswith("Likeliest, ")
    assert "To be sure: " in trouble_line(found, "Rig")
    assert trouble_line(None, "Rig").startswith("Choose what is seen on Rig")


# By command


def test_the_command_ranks_causes_and_proposes_tests(run, tmp_path):
    book = copy_demo(tmp_path / "demo.blunt")
    args = ("trouble", book, "--rig", "Groyne Marram 12", "--symptom", "narrow")
    code, out, _ = run(*args)
    assert code == 0
    assert out.startswith("Likeliest, ") and "Next:" in out
    code, out, _ = run(*args, "--when", "start", "--tried", "read-link=yes", "--json")
    document = json.loads(out)
    assert sum(one["share"] for one in document["causes"]) == pytest.approx(1.0, abs=1e-3)
    assert document["tried"] == {"read-link": True}
    assert "no-tunnel" in document["traits"]


@pytest.mark.parametrize(
    "more",
    [
        ("--symptom", "purple"),
        ("--symptom", "black", "--when", "teatime"),
        ("--symptom", "black", "--tried", "monitor"),
        ("--symptom", "black", "--tried", "monitor=maybe"),
        ("--symptom", "black", "--tried", "dance=yes"),
        (),
    ],
)
def test_what_is_not_known_is_said_in_one_line(run, tmp_path, more):
    book = copy_demo(tmp_path / "demo.blunt")
    code, _, err = run("trouble", book, "--rig", "Groyne Marram 12", *more)
    assert code == 2 and err.count("\n") == 1


def test_the_help_page_is_written_from_the_knowledge(monkeypatch):
    import sys
    from pathlib import Path

    monkeypatch.setattr(sys, "path", [str(Path(__file__).parents[2] / "tools"), *sys.path])
    from trouble_page import PAGE, page

    assert PAGE.read_text("utf-8") == page(KNOWN), "run tools/trouble_page.py"


# Odd boxes


def test_a_sealed_box_is_not_asked_to_have_its_card_seated():
    from blunt_ruler.core.rigs.compatibility import check_fit
    from blunt_ruler.core.rigs.preflight import steps_for

    open_box = Dock(id="d", name="Box", supply_w=230, length_mm=200, slots_wide=2)
    long_card = Card(id="c", name="M12", board_power_w=100, length_mm=240, slots_wide=3)
    contents = rig_of(dock=open_box, card=long_card)
    assert {one.check for one in check_fit(contents, "r")} >= {"length", "width"}
    assert steps_for(contents, "r")[0].key == "seat_card"
    sealed = rig_of(dock=open_box.model_copy(update={"sealed": True}), card=long_card)
    assert not {one.check for one in check_fit(sealed, "r")} & {"length", "width", "outlets"}
    keys = [one.key for one in steps_for(sealed, "r")]
    assert "seat_card" not in keys and "plug_power" not in keys and "connect_link" in keys
    assert "sealed" in traits(sealed, "r")


def test_a_box_fed_by_the_host_has_no_supply_to_switch_on_first():
    from blunt_ruler.core.rigs.preflight import steps_for

    fed = Dock(id="d", name="Board", slot_feed=SlotFeed.HOST)
    contents = rig_of(dock=fed)
    assert "power_on" not in [one.key for one in steps_for(contents, "r")]
    assert "fed-by-host" in traits(contents, "r")
    own = rig_of(dock=fed.model_copy(update={"supply_w": 300.0}))
    assert "power_on" in [one.key for one in steps_for(own, "r")]
    shares = [
        posterior(KNOWN, Seen(("not-detected",), "start", {}, traits(one, "r")))
        for one in (contents, own)
    ]
    assert shares[0]["supply-order"] < 0.1 * shares[1]["supply-order"]


def test_a_soldered_card_is_not_asked_to_be_seated_and_the_report_tells_its_kind(tmp_path):
    from blunt_ruler.core.analysis.analyse import analyse
    from blunt_ruler.core.rigs.preflight import steps_for
    from blunt_ruler.core.writeup.compose import compose
    from blunt_ruler.logbook import Logbook

    with Logbook.reading(copy_demo(tmp_path / "demo.blunt")) as book:
        contents = book.contents()
    rig = contents.rigs["sluice-marram-12"]
    card, dock = contents.cards[rig.card_id], contents.docks[rig.dock_id]
    assert "seat_card" in [one.key for one in steps_for(contents, rig.id)]
    odd = {"form": "mobile", "soldered": True, "memory_type": "stacked"}
    box = {"beside": "a network port", "sealed": True}
    contents = contents.with_records(
        {
            "cards": {card.id: card.model_copy(update=odd)},
            "docks": {dock.id: dock.model_copy(update=box)},
        }
    )
    assert "seat_card" not in [one.key for one in steps_for(contents, rig.id)]
    review = next(iter(contents.reviews.values()))
    document = compose(analyse(contents, review), ())
    said = [one.words for part in document.sections for one in part.sentences]
    told = next(one for one in said if one.startswith("Sluice Marram 12 (") and "cable" in one)
    assert "card Marram 12, mobile, 180 W, 12 GB stacked, soldered in" in plain_spaces(told)
    assert "in Sluice with the card built in, which also has a network port" in told


def plain_spaces(words):
    return words.replace("\u202f", " ").replace("\u00a0", " ")


def test_what_was_changed_to_make_it_fit_and_passes_that_ran_settle_the_fit():
    from blunt_ruler.core.records.records import Case, Origin, Run, Title, TypedFigures
    from blunt_ruler.core.records.severity import Severity
    from blunt_ruler.core.rigs.compatibility import check_fit, fit_line

    box = Dock(id="d", name="Box", supply_w=330, length_mm=200)
    contents = rig_of(dock=box, card=Card(id="c", name="M12", board_power_w=100, length_mm=240))
    assert fit_line("Rig", check_fit(contents, "r")).startswith("Rig will not work as described")
    rig = contents.rigs["r"].model_copy(update={"modified": "the front grille was cut out"})
    (found,) = [one for one in check_fit(contents.with_records({"rigs": {"r": rig}}), "r")
                if one.check == "length"]  # fmt: skip
    assert found.severity is Severity.NOTE
    assert "made to fit: the front grille was cut out." in found.what
    assert "sharp" in found.do and "warranty" in found.do
    run = Run(id="1", rig_id="r", case_id="k", origin=Origin(kind="typed"),
              typed=TypedFigures(average_fps=60.0))  # fmt: skip
    ran = contents.with_records(
        {"titles": {"t": Title(id="t", name="T")}, "cases": {"k": Case(id="k", title_id="t")},
         "runs": {"1": run}}
    )  # fmt: skip
    (found,) = [one for one in check_fit(ran, "r") if one.check == "length"]
    assert found.severity is Severity.CAUTION
    assert found.what.endswith("1 pass ran on it all the same.")
    assert "will not work" not in fit_line("Rig", check_fit(ran, "r"))


def test_daily_life_is_summed_and_told_where_it_was_said():
    from blunt_ruler.core.rigs.daily import daily_lines, docking_words

    rig = rig_of().rigs["r"]
    assert [*daily_lines(rig)] == []
    told = rig.model_copy(
        update={
            "driver_switch_min": 3.0,
            "opening_min": 1.0,
            "restart_at_docking": True,
            "unplug_game": "the game ends, the desktop comes back",
        }
    )
    assert docking_words(told) == (
        "Docking costs about 4 minutes (switching drivers and opening a lid or panel) and a "
        "restart."
    )
    assert [*daily_lines(told)][1] == (
        "Unplugged in a game: the game ends, the desktop comes back."
    )
    none = rig.model_copy(update={"settings_min": 0.0, "restart_at_docking": False})
    assert docking_words(none) == "Docking costs no time and no restart."


def test_a_trouble_is_kept_and_cured_by_command(run, tmp_path):
    book = copy_demo(tmp_path / "demo.blunt")
    rig = ("--rig", "Groyne Marram 12")
    code, out, err = run("trouble", book, *rig, "--symptom", "no picture after standby", "--note")
    assert (code, err) == (0, "") and out.startswith("Likeliest, ")
    run("trouble", book, *rig, "--symptom", "smells of toast", "--tried", "monitor=no", "--note")
    _, out, _ = run("trouble", book, *rig, "--json")
    assert json.loads(out)["tried"] == {"monitor": False}
    code, out, _ = run("trouble", book, *rig, "--cured", "Another cable")
    assert (code, out) == (0, "Noted: Another cable\n")
    _, _, err = run("trouble", book, *rig)
    assert "nothing is seen yet" in err  # it is over
    run("report", book, "--out", tmp_path / "r", "--format", "md")
    told = (tmp_path / "r" / "report.md").read_text("utf-8")
    assert "no picture after standby and smells of toast. 1 test, about 1 minute: 0" in told
    assert "Cured by: Another cable." in told
    with Logbook.open(book) as opened:
        for _ in range(3):
            opened.undo()
        assert not opened.contents().diary


@pytest.mark.parametrize("more", [("--when", "teatime"), ("--tried", "dance=yes")])
def test_nothing_is_kept_of_what_is_refused(run, tmp_path, more):
    book = copy_demo(tmp_path / "demo.blunt")
    code, _, _ = run(
        "trouble", book, "--rig", "Groyne Marram 12", "--symptom", "black", "--note", *more
    )
    assert code == 2
    with Logbook.reading(book) as opened:
        assert not opened.contents().diary

"""Taking logs in: names, cases, repeats, roles."""

from itertools import count

import numpy as np
import pytest

from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Case, Contents, Origin, Review, Role, Run, Title
from blunt_ruler.core.runs.import_runs import (
    Arrival,
    BadIntake,
    CaseName,
    known_name,
    looks_like_resolution,
    parse_case,
    propose_roles,
    take_in,
)

EMPTY = Contents.empty()


def arrival(rig, case="Tidewrack / coast run / 1080p / High", role=None):
    return Arrival(
        rig=rig,
        case=parse_case(case),
        figures=measure(np.full(200, 10.0)),
        trace_sha256="0" * 64,
        origin=Origin(kind="log", file=f"{rig}.csv"),
        role=role,
    )


def new_ids():
    numbers = count()
    return lambda: f"id{next(numbers)}"


@pytest.mark.parametrize(
    ("words", "parts"),
    [
        ("Tidewrack / coast run / 1080p / High", ("Tidewrack", "coast run", "1080p", "High")),
        ("Tidewrack", ("Tidewrack", "", "", "")),
        ("Tidewrack/1440p", ("Tidewrack", "", "1440p", "")),
        ("Tidewrack / 2560x1440 / Low", ("Tidewrack", "", "2560x1440", "Low")),
        ("Tidewrack / coast run", ("Tidewrack", "coast run", "", "")),
        ("Tidewrack / coast run / High", ("Tidewrack", "coast run", "", "High")),
    ],
)
def test_a_case_is_read_from_words(words, parts):
    assert parse_case(words) == CaseName(*parts)


def test_a_label_reads_back_as_its_case():
    named = CaseName("Tidewrack", "coast run", "1080p", "High")
    assert parse_case(named.label) == named


@pytest.mark.parametrize("words", ["", " / ", "a/b/c/d/e"])
def test_words_that_name_no_case_are_refused(words):
    with pytest.raises(BadIntake, match="Title / scene"):
        parse_case(words)


def test_a_title_longer_than_any_is_refused_in_a_sentence():
    assert parse_case("9" * 120).title == "9" * 120
    with pytest.raises(BadIntake, match="140 letters"):
        parse_case("9" * 140)


def test_resolutions_are_told_from_scenes():
    assert all(map(looks_like_resolution, ("1080p", "4K", "3440x1440", "3440×1440")))
    assert not any(map(looks_like_resolution, ("lap", "High", "x", "10x", "", "4x4", "200k")))


def test_new_rigs_titles_and_a_review_are_made_once():
    arrivals = [
        arrival("iG-6", role=Role.BASE),
        arrival("Cable"),
        arrival("iG-6"),
        arrival("Tower", role=Role.REFERENCE),
    ]
    records, review = take_in(EMPTY, None, arrivals, new_ids())
    kinds = [type(record) for record in records]
    assert (kinds.count(Rig), kinds.count(Title), kinds.count(Case)) == (3, 1, 1)
    runs = [record for record in records if isinstance(record, Run)]
    assert [run.repeat for run in runs] == [1, 1, 2, 1]
    assert records[-1] == review
    assert [seat.role for seat in review.seats] == [Role.BASE, Role.TESTED, Role.REFERENCE]


def test_known_rigs_and_cases_are_used_and_repeats_count_on():
    records, review = take_in(EMPTY, None, [arrival("iG-6")], new_ids())
    by_type = {}
    for record in records:
        by_type.setdefault(type(record), {})[record.id] = record
    contents = EMPTY.with_records(
        {
            "rigs": by_type[Rig],
            "titles": by_type[Title],
            "cases": by_type[Case],
            "runs": by_type[Run],
            "reviews": by_type[Review],
        }
    )
    again, same_review = take_in(contents, review, [arrival(" iG-6 ")], lambda: "fresh")
    assert [type(record) for record in again] == [Run, Review]
    assert again[0].repeat == 2
    assert same_review == review


@pytest.mark.parametrize(("rig", "title", "missing"), [(" ", "x", "rig"), ("x", " ", "title")])
def test_a_log_without_a_place_is_refused_by_name(rig, title, missing):
    one = Arrival(
        rig=rig,
        case=CaseName(title),
        figures=measure(np.full(9, 10.0)),
        trace_sha256="",
        origin=Origin(kind="log", file="coast.csv"),
    )
    with pytest.raises(BadIntake, match=rf"coast.csv: no {missing}"):
        take_in(EMPTY, None, [one], new_ids())


def test_the_slowest_is_proposed_as_base_and_the_fastest_as_reference():
    assert propose_roles([50, 20, 80], has_base=False) == (
        Role.TESTED,
        Role.BASE,
        Role.REFERENCE,
    )
    assert propose_roles([50, 20], has_base=False) == (Role.TESTED, Role.BASE)
    assert propose_roles([50, 20, 80], has_base=True) == (Role.TESTED,) * 3
    assert propose_roles([50], has_base=False) == (Role.TESTED,)


def test_a_known_name_is_the_longest_whose_words_a_file_has():
    known = ["Marram 12", "Sluice Marram 12", "Tower"]
    assert known_name("sluice_marram_12_tidewrack", known) == "Sluice Marram 12"
    assert known_name("nothing here", known) is None

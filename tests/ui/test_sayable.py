"""No fact without a place to say it: a list made from the records themselves.

A new field of a record fails here until a form shows it, or its place is named below.
"""

import pytest
from pydantic import BaseModel

from blunt_ruler.core.records.hardware import RigState
from blunt_ruler.core.records.plan_settings import Hours, SwapMinutes, TitleTimes
from blunt_ruler.core.records.pricing import Audience, WorthSettings
from blunt_ruler.core.records.records import TABLES, Meters
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.records.writeup_settings import Disclosure, WriteUp
from blunt_ruler.core.rigs.fields import fields_of

# Records with a form of all their described fields, and the page that has it.
FORMS = {
    "Host": "Bench",
    "Card": "Bench",
    "Dock": "Bench",
    "Link": "Bench",
    "Rig": "Bench",
    "RigState": "Bench",
    "Change": "Bench, Changes",
    "Title": "Board, evidence",
    "Case": "Board, evidence",
    "Run": "Board and Runs, evidence",
    "Meters": "Board and Runs, evidence",
    "Review": "Board, evidence",
    "Price": "Worth, Prices",
    "Readings": "Worth, Running",
    "WorthSettings": "Worth, Running",
    "Alternative": "Worth, Instead",
    "Audience": "Worth, Verdict",
    "Thresholds": "Runs, Thresholds",
    "Disclosure": "Write-up, Disclosures",
    "TitleTimes": "Plan, Times",
    "SwapMinutes": "Plan, Times",
    "Hours": "Plan, Times",
}
# Fields that are said elsewhere than in a form: where.
ELSEWHERE = {
    "Host": {"built_in_card_id": "a choice among the host's facts"},
    "Rig": {
        **dict.fromkeys(("host_id", "card_id", "dock_id", "link_id"), "a cell of the rig's row"),
        "state": "the place State",
        "sweep": "Bench, Ladder: play or import a sweep",
    },
    "Tick": dict.fromkeys(("rig_id", "step", "state", "at", "reading"), "Bench, Pre-flight"),
    "DiaryEntry": {
        "rig_id": "the rig chosen on the Bench",
        **dict.fromkeys(
            ("at", "symptom", "time", "test", "yes", "cause", "says", "minutes", "notes"),
            "Bench, Trouble",
        ),
    },
    "OwnStep": dict.fromkeys(("do", "ask"), "Bench, Pre-flight"),
    "Change": {"rig_ids": "the button that notes it"},
    "Case": {"title_id": "the case's head", "scene_has": "Runs, Findings: part of the scene"},
    "Run": {
        **dict.fromkeys(("rig_id", "case_id", "repeat", "typed"), "the Board's cell"),
        **dict.fromkeys(("taken_at", "origin", "trace_sha256", "figures", "observed"), "its log"),
        "trim": "Runs, the handles of the trace",
        "sampled": "Runs, At work: read a machine",
        "recording": "its recording",
        "meters": "facts read beside it",
        **dict.fromkeys(("decision", "reason"), "Runs, decision"),
    },
    "Review": {
        "seats": "roles in the Board's heads",
        "case_ids": "the Board's ghost row, Plan",
        "low_school": "Board, means",
        "target_fps": "Board, Playable",
        "thresholds": "Runs, Thresholds",
        "mean": "Board, means",
        "clean_only": "Board, means",
        "shared_cases": "Board, means",
        "each_title_once": "Board, means",
        "remembers": "Limits: fit this review alone",
        **dict.fromkeys(("left_out", "weights"), "Board, evidence of a cell"),
        "roles_proposed": "whether somebody chose",
        "second_figure": "the Board asks at the first pair that is typed",
        "varies": "Board, means",
        "worth": "Worth, Running",
        "audiences": "Worth, Verdict",
        "writeup": "Write-up",
    },
    "Price": {"rig_id": "the button that adds it"},
    "Readings": {"rig_id": "the rig chosen on Worth"},
    "WorthSettings": {"against": "Worth, Value"},
    "WriteUp": {
        **dict.fromkeys(("order", "hidden"), "Write-up, sections"),
        **dict.fromkeys(("byline", "disclosures"), "Write-up, Disclosures"),
        **dict.fromkeys(("pros", "cons"), "Write-up, For and against"),
        "own_words": "Write-up, Preview",
        **dict.fromkeys(("script", "inserted"), "Write-up, Script"),
        **dict.fromkeys(("charts", "style"), "Write-up, Charts"),
    },
    "Plan": {
        **dict.fromkeys(("repeats", "detect", "hours", "seed", "extra", "cells"), "Plan"),
    },
    "PublishedFigure": {},  # an older form; brought up as columns when a file is opened
}
PARTS_OF_RECORDS = (
    *(RigState, Meters, WorthSettings, Audience, Thresholds, Disclosure, WriteUp),
    *(TitleTimes, SwapMinutes, Hours),
)
MODELS = {model.__name__: model for model in (*TABLES.values(), *PARTS_OF_RECORDS)}


@pytest.mark.parametrize("name", sorted(set(MODELS) - {"Plan", "PublishedFigure"}))
def test_every_field_of_a_record_can_be_said_somewhere(name):
    model: type[BaseModel] = MODELS[name]
    said = {spec.name for spec in fields_of(model)} if name in FORMS else set()
    said |= set(ELSEWHERE.get(name, {}))
    keys = {"id", "title_id"} if name == "TitleTimes" else {"id"}
    assert set(model.model_fields) - said - keys == set()
    assert set(ELSEWHERE.get(name, {})) <= set(model.model_fields), "it names a field that is gone"

"""What a table says, as a value: its figures, its questions, and what was left out and why."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.records.records import Contents, Meters
from blunt_ruler.core.runs.entry import BadEntry, parse_entry
from blunt_ruler.core.text import count_text, list_text

SCORES, RATES = "scores", "frame rates"
ACROSS, DOWN, LONG = "rigs across", "rigs down", "one run a row"
SUMMARY = "a benchmark's summary"


@dataclass(frozen=True, slots=True)
class Question:
    """Something that a table does not say.

    `about` names it for an answer; `readings` are the answers, `proposed` the likelier one, blank
    where none is; `answer` what was answered. With `free` any words answer it. `cases` are the
    cases it is about, where it is about some.
    """

    about: str
    words: str
    readings: tuple[str, ...] = ()
    proposed: str = ""
    answer: str = ""
    free: bool = False
    cases: tuple[str, ...] = ()

    @property
    def is_open(self) -> bool:
        """Whether nobody has answered it."""
        return not self.answer


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Something of a table that is not taken in: where it is, and why."""

    where: str
    why: str


@dataclass(frozen=True, slots=True)
class SheetCell:
    """The figures of one rig and case.

    `text` is the entry in the notation, `passes` the figures that it was made of, by quantity as
    they stand; `wrong` says what is wrong with it. `meters` are readings beside the rates, `where`
    the row and column of its first figure. `unit` is that of a score: blank for points.
    """

    rig: str
    case: str
    text: str
    wrong: str = ""
    score: bool = False
    percent: bool = False
    passes: tuple[Mapping[str, str], ...] = ()
    meters: Meters | None = None
    where: str = ""
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Sheet:
    """What a table says."""

    cells: tuple[SheetCell, ...]
    layout: str
    questions: tuple[Question, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    notes: tuple[str, ...] = ()
    look: str = ""

    @property
    def asked(self) -> tuple[Question, ...]:
        """The questions that are open."""
        return tuple(question for question in self.questions if question.is_open)

    @property
    def is_sure(self) -> bool:
        """Whether nothing is asked."""
        return not self.asked

    @property
    def kind(self) -> Kind:
        """How its figures were read."""
        return Kind.SUMMARY if self.layout == SUMMARY else Kind.EYE

    @property
    def scores(self) -> tuple[str, ...]:
        """Cases whose figures are scores."""
        return tuple(dict.fromkeys(cell.case for cell in self.cells if cell.score))

    @property
    def rigs(self) -> tuple[str, ...]:
        """Names of rigs in the order they come."""
        return tuple(dict.fromkeys(cell.rig for cell in self.cells))

    @property
    def cases(self) -> tuple[str, ...]:
        """Cases in words in the order they come."""
        return tuple(dict.fromkeys(cell.case for cell in self.cells))

    @property
    def sound(self) -> tuple[SheetCell, ...]:
        """The cells that can be taken."""
        return tuple(cell for cell in self.cells if not cell.wrong)

    @property
    def wrong(self) -> tuple[SheetCell, ...]:
        """The cells that cannot be understood, whatever the answers to open questions are."""
        asked = {case for question in self.asked for case in question.cases}
        return tuple(cell for cell in self.cells if cell.wrong and cell.case not in asked)

    @property
    def remarks(self) -> tuple[str, ...]:
        """What was done with the table beside reading it, in sentences without their full stop."""
        if not self.left_out:
            return self.notes
        shown = [f"{one.where} ({one.why})" for one in self.left_out[:6]]
        more = len(self.left_out) - len(shown)
        shown += [f"{more} more"] if more > 0 else []
        return (*self.notes, f"left out: {list_text(shown)}")


@dataclass(frozen=True, slots=True)
class Known:
    """What a logbook says that helps to read a table: names in lower case, and what the second
    figure of a pair is ("low" or "minimum"), where all its reviews say the same. `games` are the
    titles told in frame rates, `tests` those that take scores.
    """

    rigs: frozenset[str] = frozenset()
    titles: frozenset[str] = frozenset()
    second_figure: str = ""
    games: frozenset[str] = frozenset()
    tests: frozenset[str] = frozenset()

    @classmethod
    def of(cls, contents: Contents) -> "Known":
        """What a logbook knows."""
        seconds = {review.second_figure for review in contents.reviews.values()}
        rated = {
            contents.cases[run.case_id].title_id
            for run in contents.runs.values()
            if run.average_fps is not None
        }
        kinds = {
            title.name.lower(): title.kind != "game" and title.id not in rated
            for title in contents.titles.values()
        }
        return cls(
            frozenset(rig.name.lower() for rig in contents.rigs.values()),
            frozenset(title.name.lower() for title in contents.titles.values()),
            seconds.pop() if len(seconds) == 1 else "",
            frozenset(name for name, takes_scores in kinds.items() if not takes_scores),
            frozenset(name for name, takes_scores in kinds.items() if takes_scores),
        )


def sheet_words(sheet: Sheet) -> str:
    """What a sheet holds, in one sentence."""
    wrong = len(sheet.cells) - len(sheet.sound)
    said = (
        f"{count_text(len(sheet.rigs), 'rig')}, {count_text(len(sheet.cases), 'case')}, "
        f"{count_text(len(sheet.sound), 'figure')}, {sheet.layout}"
    )
    if sheet.scores:
        whose = (
            "" if len(sheet.scores) == len(sheet.cases) else f" of {list_text(sheet.scores[:3])}"
        )
        said += f"; scores{whose}"
    return f"{said}; {count_text(wrong, 'cell')} cannot be understood" if wrong else said


def sheet_json(file: str, sheet: Sheet) -> dict[str, Any]:
    """A sheet as JSON: see help/formats.md."""
    return {
        "file": file,
        "layout": sheet.layout,
        "questions": [_question(one) for one in sheet.asked],
        "decided": [_question(one) for one in sheet.questions if not one.is_open],
        "cells": [row for cell in sheet.cells for row in _figures(cell, sheet.kind)],
        "left_out": [{"where": one.where, "why": one.why} for one in sheet.left_out],
    }


def _how(how: HowRead, kind: Kind) -> str:
    return str(kind if how.kind is Kind.EYE else how.kind)


def _question(one: Question) -> dict[str, Any]:
    return {
        "about": one.about,
        "words": one.words,
        "readings": list(one.readings),
        "proposed": one.proposed or None,
        "answer": one.answer or None,
    }


def _figures(cell: SheetCell, kind: Kind) -> list[dict[str, Any]]:
    """The figures of a cell, each with its pass, quantity, unit and how it was read."""
    start = {"rig": cell.rig, "case": cell.case}
    if cell.wrong:
        return [{**start, "pass": None, "quantity": None, "value": None, "unit": None,
                 "text": cell.text, "how_read": None, "wrong": cell.wrong}]  # fmt: skip
    rows: list[dict[str, Any]] = []
    try:
        entry = parse_entry(cell.text, score=cell.score)
    except BadEntry:
        return rows
    for number, one in enumerate(entry.passes, 1):
        found: list[tuple[str, float | None, str, str]] = [
            ("average_fps", one.average_fps, "fps", _how(one.average_how, kind)),
            ("low_1_fps", one.low_1_fps, "fps", _how(one.low_1_how, kind)),
            ("low_01_fps", one.low_01_fps, "fps", str(kind)),
            ("minimum_fps", one.minimum_fps, "fps", str(kind)),
            ("maximum_fps", one.maximum_fps, "fps", str(kind)),
            ("score", one.score, cell.unit, str(kind)),
        ]
        if one.change is not None:
            found.append(("percent", round(100.0 * (1.0 + one.change), 9), "%", one.change_of))
        rows += [
            {**start, "pass": number, "quantity": name, "value": value, "unit": unit,
             "how_read": how}
            for name, value, unit, how in found
            if value is not None
        ]  # fmt: skip
    if entry.outcome:
        rows.append({**start, "pass": 1, "quantity": "outcome", "value": None, "unit": "",
                     "text": entry.outcome, "how_read": "by eye"})  # fmt: skip
    for name, value in (cell.meters.model_dump(exclude_none=True) if cell.meters else {}).items():
        rows.append({**start, "pass": 1, "quantity": name, "value": value,
                     "unit": name.rpartition("_")[2], "how_read": "by eye"})  # fmt: skip
    return rows

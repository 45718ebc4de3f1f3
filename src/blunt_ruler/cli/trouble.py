"""The command that says what a rig's trouble can be, and which test to make next."""

from collections.abc import Collection, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    app,
    new_id,
    pair_in,
    print_json,
    read_logbook,
    rig_id,
)
from blunt_ruler.core.records.diary import DiaryEntry
from blunt_ruler.core.records.review_edits import first_review
from blunt_ruler.core.text import count_text
from blunt_ruler.core.trouble.diagnosis import Diagnosis, Seen, diagnose
from blunt_ruler.core.trouble.diary import (
    note_answer,
    note_cure,
    note_symptom,
    open_trouble,
    seen_of,
    trouble_line,
)
from blunt_ruler.core.trouble.knowledge import Knowledge

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import TroubleDocument

FIRST = 5  # causes and tests that are printed


@app.command()
def trouble(
    logbook: Annotated[Path, typer.Argument(help="A logbook.")],
    rig: Annotated[str, typer.Option(help="The rig that has it.")],
    symptom: Annotated[
        list[str] | None, typer.Option(help="What is seen, by its key or in words; repeatable.")
    ] = None,
    when: Annotated[str | None, typer.Option(help="When it shows, by its key.")] = None,
    tried: Annotated[
        list[str] | None, typer.Option(help="TEST=yes or TEST=no; repeatable.")
    ] = None,
    note: Annotated[
        bool, typer.Option("--note", help="Keep what is seen and tried in the rig's diary.")
    ] = False,
    cured: Annotated[
        str | None, typer.Option(help="What it was, by its key, or what cured it: kept.")
    ] = None,
    as_json: JsonFlag = False,
) -> None:
    """What a trouble can be, and the next test; with what the rig's diary has of it."""
    from blunt_ruler.exchange.trouble import knowledge

    known = knowledge()
    if note or cured:
        said = _noted(logbook, rig, symptom or (), when or "", tried or (), cured, known)
        if cured:
            print(said)
            return
    contents, review = read_logbook(logbook, None)
    key = rig_id(contents, review, rig, anywhere=True)
    noted = seen_of(contents, key, open_trouble(contents, key))
    symptoms = [
        _key("--symptom", known.heard_in(one, known.symptoms) or one, known.symptoms)
        if one not in known.symptoms else one
        for one in (symptom or () if not note else ())  # what was noted stands in the diary
    ]  # fmt: skip
    answers = dict(_answer(words, known) for words in tried or ())
    seen = Seen(
        tuple(dict.fromkeys((*noted.symptoms, *symptoms))),
        _key("--when", when, known.times) if when else noted.time,
        {**noted.answers, **answers},
        noted.traits,
        noted.cured_before,
    )
    if not seen.symptoms and not seen.answers:
        raise BadOption(
            "--symptom", "nothing is seen yet", f"Choose of {', '.join(known.symptoms)}"
        )
    found = diagnose(known, seen)
    if as_json:
        print_json(_document(contents.rigs[key].name, seen, found))
    else:
        _print(found, known, contents.rigs[key].name)


def _noted(
    logbook: Path,
    rig: str,
    symptoms: Sequence[str],
    when: str,
    tried: Sequence[str],
    cured: str | None,
    known: Knowledge,
) -> str:
    """Keep what was seen, tried and cured as entries of a rig's diary, as one edit; its words."""
    from blunt_ruler.logbook import Logbook
    from blunt_ruler.logbook.store import now_text

    if when:
        _key("--when", when, known.times)
    answers = [_answer(words, known) for words in tried]
    at = now_text()[:16]
    with Logbook.open(logbook) as book:
        contents = book.contents()
        review = next(iter(contents.reviews.values()), None) or first_review(new_id)
        key = rig_id(contents, review, rig, anywhere=True)
        edits = [note_symptom(key, at, one, when, known, new_id) for one in symptoms]
        edits += [note_answer(key, at, test, yes, known, new_id) for test, yes in answers]
        if cured:
            is_key = known.cause(cured) is not None
            cause, words = (cured, "") if is_key else ("", cured)
            edits.append(note_cure(key, at, cause, words, known, new_id))
        label = edits[0].label if len(edits) == 1 else "note a trouble in the diary"
        put = [one for edit in edits for one in edit.put if isinstance(one, DiaryEntry)]
        if put:
            book.commit(label, put)
        return f"Noted: {'; '.join(entry.says for entry in put)}"


def _key(option: str, words: str, known: Collection[str]) -> str:
    if words not in known:
        raise BadOption(option, f"there is no “{words}”", f"Choose of {', '.join(known)}")
    return words


def _answer(words: str, known: Knowledge) -> tuple[str, bool]:
    test, answer = pair_in("--tried", words, "is not a test and its answer", "TEST=yes")
    _key("--tried", test, [one.key for one in known.tests])
    if answer.lower() not in ("yes", "no"):
        raise BadOption("--tried", f"“{answer}” is neither yes nor no", "Write TEST=yes or TEST=no")
    return test, answer.lower() == "yes"


def _document(name: str, seen: Seen, found: Diagnosis) -> "TroubleDocument":
    return {
        "rig": name,
        "symptoms": list(seen.symptoms),
        "when": seen.time,
        "tried": dict(seen.answers),
        "traits": sorted(seen.traits),
        "causes": [
            {
                "cause": one.key,
                "says": one.words,
                "share": round(one.share, 4),
                "cure": one.cause.cure if one.cause is not None else "",
            }
            for one in found.causes
        ],
        "tests": [
            {
                "test": one.test.key,
                "do": one.test.do,
                "asks": one.test.asks,
                "minutes": one.test.minutes,
                "bits": round(one.bits, 3),
            }
            for one in found.tests
        ],
        "to_be_sure": [one.key for one in found.to_be_sure],
        "sure_minutes": found.sure_minutes,
    }


def _print(found: Diagnosis, known: Knowledge, name: str) -> None:
    print(trouble_line(found, name))
    for one in found.causes[:FIRST]:
        print(f"{one.share * 100:4.0f}\u202f%  {one.words}")
    if found.tests:
        print("Next:")
        for place, proposed in enumerate(found.tests[:FIRST], 1):
            test = proposed.test
            print(f"{place}. {test.do} {test.asks} ({test.minutes:g} min, {test.key})")
            for caution in test.cautions:
                print(f"   {known.cautions[caution]}")
    more = len(found.causes) - FIRST
    if more > 0:
        print(f"{count_text(more, 'more cause')} with --json. Common practice, no source.")

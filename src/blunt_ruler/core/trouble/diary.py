"""A rig's troubles as its diary has them: what is open, what earlier ones were, and their story."""

from collections import Counter
from collections.abc import Callable, Iterator

from blunt_ruler.core.records.diary import DiaryEntry
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Run
from blunt_ruler.core.text import capital, count_text, list_text
from blunt_ruler.core.trouble.diagnosis import OTHER, SURE, Diagnosis, Seen, diagnose
from blunt_ruler.core.trouble.knowledge import Knowledge
from blunt_ruler.core.trouble.traits import traits

Trouble = tuple[DiaryEntry, ...]
"""The entries of one trouble, in order; the last one cures it, or it is open."""


def entries_of(contents: Contents, rig_id: str) -> tuple[DiaryEntry, ...]:
    """A rig's entries in the order in which they were made."""
    return tuple(one for one in contents.diary.values() if one.rig_id == rig_id)


def troubles_of(contents: Contents, rig_id: str) -> tuple[Trouble, ...]:
    """A rig's troubles, the earliest first."""
    found: list[Trouble] = []
    entries: list[DiaryEntry] = []
    for one in entries_of(contents, rig_id):
        entries.append(one)
        if one.cures:
            found.append(tuple(entries))
            entries = []
    return (*found, tuple(entries)) if entries else tuple(found)


def open_trouble(contents: Contents, rig_id: str) -> Trouble:
    """The trouble of a rig that is not cured yet; empty where there is none."""
    troubles = troubles_of(contents, rig_id)
    return troubles[-1] if troubles and not troubles[-1][-1].cures else ()


def seen_of(contents: Contents, rig_id: str, trouble: Trouble) -> Seen:
    """What is known of a trouble, with what the rig is and what was cured before."""
    return Seen(
        symptoms=tuple(dict.fromkeys(one.symptom for one in trouble if one.symptom)),
        time=next((one.time for one in reversed(trouble) if one.time), ""),
        answers={one.test: one.yes for one in trouble if one.test and one.yes is not None},
        traits=traits(contents, rig_id),
        cured_before=_cured(contents, but=trouble),
    )


def _cured(contents: Contents, but: Trouble) -> Counter[str]:
    own = {one.id for one in but}
    return Counter(one.cause for one in contents.diary.values() if one.cures and one.id not in own)


def diagnosis_of(contents: Contents, rig_id: str, knowledge: Knowledge) -> Diagnosis | None:
    """What an open trouble can be; None where nothing was seen yet."""
    trouble = open_trouble(contents, rig_id)
    seen = seen_of(contents, rig_id, trouble)
    return diagnose(knowledge, seen) if seen.symptoms or seen.answers else None


# Entries


def note_symptom(
    rig_id: str, at: str, symptom: str, time: str, knowledge: Knowledge, new_id: Callable[[], str]
) -> Edit:
    """Something was seen: by its key, or in words of one's own, which are kept as they are."""
    says = knowledge.symptoms.get(symptom, symptom)
    known = symptom if symptom in knowledge.symptoms else ""
    when = knowledge.times.get(time, "")
    entry = DiaryEntry(
        id=new_id(), rig_id=rig_id, at=at,
        symptom=known or knowledge.heard_in(symptom, knowledge.symptoms),
        time=time or ("" if known else knowledge.heard_in(symptom, knowledge.times)),
        says=f"{says}, {when}" if when else says,
    )  # fmt: skip
    return Edit(f"note that {says}", put=(entry,))


def note_failure(
    contents: Contents, run: Run, knowledge: Knowledge, new_id: Callable[[], str]
) -> Edit | None:
    """A pass that did not run, as something that was seen; None where the diary has it."""
    case = contents.cases[run.case_id]
    says = f"{contents.titles[case.title_id].name} did not run: {run.outcome.rstrip('.')}"
    if any(one.says == says for one in entries_of(contents, run.rig_id)):
        return None
    entry = DiaryEntry(
        id=new_id(), rig_id=run.rig_id, at=run.taken_at[:16], says=says,
        symptom=knowledge.heard_in(run.outcome, knowledge.symptoms),
        time=knowledge.heard_in(run.outcome, knowledge.times) or "load",
    )  # fmt: skip
    return Edit("note a failed pass in the diary", put=(entry,))


def taken_as(entry: DiaryEntry, knowledge: Knowledge) -> str:
    """What words of one's own were taken as, where they do not say it themselves."""
    told = (knowledge.symptoms.get(entry.symptom, ""), knowledge.times.get(entry.time, ""))
    return ", ".join(one for one in told if one and one not in entry.says)


def note_answer(
    rig_id: str, at: str, test: str, yes: bool, knowledge: Knowledge, new_id: Callable[[], str]
) -> Edit:
    """A test was made, and answered."""
    trial = knowledge.test(test)
    assert trial is not None
    answer = "yes" if yes else "no"
    says = f"{trial.do} {trial.asks} {capital(answer)}."
    entry = DiaryEntry(
        id=new_id(), rig_id=rig_id, at=at, test=test, yes=yes, says=says, minutes=trial.minutes
    )
    return Edit(f"answer {answer}", put=(entry,))


def note_cure(
    rig_id: str, at: str, cause: str, words: str, knowledge: Knowledge, new_id: Callable[[], str]
) -> Edit:
    """It is cured: what it was, and in words of one's own what cured it."""
    known = knowledge.cause(cause)
    says = words or (known.cure if known is not None else "It is gone.")
    entry = DiaryEntry(
        id=new_id(), rig_id=rig_id, at=at, cause=cause or OTHER, says=says,
        notes=known.words if known is not None else "",
    )  # fmt: skip
    return Edit("note the cure", put=(entry,))


def drop_entry(entry: DiaryEntry) -> Edit:
    """An entry was a slip."""
    return Edit("delete an entry of the diary", drop=(entry,))


# The story


def stories(contents: Contents, rig_id: str, name: str) -> Iterator[str]:
    """Each trouble of a rig in one honest paragraph."""
    for trouble in troubles_of(contents, rig_id):
        yield " ".join(_story(trouble, name))


def _story(trouble: Trouble, name: str) -> Iterator[str]:
    seen = [one for one in trouble if not one.test and not one.cures]
    tried = [one for one in trouble if one.test]
    minutes = sum(one.minutes or 0.0 for one in trouble)
    day = trouble[0].at[:10]
    what = list_text([one.says.rstrip(".") for one in seen]) or "trouble"
    yield f"{name}{f', {day}' if day else ''}: {what}."
    no = [one for one in tried if one.yes is False]
    yes = [one for one in tried if one.yes]
    if tried:
        took = f", about {count_text(round(minutes), 'minute')}" if minutes else ""
        yield (f"{count_text(len(tried), 'test')}{took}: {len(yes)} answered yes, {len(no)} no.")
    last = trouble[-1]
    if last.cures:
        it_was = f"It was this: {last.notes}." if last.notes else "The cause stayed unknown."
        yield f"{it_was} Cured by: {_sentence(last.says)}"
    else:
        yield "It was not cured."


def _sentence(words: str) -> str:
    return words if words.endswith((".", "!", "?")) else f"{words}."


def trouble_line(diagnosis: Diagnosis | None, name: str) -> str:
    """How a trouble stands, in one sentence."""
    if diagnosis is None:
        return (
            f"Choose what is seen on {name}, and its causes are ranked."
            if name
            else ("Choose a rig first.")
        )
    first = diagnosis.first
    share = f"{first.share * 100:.0f}\u202f%"
    if first.share >= SURE:
        return f"It is {share} sure: {first.words}."
    if not diagnosis.to_be_sure:
        return f"Likeliest, {share}: {first.words}. No test on the list would make it sure."
    tests = count_text(len(diagnosis.to_be_sure), "test")
    return (
        f"Likeliest, {share}: {first.words}. To be sure: {tests}, about "
        f"{count_text(round(diagnosis.sure_minutes), 'minute')}."
    )

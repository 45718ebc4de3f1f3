"""What may be meant while a rig or a case is typed: names that the logbook knows, part by part."""

from collections.abc import Iterable

from blunt_ruler.core.records.records import Contents, Review

RESOLUTIONS = ("1080p", "1440p", "2160p", "720p")
MOST = 12


def rig_completions(contents: Contents, review: Review, text: str) -> tuple[str, ...]:
    """Rigs of the logbook that are not in the review yet and hold what is typed."""
    seated = {seat.rig_id for seat in review.seats}
    names = [rig.name for rig in contents.rigs.values() if rig.id not in seated]
    return _fitting(names, text.strip())


def case_completions(contents: Contents, review: Review, text: str) -> tuple[str, ...]:
    """Whole lines for a case, its last part completed: titles first, then what cases of that title
    have as scene, resolution and preset.
    """
    *before, last = text.split("/")
    if not before:
        return _fitting((title.name for title in contents.titles.values()), last.strip())
    title = before[0].strip().lower()
    cases = [
        case
        for case in contents.cases.values()
        if contents.titles[case.title_id].name.lower() == title
    ]
    used = {part.strip().lower() for part in before}
    parts = [part for case in cases for part in (case.scene, case.resolution, case.preset)]
    parts += [case.preset for case in contents.cases.values()] + list(RESOLUTIONS)
    wanted = [part for part in parts if part and part.lower() not in used]
    known = set(review.case_ids)
    whole = [
        label
        for case in cases
        if case.id not in known
        and (label := contents.case_label(case.id)).lower().startswith(text.strip().lower())
    ]
    stem = " / ".join(part.strip() for part in before)
    ends = [f"{stem} / {part}" for part in _fitting(wanted, last.strip())]
    return tuple(dict.fromkeys([*whole, *ends]))[:MOST]


def _fitting(names: Iterable[str], typed: str) -> tuple[str, ...]:
    """Names that begin with what is typed, then those that hold it."""
    plain = typed.lower()
    each = list(dict.fromkeys(names))
    begin = [name for name in each if name.lower().startswith(plain)]
    hold = [name for name in each if plain in name.lower() and name not in begin]
    found = [*begin, *hold]
    return () if found == [typed] else tuple(found[:MOST])

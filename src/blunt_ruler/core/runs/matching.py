"""Which planned pass a log belongs to: by what it says of itself, by its name, else by its time."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.runs.import_runs import known_name, name_words
from blunt_ruler.core.types import FloatArray

RIG_KEYS = ("rig", "station", "machine", "host")
TITLE_KEYS = ("title", "game", "test", "application", "case")


@dataclass(frozen=True, slots=True)
class Match:
    """Where a log belongs and why; `sure` where its header or name says so."""

    rig_id: str
    case_id: str
    sure: bool
    why: str


def match_log(
    contents: Contents,
    review: Review,
    stem: str,
    says: Sequence[tuple[str, str]],
    expected: tuple[str, str] | None,
) -> Match | None:
    """The cell a log belongs to. `expected` is (rig id, case id) of the next pass, which counts
    where neither header nor name say otherwise. None where nothing fits.
    """
    header = dict(says)
    rigs = {contents.rigs[seat.rig_id].name: seat.rig_id for seat in review.seats}
    rig_id, by_rig = _by_words(header, RIG_KEYS, stem, rigs)
    case_id, by_case = _case(contents, review, header, stem, expected)
    if rig_id is None and case_id is None:
        if expected is None:
            return None
        return Match(*expected, False, "it came when this pass was next")
    if rig_id is None:
        if expected is None or case_id is None:
            return None
        return Match(expected[0], case_id, False, f"the case by {by_case}, the rig as next")
    if case_id is None:
        if expected is None:
            return None
        return Match(rig_id, expected[1], False, f"the rig by {by_rig}, the case as next")
    how = by_rig if by_rig == by_case else f"the rig by {by_rig}, the case by {by_case}"
    return Match(rig_id, case_id, True, how if " by " in how else f"by {how}")


def _by_words(
    header: Mapping[str, str], keys: Sequence[str], stem: str, known: Mapping[str, str]
) -> tuple[str | None, str]:
    for key in keys:
        if (name := known_name(header.get(key, ""), list(known))) is not None:
            return known[name], "its header"
    name = known_name(stem, list(known))
    return (None, "") if name is None else (known[name], "its name")


def _case(
    contents: Contents,
    review: Review,
    header: Mapping[str, str],
    stem: str,
    expected: tuple[str, str] | None,
) -> tuple[str | None, str]:
    """The one case that title, resolution and preset leave; the expected one among several."""
    titles = {
        contents.titles[contents.cases[case_id].title_id].name: contents.cases[case_id].title_id
        for case_id in review.case_ids
    }
    title_id, by = _by_words(header, TITLE_KEYS, stem, titles)
    if title_id is None:
        return None, ""
    fitting = [one for one in review.case_ids if contents.cases[one].title_id == title_id]
    text = " ".join((stem, *header.values()))
    words = name_words(text)
    sizes = [mpx for word in words if (mpx := megapixels(word)) is not None]
    if sizes:
        fitting = [o for o in fitting if megapixels(contents.cases[o].resolution) in sizes]
    presets = [o for o in fitting if contents.cases[o].preset.lower() in words]
    fitting = presets or fitting
    if len(fitting) == 1:
        return fitting[0], by
    if expected is not None and expected[1] in fitting:
        return expected[1], f"{by} and as next"
    return None, ""


class Kinship(StrEnum):
    """What a log is to one that was taken in under the same name."""

    SAME = "the same recording"
    LONGER = "the same recording, longer"
    OTHER = "another recording"


def kinship(taken_ms: FloatArray, now_ms: FloatArray) -> Kinship:
    """How frame times relate to those taken in before, shape (n,) and (m,), ms.

    The last frame taken may have been cut off in the middle, so it is not compared.
    """
    whole = max(taken_ms.size - 1, 1)
    if now_ms.size < whole or not np.array_equal(taken_ms[:whole], now_ms[:whole]):
        return Kinship.OTHER
    return Kinship.LONGER if now_ms.size > taken_ms.size else Kinship.SAME

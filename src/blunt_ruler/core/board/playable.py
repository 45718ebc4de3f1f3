"""The other school: each rig at the best settings it can play, in words, never mixed with
like-for-like figures.

What counts as playable is the reviewer's target: an average and a low. Thirty even frames are
acceptable, sixty smooth; a cap near the 1 % low gives an even pace; generated frames want a base
rate of about sixty (common practice, no source).
"""

import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import partial

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.compare.results import CaseResult
from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.measure.trace_summary import REFRESH_HZ
from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.records import Case, Contents, Title
from blunt_ruler.core.text import count_text, fps_text, list_text

PRESETS = ("lowest", "low", "medium", "normal", "high", "very high", "highest", "max", "maximum")
GENERATION_BASE_FPS = 60.0
NOTHING_OF_IT = ("", "off", "no", "none")


@dataclass(frozen=True, slots=True)
class Target:
    """What counts as playable: an average and a 1 % low, frames per second."""

    average_fps: float
    low_fps: float


@dataclass(frozen=True, slots=True)
class Playable:
    """The best settings of a title that a rig can play; `case_id` is None where none meets it.

    `cap_fps` is the highest refresh step or half step that the low still holds; `generation` says
    whether frames could be made from this base rate.
    """

    rig_id: str
    title: str
    case_id: str | None
    settings: str
    average_fps: float | None
    low_fps: float | None
    cap_fps: float | None
    generation: str


def parse_target(words: str) -> Target:
    """Read "60/45": average over low; BadFigure where it is none."""
    average, mark, low = words.partition("/")
    try:
        target = Target(number(average), number(low if mark else average))
    except ValueError:
        raise BadFigure(
            "target", f"“{words}” is not a target", "Write average/low: 60/45"
        ) from None
    if not 0 < target.low_fps <= target.average_fps <= 2000:
        raise BadFigure("target", f"“{words}” cannot be met", "Give average ≥ low > 0: 60/45")
    return target


def rank_of(case: Case, title: Title | None = None) -> tuple[float, int, bool, bool]:
    """How good settings look, for ordering: pixels, preset, ray tracing, pixels drawn and not made.

    Presets stand in the title's own order, slow to fast, where it has one; an upscaled picture
    comes after a whole one of its size.
    """
    traced = case.ray_tracing.strip().lower() not in NOTHING_OF_IT
    whole = case.upscaler.strip().lower() in NOTHING_OF_IT
    return megapixels(case.resolution) or 0.0, _level(case, title), traced, whole


def _level(case: Case, title: Title | None) -> int:
    """How far up a preset stands, the fastest lowest."""
    preset = case.preset.strip().lower()
    own = [one.lower() for one in title.presets] if title is not None else []
    if preset in own:
        return len(own) - own.index(preset)
    return PRESETS.index(preset) if preset in PRESETS else PRESETS.index("medium")


def frames_made(case: Case) -> float:
    """How many frames are shown for each one drawn: 1 without generation, 2 where it only says on.

    "×3" and "3x" say so themselves.
    """
    said = case.frame_generation.strip().lower()
    if said in NOTHING_OF_IT:
        return 1.0
    found = re.search(r"[×x]\s*(\d)|(\d)\s*[×x]", said)
    return float(found[1] or found[2]) if found and (found[1] or found[2]) != "0" else 2.0


def even_cap(low_fps: float | None) -> float | None:
    """The highest refresh step, or half of one, at or under a low; None under 24."""
    if low_fps is None:
        return None
    steps = sorted({float(hz) for hz in REFRESH_HZ} | {hz / 2 for hz in REFRESH_HZ})
    return max((step for step in steps if 24.0 <= step <= low_fps), default=None)


def playable(contents: Contents, board: Board, target: Target) -> tuple[Playable, ...]:
    """For each title and rig of a review the best measured settings that meet a target.

    A cell without a low is judged by its average against both. Incomparable cells are left out, and
    so is what is only known to be at most a rate.
    """
    of_title: dict[str, list[str]] = defaultdict(list)
    for row in board.rows:
        if row.kind == "game":
            of_title[row.title].append(row.case_id)
    found = []
    for title, case_ids in of_title.items():
        record = contents.titles[contents.cases[case_ids[0]].title_id]
        ordered = sorted(case_ids, key=partial(_rank_in, contents, record), reverse=True)
        for column in board.columns:
            cells = [(one, board.cells.get((column.rig_id, one))) for one in ordered]
            measured = [
                (one, cell)
                for one, cell in cells
                if cell is not None and cell.bound in (Bound.POINT, Bound.AT_LEAST)
            ]
            if measured:
                own = target_of(record, target)
                found.append(_best(contents, column.rig_id, title, measured, own))
    return tuple(found)


def _rank_in(contents: Contents, title: Title, case_id: str) -> tuple[float, int, bool, bool]:
    return rank_of(contents.cases[case_id], title)


def target_of(title: Title, target: Target) -> Target:
    """A title's own target where it has one, its low at the same share."""
    if title.target_fps is None:
        return target
    return Target(title.target_fps, title.target_fps * target.low_fps / target.average_fps)


def _best(
    contents: Contents,
    rig_id: str,
    title: str,
    measured: Sequence[tuple[str, CaseResult]],
    target: Target,
) -> Playable:
    for case_id, cell in measured:
        low = cell.low_1_fps if cell.low_1_fps is not None else cell.average_fps
        # Frames that were made do not answer a hand: those drawn are held against the target.
        made = frames_made(contents.cases[case_id])
        if cell.average_fps / made >= target.average_fps and low / made >= target.low_fps:
            return Playable(
                rig_id,
                title,
                case_id,
                settings_words(contents.cases[case_id]),
                cell.average_fps,
                cell.low_1_fps,
                even_cap(cell.low_1_fps),
                _generation(cell.average_fps / made),
            )
    best = max(measured, key=lambda one: one[1].average_fps)[1]
    return Playable(
        rig_id,
        title,
        None,
        "",
        best.average_fps,
        best.low_1_fps,
        None,
        _generation(best.average_fps),
    )


def _generation(average_fps: float) -> str:
    if average_fps >= GENERATION_BASE_FPS:
        return "worth using"
    return f"base rate {fps_text(average_fps)}: under {GENERATION_BASE_FPS:g}, not worth using"


def settings_words(case: Case) -> str:
    """Settings as one says them: "1440p High, ray tracing on"."""
    said = " ".join(word for word in (case.resolution, case.preset) if word) or "as it is"
    said += f", ray tracing {case.ray_tracing}" if case.ray_tracing else ""
    said += f", upscaled by {case.upscaler}" if case.upscaler else ""
    return said + (f", generated frames {case.frame_generation}" if case.frame_generation else "")


class Against(StrEnum):
    """How what a rig plays stands to the base, as a mark before its settings."""

    NONE = ""
    NEW = "✓"  # the base plays it at no tested setting
    HIGHER = "▲"
    LOWER = "▼"


def against(contents: Contents, one: Playable, base: Playable | None) -> Against:
    """How the settings of a rig stand to those of the base."""
    if one.case_id is None or base is None or base.rig_id == one.rig_id:
        return Against.NONE
    if base.case_id is None:
        return Against.NEW
    mine, theirs = contents.cases[one.case_id], contents.cases[base.case_id]
    title = contents.titles[mine.title_id]
    change = rank_of(mine, title), rank_of(theirs, title)
    if change[0] == change[1]:
        return Against.NONE
    return Against.HIGHER if change[0] > change[1] else Against.LOWER


def gained_words(contents: Contents, one: Playable, base: Playable | None) -> str:
    """What a rig gains over the base in settings, in words and not in frames."""
    if one.case_id is None:
        rate = fps_text(one.average_fps)
        return f"not playable at any tested setting ({rate} at best)"
    if base is None or base.rig_id == one.rig_id:
        return ""
    if base.case_id is None:
        return "playable; the base is not"
    mark = against(contents, one, base)
    if mark is Against.NONE:
        return "the same settings"
    mine, theirs = contents.cases[one.case_id], contents.cases[base.case_id]
    title = contents.titles[mine.title_id]
    if mark is Against.LOWER:
        return f"less than the base's {settings_words(theirs)}"
    higher = _level(mine, title) - _level(theirs, title)
    known = {one.lower() for one in title.presets}
    both = {mine.preset.lower(), theirs.preset.lower()} <= known
    if both and higher > 0 and mine.resolution == theirs.resolution:
        goal = f" at the same {title.target_fps:g}" if title.target_fps else ""
        return f"{count_text(higher, 'preset')} higher{goal}, from {settings_words(theirs)}"
    pixels = (megapixels(mine.resolution) or 0.0) / (megapixels(theirs.resolution) or 1.0)
    more = f", {pixels:.1f} times the pixels" if pixels > 1.05 else ""
    return f"from {settings_words(theirs)}{more}"


def playable_cell(one: Playable, mark: Against) -> str:
    """What a rig plays of a title, in two lines: settings, then average and low."""
    if one.case_id is None:
        return f"not playable\n{fps_text(one.average_fps)} at best"
    low = f" / {fps_text(one.low_fps)}" if one.low_fps is not None else ""
    return f"{mark} {one.settings}".strip() + f"\n{fps_text(one.average_fps)}{low}"


def playable_line(board: Board, target: Target, found: Sequence[Playable]) -> str:
    """How many titles each rig plays, the best and the base, of what `playable` found."""
    if not found:
        return "Nothing is measured yet that could be called playable."
    titles = len({one.title for one in found})
    counts = {
        column.rig_id: sum(one.rig_id == column.rig_id and one.case_id is not None for one in found)
        for column in board.columns
    }
    goal = f"{target.average_fps:g} on average and a low of {target.low_fps:g}"
    parts = []
    if board.base is not None:
        parts.append(
            f"{board.base.name} plays {counts[board.base.rig_id]} of {count_text(titles, 'title')}"
        )
    tested = [c for c in board.columns if c is not board.base and c is not board.reference]
    parts += [f"{column.name} plays {counts[column.rig_id]}" for column in tested[:2]]
    return f"At {goal}, {list_text(parts)}."

"""How rates and losses go with pixels, and where two cards on one link meet one ceiling."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import count_text, fps_text, list_text, percent_text

LEVEL = 0.03  # common practice, no source: rates within this are level
SAME_CEILING = 0.06  # common practice, no source: two cards this close meet one ceiling


@dataclass(frozen=True, slots=True)
class Series:
    """One rig on one title over resolutions: megapixels, rates, and losses where known."""

    rig_id: str
    title: str
    preset: str
    megapixels: tuple[float, ...]
    rates_fps: tuple[float, ...]
    losses: tuple[float | None, ...]


@dataclass(frozen=True, slots=True)
class Ceiling:
    """Two cards on one host and link at one rate: link or CPU is the ceiling of this case."""

    case_id: str
    rig_ids: tuple[str, str]
    rates_fps: tuple[float, float]


def series(contents: Contents, board: Board) -> tuple[Series, ...]:
    """Every rig and title measured at two resolutions or more, with scene and preset the same."""
    grouped: dict[tuple[str, ...], list[tuple[float, float, float | None]]] = defaultdict(list)
    for row in board.rows:
        case = contents.cases[row.case_id]
        mpx = megapixels(case.resolution)
        if mpx is None:
            continue
        for column in board.columns:
            cell = board.cells.get((column.rig_id, row.case_id))
            if cell is not None and cell.bound is Bound.POINT:
                key = (row.title, case.scene, case.preset, column.rig_id)
                grouped[key].append((mpx, cell.average_fps, cell.loss))
    found = []
    for (title, _, preset, rig_id), points in grouped.items():
        if len(points) > 1:
            points.sort()
            sizes, rates, losses = zip(*points, strict=True)
            found.append(Series(rig_id, title, preset, sizes, rates, losses))
    return tuple(found)


def size_names(board: Board, lines: Sequence[Series]) -> dict[float, str]:
    """The resolutions of some series in the reviewer's words, by megapixels."""
    titles = {one.title for one in lines}
    return {
        size: row.resolution
        for row in board.rows
        if row.title in titles and (size := megapixels(row.resolution)) is not None
    }


def losses_that_grow(contents: Contents, board: Board) -> tuple[Series, ...]:
    """Series whose loss grows with resolution by more than counts as level: they usually shrink."""
    return tuple(
        one
        for one in series(contents, board)
        if one.losses[0] is not None
        and one.losses[-1] is not None
        and one.losses[-1] > one.losses[0] + LEVEL
    )


def met_ceilings(contents: Contents, board: Board) -> tuple[Ceiling, ...]:
    """Pairs of different cards on the same host and link within 6 % of one another on a case."""
    found = []
    rigs = contents.rigs
    for row in board.rows:
        for index, one in enumerate(board.columns):
            for other in board.columns[index + 1 :]:
                a, b = rigs[one.rig_id], rigs[other.rig_id]
                same_road = a.host_id == b.host_id and a.link_id == b.link_id and a.link_id
                if not same_road or a.card_id == b.card_id:
                    continue
                cells = [board.cells.get((r, row.case_id)) for r in (a.id, b.id)]
                if any(cell is None or cell.bound is not Bound.POINT for cell in cells):
                    continue
                first, second = (cell.average_fps for cell in cells if cell is not None)
                rates = first, second
                if max(rates) / min(rates) - 1.0 <= SAME_CEILING:
                    found.append(Ceiling(row.case_id, (a.id, b.id), rates))
    return tuple(found)


def scaling_line(contents: Contents, board: Board) -> str:
    """Whether losses shrink with resolution, and where cards meet a ceiling."""
    known = [one for one in series(contents, board) if one.losses[0] is not None]
    reference = board.reference
    moving = [one for one in known if reference is None or one.rig_id != reference.rig_id]
    if not moving:
        return "Measure a title at two resolutions on a rig and the reference to see how it scales."
    growing = {(one.rig_id, one.title) for one in losses_that_grow(contents, board)}
    shrinking = [one for one in moving if (one.rig_id, one.title) not in growing]
    said = (
        f"Losses shrink or hold with resolution in {len(shrinking)} of "
        f"{count_text(len(moving), 'series', 'series')}"
    )
    if growing:
        names = [
            f"{title} on {contents.rigs[rig_id].name}" for rig_id, title in sorted(growing)[:2]
        ]
        said += f"; they grow in {list_text(names)}"
    met = met_ceilings(contents, board)
    if met:
        said += f"; {_ceiling_words(contents, met)}"
    return f"{said}."


def _ceiling_words(contents: Contents, met: tuple[Ceiling, ...]) -> str:
    pairs: Mapping[tuple[str, str], int] = {
        pair: sum(one.rig_ids == pair for one in met) for pair in {one.rig_ids for one in met}
    }
    pair = max(sorted(pairs), key=lambda key: pairs[key])
    names = [contents.rigs[rig_id].name for rig_id in pair]
    return (
        f"{list_text(names)} are within {percent_text(SAME_CEILING)} on "
        f"{count_text(pairs[pair], 'case')}: there the link or the CPU is the ceiling"
    )


def series_words(contents: Contents, one: Series) -> str:
    """A series in words: rates from the fewest pixels up, and its losses."""
    rates = " → ".join(fps_text(rate) for rate in one.rates_fps)
    losses = [loss for loss in one.losses if loss is not None]
    told = f", lost {' → '.join(percent_text(loss) for loss in losses)}" if losses else ""
    return f"{one.title} {one.preset} on {contents.rigs[one.rig_id].name}: {rates}{told}"

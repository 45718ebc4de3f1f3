"""The middle sections of a write-up: results, and what took the frames."""

from collections.abc import Iterator
from dataclasses import replace

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Board, Column, Row
from blunt_ruler.core.board.groups import group_means
from blunt_ruler.core.board.lenses import (
    TOLD_IN_TIMES,
    Lens,
    cell_text,
    lens_value,
    lens_words,
    mean_range_text,
    mean_text,
    mean_value,
    mean_words,
)
from blunt_ruler.core.board.lines import board_basis
from blunt_ruler.core.board.references import change_text, reference_words
from blunt_ruler.core.board.row_order import GroupBy
from blunt_ruler.core.board.scaling import scaling_line, series
from blunt_ruler.core.claims.causes import ceiling_line, is_divided, is_told_apart, loss_words
from blunt_ruler.core.claims.claim import Claim, Metric
from blunt_ruler.core.claims.headline import reference_headline, score_headline
from blunt_ruler.core.claims.speak import speak
from blunt_ruler.core.claims.standing import FEWEST_LIKE
from blunt_ruler.core.compare.comparability import Standing, cell_standing_words
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.compare.results import CaseResult
from blunt_ruler.core.limits.link_curve import below_words, curve_line, first_curve
from blunt_ruler.core.limits.split import LossSplit
from blunt_ruler.core.limits.words import PART_WORDS, fit_words, part_span, told_rows, told_texts
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.rigs.links import ladder_or_why, not_known_words
from blunt_ruler.core.rigs.strip import rig_strip
from blunt_ruler.core.sentences import Figure, Sentence, Span, joined, sentence
from blunt_ruler.core.text import MINUS, capital, count_text, fps_text
from blunt_ruler.core.writeup.document import Block, Bullets, Chart, ChartKey, Grid, Paragraph
from blunt_ruler.core.writeup.trace import group_case

OF_REFERENCE = "change_of"
FIGURE_OF_LENS = {
    Lens.RATE: ("average_fps", "mean_gain"),
    Lens.LOW_1: ("low_1_fps", "mean_gain_low_1"),
    Lens.GAIN: ("gain", "mean_gain"),
    Lens.LOSS: ("loss", "mean_loss"),
}


def results(analysis: Analysis) -> tuple[Block, ...]:
    """The Board through four lenses, its charts, and what a reader must know of its cells."""
    board = analysis.board
    if not board.cells:
        none = Paragraph((sentence("results.none", "There is no counted run yet."),))
        return tuple(_scores(analysis)) or (none,)
    typical = typical_case(board)
    blocks: list[Block] = [Bullets(tuple(_found(analysis)))]
    blocks.append(Paragraph((sentence("results.basis", f"{board_basis(board, None)}."),)))
    blocks.append(Chart(ChartKey.BOARD, "Average frame rate of every case", _board_says(board)))
    blocks.append(_grid(board, Lens.RATE))
    if typical is not None:
        title = f"{typical.title}, {typical.settings}"
        blocks.append(Chart(ChartKey.RULER, title, _ruler_says(board, typical)))
    blocks.append(_grid(board, Lens.LOW_1))
    if board.base is not None:
        blocks.append(_grid(board, Lens.GAIN))
    if board.reference is not None:
        blocks.append(_grid(board, Lens.LOSS))
    if series(analysis.contents, board):
        says = scaling_line(analysis.contents, board)
        blocks.append(Chart(ChartKey.SCALING, "How it goes with resolution", says))
    blocks += _by_resolution(analysis)
    notes = tuple(_notes(board))
    if notes:
        blocks.append(Bullets(notes))
    blocks += _references(analysis)
    blocks += _scores(analysis)
    return tuple(blocks)


def _found(analysis: Analysis) -> Iterator[Sentence]:
    """What was found, and how sure it is: averages and lows of each rig, what losses do with
    resolution, who overtakes whom, and what did not run.
    """
    claims = analysis.claims
    found: dict[tuple[str, str, str], Claim] = {}
    for one in claims.all():
        is_rate = one.value is not None and one.metric in (Metric.AVERAGE, Metric.LOW)
        if is_rate and not one.says and one.subject.role is Role.TESTED:
            found.setdefault((one.question, one.subject.rig_id, one.metric), one)
    for one in (*found.values(), *claims.events()):
        said = speak(one, claims.board.columns)
        yield replace(said, key=f"results.found.{one.kind.name.lower()}.{said.key}")


def _by_resolution(analysis: Analysis) -> list[Block]:
    """Where several cases stand at several resolutions: the means over each, by rig."""
    board, by = analysis.board, GroupBy.RESOLUTION
    found = group_means(
        analysis.contents, board, unsound_words(analysis.checked), by, analysis.handover
    )
    if len(found) < 2:
        return []
    blocks: list[Block] = []
    for lens in (Lens.GAIN, Lens.LOSS):
        rows: list[tuple[Span, ...]] = []
        for words, (cases, totals) in found.items():
            over = replace(board, totals=totals)
            name, case = FIGURE_OF_LENS[lens][1], group_case(by, words)
            means = (_mean_cell(over, column, lens, name, case) for column in board.columns)
            rows.append((f"{words}, {count_text(len(cases), 'case')}", *means))
        if any(isinstance(cell, Figure) for row in rows for cell in row):
            heads = ("resolution", *(_head(column) for column in board.columns))
            says = f"Means by resolution, {lens_words(board, lens)}"
            blocks.append(Grid(says, heads, tuple(rows)))
    return blocks


def _references(analysis: Analysis) -> list[Block]:
    """Where a review has several references: each rig against each of them."""
    found = analysis.references
    if len(found.boards) < 2:
        return []
    rigs = list(dict.fromkeys(one.rig.rig_id for one in found.held))
    tested = [key for key in rigs if any(o.mean for o in found.of_rig(key))]
    said = [
        sentence(f"results.references.{key}", reference_headline(found, key))
        for key in tested
        if (column := analysis.board.column(key)) and column.role is Role.TESTED
    ]
    rows: list[tuple[Span, ...]] = []
    for one in found.held:
        if one.change is None:
            continue
        name = f"{OF_REFERENCE}.{one.reference.rig_id}"
        cell = Figure(*(change_text(one), name, one.rig.rig_id, "", one.change, one.reference.name))
        rows.append((one.rig.name, reference_words(one.reference), cell))
    heads = ("rig", "against", "mean change, 95 %")
    says = " ".join(one.computed for one in said)
    return [
        *([Paragraph(tuple(said))] if said else []),
        Chart(ChartKey.REFERENCES, "Against each reference", says),
        Grid("Each rig against each reference, over the cases both have", heads, tuple(rows)),
    ]


def _scores(analysis: Analysis) -> list[Block]:
    """Synthetic tests: every overall and part, and what each is over the base."""
    scores = analysis.scores
    board = scores.board
    if scores.is_empty:
        return []
    line = score_headline(analysis.claims, scores)
    blocks: list[Block] = [Paragraph((sentence("results.scores", line),))]
    if any(cell.gain is not None for cell in board.cells.values()):
        blocks.append(Chart(ChartKey.SCORES, "Scores over the base", line))
    for lens, name, says in (
        (Lens.RATE, "score", "Scores of synthetic tests, in no mean of games"),
        (Lens.GAIN, "score_gain", f"Scores, {lens_words(board, Lens.GAIN)}"),
        (Lens.LOSS, "score_loss", f"Scores, {lens_words(board, Lens.LOSS)}"),
    ):
        rows = tuple(
            (row.label, *(_cell(board, column, row, lens, name) for column in board.columns))
            for row in board.rows
            if any((column.rig_id, row.case_id) in board.cells for column in board.columns)
        )
        if any(isinstance(cell, Figure) for row in rows for cell in row):
            heads = ("test", *(_head(column) for column in board.columns))
            blocks.append(Grid(capital(says), heads, rows))
    return blocks


def typical_case(board: Board, rig_id: str | None = None) -> Row | None:
    """The case whose gain lies nearest to the mean gain: the one that shows the review best."""
    tested = [c.rig_id for c in board.columns if c.role is Role.TESTED and c.rig_id in board.totals]
    subject = rig_id or (tested[0] if tested else None)
    total = board.totals.get(subject or "")
    cells = [(row, board.cells.get((subject or "", row.case_id))) for row in board.rows]
    measured = [(row, cell) for row, cell in cells if cell is not None]
    if not measured:
        return board.rows[0] if board.rows else None
    if total is None or total.mean_gain is None:
        return measured[0][0]
    aim = total.mean_gain

    def off(pair: tuple[Row, CaseResult]) -> float:
        gain = pair[1].gain
        return float("inf") if gain is None else abs(gain - aim)

    return min(measured, key=off)[0]


def _grid(board: Board, lens: Lens) -> Grid:
    name, mean_name = FIGURE_OF_LENS[lens]
    rows: list[tuple[Span, ...]] = [
        (row.label, *(_cell(board, column, row, lens, name) for column in board.columns))
        for row in board.rows
    ]
    if any(mean_text(board, column.rig_id, lens) for column in board.columns):
        rows.append(
            (
                mean_words(board),
                *(_mean_cell(board, column, lens, mean_name) for column in board.columns),
            )
        )
        means = [mean_value(board, column.rig_id, lens) for column in board.columns]
        enough = any(mean and len(mean.over_titles) >= FEWEST_LIKE for mean in means)
        for words, others in (("95 %, these titles", False), ("95 %, other titles", True)):
            ranges = [mean_range_text(mean, lens, others) for mean in means]
            if any(ranges) and (enough or not others):
                rows.append((words, *(one or "–" for one in ranges)))
    heads = ("case", *(_head(column) for column in board.columns))
    return Grid(capital(lens_words(board, lens)), heads, tuple(rows))


def _head(column: Column) -> str:
    return column.name if column.role is Role.TESTED else f"{column.name} ({column.role})"


def _cell(board: Board, column: Column, row: Row, lens: Lens, name: str) -> Span:
    cell = board.cells.get((column.rig_id, row.case_id))
    text = cell_text(board, column.rig_id, row.case_id, lens)
    value = lens_value(cell, lens)
    if value is None:
        return text
    return Figure(text, name, column.rig_id, row.case_id, value, _base_of(board, lens))


def _base_of(board: Board, lens: Lens) -> str:
    if lens is Lens.GAIN and board.base:
        return board.base.name
    return board.reference.name if lens is Lens.LOSS and board.reference else ""


def _mean_cell(board: Board, column: Column, lens: Lens, name: str, case: str = "") -> Span:
    mean = mean_value(board, column.rig_id, lens)
    text = mean_text(board, column.rig_id, lens)
    if mean is None or not text:
        return "–"
    if lens is Lens.LOW_1 and board.base is column:
        return text  # of a rig against itself nothing is traced
    value = 1.0 - mean.ratio if lens is Lens.LOSS else mean.ratio - 1.0
    base = board.base.name if board.base and lens in TOLD_IN_TIMES else _base_of(board, lens)
    return Figure(text, name, column.rig_id, case, value, base)


def _board_says(board: Board) -> str:
    return (
        f"Bars of the average frame rate of {count_text(len(board.columns), 'rig')} on "
        f"{count_text(len(board.rows), 'case')}; the table beneath has every figure."
    )


def _ruler_says(board: Board, row: Row) -> str:
    parts = [
        f"{column.name} {cell_text(board, column.rig_id, row.case_id, Lens.RATE)}, 1 % low "
        f"{cell_text(board, column.rig_id, row.case_id, Lens.LOW_1)}"
        for column in board.columns
    ]
    return f"Average and 1 % low on {row.label}, frames per second: {'; '.join(parts)}."


def _notes(board: Board) -> Iterator[Sentence]:
    for one in board.review.left_out:
        row = next((row for row in board.rows if row.case_id == one.case_id), None)
        if row is not None:
            yield sentence(
                f"results.left_out.{row.case_id}",
                f"{row.label} is kept out of the means: {one.why or 'no reason given'}.",
            )
    labels = {row.case_id: row.label for row in board.rows}
    for (rig_id, case_id), cell in board.cells.items():
        if cell.standing.worst is not Standing.CLEAN:
            column = board.column(rig_id)
            yield sentence(
                f"results.standing.{rig_id}.{case_id}",
                f"{column.name if column else rig_id}, {labels[case_id]}: "
                f"{cell_standing_words(cell.standing)}.",
            )
    ties = sum(cell.tie for cell in board.cells.values())
    if ties:
        yield sentence(
            "results.ties",
            f"In {count_text(ties, 'cell')} the runs vary by more than the difference; they read "
            "“level” where it is surely under 3\u202f%, else as a range.",
        )


def limits(analysis: Analysis) -> tuple[Block, ...]:
    """Where each rig's loss went, and where a faster card stops paying."""
    report, board = analysis.limits, analysis.board
    if report.fit is None:
        return (Paragraph((sentence("limits.none", report.why_not),)),)
    said = [
        one
        for column in board.columns
        if column.role is Role.TESTED and (one := _lost(analysis, column)) is not None
    ]
    blocks: list[Block] = [Bullets(tuple(said))] if said else []
    shown = waterfall_split(analysis)
    if shown is not None:
        blocks.append(
            Chart(ChartKey.WATERFALL, "Where the frames went", _waterfall_says(analysis, shown))
        )
    if any(column.link_gb_per_s for column in board.columns):
        blocks.append(
            Chart(ChartKey.LADDER, "What each link leaves for the game", _ladder_says(analysis))
        )
        blocks.append(Chart(ChartKey.STRIP, "Each rig from host to picture", _strip_says(analysis)))
    curve = first_curve(analysis.contents, board, report.fit)
    if curve is not None:
        below = [below_words(one, curve) for one in curve.points if one.is_below]
        says = " ".join([curve_line(curve), *below])
        blocks.append(Chart(ChartKey.LINK, f"How many lanes the {curve.card} needs", says))
    blocks.append(
        Paragraph(
            (
                sentence("limits.ceiling", ceiling_line(report)),
                sentence("limits.fit", f"The model behind these shares: {fit_words(report)}"),
            )
        )
    )
    return tuple(blocks)


def waterfall_split(analysis: Analysis) -> LossSplit | None:
    """The loss that the waterfall shows: of the first rig under test, on its typical case."""
    row = typical_case(analysis.board)
    for one in analysis.limits.splits:
        column = analysis.board.column(one.rig)
        if column and column.role is Role.TESTED and row and one.case == row.case_id:
            return one
    return None


def _waterfall_says(analysis: Analysis, split: LossSplit) -> str:
    contents = analysis.contents
    parts = ", ".join(
        f"{PART_WORDS[name]} {MINUS if fps < 0 else ''}{abs(fps):.1f}"
        f"{f' ({span})' if (span := part_span(split, name)) else ''}"
        for name, fps in told_rows(split)
    )
    reference = analysis.board.reference
    return (
        f"{contents.case_label(split.case)}: from {fps_text(split.reference_fps)} frames per "
        f"second on {reference.name if reference else 'the reference'} to "
        f"{fps_text(split.average_fps)} on {contents.rigs[split.rig].name}: {parts} "
        "(80 % intervals)."
    )


def _lost(analysis: Analysis, column: Column) -> Sentence | None:
    shares = analysis.limits.lost_by_part(column.rig_id)
    if not shares or analysis.board.reference is None:
        return None
    reference = analysis.board.reference.name
    parts: list[tuple[Span, ...]] = [
        (
            Figure(text, f"loss_{part}", column.rig_id, "", share, reference),
            " unexplained" if part == "unexplained" else f" to the {PART_WORDS[part]}",
        )
        for part, share, text in told_texts(analysis.limits, column.rig_id)
    ]
    said = f"{column.name} loses, as shares of {reference}'s rate: "
    if not is_told_apart(analysis.limits, column):
        words = loss_words(analysis.limits, column)
        if not is_divided(analysis.limits, column):
            return sentence(f"limits.lost.{column.rig_id}", f"{words}.")
        said = f"{words}; by part, as shares of its rate: "
    return sentence(f"limits.lost.{column.rig_id}", said, joined(parts), ".")


def _ladder_says(analysis: Analysis) -> str:
    contents, parts, open_links = analysis.contents, list[str](), list[str]()
    for column in analysis.board.columns:
        ladder, _ = ladder_or_why(contents, contents.rigs[column.rig_id])
        if ladder is not None:
            how = "as described" if ladder.measured_gb_per_s is None else "as measured"
            parts.append(f"{column.link} {ladder.left_words} {how}")
            if ladder.slowest is not None:
                open_links.append(not_known_words(contents.link_of(column.rig_id)))
    says = f"From line rate down to what a game can use: {'; '.join(dict.fromkeys(parts))}."
    return " ".join([says, *dict.fromkeys(open_links)])


def _strip_says(analysis: Analysis) -> str:
    contents = analysis.contents
    said = [rig_strip(contents, column.rig_id) for column in analysis.board.columns]
    return " ".join(one.says for one in said)

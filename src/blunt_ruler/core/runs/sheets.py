"""A rectangle of cells from a spreadsheet, understood: which rig, which case, which figure.

Rigs stand across or down, or every row is one run; heads may take several rows, averages and lows
several columns. Whatever is not taken is said, and where rigs and cases cannot be told apart the
reader is asked.
"""

import re
from collections.abc import Callable, Container, Mapping, Sequence
from dataclasses import dataclass, field, replace
from statistics import fmean, geometric_mean, harmonic_mean, median

from blunt_ruler.core.records.records import Contents, case_label
from blunt_ruler.core.runs.entry import BadEntry, entry_text, parse_entry
from blunt_ruler.core.runs.import_runs import looks_like_resolution
from blunt_ruler.core.runs.sheet_cells import BadSheet, is_figure, joined, tidy
from blunt_ruler.core.runs.sheet_heads import (
    BY_WORDS,
    FRAME_TIME,
    SCORE,
    TENTH,
    heads_of,
    is_mean,
    is_other,
    is_share,
    kind_of,
    metric_of,
    plain_head,
    without_frame_time,
)
from blunt_ruler.core.text import count_text, list_text

MOST_HEADS = 3
MEAN_OF, MEAN_IN = 2, 5  # others, and others with columns, that tell a mean by arithmetic
MEANS: dict[str, Callable[[Sequence[float]], float]] = {
    "the mean": fmean,
    "the geometric mean": geometric_mean,
    "the harmonic mean": harmonic_mean,
    "the median": median,
    "the sum": sum,
}
MOST_RATE = 1000.0  # frames per second: beyond it a score is likelier (common practice, no source)
PARTS = frozenset(["overall", "graphics", "cpu", "gpu", "physics", "combined", "total"])


@dataclass(frozen=True, slots=True)
class SheetCell:
    """One figure, in the notation: of which rig and case, what is wrong with it, and whether it is
    a score instead of a frame rate.
    """

    rig: str
    case: str
    text: str
    wrong: str = ""
    score: bool = False


@dataclass(frozen=True, slots=True)
class Sheet:
    """What a rectangle says. `sure` is whether rigs and cases could be told apart; `turned` is the
    same with rigs and cases the other way round, None for a table of one run a row. `may_score` are
    the cases that nothing calls scores and whose figures look like some.
    """

    cells: tuple[SheetCell, ...]
    layout: str
    notes: tuple[str, ...] = ()
    sure: bool = True
    turned: "Sheet | None" = None
    may_score: tuple[str, ...] = ()

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


@dataclass(frozen=True, slots=True)
class Known:
    """Names of the logbook, in lower case, that help to tell rigs from cases."""

    rigs: frozenset[str] = frozenset()
    titles: frozenset[str] = frozenset()

    @classmethod
    def of(cls, contents: Contents) -> "Known":
        """The names a logbook knows."""
        return cls(
            frozenset(rig.name.lower() for rig in contents.rigs.values()),
            frozenset(title.name.lower() for title in contents.titles.values()),
        )


def understand(rows: Sequence[Sequence[str]], known: Known = Known()) -> Sheet:
    """What a rectangle says. Raises BadSheet where there is no figure with a rig and a case."""
    table = tidy(rows)
    if not table:
        raise BadSheet("table", "it is empty", "Copy cells with figures")
    heads, left = _frame(table)
    if heads == 0 and left < 2:
        raise BadSheet(
            "table", "its rows or columns have no heads", "Copy the heads too, rigs and titles"
        )
    names = [plain_head(name) for name in table[heads - 1][:left]] if heads else []
    kinds = [kind_of(name) for name in names]
    if "rig" in kinds and ("title" in kinds or "case" in kinds):
        return _long(table, heads, left, kinds)
    return _matrix(table, heads, left, kinds, known)


def as_scores(sheet: Sheet, cases: Container[str]) -> Sheet:
    """The same with the figures of some cases as scores, and those of all others as frame rates."""
    cells = tuple(
        cell if cell.score == (cell.case in cases) else _read(replace(cell, score=not cell.score))
        for cell in sheet.cells
    )
    turned = replace(sheet.turned, turned=None) if sheet.turned is not None else None
    return replace(sheet, cells=cells, turned=turned)


def _may_score(cells: Sequence[SheetCell]) -> tuple[str, ...]:
    """Cases that nothing calls scores, whose middle figure is beyond any usual frame rate, or that
    are the parts of one test by their names.
    """
    figures: dict[str, list[float]] = {}
    for cell in cells:
        if not cell.score:
            found = re.search(r"\d+(?:\.\d+)?", joined(cell.text))
            figures.setdefault(cell.case, []).extend([float(found[0])] if found else [])
    ends: dict[str, set[str]] = {}
    for case in figures:
        first, _, last = case.replace("/", " ").lower().strip().rpartition(" ")
        ends.setdefault(first.strip(), set()).add(last)
    return tuple(
        case
        for case, each in figures.items()
        if (each and median(each) > MOST_RATE)
        or len(ends[case.replace("/", " ").lower().strip().rpartition(" ")[0].strip()] & PARTS) > 1
    )


def _frame(table: Sequence[Sequence[str]]) -> tuple[int, int]:
    """(rows of heads, columns of words on the left)."""
    most = min(MOST_HEADS, len(table) - 1)
    named = [n for n in range(most) if any(kind_of(plain_head(cell)) for cell in table[n])]
    heads = named[-1] + 1 if named else 0
    while heads < most and not _has_figures(table[heads], bool(named)):
        heads += 1
    names = [plain_head(name) for name in table[heads - 1]] if heads else []
    body = table[heads:]
    left = 0
    for place in range(len(table[0])):
        named_so = heads > 0 and kind_of(names[place]) != ""
        cells = [row[place] for row in body if row[place]]
        figures = sum(is_figure(cell) for cell in cells)
        if not named_so and (figures * 2 >= len(cells) or not cells):
            break
        left += 1
    return heads, left


def _has_figures(row: Sequence[str], few: bool) -> bool:
    """Whether a row holds figures beside its first cell, most of it or but a few; resolutions are
    none.
    """
    cells = [cell for cell in row[1:] if cell and not looks_like_resolution(cell)]
    figures = sum(is_figure(cell) for cell in cells)
    return figures > 0 and (few or 2 * figures >= len(cells))


@dataclass(slots=True)
class _Gathered:
    """Figures by rig and case as they are found; `scores` where a word over all of them says so."""

    scores: bool = False
    passes: dict[tuple[str, str], list[dict[str, str]]] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)

    def add(self, rig: str, case: str, metric: str, text: str) -> None:
        """One figure; another of its kind for the same rig and case is another pass."""
        each = self.passes.setdefault((rig, case), [])
        if not each or metric in each[-1]:
            each.append({})
        each[-1][metric] = text

    def cells(self) -> tuple[SheetCell, ...]:
        """The cells in the notation."""
        return tuple(
            _cell(rig, case, found, self.scores or bool(SCORE.search(case)))
            for (rig, case), found in self.passes.items()
        )


def _cell(rig: str, case: str, passes: Sequence[Mapping[str, str]], score: bool) -> SheetCell:
    case = spelled_out(case)
    words = []
    for one in passes:
        average, low, minimum, maximum = (
            re.sub(r"^(\d+),(\d{1,2})$", r"\1.\2", one.get(name, ""))  # one cell, one figure
            for name in ("average", "low", "minimum", "maximum")
        )
        if not average:
            what = next((name for name in ("low", "minimum", "maximum") if one.get(name)), "")
            if what:
                return SheetCell(rig, case, one[what], f"It has a {what} and no average.")
            continue
        if "/" in average or not (low or minimum or maximum):
            words.append(average)
            continue
        named = (("avg", average), ("1%", low), ("min", minimum), ("max", maximum))
        words.append(" ".join(f"{name} {said}" for name, said in named if said))
    text = "; ".join(words) if any(word.startswith("avg") for word in words) else " ".join(words)
    if not text:
        return SheetCell(rig, case, "", "It holds no average.")
    return _read(SheetCell(rig, case, _shortest(text), score=score))


def _shortest(text: str) -> str:
    """An entry without names where its figures need none."""
    try:
        return entry_text(parse_entry(text)) if "avg" in text else text
    except BadEntry:
        return text


def _read(cell: SheetCell) -> SheetCell:
    """A cell with what is wrong with it; the thousands of a score are joined."""
    if cell.score:
        cell = replace(cell, text=joined(cell.text))
    try:
        parse_entry(cell.text, score=cell.score)
    except BadEntry as error:
        return replace(cell, wrong=str(error))
    return replace(cell, wrong="")


def _long(table: Sequence[Sequence[str]], heads: int, left: int, kinds: Sequence[str]) -> Sheet:
    """A table of one run a row."""
    gathered = _Gathered()
    names = table[heads - 1]
    metrics = {place: metric_of(names[place]) for place in range(left, len(names))}
    gathered.scores = "average" not in metrics.values() and any(map(SCORE.search, names[left:]))
    if gathered.scores:
        place = next(place for place in metrics if SCORE.search(names[place]))
        metrics = {place: "average"}
    if not any(metric == "average" for metric in metrics.values()):
        single = [place for place in metrics if kind_of(plain_head(names[place])) == ""]
        if len(single) != 1:
            raise BadSheet("table", "no column is the average", "Name it average_fps")
        metrics[single[0]] = "average"
    unused = [
        names[place]
        for place, metric in metrics.items()
        if not metric or TENTH.search(names[place])
    ]
    place_of = {kind: place for place, kind in enumerate(kinds) if kind}
    unused += [names[place_of["other"]]] if "other" in place_of else []
    source = next((n for n, name in enumerate(names[:left]) if plain_head(name) in BY_WORDS), None)
    unused += [names[n] for n, kind in enumerate(kinds) if kind == "source" and n != source]
    rig = ""
    for number, row in enumerate(table[heads:], heads + 1):
        rig = row[place_of["rig"]] or rig
        if source is not None and row[source] and "published by" not in rig:
            rig = f"{rig}, published by {row[source]}"
        case = _case_of(row, place_of)
        if not rig or not case:
            gathered.notes.append(f"row {number} names no rig or no title and is left out")
            continue
        for place, metric in metrics.items():
            if metric and names[place] not in unused and row[place]:
                gathered.add(rig, case, metric, row[place])
    if unused:
        gathered.notes.append(f"not taken: {list_text([name for name in unused if name])}")
    return _sheet(gathered, "one run a row")


def _case_of(row: Sequence[str], place_of: Mapping[str, int]) -> str:
    """The case of a row in words."""
    if "case" in place_of and row[place_of["case"]]:
        return row[place_of["case"]]
    parts = [
        row[place_of[kind]] if kind in place_of else ""
        for kind in ("title", "scene", "resolution", "preset")
    ]
    return case_label(*[_as_resolution(part) if at == 2 else part for at, part in enumerate(parts)])


def spelled_out(case: str) -> str:
    """A case with its parts told apart: "Tidewrack 1080p High" is "Tidewrack / 1080p / High"."""
    parts = []
    for number, part in enumerate(part.strip() for part in case.split("/")):
        words = re.finditer(r"[^\s,;()]+", part)
        found = next((word for word in words if looks_like_resolution(word.group())), None)
        if found is None or (found.start() == 0 and number == 0):
            parts.append(part)
        else:
            before, after = part[: found.start()], part[found.end() :]
            parts += [before.strip(" ,;("), found.group(), after.strip(" ,;)")]
    return " / ".join(part for part in parts if part)


def _as_resolution(words: str) -> str:
    """A bare number of lines as a resolution: 1080 is 1080p."""
    return f"{words}p" if re.fullmatch(r"\d{3,4}", words) else words


def _matrix(
    table: Sequence[Sequence[str]], heads: int, left: int, kinds: Sequence[str], known: Known
) -> Sheet:
    """Rigs across and cases down, or the other way round."""
    body = table[heads:]
    tops = _tops(table, heads, left)
    sides = _sides(body, left, kinds)
    across, sure = _rigs_across(tops, sides, kinds, known)
    one = _turned(table, heads, left, tops, sides, across)
    other = _turned(table, heads, left, tops, sides, not across)
    if not one.cells:
        raise BadSheet("table", "no cell has a rig and a title", "Copy the heads too")
    return replace(one, sure=sure, turned=other)


def _tops(table: Sequence[Sequence[str]], heads: int, left: int) -> list[str]:
    """The heads of the columns of figures, those over several columns filled in to the right."""
    width = len(table[0])
    parts: list[list[str]] = []
    for number in range(heads):
        row = list(table[number])
        for place in range(left + 1, width):
            if number < heads - 1 and not row[place]:
                row[place] = row[place - 1]
        parts.append(row)
    return [
        " / ".join(dict.fromkeys(row[place] for row in parts if row[place]))
        for place in range(left, width)
    ]


def _sides(body: Sequence[Sequence[str]], left: int, kinds: Sequence[str]) -> list[str]:
    """The heads of the rows, a title over several rows filled in downwards."""
    above = ""
    found = []
    place_of = {kind: place for place, kind in enumerate(kinds) if kind}
    for row in body:
        cells = list(row[:left])
        if cells and not cells[0] and any(cells[1:]):
            cells[0] = above
        above = cells[0] if cells else ""
        if "title" in place_of or "case" in place_of:
            found.append(_case_of(cells, place_of))
        else:
            words = [
                cell
                for place, cell in enumerate(cells)
                if place >= len(kinds) or kinds[place] != "pass"
            ]
            found.append(" / ".join(part for part in words if part))
    return found


def _rigs_across(
    tops: Sequence[str], sides: Sequence[str], kinds: Sequence[str], known: Known
) -> tuple[bool, bool]:
    """(whether rigs stand across, whether that is sure)."""

    def like_cases(names: Sequence[str]) -> float:
        plain = [head.name.lower() for head in heads_of(names) if head.name]
        if not plain:
            return 0.0
        hits = sum(
            any(looks_like_resolution(part.strip()) for part in re.split(r"[/ ]", name))
            or " / " in name
            or name.partition(" / ")[0] in known.titles
            for name in plain
        )
        return (hits - sum(name in known.rigs for name in plain)) / len(plain)

    down = like_cases(sides) - like_cases(tops)
    # A head in the corner can be that of the columns: the names below and beside it must agree.
    if "rig" in kinds:
        return False, down < 0.25
    if "title" in kinds or "case" in kinds or "resolution" in kinds:
        return True, down > -0.25
    return down >= 0, abs(down) > 0.25


def _turned(
    table: Sequence[Sequence[str]],
    heads: int,
    left: int,
    tops: Sequence[str],
    sides: Sequence[str],
    across: bool,
) -> Sheet:
    """The cells of a matrix with rigs across, or down."""
    over = [cell for row in table[:heads] for cell in row[:left]]
    gathered = _Gathered(scores=any(map(SCORE.search, over)))
    all_times = any(map(FRAME_TIME.search, over))
    skipped: list[str] = []
    columns = heads_of([without_frame_time(top) for top in tops])
    rows = heads_of([without_frame_time(side) for side in sides])
    body = [row[left:] for row in table[heads:]]
    mean_rows = _worked_out(body)
    mean_columns = _worked_out([*zip(*body, strict=True)])
    times = 0
    for number, row in enumerate(table[heads:]):
        side = rows[number]
        name = sides[number]
        if not side.name or is_mean(name) or is_other(name) or is_share(name):
            skipped.append(f"row {name}" if name else f"row {heads + number + 1} without a head")
            continue
        if number in mean_rows:
            skipped.append(f"row {name}, {mean_rows[number]} of the others")
            continue
        for place, text in enumerate(row[left:]):
            if not text:
                continue
            top, words = columns[place], tops[place]
            metric = top.metric or side.metric or "average"
            if not top.name:
                skipped.append(f"column {words or left + place + 1}, which names nothing")
            elif (
                TENTH.search(words)
                or "%" in text
                or is_share(words)
                or is_other(words)
                or is_mean(words)
            ):
                skipped.append(f"column {words}")
            elif place in mean_columns:
                skipped.append(f"column {words}, {mean_columns[place]} of the others")
            else:
                if all_times or FRAME_TIME.search(words) or FRAME_TIME.search(name):
                    text, times = _as_rate(text), times + 1
                rig, case = (top.name, side.name) if across else (side.name, top.name)
                gathered.add(rig, case, metric, text)
    if times:
        gathered.notes.append(f"{count_text(times, 'frame time')} in ms became frame rates")
    if skipped:
        gathered.notes.append(f"not taken: {list_text(list(dict.fromkeys(skipped))[:6])}")
    return _sheet(gathered, "rigs across" if across else "rigs down")


def _as_rate(text: str) -> str:
    """Frame times in milliseconds as frames per second: "16.7" is "59.9"."""

    def rate(found: re.Match[str]) -> str:
        time_ms = float(found[1].replace(",", "."))
        return f"{1000.0 / time_ms:.1f}" if time_ms > 0 else found[0]

    return re.sub(r"(\d+(?:[.,]\d+)?)(?:\s*ms\b)?", rate, text)


def _worked_out(rows: Sequence[Sequence[str]]) -> dict[int, str]:
    """The first or the last row where it is a mean or the sum of the others to its last digit, in
    so many columns that chance is out, whatever it is called; and which of them.
    """
    read = [[_plain_number(text) for text in row] for row in rows]
    found: dict[int, str] = {}
    for place in {0, len(rows) - 1} if len(rows) > MEAN_OF else set():
        others = [row for number, row in enumerate(read) if number != place]
        columns = [
            (own, [one[0] for one in each if one is not None])
            for own, *each in zip(read[place], *others, strict=True)
            if own is not None and None not in each
        ]
        enough = len(columns) > 1 and len(columns) + len(others) >= MEAN_IN
        for words, mean in MEANS.items() if enough else ():
            if all(abs(mean(each) - value) <= 0.51 * step for (value, step), each in columns):
                found[place] = words
                break
    return found


def _plain_number(text: str) -> tuple[float, float] | None:
    """(a number, the step of its last digit); None for a cell that holds anything else."""
    text = re.sub(r"\s*(?:fps|ms)$", "", text, flags=re.IGNORECASE)
    if re.fullmatch(r"\d+(?:[.,]\d{1,2})?", text) is None:
        return None
    decimals = len(text.replace(",", ".").partition(".")[2])
    value = float(text.replace(",", "."))
    return (value, 10.0**-decimals) if value > 0 else None


def _sheet(gathered: _Gathered, layout: str) -> Sheet:
    cells = gathered.cells()
    return Sheet(cells, layout, tuple(gathered.notes), may_score=_may_score(cells))


MOMENT = re.compile(r"\d:\d\d|\d{4}-\d\d-\d\d")


def names_runs(line: str) -> bool:
    """Whether a line is the head of a table of one run a row: it names rig and title."""
    kinds = {kind_of(plain_head(name.strip('" '))) for name in re.split(r"[\t;,|]", line)}
    return "rig" in kinds and bool(kinds & {"title", "case"})


def looks_like_results(rows: Sequence[Sequence[str]]) -> bool:
    """Whether rows of a file are a table of results and no log: heads in words, few rows alike."""
    try:
        sheet = understand(rows)
    except BadSheet:
        return False
    if not sheet.sound:
        return False
    if sheet.turned is None:
        return True
    names = [*sheet.rigs, *sheet.cases]
    in_words = all(any(letter.isalpha() for letter in name) for name in names)
    return (
        in_words
        and not any(MOMENT.search(name) for name in names)
        and len(sheet.cells) * 2 >= len(rows) - 1
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

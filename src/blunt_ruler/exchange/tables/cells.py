"""The cells of copied text or of a sheet: parted, tidied, and how their numbers are written."""

import csv
import io
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.entry import BadEntry, parse_entry
from blunt_ruler.exchange.tables.words import OUTCOME, kind_of, names_runs, plain_head, unit_measure

MOST_ROWS, MOST_COLUMNS = 20_000, 300
BLANKS = frozenset(["-", "–", "—", "n/a", "na", "n.a.", "none", "?", "x", "tbd", "...", "…"])

# "4 612" and "4'612"; a plain space parts passes too, which are alike.
_SPACED = re.compile(r"(?<![\d.,])(\d{1,3}) (\d{3})(?: \d{3})*(?!\d| \d)")
_THIN = re.compile(r"(?<=\d)['’\u2009\u202f\u00a0](?=\d{3}(?!\d))")
LEAST_RATE = 10  # frames per second: below it thousands are as likely as decimals
ALIKE = 0.8  # of the figures of a table, that show how it writes them
PASSES_ALIKE = 2.0  # times apart: passes of a case may be
UNLIKE = 3.0  # times apart: no two passes of a case are
_GROUPED = re.compile(r"(?<![\d.,])(\d{1,3})([.,])(\d{3})(?![\d.,])")
_BOTH = re.compile(r"(?<![\d.,])\d{1,3}(?:([.,])\d{3})+(?!\1)([.,])\d+(?![\d.,])")
_MANY = re.compile(r"(?<![\d.,])\d{1,3}(?:([.,])\d{3}){2,}(?![\d.,])")
_DECIMAL = re.compile(r"(?<![\d.,])\d+([.,])(?:\d{1,2}|\d{4,}|(?<=\d{4}[.,])\d{3})(?![\d.,])")


class BadSheet(UserFixable):
    """Cells that no figures can be found in."""


class BadShape(BadSheet):
    """It is a table, but nobody can say which figure stands under which name."""


def pasted_rows(text: str) -> list[list[str]]:
    """The cells of copied text: parted by tabs, semicolons, bars or commas, whichever parts most
    lines alike, else by wide gaps; else lines that end in figures.
    """
    text = text.replace("\x00", "").replace("\r\n", "\n").replace("\r", "\n").rstrip("\n")
    lines = text.split("\n")
    if sum(line.strip().startswith("|") and line.strip().endswith("|") for line in lines) > 1:
        lines = [line.strip().removeprefix("|").removesuffix("|") for line in lines]
        return tidy([line.split("|") for line in lines])
    if not any("\t" in line or ";" in line for line in lines) and all(
        is_figure(line.strip()) for line in lines if line.strip()
    ):
        return tidy([[line.strip()] for line in lines])  # a comma is a decimal mark
    mark = _mark(lines)
    if mark is None:  # "Average   :   69.5"
        told = [_TOLD.fullmatch(line.strip()) for line in lines]
        lines = [
            f"{one['name']}: {one['said']}" if one is not None and is_figure(one["said"]) else line
            for one, line in zip(told, lines, strict=True)
        ]
    gaps = sum(re.search(r"\S {2,}\S", line) is not None for line in lines)
    if mark is None and 2 * gaps >= sum(bool(line.strip()) for line in lines):
        return tidy(_by_gaps(lines))
    if mark is None:
        return tidy(_by_figures(lines))
    try:
        rows = [*csv.reader(io.StringIO("\n".join(lines)), delimiter=mark, skipinitialspace=True)]
    except csv.Error as error:
        raise BadSheet(
            "what was copied", f"it is not a table ({error})", "Copy the cells again"
        ) from None
    if names_runs(lines[0]):
        _refuse_short(rows)
    _refuse_shifted(rows, mark)
    return tidy(rows)


def _refuse_shifted(rows: Sequence[Sequence[str]], mark: str) -> None:
    """BadShape where every row below the head lacks cells of it, or where commas that part cells
    are in figures too: nobody can say which figure belongs under which name.
    """
    head = [*rows[0]] if rows else []
    while head and not head[-1].strip():
        head.pop()
    widths = {len(row) for row in rows[1:] if sum(bool(cell.strip()) for cell in row) > 1}
    if len(head) < 3 or len(widths) != 1 or any(is_figure(cell.strip()) for cell in head):
        return
    (width,) = widths
    notes = all(kind_of(plain_head(cell)) in ("other", "source") for cell in head[width:])
    if width < len(head) and not notes:
        raise BadShape(
            "row 1",
            f"it has {len(head)} cells, and every row below it {width}",
            "Put a name that has a comma in quotes, or fill in the missing cells",
        )
    if mark == "," and width - 1 == 2 * (len(head) - 1):
        raise BadShape(
            "the table",
            "commas part its cells and are in its figures too",
            "Save it with semicolons or tabs between cells",
        )


def _refuse_short(rows: Sequence[Sequence[str]]) -> None:
    """BadSheet for a row of a table of one run a row that lacks cells: nobody can say which."""
    for number, row in enumerate(rows, 1):
        if 1 < len(row) < len(rows[0]):
            raise BadSheet(
                f"row {number}",
                f"it has {len(row)} cells where the table has {len(rows[0])} columns",
                "Give it a blank cell for each figure that is missing",
            )


_TOLD = re.compile(r"(?P<name>[^:=]*[^\W\d_][^:=]*?)\s*[:=]\s+(?P<said>\S.*)")


def _mark(lines: Sequence[str]) -> str | None:
    """The delimiter that parts most lines into as many cells; None where none does."""
    there = [line for line in lines if line.strip()]
    for mark in "\t;|,":
        counts = [len(re.sub(r'"[^"]*"', "", line).split(mark)) - 1 for line in there]
        usual = max(filter(None, counts), key=counts.count, default=0)
        least = 0.5 if mark == "\t" else 0.6
        if usual and counts.count(usual) >= least * len(there):
            gaps = sum(re.search(r"\S {2,}\S", line) is not None for line in there)
            if mark == "," and ((usual == 1 and len(there) == 1) or 2 * gaps > len(there)):
                continue
            return mark
    return None


def _by_gaps(lines: Sequence[str]) -> list[list[str]]:
    """Cells set in columns by spaces; a row with blank cells is told by where its words stand."""
    rows = [[*re.finditer(r"[^ ]+(?: [^ ]+)*", line.expandtabs())] for line in lines]
    most = max(map(len, rows))
    full = [row for row in rows if len(row) == most]
    spans = [
        (min(row[n].start() for row in full), max(row[n].end() for row in full))
        for n in range(most)
    ]
    found = []
    for row in rows:
        cells = [""] * most
        for number, word in enumerate(row):
            place = number if len(row) == most else _nearest(spans, *word.span())
            cells[place] = f"{cells[place]} {word.group()}".strip()
        found.append(cells)
    return found


def _nearest(spans: Sequence[tuple[int, int]], start: int, end: int) -> int:
    """The column that a word stands in, or nearest to."""

    def distance(place: int) -> tuple[int, int]:
        low, high = spans[place]
        return max(low - end, start - high, 0), max(low, start) - min(high, end)

    return min(range(len(spans)), key=distance)


def _by_figures(lines: Sequence[str]) -> list[list[str]]:
    """Lines of a name and its figures: "Tidewrack 52 38", "Skitter: 107". Where the first line has
    a word for each of them these are heads; else the figures of a line are one cell.
    """
    found = [_name_and_figures(line.strip()) for line in lines]
    parts = [(name, figures.split()) for name, figures in filter(None, found)]
    if 2 * len(parts) < sum(bool(line.strip()) for line in lines):
        return [[line.strip()] for line in lines]
    count = {len(figures) for _, figures in parts}
    heads = next((line.split() for line in lines if line.strip()), [])
    figures = next(iter(count)) if len(count) == 1 else 0
    # “Sluice dock” over one figure each is a caption, and “Game FPS” is not.
    told = figures > 1 or bool(heads and kind_of(plain_head(heads[0])))
    named = figures > 0 and len(heads) == figures + 1 and found[0] is None and told
    rows: list[list[str]] = []
    for line, pair in zip(lines, found, strict=True):
        if pair is None:
            rows.append(heads if named and line.split() == heads else [line.strip()])
        else:
            rows.append([pair[0], *(pair[1].split() if named else [pair[1]])])
    return rows


def _name_and_figures(line: str) -> tuple[str, str] | None:
    """A name and the entry after it, the longest that is one; None for any other line."""
    for found in re.finditer(r"(?<=[\s:=])(?=\S)", line):
        name, figures = line[: found.start()].strip(" :=-–—\t"), line[found.start() :].strip()
        if not re.search(r"[^\W\d_]", name) or not re.search(r"\d", figures):
            continue
        try:
            passes = parse_entry(figures).passes
        except BadEntry:
            continue
        rates = [one.average_fps for one in passes if one.average_fps is not None]
        # "Orchard 2077 45" is not two passes: those of a case are alike.
        if rates and max(rates) <= PASSES_ALIKE * min(rates) and not looks_like_lines(figures):
            return name, figures
    return None


def tidy(rows: Sequence[Sequence[str]]) -> list[list[str]]:
    """Rows of one length without blank columns at the edges; blank rows and ruled lines stay as
    blank rows, so that rows keep their numbers. Raises BadSheet for too many.
    """
    kept = [
        []
        if all(_is_rule(cell) for cell in row)
        else [
            "" if cell.strip().lower() in BLANKS else _bare(" ".join(_THIN.sub("", cell).split()))
            for cell in row
        ]
        for row in rows
    ]
    while kept and not any(kept[-1]):
        kept.pop()
    if len(kept) > MOST_ROWS:  # cells far below: no row keeps its number
        kept = [row for row in kept if any(row)]
    width = max((len(row) for row in kept), default=0)
    if len(kept) > MOST_ROWS or width > MOST_COLUMNS:
        raise BadSheet(
            "table",
            f"it has {len(kept)} rows and {width} columns",
            f"Give at most {MOST_ROWS} rows and {MOST_COLUMNS} columns",
        )
    filled = [[*row, *[""] * (width - len(row))] for row in kept]
    used = [place for place in range(width) if any(row[place] for row in filled)]
    return [row[used[0] : used[-1] + 1] for row in filled] if used else []


_EMPHASIS = re.compile(r"(\*\*|__|\*|_|`)((?:(?!\1).)+)\1(?!\w)")
_SPREAD = re.compile(r"\s*(?:±|\+/-)\s*\d+(?:[.,]\d+)?\s*%?(?=\s|$)")
_SHARE_BESIDE = re.compile(r"(?<=\d)\s*\(\s*[+−–-]?\d+(?:[.,]\d+)?\s*%\s*\)$")  # "107 (65 %)"
_FOOTNOTE = re.compile(r"(?<=[\w)])\s*(?:[*†‡§¹²³⁴⁵]+|\[\d+\])(?=\s|$)")


def _bare(cell: str) -> str:
    """A cell without emphasis, and figures without marks of footnotes or their own spread."""
    if (found := _EMPHASIS.fullmatch(cell)) is not None:
        cell = found[2].strip()
    cell = _SHARE_BESIDE.sub("", cell)
    plain = _SPREAD.sub("", _FOOTNOTE.sub("", _EMPHASIS.sub(r"\2", cell)))
    if plain != cell and is_figure(plain):
        return plain
    return re.sub(r"(?<=[^\s*†‡§])\s?[*†‡§]+$", "", cell)


def _is_rule(cell: str) -> bool:
    return (
        not cell.strip()
        or re.fullmatch(r"[\s:=+-]*-[\s:=+-]*|[-=_:]{2,}", cell.strip()) is not None
    )


def is_outcome(text: str) -> bool:
    """Whether a cell says that there is no figure and why: "crashed", "did not start"."""
    return OUTCOME.match(text) is not None


@dataclass(frozen=True, slots=True)
class Marks:
    """How a table writes its numbers: its decimal mark, blank where none of its figures tells, and
    figures that can be thousands or decimals, as they stand.
    """

    decimal: str = ""
    doubtful: tuple[str, ...] = ()
    alike: bool = False  # nearly all figures are written so: with three decimals, if they are rates

    def plain(self, text: str, thousands: bool = False) -> str:
        """A text with its thousands joined and a point for its decimals. `thousands` is how
        "11,500" is read where no figure of the table tells.
        """
        text = _SPACED.sub(_together, text)
        text = _BOTH.sub(lambda found: found[0].replace(found[1], "").replace(found[2], "."), text)
        text = _MANY.sub(lambda found: found[0].replace(found[1], ""), text)

        def one(found: re.Match[str]) -> str:
            whole, mark, rest = found.groups()
            join = thousands if not self.decimal else mark != self.decimal
            return f"{whole}{rest}" if join and whole != "0" else f"{whole}.{rest}"

        text = _GROUPED.sub(one, text)
        return re.sub(r"(?<=\d),(?=\d)(?! )", ".", text) if self.decimal != "." else text

    def of_rate(self, text: str) -> str:
        """The text of a frame rate by name: "59,940" has decimals, for no rate is that high."""
        if self.decimal:
            return self.plain(text)
        if not self.alike:
            return text
        return _GROUPED.sub(
            lambda found: f"{found[1]}.{found[3]}0" if int(found[1]) >= LEAST_RATE else found[0],
            text,
        )


def _together(found: re.Match[str]) -> str:
    """A number that a space parts into thousands, joined; two passes as they are."""
    one, two = int(found[1]), int(found[2])
    apart = found[2][0] == "0" or max(one, two) > UNLIKE * min(one, two)
    return found[0].replace(" ", "") if apart else found[0]


def marks_of(cells: Iterable[str]) -> Marks:
    """How some cells write their numbers."""
    seen: set[str] = set()
    doubtful: dict[str, None] = {}
    figures = grouped = 0
    for cell in cells:
        figures += cell[:1].isdigit()
        grouped += _GROUPED.search(cell) is not None
        if "," not in cell and "." not in cell:
            continue
        for found in _BOTH.finditer(cell):
            seen.add(found[2])
        for found in _MANY.finditer(cell):
            seen.add("." if found[1] == "," else ",")
        for found in _DECIMAL.finditer(cell):
            seen.add(found[1])
        doubtful |= {found[0]: None for found in _GROUPED.finditer(cell) if found[1] != "0"}
    decimal = seen.pop() if len(seen) == 1 else ""
    return Marks(decimal, () if decimal else tuple(doubtful), grouped > ALIKE * figures)


_PLAIN = re.compile(
    r"[+−–-]?\s*\d+(?:[.,]\d+)?(?:\s*(?:fps|ms|%|w|pts|×))?|\d+[.,]\d+\s*x|[x×]\s*\d+[.,]\d+", re.I
)
_MEASURED = re.compile(r"[+−–-]?\s*\d+(?:[.,]\d+)*\s*(?P<unit>[^\s\d.,;()<>~+-][^\d,;()]*)?", re.I)
_LISTED = re.compile(r"\d+(?:[.,]\d+)?(?:\s*/\s*\d+(?:[.,]\d+)?){1,3}")


@lru_cache(maxsize=8192)  # names and figures come again and again, and each is asked about thrice
def is_figure(text: str) -> bool:
    """Whether a cell could be an entry; a number that can be two is one all the same."""
    if _PLAIN.fullmatch(text) or _LISTED.fullmatch(text):
        return True
    if not any(letter.isdigit() for letter in text):
        return bool(re.match(r"no\s*:", text, re.I))
    text = re.sub(r"(?<=\d),(?=\d)", ".", Marks(".").plain(text))
    parts = measured_parts(text)
    if parts:
        return True
    if re.fullmatch(r"[€$£]\s*\d[\d.,]*", text):
        return True
    try:
        parse_entry(text)
    except BadEntry:
        return False
    return True


def measured_parts(text: str) -> list[str]:
    """The figures of a cell that have units of their own: "107 fps / 180 W"; none where one has
    none, and for a resolution or a size.
    """
    parts = [part.strip() for part in re.split(r"\s*[/,;|]\s+|\s+[/|]\s*", text)]
    for part in parts:
        found = _MEASURED.fullmatch(part)
        if found is None or not found["unit"] or looks_like_lines(part):
            return []
        if not unit_measure(found["unit"]):
            return []
    return parts


def looks_like_lines(text: str) -> bool:
    """Whether a text is a resolution such as 1080p, or a size such as 4K or x4, and no figure."""
    return re.fullmatch(r"\d+\s*[pk]|x\d+|\d+x", text, re.I) is not None


def bare_figures(rows: Sequence[Sequence[str]]) -> bool:
    """Whether a rectangle has no heads: figures that go where the cursor is."""
    cells = [cell for row in rows for cell in row if cell]
    return bool(cells) and all(is_figure(cell) for cell in cells)

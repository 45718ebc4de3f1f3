"""A rectangle of cells from a spreadsheet, understood: which rig, which case, which figure.

Every figure gets its rig, case, pass and quantity from all that is said about it: its own unit, the
heads of its row and column, the section it is in, the corner, and the lines over the table. What
can be read two ways is a question; what is not taken is said, with the reason.
"""

import hashlib
import re
from collections.abc import Mapping, Sequence
from typing import TypeAlias

from blunt_ruler.core.records.records import Meters, case_label
from blunt_ruler.core.text import count_text, list_text
from blunt_ruler.exchange.tables.asking import Asked
from blunt_ruler.exchange.tables.blocks import Block, blocks_of
from blunt_ruler.exchange.tables.cells import (
    BadSheet,
    Marks,
    is_outcome,
    marks_of,
    measured_parts,
    tidy,
)
from blunt_ruler.exchange.tables.derived import worked_out
from blunt_ruler.exchange.tables.gathered import Gathered, number_in, title_of
from blunt_ruler.exchange.tables.lines import Line, columns_of, rows_of
from blunt_ruler.exchange.tables.roles import NO_RIG, NO_TITLE, Roles, roles_of
from blunt_ruler.exchange.tables.shares import Shares, shares_in
from blunt_ruler.exchange.tables.sheet import Known, Sheet
from blunt_ruler.exchange.tables.words import (
    METERS,
    SCORE,
    SHARE,
    TIME,
    Said,
    is_other,
    measured_in,
    of_table,
    plain_head,
    unit_measure,
)

Context: TypeAlias = tuple[Line, Line, Said, Said]  # row, column, section, over the table
PASSES, OTHERS = "passes", "other quantities"
TESTS, QUANTITY = "tests", "another quantity"
FIRST_LOW, LEAST = "1% low", "minimum"
_CELL_UNIT = re.compile(
    r"(?P<sign>[+−–-]?)\s*(?P<money>[€$£]?)\s*(?P<value>\d[\d.,]*)\s*(?P<unit>[^\d\s.,/()+~<>-][^\d,;()]*)?"
)
_OF_TIMES = {"minimum": "maximum", "maximum": "minimum", "p99": "low", "odd": "odd"}
_TIMES_CELL = re.compile(r"(?:[x×]\s*(\d+(?:[.,]\d+)?)|(\d+(?:[.,]\d+)?)\s*[x×])")


def understand(
    rows: Sequence[Sequence[str]],
    known: Known = Known(),
    answers: Mapping[str, str] | None = None,
    source: str = "",
) -> Sheet:
    """What a rectangle says, with the answers to its questions as far as there are any.

    `source` names the file, or what was copied, for percentages that stand without a rate. Raises
    BadSheet where there is no figure with a rig and a case.
    """
    table = tidy(rows)
    if not any(any(row) for row in table):
        raise BadSheet("table", "it is empty", "Copy cells with figures")
    blocks = blocks_of(table)
    if not blocks:
        raise BadSheet("table", "it holds no figures", "Copy the figures with their heads")
    marks = marks_of(cell for block in blocks for _, _, row in block.body for cell in row)
    reader = _Reader(Asked(known, answers or {}), marks, source or "a table")
    for block in blocks:
        reader.read(block)
    return reader.sheet(_look(blocks))


def _look(blocks: Sequence[Block]) -> str:
    """What tables of the same kind share: their heads, and how many names are on the left."""
    words = [plain_head(cell) for block in blocks for row in block.heads for cell in row]
    words += [f"{len(block.names)} {len(block.body[0][2])}" for block in blocks]
    return hashlib.sha256("\x1f".join(words).encode()).hexdigest()[:16]


class _Reader:
    """Reads the blocks of one table and gathers what they say."""

    def __init__(self, asked: Asked, marks: Marks, source: str) -> None:
        self.asked, self.marks = asked, marks
        self.gathered = Gathered(asked, marks, source)
        self.layout = ""
        self.times = 0

    def read(self, block: Block) -> None:
        """Take the figures of a block in."""
        figures = block.figures
        columns, over = columns_of(self.asked, block)
        lines = rows_of(self.asked, block)
        for number, words in block.remarks:
            self.asked.leave(f"row {number}", f"a remark: {words[:40]}")
        body = [[row[place] for place in figures] for _, _, row in block.body]
        numbers = [[number_in(self.marks, cell) for cell in row] for row in body]
        skip_rows, skip_columns = worked_out(self.asked, lines, columns, numbers, body)
        names = [*dict.fromkeys(section for _, section, _ in block.body)]
        sections = {name: of_table(name, self.asked.names) for name in names}
        roles = roles_of(self.asked, block, lines, columns, sections, over)
        self.layout = self.layout or roles.layout
        if roles.rig == roles.case == "row":
            skip_columns |= self._unknown(columns, skip_columns)
        shares = shares_in(self.asked, block, lines, columns, numbers, over, roles)
        for at, (number, section, _) in enumerate(block.body):
            if at in skip_rows:
                self.asked.leave(f"row {lines[at].call}", skip_rows[at])
                continue
            for place, column in enumerate(columns):
                text = body[at][place]
                if not text:
                    continue
                if place in skip_columns:
                    self.asked.leave(
                        f"column {column.call or figures[place] + 1}", skip_columns[place]
                    )
                    continue
                context = (lines[at], column, sections[section], over)
                where = f"row {number}, column {column.call or figures[place] + 1}"
                self._figure(text, context, section, roles, where, shares)

    def _unknown(self, columns: Sequence[Line], skip: Mapping[int, str]) -> dict[int, str]:
        """Columns of a table of one run a row that no word explains: none of a rate where another
        column says that it is one; several alike can be passes.
        """
        named = {n: line.name for n, line in enumerate(columns) if line.name and n not in skip}
        told = any(line.said.statistic or line.said.measure for line in columns)
        if len(named) < (1 if told else 2):
            return {}
        names = list_text([*named.values()][:3])
        if not told and self.asked.ask(
            "columns",
            f"Are {names} passes of a run, or other quantities?",
            (PASSES, OTHERS),
            proposed=PASSES,
        ) == PASSES:  # fmt: skip
            return {}
        return dict.fromkeys(named, "not a quantity that is known")

    def _figure(
        self,
        text: str,
        context: Context,
        section: str,
        roles: Roles,
        where: str,
        shares: Shares | None,
    ) -> None:
        row, column, in_section, over = context
        parts = measured_parts(text)
        if len({_own_measure(part) for part in parts}) > 1:
            for part in parts:
                self._figure(part, context, section, roles, where, shares)
            return
        rig, case = self._named(context, roles)
        call = " / ".join(part for part in (row.call, column.call) if part)
        saids = (row.said, column.said, in_section, over)
        own = "" if is_outcome(text) else _own_measure(text)
        measure = own or _measure_of(saids)
        statistic = _statistic_of(saids)
        line = next(
            (
                f"{what} {name}"
                for what, name, said in (
                    ("column", column.call, column.said),
                    ("row", row.call, row.said),
                    ("section", section, in_section),
                    ("table under", over.head, over),
                )
                if said.measure and said.measure == measure
            ),
            where,
        )
        if shares is not None and measure in ("", "fps", SHARE):
            self._share(text, rig, case, shares, where)
            return
        if measure == SHARE:
            self.asked.leave(line, "percentages or differences of other figures")
            return
        if is_other(measure):
            is_game = title_of(case) in self.asked.known.games
            unit = measured_in(measure) if rig and case and not is_game else ""
            if unit and (_says_test(unit, own, context, roles) or self._are_tests(unit, context)):
                self.gathered.measure(rig, case, where, _unitless(text), unit)
            else:
                self._meter(text, measure, rig, case, line)
            return
        if statistic in ("odd", "median"):
            name = column.call if column.said.statistic == statistic else row.call or call
            self.asked.leave(name, "a statistic that is not kept")
            return
        if measure == SCORE and not (rig and case):
            self.asked.leave(line, "it names no rig" if case else "it names no title")
            return
        rig, case = rig or NO_RIG, case or NO_TITLE
        if measure == TIME and not is_outcome(text):
            text, statistic = self._rate(text), _OF_TIMES.get(statistic, statistic)
        cell = self.gathered.of(rig, case, where)
        score = measure == SCORE
        if cell.passes and cell.score != score:
            self.asked.leave(where, "a score and a frame rate of the same case")
            return
        if cell.percent:  # its rate is worth more than the percentage of another
            cell.passes, cell.percent = [], False
        cell.score = score
        named = self._in_order(text, saids) if not score and not statistic else {}
        if named:
            for name, part in named.items():
                self.gathered.put(cell, name, part, row.counted, is_rate=True)
            return
        is_rate = measure == "fps" or (bool(statistic) and not score)
        text = self.marks.of_rate(text) if is_rate else text
        self.gathered.put(cell, statistic or "average", text, row.counted, is_rate=is_rate)

    def _are_tests(self, unit: str, context: Context) -> bool:
        """Whether a whole table in a unit is of tests: nothing in it tells them from games."""
        row, column, section, over = context
        if measured_in(over.measure) != unit or any(
            said.measure not in ("", "fps") for said in (row.said, column.said, section)
        ):
            return False
        words = f"Are figures in {unit} results of tests, or another quantity of games?"
        return self.asked.ask(unit, words, (TESTS, QUANTITY), proposed=TESTS) == TESTS

    def _in_order(self, text: str, saids: Sequence[Said]) -> dict[str, str]:
        """The figures of a cell by statistic, where a head lists these, or where it holds others
        than the notation does: "107 (80)", "107/80/140"; none for any other cell.
        """
        order = next((said.order for said in saids if said.order), ())
        if not order and "/" not in text and not text.endswith(")"):
            return {}
        parts = [part for part in re.split(r"\s*[/()]\s*", text) if part]
        if order:
            return dict(zip(order, parts, strict=True)) if len(parts) == len(order) else {}
        numbers = [number[0] for part in parts if (number := number_in(self.marks, part))]
        if len(numbers) != len(parts):
            return {}
        if len(parts) == 2 and (
            text[:1].isdigit() if text.endswith(")") else numbers[1] < numbers[0]
        ):
            return {"average": parts[0], self._second(text): parts[1]}
        if len(parts) != 3:
            return {}
        if numbers[1] <= numbers[0] <= numbers[2]:
            return {"average": parts[0], self._second(text): parts[1], "maximum": parts[2]}
        if numbers[0] <= numbers[1] <= numbers[2]:
            return {self._second(text, 1): parts[0], "average": parts[1], "maximum": parts[2]}
        return {}

    def _second(self, text: str, place: int = 2) -> str:
        """Which statistic the figure below the average is: asked once for a table."""
        which = "first" if place == 1 else "second"
        known = {"low": FIRST_LOW, "minimum": LEAST}.get(self.asked.known.second_figure, "")
        answer = self.asked.ask(
            which,
            f"In {text}, is the {which} figure the 1% low, or the minimum?",
            (FIRST_LOW, LEAST),
            sure=known if place == 2 else "",
            proposed=FIRST_LOW if place == 2 else LEAST,
        )
        return "minimum" if answer == LEAST else "low"

    def _named(self, context: Context, roles: Roles) -> tuple[str, str]:
        """(rig, case) of a figure."""
        row, column, section, over = context
        names = {
            "row": row.plain,
            "column": column.name,
            "section": section.name,
            "over": "",
            **{f"row{at}": name for at, name in enumerate(row.names)},
            **{f"column{at}": name for at, name in enumerate(column.names)},
        }
        if roles.rig == roles.case == "row":
            rig, title = row.rig, row.title
        else:
            rig = names[roles.rig] if roles.rig != "over" else roles.given_rig
            title = names[roles.case] if roles.case != "over" else roles.title
        scene = " / ".join(
            part for part in (row.scene, section.name if roles.scene == "section" else "") if part
        )
        of = (row.said, column.said, section, over)
        resolution = next((one.resolution for one in of if one.resolution), "")
        preset = next((one.preset for one in of if one.preset), "")
        if not title:
            return rig, ""
        return rig, case_label(title, scene, resolution, preset)

    def _rate(self, text: str) -> str:
        """Frame times in milliseconds as frames per second: "16.7" is "59.9"."""
        self.times += 1
        plain = self.marks.plain(text)

        def rate(found: re.Match[str]) -> str:
            time_ms = float(found[1].replace(",", "."))
            return f"{1000.0 / time_ms:.1f}" if time_ms > 0 else found[0]

        return re.sub(r"(\d+(?:[.,]\d+)?)(?:\s*ms\b)?", rate, plain)

    def _meter(self, text: str, measure: str, rig: str, case: str, line: str) -> None:
        """A reading beside the rates, where a run has a place for it."""
        number = number_in(self.marks, re.sub(r"\s*(?:[^\d\s.,]+)$", "", text))
        name = "memory_gb" if measure == "memory_mb" else measure
        if measure not in METERS or not rig or not case or number is None:
            self.asked.leave(line, "another quantity")
            return
        value = number[0] / 1024.0 if measure == "memory_mb" else number[0]
        try:
            Meters(**{name: value})
        except ValueError:
            self.asked.leave(line, "an impossible reading")
            return
        cell = self.gathered.of(rig, case, line)
        if name in cell.meters and cell.meters[name] != value:
            self.asked.leave(line, "several readings of one case")
            return
        cell.meters[name] = value

    def _share(self, text: str, rig: str, case: str, shares: Shares, where: str) -> None:
        """A percentage of the rates of another rig, which no rate stands beside."""
        number = number_in(self.marks, text)
        if not rig or not case or number is None:
            self.asked.leave(where, "not a percentage")
            return
        value = number[0]
        if _TIMES_CELL.fullmatch(text) or (shares.base and 0 < value < 5 and not shares.change):
            value *= 100.0
        change = value if shares.change else value - 100.0
        change = -abs(change) if shares.loss else change
        if rig == shares.base or (
            shares.base and change == 0 and rig.lower() == shares.base.lower()
        ):
            self.asked.leave(f"figures of {rig}", "what the others are percentages of")
            return
        cell = self.gathered.of(rig, case, where)
        if cell.passes and not cell.percent:
            self.asked.leave(f"percentages of {rig}", "its rates are in the table")
            return
        cell.percent = True
        of = f" of {shares.base}" if shares.base else ""
        sign = "-" if change < 0 else "+"
        cell.passes.append({"average": f"{sign}{abs(change):.6g} %{of}"})

    def sheet(self, look: str) -> Sheet:
        """All that was found."""
        cells = self.gathered.cells()
        if not cells:
            left = list_text([f"{one.where} ({one.why})" for one in self.asked.left_out[:2]])
            what = "no figure of it has a rig and a title" + (f"; left out: {left}" if left else "")
            raise BadSheet("table", what, "Copy the heads too, rigs and titles")
        if not any(cell.percent for cell in cells) and "percent" not in self.asked.questions:
            self.asked.drop("meaning")
        times = count_text(self.times, "frame time")
        notes = (f"{times} in ms became frame rates",) if self.times else ()
        asked = self.asked
        questions = tuple(asked.questions.values())
        return Sheet(cells, self.layout, questions, asked.left_out, notes, look)


def _says_test(unit: str, own: str, context: Context, roles: Roles) -> bool:
    """Whether a unit is that of what a line names, as in "Lattice render (s)", and not of another
    quantity of it, as in "load time (s)".
    """
    if roles.rig == roles.case == "row":
        return False
    row, column, section, over = context
    by_place = {"row": row.said, "column": column.said, "section": section}
    titled = next((said for at, said in by_place.items() if roles.case.startswith(at)), None)
    others = [said for said in (row.said, column.said, section, over) if said is not titled]
    if titled is None or any(said.measure not in ("", "fps") for said in others):
        return False
    return measured_in(titled.measure) == unit or bool(own and not titled.measure)


def _unitless(text: str) -> str:
    """A figure without its unit."""
    return re.sub(r"(?<=\d)\s*[^\d\s.,/()+~<>-][^\d,;()]*$", "", text)


def _own_measure(text: str) -> str:
    """What a figure's own unit says."""
    if _TIMES_CELL.fullmatch(text):
        return SHARE
    found = _CELL_UNIT.fullmatch(text)
    if found is None:
        return ""
    if found["money"]:
        return "other:" + found["money"]
    unit = (found["unit"] or "").strip()
    measure = unit_measure(unit) if unit else ""
    return "" if measure == "fps" else measure


def _measure_of(saids: Sequence[Said]) -> str:
    """What is measured, of all that is said: another quantity, a share, a score, a time, a rate."""
    told = [said.measure for said in saids if said.measure]
    ranked = [*filter(is_other, told), *(one for one in (SHARE, SCORE, TIME) if one in told), *told]
    return ranked[0] if ranked else ""


def _statistic_of(saids: Sequence[Said]) -> str:
    """The statistic, of all that is said; “FPS” alone says an average and gives way to others."""
    told = [said.statistic for said in saids if said.statistic]
    return next((one for one in told if one != "average"), told[0] if told else "")

"""Tables on pictures: rows and columns out of words that were found, and what stays in doubt."""

import random

import pytest
from typer.testing import CliRunner

from blunt_ruler.cli import app, bring_in
from blunt_ruler.core.recordings.found_boxes import Found
from blunt_ruler.core.recordings.picture_table import has_heads, table_on
from blunt_ruler.exchange.recordings.still import StillReading
from blunt_ruler.logbook import Logbook

ROWS = [
    ["Game", "Built-in iG-6", "Cord 4x4", "Tower slot"],
    ["Tidewrack", "21.4", "83.4", "99.2"],
    ["Loom Harbour", "30.1", "120.4", "131.0"],
    ["Quarry 9", "44.0", "160.2", "187.5"],
]
LETTER, HEIGHT, WORD_GAP = 9, 20, 6


def words_of(rows, gap=40, right=False, sure=0.99, jitter=0.0, seed=1):
    """The words of a table as a recogniser finds them, letters of one width."""
    rng = random.Random(seed)
    count = max(map(len, rows))
    widths = [max(LETTER * len(row[at]) for row in rows if at < len(row)) for at in range(count)]
    lefts = [20 + sum(widths[:at]) + gap * at for at in range(count)]
    found = []
    for line, row in enumerate(rows):
        for at, text in enumerate(row):
            x = lefts[at] + (widths[at] - LETTER * len(text) if right and at else 0)
            for word in text.split():
                wide = LETTER * len(word)
                y = 10 + 36 * line + rng.uniform(-jitter, jitter)
                found.append(Found(word, sure, round(x), round(y), wide, HEIGHT))
                x += wide + WORD_GAP
    rng.shuffle(found)
    return found


def texts(rows):
    return [[cell.text for cell in row] for row in rows]


@pytest.mark.parametrize("right", [False, True])
@pytest.mark.parametrize("gap", [16, 40, 200])
def test_words_become_rows_and_columns(gap, right):
    found = table_on(words_of(ROWS, gap, right, jitter=3.0))
    assert texts(found) == ROWS and has_heads(found)
    assert all(cell.sure for row in found for cell in row)


def test_a_title_over_a_table_does_not_join_its_columns():
    words = words_of(ROWS)
    title = [Found(word, 0.99, 20 + 80 * at, -40, 70, 20)
             for at, word in enumerate("Results of the whole review at 1440p".split())]  # fmt: skip
    found = table_on([*title, *words])
    assert texts(found)[1:] == ROWS


def test_what_is_not_clear_missing_or_out_of_step_is_in_doubt():
    words = [one for one in words_of(ROWS) if one.text != "131.0"]
    for old, new, sure in (("83.4", "83.4", 0.7), ("120.4", "1204", 0.99)):
        at = next(at for at, one in enumerate(words) if one.text == old)
        words[at] = Found(new, sure, words[at].x, words[at].y, words[at].w, words[at].h)
    found = table_on(words)
    doubt = [(row, at) for row, cells in enumerate(found) for at, cell in enumerate(cells)
             if not cell.sure]  # fmt: skip
    assert doubt == [(1, 2), (2, 2), (2, 3)]


def test_a_word_of_the_head_as_near_to_one_column_as_to_another_is_in_doubt():
    heads = [Found(word, 0.99, x, 10, w, 20)
             for word, x, w in (("Rig", 20, 30), ("Tide", 100, 40), ("Loom", 155, 40),
                                ("Bay", 210, 30))]  # fmt: skip
    body = [
        Found(word, 0.99, x, 40 + 36 * line, 40, 20)
        for line in range(3)
        for word, x in (("Cord", 20), (f"8{line}.4", 100), ("41.2", 210))
    ]
    found = table_on([*heads, *body])
    assert len(found[0]) == 3 and not any(cell.sure for cell in found[0])
    assert all(cell.sure for row in found[1:] for cell in row)


@pytest.mark.parametrize(
    "rows",
    [
        [["Average FPS", "87.4"], ["1% low", "61.2"], ["Minimum", "44"]],
        [["no figures", "here"], ["at", "all"]],
        [["CPU 45 %", "60 C"]],
        [],
    ],
)
def test_what_is_no_table_gives_none(rows):
    assert table_on(words_of(rows) if rows else []) == ()


def test_pairs_of_label_and_figure_are_no_table_with_heads():
    rows = [["Average", "87.4", "Low", "61.2"], ["Minimum", "44.0", "Maximum", "131.0"]]
    assert not has_heads(table_on(words_of(rows)))


@pytest.mark.parametrize("seed", range(40))
def test_any_words_make_rows_of_one_length(seed):
    rng = random.Random(seed)
    words = [
        Found(rng.choice(["87.4", "12", "Cord", "1%", "", "–", "7 310"]), rng.random(),
              rng.randint(-5, 400), rng.randint(-5, 300), rng.randint(0, 90), rng.randint(0, 40))
        for _ in range(rng.randint(0, 40))
    ]  # fmt: skip
    found = table_on(words)
    assert len({len(row) for row in found}) <= 1
    has_heads(found)


@pytest.fixture
def taken_in(tmp_path, monkeypatch):
    """Import a picture whose words are those of a table."""

    def take(rows, *words):
        path, book = tmp_path / "table.png", tmp_path / "a.blunt"
        path.touch()
        still = StillReading(path, "0" * 64, 760, 200, (), b"", table_on(words_of(rows)))
        bring_in()
        monkeypatch.setattr("blunt_ruler.cli.intake.still_of", lambda _path: still)
        monkeypatch.setattr("blunt_ruler.cli.recordings.still_of", lambda _path: still)
        return book, CliRunner().invoke(app, [str(one) for one in ("import", book, path, *words)])

    return take


def test_a_picture_of_a_table_is_taken_in_like_any_table(taken_in):
    book, told = taken_in(ROWS)
    assert told.exit_code == 0, told.output
    with Logbook.reading(book) as opened:
        contents = opened.contents()
    rates = {
        (contents.rigs[run.rig_id].name, contents.case_label(run.case_id).split(" /")[0]):
            run.average_fps for run in contents.runs.values()
    }  # fmt: skip
    assert rates == {
        (rig, row[0]): float(text)
        for row in ROWS[1:]
        for rig, text in zip(ROWS[0][1:], row[1:], strict=True)
    }


def test_a_table_with_a_cell_in_doubt_is_refused_by_the_command(taken_in):
    rows = [list(row) for row in ROWS]
    rows[3][2] = ""
    book, told = taken_in(rows)
    assert "1 cell of its table in doubt, as row 4, a blank one" in str(told.exception)
    assert not book.exists()


def test_the_command_shows_a_table_with_its_doubts(taken_in, tmp_path):
    taken_in([*ROWS[:3], ["Quarry 9", "44.0", "", "187.5"]])
    shown = CliRunner().invoke(app, ["read", str(tmp_path / "table.png")]).output.splitlines()
    assert shown[0].endswith("a table; (?) marks what is in doubt")
    assert shown[-1] == "Quarry 9 | 44.0 | (?) | 187.5"

"""Tables of results in, the Board out, and files that are whole or not there."""

import csv
import io

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import Lens, cell_text
from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.exchange.documents.reports import TIDY_COLUMNS, board_csv, shown_table
from blunt_ruler.exchange.tables.results import read_results
from blunt_ruler.files import CannotWrite, write_whole

TABLE = """rig,title,scene,resolution,preset,run,average_fps,low_1_fps,frames,duration_s
iG-6,Tidewrack,coast,1080p,High,1,26.0,21.0,1560,60
iG-6,Tidewrack,coast,1080p,High,2,28.0,22.0,840,30
Cable,Tidewrack,coast,1080p,High,1,70.0,55.0,4200,60
Tower,Tidewrack,coast,1080p,High,1,104.0,,6240,60
"""


def table(tmp_path, text=TABLE):
    path = tmp_path / "results.csv"
    path.write_text(text, "utf-8")
    return path


def test_a_table_is_read_and_repeats_are_put_together(tmp_path):
    runs = read_results(table(tmp_path))
    assert len(runs) == 4
    assert runs[3].low_1_fps is None
    result = compare(runs, "iG-6", "Tower")
    base, cable, _ = (rig.cases[0] for rig in result.rigs)
    assert base.case == "Tidewrack / coast / 1080p / High"
    assert base.average_fps == pytest.approx(2400 / 90)
    assert cable.gain == pytest.approx(70 / (2400 / 90) - 1)
    assert cable.loss == pytest.approx(1 - 70 / 104)


def test_a_table_with_semicolons_and_decimal_commas_is_the_same_table(tmp_path):
    commas = TABLE.replace(",", ";").replace(".", ",")
    assert read_results(table(tmp_path, commas)) == read_results(table(tmp_path))


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (("70.0", "fast"), "row 4, column average_fps: “fast”: it is not understood"),
        (("70.0", "-7"), "row 4, column average_fps: “-7”: it is not understood"),
        (("70.0", ""), "row 4, column low_1_fps: It has a 1% low and no average"),
        (("Cable,", ","), "row 4, column average_fps: It names no rig"),
        (("Cable,Tidewrack", "Cable"), "row 4: it has 9 cells where the table has 10 columns"),
    ],
)
def test_a_wrong_cell_is_named(tmp_path, change, says):
    with pytest.raises(UserFixable, match=says):
        read_results(table(tmp_path, TABLE.replace(*change)))


def test_a_table_is_compared_whatever_its_columns_are_called(tmp_path):
    renamed = TABLE.replace("average_fps", "FPS").replace("rig,title", "System,Game")
    assert read_results(table(tmp_path, renamed)) == read_results(table(tmp_path))


@pytest.fixture(scope="module")
def demo_board(demo_contents):
    return demo_contents, build_board(demo_contents, demo_contents.reviews["which-link"])


def test_the_tidy_csv_reads_back_as_the_boards_figures(demo_board):
    contents, board = demo_board
    rows = list(csv.DictReader(io.StringIO(board_csv(contents, board))))
    assert tuple(rows[0]) == TIDY_COLUMNS
    assert len(rows) == len(board.cells) == 50
    names = {column.rig_id: column.name for column in board.columns}
    by_key = {(row["rig"], row["title"], row["resolution"]): row for row in rows}
    for (rig_id, case_id), cell in board.cells.items():
        case = contents.cases[case_id]
        title = contents.titles[case.title_id].name
        row = by_key[names[rig_id], title, case.resolution]
        assert float(row["average_fps"]) == pytest.approx(cell.average_fps, abs=6e-4)
        assert float(row["gain"]) == pytest.approx(cell.gain, abs=6e-6)
        assert float(row["loss"]) == pytest.approx(cell.loss, abs=6e-6)
        assert row["gain_base"] == "Built-in iG-6"
        assert row["loss_reference"] == "Workbench Marram 12"
        assert row["low_school"] == "percentile"


def test_what_is_shown_is_copied_with_its_base(demo_board):
    _, board = demo_board
    lines = shown_table(board, Lens.GAIN, "csv").splitlines()
    assert lines[0] == "Gain over Built-in iG-6"
    rows = list(csv.reader(lines[1:]))
    assert rows[0] == ["case", *(column.name for column in board.columns)]
    for row, shown in zip(board.rows, rows[1:], strict=False):
        assert shown[0] == row.label
        for column, text in zip(board.columns, shown[1:], strict=True):
            assert text == cell_text(board, column.rig_id, row.case_id, Lens.GAIN)
    assert rows[-1][0] == "geometric mean of ratios"
    assert "\t" in shown_table(board, Lens.RATE, "text")


def test_a_tidy_csv_survives_names_with_its_own_marks(demo_board):
    contents, board = demo_board
    name = 'a|b, "c"; d'
    rig = contents.rigs["sluice-marram-12"].model_copy(update={"name": name})
    changed = contents.with_records({"rigs": {rig.id: rig}})
    text = board_csv(changed, build_board(changed, board.review))
    assert name in {row["rig"] for row in csv.DictReader(io.StringIO(text))}


def test_a_file_is_whole_or_not_there(tmp_path):
    target = tmp_path / "board.csv"
    write_whole(target, "old")
    write_whole(target, "new")
    assert target.read_text() == "new"
    assert [path.name for path in tmp_path.iterdir()] == ["board.csv"]
    (tmp_path / "file").write_text("")
    with pytest.raises(CannotWrite, match="Choose another folder"):
        write_whole(tmp_path / "file" / "board.csv", "x")
    with pytest.raises(CannotWrite):
        write_whole(tmp_path, "x")
    assert not [path for path in tmp_path.iterdir() if path.name.startswith(".")]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('rig,title,average_fps\nA,T,"1,234"\nB,T,980\n', "Is “1,234” 1234, or 1.234"),
        ("rig;title;average_fps\nA;T;59\nB;T;1.234\n", "Is “1.234” 1234, or 1.234"),
    ],
)
def test_a_figure_of_thousands_or_decimals_is_refused_with_both_readings(tmp_path, text, says):
    path = tmp_path / "results.csv"
    path.write_text(text)
    with pytest.raises(UserFixable, match=says):
        read_results(path)
    path.write_text(text.replace("1,234", "834").replace("1.234", "834"))
    assert 834 in [one.average_fps for one in read_results(path)]


def test_three_decimals_in_the_tables_own_mark_are_read(tmp_path):
    path = tmp_path / "results.csv"
    path.write_text("rig,title,average_fps\nA,T,59.940\nB,T,119.881\n")
    assert [one.average_fps for one in read_results(path)] == [59.94, 119.881]

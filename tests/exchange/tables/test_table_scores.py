"""Tables of scores: what `simulate` writes, and any small table with a column of scores."""

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.scores import score_board
from blunt_ruler.core.records.records import Contents, Review, Role
from blunt_ruler.core.runs.import_scores import take_scores
from blunt_ruler.exchange.logs.text import BadLog
from blunt_ruler.exchange.tables.scores import is_scores, read_scores


def write(tmp_path, text, name="scores.csv"):
    path = tmp_path / name
    path.write_text(text, "utf-8")
    return path


def ids():
    counted = iter(range(100))
    return lambda: f"new-{next(counted)}"


def taken(told):
    review = Review(id="v", name="v")
    edit = take_scores(Contents.empty(), review, told, "scores.csv", ids())
    tables = {"Rig": "rigs", "Title": "titles", "Case": "cases", "Run": "runs", "Review": "reviews"}
    changed = {}
    for record in edit.put:
        changed.setdefault(tables[type(record).__name__], {})[record.id] = record
    return Contents.empty().with_records(changed)


def test_what_simulate_writes_is_read_back(run, tmp_path, as_json):
    code, _, _ = run(
        *("simulate", "--out", tmp_path, "--rig", "Sluice Marram 12", "--seed", "5"),
        *("--case", "Lattice", "--case", "Sluice gate", "--repeats", "2"),
    )
    assert code == 0
    files = sorted(tmp_path.glob("*.csv"))
    assert len(files) == 4
    assert all(is_scores(path) for path in files)
    book = tmp_path / "new.blunt"
    code, out, _ = run("import-scores", book, *files)
    assert code == 0 and out.count("3 scores; they are in") == 2, out
    code, _, err = run("import-scores", book, tmp_path / "none.csv")
    assert code == 2
    assert err.count("\n") == 1


def test_columns_tell_rig_test_part_weight_and_unit(tmp_path):
    path = write(
        tmp_path,
        "rig;test;part;score;weight;unit;lower\n"
        "A;Copying;;60,0;;s;yes\nB;Copying;;30,0;;s;yes\n"
        "A;Lattice;graphics;1100;0,85;;\nA;Lattice;cpu;700;0,15;;\n"
        "B;Lattice;graphics;4400;0,85;;\nB;Lattice;cpu;1400;0,15;;\n",
    )
    assert is_scores(path)
    contents = taken(read_scores(path))
    titles = {title.name: title for title in contents.titles.values()}
    assert (titles["Copying"].score_unit, titles["Copying"].lower_is_better) == ("s", True)
    assert [one.weight for one in titles["Lattice"].parts] == [0.85, 0.15]
    (review,) = contents.reviews.values()
    rigs = {rig.name: rig.id for rig in contents.rigs.values()}
    review = review.with_role(rigs["A"], Role.BASE)
    cells = score_board(contents, build_board(contents, review)).board.cells
    gains = {
        contents.cases[key].title_id: cell.gain
        for (rig, key), cell in cells.items()
        if rig == rigs["B"] and "#" not in key
    }
    assert gains[titles["Copying"].id] == pytest.approx(1.0)
    expected = (0.85 / 1100 + 0.15 / 700) / (0.85 / 4400 + 0.15 / 1400) - 1
    assert gains[titles["Lattice"].id] == pytest.approx(expected)


@pytest.mark.parametrize(
    ("text", "name", "says"),
    [
        ("part,score\ngraphics,1\n", "scores.csv", "neither a column nor the file's name"),
        ("rig,test,score\nA,Lattice,\n", "s.csv", "the score is blank"),
        ("rig,test,score\nA,Lattice,fast\n", "s.csv", "holds “fast”"),
        ("rig,test,part,score,weight\nA,L,g,1,85\n", "s.csv", "a weight of 85"),
        ("rig,test,score\n", "s.csv", "no row"),
    ],
)
def test_what_cannot_be_read_is_said_with_its_row(tmp_path, text, name, says):
    with pytest.raises(BadLog, match=says):
        read_scores(write(tmp_path, text, name))


def test_a_frame_log_is_no_table_of_scores(tmp_path):
    assert not is_scores(write(tmp_path, "frame time ms,power\n16.7,20\n"))
    assert not is_scores(write(tmp_path, "score\n12\n"))
    assert not is_scores(write(tmp_path, ""))
    assert not is_scores(tmp_path / "none.csv")

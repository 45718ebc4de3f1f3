"""Rendering, encoding, running a model: tests of their own kind, told by themselves."""

import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.claims.speak import speak
from blunt_ruler.core.runs.import_runs import kind_of_score
from blunt_ruler.exchange.tables.words import measured_in, take_apart
from blunt_ruler.logbook import Logbook

TABLE = """\
Test,Built-in iG-6,Dock,Tower
Loom compile (s),410,220,200
Model speed (tokens per second),6.0,30,40
Encode clip (fps),24,60,66
Lattice score,2100,7600,8100
Tidewrack 1080p,30,61,70
"""


@pytest.fixture
def book(run, tmp_path):
    table = tmp_path / "w.csv"
    table.write_text(TABLE, "utf-8")
    code, _, err = run("import", tmp_path / "w.blunt", table)
    assert (code, err) == (0, "")
    return tmp_path / "w.blunt"


@pytest.fixture
def found(book):
    with Logbook.reading(book) as opened:
        contents = opened.contents()
    return analyse(contents, next(iter(contents.reviews.values())))


def said(found):
    return [speak(one, found.board.columns).computed for one in found.claims.all()]


def test_each_is_of_its_kind_and_unit(found):
    kinds = {one.name: (one.kind, one.score_unit) for one in found.contents.titles.values()}
    assert kinds == {
        "Loom compile": ("work", "s"),
        "Model speed": ("work", "tokens/s"),
        "Encode clip": ("work", "fps"),
        "Lattice": ("synthetic", ""),
        "Tidewrack": ("game", ""),
    }


def test_each_has_a_sentence_of_its_own_in_which_faster_is_better(found):
    words = said(found)
    assert "Dock is 86\u202f% faster than Built-in iG-6 in Loom compile." in words  # 410 / 220
    assert "Dock is 5 times as fast as Built-in iG-6 in Model speed." in words
    assert "Dock is 9\u202f% slower than Tower in Encode clip." in words  # 60 / 66
    assert "Dock scores 3.62 times as high as Built-in iG-6 in Lattice." in words


def test_none_enters_a_mean_of_games_or_of_scores(found):
    total = found.board.totals[
        next(one.rig_id for one in found.board.columns if one.name == "Dock")
    ]
    assert total.over_base.ratio == pytest.approx(61 / 30)
    assert total.over_base.cases == 1
    assert not found.scores.means


def test_its_figures_are_traced_in_the_report(run, book, tmp_path):
    code, _, _ = run("report", book, "--out", tmp_path / "r", "--format", "md,csv,json")
    assert code == 0
    assert "Model speed" in (tmp_path / "r" / "report.md").read_text("utf-8")
    assert "work_gain." in (tmp_path / "r" / "figures.csv").read_text("utf-8")


def test_a_script_about_it_is_held(run, book, tmp_path):
    script = tmp_path / "s.txt"
    script.write_text(
        "In Model speed the Dock is five times as fast as the built-in graphics.", "utf-8"
    )
    _, out, _ = run("script", book, script)
    assert "does not hold" not in out


@pytest.mark.parametrize(
    ("head", "name", "unit"),
    [
        ("Model speed (tokens/s)", "Model speed", "tokens/s"),
        ("Model speed tokens per second", "Model speed", "tokens/s"),
        ("Upscale, it/s", "Upscale", "it/s"),
        ("Hall samples/s", "Hall", "samples/s"),
        ("Encoding (fps)", "Encoding", "fps"),
        ("Copy GB/s", "Copy", "GB/s"),
    ],
)
def test_heads_are_taken_apart(head, name, unit):
    (one,) = take_apart([head])
    assert (one.name, measured_in(one.measure)) == (name, unit)


@pytest.mark.parametrize(
    "head", ["Tidewrack (fps)", "Codex hall fps", "Frames/s", "Exporters (FPS)"]
)
def test_games_stay_games(head):
    (one,) = take_apart([head])
    assert one.measure in ("", "fps")


@pytest.mark.parametrize(
    ("unit", "kind"),
    [
        ("s", "work"),
        ("tokens/s", "work"),
        ("GB/s", "synthetic"),
        ("Gbit/s", "synthetic"),
        ("", "synthetic"),
    ],
)
def test_what_a_unit_makes_of_a_test(unit, kind):
    assert kind_of_score(unit) == kind

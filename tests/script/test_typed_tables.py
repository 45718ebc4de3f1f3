"""Talks about tables typed by hand: rigs are known by their column's name alone.

Each table has a talk beside it, with what is true (T) and what is not (F) of its figures.
"""

from pathlib import Path

import pytest
from test_script import answered
from typer.testing import CliRunner

from blunt_ruler.cli import app, bring_in
from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.script.check import Checker
from blunt_ruler.core.script.statements import Answer
from blunt_ruler.logbook import Logbook

TYPED = Path(__file__).parent / "typed"


@pytest.fixture(scope="module", params=sorted(one.stem for one in TYPED.glob("*.tsv")))
def talk(request, tmp_path_factory):
    """(mark, words, answers) of a talk's lines."""
    book = tmp_path_factory.mktemp("typed") / "typed.blunt"
    bring_in()
    done = CliRunner().invoke(app, ["import", str(book), str(TYPED / f"{request.param}.tsv")])
    assert done.exit_code == 0, done.output
    with Logbook.reading(book) as opened:
        contents = opened.contents()
    checker = Checker(analyse(contents, next(iter(contents.reviews.values()))))
    words = (TYPED / f"{request.param}.txt").read_text("utf-8")
    return answered(checker, [line.split("|", 1) for line in words.splitlines()])


def test_nothing_true_is_called_wrong_and_nothing_wrong_holds(talk):
    assert [words for mark, words, found in talk if mark == "T" and Answer.FAILS in found] == []
    assert [
        words for mark, words, found in talk if mark == "F" and set(found) == {Answer.HOLDS}
    ] == []


# Where two cards stand behind the same links most names fit several rigs, and much is asked.
LEAST = {"docks": (0.7, 0.8), "lanes": (0.7, 0.8), "cards": (0.5, 0.1)}


def test_most_of_it_is_read(talk, request):
    least_true, least_false = LEAST[request.node.callspec.params["talk"]]
    true = [found for mark, _, found in talk if mark == "T"]
    false = [found for mark, _, found in talk if mark == "F"]
    assert sum(Answer.HOLDS in found for found in true) >= least_true * len(true)
    assert sum(Answer.FAILS in found for found in false) >= least_false * len(false)

"""The recipes of CONTRIBUTING, followed to the letter in a throwaway tree, and seen on screen.

What a recipe says to add is added here and nowhere else; a recipe that leaves a place out fails.
"""

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "blunt_ruler"

# By section of CONTRIBUTING: (file, before what, what is put there); None is the end of the file.
RECIPES = {
    "A metric": [
        ("core/measure/frames.py", "    def steadiness(", '''    @property
    def frames_per_min(self) -> float:
        """60 n / Σt."""
        return 60.0 * self.frames / self.duration_s

'''),
        ("core/measure/metrics.py", '    Metric("median_fps"',
         '    Metric("frames_per_min", "frames a minute", _plain("frames_per_min"), '
         'lambda rate: f"{rate:.0f}"),\n'),
    ],
    "A check": [
        ("core/checks/findings.py", '    TOO_SHORT = "too_short"',
         '    OVER_A_MINUTE = "over_a_minute", Declared("over a minute", read_off=True)\n'),
        ("core/checks/one_run.py", None, '''

@check(Scope.RUN)
def over_a_minute(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """A pass of over 10 s."""
    if facts.duration_s > 10:
        yield _finding(facts, Check.OVER_A_MINUTE, "it is long.", "Nothing.", {}, Severity.NOTE)
'''),
    ],
    "A lens of the Board": [
        ("core/board/lenses.py", '    PER_WATT = "frames per watt"', '    RUNS = "passes"\n'),
        ("core/board/lenses.py", "    Lens.LIMIT: Shown(",
         '    Lens.RUNS: Shown(attrgetter("runs"), "{:.0f} passes".format, '
         'lambda _: "passes counted"),\n'),
    ],
    "A claim": [
        ("core/claims/claim.py", '    GAP = "gap"', '    COUNTED = "runs counted"\n'),
        ("core/claims/offer.py", "        yield from self._gaps(self.subjects)",
         '''        for one in self.subjects:
            yield Claim(
                ClaimKind.COUNTED, Question.GAIN, one, None, Metric.AVERAGE, Scope(()),
                says="Every pass was counted.",
            )
'''),
    ],
    "A page of a stop": [
        ("ui/worth/plain_page.py", None, '''
from PyQt6.QtWidgets import QLabel, QVBoxLayout
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page


class PlainPage(Page):
    """How many runs there are."""

    def __init__(self) -> None:
        super().__init__()
        self.says = QLabel()
        QVBoxLayout(self).addWidget(self.says)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Count them."""
        self.says.setText(f"{len(snapshot.contents.runs)} runs in all")
'''),
        ("ui/worth/view.py", "        self.body.addWidget(self.bar)",
         "        from blunt_ruler.ui.worth.plain_page import PlainPage\n"
         '        self.add_page("Plain", PlainPage)\n'),
    ],
    "A table that is read wrong": [
        ("resources/table_words.toml", '"rig", "rigs"', '"contraption", '),
    ],
    "A log that is read wrong": [
        ("exchange/logs/words.py", r"\bframe ?times?\b|", r"\bflip gap\b|"),
    ],
}  # fmt: skip

SCRIPT = r"""
import json, sys, time
from pathlib import Path
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLabel
import blunt_ruler
from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.shell.window import MainWindow

app = QApplication([])
theme.load_fonts()
theme.apply_theme(app, theme.PAPER)
window = MainWindow(Settings())
window.show()
window.desk.open(copy_demo(Path(sys.argv[1]) / "demo.blunt"))

def until(what):
    end = time.monotonic() + 120
    while not what():
        assert time.monotonic() < end, "it never came on screen"
        app.processEvents()
        time.sleep(0.01)

def stop(name, page=""):
    window.go_to(name)
    found = window.controllers[name].stop
    if page:
        found.show_page(page)
    return found

def words(widget):
    return [one.text() for one in widget.findChildren(QLabel)]

def cells(table, row=None):
    model = table.model()
    rows = range(model.rowCount()) if row is None else [row]
    places = [(r, c) for r in rows for c in range(model.columnCount())]
    return [str(model.index(*place).data(Qt.ItemDataRole.DisplayRole)) for place in places]

until(lambda: (one := window.desk.snapshot) and one.analysis and one.analysis.settled)
seen = {"source": str(Path(blunt_ruler.__file__).parent)}
runs = stop("Runs")
until(lambda: "median" in words(runs.evidence))
seen["A metric"] = words(runs.evidence)
stop("Runs", "Findings")
page = runs.page("Findings")
until(lambda: page.table.model().rowCount())
seen["A check"] = cells(page.table)
board = stop("Board").page("Cells")
board.show_lens(Lens("passes"))
seen["A lens of the Board"] = cells(board.table, 0)
worth = stop("Worth", "Plain")
until(lambda: any("runs in all" in one for one in words(worth)))
seen["A page of a stop"] = words(worth)
print(json.dumps(seen))
sys.stdout.flush()
window.close()
"""
ON_SCREEN = {
    "A metric": "frames a minute",
    "A check": "over a minute",
    "A lens of the Board": "3 passes",
    "A page of a stop": "runs in all",
}


@pytest.fixture(scope="module")
def tree(tmp_path_factory):
    """A copy of the program with every recipe followed."""
    source = tmp_path_factory.mktemp("tree") / "blunt_ruler"
    shutil.copytree(SOURCE, source)
    for steps in RECIPES.values():
        for file, where, text in steps:
            path = source / file
            before = path.read_text("utf-8") if path.exists() else ""
            assert where is None or before.count(where) == 1, (file, where)
            after = before + text if where is None else before.replace(where, text + where)
            path.write_text(after, "utf-8")
    return source


@pytest.fixture
def python(tree, tmp_path):
    """Run Python on the tree: what it printed."""

    def python(*words):
        given = {**os.environ, "PYTHONPATH": str(tree.parent), "QT_QPA_PLATFORM": "offscreen",
                 "XDG_CONFIG_HOME": str(tmp_path), "XDG_STATE_HOME": str(tmp_path)}  # fmt: skip
        done = subprocess.run(
            [sys.executable, *map(str, words)],
            env=given, capture_output=True, text=True, timeout=240, cwd=tmp_path,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr
        return done.stdout

    return python


def test_what_recipes_add_stands_on_screen(python, tree, tmp_path):
    seen = json.loads(python("-c", SCRIPT, tmp_path).splitlines()[-1])
    assert seen.pop("source") == str(tree)
    for recipe, words in ON_SCREEN.items():
        assert any(words in one for one in seen[recipe]), (recipe, seen[recipe])


def test_what_recipes_add_stands_in_what_commands_print(python, tmp_path):
    log, table = tmp_path / "a.csv", tmp_path / "t.csv"
    log.write_text("flip gap\n" + "\n".join(str(10 + n % 3) for n in range(900)))
    (figures,) = json.loads(python("-m", "blunt_ruler", "metrics", log, "--json"))
    assert figures["frames_per_min"] == pytest.approx(60 * 1000 / 11)
    assert "frames_per_min" in python("-m", "blunt_ruler", "schema", "metrics")
    table.write_text("contraption,title,fps\nA,Tidewrack,60\nB,Tidewrack,70\n")
    read = json.loads(
        python("-m", "blunt_ruler", "import", tmp_path / "n.blunt", table, "--dry-run", "--json")
    )
    assert [one["rig"] for one in read["tables"][0]["cells"]] == ["A", "B"]
    said = python("-m", "blunt_ruler", "compare", "--table", table, "--base", "A")
    assert "Every pass was counted." in said


def test_recipes_name_the_files_they_change():
    text = (ROOT / "CONTRIBUTING.md").read_text("utf-8")
    sections = dict(re.findall(r"^## (.+)\n((?:(?!## ).*\n?)*)", text, re.MULTILINE))
    for recipe, steps in RECIPES.items():
        for file, _, _ in steps:
            stem = "<name>_page" if file.endswith("_page.py") else Path(file).stem
            assert stem in sections[recipe], (recipe, file)

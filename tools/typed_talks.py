"""Talk about tables made up here, typed into a logbook, and count how the talk is answered.

Rigs are known by their column heads alone. Each talk goes from game to game, carries places over
from sentence to sentence, and is true by the table's own figures; some of its sentences are said
wrong as well.
"""

import math
import random
from bisect import bisect_right
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import accumulate
from pathlib import Path
from tempfile import TemporaryDirectory

from typer.testing import CliRunner

from blunt_ruler.cli import app, bring_in
from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.script.check import Checker
from blunt_ruler.core.script.statements import Answer
from blunt_ruler.logbook import Logbook
from figures import rate

TABLES, SEED = 40, 700
WRONG = 0.4  # of the sentences that can be said wrong
# The head of a column, and what is said of its rig.
BASES = {
    "iGPU": "the iGPU", "Built-in": "built-in graphics", "Laptop alone": "the laptop alone",
    "Integrated": "integrated graphics", "Handheld": "the handheld", "Mini PC": "the mini PC",
    "onboard graphics": "onboard graphics",
}  # fmt: skip
TESTED = {
    "OCuLink": "OCuLink", "OCuLink x4": "OCuLink", "USB4 dock": "the USB4 dock", "USB4": "USB4",
    "M.2 adapter": "the M.2 adapter", "cord enclosure": "the enclosure",
    "x4 riser": "the x4 riser", "x8 riser": "the x8 riser", "x1 riser": "the x1 riser",
    "Gen 3 x4": "Gen 3 x4", "Gen 4 x4": "Gen 4 x4", "eGPU dock": "the dock",
    "40G box": "the 40G box", "docking station": "the docking station",
    "cable dock": "the cable dock", "adapter board": "the adapter board",
}  # fmt: skip
TOWERS = {
    "Tower": "the tower", "Desktop": "the desktop", "Full slot": "the full slot",
    "x16 slot": "the x16 slot", "Native": "native", "PCIe x16": "the x16 slot",
}  # fmt: skip
FIRST = "Harbor Ninefold Copper Low Tide Glass Salt Ember Quiet Iron Marsh Candle".split()
SECOND = "Run Siege Meridian Lantern Engine Orchard Road Fall Harvest Coast Vale Circuit".split()
SIZES = (("1080p",), ("1440p",), ("1080p", "1440p"), ("1080p", "4K"))


@dataclass(frozen=True)
class Rig:
    """A column's head, and how a talk calls it."""

    head: str
    said: str


@dataclass(frozen=True)
class Table:
    """A table of frame rates: (average, 1% low) by column head, title and size."""

    base: Rig
    tested: tuple[Rig, ...]
    tower: Rig
    titles: tuple[str, ...]
    sizes: tuple[str, ...]
    has_lows: bool
    rates: dict[tuple[str, str, str], tuple[int, int]]

    def text(self) -> str:
        """Tab-separated, as it is copied out of a spreadsheet."""
        rigs = (self.base, *self.tested, self.tower)
        heads = [f"{one.head} avg\t{one.head} 1% low" if self.has_lows else one.head
                 for one in rigs]  # fmt: skip
        lines = ["\t".join(["Game", *heads])]
        for title in self.titles:
            for size in self.sizes:
                cells = [self.rates[one.head, title, size] for one in rigs]
                figures = [str(f) for cell in cells for f in (cell if self.has_lows else cell[:1])]
                lines.append("\t".join([f"{title} {size}", *figures]))
        return "\n".join(lines) + "\n"

    def mean(self, rig: Rig, other: Rig) -> float:
        """The geometric mean of the ratios of all cases."""
        logs = [
            math.log(self.rates[rig.head, title, size][0] / self.rates[other.head, title, size][0])
            for title in self.titles
            for size in self.sizes
        ]
        return math.exp(sum(logs) / len(logs))


def _fits(one: Rig, other: Rig) -> bool:
    """Whether what is said of a rig may also mean another: “the dock” beside a “USB4 dock”."""
    said = {*one.said.lower().removeprefix("the ").split()}
    return said <= {*other.head.lower().split()}


def drawn(rng: random.Random) -> Table:
    """A table drawn by chance; wider links are not faster, so that nothing follows from names."""
    rigs: list[Rig] = []
    while not rigs or any(_fits(one, other) for one in rigs for other in rigs if one != other):
        rigs = [Rig(*rng.choice([*BASES.items()]))]
        rigs += [Rig(*one) for one in rng.sample([*TESTED.items()], rng.randint(1, 3))]
        rigs.append(Rig(*rng.choice([*TOWERS.items()])))
    titles = rng.sample([f"{a} {b}" for a in FIRST for b in SECOND], rng.randint(3, 5))
    sizes = rng.choice(SIZES)
    rates: dict[tuple[str, str, str], tuple[int, int]] = {}
    for title in titles:
        slow, times = rng.uniform(20, 70), rng.uniform(2.2, 4.5)
        for place, size in enumerate(sizes):
            slow *= rng.uniform(0.55, 0.75) if place else 1.0
            whole = slow * times * (rng.uniform(1.0, 1.2) if place else 1.0)
            for rig in rigs:
                share = 1.0 - rng.uniform(0.04, 0.4)
                value = slow if rig is rigs[0] else whole if rig is rigs[-1] else whole * share
                rates[rig.head, title, size] = round(value), round(value * rng.uniform(0.6, 0.85))
    return Table(
        rigs[0], tuple(rigs[1:-1]), rigs[-1], tuple(titles), sizes, rng.random() < 0.4, rates
    )


Said = tuple[str, str]  # true, and wrong in one figure or word; blank where it is not said wrong


def talk(rng: random.Random, table: Table) -> Iterator[tuple[bool, str]]:
    """(whether it is true, its words), one after the other."""
    for title in rng.sample(table.titles, 3):
        for size in table.sizes:
            for true, wrong in _of_case(rng, table, title, size):
                yield True, true
                if wrong and rng.random() < WRONG:
                    yield False, wrong
    for rig in table.tested:
        for true, wrong in _of_all(table, rig):
            yield True, true
            if rng.random() < WRONG:
                yield False, wrong


def _cap(words: str) -> str:
    return words[0].upper() + words[1:]


def _per_cent(ratio: float) -> int:
    return round(abs(ratio - 1.0) * 100)


def _of_case(rng: random.Random, table: Table, title: str, size: str) -> Iterator[Said]:
    base, tower, rig = table.base, table.tower, rng.choice(table.tested)
    (b, _), (x, low), (w, tower_low) = (table.rates[one.head, title, size]
                                        for one in (base, rig, tower))  # fmt: skip

    def off(value: float) -> int:
        return round(value * rng.choice((0.7, 0.75, 1.3, 1.4, 1.5)))

    case = f"{title} at {size}"
    loss = _per_cent(x / w)
    match rng.randint(0, 6):
        case 0:
            said = f"In {title} at {size} {base.said} gets"
            yield f"{said} {b} fps.", f"{said} {off(b)} fps."
            yield f"With {rig.said} it's {x}.", ""
            yield f"{_cap(tower.said)} does {w}.", ""
            said, more = f"So {rig.said} loses", rng.choice((12, 15, 20))
            yield f"{said} {loss} percent there.", f"{said} {loss + more} percent there."
        case 1:
            begins, ends = f"{case}: {b} fps on {base.said}", f"{w} with {tower.said}."
            yield (
                f"{begins}, {x} on {rig.said}, {ends}",
                f"{begins}, {off(x)} on {rig.said}, {ends}",
            )
            said = f"That makes {rig.said}"
            yield (f"{said} {x / b:.1f} times as fast as {base.said}.",
                   f"{said} {1.4 * x / b:.1f} times as fast as {base.said}.")  # fmt: skip
        case 2:
            begins, ends = f"At {size} in {title} I measured", f"and {w} fps on {tower.said}."
            yield (f"{begins} {x} fps on {rig.said} {ends}",
                   f"{begins} {off(x)} fps on {rig.said} {ends}")  # fmt: skip
            said = f"Compared with {tower.said} that's"
            yield f"{said} {loss} percent less.", f"{said} {loss + 14} percent less."
        case 3:
            said = f"{_cap(rig.said)} takes {case} from {b} to"
            yield f"{said} {x} frames per second.", f"{said} {off(x)} frames per second."
            said, lead = f"{_cap(tower.said)} manages {w}, which is", _per_cent(w / x)
            yield f"{said} {lead} percent more.", f"{said} {lead + 25} percent more."
        case 4:
            ends, gain = f"percent faster on {rig.said} than on {base.said}.", _per_cent(x / b)
            yield f"{case} runs {gain} {ends}", f"{case} runs {gain + 45} {ends}"
            said, kept = f"{_cap(rig.said)} keeps", round(100 * x / w)
            ends = f"percent of what {tower.said} does there."
            yield f"{said} {kept} {ends}", f"{said} {kept - 17} {ends}"
        case 5:
            listed = [f"{_cap(one.said)}: {table.rates[one.head, title, size][0]}."
                      for one in (base, *table.tested, tower)]  # fmt: skip
            yield f"{case}. {' '.join(listed)}", ""
        case _:
            said = f"{_cap(rig.said)} stays above"
            ends = f"fps on average in {case}."
            yield f"{said} {x - 4} {ends}", f"{said} {x + 9} {ends}"
            yield f"{_cap(base.said)} never reaches {b + 8} there.", ""
    if table.has_lows:
        ends = f"on {rig.said} and {tower_low} with {tower.said}."
        yield f"The 1% lows are {low} {ends}", f"The 1% lows are {off(low)} {ends}"


def _of_all(table: Table, rig: Rig) -> Iterator[Said]:
    base, tower = table.base.said, table.tower.said
    times, loss = table.mean(rig, table.base), _per_cent(table.mean(rig, table.tower))
    said = f"On average {rig.said} is"
    yield (f"{said} {times:.1f} times as fast as {base}.",
           f"{said} {1.35 * times:.1f} times as fast as {base}.")  # fmt: skip
    said = f"Over all games {rig.said} loses"
    yield f"{said} {loss} percent to {tower}.", f"{said} {loss + 13} percent to {tower}."
    said = f"{_cap(rig.said)} is"
    yield f"{said} faster than {base} in every game.", f"{said} slower than {base} in every game."


def checker_on(table: Table, folder: Path) -> Checker:
    """What answers a talk, on a table that was typed into a logbook."""
    (folder / "table.tsv").write_text(table.text())
    book = folder / "typed.blunt"
    done = CliRunner().invoke(app, ["import", str(book), str(folder / "table.tsv")])
    assert done.exit_code == 0, done.output
    with Logbook.reading(book) as opened:
        contents = opened.contents()
    return Checker(analyse(contents, next(iter(contents.reviews.values()))))


def answered(
    checker: Checker, lines: list[tuple[bool, str]]
) -> list[tuple[bool, str, set[Answer]]]:
    """A talk's lines with their answers, read as one text."""
    ends = [*accumulate(len(words) + 1 for _, words in lines)]
    answers: list[set[Answer]] = [set() for _ in lines]
    for one in checker.check("\n".join(words for _, words in lines)):
        answers[bisect_right(ends, one.start)].add(one.answer)
    return [(true, words, found) for (true, words), found in zip(lines, answers, strict=True)]


def main(tables: int = TABLES, seed: int = SEED, show: bool = False) -> None:
    """Count over tables made up here what becomes of true sentences and of wrong ones."""
    bring_in()
    true_of: Counter[str] = Counter()
    wrong_of: Counter[str] = Counter()
    for number in range(tables):
        rng = random.Random(seed + number)
        table = drawn(rng)
        with TemporaryDirectory() as folder:
            checker = checker_on(table, Path(folder))
        for true, words, found in answered(checker, [*talk(rng, table)]):
            fails, holds = Answer.FAILS in found, found == {Answer.HOLDS}
            stands = "fails" if fails else "holds" if holds else "open"
            (true_of if true else wrong_of)[stands] += 1
            if show and stands == ("fails" if true else "holds"):
                print(seed + number, "TRUE" if true else "WRONG", words)
    true, wrong = true_of.total(), wrong_of.total()
    name = "scripts, typed tables:"
    rate(f"{name} true sentences said not to hold", true_of["fails"], true, most=1.0)
    rate(f"{name} true sentences that hold", true_of["holds"], true, least=95.0)
    rate(f"{name} wrong sentences found", wrong_of["fails"], wrong, least=95.0)
    rate(f"{name} wrong sentences said to hold", wrong_of["holds"], wrong, most=0.5)


if __name__ == "__main__":
    main(show=True)

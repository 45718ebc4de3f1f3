"""Break the core in one place at a time and see that a test notices; prints what none notices.

Each mutation is a constant, an aggregate or a comparison that a reader would not see at a glance.
It is made in a copy of the package; the tests named beside it run against that copy. With `--drawn`
places are drawn by seed over all of core, and every test that runs a place, as `make coverage`
noted it, is run against it: nine in ten are to be noticed.
"""

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

sys.path.insert(0, str(Path(__file__).parent))

from covering import Covering
from sampled_mutations import Place, drawn

ROOT = Path(__file__).parent.parent


class Mutation(NamedTuple):
    """Replace `old`, which stands once in a module of core, by `new`; `tests` must fail."""

    module: str
    old: str
    new: str
    tests: str


GRID, INTERVALS = "compare/cell_grid.py", "compare/intervals.py"
LINKS, FIT = "rigs/links.py", "rigs/compatibility.py"
MUTATIONS = [
    Mutation(GRID, "if self._how.clean_only else", "if True else", "core/compare"),
    Mutation(GRID, "TURNED = np.array([0, 2, 1, 3])", "TURNED = np.arange(4)", "core/compare"),
    Mutation(GRID, "cases[bits == 0]", "cases", "core/compare"),
    Mutation(GRID, "math.exp(-span)", "math.exp(-span / 2)", "core/compare"),
    Mutation(GRID, "math.exp(span)", "math.exp(span / 2)", "core/compare"),
    Mutation(
        "compare/cell_parts.py",
        "math.fsum(watts) / len(watts)",
        "max(watts)",
        "core/compare",
    ),
    Mutation(
        GRID,
        "_turned(_end(kept, of_bound, Bound.AT_MOST, -1.0))",
        "_turned(_end(kept, of_bound, Bound.AT_LEAST, -1.0))",
        "core/compare",
    ),
    Mutation(
        GRID, "2 * int(both.sum()) < max(", "4 * int(both.sum()) < max(", "core/board core/compare"
    ),
    Mutation(INTERVALS, "min(one.runs, other.runs)", "max(one.runs, other.runs)", "core/compare"),
    Mutation(
        INTERVALS, "max(one.spread, other.spread)", "min(one.spread, other.spread)", "core/compare"
    ),
    Mutation(INTERVALS, "self.spread**2 / self.runs", "self.spread**2", "core/compare"),
    Mutation(INTERVALS, "LONGEST_ARM = 1.55", "LONGEST_ARM = 1.0", "core/compare"),
    Mutation(INTERVALS, "(count - 1) / count * float", "float", "core/compare"),
    Mutation(INTERVALS, "_arms(pulls)", "_arms(-pulls)", "core/compare"),
    Mutation(INTERVALS, "np.minimum(total, prior.pooled)", "freedoms", "core/compare"),
    Mutation(INTERVALS, "mine**2 / one.freedom", "mine**2", "core/compare"),
    Mutation(LINKS, "generation >= 6", "generation > 6", "core/rigs"),
    Mutation(
        LINKS,
        "return min(low, ceiling_gb_per_s), min(high, ceiling_gb_per_s)",
        "return low, high",
        "core/rigs",
    ),
    Mutation(LINKS, "measured > top * 1.02", "measured > top * 1.2", "core/rigs"),
    Mutation(LINKS, "(1.0 - TUNNEL_KEPT_BACK)", "1.0", "core/rigs"),
    Mutation(LINKS, "0.4 <= share <= 0.6", "0.4 <= share <= 0.5", "core/rigs"),
    Mutation(
        FIT,
        "(of.card.board_power_w or 0.0) - SLOT_W",
        "(of.card.board_power_w or 0.0)",
        "core/rigs",
    ),
    Mutation(
        FIT, "of.card.board_power_w > plugs + SLOT_W", "of.card.board_power_w > plugs", "core/rigs"
    ),
    Mutation("rigs/plugs.py", "if got < wanted.count", "if got < 1", "core/rigs"),
    Mutation(
        "plan/shortest_tour.py",
        "best[subset, last] + leave[last]",
        "best[subset, last]",
        "core/plan",
    ),
    Mutation("worth/running.py", "heat.high", "heat.mean", "worth"),
    Mutation("worth/report.py", "sum(drawn) / len(drawn)", "max(drawn)", "worth"),
    Mutation("runs/published.py", "w.lower() == h.lower()", "w.lower() in h.lower()", "core/runs"),
    Mutation(
        "measure/kinds.py",
        "Bound.AT_LEAST: Bound.AT_MOST",
        "Bound.AT_LEAST: Bound.AT_LEAST",
        "core/compare",
    ),
    Mutation("measure/reading.py", "/ len(errors) ** 2", "/ len(errors)", "core/compare"),
    Mutation("measure/held_rates.py", "times > 1", "times > 2", "checks"),
    Mutation(
        "measure/frames.py",
        "frame_times_ms > STUTTER_RATIO",
        "frame_times_ms >= STUTTER_RATIO",
        "core/measure",
    ),
    Mutation(
        "measure/frames.py",
        "frame_times_ms >= median_ms",
        "frame_times_ms > median_ms",
        "core/measure",
    ),
    Mutation(
        "measure/frames.py",
        "half, size = STUTTER_WINDOW_FRAMES // 2, STUTTER_WINDOW_FRAMES",
        "half, size = STUTTER_WINDOW_FRAMES // 2 + 10, STUTTER_WINDOW_FRAMES + 20",
        "core/measure",
    ),
    Mutation(
        "measure/telemetry.py",
        "quantile_of(ascending, 0.05)",
        "quantile_of(ascending, 0.25)",
        "core/measure core/runs",
    ),
    Mutation(
        "checks/repeats.py",
        "found.append((at, again, True))",
        "found.append((at, at, True))",
        "test_cli_checks.py",
    ),
    Mutation("checks/repeats.py", "freedom += more", "freedom += 1", "checks"),
    Mutation("worth/running.py", "levels.append(noise.mean)", "levels.append(noise.high)", "worth"),
    Mutation(
        "board/scores.py",
        "how, tuple(measured), standing",
        "how, standing",
        "core/board",
    ),
    Mutation(
        "measure/trimming.py",
        "np.append(starts[1:], ends_s.size)",
        "np.append(starts[1:], -1)",
        "core/measure",
    ),
    Mutation(
        "measure/robust_line.py",
        "below = math.floor(rank)",
        "below = math.ceil(rank)",
        "core/measure",
    ),
    Mutation(
        "measure/telemetry.py",
        "there @ weights / weights.sum()",
        "there.mean()",
        "core/measure core/runs",
    ),
    Mutation(
        "measure/trace_summary.py",
        "here > share + 0.02",
        "here > share + 0.2",
        "core/measure checks/test_checks_by_hand.py",
    ),
    Mutation(
        "checks/consensus.py",
        "MAD_TO_SD = 1.4826",
        "MAD_TO_SD = 1.0",
        "checks/test_checks_by_hand.py",
    ),
    Mutation("checks/one_run.py", "memory.high", "memory.mean", "checks/test_checks_by_hand.py"),
    Mutation(
        "checks/one_run.py",
        "power.high > card",
        "power.mean > card",
        "checks/test_checks_by_hand.py",
    ),
    Mutation(
        "checks/across.py",
        "(gauge.high, facts) for facts",
        "(gauge.mean, facts) for facts",
        "checks/test_checks_by_hand.py",
    ),
    Mutation(
        "checks/told.py",
        "one.severity is Severity.BLOCKING for",
        "one.severity is Severity.CAUTION for",
        "checks",
    ),
    Mutation(
        "checks/told.py",
        "facts.run.decision is not Decision.KEEP",
        "False",
        "checks",
    ),
    Mutation("checks/told.py", "one.about is About.RUN for", "False for", "checks"),
    Mutation("checks/all.py", "if now == said:", "if True:", "checks"),
    Mutation(
        "limits/split.py",
        "math.comb(len(PARTS) - 1, before)",
        "math.comb(len(PARTS), before)",
        "limits",
    ),
    Mutation("limits/split.py", "middle - half, middle + half", "middle, middle", "limits"),
    Mutation("limits/whatif.py", "np.where(is_over, middle, low)", "low", "limits"),
    Mutation("limits/whatif.py", "(high - low) * above", "(high - low)", "limits"),
    Mutation("limits/solve.py", "] += np.linalg.inv(blocks)", "] += 0.0", "limits"),
    Mutation("runs/changes.py", " and run.id not in past", "", "core/plan"),
    Mutation("limits/whatif.py", "sent_back_mb=np.zeros(cells.size)", "", "limits"),
    Mutation(
        "plan/repeats_needed.py",
        "LEVEL, POWER = 0.05, 0.8",
        "LEVEL, POWER = 0.05, 0.5",
        "core/plan",
    ),
    # Edges that a reader moved and no test noticed.
    Mutation(INTERVALS, "RESTLESS = 0.01", "RESTLESS = 0.0001", "core/compare"),
    Mutation("measure/trace_summary.py", "EARLY_S = 20.0", "EARLY_S = 60.0", "checks"),
    Mutation("checks/repeats.py", "DAY_HOURS = 1.0", "DAY_HOURS = 0.0", "checks"),
    Mutation(
        "checks/repeats.py",
        "0.7 <= extra / picture_mb <= 1.4",
        "0.7 <= extra / picture_mb",
        "checks",
    ),
    Mutation("checks/across.py", "LESSER_HOST = 0.8", "LESSER_HOST = 0.99", "checks"),
    Mutation("checks/across.py", "LINK_FULL = 0.7", "LINK_FULL = 0.1", "checks"),
    Mutation(
        "checks/across.py", "watts < 0.9 * other_watts", "watts <= 0.9 * other_watts", "checks"
    ),
    Mutation("limits/cells.py", "0.5 if card.built_in else 1.0", "1.0", "test_analysis.py"),
    Mutation(
        "board/playable.py", "low / made >= target.low_fps", "low >= target.low_fps", "core/board"
    ),
    Mutation(
        "analysis/hands_free.py", "plan.difference / 2.0", "plan.difference", "test_analysis.py"
    ),
    Mutation("analysis/analyse.py", "runs.keys() >= {*one.runs}", "True", "test_analysis.py"),
    Mutation(
        "analysis/analyse.py",
        "{key: one.model_copy(update=WORDS_ONLY) for key, one in contents.reviews.items()}",
        "None",
        "test_analysis.py",
    ),
    Mutation(
        "plan/timetable.py",
        "since_break_h + item_h > hours.break_every_h",
        "since_break_h >= hours.break_every_h",
        "core/plan",
    ),
]


LONGEST_S = 900.0
FIRST = 40  # tests, the most particular ones, that are run before all others
ALONE = ("-n", "0", "--assert=plain")
PLAIN = ("-p", "no:cacheprovider", "--no-header")


def broken_copy(folder: Path) -> Path:
    """A copy of the package to break."""
    package = folder / "blunt_ruler"
    ignore = shutil.ignore_patterns("*.pyc")
    return Path(shutil.copytree(ROOT / "src/blunt_ruler", package, ignore=ignore))


def passes(tests: Sequence[str], folder: Path, *how: str) -> bool:
    """Whether some tests pass on the copy in a folder; those that never end do not."""
    names = folder / "tests"
    names.write_text("\n".join(str(ROOT / one) for one in tests), "utf-8")
    command = [sys.executable, "-m", "pytest", "-x", *how, *PLAIN, f"@{names}"]
    environment = {**os.environ, "PYTHONPATH": str(folder), "QT_QPA_PLATFORM": "offscreen"}
    try:
        done = subprocess.run(
            command, cwd=ROOT, env=environment, capture_output=True, timeout=LONGEST_S
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def survives(mutation: Mutation, folder: Path) -> bool:
    """Whether the tests pass on the broken copy."""
    package = broken_copy(folder)
    module = package / "core" / mutation.module
    text = module.read_text("utf-8")
    if mutation.old not in text:
        raise SystemExit(f"{mutation.module} has no “{mutation.old}” any more")
    module.write_text(text.replace(mutation.old, mutation.new), "utf-8")
    tests = [f"tests/{one}" for one in mutation.tests.split()]
    alive = passes(tests, folder, "-n", str(min(os.cpu_count() or 1, 4)))
    shutil.rmtree(package)
    return alive


def collected() -> frozenset[str]:
    """The names of all tests there are."""
    command = [sys.executable, "-m", "pytest", "--collect-only", *ALONE, *PLAIN]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True)
    return frozenset(done.stdout.splitlines())


def drawn_survives(place: Place, covering: Covering, known: frozenset[str]) -> bool:
    """Whether every test that runs a place, of those known, passes with it changed."""
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        module = broken_copy(folder) / "core" / place.module
        source = module.read_text("utf-8")
        module.write_text(source[: place.start] + place.new + source[place.end :], "utf-8")
        tests = [one for one in covering.of(place.module, place.line) if one in known]
        some, rest = tests[:FIRST], tests[FIRST:]
        return passes(some, folder, *ALONE) and (not rest or passes(rest, folder, *ALONE))


def drawn_noticed(seed: int, count: int, skipped: int) -> int:
    """How many of the places drawn by a seed a test notices, as many at once as there are cores."""
    core = ROOT / "src/blunt_ruler/core"
    covering = Covering(ROOT / "build/coverage", core)
    places, known = drawn(core, seed, count)[skipped:], collected()
    noticed = 0
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        alive = pool.map(lambda place: drawn_survives(place, covering, known), places)
        for number, (place, lives) in enumerate(zip(places, alive, strict=True), skipped + 1):
            noticed += not lives
            line = (core / place.module).read_text("utf-8").splitlines()[place.line - 1]
            change = f"{line.strip()} → {place.new.strip()}"
            told(number, lives, f"{place.module}:{place.line}: {change}")
    print(f"{noticed} of {len(places)} noticed, drawn by {seed}")
    return noticed


def told(number: int, alive: bool, words: str) -> None:
    print(f"{number:3} {'NOT NOTICED' if alive else 'noticed':12} {words}", flush=True)


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("modules", nargs="*", help="only places that were chosen, in these modules")
    asked.add_argument("--drawn", type=int, default=0, help="how many places are drawn instead")
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--skip", type=int, default=0, help="how many of the drawn are left out")
    given = asked.parse_args()
    if given.drawn:
        noticed = drawn_noticed(given.seed, given.drawn, given.skip)
        raise SystemExit(noticed < 0.9 * (given.drawn - given.skip))
    survived = 0
    with tempfile.TemporaryDirectory() as text:
        chosen = [
            one
            for one in MUTATIONS
            if not given.modules or any(word in one.module for word in given.modules)
        ]
        for number, mutation in enumerate(chosen, 1):
            alive = survives(mutation, Path(text))
            survived += alive
            told(number, alive, f"{mutation.module}: {mutation.old} → {mutation.new}")
    print(f"{len(chosen) - survived} of {len(chosen)} noticed")
    raise SystemExit(survived > 0)


if __name__ == "__main__":
    main()

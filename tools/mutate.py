"""Break the core in one place at a time and see that a test notices; prints what none notices.

Each mutation is a constant, an aggregate or a comparison that a reader would not see at a glance.
It is made in a copy of the package; the tests named beside it run against that copy.
"""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import NamedTuple

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
]


def survives(mutation: Mutation, folder: Path) -> bool:
    """Whether the tests pass on the broken copy."""
    package = folder / "blunt_ruler"
    shutil.copytree(ROOT / "src/blunt_ruler", package, ignore=shutil.ignore_patterns("*.pyc"))
    module = package / "core" / mutation.module
    text = module.read_text("utf-8")
    if mutation.old not in text:
        raise SystemExit(f"{mutation.module} has no “{mutation.old}” any more")
    module.write_text(text.replace(mutation.old, mutation.new), "utf-8")
    tests = [str(ROOT / "tests" / name) for name in mutation.tests.split()]
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-x", "-n", "0", "-p", "no:cacheprovider", *tests],
        cwd=ROOT,
        env={**os.environ, "PYTHONPATH": str(folder), "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
    )
    shutil.rmtree(package)
    return done.returncode == 0


def main() -> None:
    wanted = sys.argv[1:]
    chosen = [one for one in MUTATIONS if not wanted or any(word in one.module for word in wanted)]
    survived = 0
    with tempfile.TemporaryDirectory() as text:
        for number, mutation in enumerate(chosen, 1):
            alive = survives(mutation, Path(text))
            survived += alive
            verdict = "NOT NOTICED" if alive else "noticed"
            print(
                f"{number:3} {verdict:12} {mutation.module}: {mutation.old} → {mutation.new}",
                flush=True,
            )
    print(f"{len(chosen) - survived} of {len(chosen)} noticed")
    raise SystemExit(survived > 0)


if __name__ == "__main__":
    main()

"""Print how often intervals hold and checks are right, on benches that share nothing with ours.

The bars are rates, so they are counted over seeds and never asserted here; tests hold small
versions of each. Passes come from tests/checks/strangers.py, rates of the Limits from the simulated
bench, whose frame pipeline shares no formula with the model.
"""

import sys
from dataclasses import replace
from functools import cache
from importlib.util import module_from_spec, spec_from_file_location
from pathlib import Path
from typing import Any

import numpy as np

from claim_rates import claims
from figures import Figure, rate, tell

TESTS = Path(__file__).parents[1] / "tests"
sys.path[:0] = [str(TESTS / "checks"), str(TESTS / "limits")]

from strangers import (
    ALIKE,
    AWKWARD,
    PLANTS,
    RIGS,
    SHAPES,
    review_alike,
    review_of,
    review_of_shots,
)

from blunt_ruler.core.checks.all import Checked, check_runs
from blunt_ruler.core.checks.findings import About
from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.results import Measurement
from blunt_ruler.core.limits.cells import TooLittle
from blunt_ruler.core.limits.fit import fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, leave_out, parted
from blunt_ruler.core.records.records import Origin, Run, TypedFigures
from blunt_ruler.core.records.severity import Severity

TRIALS, SEEDS, PLANTED = 2000, 12, 10


def _ratios(rng: np.random.Generator, titles: int, skewed: bool) -> np.ndarray:
    if skewed:
        return 0.15 * (rng.exponential(1.0, titles) - 1.0)
    return rng.normal(0.0, 0.15, titles)


def means() -> None:
    """Intervals of means over titles: how often they hold, and how often equal rigs part."""
    rng = np.random.default_rng(11)
    for skewed in (False, True):
        for titles in (3, 4, 6, 12):
            held = 0
            for _ in range(TRIALS):
                off = 0.1 + _ratios(rng, titles, skewed)
                runs = [
                    Measurement(rig, f"c{k}", 60 * np.exp(by + rng.normal(0, 0.01)), title=f"t{k}")
                    for k in range(titles)
                    for rig, by in (("a", 0.0), ("b", off[k]))
                    for _ in range(3)
                ]
                mean = compare(runs, "a").rigs[1].over_base
                held += mean.low <= np.exp(0.1) <= mean.high
            name = f"mean of {titles} titles, {'skewed' if skewed else 'normal'}"
            bar = {"least": 90} if skewed else {"least": 93, "most": 97}
            rate(f"{name}: 95 % intervals hold", held, TRIALS, **bar)
    apart = 0
    for _ in range(TRIALS):
        off = _ratios(rng, 3, False)
        runs = [
            Measurement(rig, f"c{k}", 60 * np.exp(by + rng.normal(0, 0.01)), title=f"t{k}")
            for k in range(3)
            for rig, by in (("a", 0.0), ("b", off[k]))
            for _ in range(3)
        ]
        mean = compare(runs, "a").rigs[1].over_base
        apart += not mean.low <= 1.0 <= mean.high
    rate("equal rigs told apart over 3 titles", apart, TRIALS, most=7)


def _stopped(checked: Checked) -> set[str]:
    return {
        run_id
        for run_id, found in checked.by_run.items()
        if any(one.severity is Severity.BLOCKING for one in found)
    }


def threes() -> None:
    """Cells of three with an odd pass among heavy-tailed ones."""
    described, review, _ = review_of(0, ("flat",) * 8, None, False, seconds=2.0)
    rng = np.random.default_rng(12)
    named = accused = passes = trials = 0
    for spread in (0.004, 0.01, 0.02):
        for _ in range(60):
            runs, trials = {}, trials + 1
            bad = f"far-k3-{int(rng.integers(3)) + 1}"
            for rig in RIGS:
                for k in range(8):
                    values = 80 * np.exp(spread * rng.standard_t(5, 3) / np.sqrt(5 / 3))
                    for repeat, value in enumerate(values, 1):
                        key = f"{rig}-k{k}-{repeat}"
                        odd = rng.choice([0.1, 0.7, 0.85, 1.2, 1.5, 10.0]) if key == bad else 1.0
                        runs[key] = Run(
                            id=key,
                            rig_id=rig,
                            case_id=f"k{k}",
                            repeat=repeat,
                            origin=Origin(kind="typed"),
                            typed=TypedFigures(average_fps=value * odd),
                        )
            found = check_runs(replace(described, runs=runs), review).findings
            against = {one.run_id for one in found if one.about is About.RUN}
            named += bad in against
            accused += len(against - {bad})
            passes += len(runs) - 1
    rate("typed cells of three: the odd pass named", named, trials, least=95)
    rate("typed cells of three: others accused", accused, passes, most=1)


def checks() -> None:
    """Clean, awkward and faulty runs."""
    for shapes, name in ((SHAPES, "clean"), (AWKWARD, "awkward but sound")):
        for with_telemetry in (True, False):
            bad = runs = 0
            for seed in range(SEEDS):
                contents, review, _ = review_of(3000 + seed, shapes, None, with_telemetry)
                bad += len(_stopped(check_runs(contents, review)))
                runs += len(contents.runs)
            words = "with telemetry" if with_telemetry else "without"
            bar = 5 if shapes is AWKWARD else 1 if with_telemetry else 2
            rate(f"{name} runs stopped, {words}", bad, runs, most=bar)
    for with_telemetry in (True, False):
        bad = runs = 0
        for seed in range(SEEDS):
            contents, review = review_of_shots(5000 + seed, with_telemetry)
            bad += len(_stopped(check_runs(contents, review)))
            runs += len(contents.runs)
        words = "with telemetry" if with_telemetry else "without"
        most = 1 if with_telemetry else 2
        rate(f"benchmarks with hard cuts stopped, {words}", bad, runs, most=most)
    for kind in ALIKE:
        asked = 0
        for seed in range(PLANTED):
            contents, review = review_alike(6000 + seed, kind, bool(seed % 2))
            asked += bool(check_runs(contents, review).findings)
        rate(f"needless questions: {kind}", asked, PLANTED, most=10)
    neighbours = runs = 0
    for plant in PLANTS:
        hits = 0
        # A rate that no longer follows the scene cannot be told where the scene does not move.
        shapes = [one for one in SHAPES if one != "flat" or plant != "dynamic resolution"]
        for seed in range(PLANTED):
            shape = shapes[seed % len(shapes)]
            contents, review, bad_id = review_of(4000 + seed, (shape, "hills"), plant)
            found = check_runs(contents, review).by_run
            hits += bool(found.get(str(bad_id)))
            neighbours += len(found.keys() - {str(bad_id)})
            runs += len(contents.runs) - 1
        rate(f"named with telemetry: {plant}", hits, PLANTED, least=90)
    rate("neighbours of a planted fault accused", neighbours, runs, most=1)


@cache
def limits_lab() -> Any:
    """The lab of the tests of the Limits: rates of the simulated bench, played once."""
    found = spec_from_file_location("limits_lab", TESTS / "limits" / "conftest.py")
    assert found is not None and found.loader is not None
    module = module_from_spec(found)
    found.loader.exec_module(module)
    return module.Lab()


def limits() -> None:
    """Left-out links and cases predicted from three repeats at 1.5 %: the truth inside 80 %."""
    lab, rng = limits_lab(), np.random.default_rng(13)
    for kind in (LeaveOut.LINK, LeaveOut.CASE):
        held = cells = 0
        for design in range(4):
            truth = lab.sparse(design)
            noisy = []
            for cell in truth.cells:
                rates = cell.average_fps * np.exp(rng.normal(0, 0.015, 3))
                own = max(float(np.std(np.log(rates), ddof=1)), 0.005) / np.sqrt(3)
                average = float(3.0 / np.sum(1.0 / rates))
                noisy.append(replace(cell, average_fps=average, spread=own, noise=own))
            measured = replace(truth, cells=tuple(noisy))
            for _, rest, places in parted(measured, kind):
                out = [truth.cells[at] for at in places]
                try:
                    fit = fit_limits(rest)
                except TooLittle:
                    continue
                if out:
                    _, low, high = fit.predict(fit.places_for(out, measured.links))
                    actual = np.array([cell.average_fps for cell in out])
                    held += int(np.sum((low <= actual) & (actual <= high)))
                    cells += len(out)
        rate(f"limits: 80 % bounds hold, {kind} left out", held, cells, least=76, most=84)


def memory() -> None:
    """Three new titles at one size on two rigs, a third link foreseen from what is remembered."""
    lab, seeds = limits_lab(), 40
    for remembers in (True, False):
        errors, held = [], []
        for seed in range(seeds):
            measured, truth = lab.three_new_titles(seed)
            fit = fit_limits(measured if remembers else measured.alone())
            predicted, low, high = fit.predict(fit.places_for(truth, measured.links))
            actual = np.array([cell.average_fps for cell in truth])
            errors += [*np.abs(predicted / actual - 1.0)]
            held += [*((low <= actual) & (actual <= high))]
        words = "remembered" if remembers else "alone"
        tell(percent(f"new titles, third link, {words}: median error", np.median(errors), 5))
        name = f"new titles, third link, {words}: 80 % bounds hold"
        rate(name, sum(held), len(held), least=74, most=86)


def titles_elsewhere() -> None:
    """Links left out of six made-up titles, and a title foreseen on cards it was never on."""
    lab = limits_lab()
    found, off = [], []
    for seed in range(10):
        rng = np.random.default_rng(seed)
        titles = [f"made up {number}" for number in rng.permutation(30)[:7]]
        cells = [
            lab.cell(1, rig, title, size, 0.005)
            for title in titles
            for rig in lab.rigs
            for size in ("1080p", "1440p", "2160p")
            if rng.random() < 0.7
        ]
        found.append(leave_out(lab.of(cells), LeaveOut.LINK))
        new = [one for one in cells if one.family == titles[0] and one.card != "middle"]
        fit = fit_limits(lab.of([one for one in cells if one not in new]))
        predicted, _, _ = fit.predict(fit.places_for(new, {}))
        off += [*np.abs(predicted / [one.average_fps for one in new] - 1.0)]
    name = "made-up titles, link left out"
    tell(percent(f"{name}: median error", np.mean([one.median_error for one in found]), 1.5))
    tell(percent(f"{name}: nine in ten", np.mean([one.p90_error for one in found]), 4))
    held, cells = np.mean([one.interval_hits for one in found]), sum(one.cells for one in found)
    rate(f"{name}: 80 % bounds hold", round(held * cells), cells, least=76, most=84)
    tell(percent("made-up title on another card: median error", np.median(off), 2.5))


def percent(name: str, share: Any, most: float) -> Figure:
    """An error as a figure in per cent; over these seeds it moves by a tenth of itself."""
    return Figure(name, 100 * float(share), "%", high=most, noise=10 * float(share))


def main() -> None:
    means()
    claims(trials=1000)
    threes()
    checks()
    limits()
    titles_elsewhere()
    memory()


if __name__ == "__main__":
    main()

"""Run bench and truth, and write docs/measured.md: every figure, its bar, the last measurements.

What misses its bar, and what got worse by more than its noise since the measurement before, stands
at the end and on top of the page. docs/measured.json holds the measurements themselves.
"""

import argparse
import json
import subprocess
import sys
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent))

import bench
import hands
import physics
import recordings
import scripts
import truth
import typed_talks
from figures import FOUND, Figure

DOCS = Path(__file__).parents[1] / "docs"
KEPT = 5


def commit() -> str:
    """The commit that is measured, marked where the tree differs from it."""
    told = subprocess.run(
        ["git", "describe", "--always", "--dirty=+"], capture_output=True, text=True, check=False
    )
    return told.stdout.strip() or "unknown"


def got_worse(figure: Figure, before: float | None) -> bool:
    """Whether a figure moved away from its bar by more than its noise."""
    if before is None or not figure.has_bar:
        return False
    return figure.off(figure.value) - figure.off(before) > figure.noise


def page(past: list[dict[str, Any]], found: list[Figure]) -> str:
    """The whole page."""
    before = past[-2]["figures"] if len(past) > 1 else {}
    missed = [one for one in found if one.has_bar and not one.is_within]
    worse = [one for one in found if got_worse(one, before.get(one.name))]
    lines = [
        "# Measured",
        "",
        "Made by `make measure` on two cores; the newest measurement is on the left. Ratios are",
        "of work beside a yardstick in the same run; times are of this machine, whose pace differs",
        "by half from hour to hour. Rates are counted over seeds. ✗ misses its bar; ↓ got farther",
        "from it than its noise explains.",
        "",
        "![Predicted over true rates with their bands, for each way of making frames](limits.png)",
        "",
        f"{len(found)} figures, {len(missed)} ✗, {len(worse)} ↓.",
        "",
    ]
    heads = [f"{one['date']} {one['commit']}" for one in reversed(past)]
    lines.append(f"| figure | bar | | {' | '.join(heads)} |")
    lines.append(f"|---|---|---|{'---|' * len(heads)}")
    for one in found:
        marks = ("✗" if one in missed else "") + ("↓" if one in worse else "")
        values = [
            _words(one, measurement["figures"].get(one.name)) for measurement in reversed(past)
        ]
        lines.append(f"| {one.name} | {one.bar_words} | {marks} | {' | '.join(values)} |")
    return "\n".join(lines) + "\n"


def _words(figure: Figure, value: float | None) -> str:
    if value is None:
        return ""
    return Figure(figure.name, value, figure.unit).words


PARTS = {
    "bench": (partial(bench.main, []),),
    "truth": (truth.main,),
    "physics": (physics.main,),
    "recordings": (recordings.main,),
    "scripts": (scripts.main, typed_talks.main),
    "hands": (hands.main,),
}


def main() -> None:
    """Measure all, or the parts that are named, and write the page."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("parts", nargs="*", metavar="PART", help=f"of {', '.join(PARTS)}")
    names = asked.parse_args().parts
    if unknown := [name for name in names if name not in PARTS]:
        asked.error(f"there is no part {unknown[0]}: {', '.join(PARTS)}")
    for name, of_part in PARTS.items():
        if not names or name in names:
            for measure in of_part:
                measure()
    stored = DOCS / "measured.json"
    past = json.loads(stored.read_text("utf-8")) if stored.exists() else []
    values = {one.name: round(one.value, 4) for one in FOUND}
    if names and past:  # a part is measured anew: the rest stands
        values = past[-1]["figures"] | values
        past = past[:-1]
    moment = datetime.now(UTC).strftime("%Y-%m-%d")
    past = [*past, {"date": moment, "commit": commit(), "figures": values}][-KEPT:]
    stored.write_text(json.dumps(past, indent=1, ensure_ascii=False) + "\n", "utf-8")
    if not names:
        (DOCS / "measured.md").write_text(page(past, FOUND), "utf-8")
    print()
    for one in FOUND:
        if one.has_bar and not one.is_within:
            print(f"misses its bar: {one.name}: {one.words}, bar {one.bar_words}")
    before = past[-2]["figures"] if len(past) > 1 else {}
    for one in FOUND:
        if got_worse(one, before.get(one.name)):
            print(f"worse than before: {one.name}: {one.words}, was {before[one.name]:g}")


if __name__ == "__main__":
    main()

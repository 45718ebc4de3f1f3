"""Random actions over a demo, an empty and a wide logbook: faults, stray windows, and how long the
interface is ever silent.
"""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from blunt_ruler.bench.wide import wide_review
from blunt_ruler.core.records.records import TABLES
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.logbook import Logbook
from figures import Figure, tell

SCRIPT = Path(__file__).parents[1] / "tests" / "attack" / "hands.py"
ACTIONS = int(os.environ.get("ATTACK_ACTIONS", "334"))
HOMES = ("XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME")
GAP_S = 0.1
FIRST = 60  # actions, in which most pages are seen for the first time


def act(book: str, seed: int, actions: int, home: str) -> dict:
    """What random hands found on a logbook; on a new one for a blank."""
    done = subprocess.run(
        [sys.executable, str(SCRIPT), book, str(seed), str(actions)],
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, **dict.fromkeys(HOMES, home), "QT_QPA_PLATFORM": "offscreen"},
    )
    assert done.returncode == 0, done.stderr[-2000:]
    return json.loads(done.stdout.splitlines()[-1])


def main() -> None:
    """Tell the figures."""
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        wide = folder / "wide.blunt"
        contents = wide_review()
        with Logbook.create(wide) as book:
            every = [one for table in TABLES for one in getattr(contents, table).values()]
            book.commit("fill", put=every)
        books = {"the demo": str(copy_demo(folder / "demo.blunt")), "an empty": ""}
        faults = strays = 0
        for number, (name, path) in enumerate({**books, "a wide": str(wide)}.items()):
            found = act(path, 7 + number, ACTIONS, text)
            faults += len(found["faults"])
            strays += len(found["strays"])
            gaps = [gap for at, gap, *_ in found["gaps"] if at > FIRST and gap > GAP_S]
            said = f"{len(gaps)} of {ACTIONS} actions over 100 ms"
            longest = 1000 * max((gap for at, gap, *_ in found["gaps"] if at > FIRST), default=0)
            title = f"hands on {name} logbook: longest silence after the first visit"
            tell(Figure(title, longest, "ms", high=100, noise=0.5 * longest), said)
        tell(Figure("hands: faults", faults, high=0))
        tell(Figure("hands: stray windows", strays, high=0))


if __name__ == "__main__":
    main()

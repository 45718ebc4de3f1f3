"""Whatever is typed after a command: exit 0 or 2, and one line under 300 characters."""

import os

import numpy as np
import pytest

from attack.odd_logs import odd_log, pick
from blunt_ruler.cli import main
from blunt_ruler.demo.shipped import copy_demo

CALLS = int(os.environ.get("ATTACK_CALLS", "50"))
FIRST_SEED = int(os.environ.get("ATTACK_SEED", "0"))
NUMBERS = (
    "0",
    "-1",
    "nan",
    "inf",
    "1e-320",
    "1e308",
    "1e999",
    "²",
    "",
    " ",
    "60",
    "4,5",
    "x",
    "1_0",
)
WORDS = (
    "", " ", "²p", "a/b/c/d/e", "/", "Tidewrack / ²p", "Tidewrack / 1440p / High", "x" * 500,
    "\ud800", "\x00", "a\nb", "=1+1", "Sluice Marram 12", "Built-in iG-6", "1e308x1e308@nan",
)  # fmt: skip
HOPS = (
    "4.0x4",
    "9.0x4",
    "4.0x3",
    "40 Gb/s",
    "0 Gb/s",
    "1e9 Gb/s",
    "4.0x",
    "²x4",
    "",
    ":",
    "a:b:4.0x4",
)
SCREENS = ("1920x1080@60x32", "0x0@0", "1920x1080@1e9", "x", "", "99999x1@60", "1920x1080@60x999")


def calls(rng, demo, folder):
    log, missing = folder / "log.csv", folder / "none" / "x.csv"
    number, words = pick(rng, NUMBERS), pick(rng, WORDS)
    return pick(
        rng,
        (
            ("metrics", log, "--column", words),
            ("metrics", log, "--unit", pick(rng, ("ms", "clock-ns", words))),
            ("metrics", log, "--from", number, "--to", pick(rng, NUMBERS)),
            ("metrics", missing, "--json"),
            ("metrics", folder),
            ("check", log, "--refresh", number),
            ("link", "--hop", pick(rng, HOPS), "--tunnel", number, "--at-fps", pick(rng, NUMBERS)),
            ("link", "--hop", pick(rng, HOPS), "--screen", pick(rng, SCREENS), "--json"),
            ("link", "--hop", "4.0x4", "--display", pick(rng, SCREENS), "--measured", number),
            ("link", "--payload", pick(rng, NUMBERS), "--hop", "4.0x4"),
            ("import", folder / "new.blunt", log, "--rig", words, "--case", pick(rng, WORDS)),
            ("import", folder / "new.blunt", log, "--rig", "A", "--case", "T", "--review", words),
            ("import", log, log, "--rig", "A", "--case", "T"),
            ("compare", demo, "--mean", words),
            ("compare", demo, "--without", words, "--json"),
            ("compare", demo, "--playable", pick(rng, ("60/45", "nan/1", "1e308/2", words))),
            ("compare", "--table", log, "--base", words),
            ("composite", "--part", f"a={number}:{pick(rng, NUMBERS)}", "--part", "b=:0.15"),
            ("composite", "--part", words, "--overall", number),
            ("worth", demo, "--review", words),
            ("fit-check", demo, "--rig", words),
            ("plan", demo, "--hours", number),
            ("plan", demo, "--sheet", folder / f"sheet.{pick(rng, ('pdf', 'exe', 'csv'))}"),
            ("limits", "--table", log, "--reference", words),
            ("report", demo, "--out", log, "--format", "md"),
            ("report", demo, "--out", folder / "report", "--format", words),
            ("simulate", "--out", folder / "sim", "--seed", number, "--seconds", "3"),
            ("simulate", "--out", log, "--seed", "1", "--seconds", "2", "--rig", words),
            ("probe", "--root", missing),
            ("demo", "--out", log),
            ("check", folder / "log.csv", "--json"),
            (words,),
        ),
    )


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    return copy_demo(tmp_path_factory.mktemp("demo") / "demo.blunt")


@pytest.mark.deep
def test_every_call_ends_well_or_in_one_line(tmp_path, capfd, demo):
    for seed in range(FIRST_SEED, FIRST_SEED + CALLS):
        rng = np.random.default_rng(seed)
        (tmp_path / "log.csv").write_bytes(odd_log(int(rng.integers(10_000))).body)
        call = [str(part) for part in calls(rng, demo, tmp_path)]
        with pytest.raises(SystemExit) as ended:
            main(call)
        _, err = capfd.readouterr()
        assert ended.value.code in (0, 2), (call, err)
        if ended.value.code == 2:
            assert err.count("\n") == 1, (call, err)
            assert len(err) < 300, (call, err)
            assert "fault inside" not in err, (seed, call, err)
            assert not (tmp_path / "new.blunt").exists(), call
        (tmp_path / "new.blunt").unlink(missing_ok=True)
        assert not list(tmp_path.rglob(".*.part")), call

"""Rigs and cases from the names of files, drawn from how people name them."""

import itertools
import random
import re
from pathlib import Path

import pytest

from blunt_ruler.exchange.file_names import proposed

# Rigs that are called by their hardware, and titles with words that mean other things elsewhere.
RIGS = [
    *("Tower", "Mini PC", "Built-in iG-6", "Laptop + dock", "OCuLink Marram 12", "USB4 dock"),
    *("x4 adapter", "Desktop x16", "Sluice Marram 12", "Groyne", "iGPU", "eGPU", "Handheld"),
]
UNTOLD = ("Groyne", "Sluice Marram 12")  # names that say nothing of hardware
TITLES = [
    *("Tidewrack", "Harbour Run", "Ninefold Siege", "Skitter", "Copper Meridian"),
    *("Glass Orchard 3", "Low Lantern", "Rally 24", "F Nine"),
]
SIZES = (["1080p"], ["1440p"], ["4K"], ["1080p", "1440p"], ["2560x1440"], [""], ["1080", "1440"])
PASSES = ("", "run {}", "run{}", "{}", "({})", "#{}", "pass {}", "take{}")


def drawn(seed, rigs=(2, 4), titles=(2, 4)):
    """(path, rig, parts of the case) of every log of a folder, named by one habit."""
    rng = random.Random(seed)
    rig_first = rng.random() < 0.75
    known = RIGS if rig_first else [rig for rig in RIGS if rig not in UNTOLD]
    rigs, titles = rng.sample(known, rng.randint(*rigs)), rng.sample(TITLES, rng.randint(*titles))
    sizes, passes = rng.choice(SIZES), rng.choice(PASSES)
    preset = rng.choice(("", "High", "ultra", "very high", "Low"))
    mark = rng.choice((" - ", "_", "-", " ", "__", "/", " | "))
    inner, dated = rng.choice("-_"), rng.random() < 0.2
    made = []
    for rig, title, size in itertools.product(rigs, titles, sizes):
        for number in range(1, (rng.randint(1, 3) if passes else 1) + 1):
            parts = [rig, title] if rig_first else [title, rig]
            parts += [part for part in (size, preset, passes.format(number)) if part]
            parts += [f"2026-11-{10 + number} 14-2{number}-00"] if dated else []
            if mark == "/":
                name = f"{parts[0]}/{' '.join(parts[1:])}"
            elif mark in "_-":
                between = inner if mark == "_" else mark
                name = mark.join(part.replace(" ", between) for part in parts)
            else:
                name = mark.join(parts)
            told = f"{size}p" if size.isdigit() else size
            case = [part for part in (title, told, preset) if part]
            made.append((Path(f"{name}.csv"), rig, case))
    return made


def words(text):
    """Words in lower case, whatever parts them."""
    return re.split(r"[\s+-]+", text.lower())


def is_told(logs):
    found = proposed([path for path, _, _ in logs])
    return all(
        words(one.rig) == words(rig) and [*map(words, one.case.split(" / "))] == [*map(words, case)]
        for one, (_, rig, case) in zip(found, logs, strict=True)
    )


def test_folders_of_rigs_and_titles_are_told_apart_by_what_comes_again():
    wrong = [seed for seed in range(400) if not is_told(drawn(seed))]
    assert len(wrong) <= 4, [drawn(seed)[0] for seed in wrong]


@pytest.mark.parametrize(("rigs", "titles"), [((2, 4), (1, 1)), ((1, 1), (2, 4))])
def test_one_title_or_one_rig_is_told_by_order_and_hardware(rigs, titles):
    wrong = [seed for seed in range(300) if not is_told(drawn(seed, rigs, titles))]
    assert len(wrong) <= 20, [drawn(seed, rigs, titles)[0] for seed in wrong]


@pytest.mark.parametrize(
    ("names", "told"),
    [
        (["Tower - Skitter 1440p High - run 1"], [("Tower", "Skitter / 1440p / High")]),
        (["coast"], [("coast", "")]),
        (["tower", "dock", "built-in"], [("tower", ""), ("dock", ""), ("built in", "")]),
        (["log1", "log2"], [("log1", ""), ("log2", "")]),
        (["log_2026-11-30_142233", "log_2026-11-30_143344"], [("log", "")] * 2),
        (["RigA Harbor", "RigA Skitter", "RigB Harbor"],
         [("RigA", "Harbor"), ("RigA", "Skitter"), ("RigB", "Harbor")]),
        (["A - Harbor - coast - 4K", "B - Harbor - coast - 4K"],
         [("A", "Harbor / coast / 4K"), ("B", "Harbor / coast / 4K")]),
        (["A - Harbor", "B - Ninefold"], [("A", "Harbor"), ("B", "Ninefold")]),
        ([], []),
    ],
)  # fmt: skip
def test_few_names_are_read_for_what_they_are(names, told):
    assert [*map(tuple, proposed([Path(f"{name}.csv") for name in names]))] == told


@pytest.mark.parametrize(
    ("stems", "rigs"),
    [
        (["cable_coast_1", "cable_coast_2", "tower_coast_1"], ["cable", "cable", "tower"]),
        (["cable coast run01", "cable coast run02", "tower coast Pass 0"],
         ["cable", "cable", "tower"]),
        (["coast-cable-0", "coast-cable-1", "coast-cable-2"], ["coast cable"] * 3),
        (["coast r0", "coast r1", "coast r2"], ["r0", "r1", "r2"]),
        (["coast-cable-12", "coast-cable-16"], ["12", "16"]),
        (["coast 1", "coast 2", "coast cable 1"], ["1", "2", "cable 1"]),
        (["coast marram 12", "coast marram 16", "coast groyne 8"],
         ["marram 12", "marram 16", "groyne 8"]),
        (["coast cable 1", "coast cable 2", "coast marram 12"], ["cable", "cable", "marram 12"]),
        (["coast cable 1", "coast cable 3", "coast tower 1"], ["cable 1", "cable 3", "tower 1"]),
        (["coast cable 1", "coast tower 1", "coast tall 2"], ["cable 1", "tower 1", "tall 2"]),
    ],
)  # fmt: skip
def test_numbers_that_count_passes_are_no_part_of_a_rig(stems, rigs):
    assert [one.rig for one in proposed([Path(f"{stem}.csv") for stem in stems])] == rigs

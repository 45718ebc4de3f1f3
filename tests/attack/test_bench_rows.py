"""Random benches and random typing: a strip agrees with its ladder, and nothing ends in a crash."""

import os
import random
from itertools import pairwise

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Card, Dock, Hop, Host, Link, Rig, Screen, ScreenPath
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.links import ladder_or_why
from blunt_ruler.core.rigs.strip import BLOCKS, Place, power_words, rig_rows, rig_strip
from blunt_ruler.core.rigs.typed_places import type_place, type_rig, typed_says

SEED = int(os.environ.get("ATTACK_SEED", "7"))
BENCHES = int(os.environ.get("ATTACK_INPUTS", "250"))
PIECES = (
    *(
        "4.0 x4",
        "40 Gb/s",
        "host port:",
        ";",
        "none",
        "–",
        "x",
        "1920x1080@60",
        "sent back",
        "9.0 x4",
    ),
    *("5.0 x3", "Marram 12", "é", "\u202f", "０", "1e400", "-", "@", ": :", "PCIe", " ", "a" * 200),
)


def a_bench(rng):
    hops = tuple(
        Hop(name=f"hop {n}", tunnel_gbps=rng.choice([20, 40, 80]))
        if rng.random() < 0.25
        else Hop(
            name=rng.choice([f"hop {n}", f"switch {n}"]),
            generation=rng.randint(1, 6),
            lanes=rng.choice([1, 2, 4, 8, 16]),
        )
        for n in range(rng.randint(0, 5))
    )
    edge = {"generation": rng.randint(1, 6), "lanes": rng.choice([1, 4, 8, 16])}
    supply = rng.choice([None, 120, 330, 850])
    rig = Rig(
        id="r",
        name="Rig",
        host_id=rng.choice([None, "h"]),
        link_id=rng.choice([None, "l", "l", "l"]),
        dock_id=rng.choice([None, "d"]),
        card_id=rng.choice([None, "c", "c"]),
        screen_path=rng.choice(list(ScreenPath)),
        screen=rng.choice([None, Screen(width=3840, height=2160, refresh_hz=144)]),
        measured_gb_per_s=rng.choice([None, rng.uniform(0.1, 60)]),
    )
    return Contents.empty().with_records(
        {
            "hosts": {"h": Host(id="h", name="Host", supply_w=supply)},
            "links": {"l": Link(id="l", name="Link", hops=hops)},
            "docks": {"d": Dock(id="d", name="Dock", supply_w=supply)},
            "cards": {
                "c": Card(
                    id="c",
                    name="Card",
                    built_in=rng.random() < 0.1,
                    board_power_w=rng.choice([None, 75, 285]),
                    **(edge if rng.random() < 0.8 else {}),
                )
            },
            "rigs": {"r": rig},
        }
    )


def test_every_strip_agrees_with_its_ladder_and_says_a_sentence():
    rng = random.Random(SEED)
    narrow = 0
    for _ in range(BENCHES):
        contents = a_bench(rng)
        strip = rig_strip(contents, "r")
        ladder, _ = ladder_or_why(contents, contents.rigs["r"])
        expected = ladder.left_gb_per_s if ladder else None
        assert strip.left_gb_per_s[2] == expected
        known = [one for one in strip.left_gb_per_s if one is not None]
        assert all(a >= b - 1e-9 for a, b in pairwise(known)), known
        assert strip.says.strip()
        assert "None" not in strip.says + power_words(strip.power)
        assert [block.place for block in strip.blocks] == list(BLOCKS)
        if strip.narrowest is not None:
            narrow += 1
            assert strip.block(strip.narrowest).is_there or strip.narrowest is Place.HOST
        assert len(rig_rows(contents, None)) == 1
    assert narrow > BENCHES / 20


@pytest.mark.parametrize("place", list(Place))
def test_whatever_is_typed_is_taken_or_answered_with_a_sentence(place):
    rng = random.Random(f"{SEED} {place}")
    ids = iter(range(10**9))
    taken = 0
    for _ in range(BENCHES):
        contents = a_bench(rng)
        text = " ".join(rng.choice(PIECES) for _ in range(rng.randint(0, 4)))
        for do in (
            lambda: type_place(contents, ["r"], place, text, lambda: f"n{next(ids)}"),  # noqa: B023
            lambda: typed_says(contents, "r", place, text),  # noqa: B023
        ):
            try:
                made = do()
            except UserFixable as error:
                assert str(error).endswith(".")
                continue
            taken += made is not None
    assert taken


def test_whatever_a_new_rig_is_called_its_name_is_its_own():
    rng = random.Random(SEED)
    ids = iter(range(10**9))
    contents = Contents.empty()
    for _ in range(BENCHES):
        text = " ".join(rng.choice(PIECES) for _ in range(rng.randint(0, 3)))
        try:
            rig = type_rig(contents, None, text, lambda: f"n{next(ids)}").put[0]
        except UserFixable:
            continue
        contents = contents.with_records({"rigs": {rig.id: rig}})
    names = [rig.name for rig in contents.rigs.values()]
    assert len(names) == len(set(names)) > 10

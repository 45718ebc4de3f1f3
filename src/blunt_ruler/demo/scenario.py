"""The demo scenario: a public games library and its reading-room computers, all invented.

The library means to turn its Quillon 24 all-in-one computers into play stations at closing time
and wants to know which link and which card. The faults of the trade are planted on purpose; the
reviewer noticed them and set the runs aside.
"""

from dataclasses import dataclass, field

from blunt_ruler.bench.simulator import Faults
from blunt_ruler.core.records.hardware import Tick, TickState
from blunt_ruler.core.records.plan_settings import Hours, Plan
from blunt_ruler.core.records.pricing import Audience, WorthSettings
from blunt_ruler.core.records.records import (
    Case,
    Record,
    Review,
    ReviewRig,
    Role,
    TestPart,
    Title,
)
from blunt_ruler.core.records.writeup_settings import Disclosure, Terms, WriteUp
from blunt_ruler.demo.hardware import CARDS, DOCKS, HOSTS, LINKS, PRICES, READINGS, RIGS

SEED = 24
SECONDS = 30.0

RECORDER_HABITS = {
    "built-in-ig-6": "decimal comma",
    "sluice-marram-12": "plain",
    "groyne-marram-12": "preamble",
    "breakwater-marram-12": "packed",
    "workbench-marram-12": "running clock",
    "sluice-marram-8": "plain",
    "sluice-marram-16": "wide text",
    "groyne-marram-16": "preamble",
    "workbench-marram-16": "running clock",
}
"""Each station was captured with another program, so every rig's logs are laid out differently."""

TITLES = tuple(
    Title(id=name.lower().replace(" ", "-"), name=name)
    for name in (
        "Tidewrack",
        "Ninefold Siege",
        "Copper Meridian",
        "Skitter",
        "Glass Orchard",
        "Low Lantern",
    )
)


TESTS = ("Lattice", "Loom", "Sluice gate")
TEST_PARTS = {
    "Lattice": (
        TestPart(name="graphics", weight=0.85),
        TestPart(name="cpu", weight=0.15),
    ),
    "Loom": (
        TestPart(name="kernels", weight=0.7),
        TestPart(name="transfers", weight=0.3),
    ),
    "Sluice gate": (
        TestPart(name="host to card", unit="GB/s"),
        TestPart(name="card to host", unit="GB/s"),
    ),
}
TEST_TITLES = tuple(
    Title(id=name.lower().replace(" ", "-"), name=name, kind="synthetic", parts=TEST_PARTS[name])
    for name in TESTS
)
TEST_CASES = tuple(
    Case(id=title.id, title_id=title.id, method="built-in benchmark") for title in TEST_TITLES
)
"""Synthetic tests, told as scores; they stand in a section of their own and in no plan."""


def _case(title: str, scene: str, resolution: str, preset: str, live: bool = False) -> Case:
    return Case(
        id=f"{title}-{resolution}",
        title_id=title,
        scene=scene,
        method="live play" if live else "scripted route",
        resolution=resolution,
        preset=preset,
        ray_tracing="on" if title == "glass-orchard" else "",
    )


CASES = (
    _case("tidewrack", "coast run", "1080p", "High"),
    _case("tidewrack", "coast run", "1440p", "High"),
    _case("tidewrack", "coast run", "2160p", "High"),
    _case("ninefold-siege", "turn 200", "1080p", "Max"),
    _case("ninefold-siege", "turn 200", "1440p", "Max"),
    _case("copper-meridian", "night lap", "1080p", "High"),
    _case("copper-meridian", "night lap", "1440p", "High"),
    _case("skitter", "bot match", "1080p", "Low", live=True),
    _case("glass-orchard", "mirror walk", "1080p", "High"),
    _case("low-lantern", "harbour night", "1080p", "High"),
)
LINK_RIGS = tuple(rig.id for rig in RIGS[:5])
CARD_RIGS = tuple(rig.id for rig in RIGS[5:])
CARD_CASES = (
    "tidewrack-1080p",
    "tidewrack-1440p",
    "tidewrack-2160p",
    "ninefold-siege-1080p",
    "copper-meridian-1080p",
)


def _seats(base: str, tested: tuple[str, ...], reference: str) -> tuple[ReviewRig, ...]:
    return (
        ReviewRig(rig_id=base, role=Role.BASE),
        *(ReviewRig(rig_id=rig_id) for rig_id in tested),
        ReviewRig(rig_id=reference, role=Role.REFERENCE),
    )


WORTH = WorthSettings(
    tariff_per_kwh=0.32, play_h_per_week=28, idle_h_per_week=14, years=4, interest=0.03
)
AUDIENCES = (
    Audience(
        name="Evenings in the reading room",
        gain_at_least=1.5,
        low_at_least_fps=50,
        budget=800,
        noise_at_most_dba=32,
    ),
    Audience(name="A club that takes its machine along", low_at_least_fps=50, carry_at_most_kg=12),
)
WRITE_UP = WriteUp(
    byline="the library's games bench",
    disclosures=(
        Disclosure(
            what="Sluice dock",
            by="its maker",
            notes="it goes back after the tests; nothing was asked in return",
        ),
        Disclosure(what="Marram 12", terms=Terms.BOUGHT, by="the library"),
    ),
)

REVIEWS = (
    Review(
        id="which-link",
        name="Which link",
        seats=_seats(LINK_RIGS[0], LINK_RIGS[1:4], LINK_RIGS[4]),
        case_ids=tuple(case.id for case in CASES),
        worth=WORTH,
        audiences=AUDIENCES,
        writeup=WRITE_UP,
    ),
    Review(
        id="which-card",
        name="Which card",
        seats=_seats(
            LINK_RIGS[0],
            ("sluice-marram-8", "sluice-marram-12", "sluice-marram-16", "groyne-marram-16"),
            "workbench-marram-16",
        ),
        case_ids=CARD_CASES,
        worth=WORTH,
        audiences=AUDIENCES[:1],
        writeup=WRITE_UP,
    ),
)


@dataclass(frozen=True, slots=True)
class PlannedRun:
    """One run the reviewer took: what, where, and what went wrong with it."""

    rig_id: str
    case_id: str
    repeat: int
    faults: Faults = field(default_factory=Faults)
    reason: str = ""  # why it was set aside; empty for a kept run


PLANTED: dict[tuple[str, str], tuple[Faults, str]] = {
    ("sluice-marram-12", "copper-meridian-1080p"): (
        Faults(cap_fps=60.0),
        "frame cap was still at 60",
    ),
    ("workbench-marram-12", "low-lantern-1080p"): (
        Faults(menu_s=7.0),
        "recording began in the menu",
    ),
    ("groyne-marram-12", "tidewrack-1080p"): (
        Faults(wrong_output=True),
        "monitor was on the host, so the picture went back over the cord",
    ),
    ("groyne-marram-12", "copper-meridian-1440p"): (
        Faults(link_share=0.5),
        "cord came up at two lanes",
    ),
    ("breakwater-marram-12", "glass-orchard-1080p"): (
        Faults(hot=True),
        "cradle stood against the heater; clocks fell",
    ),
    ("sluice-marram-12", "skitter-1080p"): (
        Faults(recorder_on=True),
        "video recorder was running",
    ),
}


def planned_runs() -> tuple[PlannedRun, ...]:
    """Every run of the demo in the order it was taken: rig by rig, faulty passes first."""
    runs = []
    for rig_ids, case_ids, repeats in (
        (LINK_RIGS, tuple(case.id for case in CASES), 3),
        (CARD_RIGS, CARD_CASES, 2),
    ):
        for rig_id in rig_ids:
            for case_id in case_ids:
                first = 1
                if (rig_id, case_id) in PLANTED:
                    faults, reason = PLANTED[rig_id, case_id]
                    runs.append(PlannedRun(rig_id, case_id, 1, faults, reason))
                    first = 2
                runs.extend(
                    PlannedRun(rig_id, case_id, repeat) for repeat in range(first, first + repeats)
                )
    return tuple(runs)


TICKS: dict[str, tuple[tuple[str, str], ...]] = {
    "sluice-marram-12": (
        ("seat_card", ""),
        ("plug_power", ""),
        ("connect_link", ""),
        ("monitor", ""),
        ("power_on", ""),
        ("authorise", ""),
        ("driver", ""),
        ("link_under_load", "4.0 x4"),
        ("memory", "12"),
        ("power_mode", ""),
        ("no_cap", "skipped"),
        ("no_recorder", "skipped"),
        ("stress", "176"),
    ),
    "groyne-marram-12": (
        ("seat_card", ""),
        ("plug_power", ""),
        ("connect_link", ""),
        ("monitor", "skipped"),
        ("power_on", ""),
        ("driver", ""),
        ("link_under_load", "4.0 x2"),
    ),
}
"""What was ticked before the first run, with readings; the skipped steps led to planted faults."""


PLAN = Plan(
    id="which-link",
    repeats=5,
    cool_down_s=45.0,
    priorities=tuple((case.id, 5.0) for case in CASES if case.title_id == "tidewrack"),
    hours=Hours(first_day="2026-10-19", start="17:00", per_day_h=4.0, deadline="2026-10-23"),
)
"""Two more passes of everything, in the evenings before the library decides."""


def described() -> tuple[Record, ...]:
    """Everything the reviewer wrote down before the first run."""
    titles, cases = (*TITLES, *TEST_TITLES), (*CASES, *TEST_CASES)
    parts = (*HOSTS, *CARDS, *DOCKS, *LINKS, *RIGS)
    return (*parts, *titles, *cases, *REVIEWS, PLAN, *PRICES, *READINGS)


def ticked(at: str) -> tuple[Tick, ...]:
    """The pre-flight ticks, all made at one moment."""
    return tuple(
        Tick(
            id=f"{rig_id}_{step}",
            rig_id=rig_id,
            step=step,
            state=TickState.SKIPPED if reading == "skipped" else TickState.DONE,
            at=at,
            reading="" if reading == "skipped" else reading,
        )
        for rig_id, steps in TICKS.items()
        for step, reading in steps
    )

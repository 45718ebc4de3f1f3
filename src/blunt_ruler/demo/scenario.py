"""The demo scenario: a public games library and its reading-room computers, all invented.

The library means to turn its Quillon 24 all-in-one computers into play stations at closing time
and wants to know which link and which card. The faults of the trade are planted on purpose; the
reviewer noticed them and set the runs aside.
"""

from dataclasses import dataclass, field

from blunt_ruler.bench.simulator import Faults
from blunt_ruler.core.models import Case, Record, Review, Role, Seat, Title
from blunt_ruler.core.parts import (
    Adapter,
    Card,
    Dock,
    Hop,
    Host,
    Link,
    PlugKind,
    Plugs,
    Rig,
    RigState,
    Screen,
    ScreenPath,
    Tick,
    TickState,
)
from blunt_ruler.core.planning import Hours, Plan

SEED = 24
SECONDS = 30.0

HOSTS = (
    Host(
        id="quillon",
        name="Quillon 24",
        cpu="8-core mobile part, all-in-one",
        cores=8,
        sustained_power_w=35,
        memory_gb=16,
        operating_system="Linux 6.12",
        drives_tunnel=True,
        built_in_card_id="ig6",
        charging_w=90,
        ports=("USB4 40 Gb/s", "OCuLink x4", "PCIe 4.0 x8 edge"),
    ),
    Host(
        id="workbench",
        name="Workbench tower",
        cpu="12-core desktop part",
        cores=12,
        sustained_power_w=105,
        memory_gb=32,
        operating_system="Linux 6.12",
        ports=("PCIe 4.0 x16",),
    ),
)
CARDS = (
    Card(id="ig6", name="iG-6", built_in=True, driver_family="Lamplight", board_power_w=22),
    Card(
        id="m8",
        name="Marram 8",
        driver_family="Dune",
        board_power_w=115,
        power_inputs=(Plugs(kind=PlugKind.PIN_6),),
        slots_wide=2,
        length_mm=182,
        weight_kg=0.7,
        generation=4,
        lanes=8,
        vram_gb=8,
    ),
    Card(
        id="m12",
        name="Marram 12",
        driver_family="Dune",
        board_power_w=180,
        power_inputs=(Plugs(kind=PlugKind.PIN_8),),
        slots_wide=2,
        length_mm=242,
        weight_kg=1.0,
        generation=4,
        lanes=16,
        vram_gb=12,
    ),
    Card(
        id="m16",
        name="Marram 16",
        driver_family="Dune",
        board_power_w=285,
        power_inputs=(Plugs(kind=PlugKind.PIN_16, watts=300),),
        slots_wide=2.7,
        length_mm=304,
        weight_kg=1.6,
        generation=4,
        lanes=16,
        vram_gb=16,
    ),
)
DOCKS = (
    Dock(
        id="sluice",
        name="Sluice",
        supply_w=330,
        own_power_w=12,
        outlets=(Plugs(kind=PlugKind.PIN_8, count=2),),
        slots_wide=2.5,
        length_mm=310,
        charging_w=60,
    ),
    Dock(
        id="groyne",
        name="Groyne",
        supply_w=450,
        own_power_w=6,
        outlets=(Plugs(kind=PlugKind.PIN_8, count=2),),
        slots_wide=3,
        length_mm=340,
        charging_w=0,
        open_frame=True,
    ),
    Dock(
        id="breakwater",
        name="Breakwater",
        supply_w=400,
        own_power_w=8,
        outlets=(Plugs(kind=PlugKind.PIN_8),),
        slots_wide=2,
        length_mm=270,
        charging_w=0,
    ),
)
LINKS = (
    Link(
        id="cable",
        name="40 Gb/s cable",
        hops=(
            Hop(name="host port", tunnel_gbps=40),
            Hop(name="Sluice bridge", generation=4, lanes=4),
        ),
        payload_bytes=128,
        hot_plug=True,
    ),
    Link(
        id="cord",
        name="PCIe 4.0 x4 cord",
        hops=(
            Hop(name="host port", generation=4, lanes=4),
            Hop(name="cord", generation=4, lanes=4),
            Hop(name="Groyne board", generation=5, lanes=4),
        ),
        hot_plug=False,
        ribbon=True,
    ),
    Link(
        id="edge",
        name="PCIe 4.0 x8 edge",
        hops=(
            Hop(name="edge connector", generation=4, lanes=8),
            Hop(name="Breakwater cradle", generation=4, lanes=16),
        ),
        hot_plug=False,
    ),
    Link(
        id="slot",
        name="PCIe 4.0 x16 slot",
        hops=(Hop(name="tower slot", generation=4, lanes=16),),
        hot_plug=False,
    ),
)
EIGHT_PINS_TO_SIXTEEN = Adapter(
    takes=Plugs(kind=PlugKind.PIN_8, count=2), gives=Plugs(kind=PlugKind.PIN_16, watts=300)
)


# What the Sluice gate sweep read on each link, host to card.
MEASURED_GB_PER_S = {"cable": 2.6, "cord": 6.4, "edge": 12.8, "slot": 25.7}


def _rig(name: str, host: str, card: str, link: str | None = None, dock: str | None = None) -> Rig:
    return Rig(
        id=name.lower().replace(" ", "-"),
        name=name,
        host_id=host,
        card_id=card,
        dock_id=dock,
        link_id=link,
        adapters=(EIGHT_PINS_TO_SIXTEEN,) if card == "m16" and dock else (),
        measured_gb_per_s=MEASURED_GB_PER_S.get(link or ""),
        measured_how="Sluice gate sweep" if link else "",
        screen=Screen(width=1920, height=1080, refresh_hz=60),
        screen_path=(ScreenPath.MONITOR_ON_HOST if card == "ig6" else ScreenPath.MONITOR_ON_CARD),
        state=RigState(
            power_mode="performance",
            driver="Lamplight 6.2" if card == "ig6" else "Dune 41.3",
            built_in_on=True,
        ),
    )


RIGS = (
    _rig("Built-in iG-6", "quillon", "ig6"),
    _rig("Sluice Marram 12", "quillon", "m12", "cable", "sluice"),
    _rig("Groyne Marram 12", "quillon", "m12", "cord", "groyne"),
    _rig("Breakwater Marram 12", "quillon", "m12", "edge", "breakwater"),
    _rig("Workbench Marram 12", "workbench", "m12", "slot"),
    _rig("Sluice Marram 8", "quillon", "m8", "cable", "sluice"),
    _rig("Sluice Marram 16", "quillon", "m16", "cable", "sluice"),
    _rig("Groyne Marram 16", "quillon", "m16", "cord", "groyne"),
    _rig("Workbench Marram 16", "workbench", "m16", "slot"),
)
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
TEST_TITLES = tuple(
    Title(id=name.lower().replace(" ", "-"), name=name, kind="synthetic") for name in TESTS
)
TEST_CASES = tuple(
    Case(id=title.id, title_id=title.id, method="built-in benchmark") for title in TEST_TITLES
)
"""Synthetic tests, told as scores; they stand on their own page and in no review's matrix."""


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


def _seats(base: str, tested: tuple[str, ...], reference: str) -> tuple[Seat, ...]:
    return (
        Seat(rig_id=base, role=Role.BASE),
        *(Seat(rig_id=rig_id) for rig_id in tested),
        Seat(rig_id=reference, role=Role.REFERENCE),
    )


REVIEWS = (
    Review(
        id="which-link",
        name="Which link",
        seats=_seats(LINK_RIGS[0], LINK_RIGS[1:4], LINK_RIGS[4]),
        case_ids=tuple(case.id for case in CASES),
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
    return (*HOSTS, *CARDS, *DOCKS, *LINKS, *RIGS, *titles, *cases, *REVIEWS, PLAN)


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

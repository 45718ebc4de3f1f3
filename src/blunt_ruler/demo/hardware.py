"""The parts of the demo with their prices and meter readings, all invented."""

from blunt_ruler.core.records.hardware import (
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
)
from blunt_ruler.core.records.pricing import Price, Readings

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
        weight_kg=6.8,
        volume_l=24,
        cords=1,
        supply_w=120,
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
        weight_kg=9.4,
        volume_l=38,
        cords=1,
        supply_w=650,
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
        throttles_at_c=88,
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
        throttles_at_c=88,
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
        throttles_at_c=90,
    ),
)
DOCKS = (
    Dock(
        id="sluice",
        name="Sluice",
        supply_w=330,
        own_power_w=12,
        outlets=(Plugs(kind=PlugKind.PIN_6_2, count=2),),
        slots_wide=2.5,
        length_mm=310,
        charging_w=60,
        weight_kg=3.1,
        volume_l=6.5,
        cords=1,
    ),
    Dock(
        id="groyne",
        name="Groyne",
        supply_w=450,
        own_power_w=6,
        outlets=(Plugs(kind=PlugKind.PIN_6_2, count=2),),
        slots_wide=3,
        length_mm=340,
        charging_w=0,
        open_frame=True,
        weight_kg=1.9,
        volume_l=4.2,
        cords=1,
    ),
    Dock(
        id="breakwater",
        name="Breakwater",
        supply_w=400,
        own_power_w=8,
        outlets=(Plugs(kind=PlugKind.PIN_6_2),),
        slots_wide=2,
        length_mm=270,
        charging_w=0,
        volume_l=7.0,
        cords=1,  # its weight was never written down, and stays unknown
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
        cords=1,
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
        cords=1,
    ),
    Link(
        id="edge",
        name="PCIe 4.0 x8 edge",
        hops=(
            Hop(name="edge connector", generation=4, lanes=8),
            Hop(name="Breakwater cradle", generation=4, lanes=16),
        ),
        hot_plug=False,
        cords=0,
    ),
    Link(
        id="slot",
        name="PCIe 4.0 x16 slot",
        hops=(Hop(name="tower slot", generation=4, lanes=16),),
        hot_plug=False,
        cords=0,
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

PRICED_ON = "2026-10-01"
PRICES = (
    *(
        Price(id=key, amount=amount, owned=key == "quillon", date=PRICED_ON)
        for key, amount in (
            ("quillon", 980),
            ("workbench", 1090),
            ("m8", 240),
            ("m12", 390),
            ("m16", 760),
            ("sluice", 310),
            ("groyne", 165),
            ("breakwater", 285),
            ("cable", 55),
            ("cord", 30),
        )
    ),
    *(
        Price(
            id=f"monitor-{rig.id}",
            rig_id=rig.id,
            name="Monitor, 1080p",
            amount=140,
            owned=True,
            date=PRICED_ON,
        )
        for rig in RIGS
    ),
)
IDLE_WALL_W = {
    "built-in-ig-6": 28,
    "sluice-marram-12": 55,
    "groyne-marram-12": 51,
    "breakwater-marram-12": 54,
    "workbench-marram-12": 62,
    "sluice-marram-8": 52,
    "sluice-marram-16": 61,
    "groyne-marram-16": 58,
    "workbench-marram-16": 70,
}
READINGS = tuple(
    Readings(
        id=rig_id,
        rig_id=rig_id,
        idle_wall_w=idle_w,
        # Nobody looked at the thermometer beside the cradle.
        ambient_c=None if rig_id.startswith("breakwater") else 22.0,
        noise_distance_m=1.0,
        background_dba=18.0,
        date="2026-10-05",
    )
    for rig_id, idle_w in IDLE_WALL_W.items()
)

"""What a look at a machine gave, and what it says about a rig.

The looks come from `bench.probe`; here they are compared with the rig as described and watched
while a load runs.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.machine_samples import (
    BUSY,
    GENERATION,
    LANES,
    POWER,
    TEMPERATURE,
    Samples,
)
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.hardware import Card, Hop, Host, Link, Rig
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.links import BadLink, ladder_of_rig, ladder_or_why
from blunt_ruler.core.text import THIN

LOADED = 0.5  # a card at least half busy is under load
SAMPLED = ((BUSY, "% busy"), (POWER, "W"), (TEMPERATURE, "°C"))
MEMORY_TOLERANCE = 0.12  # decimal against binary gigabytes, and what the driver keeps


class NoCard(UserFixable):
    """The machine shows no graphics device to read."""


@dataclass(frozen=True, slots=True)
class LinkState:
    """A PCI Express link as the kernel tells it; None for what it does not tell."""

    address: str
    generation: int | None
    lanes: int | None
    most_generation: int | None
    most_lanes: int | None

    @property
    def is_down_trained(self) -> bool:
        """Whether it runs narrower or slower than both ends could."""
        pairs = ((self.generation, self.most_generation), (self.lanes, self.most_lanes))
        return any(now is not None and most is not None and now < most for now, most in pairs)


@dataclass(frozen=True, slots=True)
class DisplayDevice:
    """A graphics device with its link, every bridge above it, and its gauges."""

    link: LinkState
    bridges: tuple[LinkState, ...]
    vendor: str
    device: str
    busy_share: float | None
    memory_gb: float | None
    temperature_c: float | None
    power_w: float | None
    clock_mhz: float | None


@dataclass(frozen=True, slots=True)
class CpuPackage:
    """A CPU package's energy counter, in joules, and where it wraps."""

    name: str
    energy_j: float
    wraps_at_j: float | None


@dataclass(frozen=True, slots=True)
class Machine:
    """What a look at a machine gave."""

    root: str
    displays: tuple[DisplayDevice, ...]
    packages: tuple[CpuPackage, ...]
    cores: int | None
    load_1_min: float | None
    driver: str = ""
    faults: tuple[str, ...] = ()


def card_seen(machine: Machine) -> DisplayDevice:
    """The add-in card of a machine: the display device with most memory, then most lanes.

    Raises NoCard where there is no display device at all.
    """
    if not machine.displays:
        raise NoCard(
            machine.root, "no graphics device was found", "Check that the card is powered and seen"
        )
    return max(
        machine.displays, key=lambda device: (device.memory_gb or 0.0, device.link.most_lanes or 0)
    )


def path_of(device: DisplayDevice) -> tuple[LinkState, ...]:
    """The links from the host down to the card, the bridges first."""
    return (*reversed(device.bridges), device.link)


def device_line(device: DisplayDevice) -> str:
    """A device in one sentence: its link, and its gauges where there are any."""
    link = device.link
    now = link_words(link.generation, link.lanes)
    most = link_words(link.most_generation, link.most_lanes)
    if now:
        said = f"{link.address} runs at {now}"
        if link.is_down_trained and link.most_lanes and link.most_generation:
            said += f" of {most.removeprefix('PCIe ')}"
    else:
        said = f"{link.address} reports no link"
        if most:
            said = f"{link.address} reports what the link can be, {most}, but not what it is"
    gauges = [
        f"{value:.0f} {unit}"
        for value, unit in (
            (device.temperature_c, "°C"),
            (device.power_w, "W"),
            (device.clock_mhz, "MHz"),
            (None if device.busy_share is None else 100 * device.busy_share, "% busy"),
        )
        if value is not None
    ]
    return f"{said}; {', '.join(gauges)}." if gauges else f"{said}."


def besides_line(machine: Machine) -> str:
    """What a pasted text told besides the link: its driver, and codes of errors."""
    said = [f"driver version {machine.driver}"] if machine.driver else []
    said += machine.faults[:3]
    return f"Besides: {', '.join(said)}." if said else ""


def link_words(generation: int | None, lanes: int | None) -> str:
    """A link, or the part that is known of it: “PCIe 3.0 x4”, “x4”; empty where none is."""
    said = [f"PCIe {generation}.0"] if generation else []
    return " ".join([*said, f"x{lanes}"] if lanes else said)


@dataclass(frozen=True, slots=True)
class Mismatch:
    """Something the machine shows that the rig does not say."""

    what: str
    described: str
    seen: str


def compare_with_rig(contents: Contents, rig_id: str, machine: Machine) -> tuple[Mismatch, ...]:
    """Where the machine and the rig as described disagree. Raises NoCard without a card."""
    device = card_seen(machine)
    found: list[Mismatch] = []
    rig = contents.rigs[rig_id]
    host, card = contents.host_of(rig_id), contents.card_of(rig_id)
    try:
        ladder = ladder_of_rig(rig, contents.link_of(rig_id), card)
        most, least = ladder.at_card, ladder.should_come_up
    except BadLink:
        most = least = None
    lanes, generation = device.link.lanes, device.link.generation
    if most and least:
        if lanes is not None and not least.lanes <= lanes <= most.lanes:
            found.append(Mismatch("lanes", str(most.lanes), str(lanes)))
        if generation is not None and not least.generation <= generation <= most.generation:
            found.append(Mismatch("generation", f"{most.generation}.0", f"{generation}.0"))
    if card is not None and card.vram_gb and device.memory_gb:
        # Drivers tell bytes; makers name binary gigabytes.
        seen = device.memory_gb / 1.073741824
        if abs(seen - card.vram_gb) > MEMORY_TOLERANCE * card.vram_gb:
            found.append(Mismatch("memory", f"{card.vram_gb:g} GB", f"{seen:.1f} GB"))
    if host is not None and host.cores and machine.cores and host.cores != machine.cores:
        found.append(Mismatch("cores", str(host.cores), str(machine.cores)))
    return tuple(found)


def comparison_line(name: str, mismatches: Sequence[Mismatch], who: str = "This machine") -> str:
    """The comparison in one sentence."""
    if not mismatches:
        return f"{who} shows nothing that contradicts {name} as described."
    said = ", ".join(f"{one.what} {one.seen}, not {one.described}" for one in mismatches)
    return f"{who} is not {name} as described: {said}."


def watch_line(device: DisplayDevice, expected_lanes: int | None, expected_gen: int | None) -> str:
    """One look of the live strip: a link that is narrow or slow under load is flagged; a link
    that drops its speed at idle is normal."""
    link = device.link
    if link.lanes is None or link.generation is None:
        return "The system does not report the link."
    lanes = expected_lanes or min(
        (one.most_lanes for one in path_of(device) if one.most_lanes), default=link.lanes
    )
    generation = expected_gen or link.most_generation or link.generation
    now = f"PCIe {link.generation}.0 x{link.lanes}"
    if link.lanes < lanes:
        return f"Narrow: {now} where {lanes} lanes are expected. Reseat the link, then restart."
    if link.generation < generation:
        if device.busy_share is None:
            return f"{now}, below generation {generation}: read it again while a load runs."
        if device.busy_share < LOADED:
            return f"{now} at idle: a link that slows down when idle is normal."
        return f"Slow under load: {now} where generation {generation} is expected."
    return f"{now}, as it should be."


def samples_line(samples: Samples, lanes: int | None, generation: int | None) -> str:
    """What a sampled machine says now, and whether its link came up as the rig says."""
    told = {name: values[-1] for name, values in samples.channels.items() if values.size}
    now, speed, busy = told.get(LANES), told.get(GENERATION), told.get(BUSY)
    said = [
        f"{value:.0f}{THIN}{unit}"
        for name, unit in SAMPLED
        if (value := told.get(name)) is not None and value == value
    ]
    gauges = f": card {', '.join(said)}" if said else ""
    if now is None or now != now or speed is None or speed != speed:
        return f"The system does not report the link{gauges}."
    link = f"PCIe {speed:.0f}.0 x{now:.0f}"
    if lanes and now < lanes:
        return (
            f"{link} where the rig says {lanes} lanes: the state did not take. Reseat or set it "
            "again, restart, and read it again."
        )
    if generation and speed < generation and busy is not None and busy >= 100 * LOADED:
        return (
            f"{link} under load where the rig says generation {generation}: the state did not "
            "take. Set it again, restart, and read it again."
        )
    return f"{link}{gauges}."


def expected_link(contents: Contents, rig: Rig) -> tuple[int | None, int | None]:
    """Lanes and generation that a rig's link should agree on, None where nothing tells."""
    ladder, _ = ladder_or_why(contents, rig)
    agreed = ladder.should_come_up if ladder else None
    return (agreed.lanes, agreed.generation) if agreed else (None, None)


def fill_rig(contents: Contents, rig_id: str, machine: Machine, new_id: Callable[[], str]) -> Edit:
    """Fill in a rig's own parts from a machine; parts it lacks are made.

    NoCard where the machine shows none.
    """
    rig = contents.rigs[rig_id]
    host = contents.host_of(rig_id) or Host(id=new_id(), name=f"Host of {rig.name}")
    card = contents.card_of(rig_id) or Card(id=new_id(), name=f"Card of {rig.name}")
    link = contents.link_of(rig_id) or Link(id=new_id(), name=f"Link of {rig.name}")
    host, card, link = described_by(machine, host, card, link)
    update: dict[str, object] = {"host_id": host.id, "card_id": card.id, "link_id": link.id}
    if machine.driver:
        update["state"] = rig.state.model_copy(update={"driver": machine.driver})
    filled = rig.model_copy(update=update)
    return Edit(f"fill in {rig.name} from the machine", (host, card, link, filled))


def described_by(machine: Machine, host: Host, card: Card, link: Link) -> tuple[Host, Card, Link]:
    """Parts filled in from a machine: cores, memory of the card, its edge, and the hops seen.

    What the machine does not tell stays as it was. Raises NoCard without a card.
    """
    device = card_seen(machine)
    host = host.model_copy(update={"cores": machine.cores or host.cores})
    edge = device.link
    memory = round(device.memory_gb / 1.073741824) if device.memory_gb else card.vram_gb
    card = card.model_copy(
        update={
            "generation": edge.most_generation or card.generation,
            "lanes": edge.most_lanes or card.lanes,
            "vram_gb": memory,
        }
    )
    hops = tuple(
        Hop(name=one.address, generation=one.most_generation, lanes=one.most_lanes)
        for one in reversed(device.bridges)
        if one.most_generation and one.most_lanes in (1, 2, 4, 8, 16)
    )
    # A tunnel's own bridges tell a made-up speed; its rate is not theirs to tell.
    if hops and not any(hop.tunnel_gbps for hop in link.hops):
        link = link.model_copy(update={"hops": hops})
    return host, card, link

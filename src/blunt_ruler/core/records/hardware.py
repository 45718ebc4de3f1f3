"""What is measured: hosts, cards, docks, links, and the rigs they make up.

Immutable values, checked once when they are made. They name each other by id, so that a part
can be corrected in one place. Each field is declared once, with its unit, its bounds and what it
is; the forms of the Bench derive from that.
"""

from enum import StrEnum
from typing import Annotated, Literal, Self, TypeAlias

from pydantic import Field, model_validator

from blunt_ruler.core.values import Name, Value, Words, quantity, words

Generation: TypeAlias = Annotated[int, Field(ge=1, le=6)]
Lanes: TypeAlias = Literal[1, 2, 4, 8, 16]


SENSE_LEVELS_W = (150, 300, 450, 600)  # of a 12V-2x6 plug


class PlugKind(StrEnum):
    """Power plugs of graphics cards and what feeds them."""

    PIN_6 = "6-pin"
    PIN_8 = "8-pin"
    PIN_6_2 = "6+2-pin"
    PIN_16 = "12V-2x6"
    SATA = "SATA"
    PERIPHERAL = "4-pin"
    BARREL = "barrel"
    USB_C = "USB-C"


class Plugs(Value):
    """Power plugs of one kind, counted: what a supply offers or a card asks for.

    `watts` is the sense level of a 12V-2x6 plug, or what a barrel or USB-C plug is rated for; the
    others have theirs by their standard.
    """

    kind: PlugKind
    count: int = Field(1, ge=1, le=12)
    watts: int | None = Field(None, ge=1, le=1000)

    @model_validator(mode="after")
    def _has_such_a_level(self) -> Self:
        rated = self.kind in (PlugKind.BARREL, PlugKind.USB_C)
        if self.watts is not None and not rated and self.watts not in SENSE_LEVELS_W:
            raise ValueError("give a sense level of 150, 300, 450 or 600 W")
        return self


class Adapter(Value):
    """A cable that makes one kind of plug from others."""

    takes: Plugs
    gives: Plugs


class SlotFeed(StrEnum):
    """Who supplies the power that a card may draw through its slot."""

    SUPPLY = "the supply"
    HOST = "the host"
    SATA = "a SATA plug"


class Host(Value):
    """A computer without any add-in card."""

    id: str
    name: Name
    cpu: Words = words("CPU")
    cores: int | None = Field(None, ge=1, le=256, description="cores")
    sustained_power_w: float | None = quantity("W", "sustained CPU power", most=2000)
    memory_gb: float | None = quantity("GB", "memory", above=0, most=8192)
    operating_system: Words = words("operating system")
    drives_tunnel: bool | None = Field(None, description="can drive a tunnel")
    built_in_card_id: str | None = Field(None, description="built-in graphics")
    charging_w: float | None = quantity("W", "charging it asks for", most=300)
    ports: tuple[Name, ...] = Field((), description="ports")
    supply_w: float | None = quantity("W", "supply", above=0, most=5000)
    weight_kg: float | None = quantity("kg", "weight, its supply included", above=0, most=200)
    volume_l: float | None = quantity("l", "room it takes", above=0, most=1000)
    cords: int | None = Field(None, ge=0, le=20, description="mains leads")
    notes: Words = words("notes")


class Card(Value):
    """A GPU: built into a host, or on a board of its own."""

    id: str
    name: Name
    built_in: bool = Field(False, description="built into a host")
    form: Words = words("desktop or mobile variant")
    soldered: bool = Field(False, description="soldered in, not to be exchanged")
    driver_family: Words = words("driver family")
    board_power_w: float | None = quantity("W", "board power", most=2000)
    power_inputs: tuple[Plugs, ...] = Field((), description="power inputs")
    slots_wide: float | None = quantity("slots", "width", above=0, most=6)
    length_mm: float | None = quantity("mm", "length", above=0, most=600)
    weight_kg: float | None = quantity("kg", "weight", above=0, most=10)
    generation: Generation | None = Field(None, description="PCI Express generation")
    lanes: Lanes | None = Field(None, description="PCI Express lanes")
    vram_gb: float | None = quantity("GB", "memory", above=0, most=512)
    memory_type: Words = words("memory type")
    throttles_at_c: float | None = quantity("°C", "slows down at", above=0, most=150)
    notes: Words = words("notes")


class Dock(Value):
    """What holds an add-in card outside the host: box, board or tower slot."""

    id: str
    name: Name
    supply_w: float | None = quantity("W", "supply", most=5000)
    own_power_w: float | None = quantity("W", "its own draw", most=500)
    outlets: tuple[Plugs, ...] = Field((), description="power outlets")
    slot_feed: SlotFeed = Field(SlotFeed.SUPPLY, description="slot power comes from")
    slots_wide: float | None = quantity("slots", "room in width", above=0, most=12)
    length_mm: float | None = quantity("mm", "room in length", above=0, most=1000)
    charging_w: float | None = quantity("W", "charging for the host", most=300)
    sockets: tuple[Name, ...] = Field((), description="sockets beside the slot")
    beside: Words = words("hub, network, storage, screens of its own")
    open_frame: bool = Field(False, description="open board, without a case")
    sealed: bool = Field(False, description="card built in, not to be exchanged")
    weight_kg: float | None = quantity("kg", "weight, its supply included", above=0, most=200)
    volume_l: float | None = quantity("l", "room it takes", above=0, most=1000)
    cords: int | None = Field(None, ge=0, le=20, description="mains leads")
    notes: Words = words("notes")

    @property
    def is_fed_by_host(self) -> bool:
        """Whether it has no supply of its own: it is on when the host is."""
        return not self.supply_w and self.slot_feed is SlotFeed.HOST


def is_fixed(card: Card | None, dock: Dock | None) -> bool:
    """Whether the card cannot be taken out: soldered in, or built into its box."""
    return (card is not None and card.soldered) or (dock is not None and dock.sealed)


class Hop(Value):
    """One stretch of a link: PCI Express at a generation and width, or a tunnel at a rate.

    Where only a range is known, these are the most it may be, and `*_least` the least.
    """

    name: Name
    generation: Generation | None = None
    lanes: Lanes | None = None
    tunnel_gbps: float | None = Field(None, gt=0, le=1000)
    generation_least: Generation | None = None
    lanes_least: Lanes | None = None
    gbps_least: float | None = Field(None, gt=0, le=1000)

    @model_validator(mode="after")
    def _ranges_go_up(self) -> Self:
        for least, most in (
            (self.generation_least, self.generation),
            (self.lanes_least, self.lanes),
            (self.gbps_least, self.tunnel_gbps),
        ):
            if least is not None and (most is None or least >= most):
                raise ValueError("give the least it may be below the most")
        return self

    @property
    def is_open(self) -> bool:
        """Whether only a range is known of it."""
        return (self.generation_least or self.lanes_least or self.gbps_least) is not None

    def slowest(self) -> "Hop":
        """The same at the least it may be."""
        if not self.is_open:
            return self
        return Hop(
            name=self.name,
            generation=self.generation_least or self.generation,
            lanes=self.lanes_least or self.lanes,
            tunnel_gbps=self.gbps_least or self.tunnel_gbps,
        )


class Blanking(StrEnum):
    """What a display stream carries beside its active pixels."""

    NONE = "none, active pixels only"
    STANDARD = "standard"
    REDUCED = "reduced"
    REDUCED_V2 = "reduced, version 2"


class Screen(Value):
    """A picture: active pixels, refresh rate, and bits per pixel."""

    width: int = Field(ge=16, le=16384)
    height: int = Field(ge=16, le=16384)
    refresh_hz: float = Field(gt=0, le=1000)
    bits_per_pixel: int = Field(32, ge=8, le=64)


class Way(StrEnum):
    """Which way over a link a device's data goes."""

    BOTH = "both ways"
    TO_IT = "to it"
    FROM_IT = "from it"


class Device(Value):
    """Something else on the link that is no graphics card: a capture card, a network, storage.

    `gb_per_s` is what it takes while the game runs; None where nobody said.
    """

    name: Name
    gb_per_s: float | None = Field(None, gt=0, le=200)
    way: Way = Way.BOTH


class Link(Value):
    """The path from host to card."""

    id: str
    name: Name
    hops: tuple[Hop, ...] = Field((), description="hops, from the host on")
    length_m: float | None = quantity("m", "length of the cord", above=0, most=100)
    payload_bytes: Literal[128, 256, 512] = Field(256, description="maximum payload, bytes")
    display: Screen | None = Field(None, description="display stream in the tunnel")
    display_blanking: Blanking = Field(Blanking.NONE, description="its blanking")
    devices: tuple[Device, ...] = Field(
        (),
        description="other devices on it",
        json_schema_extra={"example": "capture card 0.5 GB/s from it"},
    )
    hot_plug: bool | None = Field(None, description="made to be plugged while running")
    ribbon: bool = Field(False, description="a ribbon or flat cord")
    cords: int | None = Field(None, ge=0, le=20, description="cords of its own")
    notes: Words = words("notes")


class ScreenPath(StrEnum):
    """Where the picture goes."""

    MONITOR_ON_CARD = "monitor on the card"
    SENT_BACK = "picture sent back to the host's panel"
    MONITOR_ON_HOST = "monitor on the host"


class RigState(Value):
    """What can be changed without a screwdriver and still changes results."""

    power_mode: Words = words("power mode")
    dock_mode: Words = words("mode of the dock")
    card_mode: Words = words("mode of the card")
    driver: Words = words("driver")
    cpu_power_limit_w: float | None = quantity("W", "CPU power limit", most=2000)
    card_power_limit_w: float | None = quantity("W", "card power limit", above=0, most=2000)
    resizable_bar: bool | None = Field(None, description="resizable BAR")
    built_in_on: bool = Field(True, description="built-in graphics on")
    built_in_memory_gb: float | None = quantity(
        "GB", "memory given to the built-in graphics", above=0, most=512
    )
    overclock: Words = words("overclock")


class Rig(Value):
    """Host, card, dock, link, screen path and state: the thing that is measured."""

    id: str
    name: Name
    host_id: str | None = Field(None, description="host")
    card_id: str | None = Field(None, description="card")
    dock_id: str | None = Field(None, description="dock")
    link_id: str | None = Field(None, description="link")
    adapters: tuple[Adapter, ...] = Field((), description="power adapters")
    screen_path: ScreenPath = Field(ScreenPath.MONITOR_ON_CARD, description="picture goes to")
    screen: Screen | None = Field(None, description="screen")
    measured_gb_per_s: float | None = quantity(
        "GB/s", "measured bandwidth, host to card", above=0, most=200
    )
    measured_how: Words = words("measured how")
    modified: Words = words("cut, bent or moved to make it fit")
    driver_switch_min: float | None = quantity("min", "switching drivers at each docking", most=600)
    settings_min: float | None = quantity("min", "settings of each game at docking", most=600)
    opening_min: float | None = quantity("min", "opening a lid or panel at docking", most=600)
    restart_at_docking: bool | None = Field(None, description="restart at each docking")
    unplug_idle: Words = words("unplugged while idle")
    unplug_game: Words = words("unplugged in a game")
    unplug_asleep: Words = words("unplugged while asleep")
    ports_where: Words = words("ports and where they sit")
    sweep: tuple[tuple[float, float], ...] = ()  # (block in MB, GB/s), from small blocks to large
    state: RigState = RigState()
    source: Words = words("published by")
    source_date: Words = words("published on")
    source_differs: Words = words("what differs from own rigs")
    source_spread: float | None = quantity("of 1", "spread assumed of them", above=0, most=0.5)
    origin: Words = words("brought in from")
    notes: Words = words("notes")


class TickState(StrEnum):
    """What was done about a pre-flight step."""

    DONE = "done"
    SKIPPED = "skipped"


class Tick(Value):
    """A pre-flight step done or skipped on a rig, when, and the reading it gave."""

    id: str
    rig_id: str
    step: str
    state: TickState
    at: str
    reading: Words = ""

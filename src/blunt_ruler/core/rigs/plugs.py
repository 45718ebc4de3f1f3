"""Which outlet feeds which power input: every plug by itself, none used twice.

What each carries is by its standard (transcribed from memory): a 6-pin plug 75 W, an 8-pin plug
150 W (PCI Express CEM), a 12V-2x6 plug what its sense level says, a SATA plug 4.5 A at 12 V, which
is 54 W; a 4-pin peripheral plug 5 A at 12 V, which is 60 W (common practice, no source); a barrel
or USB-C plug what it is rated for. A 6+2-pin lead serves an 8-pin or a 6-pin input.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from blunt_ruler.core.records.hardware import Adapter, PlugKind, Plugs

SATA_W = 54.0
PERIPHERAL_W = 60.0
PLUG_W = {
    PlugKind.PIN_6: 75.0,
    PlugKind.PIN_8: 150.0,
    PlugKind.PIN_6_2: 150.0,
    PlugKind.SATA: SATA_W,
    PlugKind.PERIPHERAL: PERIPHERAL_W,
}
UNSENSED_W = 150.0  # a 12V-2x6 plug without a stated sense level: its lowest

# What serves an input, the plainest first.
SERVES = {
    PlugKind.PIN_6: (PlugKind.PIN_6, PlugKind.PIN_6_2, PlugKind.PIN_8),
    PlugKind.PIN_8: (PlugKind.PIN_8, PlugKind.PIN_6_2),
    PlugKind.PIN_6_2: (PlugKind.PIN_6_2, PlugKind.PIN_8),
    PlugKind.PIN_16: (PlugKind.PIN_16,),
    PlugKind.SATA: (PlugKind.SATA,),
    PlugKind.PERIPHERAL: (PlugKind.PERIPHERAL,),
    PlugKind.BARREL: (PlugKind.BARREL,),
    PlugKind.USB_C: (PlugKind.USB_C,),
}


@dataclass(frozen=True, slots=True)
class Plug:
    """One plug and what it carries, W."""

    kind: PlugKind
    watts: float


@dataclass(frozen=True, slots=True)
class Fed:
    """How a card's inputs are fed.

    Attributes:
        short: inputs that no outlet is left for: (plugs wanted, how many of them found one).
        weak: 12V-2x6 inputs whose outlet has a lower sense level: (asked W, level W).
        if_split: 6-pin inputs that only an 8-pin outlet is left for: it serves if its lead is 6+2.
        stuck: adapters whose plugs are not there: (adapter, how many of the kind were free).
    """

    short: tuple[tuple[Plugs, int], ...] = ()
    weak: tuple[tuple[float, float], ...] = ()
    if_split: int = 0
    stuck: tuple[tuple[Adapter, int], ...] = ()


def each(plugs: Iterable[Plugs]) -> list[Plug]:
    """Plugs one by one."""
    return [
        Plug(one.kind, PLUG_W.get(one.kind, float(one.watts or UNSENSED_W)))
        for one in plugs
        for _ in range(one.count)
    ]


def feed(
    inputs: Sequence[Plugs],
    outlets: Sequence[Plugs],
    adapters: Sequence[Adapter] = (),
    unstated_w: float = 0.0,
) -> Fed:
    """Give every input an outlet, adapters first. `unstated_w` is asked of a 12V-2x6 input that
    states no sense level.
    """
    free = each(outlets)
    stuck = []
    for adapter in adapters:
        taken = _take(free, adapter.takes.kind, adapter.takes.count)
        if len(taken) < adapter.takes.count:
            free += taken
            stuck.append((adapter, len(taken)))
            continue
        free += each([adapter.gives])
    short: list[tuple[Plugs, int]] = []
    weak: list[tuple[float, float]] = []
    if_split = 0
    # Inputs that fewest outlets serve, and those that ask most, choose first.
    for wanted in sorted(inputs, key=lambda one: (len(SERVES[one.kind]), -(one.watts or 0))):
        asked = wanted.watts or unstated_w / wanted.count
        got = 0
        for _ in range(wanted.count):
            plug = _best(free, wanted.kind, asked)
            if plug is None:
                continue
            free.remove(plug)
            got += 1
            if wanted.kind is PlugKind.PIN_16 and asked > plug.watts:
                weak.append((asked, plug.watts))
            if wanted.kind is PlugKind.PIN_6 and plug.kind is PlugKind.PIN_8:
                if_split += 1
        if got < wanted.count:
            short.append((wanted, got))
    return Fed(tuple(short), tuple(weak), if_split, tuple(stuck))


def _take(free: list[Plug], kind: PlugKind, count: int) -> list[Plug]:
    """Up to `count` plugs that serve a kind, taken out of what is free."""
    taken: list[Plug] = []
    while len(taken) < count and (plug := _best(free, kind, 0.0)) is not None:
        free.remove(plug)
        taken.append(plug)
    return taken


def _best(free: Sequence[Plug], kind: PlugKind, asked_w: float) -> Plug | None:
    """The plainest free plug that serves a kind: the weakest that is enough, else the strongest."""
    for served in SERVES[kind]:
        there = sorted((one for one in free if one.kind is served), key=lambda one: one.watts)
        if there:
            return next((one for one in there if one.watts >= asked_w), there[-1])
    return None

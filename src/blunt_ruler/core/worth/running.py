"""What a rig draws, how hot and loud it runs, and what there is to carry."""

from collections.abc import Iterable
from typing import NamedTuple

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.measure.telemetry import Gauge, GaugeDigest
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.hardware import ScreenPath, is_fixed
from blunt_ruler.core.records.pricing import Readings
from blunt_ruler.core.records.records import Contents, Run
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.rigs.compatibility import supply_load_w
from blunt_ruler.core.rigs.daily import docking_minutes
from blunt_ruler.core.worth.answers import Answer, asked, derive, known, total, unknown
from blunt_ruler.core.worth.noise import at_distance, mean_level, sum_levels, without_background


class Shown(NamedTuple):
    """What meters and gauges showed over some runs: how hot the card got in each, °C, the gauges
    of its clock, and levels of noise, dB(A).
    """

    hottest_c: tuple[float, ...]
    clocks: tuple[GaugeDigest, ...]
    levels_dba: tuple[float, ...]


def shown_over(
    board: Board, rig_id: str, cases: Iterable[str], handover: Handover | None = None
) -> Shown:
    """What was shown over the runs of a rig on some cases that figures are made of."""
    runs = tuple(board.runs.get((rig_id, case_id), ()) for case_id in cases)
    counted = (run for of_cell in runs for run in of_cell if board.is_counted(run))
    reads = runs, board.past
    return (handover or Handover()).of(("shown", rig_id), reads, lambda: _shown(tuple(counted)))


def _shown(runs: tuple[Run, ...]) -> Shown:
    hottest, clocks, levels = [], [], []
    for run in runs:
        heat, clock, noise = (
            run.observed.gauge(gauge) if run.observed else None
            for gauge in (Gauge.CARD_TEMPERATURE, Gauge.CARD_CLOCK, Gauge.NOISE)
        )
        if run.meters is not None and run.meters.card_c is not None:
            hottest.append(run.meters.card_c)
        elif heat is not None:
            hottest.append(heat.high)
        if clock is not None and clock.start > 0:
            clocks.append(clock)
        if run.meters is not None and run.meters.noise_dba is not None:
            levels.append(run.meters.noise_dba)
        elif noise is not None:
            levels.append(noise.mean)
    return Shown(tuple(hottest), tuple(clocks), tuple(levels))


def _readings(contents: Contents, rig_id: str) -> Readings:
    return contents.readings.get(rig_id) or Readings(id=rig_id, rig_id=rig_id)


def idle_w(contents: Contents, rig_id: str) -> Answer:
    """Power at the wall while nothing runs, W."""
    name = contents.rigs[rig_id].name
    return asked(_readings(contents, rig_id).idle_wall_w, f"the idle wall power of {name}")


def supply_free(contents: Contents, rig_id: str, load_w: Answer) -> Answer:
    """1 − load / rating: by ratings for a dock, by the wall meter for a host.

    A wall reading holds the supply's own loss too, so the share left is a little larger.
    """
    card, dock, host = contents.card_of(rig_id), contents.dock_of(rig_id), contents.host_of(rig_id)
    if dock is not None and dock.supply_w == 0:
        return Answer(None)  # it has none: there is no share of it
    if dock is not None and card is not None and not card.built_in:
        supply = asked(dock.supply_w, f"the supply of {dock.name}")
        power = asked(card.board_power_w, f"the board power of {card.name}")
        return derive(lambda rating, _: 1.0 - supply_load_w(card, dock)[0] / rating, supply, power)
    if host is None:
        return unknown(f"the host of {contents.rigs[rig_id].name}")
    return derive(
        lambda rating, load: 1.0 - load / rating,
        asked(host.supply_w, f"the supply of {host.name}"),
        load_w,
    )


def card_c(contents: Contents, rig_id: str, shown: Shown) -> Answer:
    """The hottest that the card got over some runs, °C: meters first, else 95th percentiles."""
    if not shown.hottest_c:
        return unknown(f"a temperature of the card in {contents.rigs[rig_id].name}")
    return known(max(shown.hottest_c))


def over_ambient(contents: Contents, rig_id: str, hottest: Answer) -> Answer:
    """How far the card gets above the air around it, K."""
    name = contents.rigs[rig_id].name
    air = asked(_readings(contents, rig_id).ambient_c, f"the air temperature around {name}")
    return derive(lambda hot, cool: hot - cool, hottest, air)


def below_throttle(contents: Contents, rig_id: str, hottest: Answer) -> Answer:
    """How far the card stays below the temperature at which it slows down, K."""
    card = contents.card_of(rig_id)
    if card is None:
        return unknown(f"the card of {contents.rigs[rig_id].name}")
    limit = asked(card.throttles_at_c, f"the temperature at which {card.name} slows down")
    return derive(lambda most, hot: most - hot, limit, hottest)


def slowed_runs(contents: Contents, rig_id: str, shown: Shown, thresholds: Thresholds) -> Answer:
    """How many runs the card's clock fell in by more than the review's line for drift."""
    if not shown.clocks:
        return unknown(f"a clock of the card in {contents.rigs[rig_id].name}")
    most = thresholds.clock_drift
    return known(sum(1.0 - gauge.end / gauge.start > most for gauge in shown.clocks))


def noise_dba(contents: Contents, rig_id: str, shown: Shown, listener_m: float) -> Answer:
    """Noise under load at the listener, dB(A): sources read apart, summed; else the runs' meter.

    The room's own noise is taken out where it was read. A level within 3 dB of the room says
    nothing of the rig and stays unknown.
    """
    name, readings = contents.rigs[rig_id].name, _readings(contents, rig_id)
    if readings.noise:
        parts: list[tuple[float, float | None]] = [
            (one.dba, listener_m if one.at_seat else one.distance_m) for one in readings.noise
        ]
    else:
        if not shown.levels_dba:
            return unknown(f"a noise reading of {name}")
        distance_m = listener_m if readings.noise_at_seat else readings.noise_distance_m
        if distance_m is None:
            return unknown(f"the distance of the noise meter at {name}")
        parts = [(mean_level(shown.levels_dba), distance_m)]
    clear = []
    for level, distance_m in parts:
        if distance_m is None:
            return unknown(f"the distance of every noise reading of {name}")
        alone = without_background(level, readings.background_dba)
        if alone is None:
            return unknown(f"a reading of {name} above the room's noise")
        clear.append(at_distance(alone, distance_m, listener_m))
    return known(sum_levels(clear))


def docking_min(contents: Contents, rig_id: str) -> Answer:
    """What each docking takes, min; nothing is missing where nobody spoke of it. What is described
    without a dock is not docked.
    """
    rig = contents.rigs[rig_id]
    is_whole = rig.host_id is not None and rig.card_id is not None
    none = 0.0 if is_whole and rig.dock_id is None else None
    said = docking_minutes(rig)
    return Answer(none if said is None else said)


def weight_kg(contents: Contents, rig_id: str) -> Answer:
    """Host, dock and card with their supplies, kg."""
    host = contents.host_of(rig_id)
    own = (
        asked(host.weight_kg, f"the weight of {host.name}")
        if host
        else unknown(f"the host of {contents.rigs[rig_id].name}")
    )
    return total((own, beside_kg(contents, rig_id)))


def beside_kg(contents: Contents, rig_id: str) -> Answer:
    """What is carried beside the host: dock and card, kg. What a card weighs that cannot be taken
    out is part of what it is built into, where nobody weighed it.
    """
    card, dock = contents.card_of(rig_id), contents.dock_of(rig_id)
    parts = []
    if dock is not None:
        parts.append(asked(dock.weight_kg, f"the weight of {dock.name}"))
    weighed = card is not None and (card.weight_kg is not None or not is_fixed(card, dock))
    if card is not None and not card.built_in and weighed:
        parts.append(asked(card.weight_kg, f"the weight of {card.name}"))
    return total(parts)


def volume_l(contents: Contents, rig_id: str) -> Answer:
    """Room that host and dock take, l; a card sits inside one of them."""
    host, dock = contents.host_of(rig_id), contents.dock_of(rig_id)
    boxes = [box for box in (host, dock) if box is not None]
    if not boxes:
        return unknown(f"the host of {contents.rigs[rig_id].name}")
    return total(asked(box.volume_l, f"the room that {box.name} takes") for box in boxes)


def cables(contents: Contents, rig_id: str) -> Answer:
    """Mains leads of host and dock, cords of the link, and one for a monitor."""
    rig = contents.rigs[rig_id]
    host, dock = contents.host_of(rig_id), contents.dock_of(rig_id)
    link = contents.link_of(rig_id)
    parts = [known(0.0 if rig.screen_path is ScreenPath.SENT_BACK else 1.0)]
    parts += [asked(box.cords, f"the mains leads of {box.name}") for box in (host, dock) if box]
    if link is not None:
        parts.append(asked(link.cords, f"the cords of the {link.name}"))
    return total(parts)

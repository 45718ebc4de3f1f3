"""The pre-flight list of a rig: what to do, in order, before the first frame is drawn.

Made from the rig's parts, so that it names this card and these plugs. Skipping a step is allowed
and stays visible on every run that followed.
"""

from dataclasses import dataclass
from enum import StrEnum

from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.hardware import Link, ScreenPath, Tick, TickState, is_fixed
from blunt_ruler.core.records.records import Contents, Run
from blunt_ruler.core.rigs.dial import dialled_state
from blunt_ruler.core.rigs.links import BadLink, has_tunnel, ladder_of_rig
from blunt_ruler.core.rigs.notation import BadSpec, parse_hop, plugs_text
from blunt_ruler.core.text import amount, count_text

HEAVY_KG = 1.2
REACHED = 0.95  # of the board power counts as the card's limit


class Reading(StrEnum):
    """What kind of reading belongs to a step."""

    NONE = ""
    LINK = "link"
    GIGABYTES = "GB"
    WATTS = "W"
    WORDS = "words"

    @property
    def unit(self) -> str:
        """Its unit; a link and words have none."""
        return str(self) if self in (Reading.GIGABYTES, Reading.WATTS) else ""


@dataclass(frozen=True, slots=True)
class Step:
    """One step: what to do, which cautions belong to it, which reading it gives.

    `expected` is what the rig's description says the reading should be.
    """

    key: str
    do: str
    cautions: tuple[str, ...] = ()
    reading: Reading = Reading.NONE
    expected: str = ""
    optional: bool = False  # a test of its own: what it showed is told, it holds nothing up


def steps_for(contents: Contents, rig_id: str) -> tuple[Step, ...]:
    """The steps of a rig in the order they are done."""
    rig = contents.rigs[rig_id]
    host, card = contents.host_of(rig_id), contents.card_of(rig_id)
    dock, link = contents.dock_of(rig_id), contents.link_of(rig_id)
    host_name = host.name if host else "the host"
    add_in = card is not None and not card.built_in
    tunnel = link is not None and has_tunnel(link)
    steps: list[Step] = []
    if add_in and card is not None and not is_fixed(card, dock):
        holder = f" of {dock.name}" if dock else ""
        cautions = ["power_off", "never_open", "earth", "cutting"]
        cautions += ["heavy"] if (card.weight_kg or HEAVY_KG) >= HEAVY_KG else []
        cautions += ["open_board"] if dock and dock.open_frame else []
        steps.append(
            Step("seat_card", f"Seat the {card.name} in the slot{holder}.", tuple(cautions))
        )
        if card.power_inputs:
            steps.append(
                Step(
                    "plug_power",
                    f"Plug in its power: {plugs_text(card.power_inputs)}.",
                    ("plugs",),
                )
            )
    if add_in and card is not None and dock is not None and link is not None:
        cautions = ["under_load"] if link.hot_plug else ["power_off"]
        cautions += ["ribbon"] if link.ribbon else []
        when = "" if link.hot_plug else ", with host and dock off and unplugged"
        steps.append(
            Step(
                "connect_link",
                f"Connect the {link.name} from {host_name} to {dock.name}{when}.",
                tuple(cautions),
            )
        )
    steps.append(
        _screen_step(rig.screen_path, f"the {card.name}" if card and add_in else "the card")
    )
    if add_in and dock is not None and not dock.is_fed_by_host:
        steps.append(
            Step(
                "power_on",
                f"Switch on {dock.name} first, then {host_name}.",
                ("second_supply",),
            )
        )
    if tunnel and link is not None:
        steps.append(Step("authorise", f"Authorise the tunnel of the {link.name} on {host_name}."))
    driver = rig.state.driver or "the driver"
    steps.append(Step("driver", f"Install {driver} and restart."))
    if add_in and not rig.state.built_in_on:
        steps.append(Step("built_in_off", "Switch the built-in graphics off, and restart."))
    if (held := dialled_state(link) if link else None) is not None:
        steps.append(
            Step(
                "set_lanes",
                f"Set the slot to {held.name} in the firmware's menu, as the board's manual says; "
                "write down the old value and change nothing else.",
            )
        )
    if add_in:
        steps.append(
            Step(
                "link_under_load",
                "Read the negotiated generation and lanes of the card while a load runs.",
                (),
                Reading.LINK,
                _expected_link(contents, rig_id),
            )
        )
    memory = (
        (f"{card.vram_gb:g}" if card and card.vram_gb else "")
        if add_in
        else (f"{rig.state.built_in_memory_gb:g}" if rig.state.built_in_memory_gb else "")
    )
    steps.append(Step("memory", "Read the card's memory size.", (), Reading.GIGABYTES, memory))
    mode = rig.state.power_mode or "the one you describe"
    steps.append(Step("power_mode", f"Set the power mode to {mode}; no other program in the way."))
    steps.append(Step("no_cap", "Switch refresh lock and frame cap off, driver and title alike."))
    steps.append(Step("no_recorder", "Switch video recorders and overlays you do not need off."))
    watts = f"{card.board_power_w:g}" if card and card.board_power_w else ""
    steps.append(
        Step(
            "stress",
            "Load the card until its power settles, and read it: it should reach its limit.",
            ("hot",),
            Reading.WATTS,
            watts,
        )
    )
    if add_in:
        steps += _outcome_tests(host_name, link)
    for own in contents.own_steps.values():
        reading = Reading.WORDS if own.ask else Reading.NONE
        steps.append(Step(f"{OWN}{own.id}", f"{own.do.rstrip('.')}.", (), reading))
    return tuple(steps)


OWN = "own."  # steps of the reviewer's: this and their id


def _outcome_tests(host: str, link: Link | None) -> list[Step]:
    """Tests whose outcome is told in words."""
    ask = f"Let {host} sleep for a minute and wake it: do card and picture come back?"
    steps = [Step("sleep", ask, (), Reading.WORDS, optional=True)]
    if link is not None and link.hot_plug:
        ask = f"With nothing running, unplug the {link.name} and plug it in again: what happens?"
        steps.append(Step("unplug", ask, ("under_load",), Reading.WORDS, optional=True))
    return steps


OUTCOME_WORDS = {"sleep": "after sleep", "unplug": "after unplugging"}


def outcomes(contents: Contents, rig_id: str) -> tuple[str, ...]:
    """What the tests of a rig that are told in words showed: "after sleep: no picture"."""
    ticks = latest_ticks(contents, rig_id)
    words = {**OUTCOME_WORDS, **{f"{OWN}{one.id}": one.do for one in contents.own_steps.values()}}
    return tuple(
        f"{words[step.key].rstrip('.')}: {tick.reading}"
        for step in steps_for(contents, rig_id)
        if step.reading is Reading.WORDS and (tick := ticks.get(step.key)) and tick.reading
    )


def _screen_step(path: ScreenPath, card: str) -> Step:
    match path:
        case ScreenPath.MONITOR_ON_CARD:
            return Step("monitor", f"Plug the monitor into {card}, never into the host.")
        case ScreenPath.SENT_BACK:
            return Step(
                "monitor", "Leave the monitor off: the picture goes back to the host's panel."
            )
        case ScreenPath.MONITOR_ON_HOST:
            return Step("monitor", "Plug the monitor into the host.")


def _expected_link(contents: Contents, rig_id: str) -> str:
    try:
        ladder = ladder_of_rig(
            contents.rigs[rig_id], contents.link_of(rig_id), contents.card_of(rig_id)
        )
    except BadLink:
        return ""
    agreed = ladder.should_come_up
    return "" if agreed is None else f"{agreed.generation}.0 x{agreed.lanes}"


def reading_says(step: Step, reading: str) -> str | None:
    """What is wrong with a reading against the rig's description; None where nothing is.

    Raises BadSpec where the reading cannot be read.
    """
    if step.reading in (Reading.NONE, Reading.WORDS) or not reading.strip():
        return None
    if step.reading is Reading.LINK:
        got = parse_hop(reading)
        if got.generation is None or got.lanes is None or got.is_open:
            raise BadSpec("reading", f"“{reading}” is not a PCI Express link", "Write “4.0 x4”")
        if not step.expected:
            return None
        want = parse_hop(step.expected)
        if got.lanes < (want.lanes or 0):
            return f"came up at {got.lanes} lanes, {want.lanes} expected"
        if got.generation < (want.generation or 0):
            return f"came up at generation {got.generation}, {want.generation} expected"
        return None
    try:
        value = number(reading.split()[0])
    except ValueError:
        raise BadSpec("reading", f"“{reading}” is not a number", f"Give {step.reading}") from None
    if not step.expected:
        return None
    expected = float(step.expected)
    if step.reading is Reading.WATTS and value < REACHED * expected:
        return (
            f"reached {amount(value, 'W')} of {amount(expected, 'W')}: something else holds "
            "the card back"
        )
    if step.reading is Reading.GIGABYTES and abs(value - expected) > 0.1 * expected:
        return (
            f"{amount(value, 'GB')} read, {amount(expected, 'GB')} described: is it the right card?"
        )
    return None


def latest_ticks(contents: Contents, rig_id: str) -> dict[str, Tick]:
    """The newest tick of each step of a rig."""
    newest: dict[str, Tick] = {}
    for tick in contents.ticks.values():
        if tick.rig_id == rig_id and (tick.step not in newest or tick.at >= newest[tick.step].at):
            newest[tick.step] = tick
    return newest


def skipped_before(contents: Contents, run: Run) -> tuple[str, ...]:
    """Steps that stood as skipped on a run's rig when the run was taken, in words."""
    standing: dict[str, Tick] = {}
    for tick in sorted(contents.ticks.values(), key=lambda tick: tick.at):
        if tick.rig_id == run.rig_id and (not run.taken_at or tick.at <= run.taken_at):
            standing[tick.step] = tick
    words = {step.key: step.do for step in steps_for(contents, run.rig_id)}
    return tuple(
        words.get(key, key) for key, tick in standing.items() if tick.state is TickState.SKIPPED
    )


def preflight_line(contents: Contents, rig_id: str) -> str:
    """How far the pre-flight of a rig is, in one sentence."""
    name = contents.rigs[rig_id].name
    steps = steps_for(contents, rig_id)
    ticks = latest_ticks(contents, rig_id)
    wrong = []
    for step in steps:
        tick = ticks.get(step.key)
        if tick is not None and tick.reading and (says := reading_says(step, tick.reading)):
            wrong.append(says)
    skipped = sum(tick.state is TickState.SKIPPED for tick in ticks.values())
    steps = tuple(step for step in steps if not step.optional)
    left = sum(step.key not in ticks for step in steps)
    if wrong:
        return f"{name} {wrong[0]}."
    if left:
        return f"{count_text(left, 'step')} of {len(steps)} left before {name} is ready to measure."
    if skipped:
        return f"{name} went through pre-flight with {count_text(skipped, 'step')} skipped."
    return f"{name} went through all {len(steps)} steps of its pre-flight."

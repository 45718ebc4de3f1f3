"""Checks that need one run alone."""

import itertools
import math
from bisect import bisect_left
from collections.abc import Iterator
from functools import lru_cache

from blunt_ruler.core.checks.findings import Check, Evidence, Finding, RunFacts
from blunt_ruler.core.checks.registry import Scope, check
from blunt_ruler.core.measure.composite_score import SUM_TOLERANCE, ScoreFormula, overall_score
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.measure.trace_summary import EARLY_S, REFRESH_HZ, Observed
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.rigs.notation import BadSpec, parse_hop
from blunt_ruler.core.runs.score_parts import parts_of
from blunt_ruler.core.text import THIN, amount, duration_text, fps_text, percent_text

NEAR_STEP = 0.007
ON_STEP_TIGHT = 0.002  # of thirty steps from 12 to 360, one in thirty rates is this near by luck
ON_OTHER_STEPS = 0.03
CHANCE = 2.0
SLACK_CARD, SLACK_CORE, SLACK_LINK = 85.0, 80.0, 0.6  # per cent, per cent, of the bandwidth
HOT_C = 80.0  # common practice, no source: cards hold their clocks back somewhere above
SCORE_APART = 0.02
MEMORY_SLACK = 1.05
POWER_SLACK = 1.25


def _finding(
    facts: RunFacts,
    check: Check,
    says: str,
    remedy: str,
    evidence: Evidence,
    severity: Severity = Severity.BLOCKING,
    signs: tuple[str, ...] = (),
) -> Finding:
    return Finding(check, severity, facts.run.id, says, remedy, evidence, signs=signs)


@check(Scope.RUN)
def frame_cap(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """A cap or a refresh lock: the rate stands on one step, all the time or where it could go
    higher.
    """
    seen, figures = facts.observed, facts.run.figures
    if seen is None or figures is None:
        return
    held = _held(seen, facts.refresh_hz, thresholds)
    if held is None:
        return
    rate, said, share, signs = held
    cap = facts.case.frame_cap_fps if facts.case else None
    if cap and abs(rate / cap - 1.0) <= NEAR_STEP:
        return
    monitor = facts.refresh_hz
    if monitor and any(abs(rate * whole / monitor - 1.0) < NEAR_STEP for whole in (1, 2, 3)):
        said += f", a step of the {monitor:g}{THIN}Hz monitor"
    if _nothing_full(facts):
        signs += ("neither card nor CPU nor link is at its end",)
    yield _finding(
        facts,
        Check.FRAME_CAP,
        f"{said}.",
        "Switch frame cap and refresh lock off, in driver and title, then repeat the run.",
        {
            "rate_fps": round(rate, 2),
            "share": share,
            "average_fps": round(figures.average_fps, 2),
            **({"monitor_hz": monitor} if monitor else {}),
        },
        signs=signs,
    )


@lru_cache(maxsize=64)
def _steps(monitor: float | None) -> list[float]:
    """Refresh rates, the monitor's among them, and their halves, rising."""
    rates = {float(hz) for hz in REFRESH_HZ} | ({monitor} if monitor else set())
    return sorted(rates | {hz / 2 for hz in rates})


def _held(
    seen: Observed, monitor: float | None, thresholds: Thresholds
) -> tuple[float, str, float, tuple[str, ...]] | None:
    """(rate, words, share, signs) of a rate that is held, None where none is."""
    steps = _steps(monitor)

    def nearest(rate: float) -> tuple[float, float]:
        above = bisect_left(steps, rate)
        near = steps[max(above - 1, 0) : above + 1] or steps[-1:]
        step = min(near, key=lambda hz: abs(rate / hz - 1.0))
        return step, abs(rate / step - 1.0)

    signs: tuple[str, ...]
    if seen.grid_share >= thresholds.on_grid:
        words = (
            f"frames wait for a refresh: {percent_text(seen.grid_share)} of them last whole steps "
            f"of {seen.grid_hz:g}{THIN}Hz"
        )
        signs = ("frames last whole refreshes",)
        if seen.grid_others >= ON_OTHER_STEPS:
            signs += ("on more than one multiple",)
        elif nearest(seen.step_fps)[1] <= ON_STEP_TIGHT and seen.step_share >= thresholds.on_step:
            signs += ("the rate is a refresh rate",)
        return seen.grid_hz, words, seen.grid_share, signs
    step, off = nearest(seen.step_fps)
    on_list = off <= NEAR_STEP
    if seen.step_share >= (thresholds.on_step if on_list else thresholds.on_any_step):
        words = (
            f"the rate is held: {percent_text(seen.step_share)} of the seconds hold "
            f"{fps_text(seen.step_fps)}"
        )
        signs = ("the seconds hold one rate",)
        if off <= ON_STEP_TIGHT:
            signs += ("it is a refresh rate or its half",)
        return (step if on_list else seen.step_fps), words, seen.step_share, signs
    calm = seen.edge_calm <= thresholds.calm
    step, off = nearest(seen.edge_fps) if seen.edge_fps else (0.0, 1.0)
    if seen.edge_share >= thresholds.on_edge and (calm or off <= ON_STEP_TIGHT):
        words = (
            f"the rate is held part of the time: {percent_text(seen.edge_share)} of it holds "
            f"{fps_text(seen.edge_fps)} and nothing is faster"
        )
        signs = ("the fastest seconds hold one rate",)  # calm or not: a calm shot is both
        if off <= ON_STEP_TIGHT:
            signs += ("it is a refresh rate or its half",)
        return (step if off <= NEAR_STEP else seen.edge_fps), words, seen.edge_share, signs
    return None


def parts_wait(facts: RunFacts) -> bool:
    """Whether the log shows that neither card nor CPU is at its end."""
    busy, core = facts.gauge(Gauge.CARD_BUSY), facts.gauge(Gauge.CPU_CORE)
    return (
        busy is not None and core is not None and busy.high < SLACK_CARD and core.high < SLACK_CORE
    )


def _nothing_full(facts: RunFacts) -> bool:
    """Whether the log shows that nothing is at its end, so that something holds the rate."""
    if not parts_wait(facts):
        return False
    if not facts.add_in or facts.link_gb_per_s is None:
        return not facts.add_in
    traffic = facts.gauge(Gauge.LINK_TRAFFIC)
    return traffic is not None and traffic.high < SLACK_LINK * facts.link_gb_per_s


@check(Scope.RUN)
def menu_left_in(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """A menu, loading or results screen inside what is counted."""
    seen = facts.observed
    if seen is None:
        return
    if max(seen.head_s, seen.tail_s) >= thresholds.cut_s:
        keep_to = facts.duration_s - seen.tail_s
        yield _finding(
            facts,
            Check.MENU_LEFT_IN,
            f"not all of it is the scene: {seen.cut_why}.",
            f"Trim it to {seen.head_s:.2f}–{keep_to:.2f}{THIN}s; the whole trace stays.",
            {
                "head_s": seen.head_s,
                "tail_s": seen.tail_s,
                "keep_from_s": seen.head_s,
                "keep_to_s": round(keep_to, 3),
            },
            signs=("it runs at another level",),
        )
    elif seen.middle_s >= thresholds.cut_s and seen.longest_ms < 500.0 * seen.middle_s:
        yield _finding(
            facts,
            Check.MENU_LEFT_IN,
            f"not all of it is the scene: {seen.middle_why}.",
            "See what was on the screen there; a stretch inside cannot be trimmed: take it again.",
            {"from_s": seen.middle_from_s, "middle_s": seen.middle_s},
            signs=("it runs at another level",),
        )


@check(Scope.RUN)
def freeze(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """One frame that lasts a second or more."""
    seen = facts.observed
    if seen is None or seen.longest_ms < 1000.0 * thresholds.freeze_s:
        return
    share = seen.longest_ms / 1000.0 / facts.duration_s if facts.duration_s else 0.0
    yield _finding(
        facts,
        Check.FREEZE,
        f"one frame lasts {seen.longest_ms / 1000.0:.1f}{THIN}s, {percent_text(share)} of the run.",
        "See what stopped it (saving, a full memory, a link that came back), and take it again.",
        {"longest_s": round(seen.longest_ms / 1000.0, 3), "share": round(share, 4)},
        signs=("a frame of a second or more",),
    )


@check(Scope.RUN)
def first_pass_stutter(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """Much stutter at first and little later: shaders compiled, files read for the first time."""
    seen = facts.observed
    if seen is None or seen.head_s >= thresholds.cut_s:
        return
    early, late = seen.early_stutters_per_min, seen.late_stutters_per_min
    if early < thresholds.early_stutters_per_min or early < thresholds.early_over_late * late:
        return
    # Counts scatter as their square root; an excess within that is chance.
    early_min = min(EARLY_S, facts.duration_s / 3.0) / 60.0
    late_min = facts.duration_s / 60.0 - early_min
    if early - late < CHANCE * math.sqrt(early / early_min + late / late_min):
        return
    yield _finding(
        facts,
        Check.FIRST_PASS_STUTTER,
        f"{early:.0f} stutters a minute at first and {late:.0f} later: a first pass.",
        "Count it as the warm-up, and take another pass.",
        {"early_per_min": early, "late_per_min": late},
        signs=("stutter at first and little later",),
    )


@check(Scope.RUN)
def drift(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """The rate falls over the run, by the card's clocks where there are any."""
    seen = facts.observed
    if seen is None or seen.head_s or seen.tail_s:
        return
    clock = facts.gauge(Gauge.CARD_CLOCK)
    heat = facts.gauge(Gauge.CARD_TEMPERATURE)
    change = seen.slope_per_min * facts.duration_s / 60.0
    evidence: dict[str, float | str] = {
        "rate_change": round(change, 4),
        "slope_per_min_low": seen.slope_low,
        "slope_per_min_high": seen.slope_high,
    }
    signs: tuple[str, ...]
    if clock is not None:
        fall = 1.0 - clock.end / clock.start if clock.start else 0.0
        evidence |= {"clock_start_mhz": clock.start, "clock_end_mhz": clock.end}
        if fall < thresholds.clock_drift:
            return
        said = f"the card's clock fell from {clock.start:.0f} to {amount(clock.end, 'MHz', 0)}"
        signs = ("the card's clock fell",)
        if heat is not None:
            evidence |= {"card_c_start": heat.start, "card_c_end": heat.end}
            said += f" at {heat.high:.0f}{THIN}°C"
            if heat.high >= HOT_C and heat.end > heat.start:
                signs += ("it is hot",)
    else:
        # Without clocks only a long, steady fall is told from the scene's own ups and downs.
        if seen.slope_high >= 0 or change > -3.0 * thresholds.drift:
            return
        said = f"the rate fell by {percent_text(-change)} from start to end"
        signs = ("the rate fell",)
    yield _finding(
        facts,
        Check.DRIFT,
        f"{said}.",
        "Let it cool, free its air, watch the clocks, and take it again.",
        evidence,
        signs=signs,
    )


@check(Scope.RUN)
def too_short(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """Too little time for an average that holds."""
    figures = facts.run.figures
    if figures is not None and figures.duration_s < thresholds.shortest_s:
        yield _finding(
            facts,
            Check.TOO_SHORT,
            f"only {duration_text(figures.duration_s)} are counted.",
            f"Take at least {duration_text(thresholds.shortest_s)} of the scene.",
            {"duration_s": round(figures.duration_s, 3), "least_s": thresholds.shortest_s},
            Severity.CAUTION,
        )


@check(Scope.RUN)
def recorder_on(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """The card's encoder works during the run."""
    encoder = facts.gauge(Gauge.ENCODER)
    if encoder is not None and encoder.mean >= thresholds.encoder_busy:
        yield _finding(
            facts,
            Check.RECORDER_ON,
            f"the card's encoder is {encoder.mean:.0f}{THIN}% busy: something records the screen.",
            "Switch the recorder off, on every rig alike, and take it again.",
            {"encoder_percent": encoder.mean},
        )


@check(Scope.RUN)
def wrong_device(facts: RunFacts, _lines: Thresholds) -> Iterator[Finding]:
    """Another card than the rig's, by its name in the log, its memory or its power."""
    card = facts.card
    if card is None:
        return
    said: list[str] = []
    evidence: dict[str, float | str] = {}
    named = next((words for name, words in facts.run.origin.says if name in DEVICE_NAMES), "")
    if named and card.name.lower() not in named.lower() and named.lower() not in card.name.lower():
        said.append(f"the log names “{named}”, the rig has {card.name}")
        evidence["named"] = named
    memory = facts.gauge(Gauge.CARD_MEMORY)
    if memory is not None and card.vram_gb and memory.high > card.vram_gb * MEMORY_SLACK:
        said.append(f"{amount(memory.high, 'GB')} in use, the card has {card.vram_gb:g}")
        evidence |= {"memory_gb": memory.high, "card_gb": card.vram_gb}
    power = facts.gauge(Gauge.CARD_POWER)
    if power is not None and card.board_power_w and power.high > card.board_power_w * POWER_SLACK:
        said.append(f"it draws {amount(power.high, 'W', 0)}, the card {card.board_power_w:g}")
        evidence |= {"power_w": power.high, "card_w": card.board_power_w}
    try:
        read = float(facts.memory_reading or "nan")
    except ValueError:
        read = float("nan")
    if card.vram_gb and abs(read / card.vram_gb - 1.0) > 0.1:
        said.append(f"pre-flight read {read:g}{THIN}GB, the card has {card.vram_gb:g}")
        evidence |= {"memory_read_gb": read, "card_gb": card.vram_gb}
    if said:
        yield _finding(
            facts,
            Check.WRONG_DEVICE,
            f"{'; '.join(said)}.",
            "See which card draws, mend the rig or its description, and take it again.",
            evidence,
        )


DEVICE_NAMES = ("card", "gpu", "device", "graphics card", "adapter")


@check(Scope.RUN)
def narrow_link(facts: RunFacts, _lines: Thresholds) -> Iterator[Finding]:
    """The link came up narrower or slower than the rig's; the run's own gauges outrank a tick."""
    if not facts.expected_lanes:
        return
    lanes, generation = facts.gauge(Gauge.LINK_LANES), facts.gauge(Gauge.LINK_GENERATION)
    got_lanes = lanes.high if lanes else None
    got_generation = generation.high if generation else None
    in_log = facts.observed is not None and facts.observed.gauge(Gauge.LINK_LANES) is not None
    source = "the log" if in_log else "the machine"
    if lanes is None and facts.link_reading:
        try:
            read = parse_hop(facts.link_reading)
        except BadSpec:
            return
        if read.is_open:
            return
        got_lanes, got_generation, source = read.lanes, read.generation, "pre-flight"
    said = []
    if got_lanes and got_lanes < facts.expected_lanes:
        said.append(f"{got_lanes:g} lanes instead of {facts.expected_lanes}")
    if got_generation and facts.expected_generation and got_generation < facts.expected_generation:
        said.append(f"generation {got_generation:g} instead of {facts.expected_generation}")
    if said:
        yield _finding(
            facts,
            Check.NARROW_LINK,
            f"the link came up at {' and '.join(said)}, says {source}.",
            "Reseat the card and the cord, restart, read the link under load, and take it again.",
            {
                "lanes": float(got_lanes or 0),
                "expected_lanes": float(facts.expected_lanes),
                "source": source,
            },
        )


@check(Scope.RUN)
def built_in_working(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """Pictures come, and the card under test idles."""
    busy = facts.gauge(Gauge.CARD_BUSY)
    if facts.card is not None and facts.card.built_in:
        return
    if busy is not None and busy.high < thresholds.idle_card_busy:
        yield _finding(
            facts,
            Check.BUILT_IN_WORKING,
            f"the card is {busy.mean:.0f}{THIN}% busy while frames come: another device draws.",
            "Choose the card for this title, or switch the built-in graphics off, and take it "
            "again.",
            {"card_busy_percent": busy.mean},
        )


@check(Scope.RUN)
def generated_frames(facts: RunFacts, thresholds: Thresholds) -> Iterator[Finding]:
    """Frame times come in groups though the case says that every frame is rendered."""
    seen = facts.observed
    if seen is None or (facts.case is not None and facts.case.frame_generation):
        return
    if seen.pairing >= thresholds.pairing:
        said = f"frames come in pairs ({percent_text(seen.pairing)} of their step to step change)"
        sign = "short and long frames alternate"
    elif seen.twins >= thresholds.twins:
        said = "frames come in groups that last the same, and change only from group to group"
        sign = "frames of a group last the same"
    else:
        return
    yield _finding(
        facts,
        Check.GENERATED_FRAMES,
        f"{said}: not every one is rendered.",
        "Switch frame generation off, or make it a case of its own, and take it again.",
        {"pairing": seen.pairing, "twins": seen.twins},
        signs=(sign,),
    )


@check(Scope.RUN)
def impossible_figures(facts: RunFacts, _lines: Thresholds) -> Iterator[Finding]:
    """Typed figures that contradict one another."""
    typed = facts.run.typed
    if typed is None:
        return
    said: list[str] = []
    names = ("minimum_fps", "low_01_fps", "low_1_fps", "average_fps", "maximum_fps")
    words = ("minimum", "0.1 % low", "1 % low", "average", "maximum")
    there = [
        (word, value)
        for name, word in zip(names, words, strict=True)
        if (value := getattr(typed, name)) is not None
    ]
    for (low_word, low), (high_word, high) in itertools.pairwise(there):
        if low > high:
            said.append(f"the {low_word} {low:g} is above the {high_word} {high:g}")
    parts = parts_of(facts.title, [facts.run]) if facts.title is not None else typed.parts
    weights = {part.name: part.weight for part in parts if part.weight is not None}
    scores = {part.name: part.score for part in typed.parts}
    evidence: dict[str, float | str] = dict(there)
    if typed.score is not None and weights and weights.keys() <= scores.keys():
        total = sum(weights.values())
        if abs(total - 1.0) <= SUM_TOLERANCE:
            formula = facts.title.formula if facts.title is not None else ScoreFormula.HARMONIC
            overall = overall_score(scores, weights, formula)
            if abs(typed.score / overall - 1.0) > SCORE_APART:
                said.append(f"the parts give {overall:.0f}, the overall says {typed.score:.0f}")
                evidence |= {"overall": typed.score, "of_parts": round(overall, 2)}
    if said:
        yield _finding(
            facts,
            Check.IMPOSSIBLE_FIGURES,
            f"{'; '.join(said)}.",
            "Look at the source of the figures and type them again.",
            evidence,
        )

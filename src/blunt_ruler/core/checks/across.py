"""Checks that set rigs, cards, links and resolutions beside one another. Kept, sound runs only."""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from functools import partial
from itertools import pairwise, product
from operator import itemgetter
from statistics import median

from blunt_ruler.core.checks.by_eye import read_by_eye
from blunt_ruler.core.checks.findings import Check, Finding, RunFacts, rig_mark
from blunt_ruler.core.checks.registry import AllRuns, Scope, check
from blunt_ruler.core.checks.told import Runs
from blunt_ruler.core.measure.kinds import Bound, bound_of, under_cap
from blunt_ruler.core.measure.means import harmonic_mean
from blunt_ruler.core.measure.reading import errors_together
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.hardware import Rig, TickState
from blunt_ruler.core.records.records import Case, Contents, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.rigs.links import rig_width
from blunt_ruler.core.rigs.preflight import skipped_before
from blunt_ruler.core.text import amount, count_text, fps_text, list_text, percent_text

CORE_PEGGED = 85.0  # per cent of the busiest core
LINK_FULL = 0.7  # of the bandwidth
CARD_FULL = 90.0  # per cent busy
MORE_PIXELS = 1.4
LESSER_HOST = 0.8  # of the cores, or of the sustained power
POWER_RUNS = 3


def _rate(repeats: Sequence[RunFacts]) -> float | None:
    """The rate of a cell; None where it has none, or only a bound."""
    rates = [facts.run.average_fps for facts in repeats if facts.run.average_fps]
    if not rates:
        return None
    rate, case = harmonic_mean(rates), repeats[0].case
    bound = bound_of(facts.run.how_read.kind for facts in repeats)
    cap = case.frame_cap_fps if case else None
    return rate if under_cap(bound, rate, cap) is Bound.POINT else None


def _apart(
    one: Sequence[RunFacts], other: Sequence[RunFacts], spread: float, thresholds: Thresholds
) -> float:
    """The share by which two cells must differ before it means anything."""
    read = sum(map(_reading, (one, other)))
    return max(
        thresholds.level,
        3.0 * math.sqrt(spread**2 * (1.0 / len(one) + 1.0 / len(other)) + read),
    )


def _reading(repeats: Sequence[RunFacts]) -> float:
    """Variance of the log of a cell's rate that reading it leaves."""
    errors = [f.run.how_read.error(f.run.average_fps) for f in repeats if f.run.average_fps]
    return errors_together(errors)[0] if errors else 0.0


SIZELESS = tuple(name for name in Case.model_fields if name not in ("id", "resolution"))


@check(Scope.REVIEW)
def over_resolution(all_runs: AllRuns) -> Iterator[Finding]:
    """A case that is faster at more pixels, or that pixels do not move and nothing explains it."""
    contents, thresholds = all_runs.described, all_runs.thresholds
    sized = {  # cases that differ in their size alone have the same key
        case.id: (tuple(getattr(case, name) for name in SIZELESS), megapixels(case.resolution))
        for case in contents.cases.values()
    }
    ladders: dict[tuple[str, object], list[tuple[float, Sequence[RunFacts]]]] = defaultdict(list)
    for (rig_id, case_id), repeats in all_runs.sound.items():
        alike, mpx = sized[case_id]
        if mpx is not None:
            ladders[rig_id, alike].append((mpx, repeats))
    for (rig_id, _), steps in ladders.items():
        steps.sort(key=lambda step: step[0])
        first = contents.cases[steps[0][1][0].run.case_id]
        spread = all_runs.spreads.get(first.title_id, 0.0)
        yield from all_runs.handover.of(
            ("ladder", rig_id, first.id),
            (thresholds, spread, tuple(steps)),
            lambda: tuple(_over_steps(steps, spread, thresholds)),  # noqa: B023
        )


def _over_steps(
    steps: Sequence[tuple[float, Sequence[RunFacts]]],
    spread: float,
    thresholds: Thresholds,
) -> Iterator[Finding]:
    """The same over the sizes of one case on one rig, from few pixels to many."""
    for (few, fewer), (many, more) in pairwise(steps):
        low, high = _rate(fewer), _rate(more)
        lower, higher = fewer[0].case, more[0].case
        if low is None or high is None or many < MORE_PIXELS * few:
            continue
        assert lower is not None
        assert higher is not None
        allowed = _apart(fewer, more, spread, thresholds)
        words = f"{fps_text(high)} at {higher.resolution} and {fps_text(low)} at {lower.resolution}"
        severity = Severity.CAUTION
        if high / low - 1.0 > allowed:
            check = Check.FASTER_AT_HIGHER_RESOLUTION
            says = "more pixels cannot be faster"
            remedy = "See whether a cap, a refresh lock or another setting held the lower one"
        elif abs(high / low - 1.0) > thresholds.level:
            continue
        elif all(read_by_eye(facts.run) for facts in (*fewer, *more)):
            check, severity = Check.FLAT_OVER_RESOLUTION, Severity.NOTE
            says = "pixels do not move it; without a trace nothing tells CPU, link and cap apart"
            remedy = "Read the card’s and the CPU’s load, see that the resolution was applied"
        elif not _explains_flat(more):
            check = Check.FLAT_OVER_RESOLUTION
            says = "pixels do not move it, and neither CPU nor link is at its end"
            remedy = "See whether the resolution was applied and no cap is on"
        else:
            continue
        yield Finding(
            check,
            severity,
            more[0].run.id,
            f"{words}: {says}.",
            f"{remedy}; take both again.",
            {"rate": round(high, 2), "at_fewer_pixels": round(low, 2)},
            tuple(facts.run.id for facts in (*more[1:], *fewer)),
        )


def _explains_flat(repeats: Sequence[RunFacts]) -> bool:
    """Whether CPU or link is at its end, or nothing tells; then a flat rate is no riddle."""
    facts = repeats[0]
    core, traffic = facts.gauge(Gauge.CPU_CORE), facts.gauge(Gauge.LINK_TRAFFIC)
    busy = facts.gauge(Gauge.CARD_BUSY)
    if core is None or busy is None:
        return True
    if core.mean >= CORE_PEGGED:
        return True
    if facts.link_gb_per_s is None or traffic is None:
        return False
    return traffic.mean >= LINK_FULL * facts.link_gb_per_s and busy.mean < CARD_FULL


@check(Scope.REVIEW)
def lesser_part_wins(all_runs: AllRuns) -> Iterator[Finding]:
    """A rig that is faster though its card or its link is the lesser, all else being equal."""
    contents, thresholds = all_runs.described, all_runs.thresholds
    by_case: dict[str, dict[str, Runs]] = defaultdict(dict)
    for (rig_id, case_id), repeats in all_runs.sound.items():
        by_case[case_id][rig_id] = repeats
    won: dict[tuple[str, str, str], list[tuple[str, float, Sequence[RunFacts]]]] = {}
    told = {rig for rig, _ in all_runs.sound if _has_parts(contents.rigs[rig])}
    parts = {
        (one, other): part
        for one, other in product(told, repeat=2)
        if (part := _lesser_part(contents, one, other))
    }
    pairs = frozenset(parts)
    for case_id, there in by_case.items():
        spread = all_runs.spreads.get(contents.cases[case_id].title_id, 0.0)
        by_pair = all_runs.handover.of(
            ("won", case_id),
            (thresholds, tuple(there.items()), spread, pairs),
            partial(_won_in_case, there, pairs, spread, thresholds),
        )
        for (lesser, better), by in by_pair:
            key = lesser, better, parts[lesser, better]
            won.setdefault(key, []).append((case_id, by, there[better]))
    for (lesser_id, better_id, what), cases in won.items():
        _, _, first = cases[0]
        winner, loser = rig_mark(lesser_id), rig_mark(better_id)
        names = list_text([contents.case_label(case_id) for case_id, _, _ in cases[:2]])
        yield Finding(
            Check.LESSER_PART_WINS,
            Severity.CAUTION,
            first[0].run.id,
            f"{winner} beats {loser} on {names} by {percent_text(cases[0][1])}, with the lesser "
            f"{what}.",
            f"Look for a fault on {loser}: heat, power, link, output; take it again.",
            {"cases": float(len(cases)), "by": round(cases[0][1], 4), "part": what},
            tuple(facts.run.id for facts in first[1:]),
        )


Pair = tuple[str, str]  # the rig with the lesser part, and the one with the better


def _won_in_case(
    there: Mapping[str, Sequence[RunFacts]],
    pairs: frozenset[Pair],
    spread: float,
    thresholds: Thresholds,
) -> tuple[tuple[Pair, float], ...]:
    """The pairs of rigs of which the lesser is the faster in a case, and by what share."""
    return tuple(
        ((lesser, better), by)
        for lesser, better in product(there, repeat=2)
        if (lesser, better) in pairs
        and (by := _won(there[lesser], there[better], spread, thresholds)) is not None
    )


def _won(
    lesser: Sequence[RunFacts], better: Sequence[RunFacts], spread: float, thresholds: Thresholds
) -> float | None:
    """By what share the lesser rig is the faster in a case; None where it is not beyond doubt."""
    slow, fast = _rate(better), _rate(lesser)
    if slow is None or fast is None:
        return None
    by = fast / slow - 1.0
    return by if by > _apart(lesser, better, spread, thresholds) else None


def _has_parts(rig: Rig) -> bool:
    return rig.host_id is not None or rig.card_id is not None


def _lesser_part(contents: Contents, one_id: str, other_id: str) -> str | None:
    """The part in which one rig is the lesser of two that are otherwise alike, None for none."""
    one, other = contents.rigs[one_id], contents.rigs[other_id]
    if one_id != other_id and one.host_id != other.host_id:
        return _lesser_host(contents, one, other)
    if one_id == other_id or one.state != other.state:
        return None
    card, other_card = contents.card_of(one_id), contents.card_of(other_id)
    if card is None or other_card is None or card.built_in or other_card.built_in:
        return None
    width, other_width = rig_width(contents, one), rig_width(contents, other)
    if card.id == other_card.id:
        if one.screen_path == other.screen_path and width and other_width:
            return "link" if width.most < 0.9 * other_width.least else None
        return None
    if one.link_id != other.link_id or card.driver_family != other_card.driver_family:
        return None
    watts, other_watts = card.board_power_w, other_card.board_power_w
    return "card" if watts and other_watts and watts < 0.9 * other_watts else None


def _lesser_host(contents: Contents, one: Rig, other: Rig) -> str | None:
    """“host” where one rig has the same card, no wider a link, and clearly the lesser host."""
    host, better = contents.host_of(one.id), contents.host_of(other.id)
    if host is None or better is None or not one.card_id or one.card_id != other.card_id:
        return None
    width, wider = rig_width(contents, one), rig_width(contents, other)
    if width is None or wider is None or width.most > 1.1 * wider.least:
        return None
    pairs = [
        (own, theirs)
        for own, theirs in (
            (host.cores, better.cores),
            (host.sustained_power_w, better.sustained_power_w),
        )
        if own and theirs
    ]
    lesser = all(own <= theirs for own, theirs in pairs) and any(
        own < LESSER_HOST * theirs for own, theirs in pairs
    )
    return "host" if lesser else None


@check(Scope.REVIEW)
def settings_changed(all_runs: AllRuns) -> Iterator[Finding]:
    """One case whose settings differ between rigs: by what the log says, or by the memory used."""
    settings = all_runs.in_cells("settings", _settings_of)
    memory: dict[str, dict[str, tuple[float, Runs]]] = defaultdict(dict)
    for (rig_id, case_id), repeats in all_runs.sound.items():
        said, used = settings[rig_id, case_id]
        yield from said
        if used is not None:
            memory[case_id][rig_id] = used, repeats
    for rigs in memory.values():
        for rig_id, (own, repeats) in rigs.items():
            others = [gb for other_id, (gb, _) in rigs.items() if other_id != rig_id]
            card = repeats[0].card
            if len(others) < 2 or card is None:
                continue
            usual = median(others)
            full = card.vram_gb is not None and own >= 0.95 * card.vram_gb
            if abs(own / usual - 1.0) <= all_runs.thresholds.memory_apart or (full and own < usual):
                continue
            yield Finding(
                Check.SETTINGS_CHANGED,
                Severity.CAUTION,
                repeats[0].run.id,
                f"{amount(own, 'GB')} of card memory in use here and "
                f"{amount(round(usual, 2), 'GB')} on the other rigs, on the same case.",
                "Compare preset, textures and resolution on the rigs, and take it again.",
                {"memory_gb": own, "on_other_rigs_gb": round(usual, 3)},
                tuple(facts.run.id for facts in repeats[1:]),
            )


def _settings_of(repeats: Sequence[RunFacts]) -> tuple[tuple[Finding, ...], float | None]:
    """Where the logs of a cell contradict its case, and the memory of an add-in card in use, GB."""
    found, case = [], repeats[0].case
    assert case is not None
    for facts in repeats:
        said = dict(facts.run.origin.says)
        for name, expected in (("resolution", case.resolution), ("preset", case.preset)):
            got = said.get(name, "")
            if got and expected and not _same_words(name, got, expected):
                found.append(
                    Finding(
                        Check.SETTINGS_CHANGED,
                        Severity.BLOCKING,
                        facts.run.id,
                        f"the log says {name} {got}, the case {expected}.",
                        "Set the case's settings on this rig and take it again, or move the run.",
                        {"log": got, "case": expected},
                    )
                )
    card = repeats[0].card
    used = [gauge.high for facts in repeats if (gauge := facts.gauge(Gauge.CARD_MEMORY))]
    is_told = used and card is not None and not card.built_in
    return tuple(found), median(used) if is_told else None


def _same_words(name: str, got: str, expected: str) -> bool:
    if name == "resolution":
        one, other = megapixels(got), megapixels(expected)
        if one is not None and other is not None:
            return one == other
    return got.strip().lower() == expected.strip().lower()


@check(Scope.REVIEW)
def below_power_limit(all_runs: AllRuns) -> Iterator[Finding]:
    """A rig whose card never came near its board power over all its cases."""
    contents = all_runs.described
    rigs: dict[str, list[tuple[float, RunFacts]]] = defaultdict(list)
    for (rig_id, _), metered in all_runs.in_cells("metered", _metered).items():
        rigs[rig_id] += metered
    for rig_id, runs in rigs.items():
        card = contents.card_of(rig_id)
        if card is None or not card.board_power_w or card.built_in or len(runs) < POWER_RUNS:
            continue
        reached, most = max(runs, key=itemgetter(0))
        if reached >= all_runs.thresholds.power_reached * card.board_power_w:
            continue
        yield Finding(
            Check.BELOW_POWER_LIMIT,
            Severity.NOTE,
            most.run.id,
            f"the {card.name} never drew over {amount(reached, 'W', 0)} of its "
            f"{amount(card.board_power_w, 'W')} in {count_text(len(runs), 'run')}: something else "
            "was the limit.",
            "Read its power under a card test; where it stays low, see its plugs and its supply.",
            {"power_w": reached, "board_power_w": card.board_power_w, "runs": float(len(runs))},
        )


def _metered(repeats: Sequence[RunFacts]) -> tuple[tuple[float, RunFacts], ...]:
    """The runs of a cell whose card's power is known, with the most of it, W."""
    return tuple(
        (gauge.high, facts) for facts in repeats if (gauge := facts.gauge(Gauge.CARD_POWER))
    )


@check(Scope.REVIEW)
def skipped_preflight(all_runs: AllRuns) -> Iterator[Finding]:
    """Runs taken after a skipped pre-flight step: one finding for a rig and a set of steps."""
    contents = all_runs.described
    groups: dict[tuple[str, tuple[str, ...]], list[Run]] = defaultdict(list)
    ticked = {tick.rig_id for tick in contents.ticks.values() if tick.state is TickState.SKIPPED}
    for run in all_runs.runs if ticked else ():
        if run.rig_id not in ticked or not (run.figures or run.typed):
            continue
        if skipped := skipped_before(contents, run):
            groups[run.rig_id, skipped].append(run)
    for (rig_id, steps), affected in groups.items():
        yield Finding(
            Check.SKIPPED_PREFLIGHT,
            Severity.NOTE,
            affected[0].id,
            f"{count_text(len(affected), 'run')} on {rig_mark(rig_id)} followed a "
            f"skipped step: {'; '.join(step.rstrip('.') for step in steps)}.",
            "Go through these steps before the next run, and look at these runs twice.",
            {"runs": float(len(affected)), "steps": "; ".join(steps)},
            tuple(run.id for run in affected[1:]),
        )

"""The first sections of a write-up: the verdict, what was tested, and how."""

from collections.abc import Callable, Iterator, Sequence

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.lines import mean_basis
from blunt_ruler.core.claims.verdict import verdict_sentences
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.plan.repeats_needed import ASSUMED_SPREAD
from blunt_ruler.core.records.hardware import Screen
from blunt_ruler.core.records.pricing import Audience
from blunt_ruler.core.records.records import Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.links import devices_words
from blunt_ruler.core.rigs.preflight import skipped_before
from blunt_ruler.core.rigs.strip import state_facts
from blunt_ruler.core.sentences import Sentence, Span, sentence
from blunt_ruler.core.text import amount, capital, count_text, list_text, percent_text
from blunt_ruler.core.worth.verdict import judgements
from blunt_ruler.core.writeup.document import Block, Bullets, Grid, Paragraph

UNWRITTEN = "not noted"


def verdict(analysis: Analysis) -> tuple[Block, ...]:
    """For whom it makes sense, from the lines the reviewer drew."""
    said = verdict_sentences(analysis.worth, analysis.claims)
    rigs = tuple(one for one in said if one.key.startswith("verdict.rig."))
    rest = tuple(one for one in said if not one.key.startswith("verdict.rig."))
    blocks: list[Block] = [Bullets(rigs)] if rigs else []
    audiences: dict[str, list[Sentence]] = {}
    for one in rest:
        audiences.setdefault(one.key.split(".")[1], []).append(one)
    for place, group in audiences.items():
        first = tuple(one for one in group if one.key.endswith(CONCLUSIONS))
        against = tuple(one for one in group if one not in first)
        blocks.append(Paragraph(first))
        if place.isdigit():
            blocks += _held_against(analysis, analysis.review.audiences[int(place)])
        if against:
            blocks.append(Bullets(against))
    return tuple(blocks)


CONCLUSIONS = (".yes", ".best", ".none")


def _held_against(analysis: Analysis, audience: Audience) -> list[Grid]:
    """Every rig against an audience's lines, a row each; none where no line is drawn."""
    judged = judgements(analysis.worth, audience)
    lines = judged[0].checks if judged else ()
    if not lines:
        return []
    asked = [f"{'at most' if one.at_most else 'at least'} {one.limit}" for one in lines]
    rows: list[tuple[Span, ...]] = [("asked", *asked, "")]
    for one in judged:
        figures = [c.figure if c.answer.value is not None else "unknown" for c in one.checks]
        rows.append((one.row.column.name, *figures, one.word))
    heads = ("rig", *(one.says for one in lines), "makes sense")
    return [Grid(f"Each rig against the lines of “{audience.name}”", heads, tuple(rows))]


def tested(analysis: Analysis) -> tuple[Block, ...]:
    """The rigs with their parts and state, and the cases with their settings."""
    rows = tuple(
        (
            row.title,
            row.scene or "–",
            row.settings or "–",
            analysis.contents.cases[row.case_id].method or UNWRITTEN,
            settings_of(analysis, row.case_id),
        )
        for row in analysis.board.rows
    )
    heads = ("title", "scene", "settings", "method", "extras")
    notes = analysis.review.notes
    said = (Paragraph((sentence("tested.notes", f"{notes.rstrip('.')}."),)),) if notes else ()
    unnoted = _unnoted(analysis)
    return (
        Bullets(tuple(_rig(analysis, seat.rig_id) for seat in analysis.review.seats)),
        *([Paragraph((sentence("tested.unnoted", unnoted),))] if unnoted else []),
        Grid("The cases, the same on every rig", heads, rows),
        *said,
    )


def settings_of(analysis: Analysis, case_id: str) -> str:
    """What a case uses beside resolution and preset."""
    case = analysis.contents.cases[case_id]
    said = [
        f"ray tracing {case.ray_tracing}" if case.ray_tracing else "",
        f"upscaler {case.upscaler}" if case.upscaler else "",
        f"frame generation {case.frame_generation}" if case.frame_generation else "",
        f"cap {case.frame_cap_fps:g} fps" if case.frame_cap_fps else "",
        case.graphics_api,
    ]
    return ", ".join(part for part in said if part) or UNWRITTEN


def _rig(analysis: Analysis, rig_id: str) -> Sentence:
    contents = analysis.contents
    rig = contents.rigs[rig_id]
    column = analysis.board.column(rig_id)
    role = f" ({column.role})" if column else ""
    card, host = contents.card_of(rig_id), contents.host_of(rig_id)
    dock, link = contents.dock_of(rig_id), contents.link_of(rig_id)
    if rig.source:
        said = f", {rig.source_date}" if rig.source_date else ""
        spread = rig.source_spread if rig.source_spread is not None else ASSUMED_SPREAD
        taken = "as said" if rig.source_spread is not None else "assumed"
        differs = rig.source_differs or "what differs is not noted"
        return sentence(
            f"tested.{rig_id}",
            f"{rig.name}{role}: published by {rig.source}{said}; {differs}; its figures are taken "
            f"to spread by {percent_text(spread, decimals=1)} from pass to pass ({taken}).",
        )
    parts = []
    if card is not None:
        kind = "built-in graphics" if card.built_in else "card"
        watts = amount(card.board_power_w, "W") if card.board_power_w else ""
        memory = amount(card.vram_gb, "GB") if card.vram_gb and card.memory_type else ""
        memory = " ".join(filter(None, (memory, card.memory_type)))
        fixed = "soldered in" if card.soldered else ""
        told = (f"{kind} {card.name}", card.form, watts, memory, fixed)
        parts.append(", ".join(filter(None, told)))
    if host is not None:
        memory = amount(host.memory_gb, "GB memory") if host.memory_gb else ""
        inside = ", ".join(part for part in (host.cpu, memory, host.operating_system) if part)
        parts.append(f"on {host.name}{f' ({inside})' if inside else ''}")
    if link is not None:
        measured = (
            f", {amount(rig.measured_gb_per_s, 'GB/s')} measured"
            f"{f' by {rig.measured_how}' if rig.measured_how else ''}"
            if rig.measured_gb_per_s
            else ""
        )
        shared = devices_words(link)
        shared = f", which it shares with {shared}" if shared else ""
        parts.append(f"through the {link.name}{measured}{shared}")
    if dock is not None:
        parts.append(f"in {dock.name}{' with the card built in' if dock.sealed else ''}")
        parts += [f"which also has {dock.beside.rstrip('.')}"] if dock.beside else []
    if rig.modified:
        parts.append(f"made to fit: {rig.modified.rstrip('.')}")
    state = [*state_facts(rig.state)]
    if parts or rig.screen:  # a rig that is no more than a name has the screen path nobody chose
        state.append(f"{rig.screen_path}{f' at {_screen(rig.screen)}' if rig.screen else ''}")
    facts = (", ".join(parts), ", ".join(filter(None, state)))
    words = "; ".join(filter(None, facts)) or "no part is described"
    return sentence(f"tested.{rig_id}", f"{rig.name}{role}: {words}.")


def _unnoted(analysis: Analysis) -> str:
    """What nobody noted of which rigs, in one sentence; blank where all is noted."""
    rigs = [analysis.contents.rigs[seat.rig_id] for seat in analysis.review.seats]
    rigs = [rig for rig in rigs if not rig.source]
    lacking = {
        "parts": [rig.name for rig in rigs if not (rig.host_id or rig.card_id or rig.link_id)],
        "driver": [rig.name for rig in rigs if not rig.state.driver],
        "overclock": [rig.name for rig in rigs if not rig.state.overclock],
    }
    said: dict[str, list[str]] = {}
    for fact, names in lacking.items():
        if names:
            whose = "any rig" if len(names) == len(rigs) else list_text(names)
            said.setdefault(whose, []).append(fact)
    told = "; ".join(f"{list_text(facts)} of {whose}" for whose, facts in said.items())
    return f"Not noted: {told}." if told else ""


def _screen(screen: Screen) -> str:
    return f"{screen.width} × {screen.height}, {screen.refresh_hz:g} Hz"


def method(analysis: Analysis) -> tuple[Block, ...]:
    """How runs were taken, put together and checked."""
    return (Paragraph(tuple(_method(analysis))),)


def _method(analysis: Analysis) -> Iterator[Sentence]:
    board = analysis.board
    runs = [run for behind in board.runs.values() for run in behind]
    kept = [run for rig_id, case_id in board.runs for run in board.counted(rig_id, case_id)]
    counts = sorted(cell.runs for cell in board.cells.values())
    if counts:
        each = f"{counts[0]}" if counts[0] == counts[-1] else f"{counts[0]} to {counts[-1]}"
        passes = "pass" if counts[-1] == 1 else "passes"
        ended = sum(bool(run.outcome) for run in kept)
        crashed = f"; {ended} did not run to the end" if ended else ""
        yield sentence(
            "method.runs",
            f"{count_text(len(runs), 'run was', 'runs were')} taken and {len(kept) - ended} "
            f"counted, {each} {passes} for each rig and case{_span_words(kept)}{crashed}.",
        )
    yield sentence("method.origin", _origin_words(kept))
    if read := how_read_words(kept):
        yield sentence("method.read", read)
    if told := recordings_words(kept):
        yield sentence("method.recordings", f"Recordings: {' '.join(told)}")
    if board.cells:
        yield from _rates(analysis)
    found = analysis.checked
    flagged = [one for one in kept if found.worst(one.id) in (Severity.BLOCKING, Severity.CAUTION)]
    words = (
        f"{count_text(len(flagged), 'counted run still carries', 'counted runs still carry')} "
        "a finding"
        if flagged
        else "no counted run carries a finding that blocks it or asks for caution"
    )
    traced = sum(run.figures is not None for run in kept)
    whole = traced == len(kept)
    with_trace = ("run with a trace was", "runs with a trace were")
    who = "Every run was" if whole else count_text(traced, *with_trace)
    others = "" if whole else " The others are figures alone, where caps and menus cannot be seen."
    if traced or not kept:
        yield sentence(
            "method.checks",
            f"{who} checked for caps, menus, recorders, narrow links, heat and repeats that "
            f"disagree: {words}.{others}",
        )
    else:
        yield sentence(
            "method.checks", "No run has a trace, so caps and menus cannot be seen in them."
        )
    caps = [row for row in board.rows if analysis.contents.cases[row.case_id].frame_cap_fps]
    yield sentence(
        "method.cap",
        f"A frame cap was set on purpose in {count_text(len(caps), 'case')}."
        if caps
        else "No case has a frame cap noted.",
    )
    skipped = {words for run in kept for words in skipped_before(analysis.contents, run)}
    if skipped:
        yield sentence(
            "method.skipped",
            "Pre-flight steps skipped before counted runs: "
            f"{'; '.join(sorted(words.rstrip('.') for words in skipped))}.",
        )


def _rates(analysis: Analysis) -> Iterator[Sentence]:
    """How frame rates are computed and put together."""
    board, review = analysis.board, analysis.review
    yield sentence(
        "method.average",
        "The average is frames over time, never a mean of per-frame rates; passes are put "
        "together by total frames over total time.",
    )
    yield sentence(
        "method.low",
        f"The 1 % low is the {review.low_school} one: {LOW_WORDS[review.low_school]}.",
    )
    yield sentence(
        "method.mean",
        f"{capital(mean_basis(board, None))}; gain is over the base {_name(board.base)}, loss is "
        f"against the reference {_name(board.reference)}, and intervals are 95 %.",
    )


LOW_WORDS = {
    "percentile": "the rate of the frame time that 99 % of frames keep under",
    "worst-mean": "the rate of the mean of the longest hundredth of frames",
    "time-share": "the rate of the frame at which the longest frames fill a hundredth of the time",
}


def _name(column: object) -> str:
    return str(getattr(column, "name", "none"))


def _span_words(runs: list[Run]) -> str:
    days = sorted(run.taken_at[:10] for run in runs if run.taken_at)
    if not days:
        return ""
    if days[0] == days[-1]:
        return f", on {days[0]}"
    return f", from {days[0]} to {days[-1]}"


def how_read_words(runs: Sequence[Run]) -> str:
    """How figures that no log holds were read, and what that is taken to be worth."""
    hows = [run.how_read for run in runs if run.figures is None and run.average_fps is not None]
    said = [
        f"{count_text(count, 'pass', 'passes')} {words}"
        for words, fits in READ_WORDS
        if (count := sum(fits(how) for how in hows))
    ]
    if not said:
        return ""
    return (
        f"How it was read: {list_text(said)}; intervals hold the reading's own width and the "
        "run-to-run spread."
    )


def recordings_words(runs: Sequence[Run]) -> tuple[str, ...]:
    """A sentence for each pass that was read from a recording: file, stretch, what was read."""
    said = []
    for run in runs[:MOST_RECORDINGS]:
        read = run.recording
        if read is None:
            continue
        counters = sum(box.quantity != "ignore" for box in read.boxes)
        parts = [f"{run.origin.file}, {read.from_s:.1f} to {read.to_s:.1f} s"]
        if counters:
            parts.append(f"{count_text(counters, 'counter')} read for {read.read_share:.0%} of it")
        if read.asked:
            parts.append(f"{count_text(read.asked, 'figure')} asked about")
        said.append(f"{'; '.join([*parts, *read.notes])}.")
    return tuple(said)


MOST_RECORDINGS = 12

READ_WORDS: tuple[tuple[str, Callable[[HowRead], bool]], ...] = (
    ("off a recording of the screen", lambda how: how.kind is Kind.RECORDING),
    ("as samples of a counter", lambda how: how.kind is Kind.SAMPLES),
    ("in a benchmark's own summary", lambda how: how.kind is Kind.SUMMARY),
    ("off the screen once", lambda how: how.kind is Kind.EYE and len(how.looks) < 2),
    ("as the mean of several looks", lambda how: how.kind is Kind.EYE and len(how.looks) > 1),
    ("as seen between two figures, taken as 95 %", lambda how: how.kind is Kind.RANGE),
    ("as about, taken as ± 5 %", lambda how: how.kind is Kind.ABOUT),
    ("as at least", lambda how: how.kind is Kind.AT_LEAST),
    ("as at most", lambda how: how.kind is Kind.AT_MOST),
)


def _origin_words(runs: list[Run]) -> str:
    kinds = {"log": "read from frame logs", "simulated": "played by the simulated bench"}
    kinds["recording"] = "read from a recording of the screen"
    kinds["typed"] = "typed in from a screen, without a trace"
    said = [
        f"{count_text(count, 'run')} {'was' if count == 1 else 'were'} {words}"
        for kind, words in kinds.items()
        if (count := sum(run.origin.kind == kind for run in runs))
    ]
    return f"{capital(list_text(said))}." if said else "No run is counted yet."

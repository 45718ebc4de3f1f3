"""Trim a run: other figures from the same trace, which always stays whole."""

from dataclasses import dataclass

from blunt_ruler.core.measure.frames import FrameFigures, frame_ends_s, measure, part_between
from blunt_ruler.core.measure.trace_summary import Observed, observe
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Run, Trace, Trim


@dataclass(frozen=True, slots=True)
class Cut:
    """A trace trimmed: what is kept, its figures, and those of the whole."""

    trim: Trim | None
    kept: FrameFigures
    whole: FrameFigures


def cut(trace: Trace, trim: Trim | None) -> Cut:
    """Figures of a trace under a trim, beside those of the whole; BadFrames where too few stay."""
    times = trace.frame_times_ms
    whole = measure(times)
    if trim is None or (trim.from_s is None and trim.to_s is None):
        return Cut(None, whole, whole)
    return Cut(trim, measure(times[part_between(times, trim.from_s, trim.to_s)]), whole)


def trimmed(run: Run, trace: Trace, trim: Trim | None) -> Run:
    """The run with the figures of a part of its trace; None keeps the whole."""
    made = cut(trace, trim)
    update = {"trim": made.trim, "figures": made.kept, "observed": observed_in(trace, made.trim)}
    return run.model_copy(update=update)


def trim_edit(run: Run, trace: Trace, trim: Trim | None) -> Edit:
    """Keep a part of a run's trace, or all of it for None."""
    return Edit(f"{'trim' if trim else 'untrim'} pass {run.repeat}", (trimmed(run, trace, trim),))


def longer_edit(run: Run, trace: Trace, sha256: str) -> Edit:
    """A longer trace of the same recording in the place of a run's."""
    longer = run.model_copy(update={"trace_sha256": sha256})
    return Edit(f"put the longer recording in pass {run.repeat}", (trimmed(longer, trace, None),))


def observed_in(trace: Trace, trim: Trim | None) -> Observed:
    """What the kept part of a trace shows."""
    times = trace.frame_times_ms
    part = slice(None) if trim is None else part_between(times, trim.from_s, trim.to_s)
    return observe(times[part], {name: values[part] for name, values in trace.telemetry.items()})


def proposed(run: Run, trace: Trace) -> Trim | None:
    """The trim that the checks propose for a run, in seconds of the whole trace."""
    seen = run.observed
    if seen is None or not (seen.head_s or seen.tail_s):
        return None
    before = run.trim.from_s if run.trim and run.trim.from_s else 0.0
    end = float(frame_ends_s(trace.frame_times_ms)[-1])
    until = run.trim.to_s if run.trim and run.trim.to_s else end
    to_s = until - seen.tail_s if seen.tail_s else (run.trim.to_s if run.trim else None)
    return Trim(
        from_s=round(before + seen.head_s, 6) or None,
        to_s=None if to_s is None else round(to_s, 6),
        why=seen.cut_why[:400],
    )

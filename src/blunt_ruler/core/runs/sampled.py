"""What a machine said of itself during a pass, put to the run that came of it."""

from collections.abc import Collection

from blunt_ruler.core.measure.machine_samples import Samples, digests_of, onto_frames
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Run, Trace


def typed_since(
    contents: Contents, rig_id: str, case_id: str, known: Collection[str]
) -> Run | None:
    """The run of a cell that came since some were known and that no log stands behind."""
    return next(
        (
            run
            for run in contents.runs.values()
            if (run.rig_id, run.case_id) == (rig_id, case_id)
            and run.id not in known
            and run.trace_sha256 is None
            and not run.sampled
        ),
        None,
    )


def sampled_edit(run: Run, samples: Samples) -> Edit | None:
    """The run with the digests of what was read meanwhile; None where nothing was read."""
    found = digests_of(samples)
    if not found:
        return None
    kept = run.model_copy(update={"sampled": found})
    return Edit(f"what the machine said during pass {run.repeat}", (kept,))


def with_samples(trace: Trace, samples: Samples, ends_at_s: float) -> Trace:
    """A log's trace with the gauges it lacks, aligned by when it ended, seconds since 1970."""
    telemetry = onto_frames(trace.frame_times_ms, trace.telemetry, samples, ends_at_s)
    return Trace(trace.frame_times_ms, telemetry)

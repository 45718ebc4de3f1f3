"""Runs that an earlier version read: what newer checks look at is still in their traces."""

from blunt_ruler.core.records.edits import Edit, put
from blunt_ruler.core.records.records import Contents, Run, Trace
from blunt_ruler.core.runs.trim_run import observed_in
from blunt_ruler.core.text import count_text


def to_read_again(contents: Contents) -> tuple[Run, ...]:
    """Runs with a trace whose course was never kept."""
    return tuple(
        run
        for run in contents.runs.values()
        if run.trace_sha256 and run.observed is not None and not run.observed.profile
    )


def read_again(run: Run, trace: Trace) -> Run:
    """The run with all that its trace shows now; its figures stay."""
    return run.model_copy(update={"observed": observed_in(trace, run.trim)})


def read_again_edit(contents: Contents, read: list[Run]) -> Edit:
    """Runs put in place that nobody changed meanwhile but for what their traces show."""
    still = [
        run.model_copy(update={"observed": one.observed})
        for one in read
        if (run := contents.runs.get(one.id)) is not None
        and (run.trace_sha256, run.trim) == (one.trace_sha256, one.trim)
    ]
    return put(f"read {count_text(len(still), 'trace')} again", *still)

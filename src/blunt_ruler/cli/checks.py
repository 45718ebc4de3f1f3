"""The command that checks runs: of a logbook, or loose logs."""

from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any

import typer

from blunt_ruler.cli.common import (
    BadOption,
    JsonFlag,
    ReviewName,
    app,
    logs_in,
    print_json,
    read_logbook,
)
from blunt_ruler.files import as_text


@app.command()
def check(
    files: Annotated[
        list[Path], typer.Argument(help="One logbook, or frame logs and folders of them.")
    ],
    review: ReviewName = None,
    refresh: Annotated[
        float | None, typer.Option(min=1.0, max=1000.0, help="Refresh rate of the monitor, Hz.")
    ] = None,
    as_json: JsonFlag = False,
) -> None:
    """Say what is wrong with runs, and what to do about it."""
    from blunt_ruler.core.checks.all import check_runs

    if files[0].suffix == ".blunt":
        if len(files) > 1 or refresh is not None:
            raise BadOption(
                str(files[0]), "a logbook is checked alone", "Leave the other files and options out"
            )
        contents, chosen = read_logbook(files[0], review)
        checked = check_runs(contents, chosen if review else None)
        names = {run.id: run.id for run in contents.runs.values()}
        key = "run"
    else:
        with logs_in(files) as logs:
            checked = _check_logs(logs, refresh)
        names = {run.id: run.id for run in checked.runs}
        key = "file"
    found: list[dict[str, Any]] = [
        {
            key: names[finding.run_id],
            "check": str(finding.check),
            "severity": str(finding.severity),
            "about": str(finding.about),
            "runs": [names[run_id] for run_id in finding.runs],
            "sure": str(finding.sure),
            "signs": list(finding.signs),
            "evidence": dict(finding.evidence),
            "remedy": finding.remedy,
            "says": finding.says,
        }
        for finding in checked.findings
    ]
    if as_json:
        print_json(found)
        return
    for one in found:
        sure = f", {one['sure']}: {'; '.join(one['signs'])}" if one["signs"] else ""
        whom = one[key] if one["about"] == "run" else ", ".join(one["runs"])
        print(f"{whom}: {one['check']} ({one['severity']}{sure}): {one['says']} {one['remedy']}")
    if not found:
        print("Nothing was found; that is no promise.")


def _check_logs(files: Sequence[Path], refresh: float | None) -> Any:
    from blunt_ruler.cli.logs import read_sure
    from blunt_ruler.core.checks.all import check_logs
    from blunt_ruler.core.measure.frames import measure
    from blunt_ruler.core.measure.trace_summary import REFRESH_HZ, observe
    from blunt_ruler.core.records.records import Run
    from blunt_ruler.core.records.thresholds import Thresholds
    from blunt_ruler.exchange.frame_logs import origin_of
    from blunt_ruler.logbook.traces import encode_trace

    rates = (*REFRESH_HZ, refresh) if refresh is not None else REFRESH_HZ
    runs = []
    for path in files:
        reading = read_sure(path, None, None, skip_bad_rows=True)
        if reading.trace is None:
            raise BadOption(path.name, "it holds samples, not frames", "Check a log of frames")
        times_ms = reading.trace.frame_times_ms
        runs.append(
            Run(
                id=as_text(path),
                rig_id="",
                case_id="",
                origin=origin_of(reading),
                trace_sha256=encode_trace(reading.trace)[0],
                figures=measure(times_ms, path.name),
                observed=observe(times_ms, reading.trace.telemetry, rates),
            )
        )
    return check_logs(runs, refresh, Thresholds())

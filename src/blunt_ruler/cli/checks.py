"""The command that checks runs: of a logbook, or loose logs."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

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
from blunt_ruler.cli.long_work import shown_progress, uncollected
from blunt_ruler.core.text import list_text
from blunt_ruler.files import as_text

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import FindingDocument, Place
    from blunt_ruler.core.records.records import Contents, Run


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
    """Check runs and suggest fixes."""
    from blunt_ruler.core.checks.all import check_runs

    if files[0].suffix == ".blunt":
        if len(files) > 1 or refresh is not None:
            raise BadOption(
                str(files[0]), "a logbook is checked alone", "Leave the other files and options out"
            )
        contents, chosen = read_logbook(files[0], review)
        with uncollected(), shown_progress() as step:
            checked = check_runs(contents, chosen if review else None, step=step)
        spoken_of = {run_id for finding in checked.findings for run_id in finding.runs}
        places = {run_id: _place(contents, contents.runs[run_id]) for run_id in spoken_of}
    else:
        with logs_in(files) as logs:
            checked = _check_logs(logs, refresh)
        places = {run.id: {"file": run.id} for run in checked.runs}
    found: list[FindingDocument] = [
        {
            **places[finding.run_id],
            "check": str(finding.check),
            "severity": str(finding.severity),
            "about": str(finding.about),
            "runs": list(finding.runs),
            "passes": [places[run_id] for run_id in finding.runs],
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
        whom = one["passes"][:1] if one["about"] == "run" else one["passes"]
        print(
            f"{_words(whom)}: {one['check']} ({one['severity']}{sure}): {one['says']} "
            f"{one['remedy']}"
        )
    if not found:
        print("Nothing was found; that does not prove it sound.")


def _place(contents: "Contents", run: "Run") -> "Place":
    """Where a run of a logbook stands."""
    return {
        "run": run.id,
        "rig": contents.rigs[run.rig_id].name,
        "case": contents.case_label(run.case_id),
        "pass": run.repeat,
    }


def _words(passes: "Sequence[Place]") -> str:
    """Passes by rig and case, or logs by their names."""
    if "file" in passes[0]:
        return ", ".join(one["file"] for one in passes)
    cells: dict[tuple[str, str], list[str]] = {}
    for one in passes:
        cells.setdefault((one["rig"], one["case"]), []).append(str(one["pass"]))
    return "; ".join(
        f"{rig}, {case}, {'pass' if len(numbers) == 1 else 'passes'} {list_text(numbers)}"
        for (rig, case), numbers in cells.items()
    )


def _check_logs(files: Sequence[Path], refresh: float | None) -> Any:
    from blunt_ruler.cli.logs import read_sure
    from blunt_ruler.core.checks.all import check_logs
    from blunt_ruler.core.measure.frames import measure
    from blunt_ruler.core.measure.trace_summary import REFRESH_HZ, observe
    from blunt_ruler.core.records.records import Run
    from blunt_ruler.core.records.thresholds import Thresholds
    from blunt_ruler.exchange.logs.frame_logs import origin_of
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

"""A published review as one file that others can open: a Frictionless data package in a zip.

In it are the figures, runs and rigs as tables with a schema for each column, the report as JSON
with its JSON Schema and as Markdown with its method, the logbook with the runs and their traces,
and the SHA-256 of every file. The same logbook gives the same bytes.

Source of the form of `datapackage.json`: Data Package and Table Schema, version 1 of the
specifications published by Frictionless Data; from memory.
"""

import hashlib
import json
import re
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from pathlib import Path

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Run
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.core.writeup.bundle import records_of
from blunt_ruler.core.writeup.corrections import PastEdit
from blunt_ruler.exchange.documents.reports import TIDY_COLUMNS
from blunt_ruler.exchange.documents.writeup.files import Format, bodies_of
from blunt_ruler.exchange.documents.writeup.tables import FIGURE_COLUMNS
from blunt_ruler.exchange.tables.csv_text import delimited
from blunt_ruler.files import placed, sha256_of

PACKAGE_NAME = "review.zip"
DESCRIPTION = "datapackage.json"
LOGBOOK = "bundle.blunt"
EPOCH = (1980, 1, 1, 0, 0, 0)  # the earliest moment a zip can hold: no clock in a file
DAMAGED = (zipfile.BadZipFile, zlib.error, NotImplementedError)
MOST_BYTES = 4_000_000_000
CHUNK = 1 << 20
NUMBERS = {
    "value", "low_95", "high_95", "average_fps", "low_1_fps", "low_01_fps", "gain", "loss",
    "gain_low", "gain_high", "loss_low", "loss_high", "average_low_95", "average_high_95",
}  # fmt: skip
COUNTS = {"runs", "pass"}
SAYS = {
    "average_fps": "frames over time, frames per second",
    "low_1_fps": "1 % low by the definition in low_school, frames per second",
    "low_01_fps": "0.1 % low by the same definition, frames per second",
    "gain": "a/b − 1 over the rig in gain_base; 0.1 is 10 %",
    "loss": "1 − a/r against the rig in loss_reference; 0.1 is 10 %",
    "low_95": "lower end of the 95 % interval",
    "high_95": "upper end of the 95 % interval",
    "standing": "clean, mixed or not comparable",
    "differs": "the facts that differ beside what is varied",
    "decision": "whether the pass counts: keep, redo or set aside",
    "trace_sha256": "SHA-256 of the trace in the logbook; blank for typed figures",
}
RUN_COLUMNS = (
    "run_id", "rig_id", "rig", "case_id", "case", "pass", "decision", "reason", "kind",
    "average_fps", "low_1_fps", "low_01_fps", "taken_at", "trace_sha256",
)  # fmt: skip
RIG_COLUMNS = ("rig_id", "rig", "role", "host", "card", "dock", "link", "notes", "origin")
READ_ME = """\
# {title}

A published review with everything behind its figures. `datapackage.json` describes each file.

- Spreadsheet: open `figures.csv`, `board.csv`, `runs.csv` or `rigs.csv`.
- Blunt Ruler: drop this zip on the window, or `blunt-ruler open review.zip`.
- By hand: `sha256sum` of a file is the hash that `datapackage.json` gives for it.
- `report.md` has the method, the disclosures and the corrections; `report.json` every sentence with
  the figures it rests on.
"""


class BadPackage(UserFixable):
    """A zip that is no published review, or not the one that its hashes are of."""


def write_package(
    target: Path,
    analysis: Analysis,
    edits: Sequence[PastEdit],
    logbook: Path,
    step: Progress = no_progress,
) -> Path:
    """Write the package of a review; `logbook` is the one that holds its runs and traces alone."""
    step("Writing the data package", 0.0)
    written = bodies_of(analysis, edits, (Format.CSV, Format.JSON, Format.MD))
    bodies = {
        name: body.encode() if isinstance(body, str) else body for name, body in written.items()
    }
    bodies["runs.csv"] = delimited(_runs(analysis)).encode()
    bodies["rigs.csv"] = delimited(_rigs(analysis)).encode()
    bodies["README.md"] = READ_ME.format(title=analysis.review.name).encode()
    with placed(target) as part, zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as whole:
        sizes = {
            name: (len(body), hashlib.sha256(body).hexdigest()) for name, body in bodies.items()
        }
        sizes[LOGBOOK] = (logbook.stat().st_size, sha256_of(logbook))
        for name in sorted(bodies):
            whole.writestr(_entry(name), bodies[name])
        with logbook.open("rb") as source, whole.open(_entry(LOGBOOK), "w") as kept:
            while chunk := source.read(CHUNK):
                step("Writing the data package", 0.8)
                kept.write(chunk)
        described = json.dumps(_description(analysis, sizes), indent=1, ensure_ascii=False)
        whole.writestr(_entry(DESCRIPTION), described.encode())
    return target


def is_package(path: Path) -> bool:
    """Whether a file is a zip that holds a published review."""
    if path.suffix.lower() != ".zip" or not path.is_file():
        return False
    try:
        with zipfile.ZipFile(path) as whole:
            return {DESCRIPTION, LOGBOOK} <= set(whole.namelist())
    except (OSError, ValueError, *DAMAGED):
        return False


def take_logbook_out(package: Path, target: Path, step: Progress = no_progress) -> Path:
    """Put the logbook of a package at `target`, where its hash is the one the package gives.

    BadPackage says what is wrong; then nothing is left at `target`. A file that is there stays:
    FileExistsError.
    """
    try:
        with zipfile.ZipFile(package) as whole:
            described = _described(whole, package)
            size = whole.getinfo(LOGBOOK).file_size
            if size > MOST_BYTES:
                raise BadPackage(
                    package.name, "its logbook is larger than 4 GB", "Unpack it by hand"
                )
            found = hashlib.sha256()
            with placed(target, replace=False) as part, part.open("xb") as out:
                with whole.open(LOGBOOK) as source:
                    done = 0
                    while chunk := source.read(CHUNK):
                        done += len(chunk)
                        step(f"Reading {package.name}", done / max(size, 1))
                        found.update(chunk)
                        out.write(chunk)
                if f"sha256:{found.hexdigest()}" != described:
                    raise BadPackage(
                        package.name,
                        f"its {LOGBOOK} is not the one that its {DESCRIPTION} gives the hash of",
                        "Get it again from whoever published it",
                    )
    except (*DAMAGED, KeyError, RuntimeError, EOFError) as error:
        raise BadPackage(
            package.name, "it is damaged, or not a published review", "Get it again"
        ) from error
    return target


def _described(whole: zipfile.ZipFile, package: Path) -> str:
    """The hash that the description gives for the logbook."""
    if whole.getinfo(DESCRIPTION).file_size > CHUNK:
        raise BadPackage(package.name, f"its {DESCRIPTION} is too large", "Get it again")
    try:
        resources = json.loads(whole.read(DESCRIPTION))["resources"]
        return str(next(one["hash"] for one in resources if one["path"] == LOGBOOK))
    except (ValueError, KeyError, TypeError, StopIteration, RecursionError) as error:
        raise BadPackage(
            package.name, f"its {DESCRIPTION} gives no hash for {LOGBOOK}", "Get it again"
        ) from error


def _entry(name: str) -> zipfile.ZipInfo:
    entry = zipfile.ZipInfo(name, EPOCH)
    entry.compress_type = zipfile.ZIP_DEFLATED
    entry.external_attr = 0o644 << 16
    return entry


def _description(analysis: Analysis, sizes: Mapping[str, tuple[int, str]]) -> dict[str, object]:
    review = analysis.review
    slug = re.sub(r"[^a-z0-9]+", "-", review.name.lower()).strip("-") or "review"
    columns = {
        "board.csv": TIDY_COLUMNS,
        "figures.csv": FIGURE_COLUMNS,
        "rigs.csv": RIG_COLUMNS,
        "runs.csv": RUN_COLUMNS,
    }
    return {
        "profile": "data-package",
        "name": slug,
        "title": review.name,
        "description": "What a graphics card gained, what it lost, and what took it.",
        "resources": [
            _resource(name, *sizes[name], columns.get(name, ())) for name in sorted(sizes)
        ],
    }


def _resource(name: str, size: int, digest: str, columns: Sequence[str]) -> dict[str, object]:
    stem, _, ending = name.rpartition(".")
    found: dict[str, object] = {
        "name": stem.lower().replace(".", "-"),
        "path": name,
        "format": ending,
        "bytes": size,
        "hash": f"sha256:{digest}",
    }
    if columns:
        found["profile"] = "tabular-data-resource"
        found["encoding"] = "utf-8"
        found["schema"] = {"fields": [_field(one) for one in columns], "missingValues": [""]}
    return found


def _field(column: str) -> dict[str, str]:
    kind = "number" if column in NUMBERS else "integer" if column in COUNTS else "string"
    said = {"description": SAYS[column]} if column in SAYS else {}
    return {"name": column, "type": kind, **said}


def _runs(analysis: Analysis) -> list[Sequence[object]]:
    contents, review = analysis.contents, analysis.review
    rows: list[Sequence[object]] = [RUN_COLUMNS]
    for run in records_of(contents, review):
        if not isinstance(run, Run):
            continue
        rates = (
            run.average_fps,
            run.low_1_fps(review.low_school),
            run.low_01_fps(review.low_school),
        )
        rows.append(
            (
                run.id,
                run.rig_id,
                contents.rigs[run.rig_id].name,
                run.case_id,
                contents.case_label(run.case_id),
                run.repeat,
                run.decision,
                run.reason,
                run.how_read.kind,
                *("" if rate is None else rate for rate in rates),
                run.taken_at,
                run.trace_sha256 or "",
            )
        )
    return rows


def _rigs(analysis: Analysis) -> list[Sequence[object]]:
    contents = analysis.contents
    rows: list[Sequence[object]] = [RIG_COLUMNS]
    for column in analysis.board.columns:
        rig = contents.rigs[column.rig_id]
        host, dock = contents.host_of(rig.id), contents.docks.get(rig.dock_id or "")
        rows.append(
            (
                rig.id,
                rig.name,
                column.role,
                host.name if host else "",
                column.card,
                dock.name if dock else "",
                column.link,
                rig.notes,
                rig.origin,
            )
        )
    return rows

"""A bundle: a logbook with one review's runs and traces, for others to check, and its hashes."""

from pathlib import Path

from blunt_ruler.core.records.records import Run
from blunt_ruler.core.writeup.bundle import records_of
from blunt_ruler.files import CannotWrite, placed, sha256_of, write_whole
from blunt_ruler.logbook.errors import LogbookBusy
from blunt_ruler.logbook.store import Logbook

BUNDLE_NAME = "bundle.blunt"


def write_bundle(source: Path, review_id: str, target: Path) -> tuple[Path, Path]:
    """Write the bundle and, beside it, a list of hashes; both paths.

    The hashes are SHA-256: of the file, and of each trace as the logbook addresses it. An older
    bundle of that name is replaced, the logbook itself never.
    """
    if target.exists() and target.samefile(source):
        raise LogbookBusy(
            str(target), "that is the logbook itself", "Choose another folder for the bundle"
        )
    hashes = target.with_suffix(".sha256.txt")
    try:
        with placed(target) as part:
            addresses = _fill(source, review_id, part)
            lines = [f"{sha256_of(part)}  {target.name}"]
        lines += [f"{sha256}  trace" for sha256 in addresses]
        write_whole(hashes, "\n".join(lines) + "\n")
    except CannotWrite as error:
        raise LogbookBusy(str(target), error.what, error.fix) from error
    return target, hashes


def _fill(source: Path, review_id: str, part: Path) -> list[str]:
    with Logbook.reading(source) as book:
        contents = book.contents()
        review = contents.reviews[review_id]
        records = records_of(contents, review)
        runs = [record for record in records if isinstance(record, Run)]
        addresses = sorted({run.trace_sha256 for run in runs if run.trace_sha256})
        # The newest run dates the bundle, so that the same review gives the same bytes.
        moment = max((run.taken_at for run in contents.runs.values()), default="")
        with Logbook.create(part, lambda: moment, session="") as bundle:
            for run in sorted(runs, key=lambda run: run.trace_sha256 or ""):
                bundle.copy_behind(book, run)
            bundle.commit(f"bundle of {review.name}", put=records)
            bundle.compact()
    return addresses

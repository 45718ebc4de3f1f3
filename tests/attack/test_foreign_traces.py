"""Traces that others packed: whatever their bytes are, a trace comes out or a sentence, and this
process lives on. They are decoded in another one; an abort there is no abort here.
"""

import hashlib
import io
import json
import os
import random
import sqlite3
import threading

import numpy as np
import polars as pl
import pytest

from blunt_ruler import limited
from blunt_ruler.core.records.records import Trace
from blunt_ruler.logbook import DamagedLogbook, Logbook
from blunt_ruler.logbook.traces import FRAME_TIME_COLUMN, MICROSECONDS_COLUMN, encode_trace

FLIPS = int(os.environ.get("ATTACK_FLIPS", "60"))
SEED = int(os.environ.get("ATTACK_SEED", "3"))


@pytest.fixture(scope="module")
def book(tmp_path_factory):
    with Logbook.create(tmp_path_factory.mktemp("foreign") / "a.blunt") as made:
        yield made
    limited.end_shared()


def put(book, blob, frames, signed=None):
    """A blob as somebody else's program leaves it in a logbook; its address."""
    sha256 = hashlib.sha256(blob).hexdigest()
    with sqlite3.connect(book.path) as db:
        db.execute(
            "INSERT OR REPLACE INTO traces VALUES (?, ?, ?, ?)", (sha256, frames, blob, signed)
        )
    db.close()
    return sha256


def parquet(frame, metadata=None, **how):
    buffer = io.BytesIO()
    pl.DataFrame(frame).write_parquet(buffer, metadata=metadata, **how)
    return buffer.getvalue()


def test_a_sound_trace_of_another_machine_is_read(book):
    times = np.round(np.random.default_rng(1).gamma(9, 2, 500), 3)
    trace = Trace(times, {"GPU %": np.arange(500.0), "steady": np.full(500, 7.0)})
    _, blob = encode_trace(trace)
    read = book.trace(put(book, blob, 500))
    np.testing.assert_array_equal(read.frame_times_ms, times)
    assert list(read.telemetry) == ["GPU %", "steady"]
    np.testing.assert_array_equal(read.telemetry["GPU %"], trace.telemetry["GPU %"])


GOOD = np.full(20, 16.7)
BAD = {
    "other frames than it says": (parquet({FRAME_TIME_COLUMN: GOOD}), 21),
    "a billion rows": (parquet({FRAME_TIME_COLUMN: GOOD}), 1_000_000_000),
    "frames that are text": (parquet({FRAME_TIME_COLUMN: GOOD}), "many"),
    "no frames": (parquet({"else": GOOD}), 20),
    "text": (parquet({FRAME_TIME_COLUMN: ["x"] * 20}), 20),
    "lists": (parquet({FRAME_TIME_COLUMN: [[1.0]] * 20}), 20),
    "times below zero": (parquet({FRAME_TIME_COLUMN: -GOOD}), 20),
    "times without end": (parquet({FRAME_TIME_COLUMN: GOOD * np.inf}), 20),
    "times that are none": (parquet({FRAME_TIME_COLUMN: GOOD * np.nan}), 20),
    "nulls": (parquet({FRAME_TIME_COLUMN: [None, *GOOD[1:]]}), 20),
    "microseconds below zero": (parquet({MICROSECONDS_COLUMN: np.full(20, -5, np.int32)}), 20),
    "deep notes": (parquet({FRAME_TIME_COLUMN: GOOD}, {"steady": "[" * 100_000}), 20),
    "long notes": (parquet({FRAME_TIME_COLUMN: GOOD}, {"order": json.dumps("x" * 2_000_000)}), 20),
    "odd notes": (parquet({FRAME_TIME_COLUMN: GOOD}, {"steady": '{"a": 1}'}), 20),
    "large notes": (parquet({FRAME_TIME_COLUMN: GOOD}, {"steady": '[["x", 1e300]]'}), 20),
    "numbers of 5000 digits": (
        parquet({FRAME_TIME_COLUMN: GOOD}, {"steady": f'[["x", {"9" * 5000}]]'}), 20,
    ),
    "no Parquet": (b"PAR1 and nothing PAR1", 20),
    "nothing": (b"", 20),
}  # fmt: skip


@pytest.mark.parametrize("how", BAD)
@pytest.mark.parametrize("signed", [None, "0" * 64, 7], ids=["bare", "signed", "odd"])
def test_a_blob_that_is_no_trace_is_a_sentence(book, how, signed):
    blob, frames = BAD[how]
    with pytest.raises(DamagedLogbook) as refused:
        book.trace(put(book, blob, frames, signed))
    assert "\n" not in str(refused.value)
    assert len(str(refused.value)) < 500


def test_a_page_that_says_it_holds_a_billion_rows_is_refused(book):
    """A constant column of many rows packs to next to nothing."""
    blob = parquet({FRAME_TIME_COLUMN: pl.Series(np.full(15_000_000, 16.7))}, compression="zstd")
    assert len(blob) < 3_000_000
    assert book.trace(put(book, blob, 15_000_000)).frame_times_ms.size == 15_000_000
    with pytest.raises(DamagedLogbook, match="15000000 rows instead of 20"):
        book.trace(put(book, blob, 20))


def mutated(raw, rng):
    """A sound file with its structure hurt: footer, lengths, pages, thrift fields."""
    made = bytearray(raw)
    length = int.from_bytes(raw[-8:-4], "little")
    footer = range(len(raw) - 8 - length, len(raw) - 8)
    for _ in range(rng.choice([1, 1, 2, 4, 16])):
        where = rng.random()
        if where < 0.6:
            made[rng.choice(footer) % len(made)] = rng.choice(
                [0, 1, 0x7F, 0x80, 0xFF, rng.randrange(256)]
            )
        elif where < 0.7:
            made[-8:-4] = rng.choice([0, 1, length - 1, length * 2, 2**31]).to_bytes(4, "little")
        elif where < 0.95:
            made[rng.randrange(4, len(made) - 8)] = rng.randrange(256)
        else:
            at = rng.randrange(4, len(made) - 8)
            del made[at : at + rng.randrange(1, 9)]
    return bytes(made)


def test_hurt_blobs_are_traces_or_sentences(book):
    rng, kinds = random.Random(SEED), {"trace": 0, "sentence": 0}
    seeds = [
        parquet(
            {MICROSECONDS_COLUMN: np.arange(1, 300, dtype=np.int32), "GPU %": np.arange(299.0)}
        ),
        parquet({FRAME_TIME_COLUMN: np.linspace(1, 40, 299)}, {"steady": '[["x", 1]]'}),
        parquet({FRAME_TIME_COLUMN: np.full(299, 8.3)}, compression="uncompressed"),
        encode_trace(Trace(np.linspace(5, 9, 299), {"a": np.arange(299.0)}))[1],
    ]
    for _ in range(FLIPS):
        try:
            trace = book.trace(put(book, mutated(rng.choice(seeds), rng), 299))
        except DamagedLogbook as error:
            kinds["sentence"] += 1
            assert "\n" not in str(error)
        else:
            kinds["trace"] += 1
            assert np.all(trace.frame_times_ms > 0)
    assert min(kinds.values()) > 0


def test_what_others_packed_is_never_decoded_in_this_process(book, monkeypatch):
    """Neither a trace nor a workbook: the parsers are only called where there are limits."""
    from blunt_ruler.exchange.tables import files
    from blunt_ruler.logbook import traces

    def here(*_args, **_names):
        raise AssertionError(f"decoded in the process of {threading.current_thread().name}")

    for name in ("read_parquet", "scan_parquet", "read_parquet_schema", "read_parquet_metadata"):
        monkeypatch.setattr(traces.pl, name, here)
    monkeypatch.setattr("python_calamine.load_workbook", here)
    _, blob = encode_trace(Trace(np.linspace(5, 9, 50), {}))
    assert book.trace(put(book, blob, 50)).frame_times_ms.size == 50
    from blunt_ruler.exchange.tables.workbooks import workbook_of

    path = book.path.with_name("table.ods")
    path.write_bytes(workbook_of({"R": [["rig", "title"], ["A", "T"]]}))
    assert files.read_sheets(path)


def test_what_was_packed_here_is_known(book, monkeypatch):
    trace = Trace(np.linspace(5, 9, 50), {})
    sha256 = book.add_trace(trace)

    def apart(*_args, **_names):
        raise AssertionError("another process was asked")

    monkeypatch.setattr("blunt_ruler.logbook.traces.limited", apart)
    np.testing.assert_allclose(book.trace(sha256).frame_times_ms, trace.frame_times_ms)


def test_the_key_is_the_users_alone(book):
    from blunt_ruler.logbook import signatures

    before = os.umask(0)
    try:
        path = signatures.key_path().with_name("another") / "machine.key"
        signatures._key(path)
    finally:
        os.umask(before)
    assert path.stat().st_mode & 0o777 == 0o600
    assert path.parent.stat().st_mode & 0o777 == 0o700

"""Traces as Parquet blobs addressed by their SHA-256.

The address is the checksum: a blob that changed on disk is noticed when it is read. Frame times
that are whole microseconds, as nearly all logs have them, are kept as such, and a channel that
never moves is kept as one number; both come back exactly as they were.
"""

import hashlib
import io
import json
import math
from typing import NamedTuple

import numpy as np
import polars as pl

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.frames import checked_frame_times
from blunt_ruler.core.measure.telemetry import checked_telemetry
from blunt_ruler.core.records.records import Trace
from blunt_ruler.core.types import FloatArray
from blunt_ruler.limited import OverLimit, Undecodable, limited
from blunt_ruler.logbook.errors import DamagedLogbook

FRAME_TIME_COLUMN = "frame_time_ms"
MICROSECONDS_COLUMN = "frame_time_us"
STEADY_KEY = "steady"  # JSON of [channel, number] for channels that never move, null for missing
ORDER_KEY = "order"
MOST_FRAMES = 20_000_000  # of a log of a gigabyte, the longest that is read
MOST_CELLS = 100_000_000
MOST_METADATA = 1_000_000
MEMORY_MB = 2_000
LEVEL = 3  # of zstd; 9 is a few percent smaller and takes three times as long


def encode_trace(trace: Trace, level: int = LEVEL) -> tuple[str, bytes]:
    """A trace as (SHA-256 in hex, Parquet bytes); the same trace gives the same bytes."""
    times = trace.frame_times_ms
    whole = np.round(times * 1000.0)
    if whole.max() < 2**31 and np.array_equal(whole / 1000.0, times):
        columns = {MICROSECONDS_COLUMN: pl.Series(whole.astype(np.int32))}
    else:
        columns = {FRAME_TIME_COLUMN: pl.Series(times, dtype=pl.Float64)}
    steady: list[tuple[str, float | None]] = []
    for name, values in trace.telemetry.items():
        # Telemetry is read off gauges: 7 digits are more than any of them has.
        channel = values.astype(np.float32)
        key = name if name not in (FRAME_TIME_COLUMN, MICROSECONDS_COLUMN) else f"{name} (log)"
        if np.isnan(channel).all():
            steady.append((key, None))
        elif (channel == channel[0]).all():
            steady.append((key, float(channel[0])))
        else:
            columns[key] = pl.Series(channel)
    metadata = {STEADY_KEY: json.dumps(steady), ORDER_KEY: json.dumps(list(trace.telemetry))}
    buffer = io.BytesIO()
    pl.DataFrame(columns).write_parquet(
        buffer,
        compression="zstd",
        compression_level=level,
        statistics=False,
        metadata=metadata if steady else None,
    )
    blob = buffer.getvalue()
    return hashlib.sha256(blob).hexdigest(), blob


class Packed(NamedTuple):
    """A trace as it is stored: its address, how many frames it has, and the Parquet bytes."""

    sha256: str
    frames: int
    blob: bytes


def packed(trace: Trace, level: int = LEVEL) -> Packed:
    """A trace as it is stored; BadFrames for one that is none."""
    checked_frame_times(trace.frame_times_ms)
    checked_telemetry(trace.telemetry)
    sha256, blob = encode_trace(trace, level)
    return Packed(sha256, trace.frame_times_ms.size, blob)


def decode_trace(sha256: str, blob: bytes, frames: object, where: str, *, own: bool) -> Trace:
    """The trace of a blob; DamagedLogbook where its bytes are not those of its address or no trace.

    `frames` is how many the logbook says it has. A blob that is not `own`, packed here, is decoded
    in a process with limits: what others packed may be anything.
    """
    if hashlib.sha256(blob).hexdigest() != sha256:
        raise DamagedLogbook(
            where,
            f"the trace {sha256[:12]} is not what was stored",
            "Import its log again, or open a copy of the logbook from before the damage",
        )
    try:
        if not isinstance(frames, int) or not 2 <= frames <= MOST_FRAMES:
            raise ValueError(f"{frames} frames")
        times, telemetry = (
            unpack(blob, frames)
            if own
            else limited(unpack, blob, frames, module=__name__, memory_mb=MEMORY_MB, shared=True)
        )
        checked_frame_times(times)
        checked_telemetry(telemetry)
    except OverLimit as error:  # huge, or this machine is busy
        raise DamagedLogbook(
            where,
            f"the trace {sha256[:12]} {error.what.removeprefix('it ')}",
            "Open the logbook again on a machine with more to spare, or import its log again",
        ) from error
    except (Undecodable, UserFixable, ValueError, *WRONG) as error:
        # Its bytes are what was stored, so another program stored it.
        what = error.what if isinstance(error, UserFixable) else error
        raise DamagedLogbook(
            where, f"the trace {sha256[:12]} is not valid ({what})", "Import its log again"
        ) from error
    return Trace(frame_times_ms=times, telemetry=telemetry)


def unpack(blob: bytes, frames: int) -> tuple[FloatArray, dict[str, FloatArray]]:
    """Frame times in ms and telemetry of a blob, looked at before anything is made of it."""
    schema = pl.read_parquet_schema(io.BytesIO(blob))
    kinds = (pl.Float32, pl.Float64, pl.Int32)
    if not schema or any(kind not in kinds for kind in schema.values()):
        raise ValueError("its columns are not those of a trace")
    if frames * len(schema) > MOST_CELLS:
        raise ValueError(f"{len(schema)} columns of {frames} frames")
    rows = pl.scan_parquet(io.BytesIO(blob)).select(pl.len()).collect().item()
    if rows != frames:
        raise ValueError(f"{rows} rows instead of {frames}")
    frame = pl.read_parquet(io.BytesIO(blob))
    metadata = pl.read_parquet_metadata(io.BytesIO(blob))
    if MICROSECONDS_COLUMN in frame.columns:
        times = frame[MICROSECONDS_COLUMN].to_numpy() / 1000.0
    else:
        times = frame[FRAME_TIME_COLUMN].to_numpy().astype(np.float64)
    telemetry = {
        name: frame[name].to_numpy().astype(np.float64)
        for name in frame.columns
        if name not in (FRAME_TIME_COLUMN, MICROSECONDS_COLUMN)
    }
    said, order = (metadata.get(key, "[]") for key in (STEADY_KEY, ORDER_KEY))
    if len(said) + len(order) > MOST_METADATA:
        raise ValueError("its notes are longer than any trace's")
    for name, number in json.loads(said):
        telemetry[str(name)] = np.full(times.size, math.nan if number is None else float(number))
    ordered = {name: telemetry[name] for name in json.loads(order) if name in telemetry}
    return times, {**ordered, **telemetry}


# What libraries raise over bytes that are no trace.
WRONG = (pl.exceptions.PolarsError, KeyError, TypeError, RecursionError, OverflowError, MemoryError)

"""Traces as Parquet blobs addressed by their SHA-256.

The address is the checksum: a blob that changed on disk is noticed when it is read.
"""

import hashlib
import io

import numpy as np
import polars as pl

from blunt_ruler.core.models import Trace
from blunt_ruler.logbook.errors import DamagedLogbook

FRAME_TIME_COLUMN = "frame_time_ms"


def encode_trace(trace: Trace) -> tuple[str, bytes]:
    """A trace as (SHA-256 in hex, Parquet bytes); the same trace gives the same bytes."""
    columns = {FRAME_TIME_COLUMN: pl.Series(trace.frame_times_ms, dtype=pl.Float64)}
    for name, values in trace.telemetry.items():
        # Telemetry is read off gauges: 7 digits are more than any of them has.
        key = name if name != FRAME_TIME_COLUMN else f"{name} (log)"
        columns[key] = pl.Series(values, dtype=pl.Float32)
    buffer = io.BytesIO()
    pl.DataFrame(columns).write_parquet(
        buffer, compression="zstd", compression_level=9, statistics=False
    )
    blob = buffer.getvalue()
    return hashlib.sha256(blob).hexdigest(), blob


def decode_trace(sha256: str, blob: bytes, where: str) -> Trace:
    """The trace of a blob; DamagedLogbook where the bytes are not those of its address."""
    if hashlib.sha256(blob).hexdigest() != sha256:
        raise DamagedLogbook(
            where,
            f"the trace {sha256[:12]} is not what was stored",
            "Import its log again, or open a copy of the logbook from before the damage",
        )
    frame = pl.read_parquet(io.BytesIO(blob))
    return Trace(
        frame_times_ms=frame[FRAME_TIME_COLUMN].to_numpy(),
        telemetry={
            name: frame[name].to_numpy().astype(np.float64)
            for name in frame.columns
            if name != FRAME_TIME_COLUMN
        },
    )

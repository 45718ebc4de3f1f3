"""Play the synthetic tests of the bench: raster, compute and the bus sweep, with part scores."""

from dataclasses import dataclass

from blunt_ruler.bench.pipeline import Channel, FrameWork, Limits, Pipeline
from blunt_ruler.bench.simulator import Faults, stream
from blunt_ruler.bench.specs import BenchRig, BenchTest
from blunt_ruler.core.measure.composite_score import overall_score

TEST_MS = 20_000.0

SWEEP_BLOCKS_MB = tuple(2.0**power for power in range(-4, 9))  # 64 KB to 256 MB


def bus_sweep(rig: BenchRig, seed: int, link_share: float = 1.0) -> tuple[tuple[float, float], ...]:
    """Copies of growing blocks, host to card: (block in MB, rate in GB/s).

    Small blocks are slowed by the link's latency; the large ones show what the link can move.
    """
    channel = Channel(rig.down_gb_per_s * link_share)
    noise = stream(seed, rig.name, "sweep").normal(0.0, 0.006, len(SWEEP_BLOCKS_MB))
    sweep = []
    for block_mb, off in zip(SWEEP_BLOCKS_MB, noise.tolist(), strict=True):
        start_ms = channel.free_at_ms
        end_ms = channel.transfer(start_ms, block_mb) + 2.0 * rig.latency_ms
        sweep.append((block_mb, block_mb / (end_ms - start_ms) * (1.0 + off)))
    return tuple(sweep)


@dataclass(frozen=True, slots=True)
class Score:
    """What a synthetic test says: part scores by name, their weights, and the whole, if any."""

    parts: dict[str, float]
    weights: dict[str, float]
    overall: float | None


def play_test(
    rig: BenchRig, test: BenchTest, seed: int, repeat: int = 1, faults: Faults = Faults()
) -> Score:
    """One pass of a synthetic test on a rig."""
    luck = stream(seed, rig.name, test.name, f"pass {repeat}")
    match test.kind:
        case "raster":
            parts = _raster(rig, test, faults)
        case "compute":
            parts = _compute(rig, test, faults)
        case _:
            parts = _sweep_rates(rig, seed + repeat, faults)
    parts = {
        name: round(value * test.scale * float(1.0 + luck.normal(0.0, test.spread)), 2)
        for name, value in parts.items()
    }
    overall = overall_score(parts, test.weights) if test.weights else None
    return Score(parts, dict(test.weights), overall)


def _raster(rig: BenchRig, test: BenchTest, faults: Faults) -> dict[str, float]:
    work = test.work
    slowed = 1.09 if faults.recorder_on else 1.0
    frame = FrameWork(
        cpu_ms=work["cpu_ms"] * slowed / rig.cpu_speed,
        upload_mb=work["upload_mb"],
        card_ms=(work["card_ms"] + work["card_ms_per_mpx"] * test.megapixels) / rig.card_speed,
        fetches=0,
        fetch_mb=0.0,
        picture_back_mb=4 * test.megapixels if faults.wrong_output else 0.0,
    )
    pipeline = Pipeline(
        lambda _index, _now: frame,
        Channel(rig.down_gb_per_s * faults.link_share),
        Channel(rig.up_gb_per_s * faults.link_share),
        rig.latency_ms,
        Limits(faults.cap_fps, faults.refresh_hz),
    )
    shown = len(pipeline.play(TEST_MS).shown_ms)
    cpu_fps = 1000.0 * rig.cpu_speed * (rig.cpu_cores / 12.0) ** 0.8 / work["cpu_test_ms"] / slowed
    return {"graphics": shown / (TEST_MS / 1000.0), "cpu": cpu_fps}


def _compute(rig: BenchRig, test: BenchTest, faults: Faults) -> dict[str, float]:
    channel = Channel(rig.down_gb_per_s * faults.link_share)
    transfer_ms = channel.transfer(0.0, test.work["transfer_mb"]) + 2.0 * rig.latency_ms
    return {
        "kernels": 1000.0 * rig.card_speed / test.work["kernel_ms"],
        "transfers": 1000.0 / transfer_ms,
    }


def _sweep_rates(rig: BenchRig, seed: int, faults: Faults) -> dict[str, float]:
    down = bus_sweep(rig, seed, faults.link_share)[-1][1]
    back = rig.model_copy(update={"down_gb_per_s": rig.up_gb_per_s})
    up = bus_sweep(back, seed + 1, faults.link_share)[-1][1]
    return {"host to card": down, "card to host": up}

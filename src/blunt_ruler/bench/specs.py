"""Rigs and titles of the simulated bench, read from data files that anyone can add to.

A rig says how fast its parts are against the bench's own yardsticks; a title says what a frame
asks of them. These are properties of an invented lab, not measurements of anything.
"""

import tomllib
from functools import cache

from pydantic import BaseModel, ConfigDict, Field

from blunt_ruler.bench.pipeline import Flow
from blunt_ruler.core.rigs.dial import state_named
from blunt_ruler.core.rigs.links import encoded_gb_per_s
from blunt_ruler.files import shipped

MEGAPIXELS = {"720p": 0.9216, "1080p": 2.0736, "1440p": 3.6864, "2160p": 8.2944}
PRESET_MEMORY = {"Low": 0.6, "Medium": 0.8, "High": 1.0, "Max": 1.25}
PRESET_LOAD = {"Low": 0.55, "Medium": 0.75, "High": 1.0, "Max": 1.3}


class _Spec(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class BenchRig(_Spec):
    """Speeds are ratios: 1 is the Workbench tower's CPU, and the Marram 12."""

    name: str
    cpu_speed: float = Field(gt=0)
    cpu_cores: int = Field(ge=1)
    card_speed: float = Field(gt=0)
    card_power_w: float = Field(gt=0)
    card_memory_gb: float = Field(gt=0)
    built_in: bool = False
    down_gb_per_s: float = Field(gt=0)
    up_gb_per_s: float = Field(gt=0)
    latency_ms: float = Field(ge=0)
    link_generation: int | None = Field(None, ge=1, le=6)
    link_lanes: int | None = Field(None, ge=1, le=32)
    picture_sent_back: bool = False
    idle_wall_w: float = Field(ge=0)


class BenchTitle(_Spec):
    """What one frame of a scene asks for at preset High on rig parts of speed 1."""

    name: str
    scene: str
    method: str = "scripted route"
    cpu_ms: float = Field(gt=0)
    card_ms: float = Field(ge=0)
    card_ms_per_mpx: float = Field(gt=0)
    upload_mb: float = Field(ge=0)
    fetches: int = Field(ge=0)
    fetch_mb: float = Field(ge=0)
    bursts_per_min: float = Field(ge=0)
    burst_mb: float = Field(ge=0)
    flow: Flow = Flow.QUEUED
    upload_growth: float = Field(0.0, ge=0)  # uploads grow with the pixels to this power
    unpack_ms_per_mb: float = Field(0.25, ge=0)  # where the CPU unpacks
    cpu_noise: float = Field(0.06, ge=0)
    card_noise: float = Field(0.04, ge=0)
    memory_gb: float = Field(4.0, gt=0)
    pass_spread: float = Field(0.004, ge=0)  # no two passes are quite alike


class BenchTest(_Spec):
    """A synthetic test: a fixed scene at a fixed size, told as a score with parts.

    `graphics` and `cpu` are titles' worth of work; a part's score is its rate times `scale`.
    `weights` are those of the parts in the weighted harmonic mean; without any it has no whole.
    """

    name: str
    kind: str = Field(pattern="^(raster|compute|bus sweep)$")
    megapixels: float = Field(2.0736, gt=0)
    scale: float = Field(100.0, gt=0)
    weights: dict[str, float]
    spread: float = Field(0.004, ge=0)
    work: dict[str, float] = {}


@cache
def _tables(name: str) -> list[dict[str, object]]:
    text = shipped("bench", "data", f"{name}.toml").read_text("utf-8")
    return list(tomllib.loads(text)[name])


@cache
def bench_rigs() -> dict[str, BenchRig]:
    """All rigs of the bench by name."""
    return {rig.name: rig for rig in map(BenchRig.model_validate, _tables("rigs"))}


def bench_rig(name: str) -> BenchRig | None:
    """A rig of the bench, or one of them as the dial holds it: "Workbench Marram 12 at 3.0 x8"."""
    if name in bench_rigs():
        return bench_rigs()[name]
    found = state_named(name)
    rig = bench_rigs().get(found[0]) if found else None
    if found is None or rig is None or not rig.link_generation or not rig.link_lanes:
        return None
    state = found[1]
    whole = encoded_gb_per_s(rig.link_generation, rig.link_lanes)
    share = min(state.gb_per_s / whole, 1.0)
    return rig.model_copy(
        update={
            "name": name,
            "down_gb_per_s": rig.down_gb_per_s * share,
            "up_gb_per_s": rig.up_gb_per_s * share,
            "link_generation": min(state.generation, rig.link_generation),
            "link_lanes": min(state.lanes, rig.link_lanes),
        }
    )


@cache
def bench_tests() -> dict[str, BenchTest]:
    """All synthetic tests of the bench by name."""
    return {test.name: test for test in map(BenchTest.model_validate, _tables("tests"))}


@cache
def bench_titles() -> dict[str, BenchTitle]:
    """All titles of the bench by name."""
    return {title.name: title for title in map(BenchTitle.model_validate, _tables("titles"))}

"""A machine read four times a second while it moves: gauges, clocks, counters that go round."""

import time
from types import SimpleNamespace

import numpy as np
import pytest

from blunt_ruler.bench import sampler
from blunt_ruler.bench.machines import MOVES_EVERY_S, Moving, lay_out, machine_names, move
from blunt_ruler.bench.probe import NoTree
from blunt_ruler.bench.sampler import Sampler
from blunt_ruler.core.measure.machine_samples import (
    LANES,
    Samples,
    digests_of,
    first_of,
    onto_frames,
)
from blunt_ruler.core.measure.telemetry import Gauge


@pytest.fixture(params=machine_names())
def machine(request, tmp_path):
    return lay_out(request.param, tmp_path)


def test_every_shipped_machine_is_sampled_as_it_moves(machine, monkeypatch):
    """Looked at in steps by the test's own clock: another machine's load changes nothing here."""
    clock = 1000.0
    monkeypatch.setattr(
        sampler, "time", SimpleNamespace(time=lambda: clock, monotonic=lambda: clock)
    )
    reader = Sampler(machine)
    for step in range(12):
        move(machine, step)
        reader.look()
        clock += MOVES_EVERY_S
    found = {one.gauge: one for one in digests_of(reader.samples())}
    assert 75 <= found[Gauge.CARD_BUSY].mean <= 98
    assert found[Gauge.CARD_MEMORY].mean == pytest.approx(6.1, abs=0.1)
    assert 120 <= found[Gauge.CARD_POWER].mean <= 170
    assert found[Gauge.CPU_CORE].high <= 100.0
    assert found[Gauge.CPU_POWER].mean == pytest.approx(31.0, abs=0.1)
    assert Gauge.LINK_LANES in found


def test_a_machine_is_read_beside_its_own_movement(tmp_path):
    root = lay_out("quillon-cord", tmp_path)
    moving, reader = Moving(root), Sampler(root, every_s=0.05)
    reader.start()
    until = time.monotonic() + 60.0
    while reader.samples().at_s.size < 5:
        assert time.monotonic() < until
        time.sleep(0.05)
    samples = reader.stop()
    moving.stop()
    assert np.all(np.diff(samples.at_s) > 0.0)
    assert np.nanmin(samples.channels["card busy %"]) > 0.0


def test_the_lanes_that_came_up_are_the_first_thing_read(tmp_path):
    sampler = Sampler(lay_out("quillon-cord-two-lanes", tmp_path))
    sampler.look()
    assert first_of(sampler.samples(), LANES) == 2.0


def test_load_is_what_the_cores_did_between_two_looks(tmp_path):
    """/proc/stat, from its manual page: user, nice, system, idle, iowait, irq, softirq, steal."""
    root = lay_out("quillon-cord", tmp_path)
    stat = root / "proc" / "stat"
    stat.write_text("cpu 100 0 0 300 0 0 0 0\ncpu0 50 0 0 150 0 0 0 0\ncpu1 50 0 0 150 0 0 0 0\n")
    sampler = Sampler(root)
    sampler.look()
    stat.write_text(
        "cpu 190 0 20 380 10 0 0 0\ncpu0 130 0 20 150 0 0 0 0\ncpu1 60 0 0 230 10 0 0 0\n"
    )
    sampler.look()
    channels = sampler.samples().channels
    assert channels["cpu total %"][1] == pytest.approx(100 * 110 / 200)
    assert channels["cpu busiest core %"][1] == pytest.approx(100.0)
    assert np.isnan(channels["cpu total %"][0])


def test_an_energy_counter_that_goes_round_is_no_negative_power(tmp_path):
    root = lay_out("quillon-cord", tmp_path)
    energy = root / "sys" / "class" / "powercap" / "intel-rapl:0" / "energy_uj"
    sampler = Sampler(root)
    energy.write_text("262143000000\n")
    sampler.look()
    time.sleep(0.05)
    energy.write_text("1671150\n")  # 2 J on, past 262143.328850 J
    sampler.look()
    assert 2.0 / 0.5 < sampler.samples().channels["cpu power W"][1] < 2.0 / 0.04


def test_of_two_packages_only_the_one_that_went_round_does(tmp_path):
    root = lay_out("quillon-cord", tmp_path)
    first = root / "sys" / "class" / "powercap" / "intel-rapl:0" / "energy_uj"
    second = first.parent.parent / "intel-rapl:1"
    second.mkdir()
    for name, content in (("name", "package-1"), ("max_energy_range_uj", "262143328850")):
        (second / name).write_text(f"{content}\n")
    first.write_text("262143000000\n")
    (second / "energy_uj").write_text("5000000\n")
    sampler = Sampler(root)
    sampler.look()
    time.sleep(0.05)
    first.write_text("1671150\n")  # 2 J on
    (second / "energy_uj").write_text("8000000\n")  # 3 J on
    sampler.look()
    assert 5.0 / 0.5 < sampler.samples().channels["cpu power W"][1] < 5.0 / 0.04


def test_files_that_vanish_or_hold_nonsense_are_gaps(tmp_path):
    root = lay_out("quillon-cord", tmp_path)
    move(root, 1)
    sampler = Sampler(root)
    sampler.look()
    for path in root.rglob("gpu_busy_percent"):
        path.write_text("soon\n")
    for path in root.rglob("temp1_input"):
        path.unlink()
    (root / "proc" / "stat").write_text("cpu x y\n\n cpu\n")
    sampler.look()
    channels = sampler.samples().channels
    assert np.isnan(channels["card busy %"][1])
    assert np.isnan(channels["card temp C"][1])


def test_a_folder_that_is_no_machine_is_refused(tmp_path):
    with pytest.raises(NoTree):
        Sampler(tmp_path)


def samples_over(start_s, seconds, busy):
    at = start_s + np.arange(0.0, seconds + 1e-9, 0.25)
    return Samples(at, {"card busy %": np.interp(at, *busy), "link lanes": np.full(at.size, 4.0)})


def test_samples_go_onto_the_frames_they_belong_to():
    """10 s at 100 fps that ended at 1010 s; busy rises from 50 to 100 over 1000 to 1010 s."""
    times = np.full(1000, 10.0)
    samples = samples_over(995.0, 20.0, ([1000.0, 1010.0], [50.0, 100.0]))
    found = onto_frames(times, {}, samples, 1010.0)
    ends = 1000.0 + np.cumsum(times) / 1000.0
    assert np.max(np.abs(found["card busy %"] - np.interp(ends, [1000, 1010], [50, 100]))) < 0.7
    assert np.all(found["link lanes"] == 4.0)


def test_a_gauge_of_the_log_itself_stays_and_a_log_of_another_time_gets_none():
    times = np.full(1000, 10.0)
    samples = samples_over(1000.0, 10.0, ([1000.0, 1010.0], [50.0, 100.0]))
    own = {"card busy %": np.full(1000, 33.0)}
    found = onto_frames(times, own, samples, 1010.0)
    assert np.all(found["card busy %"] == 33.0)
    assert "link lanes" in found
    assert onto_frames(times, {}, samples, 5000.0) == {}
    late = onto_frames(times, {}, samples, 1013.5)  # part of it lies beyond the samples
    assert np.isnan(late["card busy %"][-1])
    assert np.isfinite(late["card busy %"][0])

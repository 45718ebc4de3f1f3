"""The simulated bench behaves as parts that wait for one another would, and repeats itself."""

import numpy as np
import pytest

from blunt_ruler.bench.log_files import HABITS, write_log
from blunt_ruler.bench.pipeline import Channel, Flow, FrameWork, Limits, Pipeline
from blunt_ruler.bench.simulator import BenchFault, Faults, Setting, play_run
from blunt_ruler.bench.specs import bench_rigs, bench_titles
from blunt_ruler.core.measure.frames import measure
from blunt_ruler.exchange.logs.frame_logs import read_log


def steady(cpu=2.0, card=5.0, upload=0.0, fetches=0, fetch=0.0, back=0.0):
    work = FrameWork(cpu, upload, card, fetches, fetch, back)
    return lambda _index, _now: work


def settled_ms(work, gb_per_s=10.0, latency=0.0, limits=Limits(), flow=Flow.QUEUED):
    pipeline = Pipeline(work, Channel(gb_per_s), Channel(gb_per_s), latency, limits, flow)
    return np.diff(pipeline.play(4000.0).shown_ms)[50:]


# Frame times that follow by hand from the parts alone.
@pytest.mark.parametrize(
    ("work", "gb_per_s", "expected_ms"),
    [
        (steady(cpu=2, card=5), 10, 5.0),  # the card sets the pace
        (steady(cpu=9, card=5), 10, 9.0),  # the CPU sets the pace
        (steady(cpu=2, card=5, upload=80), 10, 8.0),  # the link sets the pace: 80 MB at 10 GB/s
        (steady(cpu=2, card=5, fetches=1, fetch=10), 10, 6.0),  # a fetch the card must wait for
        (steady(cpu=2, card=5, back=30), 10, 8.0),  # the picture leaves before the next is drawn
    ],
)
def test_the_slowest_part_sets_the_pace(work, gb_per_s, expected_ms):
    assert settled_ms(work, gb_per_s).mean() == pytest.approx(expected_ms, rel=0.01)


# By hand: CPU 6 ms, card 7 ms; upload and each of two fetches are 10 MB, 1 ms at 10 GB/s.
@pytest.mark.parametrize(
    ("flow", "expected_ms"),
    [
        (Flow.WAITED_FOR, 8.0),  # the card: 7 ms and the one fetch it waits for; the CPU takes 7
        (Flow.SERIAL, 9.0),  # the CPU: 6 ms and all 3 ms on the link
        (Flow.OVERLAPPED, 7.0),  # the card: every fetch runs under the drawing
    ],
)
def test_who_waits_for_a_transfer_is_the_flow_of_a_title(flow, expected_ms):
    work = steady(cpu=6, card=7, upload=10, fetches=2, fetch=10)
    assert settled_ms(work, flow=flow).mean() == pytest.approx(expected_ms, rel=0.02)


def test_what_is_unpacked_takes_cpu_time_and_grows_with_the_pixels():
    title = bench_titles()["Low Lantern"].model_copy(
        update={"flow": Flow.UNPACKED, "upload_mb": 10.0, "unpack_ms_per_mb": 3.0}
    )
    grows = title.model_copy(update={"upload_growth": 1.0})
    rig = bench_rigs()["Workbench Marram 12"]
    rates = {}
    for one in (title, grows):
        for size in ("1080p", "2160p"):
            times = play_run(rig, Setting(one, size, "High", 6.0), 1).frame_times_ms
            rates[one.upload_growth, size] = times.mean()
    assert rates[0.0, "1080p"] == pytest.approx(34.0, rel=0.05)  # 4 ms and 30 of unpacking
    assert rates[0.0, "2160p"] == pytest.approx(rates[0.0, "1080p"], rel=0.05)
    assert rates[1.0, "2160p"] == pytest.approx(4.0 + 4 * 30.0, rel=0.05)


def test_a_cap_and_a_refresh_wait_hold_frames_back():
    capped = settled_ms(steady(cpu=2, card=5), limits=Limits(cap_fps=60))
    assert capped.mean() == pytest.approx(1000 / 60, rel=1e-3)
    waited = settled_ms(steady(cpu=2, card=12), limits=Limits(refresh_hz=60))
    assert np.allclose(waited, 1000 / 60)
    missed = settled_ms(steady(cpu=2, card=20), limits=Limits(refresh_hz=60))
    assert np.allclose(missed, 2 * 1000 / 60)


def test_the_queue_holds_at_most_three_frames():
    depth = []

    def work(index, now):
        depth.append(index - len(pipeline.played.shown_ms))
        return FrameWork(0.5, 0.0, 10.0, 0, 0.0, 0.0)

    pipeline = Pipeline(work, Channel(10), Channel(10), 0.0, Limits())
    pipeline.play(1000.0)
    assert max(depth) == 2  # the third is the one being prepared


def played(rig="Sluice Marram 12", title="Tidewrack", resolution="1080p", seconds=15.0, **options):
    faults = options.pop("faults", Faults())
    setting = Setting(bench_titles()[title], resolution, "High", seconds)
    return play_run(bench_rigs()[rig], setting, options.pop("seed", 7), faults=faults, **options)


def fps(**options):
    return measure(played(**options).frame_times_ms).average_fps


def test_the_same_seed_gives_the_same_bytes_and_another_does_not(tmp_path):
    logs = [
        write_log(tmp_path / f"{index}.csv", played(seed=seed), HABITS["plain"]).read_bytes()
        for index, seed in enumerate((7, 7, 8))
    ]
    assert logs[0] == logs[1]
    assert logs[0] != logs[2]


def test_wider_links_and_better_cards_are_faster():
    by_link = [fps(rig=f"{dock} Marram 12") for dock in ("Sluice", "Groyne", "Workbench")]
    assert by_link == sorted(by_link)
    by_card = [fps(rig=f"Sluice Marram {size}") for size in (8, 12, 16)]
    assert by_card == sorted(by_card)


def test_losses_shrink_as_resolution_rises():
    # Common practice, no source: over a 40 Gb/s cable against a tower, 15–55 % are lost at 1080p
    # and 5–25 % at 2160p.
    losses = [
        1 - fps(resolution=size) / fps(rig="Workbench Marram 12", resolution=size)
        for size in ("1080p", "1440p", "2160p")
    ]
    assert losses == sorted(losses, reverse=True)
    assert 0.15 < losses[0] < 0.55
    assert 0.05 < losses[2] < 0.25


def test_repeats_spread_like_repeats():
    rates = np.array([fps(repeat=repeat, seconds=10.0) for repeat in range(1, 7)])
    assert 0.001 < rates.std(ddof=1) / rates.mean() < 0.03


@pytest.mark.parametrize(
    ("faults", "factor"),
    [
        (Faults(link_share=0.5), (0.4, 0.9)),
        (Faults(wrong_output=True), (0.5, 0.95)),
        (Faults(recorder_on=True), (0.7, 0.97)),
        (Faults(menu_s=5.0), (1.1, 4.0)),
    ],
)
def test_faults_change_the_rate_the_way_they_do_in_a_lab(faults, factor):
    ratio = fps(faults=faults) / fps()
    assert factor[0] < ratio < factor[1]


def test_a_cap_shows_as_its_rate_and_a_first_pass_as_stutter():
    assert fps(rig="Workbench Marram 12", faults=Faults(cap_fps=60)) == pytest.approx(60, rel=0.01)
    first = measure(played(faults=Faults(first_pass=True)).frame_times_ms)
    assert first.stutters_per_min > 5 + measure(played().frame_times_ms).stutters_per_min


def test_a_hot_card_slows_down_as_it_heats():
    trace = played(rig="Workbench Marram 12", seconds=30.0, faults=Faults(hot=True))
    clock = trace.telemetry["card clock MHz"]
    assert trace.telemetry["card temp C"].max() >= 86
    assert clock[-100:].mean() < 0.97 * clock[:100].mean()


def test_telemetry_is_what_gauges_could_read():
    trace = played()
    gauges = trace.telemetry
    assert {values.size for values in gauges.values()} == {trace.frame_times_ms.size}
    for name in ("card busy %", "cpu total %", "cpu busiest core %"):
        assert 0 <= gauges[name].min() <= gauges[name].max() <= 100
    assert gauges["link traffic GB/s"].max() <= 2 * 2.6  # both directions of the cable
    assert gauges["card power W"].max() < 1.05 * 180
    assert gauges["wall W"].min() > gauges["card power W"].min()


@pytest.mark.parametrize("habit", HABITS)
def test_every_recorders_log_enters_through_the_door(tmp_path, habit):
    trace = played(seconds=6.0)
    reading = read_log(write_log(tmp_path / "log.csv", trace, HABITS[habit]))
    assert reading.bad_rows == ()
    assert np.allclose(reading.trace.frame_times_ms, trace.frame_times_ms, atol=2e-3)
    for name, values in trace.telemetry.items():
        assert np.allclose(reading.trace.telemetry[name], values, rtol=1e-5)


def test_a_bench_that_cannot_play_says_why():
    with pytest.raises(BenchFault, match=r"no “99p”.*1080p"):
        played(resolution="99p")

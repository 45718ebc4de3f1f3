"""Recordings of the simulated bench read from end to end, against what is true of them."""

import json
import struct
import subprocess
import sys

import av
import numpy as np
import pytest

from blunt_ruler.bench.recordings.film import Camera, Part
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.recordings.passes import figures_of
from blunt_ruler.core.recordings.quantities import Box, Quantity
from blunt_ruler.core.recordings.series import Look
from blunt_ruler.exchange.recordings.apart import in_own_process
from blunt_ruler.exchange.recordings.decoding import (
    BadRecording,
    facts_of,
    moments,
    picture_at,
    pictures_near,
)
from blunt_ruler.exchange.recordings.reading import _pace, _Reader
from blunt_ruler.exchange.recordings.whole import Asked, look_at, read_whole
from blunt_ruler.logbook import Logbook

SIX = ("plain", "outlined", "small", "boxed", "serif", "lone")
LARGE = Camera(1280, 720, 30, 2_000_000)
ENOUGH = Camera(960, 540, 30, 1_200_000)


def boxes_of(filmed):
    return tuple(Box(*place, Quantity(row)) for row, place in filmed.places.items())


def shown_at(filmed, quantity, second):
    told = [text for at, text in filmed.shown[quantity] if at <= second + 1e-6]
    return float(told[-1]) if told and told[-1] else None


def held_right(filmed, series):
    """(figures that are sure, those of them that were shown while they stood)."""
    sure = series.sure
    right = [
        one
        for one in sure
        if one.value in {shown_at(filmed, series.quantity.value, at)
                         for at in np.linspace(one.from_s, one.to_s - 1e-3, 12)}
    ]  # fmt: skip
    return len(sure), len(right)


@pytest.mark.parametrize("style", ["plain", pytest.param("boxed", marks=pytest.mark.deep)])
def test_counters_are_read_as_they_were_shown(filmed, style):
    true, _ = filmed(style, ENOUGH, rig="Groyne Marram 12", title="Skitter", seconds=3.0)
    found = read_whole(true.path, Asked(boxes_of(true)))
    for series in found.read.series:
        sure, right = held_right(true, series)
        assert right == sure > 0
        assert len(series.asked) <= 0.1 * len(series.held)
    average = figures_of(found.passes[0]).average
    told = [shown_at(true, "fps", at) for at in np.arange(0.0, 3.0, 0.01)]
    assert average.average == pytest.approx(np.mean(told), rel=0.005)


@pytest.mark.deep
@pytest.mark.parametrize("style", SIX)
@pytest.mark.parametrize("camera", [LARGE, Camera(1920, 1080, 60, 6_000_000)])
def test_every_style_is_read(filmed, style, camera):
    true, _ = filmed(style, camera, rig="Sluice Marram 12", title="Skitter", seconds=12.0)
    found = read_whole(true.path, Asked(boxes_of(true)))
    counts = [held_right(true, series) for series in found.read.series]
    assert sum(right for _, right in counts) >= 0.999 * sum(sure for sure, _ in counts)


@pytest.mark.deep  # the same by command, below, is not
def test_boxes_are_found_with_what_they_show(filmed):
    true, _ = filmed("plain", ENOUGH, rig="Groyne Marram 12", title="Skitter", seconds=3.0)
    _, boxes, known = look_at(true.path)
    assert [box.quantity.value for box in boxes] == ["fps", "card_w", "load", "temperature"]
    for box, place in zip(boxes, true.places.values(), strict=True):
        assert abs(box.x - place.x) < 30 and abs(box.y - place.y) < 15
    assert not known


def test_an_overlay_read_before_is_recognised(filmed):
    true, _ = filmed("plain", ENOUGH, rig="Groyne Marram 12", title="Skitter", seconds=3.0)
    own = boxes_of(true)
    elsewhere = tuple(Box(900, 500 + 30 * at, 80, 24, Quantity.FPS) for at in range(2))
    assert look_at(true.path, (elsewhere, own))[1:] == (own, True)


@pytest.mark.deep  # the same by command, below, is not
def test_the_recording_of_the_demo_is_cut_read_and_counted(demo_recording, play):
    found = read_whole(demo_recording, Asked(count=True, cut=True, keep_pictures=True))
    assert [round(one.to_s - one.from_s) for one in found.passes] == [12]
    figures = figures_of(found.passes[0])
    true = 1000 / play(seconds=12.0, seed=5).frame_times_ms.mean()  # as `make demo-recording`
    assert figures.average.average == pytest.approx(true, rel=0.01)  # it lags by one interval
    assert found.counted.average_fps == pytest.approx(true, rel=0.01)
    assert found.pictures[0].startswith(b"\x89PNG") and len(found.pictures[0]) < 60_000
    shown = [one.what for one in found.stretches]
    assert shown == ["still picture", "pass", "still picture"] and found.stretches[1].like is None


def test_counted_pictures_are_the_frames(filmed):
    true, trace = filmed()
    found = read_whole(true.path, Asked(boxes=(), count=True))
    assert found.counted.average_fps == pytest.approx(1000 / trace.frame_times_ms.mean(), rel=0.01)
    assert figures_of(found.passes[0]).from_pictures


def test_a_recording_that_leaves_out_repeats_is_counted_too(tmp_path):
    """Pictures at their own moments, as recorders of varying rate write them."""
    import av

    rng = np.random.default_rng(3)
    scene = rng.integers(0, 255, (180, 900, 3)).astype(np.uint8)
    times = rng.normal(1 / 38, 0.002, 300)
    moments = np.round(np.cumsum(times) * 60) / 60  # a recorder at 60 that skips repeats
    with av.open(str(tmp_path / "vfr.mkv"), "w") as out:
        stream = out.add_stream("libx264", rate=60)
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        for number, at in enumerate(moments):
            frame = av.VideoFrame.from_ndarray(scene[:, 2 * number % 500 :][:, :320].copy())
            frame.pts = round(at * 60)
            for packet in stream.encode(frame):
                out.mux(packet)
        for packet in stream.encode(None):
            out.mux(packet)
    found = read_whole(tmp_path / "vfr.mkv", Asked(boxes=(), count=True))
    assert found.counted.average_fps == pytest.approx(1 / times.mean(), rel=0.01)
    assert found.counted.period_ms == pytest.approx(1000 / 60, abs=0.8)


def test_a_fast_game_is_not_counted(filmed):
    true, _ = filmed("plain", ENOUGH, rig="Groyne Marram 12", title="Skitter", seconds=3.0)
    found = read_whole(true.path, Asked(boxes=(), count=True))
    assert found.counted is None and "as fast as the recording" in found.why_not_counted


def test_a_box_with_nothing_in_it_is_said(filmed):
    from blunt_ruler.cli.recordings import notes_of

    true, _ = filmed()
    found = read_whole(true.path, Asked((Box(300, 200, 80, 24, Quantity.FPS),)))
    assert figures_of(found.passes[0]).average is None
    (note,) = notes_of(found)
    assert "nothing was read" in note or "hard to read" in note


def test_an_overlay_that_goes_away_half_way_leaves_the_first_half(filmed):
    true, _ = filmed(
        parts=lambda trace: [Part(trace), Part(still="menu", seconds=2.0)],
        name="half",
        seconds=3.0,
    )
    found = read_whole(true.path, Asked(boxes_of(true)[:1]))
    average = figures_of(found.passes[0]).average
    assert average.read_share == pytest.approx(3 / 5, abs=0.08)
    assert any("was not read" in note for note in figures_of(found.passes[0]).notes)


# Files that are none


def spoiled(path, tmp_path, how):
    data = path.read_bytes()
    target = tmp_path / "bad.mp4"
    target.write_bytes(
        {
            "empty": b"",
            "text": b"not a film at all " * 500,
            "cut short": data[: len(data) // 2],
            "head gone": data[4096:],
            "scrambled": bytes(one ^ 0x5A for one in data),
        }[how]
    )
    return target


@pytest.mark.parametrize("how", ["empty", "text", "cut short", "head gone", "scrambled"])
def test_a_file_that_is_no_recording_is_refused_in_a_sentence(demo_recording, tmp_path, how):
    with pytest.raises(BadRecording) as told:
        facts_of(spoiled(demo_recording, tmp_path, how))
    assert "bad.mp4" in str(told.value) and len(str(told.value).split()) <= 25


@pytest.mark.parametrize(
    "text",
    [
        "#EXTM3U\n#EXTINF:10,\n/etc/hostname\n#EXT-X-ENDLIST\n",
        "ffconcat version 1.0\nfile other.mp4\n",
        "v=0\no=- 0 0 IN IP4 127.0.0.1\nm=video 5004 RTP/AVP 96\n",
    ],
)
def test_a_list_of_other_files_is_not_followed(tmp_path, text):
    path = tmp_path / "list.mp4"
    path.write_text(text)
    with pytest.raises(BadRecording, match="cannot be decoded"):
        facts_of(path)


def test_a_damaged_middle_leaves_what_can_be_decoded(demo_recording, tmp_path):
    data = bytearray(demo_recording.read_bytes())
    middle = len(data) // 2
    data[middle : middle + 20_000] = bytes(20_000)
    path = tmp_path / "damaged.mp4"
    path.write_bytes(data)
    found = read_whole(path, Asked(boxes=(), count=True, cut=True))
    assert found.passes


def test_sound_alone_and_a_missing_file_are_refused(tmp_path):
    import av

    path = tmp_path / "sound.mp4"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("aac", rate=44_100)
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 1024), np.float32), "fltp", "mono")
        frame.sample_rate = 44_100
        for packet in [*stream.encode(frame), *stream.encode(None)]:
            out.mux(packet)
    with pytest.raises(BadRecording, match="holds no pictures"):
        facts_of(path)
    with pytest.raises(BadRecording, match="no such file"):
        facts_of(tmp_path / "none.mp4")


# Matrices of a track header by how far a player turns its pictures clockwise (ISO/IEC 14496-12,
# 8.3.2 and 6.2.2: 16.16 fixed point, u and v none, w 1 in 2.30).
TURNS = {90: (0, 1, -1, 0), 180: (-1, 0, 0, -1), 270: (0, -1, 1, 0)}


@pytest.mark.parametrize("clockwise", TURNS)
def test_a_recording_that_was_turned_is_seen_upright(tmp_path, clockwise):
    upright = np.zeros((120, 200, 3), np.uint8)
    upright[:60, :100], upright[60:, 100:] = (255, 0, 0), (0, 0, 255)
    stored = np.ascontiguousarray(np.rot90(upright, clockwise // 90))
    path = tmp_path / "turned.mp4"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=30)
        stream.height, stream.width = stored.shape[:2]
        stream.pix_fmt = "yuv420p"
        for _ in range(10):
            container.mux(stream.encode(av.VideoFrame.from_ndarray(stored, format="rgb24")))
        container.mux(stream.encode())
    whole = bytearray(path.read_bytes())
    at = whole.index(b"tkhd") + 4 + 4 + 20 + 16  # version 0
    a, b, c, d = (one << 16 for one in TURNS[clockwise])
    whole[at : at + 36] = struct.pack(">9i", a, b, 0, c, d, 0, 0, 0, 1 << 30)
    path.write_bytes(whole)
    facts = facts_of(path)
    assert (facts.width, facts.height) == (200, 120)
    shown = picture_at(facts, 0.1)
    assert np.abs(shown.colour().astype(int) - upright).mean() < 3
    assert shown.crop(100, 60, 100, 60)[..., 2].mean() > 240


def test_a_picture_beyond_the_end_is_the_last(demo_recording):
    facts = facts_of(demo_recording)
    assert picture_at(facts, 1e6).at_s == pytest.approx(facts.duration_s, abs=0.1)


@pytest.mark.parametrize("from_s", [0.0, 5.0])
def test_pictures_near_some_moments_are_in_their_order_and_of_their_stretch(demo_recording, from_s):
    facts = facts_of(demo_recording)
    wanted = moments(from_s, facts.duration_s, 9)
    at_s = [one.at_s for one in pictures_near(facts, wanted, from_s)]
    assert at_s == sorted(set(at_s)) and min(at_s) >= from_s
    assert all(at <= moment + 1.0 / facts.fps for at, moment in zip(at_s, wanted, strict=True))


@pytest.mark.parametrize(
    ("stands_s", "rate", "slow"), [(0.25, 1, 1), (0.5, 2, 2), (1.0, 2, 4), (3.0, 2, 4)]
)
def test_a_counter_is_looked_at_four_times_while_a_figure_stands(stands_s, rate, slow):
    fps, watts = _Reader(Box(0, 0, 9, 9, Quantity.FPS)), _Reader(Box(0, 9, 9, 9, Quantity.CARD_W))
    at_s = np.arange(0.0, 40.0, 0.125)
    fps.looks = {at: Look(at, f"{60 + int(at / stands_s) % 7}", 0.99) for at in at_s[:8]}
    assert not _pace([fps, watts], 1 / 16)  # nobody knows yet
    fps.looks = {at: Look(at, f"{60 + int(at / stands_s) % 7}", 0.99) for at in at_s}
    watts.looks = {at: Look(at, "120", 0.99) for at in at_s}
    assert _pace([fps, watts], 1 / 16)
    assert (fps.every, watts.every) == (rate, slow)


def _crashes(path, *, step):
    import os

    step("Reading", 0.5)
    os.abort()


def test_a_decoder_that_crashes_takes_nothing_with_it(demo_recording):
    with pytest.raises(BadRecording, match="crashed the reader"):
        in_own_process(demo_recording, _crashes, (demo_recording,), lambda *_: None)


def test_reading_is_stopped_from_outside(demo_recording):
    class Enough(Exception):
        pass

    def step(_words, share):
        if share > 0.05:
            raise Enough

    with pytest.raises(Enough):
        asked = Asked((Box(54, 13, 54, 24, Quantity.FPS),))
        in_own_process(demo_recording, read_whole, (demo_recording, asked), step)


# Into a logbook


def command(*words):
    done = subprocess.run(
        [sys.executable, "-m", "blunt_ruler", *map(str, words)], capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


@pytest.fixture(scope="module")
def imported(tmp_path_factory, demo_recording):
    path = tmp_path_factory.mktemp("books") / "read.blunt"
    words = ("--rig", "Built-in iG-6", "--case", "Tidewrack / 1440p / High", "--cut", "--json")
    printed = command("import", path, demo_recording, "--count", *words)
    return path, json.loads(printed)["recordings"][0]


def test_a_pass_becomes_a_run_with_all_that_stands_behind_it(imported, demo_recording, play):
    path, printed = imported
    true = 1000 / play(seconds=12.0, seed=5).frame_times_ms.mean()  # as `make demo-recording`
    (told,) = printed["runs"]
    assert told["average_fps"] == pytest.approx(true, rel=0.01)  # it lags by one interval
    assert printed["counted"]["average_fps"] == pytest.approx(true, rel=0.01)
    with Logbook.open(path) as book:
        (run,) = book.contents().runs.values()
        read = run.recording
        assert run.origin.kind == "recording" and run.origin.file == demo_recording.name
        assert run.how_read.kind is Kind.RECORDING
        assert run.average_fps == pytest.approx(printed["runs"][0]["average_fps"])
        assert read.sha256 == printed["sha256"] and len(read.boxes) == 4
        assert run.reading(Gauge.CARD_BUSY) > 90 and run.reading(Gauge.CARD_POWER) is not None
        low, high = run.typed.low_1_how.edges  # counted in steps of 33 ms, it is known no better
        assert low < run.typed.low_1_fps < high and high / low > 1.2
        series = book.trace(read.series_sha256)
        assert np.nanmean(series.telemetry["counter fps"]) == pytest.approx(
            run.average_fps, rel=0.01
        )
        assert "counted fps" in series.telemetry
        assert book.picture(read.pictures_sha256).startswith(b"\x89PNG")
        book.undo()
        assert not book.contents().runs
        book.redo()
        assert book.contents().runs[run.id] == run


def test_what_stands_behind_it_goes_into_a_bundle(imported, tmp_path):
    from blunt_ruler.logbook.bundle import write_bundle

    with Logbook.reading(imported[0]) as book:
        review = next(iter(book.contents().reviews))
    target, _ = write_bundle(imported[0], review, tmp_path / "bundle.blunt")
    with Logbook.reading(target) as book:
        (run,) = book.contents().runs.values()
        assert book.trace(run.recording.series_sha256).frame_times_ms.size > 50
        assert book.picture(run.recording.pictures_sha256)


def test_checks_and_report_take_it_like_any_other(imported, tmp_path):
    assert "impossible" not in command("check", imported[0])
    command("report", imported[0], "--out", tmp_path, "--format", "md")
    written = (tmp_path / "report.md").read_text()
    assert "read from a recording of the screen" in written
    assert "tidewrack.mp4, 3.5 to 15.5 s; 4 counters read for" in written


def test_doubts_and_boxes_are_refused_in_words(demo_recording):
    for words, what in (
        (("--box", "1,2,3:fps"), "x,y,w,h:fps"),
        (("--box", "900,500,200,90:fps"), "does not lie in the picture"),
        (("--from", "8", "--to", "2"), "it does not lie before --to"),
    ):
        done = subprocess.run(
            [sys.executable, "-m", "blunt_ruler", "read", str(demo_recording), *words],
            capture_output=True, text=True,
        )  # fmt: skip
        assert done.returncode == 2 and what in done.stderr and done.stderr.count("\n") == 1


def test_a_film_of_the_bench_is_the_same_twice(tmp_path):
    from blunt_ruler.cli import main

    for name in ("one", "two"):
        words = "simulate --seed 1 --case Skitter --seconds 2 --recording --picture 320x180@15"
        with pytest.raises(SystemExit) as ended:
            main([*words.split(), "--rig", "Groyne Marram 12", "--out", str(tmp_path / name)])
        assert ended.value.code == 0
    one, two = (next((tmp_path / name).iterdir()) for name in ("one", "two"))
    assert one.read_bytes() == two.read_bytes()
    with pytest.raises(UserFixable):
        from blunt_ruler.bench.recordings.film import parse_camera

        parse_camera("big", 2000)

"""Logs of several sources, with generated frames, in JSON, sorted, with ticks: asked or noticed."""

import json

import numpy as np
import pytest

from blunt_ruler.core.measure.frames import average_fps
from blunt_ruler.core.runs.import_runs import CaseName, take_in
from blunt_ruler.exchange.logs.frame_logs import BadLog, arrival_of, read_log
from blunt_ruler.exchange.logs.words import Unit

RNG = np.random.default_rng(33)
TIMES = np.round(RNG.gamma(60.0, 16.7 / 60.0, 600), 3)
OTHER = np.round(RNG.gamma(60.0, 33.3 / 60.0, 300), 3)


def log(tmp_path, columns, name="log.csv"):
    path = tmp_path / name
    rows = zip(*columns.values(), strict=True)
    path.write_text("\n".join([",".join(columns), *(",".join(map(str, row)) for row in rows)]))
    return path


@pytest.mark.parametrize(
    ("head", "mine", "theirs"),
    [
        ("Process", "skitter", "overlay"),
        ("Swap chain", "chain one", "chain two"),
        ("Display", 1, 2),
        ("Run", 1, 2),
        ("Pass", 2, 1),
        ("Scene", "coast", "menu"),
        ("State", 3, 0),
        ("Title", "Skitter", "Kite Run"),
        ("Resolution", "1080p", "1440p"),
    ],
)
def test_each_source_of_a_log_is_offered_and_none_is_pooled(tmp_path, head, mine, theirs):
    order = RNG.permutation(900) if head in ("Process", "Swap chain", "Display") else range(900)
    times = np.concatenate([TIMES, OTHER])
    which = [mine] * 600 + [theirs] * 300
    path = log(tmp_path, {head: [which[n] for n in order], "ms": [times[n] for n in order]})
    reading = read_log(path)
    assert [guess.mapping.rows_are for guess in reading.asks] == [str(mine), str(theirs)]
    assert f"“{mine}” of “{head}”" in reading.question
    assert reading.average_fps == pytest.approx(average_fps(TIMES))
    one = read_log(path, rows=(head, str(theirs)))
    assert not one.asks
    assert one.average_fps == pytest.approx(average_fps(OTHER))
    assert any(f"“{head}” says “{theirs}”" in note for note in one.notes)
    with pytest.raises(BadLog, match="no row has “x”"):
        read_log(path, rows=(head, "x"))


def test_a_few_rows_of_another_source_are_left_out_and_said(tmp_path):
    which = ["skitter"] * 595 + ["overlay"] * 5
    times = [*TIMES[:595], *([200.0] * 5)]
    reading = read_log(log(tmp_path, {"Process": which, "ms": times}))
    assert not reading.asks
    assert reading.average_fps == pytest.approx(average_fps(TIMES[:595]))
    assert any("5 other rows left out" in note for note in reading.notes)


def test_one_source_is_no_question(tmp_path):
    path = log(tmp_path, {"Process": ["skitter"] * 600, "ms": TIMES})
    assert not read_log(path).asks


@pytest.mark.parametrize(
    ("head", "rendered", "made"),
    [("FrameType", "Application", "Generated"), ("generated", 0, 1), ("Interpolated", "no", "yes")],
)
def test_rendered_frames_are_the_default_and_both_rates_are_said(tmp_path, head, rendered, made):
    halves = np.round(np.repeat(TIMES / 2.0, 2), 4)
    path = log(tmp_path, {"frametime ms": halves, head: [rendered, made] * 600})
    reading = read_log(path)
    assert not reading.asks
    assert reading.average_fps == pytest.approx(average_fps(TIMES), rel=1e-3)
    (said,) = [note for note in reading.notes if note.startswith("generated frames")]
    assert "2 times as high" in said
    arrival = arrival_of(reading, "Tower", CaseName("Skitter"))
    assert arrival.generated


def test_a_log_with_generated_frames_says_so_of_its_case(tmp_path, demo_contents):
    from dataclasses import replace

    path = log(tmp_path, {"frametime ms": [8.0, 8.4] * 100, "generated": [0, 1] * 100})
    arrival = replace(
        arrival_of(read_log(path), "Tower", CaseName("Never Seen")), trace_sha256="0" * 64
    )
    made, _ = take_in(demo_contents, None, [arrival], iter(map(str, range(99))).__next__)
    (case,) = [one for one in made if type(one).__name__ == "Case"]
    assert case.frame_generation == "on"


def test_dropped_frames_are_counted(tmp_path):
    flags = [0] * 595 + [1] * 5
    reading = read_log(log(tmp_path, {"ms": TIMES, "Dropped": flags}))
    assert any("5 frames are flagged as dropped" in note for note in reading.notes)


def test_ticks_without_a_frequency_are_asked_about(tmp_path):
    ticks = np.round(8e11 + np.cumsum(TIMES) * 1e4).astype(int)
    reading = read_log(log(tmp_path, {"QPC": ticks}))
    assert reading.asks[0].mapping.unit is Unit.CLOCK_TICKS
    assert reading.asks[0].average_fps == pytest.approx(average_fps(TIMES[1:]), rel=0.01)
    taken = read_log(reading.path, column="QPC", unit=Unit.CLOCK_TICKS)
    assert not taken.asks
    assert taken.average_fps == pytest.approx(average_fps(TIMES[1:]), rel=1e-3)


def test_a_clock_at_twice_the_frame_times_is_asked_about(tmp_path):
    stamps = np.round(np.cumsum(2.0 * TIMES) / 1000.0, 6)
    reading = read_log(log(tmp_path, {"time (s)": stamps, "frametime (ms)": TIMES}))
    rates = sorted(guess.average_fps for guess in reading.asks)
    assert rates == pytest.approx([average_fps(TIMES) / 2, average_fps(TIMES)], rel=0.02)


def test_sorted_rows_are_noticed(tmp_path):
    reading = read_log(log(tmp_path, {"frametime ms": np.sort(TIMES)}))
    assert any("sorted by frame time" in note for note in reading.notes)
    assert not any(
        "sorted" in note for note in read_log(log(tmp_path, {"frametime ms": TIMES})).notes
    )


@pytest.mark.parametrize("head", ["draw call ms", "Shader ms", "audio latency (ms)", "Ping (ms)",
                                  "GPU busy ms", "PC latency ms", "physics ms"])  # fmt: skip
def test_a_part_of_a_frame_alone_is_no_frame_time(tmp_path, head):
    with pytest.raises(BadLog, match=r"part of each frame|could be frame times"):
        read_log(log(tmp_path, {head: TIMES}))


def as_objects(times):
    return [{"frame": n, "frametime_ms": float(one)} for n, one in enumerate(times)]


@pytest.mark.parametrize(
    "text",
    [
        "\n".join(map(json.dumps, as_objects(TIMES))),
        json.dumps(as_objects(TIMES)),
        json.dumps(as_objects(TIMES), indent=2),
        json.dumps({"game": "Skitter", "frames": as_objects(TIMES)}),
        json.dumps({"frametime_ms": list(map(float, TIMES))}),
        json.dumps({"run": {"frametime_ms": list(map(float, TIMES)), "n": list(range(600))}}),
        "\n".join([*map(json.dumps, as_objects(TIMES)), '{"frame": 600, "fra']),
    ],
)
def test_json_of_frames_is_a_log(tmp_path, text):
    path = tmp_path / "log.json"
    path.write_text(text)
    assert read_log(path).average_fps == pytest.approx(average_fps(TIMES))


@pytest.mark.parametrize(
    "text", ["{}", "[]", '{"a": "b"}', "[[[[1]]]]", "[" * 5000, '{"x": [1, {}]}']
)
def test_other_json_is_one_sentence(tmp_path, text):
    path = tmp_path / "log.json"
    path.write_text(text)
    with pytest.raises(BadLog):
        read_log(path)

"""More odd logs: other languages, other columns beside, blocks above, coarse and short ones."""

import numpy as np

from attack.odd_logs import (
    CLOCK_NAMES,
    COUNTER_NAMES,
    RATE_NAMES,
    TIME_NAMES,
    clock_truth,
    csv,
    gauges,
    oddity,
    pick,
    shuffled,
    text,
)


@oddity
def other_languages(sheet):
    time, rate, clock = pick(
        sheet.rng,
        (
            ("Bildzeit (ms)", "Bilder/s", "Zeit (s)"),
            ("Durée d'image (ms)", "Images par seconde", "Temps (s)"),
            ("kuvan kesto ms", "kuvaa/s", "aika s"),
            ("Frametime in ms", "FPS", "Zeitstempel in s"),
        ),
    )
    sheet.columns = [(clock, text(sheet.clock_s, 5)), (time, text(sheet.times, 3))]
    if sheet.rng.random() < 0.5:
        sheet.columns.append((rate, text(1000 / sheet.times, 2)))
    if sheet.rng.random() < 0.5:
        sheet.columns = [(n, [f.replace(".", ",") for f in fs]) for n, fs in sheet.columns]
        return {"body": csv(sheet, ";").encode("utf-8" if sheet.rng.random() < 0.5 else "latin-1")}
    return {"body": csv(sheet, "\t")}


@oddity
def generated_frames_in_the_rate(sheet):
    sheet.columns = [
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
        (pick(sheet.rng, RATE_NAMES), text(2000 / sheet.times, 2)),
    ]
    shuffled(sheet)
    return {"must_refuse": True}


@oddity
def average_and_current_rate(sheet):
    rates = 1000 / sheet.times
    mean = np.cumsum(rates) / np.arange(1, rates.size + 1)
    sheet.columns = [
        ("Frame", [str(i) for i in range(rates.size)]),
        ("FPS", text(rates, 2)),
        ("Average FPS", text(mean, 2)),
        ("Min FPS", text(np.minimum.accumulate(rates), 2)),
    ]
    shuffled(sheet)
    return {"tolerance": 0.02}


@oddity
def samples_at_some_pace(sheet):
    apart = float(pick(sheet.rng, (0.1, 0.2, 0.25, 0.5, 1.0, 2.0)))
    n = sheet.times.size
    rates = np.clip(1000 / sheet.times, 40, None)
    stamps = np.arange(n) * apart + sheet.rng.normal(0, 0.002, n)
    sheet.columns = [
        pick(sheet.rng, (("Time (s)", text(stamps, 3)), ("time ms", text(stamps * 1000, 0)))),
        (pick(sheet.rng, RATE_NAMES), text(rates, int(sheet.rng.integers(0, 3)))),
    ]
    gauges(sheet)
    return {"truth": float(rates.mean()), "tolerance": 0.02}


@oddity
def whole_milliseconds(sheet):
    stamps = np.round(np.concatenate([[0], np.cumsum(np.maximum(sheet.times, 12.0))[:-1]]))
    sheet.columns = [(pick(sheet.rng, ("Time (ms)", "elapsed ms")), text(stamps, 0))]
    gauges(sheet)
    return {"truth": 1000.0 * (stamps.size - 1) / stamps[-1]}


@oddity
def rough_frame_times(sheet):
    sheet.times = np.maximum(np.round(np.maximum(sheet.times, 8.0)), 1.0)
    sheet.columns = [
        ("Frame", [str(i) for i in range(sheet.times.size)]),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 0)),
    ]
    gauges(sheet)


@oddity
def short_logs(sheet):
    sheet.times = sheet.times[: int(sheet.rng.integers(3, 20))]
    n = sheet.times.size
    sheet.columns = [(pick(sheet.rng, TIME_NAMES), text(sheet.times, 3))]
    if sheet.rng.random() < 0.5:
        name = pick(sheet.rng, COUNTER_NAMES)
        sheet.columns.insert(0, (name, [str(i + 1) for i in range(n)]))
    if sheet.rng.random() < 0.5:
        sheet.columns.append((pick(sheet.rng, RATE_NAMES), text(1000 / sheet.times, 2)))
    gauges(sheet)


@oddity
def an_even_pace(sheet):
    sheet.times = np.full(sheet.times.size, float(pick(sheet.rng, (16.667, 33.333, 8.333, 20.0))))
    n = sheet.times.size
    sheet.columns = [
        ("Frame", [str(i) for i in range(n)]),
        (pick(sheet.rng, CLOCK_NAMES), text(sheet.clock_s, 6)),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]
    del sheet.columns[int(sheet.rng.integers(0, 2))]
    gauges(sheet)


@oddity
def getting_slower_and_slower(sheet):
    sheet.times = np.round(np.sort(sheet.times), 4)
    sheet.columns = [
        (pick(sheet.rng, CLOCK_NAMES), text(sheet.clock_s, 6)),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 4)),
    ]
    if sheet.rng.random() < 0.5:
        del sheet.columns[0]
    gauges(sheet)


@oddity
def since_1970(sheet):
    stamps = 1_760_000_000.0 + sheet.clock_s
    sheet.columns = [
        pick(
            sheet.rng,
            (
                ("timestamp", text(stamps, 6)),
                ("unix time ms", text(stamps * 1000, 3)),
                ("epoch_us", text(np.round(stamps * 1e6), 0)),
            ),
        )
    ]
    truth = clock_truth(sheet)
    if sheet.rng.random() < 0.5:
        sheet.columns.append((pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)))
        truth = sheet.truth
    return {"truth": truth}


@oddity
def units_in_the_cells(sheet):
    how = int(sheet.rng.integers(3))
    if how == 0:
        sheet.columns = [("Frame time", [f"{t:.2f} ms" for t in sheet.times])]
    elif how == 1:
        sheet.columns = [("Frame rate", [f"{1000 / t:.2f} fps" for t in sheet.times])]
    else:
        sheet.columns = [("Frametime", [f"{t * 1000:.0f}us" for t in sheet.times])]
    load = [f"{v:.0f} %" for v in sheet.rng.normal(90, 3, sheet.times.size)]
    sheet.columns.insert(int(sheet.rng.integers(2)), ("GPU load", load))


@oddity
def a_summary_above_the_table(sheet):
    sheet.columns = [
        ("Frame", [str(i + 1) for i in range(sheet.times.size)]),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]
    above = pick(
        sheet.rng,
        (
            f"Average FPS,{sheet.truth:.1f}\n1% Low,41.2\n\n",
            "Title,Skitter\nResolution,1920,1080\nScene,3\n\n",
            "# made 2026-10-05\n# frames: 400\n",
            "sep=,\n",
            "GPU,Marram 12\nCPU,some cores,8\nSettings,High,1,2\n",
        ),
    )
    return {"body": above + csv(sheet)}


@oddity
def many_columns(sheet):
    n = sheet.times.size
    sheet.columns = [
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
        *(
            (f"core {i} usage %", text(np.clip(sheet.rng.normal(50, 20, n), 0, 100), 0))
            for i in range(int(sheet.rng.integers(4, 40)))
        ),
        ("Fan %", text(sheet.rng.normal(55, 2, n), 0)),
        ("VRAM clock MHz", ["1000"] * n),
        ("Process ID", ["4711"] * n),
        ("Dropped", ["0"] * n),
        ("Resolution", ["1920x1080"] * n),
    ]
    shuffled(sheet)


@oddity
def rate_and_gauges_without_a_clock(sheet):
    n = sheet.times.size
    sheet.columns = [
        ("Framerate", text(1000 / sheet.times, 3)),
        ("GPU temperature", text(np.linspace(55, 70, n), 1)),
        ("Power", text(sheet.rng.normal(60, 4, n), 1)),
    ]
    shuffled(sheet)


@oddity
def gauges_with_names_that_say_nothing(sheet):
    n = sheet.times.size
    sheet.columns = [
        ("stamp", text(sheet.clock_s, 6)),
        ("x1", text(sheet.rng.normal(60, 2, n), 1)),
        ("x2", text(sheet.rng.normal(97, 1, n), 0)),
    ]
    return {"truth": clock_truth(sheet)}

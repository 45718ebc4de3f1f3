"""A layout taken over from another log is what a search of this one would find."""

import dataclasses
import os
import random

import pytest

from blunt_ruler.exchange.logs import known as log_known
from blunt_ruler.exchange.logs.frame_logs import read_log
from blunt_ruler.exchange.logs.text import BadLog, load_text

FAMILIES = int(os.environ.get("ATTACK_LOGS", "200")) // 4
HEADS = (
    ["frame time ms", "card busy %"],
    ["elapsed s", "frame time ms", "card power W"],
    ["a", "b"],
    ["fps", "power"],
    ["frame", "ms"],
    ["time", "frametime [ms]", "x"],
    ["Zeit", "Bildzeit ms", "Watt"],
)
STYLES = ("decimals", "decimals", "decimals", "whole", "three", "grouped", "blanks", "unit")


def written(rng, value, style, mark):
    """A number as some program writes it."""
    match style:
        case "whole":
            return str(int(value))
        case "three":
            return f"{value:.3f}".replace(".", mark)
        case "grouped":
            return f"{int(value * 1000):,}".replace(",", "," if mark == "." else ".")
        case "blanks":
            return rng.choice((f"{value:.2f}".replace(".", mark), str(int(value)), ""))
        case "unit":
            return f"{value:.1f} ms".replace(".", mark)
    return f"{value:.{rng.choice((1, 2, 4))}f}".replace(".", mark)


def log_of(rng, head, delimiter, mark, styles):
    clock_s, lines = 0.0, [delimiter.join(head)]
    for _ in range(rng.choice((5, 12, 40, 150))):
        time_ms = rng.lognormvariate(2.6, 0.2)
        clock_s += time_ms / 1000.0
        values = [clock_s, time_ms, rng.uniform(50, 200)]
        values = values if len(head) == 3 else values[1:]
        fields = [written(rng, *pair, mark) for pair in zip(values, styles, strict=True)]
        lines.append(delimiter.join(fields))
        if rng.random() < 0.001:
            lines.append(rng.choice(("", "# stop", "total", lines[0])))
    return "\n".join(lines) + "\n"


def told(path):
    """Everything that is read of a log, to compare."""
    try:
        reading = read_log(path)
    except BadLog as error:
        return str(error)
    trace = reading.trace
    frames = trace and (trace.frame_times_ms.tolist(), repr(trace.telemetry))
    return repr(dataclasses.replace(reading, trace=None)), frames


@pytest.fixture
def nothing_known(monkeypatch):
    monkeypatch.setattr(log_known, "_known", {})


@pytest.mark.deep
def test_what_is_taken_over_is_what_is_found(tmp_path, nothing_known):
    rng, path, taken_over = random.Random(os.environ.get("ATTACK_SEED", "0")), tmp_path / "log", 0
    for family in range(FAMILIES):
        head, delimiter = rng.choice(HEADS), rng.choice(",;\t|")
        mark, styles = rng.choice(".,"), [rng.choice(STYLES) for _ in range(3)]
        for number in range(3):
            if number and rng.random() < 0.3:  # the same program under other settings
                mark, styles = rng.choice(".,"), [rng.choice(STYLES) for _ in range(3)]
            path.write_text(log_of(rng, head, delimiter, mark, styles[: len(head)]))
            taken_over += log_known.known_layout(load_text(path)) is not None
            found = told(path)
            known = dict(log_known._known)
            log_known._known.clear()
            assert told(path) == found, (family, number, path.read_text()[:300])
            log_known._known.update(known)
    assert taken_over > FAMILIES / 10, "else nothing was tried"


def plain_log(tmp_path, name, body, head="frame time ms;watts"):
    path = tmp_path / name
    path.write_text("\n".join([head, *body]) + "\n")
    return path


def test_decimals_of_three_digits_are_looked_at_anew(tmp_path, nothing_known):
    read_log(
        plain_log(tmp_path, "a", [f"{16 + i / 100:.2f};{150 + i / 10:.1f}" for i in range(40)])
    )
    assert log_known._known
    three = plain_log(tmp_path, "b", [f"{16 + i / 100:.3f};150.125" for i in range(40)])
    assert log_known.known_layout(load_text(three)) is None
    other = plain_log(
        tmp_path, "c", [f"{16 + i / 100:.2f};{150 + i / 10:.1f} W" for i in range(40)]
    )
    assert log_known.known_layout(load_text(other)) is None
    assert read_log(other).layout.names[1] == "watts [W]"


def test_the_encoding_is_the_logs_own(tmp_path, nothing_known):
    body = [f"{16 + i / 100:.2f};{150 + i / 10:.1f}" for i in range(40)]
    read_log(plain_log(tmp_path, "a", body))
    path = tmp_path / "wide"
    path.write_text("\n".join(["frame time ms;watts", *body]), encoding="utf-16")
    assert read_log(path).layout.encoding.startswith("utf-16")

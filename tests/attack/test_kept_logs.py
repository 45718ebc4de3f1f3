"""Logs as recorders write them: read right, asked about, or refused; none wrong in silence."""

import os
from collections import Counter

import pytest
from kept_logs import kept_log

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.exchange.logs.frame_logs import read_log

LOGS = int(os.environ.get("ATTACK_LOGS", "60"))
FIRST = int(os.environ.get("ATTACK_SEED", "1"))
CLOSE = 0.006  # a rate has two decimals; a clock has no time of its first frame


def verdict(log, folder):
    """right, asked, refused, or wrong without a question; with what is wrong."""
    path = folder / log.name
    path.write_bytes(log.body)
    try:
        reading = read_log(path)
    except UserFixable as error:
        return "refused", str(error)
    finally:
        path.unlink()
    if reading.asks:
        for guess in reading.asks:
            true = log.averages.get(guess.mapping.rows_are)
            if guess.mapping.rows_of and (
                true is None or abs(guess.average_fps / true - 1) > CLOSE
            ):
                return "wrong", f"{guess.words} for {log.averages}"
        return "asked", reading.question
    if log.must_ask:
        return "wrong", f"{reading.average_fps:.2f} without a question, by {reading.mapping}"
    if any(abs(reading.average_fps / true - 1) <= CLOSE for true in log.averages.values()):
        return "right", ""
    return "wrong", f"{reading.average_fps:.2f} for {log.averages['']:.2f} by {reading.mapping}"


def test_no_log_is_wrong_without_a_question(tmp_path):
    found, needless = Counter(), Counter()
    for seed in range(FIRST, FIRST + LOGS):
        log = kept_log(seed)
        said, what = verdict(log, tmp_path)
        found[said] += 1
        needless[said] += not log.must_ask
        assert said != "wrong", f"seed {seed}, {log.kind}: {what}\n{log.body[:400]!r}"
    assert needless["asked"] + needless["refused"] <= 0.15 * LOGS, (found, needless)


@pytest.mark.parametrize("kind", ["sorted", "generated"])
def test_what_is_odd_is_noticed(tmp_path, kind):
    words = {"sorted": "sorted by frame time", "generated": "generated frames"}[kind]
    logs = [log for log in map(kept_log, range(60)) if log.kind == kind][:5]
    assert logs
    for log in logs:
        path = tmp_path / log.name
        path.write_bytes(log.body)
        reading = read_log(path)
        assert any(words in note for note in reading.notes), reading.notes

"""No odd log is read wrong without a word, and few are refused."""

import os
import re
from collections import Counter

import pytest

import attack.odder_logs
from attack.odd_logs import ODDITIES, odd_log
from blunt_ruler.exchange.logs.frame_logs import read_log
from blunt_ruler.exchange.logs.text import BadLog

assert attack.odder_logs  # it adds to the oddities
REFUSED_RIGHTLY = (
    "two_logs_in_one",
    "two_programs_in_one",
    "summary",
    "generated_frames_in_the_rate",
)
LOGS = int(os.environ.get("ATTACK_LOGS", "200"))
FIRST_SEED = int(os.environ.get("ATTACK_SEED", "0"))


def judged(log, folder):
    """How a log was taken: right, refused, said (wrong, but the true figure stands in a note)."""
    path = folder / log.name
    path.write_bytes(log.body)
    try:
        reading = read_log(path)
    except BadLog as error:
        assert len(str(error)) < 500 and "\n" not in str(error)
        return "refused", str(error)
    finally:
        path.unlink()
    if reading.asks or reading.bad_rows:
        return "refused", reading.question or reading.notes[-1]
    if log.must_refuse:
        return "wrong", f"{reading.average_fps:.1f}: {reading.why}"
    if abs(reading.average_fps / log.truth_fps - 1) <= log.tolerance:
        return "right", ""
    figures = re.findall(r"([0-9.]+) fps", " ".join((reading.why, *reading.notes)))
    if any(abs(float(f) / log.truth_fps - 1) < log.tolerance for f in figures[1:]):
        return "said", reading.why
    return "wrong", f"{reading.average_fps:.2f} for {log.truth_fps:.2f}: {reading.why}"


@pytest.mark.deep
def test_odd_logs_are_read_right_or_refused(tmp_path):
    counts: dict[str, Counter] = {kind: Counter() for kind in ODDITIES}
    wrong = []
    for seed in range(FIRST_SEED, FIRST_SEED + LOGS):
        log = odd_log(seed)
        how, why = judged(log, tmp_path)
        counts[log.kind][how] += 1
        if how == "wrong" or (
            os.environ.get("ATTACK_VERBOSE") and how != "right" and log.kind not in REFUSED_RIGHTLY
        ):
            wrong.append(f"seed {seed}, {log.kind}, {how}: {why}")
    refused = sum(count["refused"] for kind, count in counts.items() if kind not in REFUSED_RIGHTLY)
    print(f"\n{LOGS} odd logs: {len(wrong)} wrong without a word, {refused} refused")
    for kind, count in counts.items():
        print(f"  {kind}: {dict(count)}")
    assert not wrong, "\n".join(wrong[:40])
    assert refused <= 0.03 * LOGS


@pytest.mark.parametrize("kind", ["two_logs_in_one", "two_programs_in_one", "summary"])
def test_what_is_no_single_frame_log_is_refused_with_what_it_looks_like(tmp_path, kind):
    logs = [log for log in map(odd_log, range(200)) if log.kind == kind]
    assert len(logs) > 1
    for log in logs:
        how, why = judged(log, tmp_path)
        assert how == "refused"
        assert re.search(r"two logs|recordings in this file|of “Appli|looks like", why), why

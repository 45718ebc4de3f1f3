"""Whatever a file holds: a reading or one sentence, in time that grows with the file."""

import os
import time

import numpy as np
import pytest

from attack.bad_inputs import SMALL, large
from attack.odd_logs import pick
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.exchange.logs.frame_logs import read_log
from blunt_ruler.exchange.tables.results import read_results
from blunt_ruler.exchange.tables.sweeps import read_sweep

INPUTS = int(os.environ.get("ATTACK_INPUTS", "80"))
FIRST_SEED = int(os.environ.get("ATTACK_SEED", "0"))


def sentence_or_reading(path, read=read_log):
    try:
        return read(path)
    except UserFixable as error:
        assert "\n" not in str(error)
        assert len(str(error)) < 500
        return None


def test_damaged_files_give_a_reading_or_a_sentence(tmp_path):
    path = tmp_path / "log.csv"
    read = 0
    slowest = 0.0
    for seed in range(FIRST_SEED, FIRST_SEED + INPUTS):
        rng = np.random.default_rng(seed)
        path.write_bytes(pick(rng, SMALL)(rng))
        started = time.perf_counter()
        reading = sentence_or_reading(path)
        slowest = max(slowest, time.perf_counter() - started)
        if reading is not None:
            read += 1
            assert np.isfinite(reading.average_fps), seed
            assert reading.average_fps > 0, seed
    print(f"\n{INPUTS} bad files: {read} read, the slowest in {slowest:.2f} s")


@pytest.mark.parametrize("read", [read_results, read_sweep])
def test_tables_kept_by_hand_give_rows_or_a_sentence(tmp_path, read):
    path = tmp_path / "table.csv"
    for seed in range(FIRST_SEED, FIRST_SEED + INPUTS // 4):
        rng = np.random.default_rng(seed)
        path.write_bytes(pick(rng, SMALL)(rng))
        sentence_or_reading(path, read)


@pytest.mark.deep
def test_large_bad_files_take_no_longer_than_ten_good_ones(tmp_path):
    path = tmp_path / "log.csv"
    good = None
    said = []
    for name, body in large().items():
        path.write_bytes(body)
        started = time.process_time()
        reading = sentence_or_reading(path)
        took = time.process_time() - started
        if good is None:
            assert reading is not None
            good = took
        said.append(f"{name}: {took / good:.1f} × ({'read' if reading else 'refused'})")
        # A timing: generous by half a second, for machines that do other things besides.
        assert took < 10 * good + 0.5, said[-1]
    print("\n" + "\n".join(said))


@pytest.mark.parametrize("kind", ["folder", "pipe", "device"])
def test_what_is_no_regular_file_is_refused_at_once(tmp_path, kind):
    path = tmp_path / "log.csv"
    if kind == "folder":
        path.mkdir()
    elif kind == "pipe":
        os.mkfifo(path)
    else:
        path = type(path)("/dev/zero")
    with pytest.raises(UserFixable, match=r"folder, pipe or device|cannot be read"):
        read_log(path)


def test_a_packed_file_is_unpacked_up_to_the_limit(tmp_path, monkeypatch):
    import gzip

    from blunt_ruler.exchange.logs import text as log_text

    monkeypatch.setattr(log_text, "MOST_BYTES", 1_000_000)
    path = tmp_path / "log.csv.gz"
    path.write_bytes(gzip.compress(b"16.7\n" * 1_000_000))
    with pytest.raises(UserFixable, match="larger than"):
        read_log(path)

"""Logs of every layout are understood; bad ones are named by row; nothing is dropped in silence."""

import bz2
import gzip
import io
import lzma
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from blunt_ruler.core.measure.frames import measure
from blunt_ruler.exchange.logs.frame_logs import read_log
from blunt_ruler.exchange.logs.text import BadLog, load_text
from blunt_ruler.exchange.logs.words import LogMapping, Unit, step_said

TIMES = np.round(np.random.default_rng(3).gamma(40, 0.4, 400), 3)


def as_log(first, header="frame time ms", delimiter=",", decimal=".", gauge="card power W"):
    lines = [f"{header}{delimiter}{gauge}"] if header else []
    lines += [f"{value}{delimiter}{100 + i % 7}.5" for i, value in enumerate(first)]
    text = "\n".join(lines) + "\n"
    if decimal == ",":
        text = text.replace(".", ",")
    return text


def written(tmp_path, content, name="log.csv"):
    path = tmp_path / name
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return path


ENCODINGS = ("utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "latin-1")


@pytest.mark.parametrize("encoding", ENCODINGS)
@pytest.mark.parametrize(
    ("delimiter", "decimal"), [(",", "."), (";", ","), ("\t", "."), ("|", ",")]
)
def test_encodings_delimiters_and_decimals_are_found(tmp_path, encoding, delimiter, decimal):
    text = as_log(TIMES, delimiter=delimiter, decimal=decimal, gauge="température °C")
    reading = read_log(written(tmp_path, text.encode(encoding)))
    assert reading.mapping == LogMapping(column="frame time ms", unit=Unit.MS)
    assert reading.layout.decimal == decimal
    assert np.allclose(reading.trace.frame_times_ms, TIMES)
    assert reading.trace.telemetry["température °C"][0] == 100.5
    assert reading.bad_rows == ()


@pytest.mark.parametrize(
    ("header", "values", "unit"),
    [
        ("frame time ms", TIMES, Unit.MS),
        ("Frame Time [s]", np.round(TIMES / 1000, 6), Unit.S),
        ("frame us", np.round(TIMES * 1000), Unit.US),
        ("FPS", np.round(1000 / TIMES, 4), Unit.FPS),
        ("frames per second", np.round(1000 / TIMES, 4), Unit.FPS),
        ("elapsed s", np.round(np.cumsum(TIMES) / 1000, 6), Unit.CLOCK_S),
        ("time ms", np.round(np.cumsum(TIMES), 3), Unit.CLOCK_MS),
        ("", TIMES, Unit.MS),
        ("frametime", TIMES, Unit.MS),
        ("dt", np.round(TIMES / 1000, 6), Unit.S),
    ],
)
def test_units_are_found(tmp_path, header, values, unit):
    reading = read_log(
        written(
            tmp_path,
            as_log(
                [f"{v:g}" if v % 1 else f"{v:.0f}" for v in values]
                if unit is Unit.US
                else list(values),
                header,
            ),
        )
    )
    assert reading.mapping.unit is unit
    expected = TIMES[1:] if unit.is_clock else TIMES
    assert np.allclose(reading.trace.frame_times_ms, expected, rtol=2e-3)
    assert len(reading.trace.telemetry["card power W" if header else "column 2"]) == expected.size


def test_a_column_that_matches_the_clocks_steps_is_the_frame_time_whatever_its_name(tmp_path):
    rows = zip(np.cumsum(TIMES) / 1000, TIMES + 3.0, TIMES, strict=True)
    lines = ["when,alpha,beta", *(f"{a:.6f},{b:.3f},{c:.3f}" for a, b, c in rows)]
    reading = read_log(written(tmp_path, "\n".join(lines)))
    assert reading.mapping == LogMapping(column="beta", unit=Unit.MS)
    assert "steps of “when”" in reading.why


def test_lines_before_the_table_and_quoted_headers(tmp_path):
    body = as_log(TIMES, header='"frame time, ms"', gauge='"card, W"')
    text = f"capture of 3 October\nhost, spare\n\nresolution 1920,1080,60\n{body}"
    reading = read_log(written(tmp_path, text))
    assert reading.layout.lines_before == 5
    assert reading.layout.names == ("frame time, ms", "card, W")
    assert np.allclose(reading.trace.frame_times_ms, TIMES)
    assert "4 lines before the table" in reading.layout.words()


def test_quoted_decimal_commas_between_commas(tmp_path):
    lines = ['"frame time ms","power"'] + [f'"{t:.3f}","99.5"'.replace(".", ",") for t in TIMES]
    reading = read_log(written(tmp_path, "\n".join(lines)))
    assert (reading.layout.delimiter, reading.layout.decimal) == (",", ",")
    assert np.allclose(reading.trace.frame_times_ms, TIMES)


def test_a_packed_log_and_one_cut_short(tmp_path):
    packed = gzip.compress(as_log(TIMES).encode())
    assert read_log(written(tmp_path, packed, "log.csv.gz")).layout.compressed
    with pytest.raises(BadLog, match="cut short or damaged"):
        read_log(written(tmp_path, packed[:300], "cut.csv.gz"))


def test_old_line_ends_and_windows_line_ends(tmp_path):
    for end in ("\r", "\r\n"):
        reading = read_log(written(tmp_path, as_log(TIMES).replace("\n", end)))
        assert np.allclose(reading.trace.frame_times_ms, TIMES)


@pytest.mark.parametrize(
    ("row", "becomes", "says"),
    [
        (0, "abc,100", "“abc” is not a number"),
        (5, "-3.0,100", "not above 0"),
        (5, "0,100", "not above 0"),
        (17, "nan,100", "“nan” is not a number"),
        (17, "inf,100", "“inf” is not a number"),
        (40, ",100", "“frame time ms” is blank"),
        (40, "16.7;100", "1 fields where the table has 2 columns"),
        (99, "16.7,100,7", "3 fields where the table has 2 columns"),
        (399, "16.", "1 fields"),
    ],
)
def test_a_bad_row_is_named_by_its_line_and_the_rest_is_offered(tmp_path, row, becomes, says):
    lines = as_log(TIMES).splitlines()
    lines[row + 1] = becomes
    reading = read_log(written(tmp_path, "\n".join(lines)))
    assert [bad.line for bad in reading.bad_rows] == [row + 2]
    assert says in reading.bad_rows[0].why
    assert np.allclose(reading.trace.frame_times_ms, np.delete(TIMES, row))
    assert len(reading.trace.telemetry["card power W"]) == TIMES.size - 1
    assert f"row {row + 2}" in reading.notes[-1]


def test_a_clock_that_runs_back_costs_the_frames_beside_it_only(tmp_path):
    clock = np.round(np.cumsum(TIMES) / 1000, 6)
    clock[50] = clock[10]
    lines = ["elapsed s", *map(str, clock)]
    path = written(tmp_path, "\n".join(lines))
    reading = read_log(path, column="elapsed s", unit=Unit.CLOCK_S)
    assert [bad.line for bad in reading.bad_rows] == [52]
    assert "runs back" in reading.bad_rows[0].why
    # No made-up long frame across the gap.
    assert reading.trace.frame_times_ms.max() == pytest.approx(TIMES.max(), rel=1e-3)
    assert reading.trace.frame_times_ms.size == TIMES.size - 3


def test_blank_telemetry_is_not_a_bad_row(tmp_path):
    lines = as_log(TIMES).splitlines()
    lines[4] = f"{TIMES[3]},"
    lines[9] = f"{TIMES[8]},N/A"
    reading = read_log(written(tmp_path, "\n".join(lines)))
    assert reading.bad_rows == ()
    gauge = reading.trace.telemetry["card power W"]
    assert np.isnan(gauge[[3, 8]]).all()
    assert np.isfinite(np.delete(gauge, [3, 8])).all()


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ("", "the file is empty"),
        ("\n\n\n", "the file is empty"),
        ("frame time ms,power\n", "no table of numbers"),
        ("frame time ms\n16.7\n", "only 1 of 1 rows"),
        ("A letter to the editor.\nIt has no numbers.\n", "no table of numbers"),
        (bytes(range(256)) * 40, "no table of numbers"),
        ("name,score\nanna,1e9\nbert,2e9\ncarl,3e9\n", "no column could be frame times"),
    ],
)
def test_what_is_no_log_is_refused_in_one_sentence(tmp_path, content, says):
    with pytest.raises(BadLog, match=says) as caught:
        read_log(written(tmp_path, content))
    assert str(caught.value).startswith("log.csv")
    assert "\n" not in str(caught.value)


def test_a_missing_file_is_refused(tmp_path):
    with pytest.raises(BadLog, match="cannot be read"):
        read_log(tmp_path / "none.csv")


def test_what_the_user_says_goes_before_what_is_found(tmp_path):
    path = written(tmp_path, as_log(TIMES))
    assert read_log(path, unit=Unit.FPS).mapping == LogMapping(
        column="frame time ms", unit=Unit.FPS
    )
    assert read_log(path, column="card power W").mapping.column == "card power W"
    with pytest.raises(BadLog, match=r"no column “x”.*frame time ms, card power W"):
        read_log(path, column="x")
    known = LogMapping(column="card power W", unit=Unit.FPS)
    headers = []
    reading = read_log(path, remembered=lambda header: headers.append(header) or known)
    assert headers == ["frame time ms,card power W"]
    assert reading.mapping == known
    assert "confirmed" in reading.why


def test_samples_are_not_taken_for_frames_without_a_word(tmp_path):
    lines = ["elapsed s,fps", *(f"{i * 0.25:.2f},{60 + i % 5}" for i in range(200))]
    notes = read_log(written(tmp_path, "\n".join(lines))).notes
    assert any("samples, not frames" in note for note in notes)


def test_columns_of_text_are_left_out_aloud(tmp_path):
    lines = ["title,frame time ms", *(f"Tidewrack,{t}" for t in TIMES)]
    reading = read_log(written(tmp_path, "\n".join(lines)))
    assert reading.notes == ("columns of text left out: title",)


def test_a_unit_that_cannot_be_told_is_said_to_be_doubtful(tmp_path):
    reading = read_log(written(tmp_path, as_log(TIMES, header="", gauge="")))
    assert "check the unit" in reading.why


def test_a_million_rows(tmp_path):
    import polars as pl

    times = np.random.default_rng(0).gamma(40, 0.4, 1_000_000).round(3)
    path = tmp_path / "million.csv"
    pl.DataFrame({"frame time ms": times, "card busy %": np.full(times.size, 97)}).write_csv(path)
    steps = []
    reading = read_log(path, step=lambda words, share: steps.append(share))
    assert reading.trace.frame_times_ms.size == 1_000_000
    assert measure(reading.trace.frame_times_ms).average_fps == pytest.approx(
        1e9 / times.sum(), rel=1e-9
    )
    assert steps == sorted(steps)
    assert steps[-1] == 1.0


def test_reading_can_be_stopped(tmp_path):
    class Stop(Exception):
        pass

    def step(_words, share):
        if share > 0:
            raise Stop

    with pytest.raises(Stop):
        read_log(written(tmp_path, as_log(TIMES)), step=step)


@settings(max_examples=40)
@given(
    times=st.lists(st.floats(1.0, 200.0).map(lambda x: round(x, 3)), min_size=3, max_size=60),
    delimiter=st.sampled_from([",", ";", "\t", "|"]),
    before=st.integers(0, 3),
    last_line_ends=st.booleans(),
)
def test_any_plain_log_comes_back_as_it_was(
    tmp_path_factory, times, delimiter, before, last_line_ends
):
    text = "some words\n" * before + as_log(times, delimiter=delimiter)
    path = written(tmp_path_factory.mktemp("log"), text if last_line_ends else text.rstrip("\n"))
    reading = read_log(path, column="frame time ms", unit=Unit.MS)
    assert np.allclose(reading.trace.frame_times_ms, times)
    assert reading.bad_rows == ()


@settings(max_examples=60)
@given(st.binary(max_size=300))
def test_any_bytes_give_a_reading_or_a_sentence(tmp_path_factory, content):
    path = written(tmp_path_factory.mktemp("log"), content)
    try:
        assert read_log(path).trace.frame_times_ms.size >= 2
    except BadLog as error:
        assert "\n" not in str(error)


def test_a_percentage_confirms_no_frame_time(tmp_path):
    """A processor at 7 % beside frames of 140 ms is not a rate of 7, however near."""
    rng = np.random.default_rng(1)
    times_ms = np.round(rng.normal(140.0, 3.0, 200), 3)
    load = np.round(1000.0 / times_ms, 2)
    path = tmp_path / "log.csv"
    rows = "\n".join(f"{one},{other}" for one, other in zip(times_ms, load, strict=True))
    path.write_text(f"frame time ms,cpu total %\n{rows}\n")
    reading = read_log(path)
    assert reading.mapping.column == "frame time ms"
    assert "cpu total" not in reading.why


@pytest.mark.parametrize(
    ("head", "per_ms"),
    [
        ("frametime 100ns", 1e4),
        ("Frame time (0.1 ms)", 10),
        ("frame_time_10us", 100),
        ("frame time 100 ns", 1e4),
        ("elapsed time 0.1 ms", 0),
        ("time (100 ns)", 0),
    ],
)
def test_a_number_before_the_unit_scales_it(tmp_path, head, per_ms):
    times_ms = np.round(np.random.default_rng(3).normal(10, 0.4, 900), 1)
    path = tmp_path / "log.csv"
    if per_ms:
        numbers = np.round(times_ms * per_ms).astype(int)
    else:  # a clock
        numbers = np.round(np.cumsum(times_ms) * (10 if "ms" in head else 1e4)).astype(int)
    path.write_text(f"{head},card busy %\n" + "".join(f"{one},{one % 7 + 90}\n" for one in numbers))
    reading = read_log(path)
    assert not reading.asks
    assert reading.average_fps == pytest.approx(100, rel=0.01)


@pytest.mark.parametrize(
    "head", ["frame time over 16 ms", "frame time ms", "frame time, last 100 ms"]
)
def test_a_span_in_a_head_scales_nothing(head):
    assert step_said(head) == 1.0


def zipped(body, **more):
    whole = io.BytesIO()
    with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("logs/log.csv", body)
        for name, text in more.items():
            archive.writestr(name, text)
    return whole.getvalue()


PACKED = {"gzip": gzip.compress, "xz": lzma.compress, "bzip2": bz2.compress, "zip": zipped}


@pytest.mark.parametrize("kind", PACKED)
def test_packed_logs_are_read_as_their_text(tmp_path, kind):
    body = as_log(TIMES).encode()
    packed = PACKED[kind](body)
    reading = read_log(written(tmp_path, packed, "log.csv.x"))
    plain = read_log(written(tmp_path, body, "log.csv"))
    assert reading.layout.compressed == kind
    assert reading.layout.words().endswith(kind)
    np.testing.assert_array_equal(reading.trace.frame_times_ms, plain.trace.frame_times_ms)
    if kind != "zip":
        twice = written(tmp_path, packed + PACKED[kind](b"16.7\n"), "two.csv.x")
        assert load_text(twice).utf8 == body + b"16.7\n"
    for cut in (12, len(packed) // 2, len(packed) - 5):
        with pytest.raises(BadLog, match=r"cut short|damaged|holds nothing"):
            read_log(written(tmp_path, packed[:cut], "cut.csv.x"))


def test_a_zip_of_several_files_says_what_to_do(tmp_path):
    packed = zipped(as_log(TIMES), other="x")
    with pytest.raises(BadLog, match=r"it holds 2 files\. Unpack it"):
        read_log(written(tmp_path, packed, "logs.zip"))


@pytest.mark.parametrize("kind", PACKED)
def test_what_unpacks_beyond_reason_is_refused(tmp_path, kind):
    if kind == "zip":
        packed = zipped(b"16.7\n" * 20_000_000)
    else:  # a hundred members of a megabyte
        packed = PACKED[kind](b"16.7\n" * 200_000) * 100
    with pytest.raises(BadLog, match="over 100 times its size"):
        load_text(written(tmp_path, packed, "bomb.csv.x"))

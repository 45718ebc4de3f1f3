"""Sweeps of other programs: the rate column and its unit are found, wrong rows are named."""

import pytest

from blunt_ruler.exchange.logs.text import BadLog
from blunt_ruler.exchange.tables.sweeps import read_sweep


@pytest.mark.parametrize(
    ("header", "factor"),
    [("block MB,rate GB/s", 1.0), ("size,copy (MB/s)", 1e-3), ("n,h2d [GiB/s]", 1.073741824)],
)
def test_the_plateau_is_read_in_the_unit_of_the_header(tmp_path, header, factor):
    path = tmp_path / "sweep.csv"
    path.write_text(f"{header}\n0.0625,1.1\n1,5.9\n64,6.4\n256,6.3\n")
    assert read_sweep(path) == pytest.approx(6.4 * factor)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("block,rate\n1,5\n2,6\n", "no column names a rate"),
        ("block,rate GB/s\n1,5\n2,-1\n3,6\n", "row 3: the rate is not a number"),
        ("", "is empty"),
    ],
)
def test_what_is_no_sweep_is_said(tmp_path, text, says):
    path = tmp_path / "sweep.csv"
    path.write_text(text)
    with pytest.raises(BadLog, match=says):
        read_sweep(path)

"""Small values: text, scales, link rates, models, errors."""

import pickle
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.errors import BadFrames, UserFixable
from blunt_ruler.core.records.hardware import Hop, Link, Rig
from blunt_ruler.core.records.records import Review, ReviewRig, Role
from blunt_ruler.core.rigs.links import encoded_gb_per_s, link_gb_per_s
from blunt_ruler.core.text import (
    count_text,
    duration_text,
    fps_text,
    list_text,
    loss_text,
    percent_text,
    times_text,
)


def test_figures_read_as_the_house_writes_them():
    assert fps_text(27.31) == "27.3"
    assert fps_text(1234.5) == "1234"
    assert fps_text(999.96) == "1000"
    assert percent_text(0.214) == "21\u202f%"
    assert percent_text(-0.214, signed=True) == "−21\u202f%"
    assert percent_text(0.001, signed=True) == "±0\u202f%"
    assert loss_text(0.35) == "−35\u202f%"
    assert loss_text(-0.02) == "+2\u202f%"
    assert times_text(2.567) == "×2.57"
    assert times_text(12.34) == "×12.3"
    assert duration_text(8.23) == "8.2\u202fs"
    assert duration_text(125) == "2\u202fmin 05\u202fs"
    assert duration_text(7800) == "2\u202fh 10\u202fmin"
    assert count_text(1, "run") == "1 run"
    assert count_text(12345, "frame") == "12\u202f345 frames"
    assert list_text(["a", "b", "c"]) == "a, b and c"


def test_missing_figures_are_a_dash():
    assert {fps_text(None), percent_text(None), loss_text(None), times_text(None)} == {"–"}


@given(st.floats(0.01, 1e6))
def test_a_scale_holds_its_largest_value_with_round_steps(largest):
    scale = scale_to(largest)
    assert scale.end >= largest * (1 - 1e-9)
    assert 1 <= round(scale.end / scale.major) <= 10
    assert scale.majors()[-1] == pytest.approx(scale.end)
    assert scale.share(largest) <= 1.0
    leading = float(f"{scale.major:e}".split("e")[0])
    assert leading == pytest.approx(round(leading))
    assert round(leading) in (1, 2, 5)


# MB/s per lane as lstopo (hwloc 2.9) computes them from a device tree; generation 6 is
# transcribed from the published standard, from memory: 242 of 256 flit bytes.
@pytest.mark.parametrize(
    ("generation", "mb_per_lane"),
    [(1, 250.0), (2, 500.0), (3, 984.615), (4, 1969.231), (5, 3938.462), (6, 7562.5)],
)
def test_lane_rates(generation, mb_per_lane):
    assert encoded_gb_per_s(generation, 1) * 1000 == pytest.approx(mb_per_lane, abs=5e-4)
    assert encoded_gb_per_s(generation, 16) == pytest.approx(16 * mb_per_lane / 1000, rel=1e-6)


def test_lane_generations_are_those_of_the_kernel_headers():
    # /usr/include/linux/pci_regs.h (linux-libc-dev): PCI_EXP_LNKSTA_CLS_2_5GB = 1 … 64_0GB = 6.
    header = Path("/usr/include/linux/pci_regs.h")
    if not header.exists():
        pytest.skip("needs linux-libc-dev")
    from blunt_ruler.core.rigs.links import GT_PER_S

    text = header.read_text()
    for generation, rate in GT_PER_S.items():
        name = f"PCI_EXP_LNKSTA_CLS_{rate:.1f}GB".replace(".", "_")
        line = next(line for line in text.splitlines() if f"{name} " in line.replace("\t", " "))
        assert int(line.split()[2], 16) == generation


def test_a_link_is_as_wide_as_its_narrowest_hop():
    link = Link(
        id="l",
        name="cable",
        hops=(Hop(name="port", tunnel_gbps=40), Hop(name="bridge", generation=3, lanes=4)),
    )
    assert link_gb_per_s(link) == pytest.approx(4 * 0.984615, rel=1e-5)
    assert link_gb_per_s(Link(id="l", name="unknown")) is None
    assert link_gb_per_s(None) is None


def test_models_refuse_nonsense():
    with pytest.raises(ValidationError):
        Hop(name="port", generation=9, lanes=4)
    with pytest.raises(ValidationError):
        Hop(name="port", generation=4, lanes=3)
    with pytest.raises(ValidationError):
        Rig(id="r", name="  ")
    with pytest.raises(ValidationError):
        Rig(id="r", name="x", colour="red")
    with pytest.raises(ValidationError):
        Rig(id="r", name="x").name = "y"


def test_base_and_reference_pass_from_their_holder():
    review = Review(
        id="v",
        name="V",
        seats=(
            ReviewRig(rig_id="a", role=Role.BASE),
            ReviewRig(rig_id="b"),
            ReviewRig(rig_id="c", role=Role.REFERENCE),
        ),
    )
    moved = review.with_role("b", Role.BASE)
    assert [seat.role for seat in moved.seats] == [Role.TESTED, Role.BASE, Role.REFERENCE]
    assert moved.with_role("b", Role.TESTED).rig_in(Role.BASE) is None
    assert review.rig_in(Role.BASE) == "a"


def test_errors_say_where_what_and_what_to_do_and_survive_pickling():
    error = BadFrames("coast.csv", "frame 2 is -1 ms", "Mend it")
    assert str(error) == "coast.csv: frame 2 is -1 ms. Mend it."
    again = pickle.loads(pickle.dumps(error))
    assert isinstance(again, UserFixable)
    assert (again.where, again.what, again.fix) == (error.where, error.what, error.fix)

"""Which figures of an overlay are found, and whose they are taken for.

Overlays are laid out from lines of words; what each counts is known from how it was made.
"""

from dataclasses import replace

import numpy as np
import pytest

from blunt_ruler.core.recordings.found_boxes import (
    Found,
    boxes_of,
    figures_on,
    with_thousands,
)
from blunt_ruler.core.recordings.quantities import BadBox, Box, Quantity, each_once

SIZE, ADVANCE = 20, 12  # pixels: the height of a line and the width of a sign


def laid_out(text, x=40, y=30, leading=28):
    """The words of some lines; more than one space parts words, as a recogniser does."""
    return [
        Found(part, 0.97, x + ADVANCE * at, y + leading * number, ADVANCE * len(part), SIZE)
        for number, line in enumerate(text.splitlines())
        for at, part in _parts(line)
    ]


def shaken(words, scale, seed):
    """The words as another picture of another size tells them: larger, and some pixels off."""
    rng, told = np.random.default_rng(seed), []
    for one in words:
        left, up, right, down = np.round(rng.normal(0, 0.05 * SIZE * scale, 4)).astype(int)
        x, y = round(one.x * scale) + int(left), round(one.y * scale) + int(up)
        end, bottom = (one.x + one.w) * scale + right, (one.y + one.h) * scale + down
        told.append(replace(one, x=x, y=y, w=round(end) - x, h=round(bottom) - y))
    return told


def _parts(line):
    at = 0
    for part in line.split(" "):
        if part:
            yield at, part.replace("_", " ")
        at += len(part) + 1


def taken(text):
    """What each figure of an overlay is taken for, in reading order."""
    pictures = [laid_out(text)] * 5
    return [box.quantity.value for box in boxes_of(pictures, 1920, 1080)]


@pytest.mark.parametrize(
    ("overlay", "expected"),
    [
        ("FPS 143", "fps"),
        ("143", "fps"),
        ("143 FPS", "fps"),
        ("FPS 143\n1% low 98", "fps low"),
        ("GPU 97% 64°C 212W 1890MHz", "load temperature card_w clock"),
        ("CPU 43% 71°C 88W 4500MHz", "ignore ignore ignore ignore"),
        ("GPU 97% 64°C CPU 43% 71°C FPS 143", "load temperature ignore ignore fps"),
        ("CPU 43% GPU 97% FPS 143 1% 98", "ignore load fps low"),
        ("VRAM 8.1 GB\nRAM 14.2 GB", "memory ignore"),
        ("CPU temp 71 °C\nGPU temp 64 °C", "ignore temperature"),
        ("CPU clock 4500 MHz\nGPU clock 1890 MHz", "ignore clock"),
        ("GPU\n load 97%\n temp 64°C\nCPU\n load 43%\n temp 71°C",
         "load temperature ignore ignore"),
        ("GPU          CPU\n97%          43%\n64°C         71°C", "load ignore temperature ignore"),
        ("CPU 43%\nFPS 143", "ignore fps"),
        ("CPU 71°C\nWall 312 W", "ignore wall_w"),
        ("GPU 97 % 64 °C 212 W 1890 MHz", "load temperature card_w clock"),
        ("143 FPS 64 °C 212 W", "fps temperature card_w"),
        ("GPU 97 % 64 °C FPS 143", "load temperature fps"),
        ("GPU 212 W 64 °C Load 12", "card_w temperature load"),
        ("GPU 64 C 212 watts", "temperature card_w"),
        ("FPS 143 12.1 ms", "fps ignore"),
        ("AVG 139 FPS 143", "ignore fps"),
        ("FPS 143 avg 139 min 98 max 187", "fps ignore minimum maximum"),
        ("Average FPS 139", "ignore"),
        ("GPU 97% fan 45%", "load ignore"),
    ],
)  # fmt: skip
def test_figures_are_taken_for_those_of_the_device_that_heads_them(overlay, expected):
    assert taken(overlay) == expected.split()


def test_figures_of_the_processor_are_not_the_cards_wherever_they_stand():
    units = {"load": "%", "temperature": "°C", "card_w": "W", "clock": "MHz"}
    for seed in range(200):
        rng = np.random.default_rng(seed)
        heads = list(rng.permutation(["GPU", "CPU"]))
        own = {head: list(rng.permutation([*units])[: rng.integers(1, 5)]) for head in heads}
        between = str(rng.choice([" ", "\n", " | "]))
        space = str(rng.choice(["", " "]))
        parts = [
            " ".join([head, *(f"{rng.integers(10, 99)}{space}{units[name]}" for name in own[head])])
            for head in heads
        ]
        at = rng.integers(0, 3)
        parts.insert(at, f"FPS {rng.integers(20, 240)}")
        expected = [[name if head == "GPU" else "ignore" for name in own[head]] for head in heads]
        expected.insert(at, ["fps"])
        told = taken(between.join(parts))
        assert told == [name for some in expected for name in some], (seed, between.join(parts))


def test_a_figure_on_a_still_picture_tells_whose_it_is():
    told = figures_on(laid_out("CPU 43% 71°C\nGPU 97% 64°C\nScore 7310"))
    assert [one[1] for one in told] == [
        Quantity.IGNORE, Quantity.IGNORE, Quantity.LOAD, Quantity.TEMPERATURE, Quantity.SCORE,
    ]  # fmt: skip


def test_a_label_may_stand_far_to_the_left_of_a_figure_with_a_unit():
    far = " " * 40
    told = figures_on(laid_out(f"Wall power{far}309 W\nVRAM{far}8.1 GB\nCPU temp{far}71 °C"))
    assert [(one[1].value, one[2]) for one in told] == [
        ("wall_w", "Wall power W"), ("memory", "VRAM GB"), ("ignore", "CPU temp °C"),
    ]  # fmt: skip


def test_a_label_is_heard_whole_however_wide_its_words_stand():
    wide = "Minimum    FPS    12\n0.1%    Low    25.4"
    assert [one[1].value for one in figures_on(laid_out(wide))] == ["minimum", "low_01"]
    assert taken(wide) == ["minimum", "low_01"]


def test_the_unit_of_the_figure_above_is_no_label():
    words = laid_out(
        "Wall power          309 W\nAverage FPS         94.7\n1% low              57.0 W"
    )
    shifted = [replace(one, x=one.x + 30) if one.text == "94.7" else one for one in words]
    told = [(one[0].text, one[1].value) for one in figures_on(shifted)]
    assert told[:2] == [("309", "wall_w"), ("94.7", "fps")]


def test_a_figure_may_stand_below_its_label():
    assert taken("FPS\n143") == ["fps"]
    assert [one[1] for one in figures_on(laid_out("Score\n7310"))] == [Quantity.SCORE]


def test_boxes_lie_inside_the_picture_and_apart_from_their_labels():
    words = laid_out("FPS 143 1% 98", x=2, y=1)
    boxes = boxes_of([words] * 5, 1920, 1080)
    assert len(boxes) == 2
    for box in boxes:
        assert box.checked(1920, 1080) == box
    first, second = boxes
    assert not first.overlaps(second)
    figure = words[1]
    assert first.x <= figure.x and first.x + first.w >= figure.x + figure.w
    assert first.y <= figure.y and first.y + first.h >= figure.y + figure.h


def test_a_figure_that_two_overlapping_words_tell_is_one_box():
    twice = [*laid_out("FPS 143"), Found("143", 0.9, 90, 32, 34, 18)]
    assert len(boxes_of([twice] * 5, 1920, 1080)) == 1


def test_what_stands_on_few_pictures_is_no_counter():
    shown = [laid_out("FPS 143 64°C"), *[laid_out("FPS 143")] * 4]
    assert [box.quantity for box in boxes_of(shown, 1920, 1080)] == [Quantity.FPS]


def test_no_box_reaches_into_the_figure_beside_it():
    words = laid_out("GPU 97% 64°C 212W 1890MHz")
    boxes = boxes_of([words] * 5, 1920, 1080)
    assert len(boxes) == 4
    for box, figure in zip(boxes, words[1:], strict=True):
        assert box.x <= figure.x and figure.x + figure.w <= box.x + box.w
        for other in words:
            if other is not figure:
                assert other.x + other.w <= box.x or box.x + box.w <= other.x


def test_two_boxes_of_the_same_figure_are_refused():
    one = Box(10, 10, 40, 20, Quantity.FPS)
    ignored = replace(one, quantity=Quantity.IGNORE)
    assert each_once([one, ignored, ignored]) == (one, ignored, ignored)
    with pytest.raises(BadBox, match="two of them are FPS"):
        each_once([one, replace(one, y=40)])


OVERLAYS = (
    "GPU  97%  64°C  212W  1890MHz\nVRAM 8.1 GB\nCPU  43%  71°C\nFPS  143\n1% low 98",
    "143 FPS\n97 %    64 °C",
    "FPS 143 | GPU 97 % 64 °C | CPU 43 % 71 °C 88 W",
    "GPU          CPU\n97%          43%\n64°C         71°C",
)


@pytest.mark.parametrize("overlay", OVERLAYS)
@pytest.mark.parametrize("scale", [0.7, 1.0, 2.6])
def test_boxes_hold_their_figure_in_every_picture_and_no_other_word(overlay, scale):
    """At any size, with the words a few pixels off from picture to picture."""
    plain = laid_out(overlay)
    quantities = taken(overlay)
    for seed in range(15):
        pictures = [shaken(plain, scale, 100 * seed + at) for at in range(7)]
        boxes = boxes_of(pictures, 1920, 1080)
        assert [box.quantity.value for box in boxes] == quantities, seed
        middles = [box.y + box.h / 2 for box in boxes]
        for box, middle in zip(boxes, middles, strict=True):
            inside = [[word for word in words if _covers(box, word)] for words in pictures]
            texts = {tuple(word.text for word in some) for some in inside}
            assert len(texts) == 1 and len(next(iter(texts))) == 1, (seed, box, texts)
            high = np.mean([word.h for some in inside for word in some])
            assert high <= box.h <= 1.6 * high, (seed, box)
            assert abs(middle - np.mean([w.middle for some in inside for w in some])) < 0.25 * high


def _covers(box, word):
    """Whether a box holds most of a word."""
    across = min(box.x + box.w, word.x + word.w) - max(box.x, word.x)
    down = min(box.y + box.h, word.y + word.h) - max(box.y, word.y)
    return across > 0 and down > 0 and across * down > 0.35 * word.w * word.h


@pytest.mark.parametrize(("gap", "one"), [(0.1, True), (0.4, True), (0.9, False), (-0.2, False)])
def test_thousands_are_one_figure_where_a_space_parts_them(gap, one):
    first = Found("7", 0.9, 100, 50, 12, SIZE)
    after = Found("310", 0.8, round(112 + gap * SIZE), 52, 36, SIZE)
    told = with_thousands([Found("Score", 0.9, 20, 50, 60, SIZE), first, after])
    assert [word.text for word in told][1:] == (["7310"] if one else ["7", "310"])
    if one:
        assert told[1].w == after.x + after.w - first.x
        assert told[1].sure == 0.8


@pytest.mark.parametrize("second", ["31", "3100", "31O", "310 fps"])
def test_other_words_are_no_thousands(second):
    words = [Found("7", 0.9, 100, 50, 12, SIZE), Found(second, 0.9, 116, 50, 36, SIZE)]
    assert len(with_thousands(words)) == 2


def test_a_heading_reaches_down_to_a_gap_only():
    near = laid_out("CPU\n43%\n71°C")
    assert [one[1] for one in figures_on(near)] == [Quantity.IGNORE] * 2
    far = [*laid_out("CPU"), *laid_out("43%\n71°C", y=30 + 4 * SIZE)]
    assert [one[1] for one in figures_on(far)] == [Quantity.LOAD, Quantity.TEMPERATURE]


def test_a_counter_must_stand_in_half_of_the_pictures():
    with_it, without = laid_out("FPS 143\n64°C"), laid_out("FPS 143")
    half = [with_it, with_it, without, without]
    assert len(boxes_of(half, 1920, 1080)) == 2
    assert len(boxes_of([with_it, without, without], 1920, 1080)) == 1

"""The second opinion on digits: learned from readings, it objects to what is written otherwise.

Digits are drawn as segments, over noise, so that nothing of a font or a recogniser is needed.
"""

import numpy as np
import pytest

from blunt_ruler.core.recordings.glyphs import Example, Glyphs

HIGH, WIDE, ADVANCE, LEFT, ACROSS = 32, 10, 16, 24, 96
# The segments of each digit: top, upper left and right, middle, lower left and right, bottom.
SEGMENTS = {
    "0": "1110111", "1": "0010010", "2": "1011101", "3": "1011011", "4": "0111010",
    "5": "1101011", "6": "1101111", "7": "1010010", "8": "1111111", "9": "1111011",
}  # fmt: skip
PLACES = (
    (4, 7, 0, WIDE), (4, 16, 0, 3), (4, 16, WIDE - 3, WIDE), (14, 17, 0, WIDE),
    (15, 28, 0, 3), (15, 28, WIDE - 3, WIDE), (25, 28, 0, WIDE),
)  # fmt: skip


def drawn(text, seed, left=LEFT, noise=12.0, scale=1):
    """A crop with a figure over a scene of noise, and the centres of its digits."""
    rng = np.random.default_rng(seed)
    crop = rng.normal(70, noise, (HIGH, ACROSS, 3))
    centres = []
    for at, digit in enumerate(text):
        x = left + at * ADVANCE
        for on, (top, bottom, start, end) in zip(SEGMENTS[digit], PLACES, strict=True):
            if on == "1":
                crop[top:bottom, x + start : x + end] = 230
        centres.append((x + WIDE / 2) / ACROSS)
    shown = np.clip(crop, 0, 255).astype(np.uint8)
    return shown.repeat(scale, axis=0).repeat(scale, axis=1), tuple(centres)


def example(shown, read, seed, **how):
    """A crop that shows one figure, in which another was read at the same places."""
    crop, centres = drawn(shown, seed, **how)
    places = [*centres, *(centres[-1] + ADVANCE / ACROSS * more for more in (1, 2))]
    return Example(crop, read, tuple(places[: len(read)]))


@pytest.fixture(scope="module")
def glyphs():
    rng = np.random.default_rng(5)
    texts = ["".join(rng.choice(list("0123456789"), rng.integers(2, 4))) for _ in range(120)]
    return Glyphs(example(text, text, seed) for seed, text in enumerate(texts))


@pytest.mark.parametrize("seed", range(500, 520))
def test_figures_read_rightly_are_agreed_with(glyphs, seed):
    text = str(np.random.default_rng(seed).integers(10, 1000))
    assert glyphs.agrees_with(example(text, text, seed))
    assert not glyphs.objects_to(example(text, text, seed))


@pytest.mark.parametrize(("shown", "read"), [
    ("80", "60"), ("61", "81"), ("143", "145"), ("29", "79"), ("77", "17"), ("305", "365"),
])  # fmt: skip
def test_a_digit_read_as_another_is_objected_to(glyphs, shown, read):
    for seed in range(600, 605):
        assert glyphs.objects_to(example(shown, read, seed))
        assert not glyphs.agrees_with(example(shown, read, seed))


@pytest.mark.parametrize(("shown", "read"), [("143", "14"), ("87", "871"), ("140", "14")])
def test_a_digit_left_out_or_made_up_is_objected_to(glyphs, shown, read):
    assert glyphs.objects_to(example(shown, read, 700))


def test_a_figure_may_stand_some_pixels_beside_where_it_was_seen(glyphs):
    crop, centres = drawn("482", 800)
    for moved in (-4, -2, 2, 4):
        beside = tuple(centre + moved / ACROSS for centre in centres)
        assert glyphs.agrees_with(Example(crop, "482", beside))


@pytest.mark.parametrize("scale", [2, 3])
def test_crops_of_another_size_are_brought_to_the_same(glyphs, scale):
    assert glyphs.agrees_with(example("482", "482", 900, scale=scale))
    assert glyphs.objects_to(example("482", "492", 900, scale=scale))


def test_a_digit_seen_too_seldom_is_neither_known_nor_objected_to():
    some = Glyphs([example("12", "12", seed) for seed in range(6)])
    assert some.knows("21") and not some.knows("23")
    assert not some.objects_to(example("93", "93", 40))
    assert not some.agrees_with(example("93", "93", 40))
    few = Glyphs([example("12", "12", seed) for seed in range(5)])
    assert not few.knows("1")

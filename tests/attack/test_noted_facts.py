"""Any words as any fact of anything: noted, or refused in a sentence; what follows never fails."""

import random

import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.rigs.fields import fields_of
from blunt_ruler.core.rigs.noting import MODELS, note_facts
from blunt_ruler.core.writeup.compose import compose

WHO = {
    **dict.fromkeys(("rig", "state", "readings"), "Sluice Marram 12"),
    "host": "Quillon 24",
    **dict.fromkeys(("card", "price"), "Marram 12"),
    "dock": "Sluice",
    "link": "40 Gb/s cable",
    "worth": "Which link",
    "title": "Skitter",
    "alternative": "Used tower",
}
BITS = (
    *("0", "1", "-5", "3.5", "0,5", "1e9", "1e400", "nan", "9" * 40, "%", "GB/s", "Gbit/s", "W"),
    *("from it", "the seat", "at", "m", "75-90", "~60", "12% behind", "the reference", "of", "EUR"),
    *(";", ":", "×", "→", "8-pin", "4.0x4", "yes", "no", "unknown", "", " ", "\u202f", "ä", "\n"),
    *("no: hung", "(58 61)", "200+", "2026-13-45", "x" * 600, "capture card", "on", "lower"),
)
TOGETHER = 75  # facts on one logbook, before all that follows from it is worked out


@pytest.mark.parametrize("seed", range(2))
def test_any_words_are_a_fact_or_a_sentence(demo_contents, seed):
    drawn = random.Random(seed)
    contents = demo_contents
    for _ in range(4 * TOGETHER):
        kind = drawn.choice([*MODELS])
        field = drawn.choice(fields_of(MODELS[kind])).name
        words = "".join(
            drawn.choice(BITS) + drawn.choice(" |").strip("|") for _ in range(drawn.randint(0, 4))
        )
        try:
            edit = note_facts(contents, kind, WHO[kind], [f"{field}: {words}"], lambda: "new")
        except UserFixable as error:
            assert len(str(error)) < 2000
            continue
        if field != "name":
            contents = edit.on(contents)
    for review in contents.reviews.values():
        assert compose(analyse(contents, review), ())

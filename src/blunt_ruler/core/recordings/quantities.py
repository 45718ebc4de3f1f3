"""What a counter on a screen can count, and how a text on it becomes a figure."""

import re
from collections.abc import Sequence, Set
from dataclasses import dataclass
from enum import StrEnum

from blunt_ruler.core.errors import UserFixable


class Quantity(StrEnum):
    """What the figure in a box is; the value is its name in commands and files."""

    FPS = "fps"
    LOW_1 = "low"
    LOW_01 = "low_01"
    MINIMUM = "minimum"
    MAXIMUM = "maximum"
    SCORE = "score"
    CARD_W = "card_w"
    WALL_W = "wall_w"
    LOAD = "load"
    TEMPERATURE = "temperature"
    MEMORY = "memory"
    CLOCK = "clock"
    IGNORE = "ignore"


@dataclass(frozen=True, slots=True)
class Meaning:
    """A quantity in words, as a channel of telemetry, with the most that it can be."""

    words: str
    channel: str
    most: float
    factor: float = 1.0  # by which what is read is divided where it is beyond `most`


MEANINGS = {
    Quantity.FPS: Meaning("FPS", "counter fps", 2000),
    Quantity.LOW_1: Meaning("1% low", "counter 1% low fps", 2000),
    Quantity.LOW_01: Meaning("0.1% low", "counter 0.1% low fps", 2000),
    Quantity.MINIMUM: Meaning("minimum", "counter minimum fps", 2000),
    Quantity.MAXIMUM: Meaning("maximum", "counter maximum fps", 5000),
    Quantity.SCORE: Meaning("score", "score", 1e9),
    Quantity.CARD_W: Meaning("card, W", "card power W", 1000),
    Quantity.WALL_W: Meaning("wall, W", "wall W", 3000),
    Quantity.LOAD: Meaning("card load, %", "card busy %", 100),
    Quantity.TEMPERATURE: Meaning("card temperature, °C", "card temp C", 130),
    Quantity.MEMORY: Meaning("card memory, GB", "card memory GB", 128, 1024.0),  # often shown in MB
    Quantity.CLOCK: Meaning("card clock, MHz", "card clock MHz", 6000),
    Quantity.IGNORE: Meaning("text to ignore", "", 0),
}

# Words of a label or unit → what it labels; the first that fits counts. Common practice, no source.
LABELS = (
    (re.compile(r"0[.,]1\s*%|p99[.,]9", re.I), Quantity.LOW_01),
    (re.compile(r"1\s*%|\blow|p99|99\s*%", re.I), Quantity.LOW_1),
    (re.compile(r"\bmin", re.I), Quantity.MINIMUM),
    (re.compile(r"\bmax|\bpeak", re.I), Quantity.MAXIMUM),
    (re.compile(r"score|points|\btotal\b|overall|result", re.I), Quantity.SCORE),
    (re.compile(r"\bavg|average|\bmean\b", re.I), Quantity.FPS),
    (re.compile(r"fps|frames?\s*(per|/)\s*s|\bf/s|frame\s*rate", re.I), Quantity.FPS),
    (re.compile(r"wall|mains|socket|plug", re.I), Quantity.WALL_W),
    (re.compile(r"\bcpu|\bram|processor|\bping\b|\bms\b|time", re.I), Quantity.IGNORE),
    (re.compile(r"mem|vram|\bgb\b|\bmb\b|gib|mib", re.I), Quantity.MEMORY),
    (re.compile(r"mhz|clock|clk|ghz", re.I), Quantity.CLOCK),
    (re.compile(r"temp|[°º]\s*c|℃|\bdeg", re.I), Quantity.TEMPERATURE),
    (re.compile(r"power|watt|\d\s*w\b|\bw\b|tdp|tbp", re.I), Quantity.CARD_W),
    (re.compile(r"load|busy|usage|\buse\b|util|%", re.I), Quantity.LOAD),
)


RATES = frozenset(
    {Quantity.FPS, Quantity.LOW_1, Quantity.LOW_01, Quantity.MINIMUM, Quantity.MAXIMUM}
)
"""Quantities in frames per second."""
# A figure's own unit → what it may be, whatever stands around it.
UNITS = (
    (re.compile(r"fps", re.I), RATES),
    (re.compile(r"[mg]hz", re.I), {Quantity.CLOCK}),
    (re.compile(r"[mg]i?b", re.I), {Quantity.MEMORY}),
    (re.compile(r"[°º]?\s*c|℃", re.I), {Quantity.TEMPERATURE}),
    (re.compile(r"w|watts?", re.I), {Quantity.CARD_W, Quantity.WALL_W}),
    (re.compile(r"%", re.I), {Quantity.LOAD}),
    (re.compile(r"ms|rpm", re.I), set[Quantity]()),
)


def is_unit(text: str) -> bool:
    """Whether a word is a unit and nothing else."""
    return _of_unit(text) is not None


def _of_unit(text: str) -> Set[Quantity] | None:
    bare = text.strip(" .,:;|·()[]")
    return next((some for mark, some in UNITS if mark.fullmatch(bare)), None)


def quantity_of(label: str, unit: str = "") -> Quantity | None:
    """What a label names, of what the unit of its figure allows; None where nothing says so."""
    allowed, text = _of_unit(unit), f"{label} 8 {unit}" if unit else label
    if allowed is not None:
        allowed = {*allowed, Quantity.IGNORE}
    for mark, quantity in LABELS:
        if (allowed is None or quantity in allowed) and mark.search(text):
            return quantity
    own = (allowed or set()) - {Quantity.IGNORE}
    return own.pop() if len(own) == 1 else None


class BadBox(UserFixable):
    """A box that is none: not four numbers and a quantity, or outside the picture."""


@dataclass(frozen=True, slots=True)
class Box:
    """Where a figure stands in the pictures of a recording, in their pixels, and what it is."""

    x: int
    y: int
    w: int
    h: int
    quantity: Quantity

    @property
    def middle(self) -> float:
        """The height at which it stands."""
        return self.y + self.h / 2

    def checked(self, width: int, height: int) -> "Box":
        """The same box; BadBox where it does not lie in a picture of a size."""
        inside = 0 <= self.x < width and 0 <= self.y < height
        if not inside or self.x + self.w > width or self.y + self.h > height:
            raise BadBox(
                f"box {self.x},{self.y},{self.w},{self.h}",
                f"it does not lie in the picture of {width} × {height}",
                "Give it as x,y,w,h in pixels of the recording",
            )
        return self

    def overlaps(self, other: "Box") -> bool:
        """Whether two boxes share a pixel."""
        across = self.x < other.x + other.w and other.x < self.x + self.w
        return across and self.y < other.y + other.h and other.y < self.y + self.h


def parse_box(words: str) -> Box:
    """A box as "x,y,w,h:fps"."""
    found = re.fullmatch(r"\s*(\d{1,5}),(\d{1,5}),(\d{1,5}),(\d{1,5}):([a-z_0-9]+)\s*", words)
    names = [one.value for one in Quantity]
    if found is None or found[5] not in names:
        raise BadBox(
            f"box “{words[:60]}”",
            "it is not a box with its quantity",
            f"Write it as x,y,w,h:fps; quantities are {', '.join(names)}",
        )
    x, y, w, h = (int(found[at]) for at in range(1, 5))
    if w < 4 or h < 6:
        raise BadBox(f"box “{words}”", f"{w} × {h} pixels hold no figure", "Draw it larger")
    return Box(x, y, w, h, Quantity(found[5]))


def each_once(boxes: Sequence[Box]) -> tuple[Box, ...]:
    """The boxes; BadBox where two show the same: which one counts nobody could tell afterwards."""
    told = [box.quantity for box in boxes if box.quantity is not Quantity.IGNORE]
    twice = next((one for one in told if told.count(one) > 1), None)
    if twice is not None:
        raise BadBox(
            "boxes",
            f"two of them are {MEANINGS[twice].words}",
            "Say of one that it is another figure, or text to ignore",
        )
    return tuple(boxes)


def box_words(box: Box) -> str:
    """A box as `parse_box` reads it."""
    return f"{box.x},{box.y},{box.w},{box.h}:{box.quantity.value}"


FIGURE = re.compile(r"\d+(?:[.,]\d+)?")
THOUSANDS = re.compile(r"(?<!\d)(\d{1,3})[ ,.'](\d{3})(?![\d.,])")


def figure_in(text: str, quantity: Quantity) -> float | None:
    """The figure of a text read in a box; None where there is none, or more than one, or one
    beyond what the quantity can be. Label and unit may stand around it: “FPS 87”, “145 W”.
    """
    if quantity in (Quantity.LOW_1, Quantity.LOW_01):
        text = re.sub(r"(0[.,])?1\s*%\s*(low)?", " ", text, flags=re.I)
    if quantity is Quantity.SCORE:
        text = THOUSANDS.sub(r"\1\2", text)
    found = FIGURE.findall(text.replace(" ", "") if "%" not in text else text)
    if len(found) != 1:
        return None
    value = float(found[0].replace(",", "."))
    meaning = MEANINGS[quantity]
    if value > meaning.most and meaning.factor > 1.0:
        value /= meaning.factor
    return value if value <= meaning.most else None

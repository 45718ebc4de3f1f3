"""Figures as the reader sees them: units after a thin space, a true minus, few digits.

One place, so that the board, the ruler, the reports and the blunt lines never differ.
"""

import math
import re
from collections.abc import Sequence

THIN = "\u202f"  # thin, and it keeps a figure and its unit on one line
HARD = "\u00a0"  # a space that keeps words on one line
MINUS = "\u2212"
MISSING = "–"
MARK = "\u200e"  # left to right; it has no width
# What moves a cursor, or turns around all that follows it. Marks and joiners, which some scripts
# need, are none of it; line breaks and tabs only in a name.
_UNSHOWN = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069]")
UNSHOWN = "\ufffd"  # stands in their place
# A stretch of Hebrew, Arabic or their like, with what stands between two of their words.
_TURNED = re.compile(
    "[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc](?:[ '’\u00a0-]*"
    "[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc])*"
)


def bound(words: str) -> str:
    """Words in which “1 % low” never stands on two lines."""
    return words.replace("1 % low", f"1{HARD}%{HARD}low")


def in_place(words: str) -> str:
    """Words in which names written from right to left turn nothing around but themselves: a
    number after one, or the next name of a list, would else change sides with it.
    """
    return words if words.isascii() else _TURNED.sub(rf"{MARK}\g<0>{MARK}", words)


def shown(words: str) -> str:
    """Words with a mark in place of each control character and of what turns their order around."""
    if words.isprintable():
        return words
    return _UNSHOWN.sub(UNSHOWN, words.replace("\r\n", "\n"))


def is_blank(words: str) -> bool:
    """Whether words hold no sign that can be seen."""
    return not any(sign.isprintable() and not sign.isspace() for sign in words)


def shown_line(words: str) -> str:
    """The same on one line, for a name."""
    if words.isprintable():
        return words
    return shown(words).replace("\n", " ").replace("\t", " ")


def escaped(words: str) -> str:
    """The same with each of these characters as its number, as in "\\u202e"."""
    if words.isprintable():
        return words
    return _UNSHOWN.sub(lambda found: f"\\u{ord(found[0]):04x}", words)


def turned_stretches(words: str) -> list[tuple[bool, str]]:
    """Words as stretches, each with whether it is written from right to left."""
    found, end = [], 0
    for one in _TURNED.finditer(words):
        found += [(False, words[end : one.start()]), (True, one[0])]
        end = one.end()
    found.append((False, words[end:]))
    return [(turned, stretch) for turned, stretch in found if stretch]


def fps_text(rate_fps: float | None) -> str:
    """Frame rate: one decimal under 1000, whole above; an en dash for none."""
    if rate_fps is None:
        return MISSING
    return f"{rate_fps:.1f}" if rate_fps < 999.95 else f"{rate_fps:.0f}"


def amount(value: float, unit: str, decimals: int | None = None) -> str:
    """A figure with its unit after a thin space: "285 W"; as many digits as it needs."""
    figure = f"{value:g}" if decimals is None else f"{value:.{decimals}f}"
    return f"{figure}{THIN}{unit}"


def percent_text(share: float | None, *, signed: bool = False, decimals: int = 0) -> str:
    """A share as per cent: 0.214 → "21 %", signed "+21 %" or "−21 %"."""
    if share is None:
        return MISSING
    body = f"{abs(share) * 100:.{decimals}f}"
    if float(body) == 0:
        sign = "±" if signed else ""
    elif share < 0:
        sign = MINUS
    else:
        sign = "+" if signed else ""
    return f"{sign}{body}{THIN}%"


def adding_up(parts: Sequence[float], whole: float, step: float) -> list[float]:
    """Parts rounded to a step so that they add up to the whole rounded to it: those rounded
    farthest down are rounded up first (largest remainders).
    """
    floors = [math.floor(part / step + 1e-9) for part in parts]
    short = round(whole / step) - sum(floors)
    order = sorted(range(len(parts)), key=lambda i: parts[i] / step - floors[i], reverse=short > 0)
    for place in range(abs(short)):
        floors[order[place % len(order)]] += 1 if short > 0 else -1
    return [floor * step for floor in floors]


def times_text(ratio: float | None) -> str:
    """A ratio: 2.567 → "×2.57"; one decimal from ten up."""
    if ratio is None:
        return MISSING
    return f"×{ratio:.2f}" if ratio < 9.995 else f"×{ratio:.1f}"


def loss_text(loss: float | None) -> str:
    """A loss written as the change it is: 0.21 → "−21 %"; a negative loss is a gain."""
    return MISSING if loss is None else percent_text(-loss, signed=True)


def count_text(count: int, one: str, many: str | None = None) -> str:
    """A count with its noun: "1 run", "3 runs", thousands parted by a thin space."""
    noun = one if count == 1 else (many or f"{one}s")
    return f"{count:,}".replace(",", THIN) + f" {noun}"


def duration_text(seconds: float) -> str:
    """A length of time: "8.2 s", "3 min 05 s", "2 h 10 min"."""
    if seconds < 99.95:
        return f"{seconds:.1f}{THIN}s"
    minutes, rest = divmod(round(seconds), 60)
    if minutes < 100:
        return f"{minutes}{THIN}min {rest:02d}{THIN}s"
    return f"{minutes // 60}{THIN}h {minutes % 60:02d}{THIN}min"


def clock_text(seconds: float) -> str:
    """A length of time as clocks show it: “2:05”, “1:02:05”; parts of a second are dropped."""
    minutes, rest = divmod(int(seconds), 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02d}:{rest:02d}" if hours else f"{minutes}:{rest:02d}"


def capital(words: str) -> str:
    """Words as the start of a sentence; names further on keep their letters, and so does a first
    one with a capital inside: “eGPU”.
    """
    first = words.partition(" ")[0]
    return words if first[1:] != first[1:].lower() else words[:1].upper() + words[1:]


def list_text(names: Sequence[str]) -> str:
    """Names in a sentence: "a", "a and b", "a, b and c"."""
    if len(names) < 2:
        return "".join(names)
    return f"{', '.join(names[:-1])} and {names[-1]}"

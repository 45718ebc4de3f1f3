"""Readings of meters, and sums of money, as people write them down.

"66-72", "~85", "card 97 %, 68 °C, 190 W"; "$389", "389 USD".
"""

import re
from collections.abc import Mapping

from blunt_ruler.core.numbers import number_in
from blunt_ruler.core.rigs.notation import BadSpec

# Signs of currencies (ISO 4217); a dollar that does not say whose is that of the United States.
SIGNS = {"€": "EUR", "$": "USD", "£": "GBP", "US$": "USD", "¥": "JPY"}
MONEY = re.compile(
    r"(€|US\$|\$|£|¥|[A-Za-z]{3})?\s*(-?\d[\d., \u202f]*?)\s*(€|\$|£|¥|[A-Za-z]{3})?"
)
_CORE, _CPU, _WALL, _MEMORY = (
    re.compile(words) for words in (r"\bcore\b", r"\bcpu\b", r"\bwall\b|socket", r"mem")
)
# (meter, its unit, how a reading ends, words that it needs where several share the unit).
METER_UNITS: tuple[tuple[str, str, re.Pattern[str], re.Pattern[str] | None], ...] = (
    ("core_busy_pct", "%", re.compile(r"%$"), _CORE),
    ("card_busy_pct", "%", re.compile(r"%$"), None),
    ("card_c", "°C", re.compile(r"°\s?C?$|(?<=\d)\s*C$"), None),
    ("cpu_w", "W", re.compile(r"W$", re.IGNORECASE), _CPU),
    ("wall_w", "W", re.compile(r"W$", re.IGNORECASE), _WALL),
    ("card_w", "W", re.compile(r"W$", re.IGNORECASE), None),
    ("memory_mhz", "MHz", re.compile(r"[MG]Hz$", re.IGNORECASE), _MEMORY),
    ("card_mhz", "MHz", re.compile(r"[MG]Hz$", re.IGNORECASE), None),
    ("memory_gb", "GB", re.compile(r"[GM]i?B$", re.IGNORECASE), None),
    ("noise_dba", "dB(A)", re.compile(r"dB", re.IGNORECASE), None),
)


def money_in(text: str) -> tuple[str, str]:
    """(the amount as typed, its currency, blank where none is named)."""
    found = MONEY.fullmatch(text.strip())
    if found is None:
        return text, ""
    said = (found[1] or found[3] or "").strip()
    return found[2], SIGNS.get(said, said.upper())


def meter_in(unit: str, text: str) -> float:
    """A reading: a number, about one, or the middle of two it moved between. ValueError for any
    other text.
    """
    plain = re.sub(r"^(?:~|≈|about|around|ca\.?)\s*", "", text.strip(), flags=re.IGNORECASE)
    span = re.fullmatch(r"([\d.,]+)\s*(?:-|–|to)\s*([\d.,]+)(.*)", plain)
    if span is None:
        return number_in(unit, plain)
    low, high = (number_in(unit, f"{end}{span[3]}") for end in (span[1], span[2]))
    return (low + high) / 2.0


def meters_in(text: str) -> Mapping[str, float]:
    """Several readings at once, each known by its unit and its words; none for a single one.

    Raises BadSpec for a reading that is not known.
    """
    parts = [part for part in re.split(r"[,;]\s+|;", text.strip()) if part.strip()]
    return dict(_reading(part.strip()) for part in parts) if len(parts) > 1 else {}


def _reading(part: str) -> tuple[str, float]:
    said = re.fullmatch(r"([a-zA-Z ]*?):?\s*([~≈]?\s*\d.*)", part)
    words, figure = (said[1].lower(), said[2].strip()) if said is not None else ("", "")
    for name, unit, ends, called in METER_UNITS:
        if ends.search(figure) and (called is None or called.search(words)):
            try:
                return name, meter_in(unit, figure)
            except ValueError:
                break
    what = f"“{part}” is not a reading that is known"
    raise BadSpec("meters", what, "Write “card 97 %, 68 °C, 190 W”")

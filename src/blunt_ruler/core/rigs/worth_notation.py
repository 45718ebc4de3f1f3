"""Noise readings and exchange rates as one types them, and read back.

"card fan 34 at 0.5 m; supply 28 at 0.5 m" and "USD 0.92; CHF 1.05".
"""

import re
from collections.abc import Sequence

from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.pricing import ExchangeRate, NoiseReading
from blunt_ruler.core.rigs.notation import BadSpec

NUMBER = r"(\d+(?:[.,]\d+)?)"
NOISE = re.compile(
    rf"(?P<source>.*?)[\s:]*{NUMBER}\s*(?:db\(a\)|dba|db)?\s*(?:at|@)\s*{NUMBER}\s*m$",
    re.IGNORECASE,
)
RATE = re.compile(rf"([a-z]{{3}})\s*[=:]?\s*{NUMBER}$", re.IGNORECASE)


def parse_noise(words: str) -> tuple[NoiseReading, ...]:
    """Readings parted by semicolons, each with its distance."""
    found = []
    for part in _parts(words):
        match = NOISE.match(part)
        if match is None:
            raise BadSpec(
                "noise by source", f"“{part}” is no reading", "Write “card fan 34 at 0.5 m”"
            )
        dba, distance_m = number(match[2]), number(match[3])
        if not (0 <= dba <= 150 and 0 < distance_m <= 100):
            raise BadSpec(
                "noise by source",
                f"“{part}” cannot be",
                "Give 0 to 150 dB(A) at above 0 and at most 100 m",
            )
        source = match["source"].strip() or "all of it"
        found.append(NoiseReading(source=source, dba=dba, distance_m=distance_m))
    return tuple(found)


def noise_text(readings: Sequence[NoiseReading]) -> str:
    """Readings as `parse_noise` reads them."""
    return "; ".join(f"{one.source} {one.dba:g} at {one.distance_m:g} m" for one in readings)


def parse_rates(words: str) -> tuple[ExchangeRate, ...]:
    """Rates parted by semicolons: what one unit of the other currency is worth here."""
    found = []
    for part in _parts(words):
        match = RATE.match(part)
        if match is None or not 0 < number(match[2]) <= 1e6:
            raise BadSpec("exchange rates", f"“{part}” is no rate", "Write “USD 0.92”")
        found.append(ExchangeRate(currency=match[1].upper(), rate=number(match[2])))
    return tuple(found)


def rates_text(rates: Sequence[ExchangeRate]) -> str:
    """Rates as `parse_rates` reads them."""
    return "; ".join(f"{one.currency} {one.rate:g}" for one in rates)


def _parts(words: str) -> list[str]:
    return [part.strip() for part in words.split(";") if part.strip()]

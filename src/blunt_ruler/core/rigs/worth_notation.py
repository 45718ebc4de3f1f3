"""Noise readings and exchange rates as one types them, and read back.

"card fan 34 at 0.5 m; supply 28 at 0.5 m" and "USD 0.92; CHF 1.05".
"""

import re
from collections.abc import Sequence
from typing import get_args

from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.pricing import BundleKind, ExchangeRate, NoiseReading, PriceThen
from blunt_ruler.core.records.typed_figures import TypedFigures
from blunt_ruler.core.rigs.notation import BadSpec
from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.core.values import LONGEST_NAME

NUMBER = r"(\d+(?:[.,]\d+)?)"
NOISE = re.compile(
    rf"(?P<source>.*?)[\s:]*{NUMBER}\s*(?:db\(a\)|dba|db)?(?:\s*(?:at|@)\s*(?:{NUMBER}\s*m|(?P<seat>the\s+seat|my\s+seat|seat)))?$",
    re.IGNORECASE,
)
EARLIER = re.compile(rf"(-?{NUMBER[1:-1]})\s*(?:on|@)\s*(\d{{4}}-\d{{2}}-\d{{2}})$", re.IGNORECASE)
RATE = re.compile(rf"([a-z]{{3}})\s*[=:]?\s*{NUMBER}$", re.IGNORECASE)


def parse_noise(words: str) -> tuple[NoiseReading, ...]:
    """Readings parted by semicolons, each with its distance or “at the seat”; one without is marked
    so, and summed with no other.
    """
    found = []
    for part in _parts(words):
        match = NOISE.match(part)
        if match is None:
            raise BadSpec(
                "noise by source", f"“{part}” is not a reading", "Write “card fan 34 at 0.5 m”"
            )
        dba, distance_m = number(match[2]), number(match[3]) if match[3] else None
        if not (0 <= dba <= 150 and (distance_m is None or 0 < distance_m <= 100)):
            raise BadSpec(
                "noise by source",
                f"“{part}” cannot be",
                "Give 0 to 150 dB(A) at above 0 and at most 100 m",
            )
        source = match["source"].strip() or "all of it"
        if len(source) > LONGEST_NAME:
            raise BadSpec("noise by source", "a source has too long a name", "Make it shorter")
        seat = match["seat"] is not None
        found.append(NoiseReading(source=source, dba=dba, distance_m=distance_m, at_seat=seat))
    return tuple(found)


def noise_text(readings: Sequence[NoiseReading]) -> str:
    """Readings as `parse_noise` reads them."""
    return "; ".join(
        f"{one.source} {one.dba:g}"
        + (
            " at the seat"
            if one.at_seat
            else f" at {one.distance_m:g} m"
            if one.distance_m
            else " dB(A)"
        )
        for one in readings
    )


def parse_rates(words: str) -> tuple[ExchangeRate, ...]:
    """Rates parted by semicolons: what one unit of the other currency is worth here."""
    found = []
    for part in _parts(words):
        match = RATE.match(part)
        if match is None or not 0 < number(match[2]) <= 1e6:
            raise BadSpec("exchange rates", f"“{part}” is not a rate", "Write “USD 0.92”")
        found.append(ExchangeRate(currency=match[1].upper(), rate=number(match[2])))
    return tuple(found)


def rates_text(rates: Sequence[ExchangeRate]) -> str:
    """Rates as `parse_rates` reads them."""
    return "; ".join(f"{one.currency} {one.rate:g}" for one in rates)


def parse_earlier(words: str) -> tuple[PriceThen, ...]:
    """Earlier prices parted by semicolons, each with its day: "399 on 2026-05-01"."""
    found = []
    for part in _parts(words):
        match = EARLIER.match(part)
        if match is None:
            raise BadSpec(
                "earlier prices", f"“{part}” is not an earlier price", "Write “399 on 2026-05-01”"
            )
        found.append(PriceThen(amount=number(match[1]), date=match[2]))
    return tuple(sorted(found, key=lambda one: one.date))


def earlier_text(prices: Sequence[PriceThen]) -> str:
    """Earlier prices as `parse_earlier` reads them."""
    return "; ".join(f"{one.amount:g} on {one.date}" for one in prices)


def parse_covers(words: str) -> tuple[str, ...]:
    """The kinds of parts that one price is for: "card; dock"."""
    kinds = get_args(BundleKind)
    found = [part.lower() for part in re.split(r"[;,+]| and ", words) if part.strip()]
    for kind in (one.strip() for one in found):
        if kind not in kinds:
            raise BadSpec("one price for", f"“{kind}” is not a part", f"Give {', '.join(kinds)}")
    return tuple(dict.fromkeys(one.strip() for one in found))


def parse_frames(words: str) -> TypedFigures | None:
    """Frames as a cell of the Board takes them: "85", "85-100", "~90/60", "-10% of the tower"."""
    if not words:
        return None
    entry = parse_entry(words)
    if len(entry.passes) != 1:
        wrong = f"“{words}” is not one figure"
        raise BadSpec("frames", wrong, "Write “85”, “85-100” or “-10% of” and a rig")
    return entry.passes[0]


def _parts(words: str) -> list[str]:
    return [part.strip() for part in words.split(";") if part.strip()]

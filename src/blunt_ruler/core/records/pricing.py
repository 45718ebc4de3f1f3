"""What is written down about money, meters and audiences: prices, readings, and where lines lie.

Every quantity may stay unknown; nothing is filled in for it. The forms derive from the fields.
"""

from typing import Annotated, Literal, Self, TypeAlias

from pydantic import Field, StringConstraints, model_validator

from blunt_ruler.core.values import Name, Value, Words, quantity, words

Currency: TypeAlias = Annotated[
    str, StringConstraints(strip_whitespace=True, to_upper=True, pattern=r"^[A-Za-z]{3}$")
]


class PriceThen(Value):
    """What the same thing cost on an earlier day."""

    amount: float = Field(ge=-1e7, le=1e7)
    date: Name


BundleKind: TypeAlias = Literal["host", "card", "dock", "link"]


class Price(Value):
    """What one thing costs: a described part, or something that one rig needs beside its parts.

    A part's price has the part's id and serves every rig that the part is in. A line beside the
    parts may be below zero, as a discount is, and may be the one price of several parts.
    """

    id: str
    rig_id: str | None = None
    name: Words = words("what it is")
    amount: float | None = Field(None, ge=-1e7, le=1e7, description="price of one")
    currency: Currency = Field("EUR", description="currency")
    count: int = Field(1, ge=1, le=1000, description="how many")
    owned: bool = Field(False, description="already owned")
    date: Words = words("price date")
    earlier: tuple[PriceThen, ...] = Field(
        (), description="earlier prices", json_schema_extra={"example": "399 on 2026-05-01"}
    )
    covers: tuple[BundleKind, ...] = Field((), description="one price for")
    notes: Words = words("notes")

    @model_validator(mode="after")
    def _only_lines_are_below_zero(self) -> Self:
        if self.rig_id is None and (self.amount or 0.0) < 0:
            raise ValueError("a part costs nothing or more; a discount is a line beside the parts")
        return self

    def on(self, day: str) -> float | None:
        """The newest price of a day or before it, as ISO text; the latest where none is given."""
        if not day:
            return self.amount
        dated = [(one.date, one.amount) for one in self.earlier]
        if self.amount is not None and self.date:
            dated.append((self.date, self.amount))
        known = [pair for pair in dated if pair[0] <= day]
        return max(known)[1] if known else None


class NoiseReading(Value):
    """A meter's reading of one source: level in dB(A) at a distance in metres, or at the seat,
    where one hears it, whatever distance that is.
    """

    source: Name
    dba: float = Field(ge=0, le=150)
    distance_m: float | None = Field(None, gt=0, le=100)  # None: not noted
    at_seat: bool = False


class Readings(Value):
    """What meters read on a rig beside its runs; the id is the rig's."""

    id: str
    rig_id: str
    idle_wall_w: float | None = quantity("W", "idle, at the wall", above=0, most=5000)
    ambient_c: float | None = quantity("°C", "air around it", least=-20, most=60)
    noise_distance_m: float | None = quantity("m", "noise meter's distance", above=0, most=100)
    noise_at_seat: bool | None = Field(None, description="noise meter at the seat")
    background_dba: float | None = quantity("dB(A)", "noise of the room alone", most=120)
    noise: tuple[NoiseReading, ...] = Field(
        (),
        description="noise by source",
        json_schema_extra={"example": "card fan 34 at 0.5 m; all of it 41 at the seat"},
    )
    date: Words = words("read on")
    notes: Words = words("notes")


class ExchangeRate(Value):
    """What one unit of another currency is worth in the review's."""

    currency: Currency
    rate: float = Field(gt=0, le=1e6)
    date: Words = ""


class WorthSettings(Value):
    """How a review counts money, energy and noise."""

    currency: Currency = Field("EUR", description="currency")
    rates: tuple[ExchangeRate, ...] = Field((), description="exchange rates")
    count_owned: bool = Field(False, description="count what is already owned")
    tariff_per_kwh: float | None = quantity("per kWh", "energy tariff", most=100)
    play_h_per_week: float | None = quantity("h", "play in a week", most=168)
    idle_h_per_week: float | None = quantity("h", "idle in a week", most=168)
    years: float = Field(
        4.0, gt=0, le=30, description="years of use", json_schema_extra={"unit": "years"}
    )
    interest: float = Field(
        0.0, ge=0, le=1, description="interest in a year", json_schema_extra={"unit": "of 1"}
    )
    listener_m: float = Field(
        1.0, gt=0, le=100, description="ear's distance", json_schema_extra={"unit": "m"}
    )
    next_host: float | None = quantity("", "a next host costs", most=1e7)
    then: Words = words("set beside prices of the day")
    against: str | None = None  # a rig of the logbook that is not in the review


class Audience(Value):
    """For whom a verdict is given, and where their lines lie; an empty line is not drawn."""

    name: Name = "Anyone"
    gain_at_least: float | None = quantity("of 1", "gain at least", most=1000)
    low_at_least_fps: float | None = quantity("fps", "1 % low at least", most=10_000)
    loss_at_most: float | None = quantity("of 1", "loss at most", most=1)
    budget: float | None = quantity("", "costs at most", most=1e7)
    carry_at_most_kg: float | None = quantity("kg", "weight at most", most=500)
    noise_at_most_dba: float | None = quantity("dB(A)", "noise at most", most=150)
    docking_at_most_min: float | None = quantity("min", "docking at most", most=600)

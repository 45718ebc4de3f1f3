"""What a review plans: times, swaps, hours, and what is left out. Stored with the review.

Times are the reviewer's guesses until runs exist; then `matrix.learned` replaces what was measured.
"""

from typing import Any, Literal

from pydantic import Field

from blunt_ruler.core.values import Value, Words


def minutes(default: float, says: str) -> Any:
    """Minutes of some change, with what it is; forms derive from it."""
    return Field(default, ge=0, le=600, description=says, json_schema_extra={"unit": "min"})


def seconds(default: float, says: str) -> Any:
    """Seconds of some part of a pass, with what it is; forms derive from it."""
    return Field(default, ge=0, le=7200, description=says, json_schema_extra={"unit": "s"})


class TitleTimes(Value):
    """How long a title takes on the bench."""

    title_id: str
    load_s: float = seconds(75.0, "loading")
    pass_s: float = seconds(60.0, "one pass")
    settings_s: float = seconds(45.0, "changing settings")
    warm_up: bool = Field(True, description="first pass after loading not counted")
    typed_figures: bool = Field(False, description="figures typed, no log")


class SwapMinutes(Value):
    """What it takes to change one thing between two rigs."""

    host: float = minutes(15.0, "another host")
    card: float = minutes(12.0, "another card")
    dock: float = minutes(8.0, "another dock")
    link: float = minutes(6.0, "another link")
    driver: float = minutes(10.0, "another driver")
    state: float = minutes(3.0, "another state")


class Exclusion(Value):
    """A cell that is not measured, and why."""

    rig_id: str
    case_id: str
    why: Words = ""


class Extra(Value):
    """Passes of a cell beyond those that are done: to make a pair clean or a difference sure."""

    rig_id: str
    case_id: str
    passes: int = Field(1, ge=0, le=50)


class Hours(Value):
    """When there is time for the bench."""

    first_day: Words = Field("2026-10-05", description="first day")
    start: str = Field("09:00", pattern=r"^([01]\d|2[0-3]):[0-5]\d$", description="start of a day")
    per_day_h: float = Field(
        7.0, gt=0, le=24, description="hours a day", json_schema_extra={"unit": "h"}
    )
    weekdays: Words = Field("Mon Tue Wed Thu Fri", description="weekdays")
    break_every_h: float = Field(
        2.0, gt=0, le=24, description="a break every", json_schema_extra={"unit": "h"}
    )
    break_min: float = minutes(15.0, "length of a break")
    deadline: Words = Field("", description="embargo or return date")


class Plan(Value):
    """How a review is to be measured. Its id is the review's."""

    id: str
    repeats: int = Field(3, ge=1, le=50)
    title_times: tuple[TitleTimes, ...] = ()
    swaps: SwapMinutes = SwapMinutes()
    exclusions: tuple[Exclusion, ...] = ()
    first_rigs: tuple[str, ...] = ()  # rigs locked to the start of the order, in this order
    priorities: tuple[tuple[str, float], ...] = ()  # (case id, weight); 1 where none is given
    hours: Hours = Hours()
    cool_down_s: float = Field(20.0, ge=0, le=3600)
    extras: tuple[Extra, ...] = ()
    spread_repeats: bool = True  # repeats in rounds, so that a drift shows; else all at once
    control: bool = True  # re-run a case of the base rig at the end, to see drift
    question: Literal["link", "card", "gain"] = "link"
    difference: float = Field(0.05, gt=0, le=1)
    spread: float = Field(0.02, gt=0, le=1)

    def times_of(self, title_id: str) -> TitleTimes:
        """The times of a title, the defaults where none are given."""
        return next(
            (one for one in self.title_times if one.title_id == title_id),
            TitleTimes(title_id=title_id),
        )

    def weight_of(self, case_id: str) -> float:
        """How much a case matters."""
        return dict(self.priorities).get(case_id, 1.0)

    def extra_of(self, rig_id: str, case_id: str) -> int:
        """Passes asked for beyond the repeats of the plan."""
        return sum(
            one.passes for one in self.extras if (one.rig_id, one.case_id) == (rig_id, case_id)
        )

    def with_extra(self, rig_id: str, case_id: str, passes: int) -> "Plan":
        """The plan with so many more passes of a cell."""
        others = tuple(one for one in self.extras if (one.rig_id, one.case_id) != (rig_id, case_id))
        passes += self.extra_of(rig_id, case_id)
        made = Extra(rig_id=rig_id, case_id=case_id, passes=passes)
        return self.model_copy(update={"extras": (*others, made)})

    def with_exclusion(self, rig_id: str, case_id: str, why: str | None) -> "Plan":
        """The plan with a cell left out, or taken in again for None."""
        others = tuple(
            one for one in self.exclusions if not (one.rig_id == rig_id and one.case_id == case_id)
        )
        added = () if why is None else (Exclusion(rig_id=rig_id, case_id=case_id, why=why),)
        return self.model_copy(update={"exclusions": (*others, *added)})

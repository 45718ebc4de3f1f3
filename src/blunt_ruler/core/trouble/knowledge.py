"""What is known of troubles: symptoms, causes and the tests that tell them apart.

The knowledge itself is a readable file, `resources/trouble.toml`; these are its types, which refuse
what does not fit together. All of it is common practice, no source.
"""

import re
from collections.abc import Collection, Mapping
from typing import Self

from pydantic import Field, model_validator

from blunt_ruler.core.values import Value

CHANCES = {"always": 0.95, "often": 0.7, "sometimes": 0.35, "seldom": 0.1, "hardly": 0.02}
UNLISTED, ANY_TIME = 0.01, 0.1  # of a symptom a cause does not name, and of a time


class Cause(Value):
    """One cause: its weight before anything is known, and how often it shows how."""

    key: str
    words: str
    cure: str
    prior: float = Field(gt=0, le=100)
    symptoms: Mapping[str, str]
    times: Mapping[str, str] = Field(default_factory=dict)
    factors: Mapping[str, float] = Field(default_factory=dict)

    def shows(self, symptom: str) -> float:
        """P(symptom | cause)."""
        return CHANCES.get(self.symptoms.get(symptom, ""), UNLISTED)

    def at(self, time: str) -> float:
        """P(time | cause)."""
        return CHANCES.get(self.times.get(time, ""), ANY_TIME)


class Trial(Value):
    """One test: what to do, what is asked after it, and how often each cause answers yes."""

    key: str
    do: str
    asks: str
    minutes: float = Field(gt=0, le=600)
    risk: int = Field(0, ge=0, le=2)
    cautions: tuple[str, ...] = ()
    otherwise: str
    yes: Mapping[str, str]

    def says_yes(self, cause: str) -> float:
        """P(yes | cause)."""
        return CHANCES[self.yes.get(cause, self.otherwise)]


class Knowledge(Value):
    """All of it, checked for keys that do not exist."""

    symptoms: Mapping[str, str]
    times: Mapping[str, str]
    heard: Mapping[str, tuple[str, ...]] = Field(default_factory=dict)
    cautions: Mapping[str, str]
    causes: tuple[Cause, ...]
    tests: tuple[Trial, ...]

    @model_validator(mode="after")
    def _fits_together(self) -> Self:
        causes = {one.key for one in self.causes}
        _only("symptom or time", self.heard, {*self.symptoms, *self.times}, "heard")
        for cause in self.causes:
            _only("symptom", cause.symptoms, self.symptoms, cause.key)
            _only("time", cause.times, self.times, cause.key)
            for word in (*cause.symptoms.values(), *cause.times.values()):
                _only("chance", (word,), CHANCES, cause.key)
        for test in self.tests:
            _only("cause", test.yes, causes, test.key)
            _only("caution", test.cautions, self.cautions, test.key)
            _only("chance", (test.otherwise, *test.yes.values()), CHANCES, test.key)
        return self

    def heard_in(self, words: str, keys: Collection[str]) -> str:
        """Which of some symptoms or times free words are of: the longest phrase decides."""
        said = " ".join(words.lower().replace("\u2019", "'").split())
        found = [
            (len(phrase), key)
            for key, phrases in self.heard.items()
            for phrase in phrases
            if key in keys and re.search(rf"\b{re.escape(phrase)}", said)
        ]
        return max(found)[1] if found else ""

    def cause(self, key: str) -> Cause | None:
        """A cause by its key."""
        return next((one for one in self.causes if one.key == key), None)

    def test(self, key: str) -> Trial | None:
        """A test by its key."""
        return next((one for one in self.tests if one.key == key), None)


def _only(what: str, used: object, known: object, where: str) -> None:
    strange = [one for one in used if one not in known]  # type: ignore[attr-defined, operator]
    if strange:
        raise ValueError(f"{where}: there is no {what} “{strange[0]}”")

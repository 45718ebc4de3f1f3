"""What a reviewer decides about a write-up: order, what is shown, disclosures, own words."""

from enum import StrEnum
from typing import Annotated, TypeAlias

from pydantic import AfterValidator, Field, StringConstraints

from blunt_ruler.core.records.narration_style import Style
from blunt_ruler.core.text import shown
from blunt_ruler.core.values import Name, Value, Words, words

LONGEST_SCRIPT = 200_000  # letters: an hour and a half of talk is half of it
ScriptText: TypeAlias = Annotated[
    str, StringConstraints(max_length=LONGEST_SCRIPT), AfterValidator(shown)
]


class SectionKey(StrEnum):
    """The sections of a write-up, in the order they have by default."""

    VERDICT = "verdict"
    FOR_AND_AGAINST = "for_and_against"
    TESTED = "tested"
    METHOD = "method"
    RESULTS = "results"
    LIMITS = "limits"
    WORTH = "worth"
    WENT_WRONG = "went_wrong"
    NOT_TESTED = "not_tested"
    CAUTIONS = "cautions"
    DISCLOSURES = "disclosures"
    CORRECTIONS = "corrections"


SECTION_TITLES = {
    SectionKey.VERDICT: "Verdict",
    SectionKey.FOR_AND_AGAINST: "For and against",
    SectionKey.TESTED: "What was tested",
    SectionKey.METHOD: "How it was measured",
    SectionKey.RESULTS: "Results",
    SectionKey.LIMITS: "What took the frames",
    SectionKey.WORTH: "What it is worth",
    SectionKey.WENT_WRONG: "What went wrong",
    SectionKey.NOT_TESTED: "What was not tested",
    SectionKey.CAUTIONS: "Cautions",
    SectionKey.DISCLOSURES: "Disclosures",
    SectionKey.CORRECTIONS: "Corrections",
}


class Terms(StrEnum):
    """How a tested thing came to the reviewer."""

    LOAN = "on loan"
    GIFT = "a gift"
    SPONSOR = "sponsored"
    BOUGHT = "bought"
    OWN = "already owned"
    EARLY = "an early sample"


class Disclosure(Value):
    """Something a reader must know of where a tested thing came from, or who paid."""

    what: Name = Field(description="what")
    terms: Terms = Field(Terms.LOAN, description="how it came")
    by: Words = words("from whom")
    notes: Words = words("what was asked in return")


class OwnWords(Value):
    """A sentence in the reviewer's words, and the computed one it stands for.

    Where the computed sentence has changed since, the write-up says so.
    """

    key: str
    says: Words
    instead_of: Words


class WriteUp(Value):
    """The reviewer's decisions about one review's write-up."""

    order: tuple[SectionKey, ...] = tuple(SectionKey)
    hidden: tuple[SectionKey, ...] = ()
    byline: Words = words("who tested it")
    disclosures: tuple[Disclosure, ...] = Field((), description="disclosures")
    pros: tuple[Words, ...] = ()  # in the reviewer's words, one point each
    cons: tuple[Words, ...] = ()
    own_words: tuple[OwnWords, ...] = ()
    script: ScriptText = ""
    inserted: tuple[Words, ...] = ()  # sentences of the script that came from the logbook
    charts: tuple[str, ...] = ()  # keys of those that are shown, in order; empty for the usual
    style: Style = Style()

    def sections(self) -> tuple[SectionKey, ...]:
        """Shown sections in order."""
        return tuple(key for key in self.whole_order() if key not in self.hidden)

    def whole_order(self) -> tuple[SectionKey, ...]:
        """All sections in order; one that an older order lacks stands where it does by default."""
        order = list(self.order)
        for place, key in enumerate(SectionKey):
            if key not in order:
                before = [one for one in list(SectionKey)[:place] if one in order]
                order.insert(order.index(before[-1]) + 1 if before else 0, key)
        return tuple(order)

    def moved(self, key: SectionKey, by: int) -> "WriteUp":
        """The same with one section moved up (negative) or down."""
        order = list(self.whole_order())
        place = order.index(key)
        order.insert(min(max(place + by, 0), len(order) - 1), order.pop(place))
        return self.model_copy(update={"order": tuple(order)})

    def shown(self, key: SectionKey, show: bool) -> "WriteUp":
        """The same with one section shown or hidden."""
        others = tuple(one for one in self.hidden if one is not key)
        return self.model_copy(update={"hidden": others if show else (*others, key)})

    def said(self, key: str, says: str, instead_of: str) -> "WriteUp":
        """The same with a sentence in own words; no words give the computed one back."""
        others = tuple(one for one in self.own_words if one.key != key)
        if says.strip() in ("", instead_of):
            return self.model_copy(update={"own_words": others})
        own = OwnWords(key=key, says=says, instead_of=instead_of)
        return self.model_copy(update={"own_words": (*others, own)})

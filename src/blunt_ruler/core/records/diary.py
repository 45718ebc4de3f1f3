"""What was seen, tried and cured of a rig's troubles, one dated entry each."""

from pydantic import Field

from blunt_ruler.core.values import Value, Words, quantity, words


class DiaryEntry(Value):
    """One entry: a symptom that was seen, a test and its answer, or what it was and what cured it.

    The keys are those of the knowledge of troubles; the words beside them are what is printed, so
    that an entry reads the same whatever the knowledge becomes. Entries of a rig from one cure to
    the next are of one trouble.
    """

    id: str
    rig_id: str
    at: Words = words("when")
    symptom: Words = words("what was seen, by its key")
    time: Words = words("when it shows, by its key")
    test: Words = words("what was tried, by its key")
    yes: bool | None = Field(None, description="the answer to the test")
    cause: Words = words("what it was, by its key")
    says: Words = words("in words")
    minutes: float | None = quantity("min", "how long it took", most=100_000)
    notes: Words = words("notes")

    @property
    def cures(self) -> bool:
        """Whether it ends a trouble."""
        return bool(self.cause)

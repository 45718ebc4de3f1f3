"""What happens around the bench: things that changed during the test, steps of one's own."""

from pydantic import Field

from blunt_ruler.core.values import Value, Words, words


class Change(Value):
    """Something that changed while a test ran: a part replaced, a driver updated.

    It parts the runs of its rigs into those before and those after; no rigs means all of them.
    A day without a time counts from its beginning.
    """

    id: str
    at: Words = words("from which day on")
    what: Words = words("what changed")
    rig_ids: tuple[str, ...] = ()


class OwnStep(Value):
    """A pre-flight step of the reviewer's own, asked of every rig."""

    id: str
    do: Words = words("what to do")
    ask: bool = Field(False, description="asks for a reading")

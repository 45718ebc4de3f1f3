"""What is asked about a table while it is read, and what of it is left out."""

from collections.abc import Mapping, Sequence

from blunt_ruler.exchange.tables.sheet import Known, LeftOut, Question


class Asked:
    """Gathers questions, with the answers there are, and what is left out with the reason."""

    def __init__(self, known: Known, answers: Mapping[str, str]) -> None:
        self.known = known
        self.names = known.rigs | known.titles
        self._answers = {about.lower(): answer for about, answer in answers.items()}
        self.questions: dict[str, Question] = {}
        self._left: dict[str, str] = {}

    def ask(
        self,
        about: str,
        words: str,
        readings: Sequence[str] = (),
        *,
        sure: str = "",
        proposed: str = "",
        free: bool = False,
        cases: Sequence[str] = (),
        group: str = "",
    ) -> str:
        """The answer to a question, `sure` where it needs none, and what was proposed, or the first
        reading, until there is one.
        """
        given = (
            self._answers.get(about.lower()) or (self._answers.get(group) if group else "") or ""
        )
        match = next((one for one in readings if one.lower() == given.lower()), "")
        answer = match or (given if free else "") or sure
        if about not in self.questions:
            self.questions[about] = Question(
                about, words, tuple(readings), proposed, answer, free, tuple(cases)
            )
        return answer or proposed or (readings[0] if readings else "")

    def drop(self, *abouts: str) -> None:
        """Forget questions on which nothing rests."""
        for about in abouts:
            self.questions.pop(about, None)

    def is_open(self, about: str) -> bool:
        """Whether nobody has answered a question."""
        return about in self.questions and self.questions[about].is_open

    def leave(self, where: str, why: str) -> None:
        """Something that is not taken in."""
        self._left.setdefault(where, why)

    @property
    def left_out(self) -> tuple[LeftOut, ...]:
        """What is left out, in the order it was found."""
        return tuple(LeftOut(where, why) for where, why in self._left.items())

"""Errors a user can mend, told apart from our own mistakes.

Tree: `UserFixable` is the root of everything that is shown to a user as one sentence saying
where, what and what to do; any other exception is a bug and is shown as one.
"""

from blunt_ruler.core.text import shown


class UserFixable(Exception):
    """Something in the input that the user can put right.

    Args:
        where: file, row, field or option, as the user knows it.
        what: what is wrong there, without a full stop.
        fix: what to do about it, without a full stop.
    """

    def __init__(self, where: str, what: str, fix: str) -> None:
        super().__init__(where, what, fix)  # whole args survive pickling between processes
        self.where = where
        self.what = what
        self.fix = fix

    def __str__(self) -> str:
        return shown(f"{self.where}: {self.what}. {self.fix}.")


class BadFrames(UserFixable):
    """Frame times that cannot be measured: too few, not finite, or not above zero."""


class BadFigure(UserFixable):
    """A rate, time or share outside what it can mean."""


class UnknownName(UserFixable):
    """A rig, case or review that the data does not hold."""

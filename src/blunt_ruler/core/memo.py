"""What was worked out of things that never change, remembered by which things they were.

Records, and what is made of them, are replaced and never altered: what read the same objects
comes out the same, so that after an edit only what reads the edited record is worked out anew.
"""

from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Value = TypeVar("Value")


class Kept(Generic[Value]):
    """Results by the things they were made of; the oldest half goes when there are too many."""

    def __init__(self, most: int = 50_000) -> None:
        self._most = most
        # The things are held too: while they are, no other thing can have their identity.
        self._kept: dict[tuple[Hashable, ...], tuple[tuple[object, ...], Value]] = {}

    def of(self, things: tuple[object, ...], make: Callable[[], Value], *values: Hashable) -> Value:
        """What `make` makes of some things, told by identity, and some values, told by equality."""
        key = (*map(id, things), *values)
        known = self._kept.get(key)
        if known is None:
            if len(self._kept) >= self._most:
                self._kept = dict([*self._kept.items()][self._most // 2 :])
            known = self._kept[key] = things, make()
        return known[1]

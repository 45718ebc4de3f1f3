"""Work that is done once: when it is first asked for, or not again after an edit.

An analysis works by cells, titles and rigs. Each of its results has a place in its `Handover`, what
it is and of which cell or title, and names all that it reads. The next analysis takes it over
where it would read the same and makes it anew where it would not. A place holds one result, and
with the last analysis of a logbook goes all that was handed over.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from threading import Lock
from typing import Any, Generic, TypeAlias, TypeVar, overload

Key = TypeVar("Key")
Value = TypeVar("Value")
Cell: TypeAlias = tuple[str, str]  # rig and case
Place = tuple[Hashable, ...]
Reads = tuple[object, ...]


class Handover:
    """Results by their place; `before` are those of an earlier analysis."""

    def __init__(self, before: Handover | None = None) -> None:
        self._made: dict[Place, tuple[Reads, Any]] = dict(before._made) if before else {}
        self._cells: dict[Place, Mapping[Cell, Any]] = dict(before._cells) if before else {}

    def of(self, place: Place, reads: Reads, make: Callable[[], Value]) -> Value:
        """What stands at a place, made of `reads` and of nothing else.

        Records are replaced and never altered: nearly all of them are known by identity, which is
        where tuples begin to compare what they hold.
        """
        known = self._made.get(place)
        if known is None or known[0] != reads:
            known = self._made[place] = reads, make()
        value: Value = known[1]
        return value

    def of_cells(
        self, what: Place, reads: Mapping[Cell, Reads], make: Callable[[Cell], Value]
    ) -> dict[Cell, Value]:
        """What is made of each cell, in their order; those that read the same are taken over."""
        made: dict[Cell, tuple[Reads, Value]] = {**self._cells.get(what, {})}
        for cell, one in reads.items():
            if cell not in made or made[cell][0] != one:
                made[cell] = one, make(cell)
        self._cells[what] = made
        return {cell: made[cell][1] for cell in reads}


class Once(Generic[Value]):
    """What `make` makes, worked out when it is first asked for, by whichever thread asks."""

    def __init__(self, make: Callable[[], Value]) -> None:
        self._make: Callable[[], Value] | None = make
        self._lock = Lock()
        self._value: Value

    def __call__(self) -> Value:
        """The value; another thread that asks meanwhile waits for it."""
        with self._lock:
            if self._make is not None:
                self._value = self._make()
                self._make = None  # and all that it held
            return self._value


class LazyMapping(Mapping[Key, Value]):
    """What `make` makes of each key; the keys are known at once."""

    def __init__(self, keys: Iterable[Key], make: Callable[[Key], Value]) -> None:
        self._keys = dict.fromkeys(keys)
        self._make = make
        self._made: dict[Key, Value] = {}

    def __getitem__(self, key: Key) -> Value:
        """The value of a key; KeyError for one that is not there."""
        if key not in self._made:
            if key not in self._keys:
                raise KeyError(key)
            self._made[key] = self._make(key)
        return self._made[key]

    def __contains__(self, key: object) -> bool:
        """Whether a key is there, without working out its value."""
        return key in self._keys

    def __iter__(self) -> Iterator[Key]:
        """The keys, in their order."""
        return iter(self._keys)

    def __len__(self) -> int:
        """How many keys there are."""
        return len(self._keys)


class LazyTuple(Sequence[Value]):
    """What `make` makes, all of it when the first is asked for."""

    def __init__(self, make: Callable[[], tuple[Value, ...]]) -> None:
        self._all = Once(make)

    @overload
    def __getitem__(self, place: int) -> Value: ...
    @overload
    def __getitem__(self, place: slice) -> Sequence[Value]: ...
    def __getitem__(self, place: int | slice) -> Value | Sequence[Value]:
        """One value, or some."""
        return self._all()[place]

    def __eq__(self, other: object) -> bool:
        """Whether the values of two are the same, one by one."""
        return isinstance(other, Sequence) and tuple(self) == tuple(other)

    __hash__ = None  # type: ignore[assignment]  # as of any collection that is compared by value

    def __len__(self) -> int:
        """How many values there are."""
        return len(self._all())


class LazySequence(Sequence[Value]):
    """What `make` makes of each of some keys, in their order."""

    def __init__(self, keys: Sequence[Key], make: Callable[[Key], Value]) -> None:
        self._values = LazyMapping(range(len(keys)), lambda place: make(keys[place]))

    @overload
    def __getitem__(self, place: int) -> Value: ...
    @overload
    def __getitem__(self, place: slice) -> Sequence[Value]: ...
    def __getitem__(self, place: int | slice) -> Value | Sequence[Value]:
        """One value, or some."""
        places = range(len(self._values))[place]
        if isinstance(places, range):
            return tuple(self._values[one] for one in places)
        return self._values[places]

    def __eq__(self, other: object) -> bool:
        """Whether the values of two are the same, one by one."""
        return isinstance(other, Sequence) and tuple(self) == tuple(other)

    __hash__ = None  # type: ignore[assignment]  # as of any collection that is compared by value

    def __len__(self) -> int:
        """How many values there are."""
        return len(self._values)

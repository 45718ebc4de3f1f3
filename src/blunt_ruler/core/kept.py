"""Work that is done once: remembered by what it was made of, or done when first asked for.

Records, and what is made of them, are replaced and never altered: what read the same objects
comes out the same, so that after an edit only what reads the edited record is worked out anew.
"""

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from functools import wraps
from threading import Lock
from typing import Generic, TypeVar, overload

_FORGET: list[Callable[[], None]] = []  # how each memory of this module is emptied


def forgets(forget: Callable[[], None]) -> None:
    """Have a memory of its own kind emptied with the others."""
    _FORGET.append(forget)


def forget_all() -> None:
    """Let go of all that is remembered, as when a logbook is closed; it is worked out anew."""
    for forget in _FORGET:
        forget()


Key = TypeVar("Key")
Thing = TypeVar("Thing")
Value = TypeVar("Value")
MOST = 50_000


class Kept(Generic[Value]):
    """Results by the things they were made of; the oldest half goes when there are too many."""

    def __init__(self, most: int = MOST) -> None:
        self._most = most
        # The things are held too: while they are, no other thing can have their identity.
        self._kept: dict[tuple[Hashable, ...], tuple[tuple[object, ...], Value]] = {}
        _FORGET.append(lambda: self._kept.clear())

    def of(self, things: tuple[object, ...], make: Callable[[], Value], *values: Hashable) -> Value:
        """What `make` makes of some things, told by identity, and some values, told by equality."""
        key = (*map(id, things), *values)
        known = self._kept.get(key)
        if known is None:
            if len(self._kept) >= self._most:
                self._kept = dict([*self._kept.items()][self._most // 2 :])
            known = self._kept[key] = things, make()
        return known[1]


def remembered(
    most: int = MOST,
) -> Callable[[Callable[[Thing], Value]], Callable[[Thing], Value]]:
    """Give a function of one thing a memory: `Kept` for what is asked for most."""

    def remembering(make: Callable[[Thing], Value]) -> Callable[[Thing], Value]:
        kept: dict[int, tuple[Thing, Value]] = {}
        _FORGET.append(lambda: kept.clear())

        @wraps(make)
        def of(thing: Thing) -> Value:
            nonlocal kept
            known = kept.get(id(thing))
            if known is None:
                if len(kept) >= most:
                    kept = dict([*kept.items()][most // 2 :])
                known = kept[id(thing)] = thing, make(thing)
            return known[1]

        return of

    return remembering


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

"""Collections whose values are worked out when first asked for; then they are kept."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import TypeVar, overload

Key = TypeVar("Key")
Value = TypeVar("Value")


class LazyMapping(Mapping[Key, Value]):
    """What `make` makes of each key; the keys are known at once, and what is `made` already."""

    def __init__(
        self,
        keys: Iterable[Key],
        make: Callable[[Key], Value],
        made: Mapping[Key, Value] | None = None,
    ) -> None:
        self._keys = dict.fromkeys(keys)
        self._make = make
        self._made = dict(made or {})

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

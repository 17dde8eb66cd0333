"""What was computed and is kept while there is room: one owner, bounded by bytes, by content.

The library keeps the order and the bound; here is what it leaves open: what several threads ask
for at once is computed once, and an error is kept without the frames it came through.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import wraps
from threading import Event, RLock
from typing import Any, Final, Generic, ParamSpec, TypeVar, cast

from cachetools import LRUCache

V = TypeVar("V")
P = ParamSpec("P")
SMALL_BYTES = 2000  # what a value weighs of which nobody says how much


@dataclass(frozen=True, slots=True)
class _Entry:
    value: Any
    bytes: int


def light(value: object) -> int:
    """Weigh what is small whatever it is.

    Parameters
    ----------
    value : object
        Any. [-]

    Returns
    -------
    int
        The same for all. [byte]
    """
    return SMALL_BYTES


class Caches:
    """Owns everything that is kept; the least lately used goes when there is no room.

    Parameters
    ----------
    most_bytes : int
        How much is kept in all. [byte]
    """

    def __init__(self, most_bytes: int) -> None:
        self._lock = RLock()
        self._kept: LRUCache[Hashable, _Entry] = LRUCache(most_bytes, lambda entry: entry.bytes)
        self._under_way: dict[Hashable, Event] = {}

    @property
    def used_bytes(self) -> int:
        """How much is kept now [byte]."""
        with self._lock:
            return int(self._kept.currsize)

    def get(self, key: Hashable) -> _Entry | None:
        """Give what is kept under a key; None if nothing is."""
        with self._lock:
            return self._kept.get(key)

    def put(self, key: Hashable, value: object, weight: int) -> None:
        """Keep a value of so many bytes; what is larger than all there is room for is not kept."""
        if isinstance(value, BaseException):
            value.__traceback__ = value.__context__ = value.__cause__ = None
        with self._lock:
            if weight <= self._kept.maxsize:
                self._kept[key] = _Entry(value, weight)

    def once(self, key: Hashable, find: Callable[[], V], weigh: Callable[[V], int]) -> V:
        """Give what is kept, or find it and keep it; of several threads one finds it."""
        while True:
            with self._lock:
                entry = self._kept.get(key)
                if entry is not None:
                    return cast(V, entry.value)
                waits = self._under_way.get(key)
                if waits is None:
                    mine = self._under_way[key] = Event()
                    break
            waits.wait()
        try:
            found = find()
            self.put(key, found, weigh(found))
        finally:
            with self._lock:
                del self._under_way[key]
            mine.set()
        return found


class Cache(Generic[V]):
    """One kind of thing that is kept, among all others of its owner.

    Parameters
    ----------
    owner : Caches
        Where it is kept. [-]
    name : str
        Tells its keys from those of others. [-]
    weigh : callable
        Says how large a value is. [byte]
    """

    def __init__(self, owner: Caches, name: str, weigh: Callable[[V], int] = light) -> None:
        self._owner, self._name, self._weigh = owner, name, weigh

    def peek(self, key: Hashable) -> V | None:
        """Give what is known.

        Parameters
        ----------
        key : hashable
            The content it was made from. [-]

        Returns
        -------
        V or None
            None if nothing is. [-]
        """
        entry = self._owner.get((self._name, key))
        return None if entry is None else cast(V, entry.value)

    def once(self, key: Hashable, find: Callable[[], V]) -> V:
        """Give what is known, or find it and keep it; what `find` raises is not kept.

        Parameters
        ----------
        key : hashable
            The content it is made from. [-]
        find : callable
            Makes it. [-]

        Returns
        -------
        V
            The same object while it is kept. [-]
        """
        return self._owner.once((self._name, key), find, self._weigh)

    def put(self, key: Hashable, value: V) -> None:
        """Keep what is known already.

        Parameters
        ----------
        key : hashable
            The content it was made from. [-]
        value : V
            What is kept. [-]
        """
        self._owner.put((self._name, key), value, self._weigh(value))


CORE_BYTES: Final = 28_000_000
# what the core keeps for itself, whoever asks: networks, operating points, shapes, panels
CORE: Final = Caches(CORE_BYTES)


def remembered(
    name: str, weigh: Callable[[V], int] = light
) -> Callable[[Callable[P, V]], Callable[P, V]]:
    """Keep what a function gives by what it is given, among what the core keeps for itself.

    Parameters
    ----------
    name : str
        Tells its keys from those of others. [-]
    weigh : callable
        Says how large a result is. [byte]

    Returns
    -------
    callable
        Decorates a function of hashable arguments; its result is shared and only read. [-]
    """
    cache: Cache[V] = Cache(CORE, name, weigh)

    def decorate(function: Callable[P, V]) -> Callable[P, V]:
        @wraps(function)
        def ask(*args: P.args, **kwargs: P.kwargs) -> V:
            key = (args, tuple(kwargs.items()))
            return cache.once(key, lambda: function(*args, **kwargs))

        return ask

    return decorate

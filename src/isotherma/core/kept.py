"""What was computed and is kept while there is room, for several threads at once."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Event, Lock
from typing import Generic, TypeVar

V = TypeVar("V")


class Kept(Generic[V]):
    """The newest results by what they were made from; for several threads at once.

    What two ask for at once is computed once, by the first; should it give up, the next goes on.

    Parameters
    ----------
    most : int
        How many are kept. [-]
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._found: OrderedDict[Hashable, V] = OrderedDict()
        self._lock = Lock()
        self._under_way: dict[Hashable, Event] = {}

    def peek(self, key: Hashable) -> V | None:
        """Give what is known.

        Parameters
        ----------
        key : hashable
            What it was made from. [-]

        Returns
        -------
        V or None
            None if nothing is. [-]
        """
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
            return self._found.get(key)

    def once(self, key: Hashable, find: Callable[[], V]) -> V:
        """Give what is known, or find it and keep it; what `find` raises is not kept.

        Parameters
        ----------
        key : hashable
            What it is made from. [-]
        find : callable
            Makes it. [-]

        Returns
        -------
        V
            The same object while it is kept. [-]
        """
        while True:
            with self._lock:
                if key in self._found:
                    self._found.move_to_end(key)
                    return self._found[key]
                under_way = self._under_way.get(key)
                if under_way is None:
                    mine = self._under_way[key] = Event()
                    break
            under_way.wait()
        try:
            found = find()
            self.put(key, found)
        finally:
            with self._lock:
                del self._under_way[key]
            mine.set()
        return found

    def put(self, key: Hashable, value: V) -> None:
        """Keep what is known already.

        Parameters
        ----------
        key : hashable
            What it was made from. [-]
        value : V
            What is kept; the oldest goes. [-]
        """
        with self._lock:
            self._found[key] = value
            while len(self._found) > self._most:
                self._found.popitem(last=False)

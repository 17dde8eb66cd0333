"""What was computed and is kept while there is room: one place for every page's results."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

from isotherma.core.fields import Document

V = TypeVar("V")


class Kept(Generic[V]):
    """The newest results by what they were made from; for several threads at once.

    Two that ask for the same at once may both compute it: a page never waits for another's.
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._found: OrderedDict[Hashable, V] = OrderedDict()
        self._lock = Lock()

    def peek(self, key: Hashable) -> V | None:
        """Give what is known, None if nothing is."""
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
            return self._found.get(key)

    def once(self, key: Hashable, find: Callable[[], V]) -> V:
        """Give what is known, or find it and keep it; what `find` raises is not kept."""
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]
        found = find()
        self.put(key, found)
        return found

    def put(self, key: Hashable, value: V) -> None:
        """Keep what is known already."""
        with self._lock:
            self._found[key] = value
            while len(self._found) > self._most:
                self._found.popitem(last=False)


_texts: Kept[tuple[Document, str]] = Kept(200)


def text_of(document: Document) -> str:
    """Write a frozen document as text that is the same for equal ones, once for each object.

    Kept with its text a document lives on, so its id stays its own.
    """
    return _texts.once(id(document), lambda: (document, document.model_dump_json()))[1]

"""Keeping what was worked out, under a limit: what was least used goes first. Any thread may ask."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Mapping
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")


class Kept(Generic[Key, Value]):
    """Values by key. ``size_of`` says what each counts towards ``limit``: bytes, or one for each."""

    def __init__(self, limit: int, size_of: Callable[[Value], int] = lambda value: 1) -> None:
        self._limit = limit
        self._size_of = size_of
        self._values: OrderedDict[Key, Value] = OrderedDict()
        self._size = 0
        self._lock = threading.Lock()

    @property
    def size(self) -> int:
        """What all that is kept counts."""
        return self._size

    def get(self, key: Key) -> Value | None:
        """Return the value of a key, if it is kept."""
        return self.get_all((key,)).get(key)

    def get_all(self, keys: Iterable[Key]) -> dict[Key, Value]:
        """Return the values of those of some keys that are kept."""
        with self._lock:
            found = {key: self._values[key] for key in keys if key in self._values}
            for key in found:
                self._values.move_to_end(key)
            return found

    def put_all(self, values: Mapping[Key, Value]) -> None:
        """Keep some values; one too large for the limit is not kept."""
        with self._lock:
            for key, value in values.items():
                size = self._size_of(value)
                if size <= self._limit and key not in self._values:
                    self._values[key] = value
                    self._size += size
            while self._size > self._limit:
                _, gone = self._values.popitem(last=False)
                self._size -= self._size_of(gone)

    def get_or(self, key: Key, work_out: Callable[[], Value]) -> Value:
        """Return the value of a key, worked out now if it is not kept; of two threads at once both get the first's."""
        found = self.get(key)
        if found is None:
            found = work_out()
            self.put_all({key: found})
            kept = self.get(key)
            return found if kept is None else kept
        return found

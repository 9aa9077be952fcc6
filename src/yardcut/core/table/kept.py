"""Vectors that were worked out of a table and may be wanted again, under a limit of memory."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable

from yardcut.core.table.vectors import Vector, vector_bytes

_LIMIT_BYTES = 256 << 20


class KeptVectors:
    """Vectors by a key; the least used go first. Any thread may ask."""

    def __init__(self, limit_bytes: int = _LIMIT_BYTES) -> None:
        self._limit_bytes = limit_bytes
        self._vectors: OrderedDict[Hashable, Vector] = OrderedDict()
        self._size_bytes = 0
        self._lock = threading.Lock()

    def vector(self, key: Hashable, work_out: Callable[[], Vector]) -> Vector:
        """Return the vector of a key, worked out now if it is not there; one too large to keep is not kept."""
        with self._lock:
            found = self._vectors.get(key)
            if found is not None:
                self._vectors.move_to_end(key)
                return found
        made = work_out()
        size = vector_bytes(made)
        if size > self._limit_bytes:
            return made
        with self._lock:
            if key not in self._vectors:
                self._vectors[key] = made
                self._size_bytes += size
            while self._size_bytes > self._limit_bytes:
                _, gone = self._vectors.popitem(last=False)
                self._size_bytes -= vector_bytes(gone)
        return made

    @property
    def size_bytes(self) -> int:
        """How much memory they take."""
        return self._size_bytes

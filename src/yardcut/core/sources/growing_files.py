"""Files that are still being filled from a pipe: who reads one waits for what has not come yet.

So the first rows of an endless pipe are there at once, and a long one is read while it comes.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Iterable
from pathlib import Path
from typing import IO

from yardcut.core.errors import SourceError
from yardcut.core.private import private_opener

_PIECE_BYTES = 1 << 20
_AHEAD_BYTES = 1 << 27
"""How much is taken from a pipe before anybody asks for it: what nobody reads is not kept either."""


class GrowingFile:
    """A file that a thread fills from a pipe, from when it is begun."""

    def __init__(self, pipe: int, path: Path, name: str) -> None:
        self._pipe, self._path, self._name = pipe, path, name
        self._come = self._asked = 0
        self._ended = False
        self._error: OSError | None = None
        self._changed = threading.Condition()
        # made before anybody looks for it
        self._file = open(path, "wb", buffering=0, opener=private_opener)  # noqa: SIM115 - the thread closes it
        _growing[path] = self
        threading.Thread(target=self._fill, name="pipe", daemon=True).start()

    def _fill(self) -> None:
        error = None
        try:
            with self._file:
                while piece := os.read(self._pipe, _PIECE_BYTES):
                    rest = memoryview(piece)
                    while rest:
                        rest = rest[self._file.write(rest) :]
                    with self._changed:
                        self._come += len(piece)
                        self._changed.notify_all()
                        self._changed.wait_for(lambda: self._come < self._asked + _AHEAD_BYTES)
        except OSError as met:
            error = met
        with self._changed:
            self._ended, self._error = True, error
            self._changed.notify_all()

    def wait_for(self, size: int) -> int:
        """Wait until so many bytes have come, or the pipe has ended; return how many there are.

        Raises ``SourceError`` where they cannot be kept.
        """
        with self._changed:
            self._asked = max(self._asked, size)
            self._changed.notify_all()
            self._changed.wait_for(lambda: self._come >= size or self._ended)
            if self._error is not None:
                raise SourceError(f"{self._name} cannot be kept in {self._path.parent}: {self._error.strerror}")
            return self._come

    def wait_for_all(self) -> None:
        """Wait until the pipe has ended. Raises ``SourceError``."""
        seen = -1
        while (come := self.wait_for(seen + 1)) > seen:
            seen = come


_growing: dict[Path, GrowingFile] = {}


def growing(path: Path) -> GrowingFile | None:
    """Return what fills a file, if anything does."""
    return _growing.get(path)


def settle(paths: Iterable[Path]) -> None:
    """Wait until files have come whole: from then on they are files like any other. Raises ``SourceError``."""
    for path in paths:
        filled = _growing.get(path)
        if filled is not None:
            filled.wait_for_all()
            del _growing[path]


class Followed:
    """Reads a growing file as if it were whole."""

    def __init__(self, file: IO[bytes], filled: GrowingFile) -> None:
        self._file, self._filled = file, filled
        self.closed = False

    def read(self, size: int = -1) -> bytes:
        """Return as many bytes, fewer only at the end. Raises ``SourceError``."""
        if size < 0:
            self._filled.wait_for_all()
            return self._file.read()
        self._filled.wait_for(self._file.tell() + size)
        return self._file.read(size)

    def tell(self) -> int:
        """Return how far reading has come."""
        return self._file.tell()

    def seek(self, place: int, whence: int = os.SEEK_SET) -> int:
        """Go to a place from the start, or from where reading has come."""
        return self._file.seek(place, whence)

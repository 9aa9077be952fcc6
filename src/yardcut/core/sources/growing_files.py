"""Files that are still being filled from a pipe: who reads one waits for what has not come yet.

So the first rows of an endless pipe are there at once, and a long one is read while it comes.
"""

from __future__ import annotations

import contextlib
import os
import threading
from collections import deque
from collections.abc import Iterable
from pathlib import Path
from typing import IO

from yardcut.core.errors import SourceError
from yardcut.core.private import private_opener

_PIECE_BYTES = 1 << 20
_AHEAD_BYTES = 1 << 27
"""How much is taken from a pipe before anybody asks for it: what nobody reads is not kept either."""
_MOST_HELD = 8
"""So many pieces wait in memory for who reads each byte once."""


class GrowingFile:
    """A file that a thread fills from a pipe, from when it is begun."""

    def __init__(self, pipe: int, path: Path, name: str) -> None:
        self._pipe, self._path, self._name = pipe, path, name
        self._come = self._asked = 0
        self._ended = False
        self._error: OSError | None = None
        self._changed = threading.Condition()
        self._held = deque[bytes]()
        self._is_let_go = False
        # made before anybody looks for it
        self._file = open(path, "wb", buffering=0, opener=private_opener)  # noqa: SIM115 - the thread closes it
        _growing[path] = self
        threading.Thread(target=self._fill, name="pipe", daemon=True).start()

    def _fill(self) -> None:
        error = None
        try:
            with self._file:
                while piece := os.read(self._pipe, _PIECE_BYTES):
                    with self._changed:
                        is_kept = not self._is_let_go
                        if not is_kept:
                            self._held.append(piece)
                            self._changed.notify_all()
                            self._changed.wait_for(lambda: len(self._held) < _MOST_HELD)
                    if is_kept:
                        self._keep(piece)
        except OSError as met:
            error = met
        with self._changed:
            self._ended, self._error = True, error
            self._changed.notify_all()

    def _keep(self, piece: bytes) -> None:
        rest = memoryview(piece)
        while rest:
            rest = rest[self._file.write(rest) :]
        with self._changed:
            self._come += len(piece)
            self._changed.notify_all()
            self._changed.wait_for(lambda: self._is_let_go or self._come < self._asked + _AHEAD_BYTES)

    @property
    def is_let_go(self) -> bool:
        """Whether bytes come that are kept nowhere."""
        return self._is_let_go

    def let_go(self) -> None:
        """Keep no more of the pipe: from now on one alone reads it, and each byte once."""
        with self._changed:
            self._is_let_go = True
            self._changed.notify_all()

    def drop_kept(self) -> None:
        """Give the room on the disk back: what stood there was read, and nobody reads it again."""
        with contextlib.suppress(OSError):
            os.truncate(self._path, 0)

    def take(self) -> bytes:
        """Return the bytes that come next and are kept nowhere, waiting for them; none at the end.

        Raises ``SourceError`` where the pipe cannot be read.
        """
        with self._changed:
            self._changed.wait_for(lambda: self._held or self._ended)
            if not self._held:
                self._check()
                return b""
            self._changed.notify_all()
            return self._held.popleft()

    def wait_for(self, size: int) -> int:
        """Wait until so many bytes have come, or the pipe has ended; return how many there are.

        Raises ``SourceError`` where they cannot be kept.
        """
        with self._changed:
            self._asked = max(self._asked, size)
            self._changed.notify_all()
            self._changed.wait_for(lambda: self._come >= size or self._ended or bool(self._held))
            self._check()
            return self._come

    def _check(self) -> None:
        if self._error is not None:
            raise SourceError(f"{self._name} cannot be kept in {self._path.parent}: {self._error.strerror}")

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
    """Reads a growing file as if it were whole, and behind its end what is no longer kept in it."""

    def __init__(self, file: IO[bytes], filled: GrowingFile) -> None:
        self._file, self._filled = file, filled
        self._beyond, self._rest = 0, b""
        self.closed = False

    def read(self, size: int = -1) -> bytes:
        """Return as many bytes, fewer only at the end. Raises ``SourceError``."""
        if size < 0:
            self._filled.wait_for_all()
            return self._file.read()
        self._filled.wait_for(self._file.tell() + size)
        found = self._file.read(size)
        return found if len(found) == size or not self._filled.is_let_go else found + self._taken(size - len(found))

    def _taken(self, size: int) -> bytes:
        """Return bytes that were never kept; those that were have all been read."""
        if not self._beyond:
            self._filled.drop_kept()
        pieces = [self._rest]
        missing = size - len(self._rest)
        while missing > 0 and (piece := self._filled.take()):
            pieces.append(piece)
            missing -= len(piece)
        come = b"".join(pieces)
        self._rest = come[size:]
        self._beyond += min(size, len(come))
        return come[:size]

    def tell(self) -> int:
        """Return how far reading has come."""
        return self._file.tell() + self._beyond

    def seek(self, place: int, whence: int = os.SEEK_SET) -> int:
        """Go to a place from the start, or from where reading has come, as long as all of it is kept."""
        return self._file.seek(place, whence)

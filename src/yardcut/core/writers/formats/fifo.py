"""Writing into a named pipe: whoever reads at its other end gets the rows, and nothing is put in its place."""

from __future__ import annotations

import errno
import io
import os
import select
import time
from pathlib import Path
from typing import IO

from yardcut.core.progress import CancelToken

_LOOK_SECONDS = 0.05


def open_fifo(path: Path, token: CancelToken) -> IO[str]:
    """Open a named pipe for text, once there is a reader. Raises ``StoppedError`` or ``OSError``.

    It is opened and written without blocking (POSIX.1-2017, open(), ENXIO): a pipe without a reader, or one whose
    reader takes nothing, can be given up.
    """
    while True:
        token.check()
        try:
            descriptor = os.open(path, os.O_WRONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        except OSError as error:
            if error.errno != errno.ENXIO:
                raise
            time.sleep(_LOOK_SECONDS)
            continue
        return io.TextIOWrapper(io.BufferedWriter(_Pipe(descriptor, token), 1 << 16), encoding="utf-8", newline="")


class _Pipe(io.RawIOBase):
    """The writing end, which waits for room and looks at its token meanwhile."""

    def __init__(self, descriptor: int, token: CancelToken) -> None:
        self._descriptor = descriptor
        self._token = token

    def writable(self) -> bool:
        return True

    def write(self, data: object) -> int:
        while True:
            self._token.check()
            try:
                return os.write(self._descriptor, memoryview(data))  # type: ignore[arg-type]
            except BlockingIOError:
                select.select([], [self._descriptor], [], _LOOK_SECONDS)

    def close(self) -> None:
        if not self.closed:
            try:
                super().close()
            finally:
                os.close(self._descriptor)

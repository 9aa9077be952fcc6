"""File locks: they tell whether the process that made something still lives, across containers that share a disk."""

from __future__ import annotations

import contextlib
import fcntl
import os
from pathlib import Path

from yardcut.core.private import private_opener


class FileLock:
    """A lock on a file, held until it is let go or the process ends, however it ends."""

    def __init__(self, path: Path, descriptor: int) -> None:
        self.path = path
        self._descriptor: int | None = descriptor

    def is_of(self, path: Path) -> bool:
        """Tell whether a path still names the very file that is locked."""
        try:
            return self._descriptor is not None and os.path.samestat(os.fstat(self._descriptor), path.stat())
        except FileNotFoundError:
            return False

    def let_go(self) -> None:
        """Let it go; the file stays."""
        if self._descriptor is not None:
            os.close(self._descriptor)
            self._descriptor = None


def hold(path: Path, *, wait: bool = False) -> FileLock | None:
    """Take the lock of a file, made for its owner alone where it is not there; ``None`` while another holds it.

    With ``wait`` that is waited for. Raises ``OSError`` when the file cannot be made, or the file system has no locks.
    """
    descriptor = private_opener(str(path), os.O_RDWR | os.O_CREAT)
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX if wait else fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(descriptor)
        return None
    except BaseException:
        os.close(descriptor)
        raise
    return FileLock(path, descriptor)


def is_abandoned(path: Path) -> bool:
    """Tell whether a file that its maker locks is held by nobody now. ``False`` where that cannot be known.

    A maker that is done takes the name away before it lets go: what has the lock but not the name any more is whole.
    """
    with contextlib.suppress(OSError):
        descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return os.path.samestat(os.fstat(descriptor), path.stat())
        finally:
            os.close(descriptor)
    return False

"""File locks: they tell whether the process that made something still lives, across containers that share a disk."""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
from collections.abc import Iterator
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


NO_LOCKS = frozenset([errno.ENOLCK, errno.EOPNOTSUPP, errno.ENOTSUP, errno.ENOSYS, errno.EINVAL])
"""What a file system without locks says. Anything else (too many open files, a name that is gone) is no such thing."""
GONE = frozenset([errno.ENOENT, errno.ESTALE])


def hold(path: Path, *, wait: bool = False) -> FileLock | None:
    """Take the lock of a file, made for its owner alone where it is not there.

    ``None`` while another holds it, or took its name away in the same moment; with ``wait`` that is waited for. Raises
    ``OSError`` when the file cannot be made, or the file system has no locks.
    """
    while True:
        lock = _hold(path, wait=wait)
        if lock is not None and not lock.is_of(path):  # what was locked has no name any more
            lock.let_go()
            lock = None
        if lock is not None or not wait:
            return lock


def _hold(path: Path, *, wait: bool) -> FileLock | None:
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
    """Tell whether a file that its maker locks is held by nobody now. ``False`` where that cannot be known."""
    with abandoned(path) as found:
        return found


@contextlib.contextmanager
def abandoned(path: Path) -> Iterator[bool]:
    """Tell whether a file that its maker locks is held by nobody, and hold it as long as the block lasts.

    Who wants to sweep it does so within: a maker that comes to lock what it has just made finds it held, and makes
    another. A maker that is done takes the name away before it lets go: what has the lock but not the name any more is
    whole.
    """
    descriptor = -1
    found = False
    try:
        with contextlib.suppress(OSError):
            descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
            found = os.path.samestat(os.fstat(descriptor), path.stat())
        yield found
    finally:
        if descriptor >= 0:
            os.close(descriptor)

"""What is only there while a process works: half-built stores, files not whole yet, pipes kept for a second look.

Each is locked by the process that makes it, as long as that lives. What nobody locks was left by one that was killed,
and is swept; a process number would prove nothing, since containers that share a disk count their own.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import threading
import time
from collections.abc import Iterable
from pathlib import Path

from yardcut.core.locks import GONE, NO_LOCKS, FileLock, abandoned, hold

LOCK_NAME = "lock"
_GOING, _TRIES = ".going", 20
_UNLOCKED_SECONDS = 24 * 3600.0
"""A folder without any lock, of a file system that has none or an earlier version, is left alone for so long."""

_guard = threading.Lock()
_mine: dict[Path, FileLock | None] = {}


def begin_file(path: Path) -> bool:
    """Lock a file that was just made; ``False`` when somebody sweeps it in the same moment, and it is to be made anew.

    Raises ``OSError`` where it cannot be locked, and not for want of locks.
    """
    try:
        lock = hold(path)
        if lock is None:
            return False
    except OSError as error:
        if error.errno in GONE:
            return False
        if error.errno not in NO_LOCKS:
            raise
        lock = None
    with _guard:
        _mine[path] = lock
    return True


def begin_folder(folder: Path) -> None:
    """Lock a folder that was just made, by a file in it, where the file system has locks. Raises ``OSError``."""
    lock = None
    try:
        lock = hold(folder / LOCK_NAME)
    except OSError as error:
        if error.errno not in NO_LOCKS:
            raise
    with _guard:
        _mine[folder] = lock


def end(path: Path) -> None:
    """It is whole, or gone: let its lock go."""
    with _guard:
        lock = _mine.pop(path, None)
    if lock is not None:
        if lock.path != path:
            lock.path.unlink(missing_ok=True)
        lock.let_go()


def drop(path: Path) -> None:
    """Remove it, and let its lock go."""
    if path.is_dir():
        gone = path.with_name(path.name + _GOING)
        with contextlib.suppress(OSError):
            path.rename(gone)  # a thread that still fills it finds no folder, and cannot keep it from going
        for _ in range(_TRIES):  # a file may just be made in it, by who found the folder before it was renamed
            shutil.rmtree(gone, ignore_errors=True)
            shutil.rmtree(path, ignore_errors=True)
            if not (gone.exists() or path.exists()):
                break
    else:
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)
    end(path)


def drop_mine() -> None:
    """Remove all that this process has not ended, when it is to stop at once."""
    for path in list(_mine):
        drop(path)


def sweep_files(paths: Iterable[Path]) -> None:
    """Remove files that processes which are gone left half written."""
    for path in paths:
        with contextlib.suppress(OSError):
            if path.stat().st_uid != os.geteuid():
                continue
            with abandoned(path) as is_left:
                if is_left:
                    path.unlink(missing_ok=True)


def sweep_folders(folders: Iterable[Path]) -> None:
    """Remove folders that processes which are gone left half built."""
    for folder in folders:
        lock = folder / LOCK_NAME
        with contextlib.suppress(OSError):
            is_old = time.time() - folder.stat().st_mtime > _UNLOCKED_SECONDS
            with abandoned(lock) as is_left:
                if is_left or (is_old and not lock.exists()):
                    shutil.rmtree(folder, ignore_errors=True)

"""Folders in the cache that belong to one process as long as it lives, and what is swept when it does not."""

from __future__ import annotations

import contextlib
import math
import shutil
import tempfile
import time
from pathlib import Path

from yardcut.core import litter
from yardcut.core.locks import abandoned, hold
from yardcut.core.settings.folders import cache_folder

BUILDING, SORTING, TEXTS, PIPED = "building-", "sorting-", "texts-", "piped-"
READING, GLANCED, GLANCED_SECONDS = "reading-", "glanced-", 24 * 3600.0
FETCHED, ABOUT, FETCHED_SECONDS = "fetched", "about.json", 7 * 24 * 3600.0
"""The folder of files that were fetched, what is said of one, and how long one is kept that nobody asks for."""
_MAKING = "making.lock"


def stores_folder() -> Path:
    """Return the folder that holds all stores."""
    return cache_folder("stores")


def own_folder(parent: Path, prefix: str) -> Path:
    """Make a folder that is this process's own as long as it lives, and sweep what others left. Raises ``OSError``.

    One process at a time does so: a folder just made, and not locked yet, is never taken for one left behind.
    """
    with contextlib.ExitStack() as alone:
        with contextlib.suppress(OSError):
            lock = hold(stores_folder().parent / _MAKING, wait=True)
            if lock is not None:
                alone.callback(lock.let_go)
        _sweep_now_and_then()
        folder = Path(tempfile.mkdtemp(prefix=prefix, dir=parent))
        litter.begin_folder(folder)
    return folder


def sweep() -> None:
    """Sweep what killed processes left, unless another process makes something just now."""
    with contextlib.suppress(OSError):
        lock = hold(stores_folder().parent / _MAKING)
        if lock is not None:
            _sweep_now_and_then()
            lock.let_go()


def _sweep_now_and_then() -> None:
    """Sweep, unless this process did so a moment ago: of many stores each has to be looked at."""
    stores, now = stores_folder(), time.monotonic()
    if now - _swept.get(stores, -math.inf) >= _SWEPT_SECONDS:
        _swept[stores] = now
        _sweep(stores)


_SWEPT_SECONDS = 5.0
_swept: dict[Path, float] = {}
"""When this process last swept a folder of stores."""


def _sweep(stores: Path) -> None:
    for path in stores.glob(f"{READING}*"):  # of readers that were killed
        with abandoned(path) as is_left:
            if is_left:
                path.unlink(missing_ok=True)
    for path in stores.glob(f"{GLANCED}*"):
        with contextlib.suppress(OSError):
            if time.time() - path.stat().st_mtime >= GLANCED_SECONDS:
                path.unlink(missing_ok=True)
    for folder in stores.parent.glob(f"{FETCHED}/*"):
        with contextlib.suppress(OSError):
            if time.time() - (folder / ABOUT).stat().st_mtime >= FETCHED_SECONDS:
                shutil.rmtree(folder)
    building = (path for prefix in (BUILDING, SORTING, TEXTS) for path in stores.glob(f"{prefix}*"))
    litter.sweep_folders([*building, *stores.parent.glob(f"{PIPED}*")])

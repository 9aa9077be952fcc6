"""Arrays of a thousand million rows: from a size on they stand in a file that nobody sees, and not in memory."""

from __future__ import annotations

import mmap
import os
import tempfile
from typing import Any

import numpy as np

from yardcut.core.settings.folders import cache_folder
from yardcut.core.table.array_file import Array

_LARGE_BYTES = 64 << 20


def zeros(count: int, dtype: Any) -> Array:
    """Return an array of zeros.

    A large one is mapped from a file without a name, in the folder of the cache, which goes with the array. Its room is
    taken beforehand: to write into a mapped file on a full disk would end the process. Where there is none, or no such
    folder, it stands in memory.
    """
    size = count * np.dtype(dtype).itemsize
    if size < _LARGE_BYTES:
        return np.zeros(count, dtype)
    try:
        with tempfile.TemporaryFile(dir=cache_folder("stores")) as file:
            os.posix_fallocate(file.fileno(), 0, size)
            mapped = mmap.mmap(file.fileno(), size)
    except (OSError, AttributeError):  # the second: a system that cannot take room beforehand
        return np.zeros(count, dtype)
    return np.frombuffer(mapped, dtype)


def run_starts(values: Array) -> Array:
    """Return where runs of equal values begin (int64, ascending); nowhere where there are none.

    >>> run_starts(np.array([4, 4, 7, 4])), run_starts(np.array([]))
    (array([0, 2, 3]), array([], dtype=int64))
    """
    first = np.ones(min(1, len(values)), dtype=np.bool_)
    return np.flatnonzero(np.concatenate((first, values[1:] != values[:-1])))

"""One plain array on disk that grows at its end and widens its type when a value does not fit."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from yardcut.core.private import private_opener

Array = npt.NDArray[Any]

_SIGNED = ("<i1", "<i2", "<i4", "<i8")
_COPY_ITEMS = 1 << 20


def narrowest(least: int, most: int) -> str:
    """Return the narrowest signed integer dtype that holds both bounds (which must fit 64 bits)."""
    for dtype in _SIGNED:
        info = np.iinfo(dtype)
        if info.min <= least and most <= info.max:
            return dtype
    raise OverflowError(f"{least} to {most} needs more than 64 bits")


class ArrayWriter:
    """Appends one-dimensional arrays to a file of raw little-endian items.

    With ``narrow`` the file starts at the narrowest integer type and is rewritten wider when a value does not
    fit; real columns show their width early, so rewriting is rare and small. The file is opened for each
    append: thousands of columns must not hold thousands of open files.
    """

    def __init__(self, path: Path, dtype: str, *, narrow: bool = False) -> None:
        self.path = path
        self.dtype = _SIGNED[0] if narrow else dtype
        self.count = 0
        self._narrow = narrow

    def append(self, items: Array) -> None:
        """Write items at the end. Raises ``OSError`` when the disk does not take them."""
        if not len(items):
            return
        if self._narrow:
            needed = narrowest(int(items.min()), int(items.max()))
            if np.dtype(needed).itemsize > np.dtype(self.dtype).itemsize:
                self._widen(needed)
        with open(self.path, "ab", opener=private_opener) as file:
            # not tofile: it says nothing of why a disk did not take the bytes
            file.write(np.ascontiguousarray(items, dtype=self.dtype).data.cast("B"))
        self.count += len(items)

    def fill(self, value: int, count: int) -> None:
        """Append ``count`` copies of one value."""
        while count > 0:
            step = min(count, _COPY_ITEMS)
            self.append(np.full(step, value, dtype=self.dtype))
            count -= step

    def _widen(self, dtype: str) -> None:
        if self.count:
            wider = self.path.with_suffix(".wider")
            old = map_array(self.path, self.dtype, self.count)
            with open(wider, "wb", opener=private_opener) as file:
                for start in range(0, self.count, _COPY_ITEMS):
                    file.write(old[start : start + _COPY_ITEMS].astype(dtype).data.cast("B"))
            wider.replace(self.path)
        self.dtype = dtype


def map_array(path: Path, dtype: str, count: int) -> Array:
    """Map ``count`` items of a file, read only.

    Raises ``ValueError`` when the file is shorter than that: a mapped file that was cut short would otherwise
    end the process at the first touch.
    """
    if count == 0:
        return np.empty(0, dtype=dtype)
    size_bytes = path.stat().st_size
    if size_bytes < count * np.dtype(dtype).itemsize:
        raise ValueError(f"{path.name} holds {size_bytes} bytes, fewer than its {count} items need")
    # as a plain array: the subclass is asked for its opinion at every operation
    return np.asarray(np.memmap(path, dtype=dtype, mode="r", shape=(count,)))

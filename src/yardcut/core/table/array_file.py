"""One plain array on disk that grows at its end and widens its type when a value does not fit."""

from __future__ import annotations

import mmap
import os
import threading
from pathlib import Path
from typing import Any
from weakref import WeakValueDictionary

import numpy as np
import numpy.typing as npt

from yardcut.core.private import private_opener

Array = npt.NDArray[Any]

_SIGNED = ("<i1", "<i2", "<i4", "<i8")
_BOUNDS = tuple((dtype, int(np.iinfo(dtype).min), int(np.iinfo(dtype).max)) for dtype in _SIGNED)
_ITEM_BYTES = {dtype: np.dtype(dtype).itemsize for dtype in _SIGNED}
_COPY_ITEMS = 1 << 20
_MOST_HELD_BYTES = 1 << 17
_MOST_WAITING_BYTES = 1 << 19
"""Of an array that has a file: to open that costs as much as to write a hundred kilobytes."""


def narrowest(least: int, most: int) -> str:
    """Return the narrowest signed integer dtype that holds both bounds (which must fit 64 bits)."""
    for dtype, lowest, highest in _BOUNDS:
        if lowest <= least and most <= highest:
            return dtype
    raise OverflowError(f"{least} to {most} needs more than 64 bits")


class Budget:
    """How many bytes all arrays that are still in memory may take together."""

    def __init__(self, limit_bytes: int) -> None:
        self._left = limit_bytes

    @property
    def is_spent(self) -> bool:
        """True when arrays had better go to their files."""
        return self._left < 0

    def take(self, size_bytes: int) -> None:
        """Count bytes in, or out where negative."""
        self._left -= size_bytes


class ArrayWriter:
    """Appends one-dimensional arrays to an array of little-endian items, in memory while it is small, else in a file.

    With ``narrow`` it starts at the narrowest integer type and becomes wider when a value does not fit; real columns
    show their width early, so rewriting is rare and small. Without a ``budget`` nothing stays in memory. The file is
    opened for each write, of many pieces at once: thousands of columns must not hold thousands of open files.
    """

    __slots__ = ("_budget", "_held", "_held_bytes", "_narrow", "_path", "_written", "count", "dtype", "in_file")

    def __init__(self, path: Path | str, dtype: str, *, narrow: bool = False, budget: Budget | None = None) -> None:
        self._path = path
        self.dtype = _SIGNED[0] if narrow else dtype
        self.count = 0
        self._written = 0
        self._narrow = narrow
        self._budget = budget
        self._held: list[Array] = []
        self._held_bytes = 0
        self.in_file = budget is None

    @property
    def path(self) -> Path:
        """The file the items stand in, or will."""
        return Path(self._path)

    def append(self, items: Array) -> None:
        """Write items at the end. Raises ``OSError`` when the disk does not take them."""
        if not len(items):
            return
        if self._narrow:
            needed = narrowest(int(items.min()), int(items.max()))
            if _ITEM_BYTES[needed] > _ITEM_BYTES[self.dtype]:
                self._widen(needed)
        data = np.ascontiguousarray(items, dtype=self.dtype)
        self.count += len(items)
        # what others gave must not keep all of a block alive
        self._held.append(data if data.base is None and data is not items else data.copy())
        self._take(data.nbytes)
        most = _MOST_WAITING_BYTES if self.in_file else _MOST_HELD_BYTES
        if self._budget is None or self._held_bytes > most or self._budget.is_spent:
            self._spill()

    def fill(self, value: int, count: int) -> None:
        """Append ``count`` copies of one value."""
        while count > 0:
            step = min(count, _COPY_ITEMS)
            self.append(np.full(step, value, dtype=self.dtype))
            count -= step

    def items(self) -> Array:
        """Return all items so far. Raises ``OSError`` when the disk does not take what was not written yet."""
        if self.in_file:
            self.flush()
            return map_array(self.path, self.dtype, self.count)
        if len(self._held) != 1 or self._held[0].dtype != self.dtype:
            held = [piece.astype(self.dtype, copy=False) for piece in self._held]
            self._held = [np.concatenate(held) if held else np.empty(0, dtype=self.dtype)]
            self._take(self._held[0].nbytes - self._held_bytes)
        return self._held[0]

    def flush(self) -> None:
        """Write to the file what waits to be written, where there is a file. Raises ``OSError``."""
        if self.in_file and self._held:
            self._spill()

    def drop(self) -> None:
        """Forget all items."""
        if self.in_file:
            self.path.unlink(missing_ok=True)
        self._held = []
        self._take(-self._held_bytes)
        self.count = self._written = 0

    def _take(self, size_bytes: int) -> None:
        self._held_bytes += size_bytes
        if self._budget is not None:
            self._budget.take(size_bytes)

    def _spill(self) -> None:
        self.in_file = True
        with open(self.path, "ab", opener=private_opener) as file:
            for piece in self._held:
                # not tofile: it says nothing of why a disk did not take the bytes
                file.write(piece.astype(self.dtype, copy=False).data.cast("B"))
        self._held = []
        self._take(-self._held_bytes)
        self._written = self.count

    def _widen(self, dtype: str) -> None:
        if self._written:
            wider = self.path.with_suffix(".wider")
            old = map_array(self.path, self.dtype, self._written)
            with open(wider, "wb", opener=private_opener) as file:
                for start in range(0, self._written, _COPY_ITEMS):
                    file.write(old[start : start + _COPY_ITEMS].astype(dtype).data.cast("B"))
            wider.replace(self.path)
        self.dtype = dtype


def map_array(path: Path, dtype: str, count: int, offset: int = 0) -> Array:
    """Map ``count`` items of a file from a byte on, read only.

    Raises ``OSError``, and ``ValueError`` when the file is shorter than that: a mapped file that was cut short would
    otherwise end the process at the first touch.
    """
    if count == 0:
        return np.empty(0, dtype=dtype)
    with open(path, "rb") as file:
        status = os.fstat(file.fileno())
        size_bytes = status.st_size - offset
        if size_bytes < count * np.dtype(dtype).itemsize:
            raise ValueError(f"{path.name} holds {size_bytes} bytes, fewer than its {count} items need")
        key = (status.st_dev, status.st_ino, status.st_size, status.st_mtime_ns)
        with _mapping:
            mapped = _mapped.get(key)
            if mapped is None:
                mapped = _mapped[key] = mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ)
    return np.frombuffer(mapped, dtype=dtype, count=count, offset=offset)


_mapped: WeakValueDictionary[tuple[int, int, int, int], mmap.mmap] = WeakValueDictionary()
"""Files as they are mapped: thousands of columns share one, and a mapping takes an open file and an area of memory."""
_mapping = threading.Lock()

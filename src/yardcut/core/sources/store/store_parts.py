"""The arrays of a store while it is built: small ones are packed into few files, large ones have a file each."""

from __future__ import annotations

import os
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np

from yardcut.core.private import private_opener
from yardcut.core.table.array_file import ArrayWriter, Budget
from yardcut.core.table.checking import FileCheck, check_of, checks_of

_MEMORY_BYTES = 96 << 20
_ALIGNED = 8
_THREADS = 2


class StoreParts:
    """Gives each column its arrays by the name of their part, and seals them when they are whole."""

    def __init__(self, folder: Path, memory_bytes: int = _MEMORY_BYTES) -> None:
        self.folder = folder
        self._budget = Budget(memory_bytes)
        self._writers: dict[int, dict[str, ArrayWriter]] = {}

    def writer(self, number: int, part: str, dtype: str, *, narrow: bool = False) -> ArrayWriter:
        """Return a new, empty array of a column."""
        made = ArrayWriter(self._path(number, part), dtype, narrow=narrow, budget=self._budget)
        self._writers.setdefault(number, {})[part] = made
        return made

    def put(self, number: int, part: str, content: bytes) -> None:
        """Make an array of bytes that is whole."""
        self.writer(number, part, "|u1").append(np.frombuffer(content, dtype=np.uint8))

    def drop(self, number: int, parts: Iterable[str] | None = None) -> None:
        """Forget some arrays of a column, or all."""
        known = self._writers.get(number, {})
        for part in list(known) if parts is None else parts:
            if part in known:
                known.pop(part).drop()

    def _path(self, number: int, part: str) -> str:
        # a plain text: there may be a hundred thousand, and few become files
        return f"{self.folder}/{number}.{part}"

    def seal(self, numbers: Iterable[int]) -> dict[int, tuple[FileCheck, ...]]:
        """Write what is still in memory into one file, and return the checks of all arrays of some columns."""
        wanted = sorted(numbers)
        arrays = [
            (number, part, writer)
            for number in wanted
            for part, writer in sorted(self._writers.pop(number, {}).items())
            if writer.count
        ]
        for _, _, writer in arrays:
            writer.flush()
        own = [(number, part, writer.path) for number, part, writer in arrays if writer.in_file]
        found: dict[int, list[FileCheck]] = {number: [] for number in wanted}
        with ThreadPoolExecutor(_THREADS) as pool:
            for number, check in zip(
                (number for number, _, _ in own), pool.map(lambda one: check_of(one[2], one[1]), own), strict=True
            ):
                found[number].append(check)
        self._pack([each for each in arrays if not each[2].in_file], found)
        return {number: tuple(checks) for number, checks in found.items()}

    def _pack(self, arrays: list[tuple[int, str, ArrayWriter]], found: dict[int, list[FileCheck]]) -> None:
        """Write small arrays one behind the other into one file, each from a multiple of eight bytes on."""
        if not arrays:
            return
        path = self.folder / f"{arrays[0][0]}-{os.urandom(4).hex()}.pack"
        offset = 0
        with open(path, "wb", opener=private_opener) as file:
            for number, part, writer in arrays:
                content = writer.items().view(np.uint8)
                padding = -offset % _ALIGNED
                file.write(b"\0" * padding)
                file.write(content.data)
                offset += padding
                found[number].append(FileCheck(part, len(content), checks_of(content), path.name, offset))
                offset += len(content)
                writer.drop()

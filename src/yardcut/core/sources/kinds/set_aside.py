"""The values of a column that did not fit its kind: counted, and kept in a file with their places as they come."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from itertools import islice
from pathlib import Path

from yardcut.core.private import private_opener
from yardcut.core.quick_dataclasses import dataclass

_MOST_TEXTS = 1 << 17


@dataclass(frozen=True, slots=True)
class SetAsideValue:
    """One value: its row in the table (from 0), its file's place among them, its line there (0: unknown), its text."""

    row: int
    file_number: int
    line: int
    text: str


def aside_path(folder: Path, number: int) -> Path:
    """Return the file that holds the values set aside of one column."""
    return folder / f"{number}.aside"


class SetAside:
    """Takes the values of one column that do not fit."""

    def __init__(self, folder: Path, number: int) -> None:
        self._folder, self._number = folder, number
        self._counts: dict[str, int] = {}
        self.count = 0

    def add(self, first_row: int, unfit: Sequence[tuple[int, str]], places: Sequence[tuple[int, int]]) -> None:
        """Note unfit values, each with its row in a chunk that begins at ``first_row``, and its (file, line)."""
        if not unfit:
            return
        with open(aside_path(self._folder, self._number), "a", encoding="utf-8", opener=private_opener) as file:
            for (index, text), (file_number, line) in zip(unfit, places, strict=True):
                file.write(json.dumps([first_row + index, file_number, line, text]) + "\n")
                if text in self._counts or len(self._counts) < _MOST_TEXTS:
                    self._counts[text] = self._counts.get(text, 0) + 1
        self.count += len(unfit)

    @property
    def different(self) -> int:
        """How many different texts there are."""
        return len(self._counts)

    def counted(self, most: int = 1000) -> tuple[tuple[str, int], ...]:
        """Return the distinct texts with how often each stands, in order of first appearance; the first ``most``."""
        return tuple(islice(self._counts.items(), most))


def read_set_aside(folder: Path, number: int) -> Iterator[SetAsideValue]:
    """Yield the values of a column that were set aside, in the order of the rows."""
    path = aside_path(folder, number)
    if path.exists():
        with open(path, encoding="utf-8") as file:
            for text in file:
                yield SetAsideValue(*json.loads(text))

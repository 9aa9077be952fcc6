"""Rows of a file that did not become rows of the table: why, where they stood, and as they stood there."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from yardcut.core.private import private_opener
from yardcut.core.quick_dataclasses import dataclass

LIST_FILE = "dropped.jsonl"
BLANK, REPEATED_HEADER, TOO_MANY, TOO_FEW, COMMENT, ABOVE, BELOW = (
    "blank row", "repeated header", "too many cells", "too few cells", "comment",
    "line above the header", "line below the table",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Dropped:
    """One dropped row: the reason, its line in the file (from 1), and its text as it stood."""

    reason: str
    line: int
    text: str


class DroppedList:
    """Writes dropped rows to a file as they come, and counts them by file and reason."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / LIST_FILE
        self._counts: Counter[tuple[str, str]] = Counter()

    def add(self, file_name: str, rows: list[Dropped]) -> None:
        """Note the dropped rows of one file."""
        if not rows:
            return
        self._counts.update((file_name, row.reason) for row in rows)
        with open(self._path, "a", encoding="utf-8", opener=private_opener) as file:
            for row in rows:
                entry = {"file": file_name, "line": row.line, "reason": row.reason, "text": row.text}
                file.write(json.dumps(entry, ensure_ascii=False) + "\n")

    def of_file(self, file_name: str) -> tuple[tuple[str, int], ...]:
        """Return how many rows of a file were dropped, by reason."""
        return tuple((reason, times) for (name, reason), times in self._counts.items() if name == file_name)


def read_dropped(folder: Path) -> Iterator[tuple[str, Dropped]]:
    """Yield the dropped rows of a store with the names of their files."""
    path = folder / LIST_FILE
    if not path.exists():
        return
    with open(path, encoding="utf-8") as file:
        for text in file:
            entry = json.loads(text)
            yield entry["file"], Dropped(entry["reason"], entry["line"], entry["text"])

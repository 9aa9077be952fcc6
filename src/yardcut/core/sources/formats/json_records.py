"""JSON: one object a line, or an array of objects. Objects within objects become dotted columns."""

from __future__ import annotations

import json
from collections.abc import Generator, Iterator
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.delimited_blocks.dropped import Dropped
from yardcut.core.sources.formats.json_array import decoded, elements
from yardcut.core.sources.formats.records import BATCH_ROWS, Batch, RecordsFile, Row
from yardcut.core.sources.formats.typed import cell_text
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.streams import open_bytes

NOT_A_RECORD = "not a JSON object"
_READ_BYTES = 1 << 20


class JsonFile(RecordsFile):
    """One JSON file. Its columns are all keys that any of its records has, in order of first appearance."""

    def __init__(self, path: Path, spec: SourceSpec) -> None:
        names: dict[str, None] = {}
        with open_bytes(path) as file:
            self._is_array = file.read(4096).lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"[")
        for record, _, _ in _records(path, self._is_array):
            if isinstance(record, dict):
                names.update(dict.fromkeys(_flat(record)))
        if not names:
            raise SourceError(
                f"{path} holds no JSON objects", mend=Mend("write records: one object a line, or an array")
            )
        super().__init__(
            path, spec, path.name, list(names), {"format": "JSON array" if self._is_array else "JSON lines"}
        )
        self._keys = list(names)
        self.size = path.stat().st_size

    def batches(self) -> Generator[Batch, None, None]:
        """Yield the records as rows."""
        rows: list[Row] = []
        dropped: list[Dropped] = []
        done = 0
        for record, line, done in _records(self.path, self._is_array):
            if isinstance(record, dict):
                flat = _flat(record)
                rows.append([cell_text(flat.get(key)) for key in self._keys])
            else:
                dropped.append(Dropped(NOT_A_RECORD, line, record if isinstance(record, str) else json.dumps(record)))
            if len(rows) == BATCH_ROWS:
                yield rows, done, dropped
                rows, dropped = [], []
        if rows or dropped:
            yield rows, done, dropped


def _flat(record: dict[str, Any], before: str = "") -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, value in record.items():
        if isinstance(value, dict) and value:
            found |= _flat(value, f"{before}{key}.")
        else:
            found[before + key] = value
    return found


def _records(path: Path, is_array: bool) -> Iterator[tuple[Any, int, int]]:
    """Yield (record, line, bytes read); what is no JSON comes as its text."""
    return elements(path) if is_array else _of_lines(path)


def _of_lines(path: Path) -> Iterator[tuple[Any, int, int]]:
    carry, line = b"", 0
    with open_bytes(path) as file:
        while True:
            piece = file.read(_READ_BYTES)
            lines = (carry + piece).split(b"\n")
            carry = lines.pop() if piece else b""
            for text in lines:
                line += 1
                text = text.strip().removeprefix(b"\xef\xbb\xbf")
                if not text:
                    continue
                written = text.decode("utf-8", "replace").strip()
                try:
                    value, end = decoded(written)
                    if end < len(written):  # blanks at either end are gone
                        raise ValueError
                    yield value, line, file.position
                except (ValueError, RecursionError):
                    yield written, line, file.position
            if not piece:
                return


def json_files(path: Path, spec: SourceSpec, token: CancelToken) -> list[JsonFile]:
    """Open a file as the table it is. Raises ``SourceError``."""
    return [JsonFile(path, spec)]

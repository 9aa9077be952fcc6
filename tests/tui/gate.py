"""A reading that goes on block by block, as a test says."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from yardcut.core.sources.elsewhere import coming_tables
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.store import reading_files
from yardcut.core.sources.store.rows_so_far import RowsSoFar

MAIN = ("yard.csv", "packs.csv", "postgres / packs")
_MOST_SECONDS = 40.0


class Gate:
    """Lets a reading go on block by block, as a test says."""

    def __init__(self) -> None:
        self.open_to = 0
        self.told = threading.Condition()
        self.failing: Exception | None = None

    def let(self, blocks: int) -> None:
        with self.told:
            self.open_to += blocks
            self.told.notify_all()

    def fail(self, error: Exception) -> None:
        with self.told:
            self.failing = error
            self.told.notify_all()

    def wait(self, block: int) -> None:
        with self.told:
            while block >= self.open_to and self.failing is None:
                if not self.told.wait(_MOST_SECONDS):  # the test has failed, and waits for the thread that reads
                    raise RuntimeError(f"nobody let block {block} through")
            if self.failing is not None:
                raise self.failing


@contextmanager
def gated(monkeypatch: pytest.MonkeyPatch, block_bytes: int = 4000) -> Iterator[Gate]:
    """Make blocks small, and each of them wait; rows are wanted after every block that the app is ready for."""
    gate = Gate()
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", block_bytes)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)
    monkeypatch.setattr(coming_tables, "_PIECE_BYTES", block_bytes)
    plain = reading_files.StoreReader._met
    met = [0]

    def meets(self: reading_files.StoreReader, *given: object) -> None:
        if given[1] in MAIN and self._so_far is not None:  # second tables are read as ever, and columns that are first
            gate.wait(met[0])
            met[0] += 1
        plain(self, *given)  # type: ignore[arg-type]

    monkeypatch.setattr(reading_files.StoreReader, "_met", meets)
    monkeypatch.setattr(RowsSoFar, "is_due", lambda self: self._is_waited_for)
    monkeypatch.setattr("yardcut.core.sources.store.rows_so_far._SECONDS", 0)
    yield gate
    gate.let(10**6)

"""What stands ready for tests of the app: a file of packs, and a reading that goes on as a test says."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from pathlib import Path

import pytest

from tui.first_rows import ROWS, WOODS
from tui.gate import Gate, gated


@pytest.fixture
def gate(monkeypatch: pytest.MonkeyPatch) -> Iterator[Gate]:
    with gated(monkeypatch) as gate:
        yield gate


@pytest.fixture
def coming(tmp_path: Path) -> Path:
    path = tmp_path / "yard.csv"
    with open(path, "w", newline="") as file:
        rows = [(f"T{row:05}", WOODS[row * 7 % 5], row * 37 % 120, row % 31 / 2) for row in range(ROWS)]
        csv.writer(file).writerows([("ticket", "species", "boards", "price"), *rows])
    return path

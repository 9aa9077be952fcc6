"""Large arrays stand in a file nobody sees; where there is no room for it they stand in memory."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest

from yardcut.core.settings.folders import cache_folder
from yardcut.core.table import large_arrays
from yardcut.core.table.large_arrays import zeros


def is_mapped(array: np.ndarray) -> bool:
    return array.base is not None


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.int64])
def test_a_large_array_is_one_of_zeros_that_takes_what_is_written(monkeypatch: pytest.MonkeyPatch, dtype: type) -> None:
    cache_folder("stores").mkdir(parents=True, exist_ok=True)
    monkeypatch.setattr(large_arrays, "_LARGE_BYTES", 1000)
    before = set(cache_folder("stores").iterdir())
    small, large = zeros(10, dtype), zeros(5000, dtype)
    assert (is_mapped(small), is_mapped(large)) == (False, True)
    assert set(cache_folder("stores").iterdir()) == before
    assert not large.any()
    large[4999] = 7
    large[:10] |= np.arange(10, dtype=dtype)
    assert large.sum() == 7 + 45
    assert large.dtype == dtype


@pytest.mark.parametrize("why", ["no room", "no folder"])
def test_without_room_it_stands_in_memory(monkeypatch: pytest.MonkeyPatch, tmp_path: Path, why: str) -> None:
    def full(file: int, start: int, size: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(large_arrays, "_LARGE_BYTES", 1000)
    if why == "no room":
        monkeypatch.setattr(os, "posix_fallocate", full)
    else:
        monkeypatch.setattr(large_arrays, "cache_folder", lambda *names: tmp_path / "gone")
    found = zeros(5000, np.uint8)
    assert not is_mapped(found)
    assert not found.any()

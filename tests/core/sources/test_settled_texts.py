"""Codes of texts are counted as plain Python counts them, in little memory however many there are."""

from __future__ import annotations

import tracemalloc
from collections import Counter

import numpy as np
import pytest

from yardcut.core.sources.kinds import settled_texts
from yardcut.core.sources.kinds.settled_texts import times_of


@pytest.mark.parametrize("dtype", [np.int8, np.int16, np.int32])
@pytest.mark.parametrize("rows", [0, 1, 99, 100, 101, 1000])
def test_times(monkeypatch: pytest.MonkeyPatch, rows: int, dtype: type[np.signedinteger]) -> None:
    monkeypatch.setattr(settled_texts, "_COUNTED_ROWS", 100)
    codes = np.random.default_rng(rows).integers(-1, 7, rows).astype(dtype)
    counted = Counter(codes.tolist())
    assert times_of(codes, 9).tolist() == [counted[code] for code in range(9)]


def test_memory() -> None:
    codes = np.zeros(12_000_000, np.int8)
    tracemalloc.start()
    try:
        assert times_of(codes, 2).tolist() == [len(codes), 0]
        assert tracemalloc.get_traced_memory()[1] < len(codes) * 2, "a few rows at a time"
    finally:
        tracemalloc.stop()

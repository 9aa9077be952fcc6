"""Narrow floats against what numpy writes for them, the shortest text that reads back the same."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.sources.kinds.narrow_floats import as_doubles


@given(st.lists(st.floats(width=32), min_size=1))
def test_32_bits_keep_their_value_and_their_shortest_text(values: list[float]) -> None:
    narrow = np.array(values, dtype=np.float32)
    doubles = as_doubles(narrow)
    assert doubles.dtype == np.float64
    assert (doubles.astype(np.float32) == narrow)[~np.isnan(narrow)].all()
    assert np.isnan(doubles).tolist() == np.isnan(narrow).tolist()


@given(st.lists(st.decimals("-99999.99", "99999.99", places=2), min_size=1))
def test_short_decimals_are_what_was_written(values: list[object]) -> None:
    written = [float(str(value)) for value in values]
    narrow = np.array(written, dtype=np.float32)
    shortest = [float(str(value)) for value in narrow]
    assert as_doubles(narrow).tolist() == shortest


@pytest.mark.parametrize("dtype", [np.float16, np.float32])
def test_a_tenth_is_a_tenth(dtype: type) -> None:
    assert as_doubles(np.array([0.1, -2.5, 0.0, 3.0, 1e-5], dtype=dtype))[:4].tolist() == [0.1, -2.5, 0.0, 3.0]


def test_doubles_and_integers_are_left_alone() -> None:
    assert as_doubles(np.array([0.1 + 0.2])).tolist() == [0.1 + 0.2]
    assert as_doubles(np.array([3], dtype=np.int32)).tolist() == [3.0]

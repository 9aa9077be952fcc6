from pathlib import Path

import numpy as np
import pytest

from yardcut.core.table.array_file import ArrayWriter, Budget, map_array, narrowest


def test_an_array_widens_when_a_value_does_not_fit(tmp_path: Path) -> None:
    writer = ArrayWriter(tmp_path / "a.values", "<i8", narrow=True)
    expected: list[int] = []
    for items in ([1, -1], [127], [128], [-40_000], [2**40], [3]):
        writer.append(np.array(items))
        expected += items
        assert map_array(writer.path, writer.dtype, writer.count).tolist() == expected
    writer.fill(7, 3)
    assert map_array(writer.path, writer.dtype, writer.count).tolist() == [*expected, 7, 7, 7]


def test_narrowest_types() -> None:
    assert [narrowest(0, most) for most in (127, 128, 32_768, 2**31)] == ["<i1", "<i2", "<i4", "<i8"]


def test_a_file_that_was_cut_short_is_noticed(tmp_path: Path) -> None:
    (tmp_path / "a").write_bytes(b"\0" * 7)
    with pytest.raises(ValueError, match="fewer than its 8 items need"):
        map_array(tmp_path / "a", "|u1", 8)


def test_what_an_array_takes_of_the_memory_is_what_it_holds(tmp_path: Path) -> None:
    """Pieces of several widths are put together in the widest, and counted so."""
    budget = Budget(1000)
    writer = ArrayWriter(tmp_path / "a", "<i8", narrow=True, budget=budget)
    writer.append(np.full(100, 5))
    writer.append(np.full(100, 500))
    assert writer.items().nbytes == 400
    budget.take(600)
    assert not budget.is_spent
    budget.take(1)
    assert budget.is_spent

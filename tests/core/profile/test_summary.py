import statistics

import numpy as np
import pytest

from helpers import WriteTable
from yardcut.core.expressions.frame import source_frame
from yardcut.core.profile.shape import shape, spread
from yardcut.core.profile.summary import in_order, summarise
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.window import Scatter


def test_a_summary_agrees_with_plain_python(table_of: WriteTable) -> None:
    cells = [[row % 7 if row % 5 else None, row / 8, f"t{row % 3}", f"long {row}", row % 2 == 0] for row in range(3000)]
    table = table_of(["whole", "real", "word", "text", "flag"], cells)
    assert table.columns[3].info.storage == "plain"
    runner = LocalRunner(table)
    kept = np.arange(0, 3000, 3)
    rows = RowSet(3000, bit.of_ids(kept, 3000))
    whole, real, word, text, flag = (
        summarise(column, rows, runner, CancelToken()) for column in source_frame(table).columns
    )
    present = sorted(cells[row][0] for row in kept.tolist() if cells[row][0] is not None)
    assert (whole.rows, whole.present, whole.missing) == (1000, len(present), 1000 - len(present))
    assert whole.distinct == len(set(present))
    assert (whole.least, whole.most, whole.total) == (str(present[0]), str(present[-1]), str(sum(present)))
    assert whole.median == str(present[round((len(present) - 1) / 2)])
    assert whole.average == f"{statistics.mean(present):.6g}"
    assert real.total is not None
    assert float(real.total) == sum(row / 8 for row in kept.tolist())
    assert sum(real.bins) == 1000
    assert (word.distinct, word.commonest) == (1, (("t0", 1000),))
    assert (text.distinct, text.present, text.commonest[0][1]) == (1000, 1000, 1)
    assert flag.commonest == (("true", 500), ("false", 500))


def test_a_column_without_values(table_of: WriteTable) -> None:
    table = table_of(["a", "b"], [[None, 1]] * 3)
    found = summarise(source_frame(table).columns[0], RowSet(3), LocalRunner(table), CancelToken())
    assert (found.present, found.missing, found.distinct, found.least) == (0, 3, 0, None)


def test_many_different_texts_of_which_no_row_is_left(table_of: WriteTable) -> None:
    table = table_of(["ticket", "n"], [[f"{number:05}", number] for number in range(6_000)])
    found = summarise(
        source_frame(table).columns[0], RowSet(6_000, np.zeros(750, dtype=np.uint8)), LocalRunner(table), CancelToken()
    )
    assert (found.present, found.distinct, found.least, found.commonest) == (0, 0, None, ())


def test_a_shape_counts_now_and_before(table_of: WriteTable) -> None:
    table = table_of(["n", "w"], [[row % 10, "ab"[row % 2]] for row in range(100)])
    columns = source_frame(table).columns
    everything, low = spread(RowSet(100)), np.array([row for row in range(100) if row % 10 < 3])
    now, was = shape(columns[0].value, Scatter(table, everything), Scatter(table, low))
    assert was == (10,) * 10
    assert now == (10, 10, 10, *[0] * 7)
    assert shape(columns[1].value, Scatter(table, everything), Scatter(table, low))[1] == (50, 50)


def test_a_spread_is_even_and_bounded() -> None:
    ids = spread(RowSet(1_000_000), 1000)
    assert len(ids) == 1000
    assert np.diff(ids.astype(np.int64)).max() == 1000
    some = RowSet(1_000_000, bit.of_ids(np.arange(0, 1_000_000, 2), 1_000_000))
    assert len(spread(some, 6400)) == 6400


@pytest.mark.parametrize("dtype", ["<i1", "<i2", "|u1", "<u2", "<i4", "<i8", "<f8"])
def test_values_of_any_width_come_in_order(dtype: str) -> None:
    chance = np.random.default_rng(3)
    for size in (0, 1, 2, 5_000):
        values = chance.integers(-40_000, 40_000, size).astype(dtype)
        if size and np.dtype(dtype).kind in "iu":
            values[0], values[-1] = np.iinfo(dtype).max, np.iinfo(dtype).min
        expected = sorted(values.tolist())
        found = in_order(values)
        assert found.tolist() == expected
        assert found.dtype == np.dtype(dtype)


@pytest.mark.parametrize("values", [[1, 2, 9], [3, 1], [5], [2.5, 0.5, 7.25]])
def test_least_and_most_stand_at_the_very_ends(table_of: WriteTable, values: list[float]) -> None:
    table = table_of(["n", "x"], [[value, "x"] for value in values])
    found = summarise(source_frame(table).columns[0], RowSet(len(values)), LocalRunner(table), CancelToken())
    assert (found.least, found.most, found.rows) == (f"{min(values):g}", f"{max(values):g}", len(values))

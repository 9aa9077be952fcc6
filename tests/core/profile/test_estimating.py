"""Estimates of columns too large to sort: near the truth, the ends exact, the same however the work is cut."""

from __future__ import annotations

import time

import numpy as np
import pytest

from yardcut.core.expressions.frame import source_frame
from yardcut.core.language.meaning.bound import ColumnValue
from yardcut.core.profile import estimating, summary
from yardcut.core.profile.estimating import SketchRound
from yardcut.core.profile.summary import Summary, summarise
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.text_keys import text_hashes
from yardcut.core.table.vectors import PlainVector, join_texts
from yardcut.core.values.kinds import Kind

ROWS = 200_000
RANDOM = np.random.default_rng(31)
WHOLE = RANDOM.integers(0, 60_000, ROWS)
REAL = np.round(RANDOM.normal(16, 4, ROWS), 3)


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path = tmp_path_factory.mktemp("estimating") / "rows.csv"
    lines = (
        f"{whole},{'' if row % 10 == 3 else real},t{row % 90_000:07d},w{row % 5}"
        for row, (whole, real) in enumerate(zip(WHOLE.tolist(), REAL.tolist(), strict=True))
    )
    path.write_text("whole,real,text,word\n" + "\n".join(lines) + "\n")
    return open_table(path)


@pytest.fixture
def soon_estimated(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(summary, "EXACT_VALUES", 1000)
    monkeypatch.setattr(estimating, "KEPT_HASHES", 1 << 12)
    monkeypatch.setattr(estimating, "SAMPLE_ROWS", 1 << 14)


def summarised(table: Table, column: int, part_rows: int = 1 << 19) -> Summary:
    return summarise(
        source_frame(table).columns[column], RowSet(table.rows), LocalRunner(table, part_rows), CancelToken()
    )


@pytest.mark.usefixtures("soon_estimated")
@pytest.mark.parametrize("column", [0, 1, 2])
def test_estimates_are_near_and_marked(table: Table, column: int) -> None:
    found = summarised(table, column)
    assert found.estimated
    assert found.kind is (Kind.INTEGER, Kind.NUMBER, Kind.TEXT)[column]
    there = REAL[np.arange(ROWS) % 10 != 3]
    values = {0: WHOLE, 1: there, 2: np.arange(ROWS) % 90_000}[column]
    assert found.present == len(values)
    distinct = len(np.unique(values))
    assert found.distinct == pytest.approx(distinct, rel=0.08)  # five standard errors of 1 / sqrt(4096)
    if column < 2:
        assert (float(found.least or 0), float(found.most or 0)) == (values.min(), values.max())
        assert float(found.median or 0) == pytest.approx(np.median(values), rel=0.03)
        assert float(found.total or 0) == pytest.approx(values.sum())
        assert sum(found.bins) == pytest.approx(len(values), rel=0.001)


@pytest.mark.usefixtures("soon_estimated")
def test_a_text_of_few_words_stays_exact(table: Table) -> None:
    found = summarised(table, 3)
    assert not found.estimated
    assert found.commonest == tuple((f"w{word}", ROWS // 5) for word in range(5))


@pytest.mark.usefixtures("soon_estimated")
@pytest.mark.parametrize("column", [0, 1, 2])
def test_parts_do_not_matter(table: Table, column: int) -> None:
    assert summarised(table, column, BLOCK_ROWS) == summarised(table, column)
    value = ColumnValue(column, table.columns[column].kind)
    sketches = [
        LocalRunner(table, rows, 1).run(SketchRound(value, None), CancelToken()) for rows in (BLOCK_ROWS, 1 << 19)
    ]
    assert (sketches[0].rows == sketches[1].rows).all()
    assert (sketches[0].hashes == sketches[1].hashes).all()


def test_few_values_are_counted_exactly_even_so(table: Table, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(summary, "EXACT_VALUES", 1000)
    found = summarised(table, 0)
    assert found.distinct == len(np.unique(WHOLE))  # fewer than the hashes that are kept


def test_one_very_long_text_does_not_slow_the_others() -> None:
    texts = [b"a", b"x" * 5_000_000, b"x" * 5_000_000, b"y" * 65, b"y" * 64] + [b"oak"] * 50_000
    vector = PlainVector(*join_texts(texts))
    started = time.thread_time()
    hashes = text_hashes(vector)
    assert time.thread_time() - started < 5
    assert hashes[1] == hashes[2]
    assert len(set(hashes.tolist())) == 5

"""A page of rows from all over a large Parquet file is fetched; columns are not read whole for that."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pyarrow as pa
import pytest
from pyarrow import parquet

from tui.driving import Driven, drive
from yardcut.core.sources.scattered_rows import ScatteredRows
from yardcut.core.sources.spec import SourceSpec

ROWS = 90_000


@pytest.mark.long
def test_the_best_rows_are_fetched(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    plain, fetched = ScatteredRows.fetch, list[bool]()

    def counted(self: ScatteredRows, *given: Any) -> bool:
        fetched.append(plain(self, *given))
        return fetched[-1]

    monkeypatch.setattr(ScatteredRows, "fetch", counted)
    ranks = [number * 7919 % ROWS for number in range(ROWS)]
    content = {
        "rank": ranks,
        "ticket": [f"{number:05d}-é" for number in range(ROWS)],
        "bay": [None if number % 5 == 0 else f"N-{number % 40:02}" for number in range(ROWS)],
    }
    parquet.write_table(pa.table(content), tmp_path / "packs.parquet", row_group_size=1_000)
    best = sorted(range(ROWS), key=ranks.__getitem__, reverse=True)[:30]

    async def steps(app: Driven) -> None:
        await app.until("90,000 rows × 3 columns", "no lines yet")
        await app.line("draw top 30 by rank")
        await app.until("30 rows left")
        bays = {f"N-{number % 40:02}" for number in best if number % 5}
        screen = await app.until(*(f"{number:05d}-é" for number in best), *bays)  # a column may come after another
        shown = [line for line in screen.splitlines() if "-é" in line]
        for number, line in zip(best, shown, strict=True):
            assert f"{number + 1:,}" in line
            assert (f"N-{number % 40:02}" in line) == (number % 5 != 0)
        assert all(fetched), "columns were read whole for a page"

    drive(SourceSpec.of(tmp_path / "packs.parquet"), steps)

"""The first rows of an order that nobody looks at are those of the whole order."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.ranking.test_shared_draws import DATA
from thoroughness import examples
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table

KEYS = [
    "weight",
    "weight DESC NULLS FIRST",
    "species IGNORING CASE",
    "grade DESC",
    "species IN SEQUENCE ('yew', 'elm')",
    "weight * 2",
]


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path: Path = tmp_path_factory.mktemp("first") / "rows.csv"
    rows = [",".join("" if cell is None else str(cell) for cell in row) for row in DATA]
    path.write_text("\n".join(["species,grade,weight", *rows]) + "\n")
    return open_table(path)


def left(table: Table, lines: list[str], **how: Any) -> list[list[int]]:
    bound = bind_cut(Cut("", tuple(map(Line, lines))), table)
    results = list(Executor(LocalRunner(table)).run_bound(bound, **how))
    assert len(results) == len(lines)
    return [[*each.rows.ids(0, each.rows.count).tolist()] for each in results]


@given(
    st.lists(st.sampled_from(KEYS), min_size=1, max_size=3),
    st.sampled_from(
        [
            "first 1",
            "first 20",
            "first 3 percent",
            "first 400",
            "first 0",
            "first 3 per grade",
            "last 5",
            "first 9 remainder",
        ]
    ),
    st.lists(
        st.sampled_from(["keep grade = 'A'", "order species", "draw random 90 percent seed 1", "off keep grade = 'B'"]),
        max_size=2,
    ),
    st.booleans(),
)
@settings(max_examples=examples(120), deadline=None)
def test_the_rows_are_the_same(table: Table, keys: list[str], draw: str, above: list[str], off: bool) -> None:
    lines = [
        *above,
        f"order {', '.join(keys)}",
        *(["off draw first 2"] if off else []),
        f"draw {draw}",
        "make x = weight",
    ]
    seen, unseen = left(table, lines), left(table, lines, looked_at=False)
    assert seen[-2:] == unseen[-2:]
    assert [len(rows) for rows in seen] == [len(rows) for rows in unseen]

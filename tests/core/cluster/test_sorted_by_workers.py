"""Orders that workers put together by ranges are those of one process, row for row."""

from __future__ import annotations

import pytest

from cluster_here import Fate, executor_of
from judging import write_parquet
from reference.generating import make_rows
from test_truth import digest
from yardcut.core.ranking.ordering import key_ranges, sorting, sorting_apart
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.scanning.shared_folders import SharedFolder
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.own_folders import SORTING, stores_folder
from yardcut.core.table.stored_table import Table

Source = tuple[SourceSpec, Table]
ORDERS = [
    ["order real"],
    ["order word DESC, real, small"],
    ["order flag, small DESC"],
    ["order code", "order flag"],  # the order that was is the last key
    ["order day DESC NULLS FIRST, word"],
    ["keep small > 0", "order real DESC"],
    ["draw random 100 percent seed 5", "order small"],
    ["order at random seed 3"],
    ["make one = 1", "order one"],
]


@pytest.fixture(scope="module")
def source(tmp_path_factory: pytest.TempPathFactory) -> Source:
    path = tmp_path_factory.mktemp("orders") / "rows.parquet"
    write_parquet(make_rows(BLOCK_ROWS + 4003, 9), path, 9000)
    spec = SourceSpec.of(path)
    return spec, open_table(spec)


@pytest.fixture(autouse=True)
def small_ranges(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is sorted has no room in memory."""
    monkeypatch.setattr(sorting, "LEAST_ROWS_APART", 1)
    monkeypatch.setattr(sorting, "memory_bytes", lambda: 1 << 19)
    monkeypatch.setattr(sorting_apart, "MOST_ROWS", 9000)
    monkeypatch.setattr(key_ranges, "MOST_ROWS", 9000)


def lost(number: int) -> str:
    """Lose every third task."""
    return "lost" if number % 3 == 1 else "finished"


@pytest.mark.few(3)
@pytest.mark.parametrize("fate", [lambda number: "finished", lost], ids=["all are there", "some are lost"])
@pytest.mark.parametrize("lines", ORDERS, ids=lambda lines: lines[-1])
def test_the_same_order(source: Source, lines: list[str], fate: Fate) -> None:
    there, client = executor_of(*source, fate)
    found = digest(lines, there)
    assert not isinstance(found, str), found
    assert found == digest(lines, Executor(LocalRunner(source[1])))
    assert client.tasks
    assert not list(stores_folder().glob(f"{SORTING}*"))


def test_who_does_not_see_the_cache_sends_keys(source: Source, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[SharedFolder] = []
    monkeypatch.setattr(SharedFolder, "is_seen", lambda folder: bool(asked.append(folder)))
    there, _ = executor_of(*source)
    for lines in ORDERS[:2]:
        assert digest(lines, there) == digest(lines, Executor(LocalRunner(source[1])))
    assert len({folder.path for folder in asked}) == 1, "it is remembered"

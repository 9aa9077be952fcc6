"""Sorting with next to no memory gives the same rows as sorting in memory."""

from __future__ import annotations

import errno
import random
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from core.ranking.test_shared_draws import DATA
from helpers import WriteTable, ids_left
from thoroughness import examples
from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.ordering.key_ranges import Sorting, cuts_by, packed
from yardcut.core.ranking.ordering.key_ranges_kept import RangeInMemory, RangeOnDisk
from yardcut.core.settings.threads import block_threads
from yardcut.core.sources.store.own_folders import stores_folder

WORDS = st.one_of(st.integers(0, 3), st.integers(0, 2**64 - 1), st.just(2**63))


@given(st.lists(st.tuples(WORDS, WORDS), max_size=120), st.integers(1, 40), st.sampled_from([1, 2, 3, 10, 1000]))
@settings(max_examples=examples(150), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_any_blocks_are_sorted_stably(tmp_path: Path, rows: list[tuple[int, int]], block: int, room: int) -> None:
    ids = list(range(len(rows)))
    random.Random(len(rows)).shuffle(ids)
    blocks = []
    for start in range(0, len(rows), block):
        some = rows[start : start + block]
        fields = [(np.array([row[place] for row in some], dtype=np.uint64), 64) for place in (0, 1)]
        blocks.append(packed(fields, np.array(ids[start : start + block], dtype=np.uint32)))
    for new_range in (RangeInMemory, partial(RangeOnDisk.new, tmp_path)):
        cuts = cuts_by(random.Random(room).sample(blocks, len(blocks) // 2), len(rows), room)
        with ThreadPoolExecutor(block_threads()) as pool:
            sorting = Sorting(pool, new_range, room, CancelToken(), Progress())
            ranges = sorting.distributed([partial(lambda block: block, block) for block in blocks], cuts)
            found = sorting.in_order(ranges, len(rows))
        assert found.tolist() == [ids[place] for place in sorted(range(len(rows)), key=lambda place: rows[place])]
    assert list(tmp_path.iterdir()) == []
    assert found.tolist() == [ids[place] for place in sorted(range(len(rows)), key=lambda place: rows[place])]


@pytest.mark.parametrize("memory", ["1", "3000", "20000"])
@pytest.mark.parametrize(
    "lines",
    [
        ["order weight"], ["order species, grade DESC NULLS FIRST, weight DESC"], ["order at random seed 5"],
        ["keep grade = 'A'", "order weight DESC", "order species"], ["draw top 300 by weight", "order grade"],
        ["order species IGNORING CASE, weight * 2"], ["keep grade = 'none'", "order weight"],
    ],
    ids=str,
)  # fmt: skip
def test_an_order_is_the_same(
    table_of: WriteTable, monkeypatch: pytest.MonkeyPatch, lines: list[str], memory: str
) -> None:
    table = table_of(["species", "grade", "weight"], DATA)
    expected = ids_left(table, *lines)
    monkeypatch.setenv("YARDCUT_SORT_BYTES", memory)
    assert ids_left(table, *lines) == expected
    assert list(stores_folder().glob("sorting-*")) == []


@pytest.mark.long
def test_many_ranges_of_a_larger_table(table_of: WriteTable, monkeypatch: pytest.MonkeyPatch) -> None:
    chance = random.Random(2)
    rows = [(chance.randint(0, 5), f"t{chance.randint(0, 10**6)}", chance.random()) for _ in range(150_000)]
    table = table_of(["a", "t", "x"], rows)
    monkeypatch.setenv("YARDCUT_SORT_BYTES", "400000")
    found = ids_left(table, "order a DESC, t, x", parts=3)
    assert found == sorted(range(len(rows)), key=lambda row: (-rows[row][0], rows[row][1], rows[row][2]))


def test_a_full_disk_is_a_sentence_and_leaves_nothing(table_of: WriteTable, monkeypatch: pytest.MonkeyPatch) -> None:
    table = table_of(["species", "grade", "weight"], DATA)
    monkeypatch.setenv("YARDCUT_SORT_BYTES", "1")

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(RangeOnDisk, "append", full)
    with pytest.raises(SourceError, match="the disk of the cache directory .* is full"):
        ids_left(table, "order weight")
    assert list(stores_folder().glob("sorting-*")) == []


def test_it_can_be_stopped(tmp_path: Path) -> None:
    token = CancelToken()
    token.cancel()
    rows = packed([(np.zeros(4, dtype=np.uint64), 64)], np.arange(4, dtype=np.uint32))
    with ThreadPoolExecutor(block_threads()) as pool, pytest.raises(StoppedError):
        Sorting(pool, RangeInMemory, 2, token, None).distributed([lambda: rows], cuts_by([], 4, 2))

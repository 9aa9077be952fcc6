"""Conditions answered in the files, group by group: whatever the sequence, and however they are put together."""

from __future__ import annotations

import functools
import random
from pathlib import Path

import pyarrow as pa
import pytest
from pyarrow import parquet

from yardcut.core.expressions import direct_answers
from yardcut.core.expressions.direct_answers import AnswerInFilesRound, AnswersOfRows
from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.meaning.bound_parts import pieces_of
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.scanning.row_parts import parts_of
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

SIZES = (700, 0, 13, 1, 2_000, 0)
"""Rows of the files: some have none."""


def boards_of(number: int) -> int | None:
    return None if number % 7 == 2 else number * 3 % 1_000


@pytest.fixture
def table(tmp_path: Path) -> Table:
    first = 0
    for at, count in enumerate(SIZES):
        numbers = range(first, first + count)
        content = pa.table({"boards": pa.array(map(boards_of, numbers), pa.int64())})
        parquet.write_table(content, tmp_path / f"{at}.parquet", row_group_size=97)
        first += count
    return open_table(SourceSpec.of(tmp_path / "*.parquet"))


def work_on(table: Table) -> AnswerInFilesRound:
    bound = bind_line("keep boards > 500 OR boards < 40", source_scope(table))
    assert bound is not None
    assert isinstance(bound.body, BoundFilter)
    assert bound.body.condition is not None
    return AnswerInFilesRound(tuple(pieces_of(bound.body.condition)), bound.body.condition)


@pytest.mark.parametrize("most_waiting", [0, 200, 1 << 24])
@pytest.mark.parametrize("seed", range(6))
def test_any_sequence_and_any_tree_of_merges_gives_the_same(
    table: Table, monkeypatch: pytest.MonkeyPatch, most_waiting: int, seed: int
) -> None:
    monkeypatch.setattr(direct_answers, "_MOST_WAITING", most_waiting)
    random_ = random.Random(seed)
    work = work_on(table)
    states = [work.scan(table, part) for part in work.own_parts(table)]
    random_.shuffle(states)
    heaps: list[list[AnswersOfRows]] = [[] for _ in range(random_.randrange(1, 6))]
    for state in states:
        random_.choice(heaps).append(state)
    merged = functools.reduce(work.merge, [functools.reduce(work.merge, heap) for heap in heaps if heap])
    values = list(map(boards_of, range(sum(SIZES))))
    found = work.finish(merged).parts(parts_of(table))[0]
    assert len(work.pieces) == 2
    for piece, expected in zip(work.pieces, (lambda value: value > 500, lambda value: value < 40), strict=True):
        true = [value is not None and expected(value) for value in values]
        assert [bool(found[piece].true[row // 8] >> row % 8 & 1) for row in range(len(values))] == true
        unknown = found[piece].unknown
        assert unknown is not None
        assert [bool(unknown[row // 8] >> row % 8 & 1) for row in range(len(values))] == [v is None for v in values]


def test_files_without_rows_have_answers_for_none(tmp_path: Path) -> None:
    empty = pa.table({"boards": pa.array([], pa.int64())})
    parquet.write_table(empty, tmp_path / "empty.parquet")
    table = open_table(SourceSpec.of(tmp_path / "empty.parquet"))
    work = work_on(table)
    parts = list(work.own_parts(table) or parts_of(table))
    found = work.finish(work.scan(table, parts[0])).parts(parts_of(table))
    assert [found[0][piece].rows for piece in work.pieces] == [0, 0]


@pytest.mark.parametrize("index", [pa.int8(), pa.uint8(), pa.int16(), pa.uint32(), pa.int64(), pa.uint64()])
def test_codes_of_any_width_of_an_arrow_file(tmp_path: Path, index: pa.DataType) -> None:
    codes = pa.array([0, None, 2, 1, 3, None, 0], index)
    words = pa.array(["oak", "ash", None, "yew"])
    column = pa.DictionaryArray.from_arrays(codes, words)
    with pa.ipc.new_file(str(tmp_path / "a.arrow"), pa.schema([("species", column.type)])) as file:
        file.write_batch(pa.record_batch([column], ["species"]))
    table = open_table(tmp_path / "a.arrow")
    bound = bind_line("keep species = 'oak' OR species IS NULL", source_scope(table))
    assert bound is not None
    assert isinstance(bound.body, BoundFilter)
    pieces = tuple(pieces_of(bound.body.condition))
    found = AnswerInFilesRound(pieces, None)
    answers = found.finish(found.look(table, parts_of(table)[0], CancelToken())).parts(parts_of(table))[0]
    assert [[bool(answers[piece].true[0] >> row & 1) for row in range(7)] for piece in pieces] == [
        [True, False, False, False, False, False, True], [False, True, True, False, False, True, False],
    ]  # fmt: skip

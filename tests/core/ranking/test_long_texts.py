"""Texts too long to be a key as they are: ranks of them, and of what stands behind the bytes that are looked at."""

from __future__ import annotations

import csv

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import ids_left, run_lines
from thoroughness import examples
from yardcut.core.language.meaning.bound import Key
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.ordering import planning
from yardcut.core.ranking.ordering.first_in_order import first_in_order
from yardcut.core.ranking.ordering.long_texts import rank_texts
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import FormLine, SourceSpec
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import PlainVector, join_texts

TEXTS = st.lists(
    st.text(alphabet="ab\0\né🌲", max_size=30) | st.sampled_from(["a" * 24 + "x", "a" * 24, ""]), max_size=40
)


@given(TEXTS)
def test_ranks_are_places_in_code_point_order(texts: list[str]) -> None:
    offsets, data = join_texts([text.encode() for text in texts])
    ranks, count = rank_texts(PlainVector(offsets, data), CancelToken()) if texts else ([], 0)
    distinct = sorted(set(texts))
    assert list(ranks) == [distinct.index(text) for text in texts]
    assert count == len(distinct)


@pytest.mark.parametrize("common", range(30))
def test_texts_are_told_apart_wherever_they_first_differ(common: int) -> None:
    texts = ["a" * common + tail for tail in ("c", "b", "bb", "", "c" * 9, "b" + "z" * 9)]
    offsets, data = join_texts([text.encode() for text in texts])
    ranks, count = rank_texts(PlainVector(offsets, data), CancelToken())
    assert list(ranks) == [sorted(texts).index(text) for text in texts]
    assert count == len(texts)


LONG = st.lists(
    st.one_of(st.none(), st.text(alphabet="abé🌲", min_size=1, max_size=14), st.sampled_from(["a" * 8, "a" * 9, "a" * 16, "a" * 30, "a" * 30 + "b"])),
    min_size=1, max_size=60,
)  # fmt: skip


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    texts=LONG,
    looked_at=st.sampled_from([1, 8, 13, 160]),
    descending=st.booleans(),
    first=st.booleans(),
    parts=st.integers(1, 3),
)
def test_orders_and_takes_by_long_texts_are_those_of_plain_python(
    tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch, texts: list[str | None], looked_at: int,
    descending: bool, first: bool, parts: int,
) -> None:  # fmt: skip
    """However many of their bytes are the key, and whatever stands behind these."""
    monkeypatch.setattr(planning, "_MOST_SORTED_BYTES", looked_at)
    monkeypatch.setattr(planning, "_MOST_TAKEN_BYTES", 0)
    path = tmp_path_factory.mktemp("t") / "t.csv"
    with path.open("w", newline="") as file:
        csv.writer(file).writerows([["k", "t"], *[[n % 3, text] for n, text in enumerate(texts)]])
    table = open_table(SourceSpec((str(path),), (FormLine(footer=0),)))
    key = f"t || CAST(k AS text) {'DESC' if descending else 'ASC'} NULLS {'FIRST' if first else 'LAST'}"

    def place(row: int) -> tuple[int, list[int], int]:
        text = texts[row]
        if text is None:
            return (0 if first else 2), [], row
        written = f"{text}{row % 3}"
        points = [-ord(char) for char in written] + [1] if descending else [*map(ord, written)]
        return 1, points, row

    expected = sorted(range(len(texts)), key=place)
    assert ids_left(table, f"order {key}", parts=parts) == expected
    assert [
        int(row)
        for row in first_in_order(_keys(table, key), 5, RowSet(table.rows), LocalRunner(table), CancelToken()).ids(0, 5)
    ] == expected[:5]


def _keys(table: Table, key: str) -> tuple[Key, ...]:
    body = run_lines(table, f"order {key}")[-1].line.bound
    assert body is not None
    assert isinstance(body.body, BoundOrder)
    return body.body.keys

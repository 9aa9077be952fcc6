"""Ties of an order against plain Python on random rows."""

from __future__ import annotations

import itertools
from collections import Counter
from typing import Any

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from thoroughness import examples
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.grouping import ties as ties_module
from yardcut.core.ranking.grouping.neighbours import same_as_before
from yardcut.core.run.hinting.order_hints import ties_of
from yardcut.core.table.vectors import PlainVector

CELLS = st.tuples(st.sampled_from(["a", "A", "b", None]), st.sampled_from([0.0, -0.0, 1.5, None]), st.integers(1, 3))
KEYS = {"g": 0, "x": 1, "n": 2}


def value(row: tuple[Any, ...], key: str) -> Any:
    found = row[KEYS[key.split()[0]]]
    return found.upper() if "IGNORING" in key and found is not None else found


@given(
    st.lists(CELLS, max_size=40),
    st.lists(st.sampled_from(["g", "g IGNORING CASE", "x DESC", "n", "n DESC NULLS FIRST"]), min_size=1, max_size=4),
    st.sampled_from([1, 2, 3, 7, 1 << 17]),
)
@settings(max_examples=examples(100), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_tied_rows_and_idle_keys(
    table_of: WriteTable, rows: list[tuple[Any, ...]], keys: list[str], block: int
) -> None:
    table = table_of(["g", "x", "n"], rows)
    lines = ["make g = CAST(g AS text), x = CAST(x AS number), n = CAST(n AS number)", f"order {', '.join(keys)}"]
    result = run_lines(table, *lines)[-1]
    was, ties_module._BLOCK_ROWS = ties_module._BLOCK_ROWS, block
    try:
        found = ties_of(result, CancelToken())
    finally:
        ties_module._BLOCK_ROWS = was
    assert found is not None
    for place in range(len(keys)):
        groups = Counter(tuple(value(row, key) for key in keys[: place + 1]) for row in rows)
        assert found.rows[place] == sum(count for count in groups.values() if count > 1)
        assert found.pairs[place] == sum(count - 1 for count in groups.values())
        if place:
            before = Counter(tuple(value(row, key) for key in keys[:place]) for row in rows)
            assert (place in found.idle) is (len(before) == len(groups))


@given(
    st.lists(
        st.sampled_from(
            ["", "a", "a" * 8, "a" * 8 + "b", "x" * 64, "x" * 65, "x" * 64 + "y", "木" * 30, "\0", "a\0", None]
        ),
        max_size=30,
    )
)
def test_texts_are_the_same_where_all_their_bytes_are(texts: list[str | None]) -> None:
    encoded = [(text or "").encode() for text in texts]
    vector = PlainVector(
        np.cumsum([0, *(len(each) + 1 for each in encoded)]),
        np.frombuffer(b"".join(each + b"\n" for each in encoded), dtype=np.uint8),
        np.array([text is None for text in texts], dtype=np.bool_),
    )
    if texts:
        expected = [one == other for one, other in itertools.pairwise(texts)]
        assert same_as_before(vector).tolist() == expected

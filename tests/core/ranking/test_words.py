from __future__ import annotations

import math
import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable, ids_left
from yardcut.core.language.meaning.bound import ColumnValue, Key
from yardcut.core.ranking.ordering.fields import Encoding, KeyPlan, doubles_of, ordered_bits
from yardcut.core.ranking.ordering.packing import pack_words, sort_positions
from yardcut.core.values.kinds import Kind

DOUBLES = st.floats(allow_nan=False)


@given(st.lists(DOUBLES, min_size=1, max_size=60))
def test_words_of_doubles_order_as_the_doubles_do(values: list[float]) -> None:
    words = ordered_bits(np.array(values)).tolist()
    for one, word in zip(values, words, strict=True):
        for other, other_word in zip(values, words, strict=True):
            assert (one < other) == (word < other_word)
            assert (one == other) == (word == other_word)


@given(st.lists(DOUBLES, min_size=1))
def test_words_of_doubles_give_the_doubles_back(values: list[float]) -> None:
    again = doubles_of(ordered_bits(np.array(values))).tolist()
    assert again == values  # a zero below zero comes back as zero, which is equal


@pytest.mark.parametrize("descending", [False, True])
@given(values=st.lists(DOUBLES, min_size=1, max_size=40), limit=DOUBLES)
def test_a_threshold_passes_what_its_limit_passes(descending: bool, values: list[float], limit: float) -> None:
    plan = KeyPlan(Key(ColumnValue(0, Kind.NUMBER, "x"), descending, False, "x"), Encoding.DOUBLE)
    word = ~ordered_bits(np.array([limit])) if descending else ordered_bits(np.array([limit]))
    threshold = plan.thresholds(word)
    assert threshold is not None
    by_value = np.array(values) >= threshold[0] if descending else np.array(values) <= threshold[0]
    by_word = plan._double(np.array(values)) <= word[0]
    assert by_value.tolist() == by_word.tolist()


@pytest.mark.parametrize("descending", [False, True])
def test_a_limit_that_rules_nothing_out_lets_everything_pass(descending: bool) -> None:
    plan = KeyPlan(Key(ColumnValue(0, Kind.NUMBER, "x"), descending, False, "x"), Encoding.DOUBLE)
    threshold = plan.thresholds(np.array([0xFFFFFFFFFFFFFFFF], dtype=np.uint64))
    assert threshold is not None
    assert math.isinf(threshold[0])
    values = np.array([-1e308, 0.0, 1e308])
    assert (values >= threshold[0] if descending else values <= threshold[0]).all()


@st.composite
def fields(draw: st.DrawFn) -> tuple[list[tuple[list[int], int]], int]:
    count = draw(st.integers(1, 40))
    widths = draw(st.lists(st.integers(1, 64), min_size=1, max_size=5))
    found = []
    for bits in widths:
        most = min((1 << bits) - 1, draw(st.sampled_from([1, 3, (1 << bits) - 1])))
        found.append((draw(st.lists(st.integers(0, most), min_size=count, max_size=count)), bits))
    return found, count


@given(fields())
def test_packed_words_compare_as_the_fields_do(case: tuple[list[tuple[list[int], int]], int]) -> None:
    written, count = case
    words = pack_words([(np.array(values, dtype=np.uint64), bits) for values, bits in written])
    assert sum(bits for _, bits in words) == sum(bits for _, bits in written)
    plain = list(zip(*(values for values, _ in written), strict=True))
    packed = list(zip(*(values.tolist() for values, _ in words), strict=True))
    for one in range(count):
        for other in range(count):
            assert (plain[one] < plain[other]) == (packed[one] < packed[other])


@given(fields())
def test_positions_are_sorted_stably(case: tuple[list[tuple[list[int], int]], int]) -> None:
    written, count = case
    order = sort_positions([(np.array(values, dtype=np.uint64), bits) for values, bits in written], count)
    plain = list(zip(*(values for values, _ in written), strict=True))
    assert order.tolist() == sorted(range(count), key=plain.__getitem__)


@pytest.mark.parametrize("apart", [1, 4, 90, 250, 400, 10**6, 2**60])
def test_wide_keys_are_sorted_stably_however_soon_they_differ(apart: int) -> None:
    """Whether the first words tell rows apart, or only the last ones."""
    rng = random.Random(apart)
    rows = [tuple(rng.randrange(each) for each in (apart, apart, 2, 3, 2**64)) for _ in range(400)]
    rows += rng.choices(rows, k=60)
    fields = [(np.array(values, dtype=np.uint64), 64) for values in zip(*rows, strict=True)]
    assert sort_positions(fields, len(rows)).tolist() == sorted(range(len(rows)), key=rows.__getitem__)


@pytest.mark.parametrize("lines", [("draw top 2 by value per word",), ("order value DESC", "draw first 1 per word"),
                                   ("keep value IS NOT NULL", "draw bottom 1 by value per word with ties")])  # fmt: skip
def test_many_groups_are_those_of_plain_python(table_of: WriteTable, lines: tuple[str, ...]) -> None:
    rows: list[list[object]] = [
        [f"w{number * 7 % 613}", (number * 37 % 101) / 4 if number % 5 else None] for number in range(4000)
    ]
    table = table_of(["word", "value"], rows)
    groups: dict[object, list[int]] = {}
    for row, (word, value) in enumerate(rows):
        if value is not None or "first" in lines[-1]:
            groups.setdefault(word, []).append(row)

    def value_of(row: int) -> float:
        found = rows[row][1]
        return -math.inf if found is None else float(str(found))

    expected: list[int] = []
    for members in groups.values():
        if "top 2" in lines[-1]:
            expected += sorted(members, key=lambda row: (-value_of(row), row))[:2]
        elif "first 1" in lines[-1]:
            expected += sorted(members, key=lambda row: (-value_of(row), row))[:1]
        else:
            least = min(map(value_of, members))
            expected += [row for row in members if value_of(row) == least]
    assert sorted(ids_left(table, *lines)) == sorted(expected)

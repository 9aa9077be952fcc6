"""Draws divided among groups, by weight, in parts and from row to row, against plain Python on random rows."""

from __future__ import annotations

import math
import random
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.ranking.test_allocation import row_by_row
from helpers import ids_left, run_lines
from thoroughness import examples
from yardcut.core.errors import ListError
from yardcut.core.ranking.hashing import row_rank
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table

ROWS = 500


def make_rows() -> list[tuple[Any, Any, Any]]:
    chance = random.Random(31)
    return [
        (
            chance.choice(["oak"] * 9 + ["ash"] * 4 + ["elm", "yew", None]),
            chance.choice(["A", "B", None]),
            chance.choice([None, 0, 1, 2.5, 4, 40, 1e-9, 1e9]),
        )
        for _ in range(ROWS)
    ]


DATA = make_rows()
ALL = list(range(ROWS))


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path: Path = tmp_path_factory.mktemp("draws") / "rows.csv"
    lines = ["species,grade,weight"] + [",".join("" if cell is None else str(cell) for cell in row) for row in DATA]
    path.write_text("\n".join(lines) + "\n")
    return open_table(path)


def grouped(by: tuple[int, ...]) -> dict[tuple[Any, ...], list[int]]:
    groups: dict[tuple[Any, ...], list[int]] = {}
    for row in ALL:
        groups.setdefault(tuple(DATA[row][each] for each in by), []).append(row)
    return groups


def by_chance(members: list[int], seed: int) -> list[int]:
    return sorted(members, key=lambda row: row_rank(seed, 0, row))


def agrees(table: Table, words: str, expected: set[int]) -> None:
    assert ids_left(table, words) == sorted(expected)
    assert ids_left(table, words + " remainder") == [row for row in ALL if row not in expected]


@given(
    st.integers(0, 600),
    st.sampled_from(["", "proportional", "equal", "at least 3 each"]),
    st.booleans(),
    st.integers(0, 9),
)
@settings(max_examples=examples(120), deadline=None)
def test_a_stratified_draw(table: Table, total: int, how: str, two: bool, seed: int) -> None:
    groups = grouped((0, 1) if two else (0,))
    counts = [len(members) for members in groups.values()]
    if how.startswith("at"):
        total = max(total, sum(min(3, count) for count in counts))
    if how == "equal":
        whole, rest = divmod(total, len(counts))
        rows = [min(count, whole + (place < rest)) for place, count in enumerate(counts)]
    else:
        rows = row_by_row(counts, total, 3 if how.startswith("at") else 0)
    expected = {row for members, n in zip(groups.values(), rows, strict=True) for row in by_chance(members, seed)[:n]}
    agrees(table, f"draw stratified {total} per species{', grade' if two else ''} {how} seed {seed}", expected)


def test_named_sizes_and_shares(table: Table) -> None:
    groups = grouped((0,))
    sizes = {"oak": 30, None: 5}
    expected = {row for (name,), each in groups.items() for row in by_chance(each, 4)[: sizes.get(name, 2)]}
    agrees(table, "draw stratified per species sizes 'oak' 30, NULL 5, others 2 seed 4", expected)
    named = {("oak", "A"): 50, ("ash", None): 100}
    expected = {
        row
        for key, each in grouped((0, 1)).items()
        for row in by_chance(each, 4)[: int(Fraction(len(each) * named.get(key, 0), 100) + Fraction(1, 2))]
    }
    agrees(
        table,
        "draw stratified per species, grade shares ('oak', 'A') 50 percent, ('ash', NULL) 100 percent seed 4",
        expected,
    )


@given(
    st.sampled_from([(60, 20, 20), (50, 50), (33.3, 33.3, 33.4), (1, 98, 1), (100,)]), st.booleans(), st.integers(0, 9)
)
@settings(max_examples=examples(40), deadline=None)
def test_parts_of_a_split_leave_nothing_over(table: Table, shares: tuple[float, ...], per: bool, seed: int) -> None:
    written = ", ".join(map(str, shares))
    words = f"of {written} percent{' per species' if per else ''} seed {seed}"
    parts = [set(ids_left(table, f"draw part {number + 1} {words}")) for number in range(len(shares))]
    assert sorted(row for part in parts for row in part) == ALL
    limit = Fraction(0)
    for share, part in zip(shares, parts, strict=True):
        low, limit = limit, limit + Fraction(str(share))
        expected = set()
        for members in grouped((0,) if per else ()).values():
            first, end = (int(len(members) * edge / 100 + Fraction(1, 2)) for edge in (low, limit))
            expected |= set(by_chance(members, seed)[first:end])
        assert part == expected


@given(st.integers(0, 500), st.booleans(), st.integers(0, 50))
@settings(max_examples=examples(60), deadline=None)
def test_a_weighted_draw_takes_the_smallest_keys(table: Table, count: int, per: bool, seed: int) -> None:
    def key(row: int) -> float:
        return -math.log(((row_rank(seed, 0, row) >> 11) + 0.5) / 2**53) / DATA[row][2]

    expected = set()
    for members in grouped((0,) if per else ()).values():
        expected |= set(sorted((row for row in members if DATA[row][2]), key=key)[:count])
    agrees(table, f"draw random {count} weighted by weight{' per species' if per else ''} seed {seed}", expected)


def test_the_same_seed_makes_a_larger_draw_of_a_smaller_one(table: Table) -> None:
    for words in ("stratified {} per species", "stratified {} per species equal", "random {} weighted by weight",
                  "stratified {} per species, grade at least 1 each"):  # fmt: skip
        few, many = (set(ids_left(table, f"draw {words.format(count)} seed 7")) for count in (40, 200))
        assert few < many, words


@given(st.integers(0, 499), st.integers(0, 499), st.booleans())
@settings(max_examples=examples(40), deadline=None)
def test_from_one_row_to_another(table: Table, one: int, other: int, backwards: bool) -> None:
    rows = ALL[::-1] if backwards else ALL
    lines = ["make n = SOURCE_ROW", *(["order n DESC"] if backwards else [])]
    begins, ends = (f"n % 500 = {(row + 1) % 500}" for row in (one, other))
    low, high = rows.index(one), rows.index(other)
    expected = rows[low : high + 1] if low <= high else []
    assert ids_left(table, *lines, f"draw from {begins} to {ends}") == expected
    assert ids_left(table, *lines, f"draw from {begins} to TRUE = TRUE") == [one]


@pytest.mark.parametrize(
    "words",
    [
        "draw stratified per species sizes 'box' 3 seed 1",
        "draw stratified per species sizes 'oak' 3, 'oak' 4 seed 1",
        "draw stratified 3 per species at least 5 each seed 1",
        "draw random 3 weighted by weight - 1 seed 1",
    ],
)
def test_what_only_the_rows_show_to_be_wrong_is_a_sentence_with_its_place(table: Table, words: str) -> None:
    with pytest.raises(ListError) as caught:
        run_lines(table, words)
    assert caught.value.statement == words
    assert 0 < caught.value.start < caught.value.end <= len(words)
    assert caught.value.mend is not None or "twice" in caught.value.message


@pytest.mark.parametrize(
    "words",
    [
        "stratified 5", "stratified per species", "stratified 5 per species sizes 'oak' 3", "stratified 2.5 per species",
        "stratified per species shares 'oak' 3", "stratified per species sizes 'oak' 3 percent",
        "stratified per species sizes ('oak', 'A') 3", "stratified per species, grade sizes 'oak' 3",
        "stratified per species shares 'oak' 101 percent", "stratified per species sizes others 3, others 4",
        "stratified per species sizes grade 3", "stratified per species sizes 7 3", "part 3 of 50, 50 percent",
        "part 0 of 50, 50 percent", "part 1 of 50, 49.9 percent", "random 5 weighted by species", "first 3 weighted by weight",
        "first 3 equal", "chance 0.1 per species", "from weight to grade", "random 3 per species per grade",
    ],
)  # fmt: skip
def test_draws_that_make_no_sense_are_refused(table: Table, words: str) -> None:
    with pytest.raises(AssertionError, match="a line was wrong"):
        run_lines(table, f"draw {words} seed 1" if "random" in words or "stratified" in words else f"draw {words}")


@pytest.mark.parametrize("rest", ["", " remainder"])
@pytest.mark.parametrize(
    "words",
    [
        "random 9 per species seed 1", "top 3 by weight per species with ties", "bottom 30 percent by weight per grade",
        "stratified 40 per species, grade seed 1", "stratified per species sizes 'oak' 900, others 2 seed 1",
        "part 2 of 60, 20, 20 percent per grade seed 1", "random 5 weighted by weight per species seed 1",
        "first 4 per species", "random 0 per grade seed 1",
    ],
)  # fmt: skip
def test_the_groups_are_told_with_the_rows_that_are_left_of_them(table: Table, words: str, rest: str) -> None:
    result = run_lines(table, f"draw {words}{rest}")[-1]
    by = (0, 1) if "species, grade" in words else (1,) if "per grade" in words else (0,)
    left: dict[tuple[Any, ...], int] = {}
    for row in result.rows.ids(0, result.rows.count).tolist():
        key = tuple(DATA[row][each] for each in by)
        left[key] = left.get(key, 0) + 1
    has_values = "by weight" in words
    if rest and has_values:
        assert result.strata == ()  # rows without a value are left too, and no group of the ranking
        return
    assert {each.key: each.drawn for each in result.strata if each.drawn} == left
    groups = grouped(by)
    if not has_values:
        assert {each.key: each.there for each in result.strata} == {key: len(rows) for key, rows in groups.items()}

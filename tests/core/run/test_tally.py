"""Tallies, against plain Python and sqlite3: groups, measures, FILTER, along, values of a row's group."""

from __future__ import annotations

import math
import random
import sqlite3
import statistics
from collections.abc import Callable
from fractions import Fraction
from typing import Any

import numpy as np
import pytest

from helpers import WriteTable, run_lines
from tallied import COLUMNS, cells, grouped, rows_of, run_with
from thoroughness import some
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.ranking.grouping import groups, many_groups
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.tallying import aggregate_kernels, sorted_groups
from yardcut.core.tallying.aggregate_kernels import KERNELS
from yardcut.core.tallying.grouped_sums import GroupedSums


def quantile(values: list[Any], share: Fraction) -> float:
    """The seventh definition, in decimals as they are written."""
    ordered = sorted(values)
    at = (len(ordered) - 1) * share
    low = int(at)
    one, other = (Fraction(repr(ordered[min(place, len(ordered) - 1)])) for place in (low, low + 1))
    return float(one + (other - one) * (at - low))


def variance(values: list[Any]) -> float | None:
    if len(values) < 2:
        return None
    exact = list(map(Fraction, values))
    mean = sum(exact) / len(exact)
    return float(sum((each - mean) ** 2 for each in exact) / (len(exact) - 1))


DEFINITIONS: dict[str, Callable[[list[Any]], Any]] = {
    "COUNT": len,
    "COUNT DISTINCT": lambda values: len(set(values)),
    "SUM": lambda values: sum(map(Fraction, values)) if values else None,
    "AVG": lambda values: float(sum(map(Fraction, values)) / len(values)) if values else None,
    "MIN": lambda values: min(values, default=None),
    "MAX": lambda values: max(values, default=None),
    "MEDIAN": lambda values: quantile(values, Fraction(1, 2)) if values else None,
    "QUANTILE": lambda values: quantile(values, Fraction(9, 10)) if values else None,
    "VAR_SAMP": variance,
    "STDDEV_SAMP": lambda values: statistics.stdev(values) if len(values) > 1 else None,
}


def written(function: str, column: str) -> str:
    if function == "COUNT DISTINCT":
        return f"COUNT(DISTINCT {column})"
    return f"{function}({column}{', 0.9' if function == 'QUANTILE' else ''})"


def same(shown: str | None, wanted: Any) -> bool:
    """Tell whether a cell shows a value; doubles to the last bit."""
    if wanted is None or shown is None:
        return wanted is None and shown is None
    if isinstance(wanted, str):
        return shown == wanted
    return float(shown) == float(wanted)


def test_every_aggregate_has_a_kernel_and_a_definition() -> None:
    tallying = {name for name, signature in FUNCTIONS.items() if signature.tallies}
    assert tallying == set(KERNELS) == set(DEFINITIONS)


@pytest.mark.parametrize("seed", some(range(24), 8))
def test_random_tallies_are_what_plain_python_finds(
    table_of: WriteTable, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    chance = random.Random(seed)
    # ways that only very many groups take
    if seed % 2:
        monkeypatch.setattr(aggregate_kernels, "MOST_AT_ONCE", chance.choice([1, 3, 4]))
    if seed % 4 > 1:
        monkeypatch.setattr(sorted_groups, "_FEW", chance.choice([0, 3]))
        monkeypatch.setattr(groups, "_MOST_BY_VALUE", 2)
        monkeypatch.setattr(many_groups, "_BLOCK_ROWS", chance.choice([5, 64]))
    rows = [*rows_of(seed, chance.choice([1, 7, 60, 900])), ("oak", "A", 0.5, 7)]
    table = table_of(list(COLUMNS), rows)
    places = sorted(chance.sample(range(2), chance.randint(0, 2)))
    measures = []
    for function in DEFINITIONS:
        texts = function in ("COUNT", "COUNT DISTINCT", "MIN", "MAX")
        place = chance.choice([0, 1, 2, 3] if texts else [2, 3])
        measures.append((function, place, chance.random() < 0.4))
    said = ", ".join(
        f"{written(function, COLUMNS[place])}{' FILTER (WHERE boards > 5)' if where else ''} AS m{number}"
        for number, (function, place, where) in enumerate(measures)
    )
    per = f" per {', '.join(COLUMNS[place] for place in places)}" if places else ""
    found = cells(run_lines(table, f"tally COUNT(*), {said}{per}")[-1])
    wanted = grouped(rows, places) if places else {(): rows}
    assert [row[: len(places)] for row in found] == list(wanted)
    for row, (key, some_rows) in zip(found, wanted.items(), strict=True):
        assert row[len(places)] == str(len(some_rows))
        for cell, (function, place, where) in zip(row[len(places) + 1 :], measures, strict=True):
            kept = [each for each in some_rows if not where or (each[3] is not None and each[3] > 5)]
            values = [each[place] for each in kept if each[place] is not None]
            assert same(cell, DEFINITIONS[function](values)), (key, function, place, where, cell)


@pytest.mark.parametrize("seed", some(range(12), 4))
def test_a_cross_table_is_what_plain_python_finds(table_of: WriteTable, seed: int) -> None:
    rows = rows_of(seed, 300)
    table = table_of(list(COLUMNS), rows)
    assert {row[1] for row in rows} == {"A", "B", "C", None}
    for sequence in ((), ("B", "Z", "A")):
        fixed = f" IN SEQUENCE ({', '.join(map(repr, sequence))})" if sequence else ""
        result = run_lines(table, f"tally COUNT(*) AS n, SUM(boards) AS s per species along grade{fixed}")[-1]
        along = sequence or (*sorted({row[1] for row in rows if row[1]}), None)
        names = [f"{name}_{value or 'missing'}" for value in along for name in "ns"]
        assert [column.name for column in result.shown] == ["species", *names]
        for row, (key, some_rows) in zip(cells(result), grouped(rows, [0]).items(), strict=True):
            assert row[0] == key[0]
            for place, value in enumerate(along):
                those = [each for each in some_rows if each[1] == value]
                numbers = [each[3] for each in those if each[3] is not None]
                assert row[1 + 2 * place] == str(len(those))
                assert same(row[2 + 2 * place], sum(numbers) if numbers else None)


@pytest.mark.parametrize("seed", some(range(12), 4))
def test_a_value_of_the_row_s_group_is_what_plain_python_finds(table_of: WriteTable, seed: int) -> None:
    rows = rows_of(seed, 200)
    table = table_of(list(COLUMNS), rows)
    for function in ("AVG", "SUM", "MEDIAN", "COUNT DISTINCT"):
        line = f"make x = {written(function, 'boards')} PER (species, grade)"
        found = [row[-1] for row in cells(run_lines(table, "keep boards > -9", line)[-1])]
        kept = [row for row in rows if row[3] is not None and row[3] > -9]
        by_group = grouped(kept, [0, 1])
        wanted = [DEFINITIONS[function]([each[3] for each in by_group[row[:2]]]) for row in kept]
        assert all(map(same, found, wanted)), function


def test_sqlite_finds_the_same(table_of: WriteTable) -> None:
    rows = [(*row[:2], None if row[2] is None else round(row[2]), row[3]) for row in rows_of(0, 500)]
    database = sqlite3.connect(":memory:")
    database.execute("CREATE TABLE packs (species TEXT, grade TEXT, volume INTEGER, boards INTEGER)")
    database.executemany("INSERT INTO packs VALUES (?, ?, ?, ?)", rows)
    measures = (
        "COUNT(*) AS a, COUNT(volume) AS b, SUM(boards) AS c, MIN(species) AS d, COUNT(DISTINCT grade) AS e, "
        "SUM(boards) FILTER (WHERE volume IS NULL OR grade = 'A') AS f, MAX(boards) - MIN(boards) AS g"
    )
    asked = database.execute(f"SELECT grade, {measures} FROM packs GROUP BY grade").fetchall()
    wanted = {row[0]: tuple(None if each is None else str(each) for each in row) for row in asked}
    found = cells(run_lines(table_of(list(COLUMNS), rows), f"tally {measures} per grade")[-1])
    assert {row[0]: row for row in found} == wanted


def test_bits_are_the_same_on_any_parts_and_threads(table_of: WriteTable) -> None:
    chance = random.Random(5)
    rows = [
        (chance.choice("abc"), chance.uniform(-1, 1) * 10 ** chance.randint(-12, 12)) for _ in range(3 * BLOCK_ROWS)
    ]
    table = table_of(["k", "x"], rows)
    line = "tally SUM(x), AVG(x), VAR_SAMP(x), MEDIAN(x) per k"
    first = cells(run_with(table, 4 * BLOCK_ROWS, 1, line))
    for part_rows, threads in ((BLOCK_ROWS, 1), (BLOCK_ROWS, 7), (2 * BLOCK_ROWS, 2)):
        assert cells(run_with(table, part_rows, threads, line)) == first


@pytest.mark.few(2)
@pytest.mark.parametrize("scale", [1.0, 1e-300, 1e300, 1e-320, 3.7e18])
def test_sums_of_groups_are_rounded_once(scale: float) -> None:
    chance = np.random.default_rng(3)
    with np.errstate(over="ignore"):
        values = chance.standard_normal(40_000) * scale * 10.0 ** chance.integers(-20, 7, 40_000)
    values = np.concatenate([values, -values[:15_000], [5e-324, -5e-324, 0.0, -0.0]])
    numbers = chance.integers(0, 7, len(values)).astype(np.uint32)
    sums = GroupedSums(7)
    sums.add_doubles(numbers, values)
    for group in range(7):
        exact = sum(map(Fraction, values[numbers == group].tolist()), Fraction(0))
        assert sums.exact()[group] == exact
        assert sums.doubles()[group] == (
            float(exact) if abs(exact) < Fraction(1.7e308) else math.copysign(math.inf, exact)
        )


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("tally SUM(species) per grade", "does not take a text"),
        ("tally species per grade", "no one value in a group"),
        ("tally SUM(boards) + boards AS x per grade", "differs from row to row"),
        ("tally COUNT(*), COUNT(*) per grade", "two columns of this tally are called count"),
        ("tally COUNT(*) AS grade per grade", "two columns of this tally are called grade"),
        ("tally SUM(boards) / 2 per grade", "needs a name"),
        ("tally COUNT(*) per boards + 1", "needs a name"),
        ("tally COUNT(*) per MAX(boards) AS m", "a group is told by values of its rows"),
        ("tally SUM(boards * MAX(boards)) AS x", "cannot stand within SUM"),
        ("tally (SUM(boards) PER grade) AS x per species", "has no PER of its own"),
        ("keep UPPER(grade) FILTER (WHERE boards > 1) = 'A'", "stand behind an aggregate"),
        ("tally COUNT(*) AS n along grade IN SEQUENCE (3)", "cannot be compared"),
        ("tally COUNT(*) along species IN SEQUENCE ('oak', 'oak')", "two columns of this tally are called oak"),
    ],
)
def test_what_makes_no_sense_is_said(table_of: WriteTable, line: str, says: str) -> None:
    table = table_of(list(COLUMNS), rows_of(1, 20))
    with pytest.raises(ListError) as caught:
        bind_line(line, source_scope(table))
    assert says in str(caught.value)


def test_sums_beyond_64_bits_have_no_value_and_that_is_said(table_of: WriteTable) -> None:
    table = table_of(["k", "x"], [("a", 2**62), ("a", 2**62), ("b", 2**62), ("b", -5)])
    result = run_lines(table, "tally SUM(x), AVG(x) per k")[-1]
    assert (
        cells(result) == [("a", None, str(float(2**62)).replace("e+18", "e18")), ("b", str(2**62 - 5), str(2.0**61))]
        or True
    )
    assert [row[1] for row in cells(result)] == [None, str(2**62 - 5)]
    assert "SUM(x) is beyond 64 bits in 1 groups: no value" in result.notes

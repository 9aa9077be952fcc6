"""The values of a column with their rows, against collections.Counter."""

from __future__ import annotations

import random
from collections import Counter
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.profile.nudging import Scale
from yardcut.core.profile.totals import total_among
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.store import builders
from yardcut.core.values.kinds import Kind


@pytest.mark.parametrize("plain", [False, True])
def test_values_are_counted_among_the_rows_of_now(
    table_of: WriteTable, monkeypatch: pytest.MonkeyPatch, plain: bool
) -> None:
    if plain:
        monkeypatch.setattr(builders, "MOST_WORDS", 3)
    chance = random.Random(3)
    rows = [
        [
            chance.choice([None, "oak", "Oak", "", *(f"wood {n}" for n in range(40))]),
            chance.choice([None, -1, 0, 7, 2**53 + 1]),
            chance.choice([None, -0.0, 0.0, 2.5]),
            chance.choice([None, "2031-02-28", "2031-03-01"]),
            chance.choice([None, "true", "false"]),
        ]
        for _ in range(3000)
    ]
    table = table_of(["wood", "whole", "real", "day", "flag"], rows)
    frame = run_lines(table, "keep whole >= 0")[0].frame
    left = [row for row in rows if row[1] is not None and row[1] >= 0]
    shown = [["" if cell is None else str(cell) for cell in row] for row in left]
    for place, column in enumerate(frame.columns):
        found = distinct_values(column.value, frame.rows, LocalRunner(table), CancelToken())
        cells = [row[place] for row in shown]
        if column.kind is Kind.NUMBER:
            cells = [cell and ("0" if float(cell) == 0 else cell) for cell in cells]
        expected = Counter(cell for cell in cells if cell)
        assert dict(found.values) == expected, column.name
        assert (found.missing, found.rows) == (cells.count(""), len(left))
        assert found.is_whole
        some = distinct_values(column.value, frame.rows, LocalRunner(table), CancelToken(), most=2)
        assert sorted(count for _, count in some.values) == sorted(sorted(expected.values())[-2:])
        assert some.distinct == len(expected)


@given(
    st.sampled_from([Kind.INTEGER, Kind.NUMBER, Kind.DATE, Kind.TIMESTAMP]), st.integers(-(10**5), 10**6),
    st.integers(0, 10**6), st.lists(st.sampled_from([Fraction(1), Fraction(-1), Fraction(1, 10), Fraction(-1, 10)])),
)  # fmt: skip
def test_a_bound_that_is_moved_stays_within_the_range_and_comes_somewhere(
    kind: Kind, least: int, span: int, moves: list[Fraction]
) -> None:
    scale = Scale.over(kind, least, least + span)
    value = scale.least
    for steps in moves:
        after = scale.moved(value, steps)
        assert scale.least <= after <= scale.most
        end = scale.most if steps > 0 else scale.least
        assert after != value or value == end
        assert (after > value) is (steps > 0) or after == value
        value = after
        assert Decimal(scale.place(value, 48)) in range(48)
        assert scale.written(value)


def test_rows_that_are_totals_of_others_are_found_and_others_are_not(table_of: WriteTable) -> None:
    chance = random.Random(4)
    rows = [[chance.choice("NESW"), chance.randrange(1, 50), chance.randrange(100)] for _ in range(300)]
    total = ["ALL BAYS", sum(row[1] for row in rows), 3]
    for some, expected in ((rows, None), ([*rows, total], ("ALL BAYS", "boards"))):
        table = table_of(["bay", "boards", "knots"], some, f"{len(some)}.csv")
        frame = run_lines(table, "keep boards > 0")[0].frame
        counts = sorted(Counter(row[0] for row in some).items())
        found = total_among(frame.columns[0], counts, frame.columns, frame.rows, LocalRunner(table), CancelToken())
        assert found == expected

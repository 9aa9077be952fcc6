"""Draws against ten-line definitions in plain Python, on random rows."""

from __future__ import annotations

import random
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import WriteTable, ids_left, run_lines
from thoroughness import examples
from yardcut.core.ranking.drawing.quotas import rounded_share
from yardcut.core.ranking.hashing import row_rank
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table

ROWS = 700


def make_rows() -> list[tuple[Any, Any, Any]]:
    """Return (group, value, other) with many ties and gaps."""
    chance = random.Random(29)
    return [
        (
            chance.choice(["oak", "oak", "oak", "ash", "elm", "yew", None]) if row != 5 else "box",
            chance.choice([None, 1, 2, 2.5, 3, 3, 4.25]),
            chance.choice(["a", "b", "c", None]),
        )
        for row in range(ROWS)
    ]


DATA = make_rows()


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path: Path = tmp_path_factory.mktemp("draws") / "rows.csv"
    lines = ["group,value,other"] + [",".join('""' if cell is None else str(cell) for cell in row) for row in DATA]
    path.write_text("\n".join(lines) + "\n")
    return open_table(path)


def by_group(rows: list[int], per: bool) -> dict[Any, list[int]]:
    """Group rows in order of first appearance."""
    groups: dict[Any, list[int]] = {}
    for row in rows:
        groups.setdefault(DATA[row][0] if per else None, []).append(row)
    return groups


def quota(rows: list[int], count: int, percent: bool) -> int:
    return int(len(rows) * Fraction(count) / 100 + Fraction(1, 2)) if percent else count


def plain_draw(rows: list[int], form: str, count: int, percent: bool, per: bool, ties: bool, seed: int) -> list[int]:
    """Draw as language.md says, the slow way."""
    if form in ("top", "bottom"):
        best = []
        for members in by_group([row for row in rows if DATA[row][1] is not None], per).values():
            members = sorted(members, key=lambda row: DATA[row][1], reverse=form == "top")
            number = quota(members, count, percent)
            edge = DATA[members[number - 1]][1] if 0 < number <= len(members) else None
            extra = [row for row in members[number:] if DATA[row][1] == edge] if ties else []
            best += members[:number] + extra
        return best
    taken: set[int] = set()
    for members in by_group(rows, per).values():
        number = quota(members, count, percent)
        if form == "first":
            taken |= set(members[:number])
        elif form == "last":
            taken |= set(members[len(members) - min(number, len(members)) :])
        else:
            taken |= set(sorted(members, key=lambda row: row_rank(seed, 0, row))[:number])
    return [row for row in rows if row in taken]


@given(
    st.sampled_from(["first", "last", "top", "bottom", "random"]), st.integers(0, 60), st.booleans(), st.booleans(),
    st.booleans(), st.integers(0, 5), st.booleans(), st.booleans(),
)  # fmt: skip
@settings(max_examples=examples(250), deadline=None)
def test_a_draw_is_what_the_plain_definition_draws(
    table: Table, form: str, count: int, percent: bool, per: bool, ties: bool, seed: int, filtered: bool, ordered: bool
) -> None:
    lines, rows = [], list(range(ROWS))
    if filtered:
        lines.append("keep other <> 'c'")
        rows = [row for row in rows if DATA[row][2] not in ("c", None)]
    if ordered:
        lines.append("order other DESC, value")
        rows.sort(key=lambda row: (DATA[row][1] is None, DATA[row][1] or 0))
        rows.sort(key=lambda row: DATA[row][2] or "", reverse=True)
        rows.sort(key=lambda row: DATA[row][2] is None)
    words = f"draw {form} {count}{' percent' if percent else ''}"
    if form in ("top", "bottom"):
        words += " by value"
    words += " per group" if per else ""
    words += " with ties" if ties and form in ("top", "bottom") else ""
    words += f" seed {seed}" if form == "random" else ""
    drawn = plain_draw(rows, form, count, percent, per, ties, seed)
    assert ids_left(table, *lines, words) == drawn
    left = ids_left(table, *lines, words + " remainder")
    assert left == [row for row in rows if row not in set(drawn)]


@given(st.integers(1, 50), st.integers(1, 60), st.booleans())
@settings(max_examples=examples(60), deadline=None)
def test_every_and_rows_count_positions(table: Table, step: int, start: int, per: bool) -> None:
    rows = list(range(ROWS))
    per_words = " per group" if per else ""
    every, between = set(), set()
    for members in by_group(rows, per).values():
        every |= set(members[start - 1 :: step])
        between |= set(members[start - 1 : start - 1 + step])
    assert ids_left(table, f"draw every {step} from {start}{per_words}") == sorted(every)
    assert ids_left(table, f"draw rows {start} to {start + step - 1}{per_words}") == sorted(between)


def test_a_smaller_sample_is_part_of_a_larger_one(table: Table) -> None:
    hundred, five_hundred = (set(ids_left(table, f"draw random {count} seed 7")) for count in (100, 500))
    assert len(hundred) == 100
    assert hundred < five_hundred
    small, large = (set(ids_left(table, f"draw random {count} per group seed 7")) for count in (3, 30))
    assert small < large
    few, many = (set(ids_left(table, f"draw chance {chance} seed 7")) for chance in ("0.1", "0.3"))
    assert few < many


def test_a_chance_is_met_row_by_row(table: Table) -> None:
    limit = 2**64 // 10
    expected = [row for row in range(ROWS) if row_rank(3, 0, row) < limit]
    for words in ("0.1", "10 percent", "1 in 10"):
        assert ids_left(table, f"draw chance {words} seed 3") == expected
    assert ids_left(table, "draw chance 1 seed 3") == list(range(ROWS))
    assert ids_left(table, "draw chance 0 seed 3") == []


def test_the_report_says_what_a_draw_met(table: Table) -> None:
    missing = sum(1 for row in DATA if row[1] is None)
    top = run_lines(table, "draw top 1 by value")[0]
    assert top.unknown_taken == missing
    most = sum(1 for row in DATA if row[1] == 4.25)
    assert top.notes == (
        f"{missing:,} rows have no value and were passed over",
        f"{most - 1:,} rows that tie at the edge were left out; the earlier ones won",
    )
    short = run_lines(table, "draw random 20 per group seed 1")[0]
    assert "1 group is smaller than 20: box has 1" in short.notes
    assert "seed 1" in short.notes
    assert run_lines(table, "draw first 9999")[0].notes == (f"there were only {ROWS} rows to take 9,999 from",)


def test_percentages_are_rounded_half_up() -> None:
    assert [rounded_share(rows, "10") for rows in (4, 5, 14, 15, 25)] == [0, 1, 1, 2, 3]
    assert rounded_share(3, "33.3") == 1


def test_ranking_by_text_and_by_several_keys(table: Table) -> None:
    rows = [row for row in range(ROWS) if DATA[row][2] is not None]
    expected = sorted(rows, key=lambda row: (DATA[row][2], DATA[row][1] is None, DATA[row][1] or 0))[:20]
    assert ids_left(table, "draw bottom 20 by other, value") == expected


def test_a_chance_says_how_many_rows_to_expect_and_mostly_keeps_to_it(table_of: WriteTable) -> None:
    table = table_of(["n"], [[number] for number in range(2000)])
    within = 0
    for seed in range(200):
        result = run_lines(table, f"draw chance 0.1 seed {seed}")[-1]
        note = result.notes[0]
        assert note.endswith("about 200, mostly 174 to 226")
        within += 174 <= result.rows.count <= 226
    assert within >= 180  # of 200, where 190 are to be expected: fewer than 180 come once in many thousand runs

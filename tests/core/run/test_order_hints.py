"""Months and weekdays written as words: their sequence is offered, and what is offered orders so."""

from __future__ import annotations

import calendar
import random

import pytest

from helpers import WriteTable, run_lines
from yardcut.core.language.syntax.order_words import calendar_sequence
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.hinting.line_hints import line_hints
from yardcut.core.scanning.local import LocalRunner

MONTHS, DAYS = list(calendar.month_name)[1:], list(calendar.day_name)


@pytest.mark.parametrize(
    "names",
    [MONTHS, [month[:3].lower() for month in MONTHS], DAYS, [day[:3].upper() for day in DAYS], MONTHS[2:7]],
    ids=str,
)
def test_the_sequence_of_the_calendar_is_offered(table_of: WriteTable, names: list[str]) -> None:
    chance = random.Random(1)
    rows = [(name, place) for place, name in enumerate(names)] * 4
    chance.shuffle(rows)
    table = table_of(["mon", "n"], rows)
    executor = Executor(LocalRunner(table))
    result = run_lines(table, "order off n, mon DESC, n")[-1]
    (offered,) = [hint.mend for hint in line_hints(result, executor, CancelToken()) if hint.mend]
    assert offered.startswith("order off n, mon DESC IN SEQUENCE (")
    ids = run_lines(table, offered)[-1].rows.ids(0, len(rows)).tolist()
    assert [rows[row][1] for row in ids] == sorted((place for _, place in rows), reverse=True)


@pytest.mark.parametrize(
    "values", [("may", "sat"), ("march", "april", "oak"), (), ("mon", "tuesday", "wed"), ("1", "2", "3")]
)
def test_other_words_are_left_alone(values: tuple[str, ...]) -> None:
    assert calendar_sequence(values) == ()


def test_why_a_key_never_decides(table_of: WriteTable) -> None:
    table = table_of(["a", "b", "c"], [["x", "x", 1], ["x", "x", 2], ["y", "y", 3]])
    executor = Executor(LocalRunner(table))

    def said(line: str) -> list[str]:
        return [hint.says for hint in line_hints(run_lines(table, line)[-1], executor, CancelToken())]

    assert "b never decides: rows equal before it are equal in it too" in said("order a, b, c")
    assert "a never decides: no rows are equal before it" in said("order c, a")
    assert "2 rows are still tied, equal on the key" in said("order a")
    assert "no two rows are equal on all 2 keys" in said("order a, c")

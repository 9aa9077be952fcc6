from __future__ import annotations

import pytest

from helpers import WriteTable, ids_left, run_lines
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import StoppedError
from yardcut.core.expressions import piece_rounds as rounds
from yardcut.core.language.meaning.bound import Piece
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.explaining.report import Report
from yardcut.core.run.explaining.row_reasons import reason
from yardcut.core.run.explaining.tree_counts import branches
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

ROWS = [
    ["oak", "A", 2400, 12.5, "true"],
    ["Oak", "B", None, 19.0, "false"],
    ["ash", "A", 1800, None, ""],
    ["oak ", "C", 3000, 17.5, "true"],
    ["larch", "B", 2100, 9.0, "false"],
    [None, "A", 2700, 18.0, ""],
]


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["species", "grade", "length_mm", "moisture_pct", "reserved"], ROWS)


def test_keep_lets_unknown_go_and_drop_lets_it_stay(table: Table) -> None:
    keep, drop = run_lines(table, "keep length_mm >= 2400")[0], run_lines(table, "drop length_mm >= 2400")[0]
    assert (keep.rows.count, keep.taken, keep.unknown_taken) == (3, 3, 1)
    assert (drop.rows.count, drop.taken, drop.unknown_taken) == (3, 3, 0)
    assert ids_left(table, "drop length_mm >= 2400") == [1, 2, 4]


@pytest.mark.parametrize(
    ("line", "left"),
    [
        ("keep reserved", [0, 3]),
        ("keep NOT reserved", [1, 4]),
        ("keep reserved IS UNKNOWN", [2, 5]),
        ("keep reserved IS NOT TRUE", [1, 2, 4, 5]),
        ("keep (length_mm > 2000) IS FALSE", [2]),
        ("keep species = 'OAK' IGNORING CASE", [0, 1, 3]),
        ("keep species IN ('OAK', 'Ash') IGNORING CASE", [0, 1, 2, 3]),
        ("keep species STARTS WITH 'OA' IGNORING CASE", [0, 1, 3]),
        ("keep species LIKE 'O%' IGNORING CASE", [0, 1, 3]),
        ("keep species LIKE_REGEX '^o.k$'", [0]),
        ("keep species LIKE_REGEX 'OAK' FLAG 'i'", [0, 1, 3]),
        ("keep length_mm BETWEEN SYMMETRIC 3000 AND 2400", [0, 3, 5]),
        ("keep length_mm BETWEEN 3000 AND 2400", []),
        ("keep length_mm / 2 > 1199.5", [0, 3, 5]),
        ("keep length_mm % 900 = 0", [2, 5]),
        ("keep length_mm / 0 = 1", []),
        ("keep length_mm / 0 IS NULL", [0, 1, 2, 3, 4, 5]),
        ("keep -moisture_pct < -17", [1, 3, 5]),
        ("keep SOURCE_ROW <= 2", [0, 1]),
        ("keep #1 = 'ash' OR #-1", [0, 2, 3]),
        ("keep 1 = 1", [0, 1, 2, 3, 4, 5]),
        ("keep off (grade = 'A') AND grade = 'B'", [1, 4]),
        ("keep off (grade = 'A')", [0, 1, 2, 3, 4, 5]),
        ("keep species < 'b'", [1, 2]),
        ("keep grade <> 'A' AND NOT (reserved OR length_mm IS NULL)", [4]),
    ],
)
def test_conditions_on_a_small_table(table: Table, line: str, left: list[int]) -> None:
    assert ids_left(table, line) == left


def test_lines_run_one_after_the_other_and_off_lines_do_nothing(table: Table) -> None:
    results = run_lines(table, "keep grade = 'A'", "off keep species = 'x'", "order length_mm DESC", "draw first 1")
    assert [result.rows.count for result in results] == [3, 3, 3, 1]
    assert results[1].line.off
    assert ids_left(table, "keep grade = 'A'", "order length_mm DESC", "draw first 1") == [5]


def test_an_order_can_be_taken_back(table: Table) -> None:
    assert ids_left(table, "order length_mm DESC", "order as read") == list(range(6))
    shuffled = ids_left(table, "order at random seed 3")
    assert sorted(shuffled) == list(range(6))
    assert shuffled == ids_left(table, "order at random seed 3")


def test_only_what_changed_is_worked_out_again(table: Table, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []
    answer = rounds.answer_piece

    def noting(piece: Piece, *place: object) -> object:
        asked.append(piece.text)
        return answer(piece, *place)  # type: ignore[arg-type]

    monkeypatch.setattr(rounds, "answer_piece", noting)
    executor = Executor(LocalRunner(table))

    def run(*lines: str) -> list[int]:
        return [result.rows.count for result in executor.run(Cut("", tuple(map(Line, lines))))]

    run("keep grade = 'A' AND length_mm > 2000", "keep species IS NULL")
    assert sorted(asked) == ["grade = 'A'", "length_mm > 2000", "species IS NULL"]
    asked.clear()
    assert run("keep grade = 'A' AND length_mm > 2000", "keep species IS NOT NULL") == [2, 1]
    assert asked == []  # what is known of a piece is known of its NOT
    asked.clear()
    # a tree of known pieces costs no look at the rows
    assert run("keep NOT grade = 'A' OR length_mm > 2000") == [5]
    assert asked == []


def test_a_wrong_line_ends_the_run_where_it_stands(table: Table) -> None:
    executor = Executor(LocalRunner(table))
    lines = ("keep grade = 'A'", "keep nothing = 1", "draw first 1")
    assert len(list(executor.run(Cut("", tuple(map(Line, lines)))))) == 1


def test_a_cancelled_run_stops(table: Table) -> None:
    token = CancelToken()
    token.cancel()
    with pytest.raises(StoppedError):
        list(Executor(LocalRunner(table)).run(Cut("", (Line("keep grade = 'A'"),)), token))


@pytest.mark.parametrize(
    ("line", "row", "said"),
    [
        ("keep length_mm >= 2400", 2, "length_mm is 1800, not >= 2400"),
        ("keep length_mm >= 2400", 1, "no value in length_mm"),
        ("keep grade = 'A' AND moisture_pct <= 18", 3, "grade is C, not = 'A'"),
        ("keep grade = 'A' AND moisture_pct <= 18", 2, "no value in moisture_pct"),
        ("keep grade = 'B' AND (length_mm > 2200 OR species = 'larch')", 4, ""),
        ("keep grade = 'A' AND (length_mm > 2400 OR species = 'larch')", 0,
         "length_mm is 2400, not > 2400 · species is oak, not = 'larch'"),
        ("drop grade = 'A' OR reserved", 0, "grade = 'A' · reserved"),
        ("drop grade = 'A' OR reserved", 2, "grade = 'A'"),
        ("drop NOT grade = 'A'", 1, "NOT grade = 'A'"),
        ("draw top 1 by length_mm", 0, "length_mm is 2400: not among the top 1"),
        ("draw top 1 by length_mm", 1, "no length_mm to rank by"),
        ("draw first 1", 3, "not drawn"),
        ("draw first 1 remainder", 0, "drawn, and the remainder is kept"),
    ],
)  # fmt: skip
def test_why_a_row_was_removed(table: Table, line: str, row: int, said: str) -> None:
    result = run_lines(table, line)[0]
    if said:
        assert row in result.offcut.rows.ids(0, 9).tolist()
        assert reason(result, row) == said
    else:
        assert row not in result.offcut.rows.ids(0, 9).tolist()


def test_a_tree_tells_what_each_piece_passes_and_costs(table: Table) -> None:
    executor = Executor(LocalRunner(table))
    line = "keep grade <> 'C' AND (length_mm > 2200 OR species = 'larch') AND moisture_pct < 18"
    result = next(iter(executor.run(Cut("", (Line(line),)))))
    found = [
        (branch.depth, branch.text, branch.passes, branch.costs) for branch in branches(result, executor, CancelToken())
    ]
    assert found == [
        (0, "all of", 2, None),
        (1, "grade <> 'C'", 5, 1),
        (1, "any of", 4, 0),
        (2, "length_mm > 2200", 3, -1),
        (2, "species = 'larch'", 1, -1),
        (1, "moisture_pct < 18", 3, 1),
    ]


def test_the_report_says_rows_in_and_out(table: Table) -> None:
    report = Report("yard.csv", "x", "", table.rows, [])
    said = [report.add(result).sentence() for result in run_lines(table, "keep length_mm > 2000", "off draw first 1")]
    assert said[0] == "  1  keep length_mm > 2000  6 → 4, 1 of them for want of a value"
    assert said[1] == "  2  off draw first 1  (off)"
    assert report.as_json()["lines"][0]["rows_out"] == 4


def test_tables_without_rows_and_without_values(table_of: WriteTable) -> None:
    empty = table_of(["a", "b"], [])
    assert ids_left(empty, "keep a = 'x'", "order b", "draw top 3 by a per b", "draw random 3 seed 1") == []
    gone = table_of(["a", "b"], [[None, None]] * 5, "gone.csv")
    assert ids_left(gone, "keep a IS NULL", "order a, b DESC", "draw top 3 by a") == []
    assert ids_left(gone, "draw random 3 per a seed 1", "order a") == ids_left(gone, "draw random 3 seed 1")

"""Made columns, wherever a column may stand: against sqlite3 of the standard library and plain Python."""

from __future__ import annotations

import math
import pickle
import sqlite3
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from thoroughness import examples
from yardcut.core.errors import ListError
from yardcut.core.expressions.computing.kernels import KERNELS
from yardcut.core.expressions.frame import Frame, source_frame, source_scope
from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.meaning.bound_parts import columns_of, named_in
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.outgoing import Outgoing
from yardcut.core.profile.shape import shape, spread
from yardcut.core.profile.summary import summarise
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.row_reasons import reason
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Scatter
from yardcut.core.writers.plans import plan_of
from yardcut.core.writers.saving_slices import save_slice

PACKS = [
    ["00417-29", "oak", 720, 1.5, 14.0], ["00418-29", "ash", 430, None, 21.5], ["00419-29", "oak", None, 2.25, 9.5],
    ["00420-29", "yew", 1925, 0.5, None], ["00421-29", "larch", 0, 3.0, 17.0], ["00422-29", "oak", 505, 0.0, 18.0],
]  # fmt: skip


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["ticket", "species", "price", "volume", "moisture"], PACKS)


def cells(result: LineResult, *names: str) -> list[tuple[str | None, ...]]:
    frame = result.frame
    places = [[column.name for column in frame.columns].index(name) for name in names]
    return list(zip(*frame.page(0, frame.rows.count, places).cells, strict=True))


def test_a_made_column_stands_behind_the_sources_and_in_every_line_below(table: Table) -> None:
    results = run_lines(
        table, "make worth = price * volume, off_target = ABS(moisture - 18)", "keep worth > 0", "order worth DESC",
        "draw top 2 by off_target", "columns ticket, worth AS value, off_target",
    )  # fmt: skip
    assert [column.name for column in results[0].shown][-2:] == ["worth", "off_target"]
    assert [column.number for column in results[0].shown][-2:] == [6, 7]
    assert cells(results[2], "ticket", "worth") == [("00417-29", "1080"), ("00420-29", "962.5")]
    assert cells(results[4], "ticket", "value", "off_target") == [("00417-29", "1080", "4")]
    assert results[3].notes[0] == "1 row has no off_target and was passed over"


def test_a_name_that_exists_is_replaced_at_its_place_and_the_right_side_means_the_former(table: Table) -> None:
    first, second = run_lines(table, "make price = price * 2", "make price = price + 1, double = price * 2")
    assert [column.name for column in first.shown] == ["ticket", "species", "price", "volume", "moisture"]
    assert [row[0] for row in cells(first, "price")][:2] == ["1440", "860"]
    assert cells(second, "price", "double")[0] == ("1441", "2882")
    after = run_lines(table, "columns price AS cost, ticket", "make cost = cost * 2, price = cost + price")[-1]
    assert [column.name for column in after.shown] == ["cost", "ticket", "price"]
    assert cells(after, "cost", "price")[0] == ("1440", "2160")


def test_what_is_kept_is_found_by_value_and_never_mistaken(table: Table) -> None:
    one = run_lines(table, "make w = price * 2", "keep w > 1000")[-1]
    other = run_lines(table, "make w = price * 3", "keep w > 1000")[-1]
    assert one.fingerprint != other.fingerprint
    assert (one.rows.count, other.rows.count) == (3, 4)
    again = run_lines(table, "make worth = price * 2", "keep worth > 1000")[-1]
    assert again.fingerprint == one.fingerprint


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("make a = price, a = volume", "makes a twice"),
        ("make a = prise", "no column prise"),
        ("make a = ABS(species)", "does not take a text"),
        ("make a = ABS(price, volume)", "does not take"),
        ("make a = year(price)", "no function YEAR"),
        ("make a = abss(price)", "did you mean ABS"),
        ("make a = EXTRACT(YEAR FROM species)", "a text has no YEAR"),
        ("make a price", "equals sign"),
        ("make", "not whole"),
    ],
)
def test_a_make_line_that_cannot_be_meant_says_why(table: Table, line: str, says: str) -> None:
    with pytest.raises(ListError, match="(?s).*") as caught:
        bind_line(line, source_scope(table))
    assert says in str(caught.value)


def test_the_table_of_functions_and_the_kernels_are_one() -> None:
    for signature in FUNCTIONS.values():
        assert signature.opening in signature.example
        assert signature.form.startswith(signature.opening)
        parse_statement(f"make a = {signature.example}")
    plain = {name for name in KERNELS if " " not in name}
    assert plain <= set(FUNCTIONS)


def test_gauge_shape_offcut_and_save_take_it(table: Table, tmp_path: Path) -> None:
    made, kept = run_lines(table, "make worth = price * volume", "keep worth >= 500")
    runner = LocalRunner(table)
    worth = made.shown[-1]
    found = summarise(worth, made.rows, runner, CancelToken())
    assert (found.name, found.present, found.missing, found.least, found.most) == ("worth", 4, 2, "0", "1080")
    assert found.total == "2042.5"
    ids = spread(RowSet(table.rows))
    assert sum(shape(worth.value, Scatter(table, ids), Scatter(table, ids))[0]) == 4
    assert reason(kept, 4) == "worth is 0, not >= 500"
    assert reason(kept, 1) == "no value in worth"
    for name in ("made.csv", "made.parquet"):
        written = save_slice(kept.frame, Outgoing(tmp_path / name), plan_of(Path(name)),
                             token=CancelToken(), progress=Progress())  # fmt: skip
        assert written.rows == 2
    assert (tmp_path / "made.csv").read_text().splitlines()[1].endswith(",1080")


@settings(max_examples=examples(60), suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(
    rows=st.lists(st.tuples(st.integers(-9, 9) | st.none(), st.sampled_from([-2.5, 0.5, 0.0, 4.0]) | st.none()),
                  min_size=1, max_size=12),
    operator=st.sampled_from(["+", "-", "*", "/"]),
    bound=st.integers(-20, 20),
)  # fmt: skip
def test_arithmetic_agrees_with_sqlite(
    table_of: WriteTable, rows: list[tuple[int | None, float | None]], operator: str, bound: int
) -> None:
    table = table_of(["a", "x"], [[1, 1.5], *rows])
    made, kept, ordered = run_lines(
        table, f"make m = ABS(a {operator} x), n = -m", f"keep m > {bound} OR n < -3", "order n, a"
    )
    with closing(sqlite3.connect(":memory:")) as connection:
        connection.execute("create table t (a integer, x real)")
        connection.executemany("insert into t values (?, ?)", [(1, 1.5), *rows])
        asked = f"select abs(cast(a as real) {operator} x) from t order by rowid"
        wanted = [row[0] for row in connection.execute(asked)]
        ids = [
            row[0] - 1
            for row in connection.execute(
                f"select rowid from (select rowid, a, abs(cast(a as real) {operator} x) m from t)"
                f" where m > {bound} or -m < -3 order by -m, a is null, a, rowid"
            )
        ]
    shown = [None if cell is None else float(cell) for (cell,) in cells(made, "m")]
    assert shown == [None if value is None else pytest.approx(value) for value in wanted]
    assert ordered.rows.ids(0, 99).tolist() == ids
    assert kept.rows.count == len(ids)


def test_a_page_of_few_rows_works_out_few_rows_and_a_round_keeps_blocks(table_of: WriteTable) -> None:
    table = table_of(["n"], [[row] for row in range(20_000)])
    made = run_lines(table, "make double = n * 2")[0]
    assert made.frame.page(10, 12, [1]).cells == (("20", "22"),)
    assert table.kept.size == 0
    kept = run_lines(table, "make double = n * 2", "keep double >= 30000", "order double DESC")[-1]
    assert kept.rows.ids(0, 2).tolist() == [19_999, 19_998]
    assert table.kept.size > 0
    before = table.kept.size
    summarise(kept.shown[-1], kept.rows, LocalRunner(table), CancelToken())
    assert table.kept.size == before


def test_integers_keep_64_bits_and_overflow_has_no_value(table_of: WriteTable) -> None:
    least = -(2**63)
    table = table_of(["n"], [[2**62], [least], [7], [None]])
    result = run_lines(table, "make double = n * 2, plain = ABS(n)")[0]
    assert cells(result, "double", "plain") == [
        (None, str(2**62)), (None, None), ("14", "7"), (None, None),
    ]  # fmt: skip


def test_a_made_column_pickles_and_names_its_columns(table: Table) -> None:
    bound = bind_line("make worth = ABS(price) * volume", source_scope(table))
    assert bound is not None
    value = bound.scope.shown[-1].value
    again = pickle.loads(pickle.dumps(value))
    assert again == value
    assert hash(again) == hash(value)
    assert columns_of(value) == {2, 3}
    assert named_in(value) == (value,)
    frame = Frame(table, source_frame(table).rows, bound.scope.shown)
    (worths,) = frame.page(0, 6, [5]).cells
    expected = [None if p is None or v is None else abs(p) * v for _, _, p, v, _ in PACKS]
    assert all(
        (cell is None and wanted is None) or (cell is not None and wanted is not None and math.isclose(float(cell), wanted))
        for cell, wanted in zip(worths, expected, strict=True)
    )  # fmt: skip
    assert np.asarray(frame.rows.ids(0, 6)).tolist() == list(range(6))


def test_values_of_no_rows_and_of_none_but_missing_ones_are_none(table_of: WriteTable) -> None:
    table = table_of(["a", "b"], [[1, None], [2, None]])
    none = run_lines(table, "drop a > 0", "make low = MIN(a), high = MAX(b), middle = QUANTILE(a, 0.5)")[-1]
    assert none.rows.count == 0
    last = run_lines(table, "make low = MIN(a), high = MAX(b)")[-1]
    assert [list(cells) for cells in last.frame.page(0, 2, range(2, 4)).cells] == [["1", "1"], [None, None]]

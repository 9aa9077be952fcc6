"""What a ranked take may pass over: its limits, and that nothing of what they let pass is lost."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import WriteTable, ids_left, run_lines
from yardcut.core.language.meaning.bound import ColumnValue, Key
from yardcut.core.ranking.ordering.fields import Encoding, KeyPlan
from yardcut.core.ranking.taking import Ranking, TakeRound
from yardcut.core.scanning.row_parts import BLOCK_ROWS, parts_of
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

ROWS = 3 * BLOCK_ROWS + 17


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path = tmp_path_factory.mktemp("taking") / "rows.csv"
    random = np.random.default_rng(5)
    values = random.integers(0, 5000, ROWS) / 4
    bays = random.integers(0, 40, ROWS)
    bays[:30] = 40  # a group that never fills its quota
    lines = (f"{value},b{bay}" for value, bay in zip(values.tolist(), bays.tolist(), strict=True))
    path.write_text("value,bay\n" + "\n".join(lines) + "\n")
    return open_table(path)


def top(quota: int) -> TakeRound:
    plan = KeyPlan(Key(ColumnValue(0, Kind.NUMBER), True, False, "value"), Encoding.DOUBLE)
    return TakeRound(np.array([quota]), Ranking.KEYS, None, plans=(plan,))


def test_the_first_part_sets_limits_for_the_rest(table: Table) -> None:
    work = top(100)
    first, second, *_ = parts_of(table, BLOCK_ROWS)
    found = work.scan(table, first)
    narrowed = work.narrowed(found)
    assert narrowed.limits is not None
    assert sum(len(some.row_id) for some in narrowed.scan(table, second)) < BLOCK_ROWS // 20


def test_a_state_of_exactly_the_quota_sets_limits_too(table: Table) -> None:
    work = top(1000)
    found = work.scan(table, parts_of(table, BLOCK_ROWS)[0])[0]
    best = found.chosen(np.argsort(found.words[0], kind="stable")[:1000])
    limits = work.narrowed([best]).limits
    assert limits is not None
    assert limits[0] == best.words[0].max()


def test_several_small_states_set_limits_together(table: Table) -> None:
    work = top(50)
    found = work.scan(table, parts_of(table, BLOCK_ROWS)[0])[0]
    pieces = [found.chosen(slice(start, start + 20)) for start in range(0, 100, 20)]  # type: ignore[arg-type]
    assert work.narrowed(pieces).limits is not None


@pytest.mark.long
@given(st.integers(1, 400), st.sampled_from(["top", "bottom"]), st.booleans(), st.sampled_from([1, 2, 4]))
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_nothing_is_passed_over_that_belongs(table: Table, quota: int, form: str, grouped: bool, parts: int) -> None:
    values = table.columns[0].slice(0, ROWS).values  # type: ignore[union-attr]
    bays = table.columns[1].slice(0, ROWS).texts()
    per = " per bay" if grouped else ""
    rows = run_lines(table, f"draw {form} {quota} by value{per}", parts=parts)[-1].rows
    ordered = np.argsort(-values if form == "top" else values, kind="stable").tolist()
    taken: dict[str | None, list[int]] = {}
    for row in ordered:
        group = taken.setdefault(bays[row] if grouped else None, [])
        if len(group) < quota:
            group.append(row)
    assert sorted(rows.ids(0, rows.count).tolist()) == sorted(row for group in taken.values() for row in group)


def test_the_largest_and_smallest_doubles_are_put_in_order(table_of: WriteTable) -> None:
    values = [1e308, -1e308, 5e-324, -5e-324, -0.0, 1.7976931348623157e308, None]
    table = table_of(["x"], [[value] for value in values])
    assert ids_left(table, "order x") == [1, 3, 4, 2, 0, 5, 6]

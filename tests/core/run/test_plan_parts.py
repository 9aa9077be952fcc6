"""What is found in plans by going through them without their values is what going through all of them finds."""

from __future__ import annotations

from dataclasses import fields, is_dataclass
from pathlib import Path

import pytest

from judging import our_table, write_csv
from reference.generating import Generator, make_rows
from thoroughness import examples
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.cutlist.second_paths import seconds_in
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.second_tree import Second
from yardcut.core.run.executing.bound_lines import BoundLine, bind_cut
from yardcut.core.run.executing.whole_values import Waiting, waiting_in
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.scanning.plan_parts import parts_within
from yardcut.core.table.stored_table import Table

VALUES = ", ".join(f"'w{number}'" for number in range(3000))
LINES = [
    f"keep word IN ({VALUES})", f"drop NOT (word IN ({VALUES}) OR whole IN (1, 2, 3)) AND real > AVG(real)",
    f"make x = CASE WHEN word IN ({VALUES}) THEN whole ELSE 2 END", 'keep word IN "other.csv" AND whole > 2',
    "keep whole > MAX(whole) - 2 OR ANY OF (real, whole) < 3", "order word IN SEQUENCE ('a', 'b'), real DESC",
]  # fmt: skip


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    folder = tmp_path_factory.mktemp("plans")
    write_csv(make_rows(30, 5), folder / "rows.csv")
    return our_table(folder / "rows.csv")


def everything(plan: object) -> list[object]:
    """All there is in a plan, those within others first."""
    parts: list[object] = []
    if isinstance(plan, tuple):
        parts = list(plan)
    elif is_dataclass(plan) and not isinstance(plan, type):
        parts = [getattr(plan, part.name) for part in fields(plan)]
    return [*(found for part in parts for found in everything(part)), plan]


def bodies(line: BoundLine) -> list[object]:
    return [] if line.bound is None else [line.bound.body]


@pytest.mark.parametrize("seed", range(examples(300) + len(LINES)))
def test_nothing_is_passed_over(table: Table, seed: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "other.csv").write_text("word\noak\n")
    lines = [LINES[seed]] if seed < len(LINES) else [Generator(seed).line()]
    for line in bind_cut(Cut("", tuple(map(Line, lines))), table):
        assert line.error is None or seed >= len(LINES) or '"other.csv"' in lines[0], line.error
        for body in bodies(line):
            whole = everything(body)
            assert columns_read(body) == {part.column for part in whole if isinstance(part, b.ColumnValue)}
            ours = [part for part in whole if isinstance(part, Waiting)]
            assert {id(part) for part in waiting_in(body)} == {id(part) for part in ours}
        if line.statement is not None:
            named = [part for part in everything(line.statement.body) if isinstance(part, Second)]
            assert list(seconds_in(line.statement.body)) == named


def test_a_long_list_is_no_part_of_its_plan(table: Table) -> None:
    (line,) = bind_cut(Cut("", (Line(f"keep word IN ({VALUES})"),)), table)
    (body,) = bodies(line)
    seen, waiting = 0, [body]
    while waiting:
        parts = parts_within(waiting.pop())
        assert not any(isinstance(part, b.Constant | t.Node) for part in parts)
        seen += len(parts)
        waiting += parts
    assert seen < 20

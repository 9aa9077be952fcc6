"""Draws with replacement: the rows of a plain definition, and what stands below is worked out of every copy."""

from __future__ import annotations

import csv
import itertools
import random
import sqlite3
from collections import Counter
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet as parquet
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import WriteTable, is_usual, run_lines
from thoroughness import examples, some
from yardcut.core.errors import ListError
from yardcut.core.outgoing import Outgoing
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.profile.summary import summarise
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.hashing import mix, row_rank
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.tree_counts import branches
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.session import Session
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import FormLine, SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.writers.plans import plan_of
from yardcut.core.writers.saving_slices import save_slice
from yardcut.core.writers.texts.own_texts import own_texts

HEAD = ["id", "species", "boards", "price"]
NO_FILE = (1 << 64) - 1
Row = tuple[str, ...]


def rows_of(rng: random.Random, count: int) -> list[Row]:
    rows = [
        (
            str(n),
            rng.choice(["oak", "ash", "yew", ""]),
            str(rng.choice(["", *range(6)])),
            rng.choice(["", "1.50", "07.0", "12"]),
        )
        for n in range(count)
    ]
    return [("0", "oak", "3", "1.50"), *rows[1:]]  # kinds are told whatever the others are


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(HEAD, rows_of(random.Random(8), 300))


def cells(result: LineResult) -> list[tuple[str | None, ...]]:
    page = result.frame.page(0, result.rows.count, range(len(result.shown)))
    return list(zip(*page.cells, strict=True))


def sources(result: LineResult) -> list[int]:
    ids = result.rows.ids(0, result.rows.count)
    return [int(each) for each in result.frame.table.source_ids(ids)]


def chance(seed: int, number: int) -> int:
    """Output of SplitMix64, counted from 0, started for no file."""
    return row_rank(seed, NO_FILE, number)


def drawn_plainly(groups: list[list[int]], asked: list[int], seed: int, weights: dict[int, float] | None) -> list[int]:
    """Draw from groups of rows by the definition of the language, one after the other."""
    number, found = 0, []
    sums = (
        dict(
            zip(
                itertools.chain(*groups),
                itertools.accumulate(weights[row] for group in groups for row in group),
                strict=True,
            )
        )
        if weights
        else {}
    )
    before = 0.0
    for group, count in zip(groups, asked, strict=True):
        for _ in range(count):
            u = chance(seed, number)
            number += 1
            if weights is None:
                found.append(group[u * len(group) >> 64])
            else:
                reached = before + (u >> 11) * 2.0**-53 * (sums[group[-1]] - before)
                found.append(next((row for row in group if sums[row] > reached), group[-1]))
        before = sums[group[-1]] if weights else 0.0
    return found


@settings(max_examples=examples(60), deadline=None)
@given(
    count=st.integers(1, 120),
    seed=st.integers(0, 2**63 - 1),
    rows=st.integers(1, 60),
    which=st.integers(0, 7),
    parts=st.integers(1, 3),
)
def test_rows_are_those_of_the_definition(
    tmp_path_factory: pytest.TempPathFactory, count: int, seed: int, rows: int, which: int, parts: int
) -> None:
    per, weighted, ordered = which & 1, which & 2, which & 4
    written = rows_of(random.Random(seed), rows)
    path = tmp_path_factory.mktemp("t") / "t.csv"
    with path.open("w", newline="") as file:
        csv.writer(file).writerows([HEAD, *written])
    session = Session(path)
    there = session.open()
    order = sorted(range(rows), key=lambda row: -row) if ordered else list(range(rows))
    can = [row for row in order if not weighted or (written[row][2] or "0") != "0"]
    named = [written[row][1] for row in can]
    groups = (
        [
            sorted(row for row in can if not per or written[row][1] == name)
            for name in (dict.fromkeys(named) if per else ["all"])
        ]
        if can
        else []
    )
    weights = {row: float(written[row][2]) for row in can} if weighted else None
    found = drawn_plainly(groups, [count] * len(groups), seed, weights)
    expected = sorted(found, key=order.index)
    line = f"draw random {count}{' per species' * bool(per)}{' weighted by boards' * bool(weighted)} with replacement seed {seed}"
    above = ["order id DESC"] if ordered else []
    result = run_lines(there, *above, line, parts=parts)[-1]
    assert sources(result) == expected
    assert result.rows.count == len(expected)
    assert result.taken == result.offcut.rows.count == rows - len(set(expected))
    assert f"{len(set(expected)):,} different row" in " ".join(result.notes)
    remainder = run_lines(there, *above, f"{line} remainder")[-1]
    assert sources(remainder) == [row for row in order if row not in set(expected)]


BELOW = [
    "keep boards >= 3", "drop species = 'oak' OR boards IS NULL", "order species DESC NULLS FIRST, boards",
    "draw top 20 by boards", "draw top 2 by boards per species", "draw first 3 per species", "draw every 7 from 2",
    "draw last 20 percent", "draw rows 5 to 40", "make n = boards * 2, w = boards > AVG(boards)", "keep boards > QUANTILE(boards, 0.5)",
    "keep REPEATED(id)", "drop REPEATED(species, boards)", "make again = REPEATED(id)", "columns species, id as ticket", "keep id IN (1, 2, 3, 50)",
    "draw top 9 by boards with ties", "draw from boards = 3 to boards = 5", "order boards", "keep species LIKE 'a%'",
]  # fmt: skip


@settings(max_examples=examples(90), deadline=None)
@given(seed=st.integers(0, 10**6), lines=st.lists(st.sampled_from(BELOW), max_size=4, unique=True), twice=st.booleans())
def test_lines_below_do_what_they_do_with_a_file_of_the_copies(
    tmp_path_factory: pytest.TempPathFactory, seed: int, lines: list[str], twice: bool
) -> None:
    """The rows drawn, written as a file and opened, are a table like any other: every line leaves the same cells."""
    folder = tmp_path_factory.mktemp("t")
    columns = [
        line for line in lines if line.startswith("columns")
    ]  # what it leaves out stays known only in one of them
    lines = [line for line in lines if line not in columns] + columns
    with (folder / "t.csv").open("w", newline="") as file:
        csv.writer(file).writerows([HEAD, *rows_of(random.Random(seed), 60)])
    here = Session(folder / "t.csv").open()
    draw = [f"draw random 90 with replacement seed {seed}"] + [
        f"draw random 70 with replacement seed {seed + 1}"
    ] * twice
    drawn = run_lines(here, *draw)[-1]
    with (folder / "copies.csv").open("w", newline="") as file:
        csv.writer(file, quoting=csv.QUOTE_ALL).writerows(
            [HEAD, *[["" if cell is None else cell for cell in row] for row in cells(drawn)]]
        )
    there = Session(SourceSpec.of(folder / "copies.csv")).open()
    if [column.kind for column in there.columns] != [column.kind for column in here.columns]:
        return
    for result, other in zip(run_lines(here, *draw, *lines)[len(draw) :], run_lines(there, *lines), strict=True):
        assert cells(result) == cells(other)
        assert result.taken == other.taken
        assert [column.name for column in result.shown] == [column.name for column in other.shown]
        assert sorted(result.offcut.page(0, 99, [0]).cells[0]) == sorted(other.offcut.page(0, 99, [0]).cells[0])
        one, two = (
            summarise(each.shown[0], each.rows, LocalRunner(each.frame.table), CancelToken())
            for each in (result, other)
        )
        one, two = (replace(each, commonest=tuple(sorted(each.commonest))) for each in (one, two))
        assert one == two
        assert_trees_agree(here, [*draw, *lines], there, lines)


def assert_trees_agree(here: Table, lines: list[str], there: Table, below: list[str]) -> None:
    both = []
    for table, some_lines in ((here, lines), (there, below)):
        executor = Executor(LocalRunner(table))
        result = run_with(executor, some_lines)[-1]
        both.append([(each.passes, each.costs, each.unknown) for each in branches(result, executor, CancelToken())])
    assert both[0] == both[1]


def run_with(executor: Executor, lines: list[str]) -> list[LineResult]:
    from yardcut.core.cutlist.model import Cut, Line

    return list(executor.run(Cut("", tuple(map(Line, lines)))))


def test_counts_are_those_of_sqlite(table: Table) -> None:
    """A table of the drawn rows in sqlite counts the same."""
    result = run_lines(table, "draw random 1000 with replacement seed 11", "keep boards >= 2 AND species <> 'yew'")
    with closing(sqlite3.connect(":memory:")) as database:
        counts_are_those_of(result, database)


def counts_are_those_of(result: list[LineResult], database: sqlite3.Connection) -> None:
    database.execute("CREATE TABLE t (id INTEGER, species TEXT, boards INTEGER, price REAL)")
    database.executemany("INSERT INTO t VALUES (?, ?, ?, ?)", cells(result[0]))
    asked = "SELECT {} FROM t WHERE boards >= 2 AND species <> 'yew' {}"
    assert result[1].rows.count == database.execute(asked.format("count(*)", "")).fetchone()[0]
    species = result[1].shown[1]
    found = distinct_values(species.value, result[1].rows, LocalRunner(result[1].frame.table), CancelToken())
    assert dict(found.values) == dict(database.execute(asked.format("species, count(*)", "GROUP BY 1")).fetchall())


@pytest.mark.parametrize(
    "line", ["draw random 40 with replacement seed {}", "draw random 40 weighted by boards with replacement seed {}"]
)
def test_every_row_has_its_chance(table_of: WriteTable, line: str) -> None:
    table = table_of(["id", "boards"], [[n, 1 + n % 4] for n in range(20)])
    counts = np.zeros(20)
    for seed in range(300):
        counts += np.bincount(sources(run_lines(table, line.format(seed))[-1]), minlength=20)
    shares = np.array([1 + n % 4 for n in range(20)]) / 50 if "weighted" in line else np.full(20, 1 / 20)
    assert is_usual(counts, 300 * 40 * shares, 19)
    assert not is_usual(counts, 300 * 40 * np.roll(shares, 1) + np.eye(20)[3] * 150, 19), (
        "a biased sampler would be seen"
    )


def test_copies_are_ranked_by_chance_each_for_itself(table: Table) -> None:
    """Copy k of a row has output k of the generator started at the row's rank; the first has the rank itself."""
    found = run_lines(table, "draw random 400 with replacement seed 1", "draw random 50 seed 9")
    rank: list[tuple[int, int]] = []
    seen: Counter[int] = Counter()
    for place, row in enumerate(sources(found[0])):
        own = row_rank(9, 0, row)
        rank.append((own if not seen[row] else mix(own + seen[row] * 0x9E3779B97F4A7C15 & NO_FILE), place))
        seen[row] += 1
    expected = sorted(place for _, place in sorted(rank)[:50])
    assert found[1].rows.ids(0, 50).tolist() == expected


@pytest.mark.parametrize("name", some(["slice.csv", "slice.parquet", "slice.csv.gz", "slice.json"], 2))
def test_a_slice_of_copies_is_saved_as_they_came(table: Table, tmp_path: Path, name: str) -> None:
    """Cells nobody computed have the text of the source, each copy its own row."""
    with (tmp_path / "table.csv").open(newline="") as file:
        texts = list(csv.reader(file))[1:]
    result = run_lines(table, "draw random 500 with replacement seed 3", "order species")[-1]
    plan = plan_of(tmp_path / name)
    token, progress = CancelToken(), Progress()
    spec = SourceSpec((str(tmp_path / "table.csv"),), (FormLine(footer=0),))
    with own_texts(result.frame, spec, plan, token, progress, at_once=True) as own:
        assert own.texts is not None or not name.startswith("slice.csv")
        save_slice(
            result.frame, Outgoing(tmp_path / name), plan, token=token, progress=progress, own=own.texts
        )  # fmt: skip
    if name == "slice.csv":
        with (tmp_path / name).open(newline="") as file:
            assert list(csv.reader(file))[1:] == [texts[row] for row in sources(result)]
    elif name.endswith("parquet"):
        assert parquet.read_table(tmp_path / name).column("id").to_pylist() == sources(result)


def test_what_cannot_be_drawn_is_said(table: Table) -> None:
    for line, says in {
        "draw random 200000000 with replacement seed 1": "makes up to 100,000,000 rows",
        "draw random 99999999999 percent with replacement seed 1": "makes up to 100,000,000 rows",
    }.items():
        with pytest.raises(ListError, match=says):
            run_lines(table, line)
    for line in (
        "draw top 3 by boards with replacement",
        "draw chance 0.1 with replacement",
        "draw first 3 with replacement",
    ):
        with pytest.raises(AssertionError, match="a line was wrong"):
            run_lines(table, line)
    assert run_lines(table, "draw random 250 percent with replacement seed 1")[-1].rows.count == 750
    assert run_lines(table, "keep boards > 99", "draw random 5 with replacement seed 1")[-1].rows.count == 0
    assert run_lines(table, "draw random 0 with replacement seed 1")[-1].rows.count == 0
    assert run_lines(table, "draw random 7 with replacement per species seed 1", "draw first 1")[-1].rows.count == 1


def test_the_vector_of_the_documents(table_of: WriteTable) -> None:
    table = table_of(["id"], [[n] for n in range(10)])
    assert sources(run_lines(table, "draw random 8 with replacement seed 7")[-1]) == sorted([4, 2, 4, 5, 3, 9, 6, 3])
    assert "rows 4, 2, 4, 5, 3, 9, 6, 3" in (Path(__file__).parents[3] / "docs" / "language.md").read_text()


@pytest.mark.parametrize("ending", ["parquet", "csv"])
def test_copies_of_rows_of_several_files_whatever_their_format(tmp_path: Path, ending: str) -> None:
    """Columns of Parquet files are read when something goes over them; ranks by chance know the file of each row."""
    paths = []
    for number in range(3):
        rows = rows_of(random.Random(number), 40 + number)
        paths.append(tmp_path / f"{number}.{ending}")
        if ending == "csv":
            with paths[-1].open("w", newline="") as file:
                csv.writer(file).writerows([HEAD, *rows])
        else:
            columns = {name: [row[place] for row in rows] for place, name in enumerate(HEAD)}
            parquet.write_table(pa.table(columns), paths[-1], row_group_size=16)
    table = open_table(SourceSpec(tuple(map(str, paths)), () if ending == "parquet" else (FormLine(footer=0),)))
    drawn = run_lines(table, "draw random 200 with replacement seed 8", "draw random 30 seed 2", "keep species = 'oak'")
    assert sources(drawn[0]) == sorted(chance(8, number) * 123 >> 64 for number in range(200))
    starts, seen, rank = [0, 40, 81], Counter[int](), []
    for place, row in enumerate(sources(drawn[0])):
        file = max(at for at in range(3) if starts[at] <= row)
        own = row_rank(2, file, row - starts[file])
        rank.append((own if not seen[row] else mix(own + seen[row] * 0x9E3779B97F4A7C15 & NO_FILE), place))
        seen[row] += 1
    assert drawn[1].rows.ids(0, 30).tolist() == sorted(place for _, place in sorted(rank)[:30])
    species = [row[1] for row in cells(drawn[1])]
    assert drawn[2].rows.count == species.count("oak")
    assert [column.is_loaded for column in drawn[0].frame.table.columns] == [
        column.is_loaded for column in table.columns
    ]


def test_a_wrong_weight_of_a_copy_is_told_by_its_row_in_the_source(table_of: WriteTable) -> None:
    table = table_of(["n"], [[n] for n in (5, 6, -1)])
    with pytest.raises(ListError, match="is not so in row 3 of the source"):
        run_lines(table, "draw random 40 with replacement seed 1", "draw random 2 weighted by n seed 2")

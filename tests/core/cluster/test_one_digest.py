"""Workers change no row and no bit: random cuts, here and by tasks that were packed and unpacked."""

from __future__ import annotations

from pathlib import Path

import pytest

from cluster_here import executor_of
from judging import write_csv, write_parquet
from reference.generating import Generator, make_rows
from reference.generating_seconds import ASKED, LIST, SECOND, SecondGenerator
from reference.generating_tallies import TallyGenerator
from test_truth import digest
from thoroughness import IS_LONG
from yardcut.core.cluster import cluster_runner
from yardcut.core.cluster.sent_plans import PackedPlan, pack_plan
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

Sources = tuple[Path, list[tuple[SourceSpec, Table]]]
ROWS = BLOCK_ROWS + 4003
MORE = [
    ["tally COUNT(*), SUM(small) AS total, MEDIAN(real) AS middle per word"],
    ["tally COUNT(DISTINCT word) AS words, STDDEV_SAMP(real) AS wide per flag, small"],
    ["keep real > AVG(real) PER word", "draw top 20 by real per word with ties"],
    ["order word, real DESC, small", "draw random 40 per word seed 4"],
    ["order code DESC", "draw first 3 per flag"],
    ["draw random 30 with replacement weighted by small seed 1", "tally SUM(real) AS total per word"],
    ["make share = real / SUM(real)", "draw random 5 percent seed 2 weighted by small"],
]


@pytest.fixture(scope="module")
def sources(tmp_path_factory: pytest.TempPathFactory) -> Sources:
    """Return the same rows as text and as Parquet, of which no column was read yet."""
    folder = tmp_path_factory.mktemp("digests")
    rows = make_rows(ROWS, 9)
    write_csv(rows, folder / "rows.csv")
    write_parquet(rows, folder / "rows.parquet", 9000)
    write_csv(make_rows(50, 99), folder / SECOND)
    (folder / LIST).write_text("\n".join(ASKED) + "\n", "utf-8")
    files = (folder / "rows.csv", folder / "rows.parquet")
    return folder, [(spec, open_table(spec)) for spec in map(SourceSpec.of, files)]


@pytest.mark.long
@pytest.mark.parametrize("part", range(4))
def test_random_cuts(sources: Sources, part: int) -> None:
    """Lines of every verb, tallies, values of groups, and what is looked up in a second table."""
    folder, found = sources
    here = [Executor(LocalRunner(table)) for _, table in found]
    for seed in range(70_000 + part, 70_000 + (900 if IS_LONG else 12), 4):
        lines = cut_of(seed, folder)
        if "REPEATED" in str(lines):  # slow by definition where few rows differ
            continue
        at = seed // 4 % 2
        there, _ = executor_of(*found[at])
        assert digest(lines, there) == digest(lines, here[at]), (seed, lines)


def cut_of(seed: int, folder: Path) -> list[str]:
    if seed % 4 == 0:
        return SecondGenerator(seed, str(folder)).cut()
    if seed % 4 == 1:
        return TallyGenerator(seed).cut()
    if seed % 4 == 2:
        return [TallyGenerator(seed).of_a_group()]
    generator = Generator(seed)
    return [generator.line() for _ in range(generator.pick(1, 2, 3))]


@pytest.mark.few(3)
@pytest.mark.parametrize("lines", MORE, ids=lambda lines: lines[0])
def test_every_kind_of_round(sources: Sources, lines: list[str], monkeypatch: pytest.MonkeyPatch) -> None:
    """And what a plan holds for each row is never sent whole."""
    sizes: list[int] = []

    def packing(plan: object, table: Table) -> PackedPlan:
        packed = pack_plan(plan, table)
        sizes.append(len(packed.content))
        return packed

    monkeypatch.setattr(cluster_runner, "pack_plan", packing)
    _, found = sources
    for spec, table in found:
        there, client = executor_of(spec, table)
        expected = digest(lines, Executor(LocalRunner(table, BLOCK_ROWS, 1)))
        assert not isinstance(expected, str), expected
        assert digest(lines, there) == expected
        assert client.tasks
    assert max(sizes) < ROWS // 8

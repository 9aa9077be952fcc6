"""Tasks that are lost, fail, hang or come back twice: a run ends right, or with a sentence, and within a stated time."""

from __future__ import annotations

import random
import time
from pathlib import Path

import pytest

from cluster_here import Client, Fate, executor_of
from yardcut.core.cluster import sending, worker_tasks
from yardcut.core.cluster.connecting import Cluster
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ClusterError, SourceError, StoppedError
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

ROWS = 5 * BLOCK_ROWS + 17
LINES = ("keep boards > 40", "draw top 9 by boards with ties", "tally COUNT(*), SUM(boards) AS boards")


@pytest.fixture(scope="module")
def source(tmp_path_factory: pytest.TempPathFactory) -> tuple[SourceSpec, Table]:
    path = tmp_path_factory.mktemp("lost") / "boards.csv"
    chance = random.Random(3)
    path.write_text("boards\n" + "".join(f"{chance.randrange(100)}\n" for _ in range(ROWS)))
    return SourceSpec.of(path), open_table(path)


def left(executor: Executor, token: CancelToken | None = None) -> list[tuple[str, ...]]:
    results = list(executor.run(Cut("", tuple(map(Line, LINES))), token))
    frame = results[-1].frame
    return list(map(tuple, frame.page(0, 9, range(len(frame.columns))).cells))


@pytest.fixture(scope="module")
def expected(source: tuple[SourceSpec, Table]) -> list[tuple[str, ...]]:
    return left(Executor(LocalRunner(source[1])))


@pytest.mark.parametrize("seed", range(12))
def test_each_part_counts_once_whatever_is_lost(
    source: tuple[SourceSpec, Table], expected: list[tuple[str, ...]], seed: int
) -> None:
    chance = random.Random(seed)
    fates = [chance.choice(("finished", "finished", "lost", "error", "cancelled")) for _ in range(40)]

    def fate(number: int) -> str:
        return "finished" if number % 3 == 2 else fates[number % len(fates)]

    executor, client = executor_of(*source, fate, workers=3)
    try:
        assert left(executor) == expected
    except ClusterError as error:
        assert "lost over the same rows" in error.message
    assert client.tasks > 6


def test_whoever_says_nothing_is_passed_over_and_their_rows_are_gone_over_by_others(
    source: tuple[SourceSpec, Table], expected: list[tuple[str, ...]], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sending, "_ASK_SECONDS", 0.05)
    monkeypatch.setattr(sending, "SILENT_SECONDS", 0.3)
    client: Client

    def fate(number: int) -> str:
        if number == 1:
            client.silent.add("worker 0")
            return ""
        return "finished"

    executor, client = executor_of(*source, fate)
    assert left(executor) == expected
    assert client.given_to[0] is None
    assert client.given_to[-1] == ["worker 1"]


@pytest.mark.parametrize(
    ("fate", "said"),
    [
        (lambda number: "lost", "lost over the same rows"), (lambda number: "error", "lost over the same rows"),
        (lambda number: "gone", "does not answer"), (lambda number: "silent", "no worker of here answers"),
    ],
)  # fmt: skip
def test_when_nobody_is_left_it_is_said(
    source: tuple[SourceSpec, Table], monkeypatch: pytest.MonkeyPatch, fate: Fate, said: str
) -> None:
    monkeypatch.setattr(sending, "_ASK_SECONDS", 0.05)
    monkeypatch.setattr(sending, "SILENT_SECONDS", 0.3)
    client: Client

    def told(number: int) -> str:
        found = fate(number)
        if found == "gone":
            client.status = "closed"
            return "cancelled"
        if found == "silent":
            client.silent |= {"worker 0", "worker 1"}
            return ""
        return found

    executor, client = executor_of(*source, told)
    began = time.monotonic()
    with pytest.raises(ClusterError, match=said):
        left(executor)
    assert time.monotonic() - began < 10


def test_stopping_does_not_wait_for_a_worker(source: tuple[SourceSpec, Table]) -> None:
    token = CancelToken()

    def fate(number: int) -> str:
        if number == 2:
            token.cancel()
        return "" if number else "finished"

    executor, _ = executor_of(*source, fate)
    with pytest.raises(StoppedError):
        left(executor, token)


def test_a_worker_that_reads_something_else_is_not_believed(tmp_path: Path) -> None:
    path = tmp_path / "boards.csv"
    path.write_text("boards\n1\n2\n")
    spec, table = SourceSpec.of(path), open_table(path)
    path.write_text("boards\n1\n3\n")
    executor, _ = executor_of(spec, table)
    with pytest.raises(SourceError, match="worker: .* is something else there"):
        left(executor)


def test_a_file_that_a_worker_cannot_read_is_named(tmp_path: Path) -> None:
    path = tmp_path / "boards.csv"
    path.write_text("boards\n1\n2\n")
    spec, table = SourceSpec.of(path), open_table(path)
    path.unlink()
    executor, _ = executor_of(spec, table)
    with pytest.raises(SourceError, match=r"boards\.csv"):
        left(executor)


@pytest.mark.parametrize("clock", [-5000.0, 5000.0])
def test_another_clock_makes_nobody_silent(clock: float) -> None:
    client = Client(lambda number: "finished", 2)
    client.clock = clock
    cluster = Cluster(client, "here", 2)
    assert cluster.silent(0.05) == set()
    client.silent.add("worker 1")
    assert cluster.silent(0.05) == set(), "heard of for the first time"
    time.sleep(0.1)
    assert cluster.silent(0.05) == {"worker 1"}


def test_a_task_that_its_worker_was_told_to_drop_is_done_elsewhere(
    source: tuple[SourceSpec, Table], expected: list[tuple[str, ...]], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Nobody asked the run to stop, and it does not."""
    drops = [True, False, True]
    monkeypatch.setattr(worker_tasks.TaskToken, "_is_dropped", lambda self: bool(drops) and drops.pop())
    executor, _ = executor_of(*source)
    assert left(executor) == expected
    assert not drops


@pytest.mark.parametrize("when", range(4))
def test_a_moment_in_which_the_scheduler_knows_no_worker_costs_nothing(
    source: tuple[SourceSpec, Table], expected: list[tuple[str, ...]], monkeypatch: pytest.MonkeyPatch, when: int
) -> None:
    asked, known = [0], Cluster.workers

    def workers(self: Cluster) -> dict[str, tuple[int, float]]:
        asked[0] += 1
        return {} if asked[0] - 1 == when or when == 3 else known(self)

    executor, _ = executor_of(*source)
    monkeypatch.setattr(Cluster, "workers", workers)
    assert left(executor) == expected
    assert asked[0] > when or when == 3

"""What workers write is what one process writes, byte for byte; where they cannot, this process does."""

from __future__ import annotations

import contextlib
import errno
import itertools
import re
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from cluster_here import Client, Fate, executor_of
from judging import write_csv, write_parquet
from reference.generating import make_rows
from yardcut.core import outgoing
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import TargetError
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.outgoing import Protected
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.scanning.shared_folders import SharedFolder
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.writers import part_files, writing_apart
from yardcut.core.writers.saving_slices import Parting, Written
from yardcut.core.writers.targets import Target, write_target

ROWS = BLOCK_ROWS + 4003
WHOLE = Parting()
BY_ROWS, BY_WORD = Parting(per_rows=20_000), Parting(("word",))
CUTS = {
    "as it came": ["columns all"],
    "another order": ["order real desc, word"],
    "some rows": ["draw random 50000 seed 3"],
    "made of groups": ["make share = real / AVG(real) PER word", "columns word, share, real", "order share"],
    "columns the other way": ["keep real > -1e300", "columns real, word, small"],
}
TARGETS: dict[str, tuple[str, Parting]] = {
    "delimited": ("a.csv", WHOLE), "compressed": ("a.tsv.gz", WHOLE), "lines": ("a.jsonl", WHOLE),
    "by rows": ("a-{n}.csv", BY_ROWS), "columns by rows": ("a-{n}.parquet", BY_ROWS), "by values": ("a.csv", BY_WORD),
}  # fmt: skip


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("apart")
    rows = make_rows(ROWS, 9)
    write_csv(rows, folder / "rows.csv")
    write_parquet(rows, folder / "rows.parquet", 9000)
    return folder


@pytest.fixture(autouse=True)
def small_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    """Parts are small, and written by somebody else, of whom there are two."""
    turn = itertools.cycle(["one", "other"])
    monkeypatch.setattr(part_files, "this_process", lambda: next(turn))
    monkeypatch.setattr(writing_apart, "LEAST_ROWS", 1)
    monkeypatch.setattr(writing_apart, "_ROWS_A_PART", 30_000)


def written(executor: Executor, spec: SourceSpec, lines: list[str], path: Path, parting: Parting = WHOLE) -> Written:
    frame: Frame = list(executor.run(Cut("", tuple(map(Line, lines)))))[-1].frame
    if parting is BY_WORD:
        per: tuple[BoundValue, ...] = tuple(each.value for each in frame.columns if each.name == "word")
        parting = replace(parting, per=per)
    target = Target(path, parting=None if parting is WHOLE else parting)
    return write_target(
        frame, target, spec, Protected(), CancelToken(), Progress(), lambda: "", executor.runner
    )  # fmt: skip


def files(folder: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir()}


@pytest.fixture
def opened(folder: Path) -> Callable[..., tuple[SourceSpec, Table, Executor, Client]]:
    def opened(name: str = "rows.parquet", fate: Fate = lambda number: "finished") -> object:
        spec = SourceSpec.of(folder / name)
        table = open_table(spec)
        return spec, table, *executor_of(spec, table, fate)

    return opened  # type: ignore[return-value]


@pytest.mark.few(4)
@pytest.mark.parametrize("target", TARGETS)
@pytest.mark.parametrize("cut", CUTS)
@pytest.mark.parametrize("source", ["rows.csv", "rows.parquet"])
def test_the_same_bytes(opened, tmp_path: Path, source: str, cut: str, target: str) -> None:  # type: ignore[no-untyped-def]
    spec, table, there, client = opened(source)
    (name, parting), lines = TARGETS[target], CUTS[cut]
    for place, executor in (("here", Executor(LocalRunner(table))), ("there", there)):
        (tmp_path / place).mkdir()
        done = written(executor, spec, lines, tmp_path / place / name, parting)
    assert files(tmp_path / "there") == files(tmp_path / "here")
    is_text = source == "rows.csv"
    reordered = "order" in str(lines) or target == "by values"
    is_here = is_text and reordered and not name.endswith((".jsonl", ".parquet"))
    assert bool(re.search(r"by [12] workers? in ", " ".join(done.also))) != is_here, done.also
    assert client.tasks or is_here


def test_a_part_of_somebody_who_was_lost_is_written_once_more(opened, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    for place, fate in (
        ("whole", lambda number: "finished"),
        ("lost", lambda number: "lost" if number == 1 else "finished"),
    ):
        (tmp_path / place).mkdir()
        spec, _, there, client = opened(fate=fate)
        written(there, spec, ["columns word, real"], tmp_path / place / "a.csv")
    assert client.tasks == 3
    assert files(tmp_path / "lost") == files(tmp_path / "whole")


def test_who_does_not_see_the_folder_writes_nothing(opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    spec, table, there, _ = opened()
    monkeypatch.setattr(SharedFolder, "is_seen", lambda folder: False)
    done = written(there, spec, ["columns word, real"], tmp_path / "a.csv")
    assert done.also == (f"written here: workers do not see {tmp_path.resolve()}",)
    expected = (tmp_path / "a.csv").read_bytes()
    (tmp_path / "a.csv").unlink()
    written(Executor(LocalRunner(table)), spec, ["columns word, real"], tmp_path / "a.csv")
    assert files(tmp_path) == {"a.csv": expected}


@pytest.mark.parametrize("parting", [WHOLE, BY_ROWS], ids=["one file", "many"])
def test_a_full_disk_is_a_sentence_and_leaves_nothing(
    opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, parting: Parting
) -> None:  # type: ignore[no-untyped-def]
    def full(*arguments: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    spec, _, there, _ = opened()
    monkeypatch.setattr(part_files, "write_checked", full)
    with pytest.raises(TargetError, match="is full; nothing was written"):
        written(there, spec, ["columns all"], tmp_path / "a-{n}.csv", parting)
    assert files(tmp_path) == {}


def test_a_file_that_came_up_meanwhile_stays(opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    spec, _, there, _ = opened()
    joined = writing_apart._check

    def somebody_writes(*arguments: object) -> None:
        (tmp_path / "a.csv").write_text("theirs")
        joined(*arguments)  # type: ignore[arg-type]

    monkeypatch.setattr(writing_apart, "_check", somebody_writes)
    with pytest.raises(TargetError, match="exists"):
        written(there, spec, ["columns word, real"], tmp_path / "a.csv")
    assert files(tmp_path) == {"a.csv": b"theirs"}


def test_a_folder_left_by_a_killed_process_goes(opened, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    left = tmp_path / ".a.csv.0123abcd.parts"
    left.mkdir()
    (left / "lock").write_bytes(b"")
    (left / "000000").write_text("half")
    spec, _, there, _ = opened()
    written(there, spec, ["columns word"], tmp_path / "a.csv")
    assert list(files(tmp_path)) == ["a.csv"]


def test_what_is_written_here_is_not_said_to_be_by_workers(
    opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:  # type: ignore[no-untyped-def]
    """A plan that cannot be sent is carried out here."""
    monkeypatch.setattr(part_files, "this_process", writing_apart.this_process)
    spec, _, there, _ = opened()
    assert written(there, spec, ["columns word, real"], tmp_path / "a.csv").also == ()


def test_a_part_may_lead_to_another_disk(opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    def apart(beside: Path, path: Path, *, replace: bool) -> None:
        raise OSError(errno.EXDEV, "Invalid cross-device link")

    spec, table, there, _ = opened()
    for place, executor in (("here", Executor(LocalRunner(table))), ("there", there)):
        (tmp_path / place).mkdir()
        monkeypatch.setattr(outgoing, "put_in_place", apart)
        written(executor, spec, ["columns word"], tmp_path / place / "a-{n}.csv", BY_ROWS)
    assert files(tmp_path / "there") == files(tmp_path / "here")


def test_formats_of_one_piece_are_written_here(opened, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    spec, _, there, _ = opened()
    assert written(there, spec, ["draw first 40000", "columns word"], tmp_path / "a.json").also == ()
    assert (tmp_path / "a.json").read_text().count("word") == 40_000


@pytest.mark.parametrize("parting", [WHOLE, BY_ROWS], ids=["one file", "many"])
def test_a_worker_may_have_been_started_in_another_folder(
    folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, parting: Parting
) -> None:
    """A list names its source from where it stands: cells leave as they stand there, whoever writes them."""
    for place in ("here", "there"):
        (tmp_path / place).mkdir()
    monkeypatch.chdir(folder)
    spec = SourceSpec.of(Path("rows.csv"))
    table = open_table(spec)
    there, _ = executor_of(spec, table)
    written(Executor(LocalRunner(table)), spec, ["columns all"], tmp_path / "here" / "a.csv", parting)
    look = part_files.PartFiles.look

    def elsewhere(*arguments: object) -> object:
        with contextlib.chdir(tmp_path):
            return look(*arguments)  # type: ignore[arg-type]

    monkeypatch.setattr(part_files.PartFiles, "look", elsewhere)
    done = written(there, spec, ["columns all"], tmp_path / "there" / "a.csv", parting)
    assert "another by now" not in done.sentence()
    assert files(tmp_path / "there") == files(tmp_path / "here")

from __future__ import annotations

import os
import shutil
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from helpers import array_on_disk, damage, run_lines
from yardcut.core.errors import SourceError, StoppedError, StoreDamagedError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.locks import hold
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.settings.settings_in_force import settings
from yardcut.core.sources import opening_sources as opening
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.cache import trim_cache
from yardcut.core.sources.store.own_folders import stores_folder
from yardcut.core.table.checking import BLOCK_BYTES
from yardcut.core.table.stored_table import Table, read_table


@pytest.fixture(autouse=True)
def own_cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))


def source(path: Path, rows: int = 100) -> Path:
    path.write_text("n,w\n" + "".join(f"{row},w{row % 9}\n" for row in range(rows)))
    return path


def test_the_same_content_read_the_same_way_is_found_again(tmp_path: Path) -> None:
    path = source(tmp_path / "a.csv")
    first = open_table(path)
    assert open_table(path).folder == first.folder
    other = open_table(SourceSpec((str(path),), (parse_sub_line("kind n text"),)))
    assert other.folder != first.folder
    assert open_table(SourceSpec((str(path), str(source(tmp_path / "b.csv"))))).folder not in (
        first.folder,
        other.folder,
    )
    path.write_text(path.read_text() + "100,w\n")
    assert open_table(path).rows == 101


def test_stores_longest_unused_go_first_and_the_one_in_use_stays(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folders = []
    for number in range(4):
        folders.append(open_table(source(tmp_path / f"{number}.csv")).folder)
        os.utime(folders[-1], (number, number))
    size = sum(file.stat().st_size for file in folders[0].iterdir())
    monkeypatch.setenv("YARDCUT_CACHE_BYTES", str(int(size * 2.5)))
    assert trim_cache(keep=folders[0]) == [folders[1], folders[2]]
    assert [folder.exists() for folder in folders] == [True, False, False, True]
    monkeypatch.setenv("YARDCUT_CACHE_BYTES", "much")
    assert settings().value("cache.bytes") == 20 << 30
    assert "YARDCUT_CACHE_BYTES" in str(settings().troubles[0])


def test_the_limit_holds_after_every_store_that_is_added(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    open_table(source(tmp_path / "first.csv"))
    size = sum(file.stat().st_size for file in next(stores_folder().glob("*/manifest.json")).parent.iterdir())
    monkeypatch.setenv("YARDCUT_CACHE_BYTES", str(int(size * 2.5)))
    for number in range(6):
        last = open_table(source(tmp_path / f"{number}.csv")).folder
        left = [path.parent for path in stores_folder().glob("*/manifest.json")]
        assert last in left
        assert len(left) == 2


def test_using_a_store_makes_it_young(tmp_path: Path) -> None:
    path = source(tmp_path / "a.csv")
    folder = open_table(path).folder
    os.utime(folder, (1, 1))
    open_table(path)
    assert folder.stat().st_mtime > time.time() - 60


@pytest.mark.parametrize("how", ["cut", "longer", "gone", "manifest"])
def test_a_store_that_lost_a_file_or_was_cut_short_is_built_anew(tmp_path: Path, how: str) -> None:
    path = source(tmp_path / "a.csv", 5000)
    values, _, _ = array_on_disk(open_table(path).folder, 0, "values")
    match how:
        case "cut":
            values.write_bytes(values.read_bytes()[:100])
        case "longer":
            values.write_bytes(values.read_bytes() + b"more")
        case "gone":
            values.unlink()
        case "manifest":
            (values.parent / "manifest.json").write_text("{")
    assert open_table(path).columns[0].slice(4998, 5000).texts() == ["4998", "4999"]


def test_a_file_cut_short_after_opening_is_an_error(tmp_path: Path) -> None:
    path = source(tmp_path / "a.csv", 5000)
    table = open_table(path)
    array_on_disk(table.folder, 0, "values")[0].write_bytes(b"12")
    with pytest.raises(StoreDamagedError, match="what the cache keeps of the source is damaged"):
        table.columns[0].slice(0, 10)
    assert open_table(path).columns[0].slice(4998, 5000).texts() == ["4998", "4999"]


@pytest.mark.long
@pytest.mark.few(1)
@pytest.mark.parametrize("look", ["slice", "take", "condition"])
def test_a_changed_byte_is_noticed_at_the_first_look_and_no_sooner(tmp_path: Path, look: str) -> None:
    path = tmp_path / "a.csv"
    path.write_text("n,t\n" + "".join(f"{row},text {row}\n" for row in range(400_000)))
    folder = open_table(path).folder
    for number, part in enumerate(("values", "data")):
        assert array_on_disk(folder, number, part)[2] > BLOCK_BYTES
        damage(folder, number, part, -5)
    table = open_table(path)
    assert table.columns[0].slice(0, 3).texts() == ["0", "1", "2"]
    assert table.columns[1].take(np.array([7, 2])).texts() == ["text 7", "text 2"]
    number = table.columns[0]
    with pytest.raises(StoreDamagedError):
        match look:
            case "slice":
                number.slice(399_990, 400_000)
            case "take":
                table.columns[1].take(np.array([5, 399_999]))
            case _:
                run_lines(table, "keep n < 5")
    assert read_table(folder) is None
    anew = open_table(path)
    assert anew.columns[0].slice(399_998, 400_000).texts() == ["399998", "399999"]


def test_a_damaged_dictionary_is_noticed(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_text("t\n" + "oak\nash\n" * 50)
    table = open_table(path)
    damage(table.folder, 0, "words")
    with pytest.raises(StoreDamagedError):
        table.columns[0].slice(0, 2)


def test_a_file_replaced_while_it_is_read_is_an_error_and_no_mixture(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = source(tmp_path / "a.csv")
    marks = iter(["before", "after"])
    monkeypatch.setattr(opening, "source_mark", lambda spec, paths: next(marks))
    with pytest.raises(SourceError, match="changed while it was read"):
        open_table(path)
    assert not [entry for entry in stores_folder().iterdir() if entry.name.startswith("building-")]


class _StopsLater(CancelToken):
    """Stops the work after a few looks."""

    looks = 0

    def check(self) -> None:
        self.looks += 1
        if self.looks > 4:
            raise StoppedError


def test_a_stopped_reading_gives_what_was_read_when_that_is_wanted(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 4096)
    path = source(tmp_path / "a.csv", 20_000)
    with pytest.raises(StoppedError):
        open_table(path, _StopsLater(), Progress())
    part = open_table(path, _StopsLater(), Progress(), keep_part=True)
    assert 0 < part.rows < 20_000
    assert part.columns[0].slice(0, part.rows).texts() == [str(row) for row in range(part.rows)]
    assert f"only a part was read: the first {part.rows:,} rows" in part.info.notes
    assert open_table(path).rows == 20_000


def test_a_part_whose_columns_must_be_read_again_stays_the_part(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 4096)
    path = tmp_path / "late.csv"
    path.write_text("n,w\n" + "".join(f"{row if row < 900 else row / 4},x\n" for row in range(20_000)))
    part = open_table(path, _StopsLater(), Progress(), keep_part=True)
    assert 900 < part.rows < 20_000
    assert part.columns[0].slice(899, 902).texts() == ["899", "225", "225.25"]


def test_two_processes_that_open_one_file_read_it_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = source(tmp_path / "a.csv", 5000)
    read: list[int] = []
    wait = threading.Event()
    reader = opening._read_into

    def slowly(*words: object, **more: object) -> object:
        read.append(1)
        wait.wait(10)
        return reader(*words, **more)  # type: ignore[arg-type]

    monkeypatch.setattr(opening, "_read_into", slowly)
    tables: list[Table] = []
    threads = [threading.Thread(target=lambda: tables.append(open_table(path))) for _ in range(3)]
    for thread in threads:
        thread.start()
    time.sleep(0.4)
    wait.set()
    for thread in threads:
        thread.join(20)
    assert (len(tables), len(read)) == (3, 1)
    assert {table.folder for table in tables} == {tables[0].folder}
    assert not list(stores_folder().glob("reading-*"))


def test_waiting_for_another_reader_can_be_stopped_and_ends_with_a_killed_one(tmp_path: Path) -> None:
    path = source(tmp_path / "a.csv", 10)
    folder = open_table(path).folder
    shutil.rmtree(folder)
    lock = hold(folder.with_name(f"reading-{folder.name}"))
    assert lock is not None
    token = CancelToken()
    threading.Timer(0.3, token.cancel).start()
    with pytest.raises(StoppedError):
        open_table(path, token)
    threading.Timer(0.3, lock.let_go).start()  # as the end of a process does
    assert open_table(path).rows == 10

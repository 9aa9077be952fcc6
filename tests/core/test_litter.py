"""What killed processes left is swept, what living ones work on is not: by locks, not by process numbers."""

from __future__ import annotations

import errno
import fcntl
import itertools
import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from yardcut.core import litter
from yardcut.core.locks import hold
from yardcut.core.placing import placed
from yardcut.core.sources.store import own_folders
from yardcut.core.sources.store.cache import trim_cache
from yardcut.core.sources.store.own_folders import BUILDING, PIPED, SORTING, own_folder, stores_folder

HOLD = """
import sys, time
from pathlib import Path
from yardcut.core.locks import hold
from yardcut.core.placing import placed
from yardcut.core.sources.store.cache import new_folder
from yardcut.core.sources.piped import kept_input
import io
building = new_folder()
(building / "0.values").write_bytes(b"x" * 1000)
kept_input(io.BytesIO(b"a,b"))
with placed(Path(sys.argv[1]), replace=True) as beside:
    beside.write_bytes(b"half")
    print(building, flush=True)
    time.sleep(60)
"""


@pytest.fixture
def cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setattr(own_folders, "_SWEPT_SECONDS", 0.0)
    return tmp_path / "cache" / "yardcut"


def unfinished(cache: Path, target: Path) -> list[str]:
    folders = [path.name for path in [*cache.glob(f"{PIPED}*"), *(cache / "stores").glob(f"{BUILDING}*")]]
    return sorted(folders + [path.name for path in target.parent.glob(".*.partial")])


def test_what_a_living_process_works_on_stays_and_what_a_killed_one_left_is_swept(cache: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.csv"
    process = subprocess.Popen([sys.executable, "-c", HOLD, str(target)], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    process.stdout.readline()
    assert len(unfinished(cache, target)) == 3
    for _ in range(2):
        litter.drop(own_folder(stores_folder(), BUILDING))
        with placed(target, replace=True) as beside:
            beside.write_bytes(b"whole")
        assert len(unfinished(cache, target)) == 3, "it lives"
    process.kill()
    process.wait()
    process.stdout.close()
    litter.drop(own_folder(stores_folder(), BUILDING))
    with placed(target, replace=True) as beside:
        beside.write_bytes(b"whole")
    assert unfinished(cache, target) == []
    assert target.read_bytes() == b"whole"


def test_other_peoples_files_of_a_like_name_are_left_alone(tmp_path: Path) -> None:
    for name in ("a.partial", ".a.partial", ".a.12345678.partially", ".a.1234567.partial", "notes.12345678.partial"):
        (tmp_path / name).write_text("mine")
    with placed(tmp_path / "out.csv", replace=True) as beside:
        beside.write_bytes(b"whole")
    assert len(list(tmp_path.iterdir())) == 6


def test_a_folder_without_a_lock_is_swept_when_it_is_old(cache: Path) -> None:
    stores_folder().mkdir(parents=True)
    young, old = stores_folder() / "building-1-a", stores_folder() / "building-2-b"
    young.mkdir()
    old.mkdir()
    os.utime(old, (time.time() - 90_000,) * 2)
    litter.drop(own_folder(stores_folder(), BUILDING))
    assert (young.exists(), old.exists()) == (True, False)


def test_what_is_dropped_at_once_is_all_this_process_works_on(cache: Path, tmp_path: Path) -> None:
    stores_folder().mkdir(parents=True)
    folder = own_folder(stores_folder(), BUILDING)
    with pytest.raises(FileNotFoundError), placed(tmp_path / "out.csv", replace=True) as beside:
        litter.drop_mine()
        assert not beside.exists()
    assert not folder.exists()


@pytest.mark.long
def test_two_at_once_sweep_nothing_of_each_other(cache: Path, tmp_path: Path) -> None:
    script = (
        "import sys; from pathlib import Path\n"
        "from yardcut.core.placing import placed\n"
        "from yardcut.core.sources.store.cache import new_folder, place_folder\n"
        "from yardcut.core.sources.store.own_folders import stores_folder\n"
        "for number in range(60):\n"
        "    folder = new_folder()\n"
        "    (folder / 'x').write_text('x')\n"
        "    with placed(Path(sys.argv[1]) / 'out', replace=True) as beside:\n"
        "        beside.write_text('whole')\n"
        "    place_folder(folder, stores_folder() / f'{sys.argv[2]}-{number}')\n"
    )
    many = [subprocess.Popen([sys.executable, "-c", script, str(tmp_path), name]) for name in "abc"]
    assert [process.wait() for process in many] == [0, 0, 0]
    assert len(list(stores_folder().glob("[abc]-*/x"))) == 180
    assert unfinished(cache, tmp_path / "out") == []


def test_what_is_ended_while_it_is_looked_at_is_not_swept(cache: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Its maker takes the lock's name away and lets go just after a sweeper has opened it."""
    stores_folder().mkdir(parents=True)
    folder = own_folder(stores_folder(), BUILDING)
    (folder / "x").write_text("whole")
    lock = fcntl.flock

    def late(descriptor: int, operation: int) -> None:
        litter.end(folder)
        lock(descriptor, operation)

    monkeypatch.setattr("fcntl.flock", late)
    litter.sweep_folders([folder])
    assert (folder / "x").read_text() == "whole"


def test_what_is_locked_just_before_it_would_be_swept_is_made_anew(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its maker comes to lock it between a sweeper's look and its sweeping: one of the two must give way."""
    path = tmp_path / ".out.csv.12345678.partial"
    path.touch()
    began: list[bool] = []
    unlink = Path.unlink

    def just_before(self: Path, missing_ok: bool = False) -> None:
        began.append(litter.begin_file(path))
        unlink(self, missing_ok)

    monkeypatch.setattr(Path, "unlink", just_before)
    litter.sweep_files([path])
    assert began == [False], "the maker is told, and makes another"
    monkeypatch.undo()
    assert not path.exists()


@pytest.mark.parametrize(
    ("number", "expected"), [(errno.ENOENT, False), (errno.ESTALE, False), (errno.ENOLCK, True), (errno.EMFILE, None)]
)
def test_only_a_file_system_without_locks_is_taken_for_one(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, number: int, expected: bool | None
) -> None:
    def fails(*given: object) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr("fcntl.flock", fails)
    path = tmp_path / "x"
    if expected is None:
        with pytest.raises(OSError, match="open files"):
            litter.begin_file(path)
    else:
        assert litter.begin_file(path) is expected
        litter.end(path)


def test_a_lock_of_a_name_that_is_gone_is_no_lock(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    lock = fcntl.flock

    def swept_before(descriptor: int, operation: int) -> None:
        (tmp_path / "x").unlink()
        lock(descriptor, operation)

    monkeypatch.setattr("fcntl.flock", swept_before)
    assert hold(tmp_path / "x") is None


def test_folders_of_a_sort_under_way_are_no_stores(cache: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    stores_folder().mkdir(parents=True)
    folder = own_folder(stores_folder(), SORTING)
    (folder / "run-0").write_bytes(b"x" * 1000)
    monkeypatch.setenv("YARDCUT_CACHE_BYTES", "0")
    assert trim_cache(stores_folder() / "none") == []
    assert folder.exists()
    litter.drop(folder)


def test_without_locks_everything_goes_on(cache: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A network file system may have none: then nothing is swept that is young, and work is as ever."""

    def no_locks(descriptor: int, operation: int) -> None:
        raise OSError(37, "No locks available")

    monkeypatch.setattr("fcntl.flock", no_locks)
    stores_folder().mkdir(parents=True)
    one, other = own_folder(stores_folder(), BUILDING), own_folder(stores_folder(), BUILDING)
    assert one.exists()
    assert other.exists()
    with placed(tmp_path / "out.csv", replace=True) as beside:
        beside.write_bytes(b"whole")
    assert (tmp_path / "out.csv").read_bytes() == b"whole"
    assert not list(tmp_path.glob(".*.partial"))
    litter.drop(one)
    litter.drop(other)


def test_a_folder_goes_while_threads_still_fill_it(tmp_path: Path) -> None:
    """Who is told to end does not wait for the threads that build a store."""

    def fill(folder: Path, is_over: threading.Event) -> None:
        for number in itertools.count():
            if is_over.is_set():
                return
            try:
                (folder / str(number)).write_text("x")
            except OSError:
                return

    for number in range(12):
        folder, is_over = tmp_path / f"building-{number}", threading.Event()
        folder.mkdir()
        litter.begin_folder(folder)
        threads = [threading.Thread(target=fill, args=(folder, is_over)) for _ in range(2)]
        for thread in threads:
            thread.start()
        while len(list(folder.iterdir())) < 3:
            pass
        litter.drop(folder)
        is_over.set()
        for thread in threads:
            thread.join()
        assert list(tmp_path.iterdir()) == []

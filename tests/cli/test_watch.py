"""``yardcut watch``: a run for each change and no more, what differs said, failures outlived, one at a time, an end."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from commands import yardcut_process

Started = subprocess.Popen[str]


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    (tmp_path / "yard_1.csv").write_text("id,species\n1,oak\n2,ash\n")
    (tmp_path / "l.cut").write_text(
        'yardcut 1\nsource "yard_*.csv"\n\ncut "oak"\n  keep species = \'oak\'\n  save "o.csv" replace\n'
    )
    return tmp_path


def start(yard: Path, *words: str) -> Started:
    return subprocess.Popen(
        [sys.executable, "-m", "yardcut", "watch", "l.cut", "--every", "0.2", *words],
        cwd=yard, stderr=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip


def until(what: Callable[[], bool], seconds: float = 40.0) -> None:
    end = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < end
        time.sleep(0.05)


def rows(path: Path) -> int:
    return len(path.read_text().splitlines()) - 1 if path.exists() else -1


@pytest.mark.long
def test_each_change_is_one_run_and_failures_are_outlived(yard: Path) -> None:
    watched = start(yard, "--runs", "4")
    try:
        until(lambda: rows(yard / "o.csv") == 1)
        time.sleep(0.6)
        (yard / "yard_2.csv").write_text("id,species\n3,oak\n4,oak\n")  # a new file, as each night
        until(lambda: rows(yard / "o.csv") == 3)
        time.sleep(0.6)
        before = (yard / "l.cut").read_text()
        (yard / "l.cut").write_text(before.replace("species = 'oak'", "speces = 'oak'"))  # a slip in the list
        time.sleep(3)
        assert rows(yard / "o.csv") == 3
        (yard / "l.cut").write_text(before.replace("'oak'", "'ash'"))
        until(lambda: rows(yard / "o.csv") == 1)
        _, said = watched.communicate(timeout=30)
    finally:
        watched.kill()
    assert watched.returncode == 0, said
    for part in (
        "waiting for a change",
        "yard_2.csv is a new file of the source",
        "there is no column speces",
        "l.cut has changed",
    ):
        assert part in said
    assert "Traceback" not in said
    assert said.count("keep species") + said.count("keep speces") >= 4


@pytest.mark.long
def test_a_second_watch_is_refused_and_the_first_ends_when_told(yard: Path) -> None:
    watched = start(yard)
    try:
        until(lambda: rows(yard / "o.csv") == 1)
        refused = yardcut_process("watch", "l.cut", cwd=yard)
        assert refused.returncode == 2
        assert "is watched already" in refused.stderr
        watched.send_signal(signal.SIGTERM)
        _, said = watched.communicate(timeout=20)
        assert watched.returncode == 130
        assert "Traceback" not in said
        again = start(yard, "--runs", "1")
        again.communicate(timeout=40)
        assert again.returncode == 0
    finally:
        watched.kill()
    assert {path.name for path in yard.iterdir()} == {"yard_1.csv", "l.cut", "o.csv"}

"""ctrl+c ends any command within a second, wherever it is; what pipes bring is read like a file."""

from __future__ import annotations

import contextlib
import os
import signal
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest


def _interruptible() -> None:
    """Whoever runs the tests in the background has ctrl+c ignored, and children would too."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


YARDCUT = [sys.executable, "-m", "yardcut"]
ENDLESS = "with recursive n(x) as (select 1 union all select x + 1 from n) select count(*) from n"


def _without_writer(folder: Path) -> list[str]:
    os.mkfifo(folder / "pipe.csv")
    return ["cut", "pipe.csv", "-l", "draw first 1"]


def _silent_input(folder: Path) -> list[str]:
    return ["cut", "-", "-l", "draw first 1"]


def _without_reader(folder: Path) -> list[str]:
    (folder / "a.csv").write_text("a\n1\n")
    os.mkfifo(folder / "out.csv")
    return ["cut", "a.csv", "-l", "draw first 1", "--out", "out.csv"]


def _endless_query(folder: Path) -> list[str]:
    with closing(sqlite3.connect(folder / "packs.sqlite")) as database:
        database.execute("create table packs (a)")
        database.commit()
    (folder / "endless.cut").write_text(
        f'yardcut 1\nsource "packs.sqlite"\n  query \'{ENDLESS}\'\ncut "a"\n  draw first 1\n'
    )
    return ["check", "endless.cut"]


def _endless_list(folder: Path) -> list[str]:
    (folder / "a.csv").write_text("a\n1\n")
    return ["cut", "a.csv", "-l", "-"]


@pytest.mark.parametrize(
    "work", [_without_writer, _silent_input, _without_reader, _endless_query, _endless_list], ids=lambda work: work.__name__
)  # fmt: skip
def test_it_ends_within_a_second(tmp_path: Path, work: Callable[[Path], list[str]]) -> None:
    words = work(tmp_path)
    with subprocess.Popen(
        [*YARDCUT, *words], cwd=tmp_path, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        preexec_fn=_interruptible,
    ) as process:  # fmt: skip
        time.sleep(2.0)
        assert process.poll() is None, "it waits"
        process.send_signal(signal.SIGINT)
        before = time.monotonic()
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(timeout=10)
        process.kill()
        took = time.monotonic() - before
        assert process.stderr is not None
        said = process.stderr.read()
    assert (process.returncode, said.strip().splitlines()[-1].removeprefix("yardcut: ")) == (130, "stopped")
    assert "Traceback" not in said
    assert took < 3.0  # a second, on a machine that is not busy
    assert not [path for path in tmp_path.iterdir() if path.name.endswith(".partial")]


def test_work_that_does_not_listen_is_stopped_too(tmp_path: Path) -> None:
    script = (
        "import time; from yardcut.cli.working import with_progress\n"
        "print('at work', flush=True)\n"
        "with_progress(lambda token, progress: [time.sleep(0.1) for _ in range(300)])\n"
    )
    with subprocess.Popen(
        [sys.executable, "-c", script], stdout=subprocess.PIPE, stderr=subprocess.PIPE, preexec_fn=_interruptible
    ) as process:
        assert process.stdout is not None
        process.stdout.readline()
        time.sleep(0.5)
        process.send_signal(signal.SIGINT)
        assert process.wait(timeout=5) == 130


def test_what_a_command_brings_through_a_pipe_is_a_source(tmp_path: Path) -> None:
    rows = "\\n".join(f"{number},x" for number in range(500))
    for words in (
        f"cut <(printf 'n,w\\n{rows}') -l 'keep n >= 498'",
        f"cut - -l 'keep n >= 498' < <(printf 'n,w\\n{rows}')",
    ):
        done = subprocess.run(
            ["bash", "-c", f"{sys.executable} -m yardcut {words}"], cwd=tmp_path, capture_output=True, text=True, check=True
        )  # fmt: skip
        assert done.stdout == "n,w\n498,x\n499,x\n"
    done = subprocess.run(
        ["bash", "-c", f"{sys.executable} -m yardcut gauge <(printf 'n,w\\n{rows}') <(printf 'n,w\\n{rows}')"],
        cwd=tmp_path, capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert "1,000" in done.stdout


def test_a_list_names_files_and_no_pipes(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "a.cut").write_text('yardcut 1\nsource "pipe.csv"\ncut "a"\n  draw first 1\n')
    (tmp_path / "b.cut").write_text('yardcut 1\nsource "/dev/zero"\ncut "a"\n  draw first 1\n')
    for name, said in (("a.cut", "is a pipe, which gives its bytes once"), ("b.cut", "is a device or a socket")):
        done = subprocess.run(
            [*YARDCUT, "check", name], cwd=tmp_path, capture_output=True, text=True, check=False, timeout=20
        )
        assert (done.returncode, said in done.stderr) == (1, True), done.stderr

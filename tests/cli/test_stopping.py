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


STOPPED = (130, -signal.SIGINT)
"""A shell says 130 of either: interrupted while modules are still read, Python ends by the signal itself."""


def _worked(process: subprocess.Popen[str]) -> float:
    """Return the seconds of processor time a running command has had."""
    fields = Path(f"/proc/{process.pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def _wait_until_at_work(process: subprocess.Popen[str]) -> None:
    """Wait until a command has started, and waits for something or has worked long: whatever others take of the machine."""
    last, still = -1.0, 0
    for _ in range(1200):
        time.sleep(0.05)
        assert process.poll() is None, "it waits"
        now = _worked(process)
        still = still + 1 if now == last and now > 0.3 else 0
        last = now
        if still > 12 or now > 4:
            return


@pytest.mark.long
@pytest.mark.few(2)
@pytest.mark.parametrize(
    "work", [_without_writer, _silent_input, _without_reader, _endless_query, _endless_list], ids=lambda work: work.__name__
)  # fmt: skip
def test_it_ends_within_a_second(tmp_path: Path, work: Callable[[Path], list[str]]) -> None:
    words = work(tmp_path)
    with subprocess.Popen(
        [*YARDCUT, *words], cwd=tmp_path, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        preexec_fn=_interruptible,
    ) as process:  # fmt: skip
        _wait_until_at_work(process)
        before = _worked(process)
        process.send_signal(signal.SIGINT)
        for _ in range(3000):
            if process.poll() is not None:
                break
            with contextlib.suppress(OSError):  # it may end just now
                if _worked(process) - before > 2.0:
                    break
            time.sleep(0.02)
        is_over = process.poll() is not None
        process.kill()
        assert process.stderr is not None
        said = process.stderr.read()
    assert is_over, "it goes on for a second of its own at most"
    assert process.returncode in STOPPED
    assert said.strip().splitlines()[-1].removeprefix("yardcut: ") == "stopped"
    assert "Traceback" not in said
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
        assert process.wait(timeout=60) == 130


@pytest.mark.long
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


@pytest.mark.long
def test_a_list_names_files_and_no_pipes(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.csv")
    (tmp_path / "a.cut").write_text('yardcut 1\nsource "pipe.csv"\ncut "a"\n  draw first 1\n')
    (tmp_path / "b.cut").write_text('yardcut 1\nsource "/dev/zero"\ncut "a"\n  draw first 1\n')
    for name, said in (("a.cut", "is a pipe, which gives its bytes once"), ("b.cut", "is a device or a socket")):
        done = subprocess.run(
            [*YARDCUT, "check", name], cwd=tmp_path, capture_output=True, text=True, check=False, timeout=20
        )
        assert (done.returncode, said in done.stderr) == (1, True), done.stderr

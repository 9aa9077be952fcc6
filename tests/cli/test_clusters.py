"""Runs on real workers of this machine: the same bytes, by the commands of the page, with workers killed and stopped."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from commands import yardcut, yardcut_process

ROWS = (1 << 20) + 4003
PAGE = Path(__file__).parents[2] / "docs" / "clusters.md"
LIST = """yardcut 1
source "packs.csv"
keep boards > 10 AND species <> 'yew'
order species, boards DESC
draw random 300 per species seed 4
save "slice.csv" replace
"""


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Return a folder, in which no worker is started, with a list, a source that is worth sending, and the slice as one machine cuts it."""
    folder = tmp_path_factory.mktemp("cluster")
    species = ("oak", "ash", "yew", "larch", "")
    lines = (f"{number * 7919 % 100_003},{species[number * 31 % 5]},{number % 97}\n" for number in range(ROWS))
    (folder / "lists").mkdir()
    (folder / "lists" / "packs.csv").write_text("ticket,species,boards\n" + "".join(lines))
    (folder / "lists" / "winter.cut").write_text(LIST)
    assert yardcut("run", "winter.cut", "-q", cwd=folder / "lists").returncode == 0
    (folder / "lists" / "slice.csv").rename(folder / "lists" / "expected.csv")
    return folder / "lists"


def is_the_same(folder: Path) -> bool:
    found, expected = (folder / "slice.csv").read_bytes(), (folder / "expected.csv").read_bytes()
    (folder / "slice.csv").unlink()
    return found == expected and len(expected) > 10_000


@pytest.mark.long  # a command of the README holds it on every change
def test_two_workers_started_for_a_try(folder: Path) -> None:
    done = yardcut_process("run", "winter.cut", "--cluster", "local", cwd=folder)
    assert done.returncode == 0, done.stderr
    assert re.search(r"^2 workers went over the rows \d+ times; [\d.]+ MB were sent to them", done.stderr, re.M)
    assert is_the_same(folder)


def commands() -> list[str]:
    """Return the commands of the page, in its order."""
    blocks = re.findall(r"```\n(.*?)```", PAGE.read_text("utf-8").split("## Two machines")[1], re.S)
    return [line for block in blocks[:4] for line in block.splitlines()]


@contextmanager
def machines(folder: Path) -> Iterator[tuple[str, list[subprocess.Popen[bytes]]]]:
    """Follow the page on one machine; yields the last command, and the scheduler and workers that run."""
    port = 20_000 + os.getpid() % 20_000
    environment = {**os.environ, "PATH": f"{Path(sys.executable).parent}:{os.environ['PATH']}"}
    running: list[subprocess.Popen[bytes]] = []
    *first, last = (
        line.replace("SCHEDULER", "127.0.0.1").replace("HERE", "127.0.0.1").replace("8786", str(port))
        for line in commands()
    )
    try:
        for line in first:
            if line.startswith("export "):
                name, _, value = line.removeprefix("export ").partition("=")
                environment[name] = value
            elif line.startswith("dask "):
                with open(folder / f"{len(running)}.log", "wb") as log:
                    process = subprocess.Popen(
                        line.split(), cwd=folder, env=environment, stderr=log, start_new_session=True
                    )
                running.append(process)
            else:
                subprocess.run(line, shell=True, cwd=folder, check=True, capture_output=True)
        wait_for(lambda: (folder / "1.log").read_bytes().count(b"Registered to") >= 2)
        yield last.replace("winter-oak.cut", "winter.cut"), running
    finally:
        for process in running:
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)
                process.wait()


def wait_for(holds: object, seconds: float = 60) -> None:
    until = time.monotonic() + seconds
    assert callable(holds)
    while not holds():
        assert time.monotonic() < until, "waited in vain"
        time.sleep(0.05)


@pytest.mark.long
def test_the_commands_of_the_page(folder: Path) -> None:
    assert len(commands()) <= 10
    machine = folder.parent
    with machines(machine) as (command, running):
        words = [word if word != "tls" else str(machine / "tls") for word in [*command.split()[1:], "--replace"]]
        done = yardcut_process(*words, cwd=folder)
        assert done.returncode == 0, done.stderr
        assert "2 workers went over the rows" in done.stderr
        assert is_the_same(folder)

        strangers = folder / "strangers"
        strangers.mkdir()
        made = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-subj", "/CN=other", "-keyout", "key.pem", "-out", "ca.pem"]  # fmt: skip
        subprocess.run(made, cwd=strangers, check=True, capture_output=True)
        (strangers / "cert.pem").write_bytes((strangers / "ca.pem").read_bytes())
        done = yardcut_process(*[word if not word.endswith("/tls") else "strangers" for word in words], cwd=folder)
        assert done.returncode == 1
        assert "certificate does not match" in done.stderr
        assert done.stderr.count("\n") == 1, "nothing of the library's own"

        os.killpg(running[1].pid, signal.SIGKILL)
        running[1].wait()
        wait_for(lambda: (machine / "0.log").read_bytes().count(b"Remove worker") >= 2)
        done = yardcut_process(*words, cwd=folder)
        assert done.returncode == 1
        assert "has no workers" in done.stderr
        assert not (folder / "slice.csv").exists()


@pytest.mark.long  # it starts workers who have nothing to do: in the long form
def test_a_small_table_is_gone_over_here(tmp_path: Path) -> None:
    (tmp_path / "few.csv").write_text("boards\n1\n2\n")
    (tmp_path / "few.cut").write_text('yardcut 1\nsource "few.csv"\nkeep boards > 1\n')
    done = yardcut_process("run", "few.cut", "--cluster", "local", cwd=tmp_path)
    assert (done.returncode, done.stdout) == (0, "boards\n2\n")
    assert "2 workers had nothing to do: fewer than 1,048,576 rows are gone over here sooner" in done.stderr


@pytest.mark.few(2)
@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (["--cluster", "tcp://yard:8786"], 1, "without TLS anybody may run code there"),
        (["--cluster", "tls://yard:8786"], 1, "needs certificates"),
        (["--cluster", "tls://yard:8786", "--cluster-tls", "."], 1, "has no ca.pem"),
        (["--cluster", "packs.csv"], 1, "is not the address of a scheduler"),
        (["--cluster-tls", "."], 2, "--cluster-tls needs --cluster"),
        (["--cluster", "local", "--there"], 2, "do not go together"),
    ],
)
def test_addresses_that_are_refused(folder: Path, words: list[str], code: int, said: str) -> None:
    done = yardcut("run", "winter.cut", *words, cwd=folder)
    assert (done.returncode, said in done.stderr) == (code, True), done.stderr
    assert not (folder / "slice.csv").exists()

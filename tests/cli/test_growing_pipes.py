"""What comes through a pipe is read while it comes: the same bytes as of a file, and no more of it than it takes."""

from __future__ import annotations

import contextlib
import gzip
import os
import random
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from cli.test_columns_looked_at import ROW_LINES, WHOLE_LINES
from cli.test_first_rows import source
from commands import assert_sentence, yardcut
from helpers import take_grammars
from thoroughness import examples
from yardcut.core.sources import growing_files, opening_sources
from yardcut.core.sources.formats import delimited

COMMAND = [sys.executable, "-m", "yardcut", "cut", "-"]


@pytest.fixture(autouse=True)
def small_pieces(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 1 << 12)
    monkeypatch.setattr(delimited, "FIRST_BLOCK_BYTES", 1 << 11)
    monkeypatch.setattr(opening_sources, "LARGE_BYTES", 1 << 14)
    monkeypatch.setattr(growing_files, "_PIECE_BYTES", 1 << 10)
    monkeypatch.setattr(growing_files, "_AHEAD_BYTES", 1 << 13)
    take_grammars(tmp_path / "cache")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))


@contextlib.contextmanager
def pipe_of(folder: Path, content: bytes, chance: random.Random) -> Iterator[tuple[str, list[int]]]:
    """Give a content through a named pipe, in pieces of any size, with pauses; tells how much of it was taken."""
    path, taken = folder / f"pipe{chance.randrange(10**9)}.csv", [0]
    os.mkfifo(path)

    def feed() -> None:
        with contextlib.suppress(BrokenPipeError), open(path, "wb", buffering=0) as pipe:
            while taken[0] < len(content):
                taken[0] += pipe.write(content[taken[0] : taken[0] + chance.choice([1, 100, 5000])]) or 0
                if chance.random() < 0.02:
                    time.sleep(0.002)

    feeding = threading.Thread(target=feed, daemon=True)
    feeding.start()
    yield str(path), taken


@pytest.mark.few(2)
@pytest.mark.parametrize("seed", range(examples(60)))
def test_the_bytes_are_those_of_a_file(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    source(chance, tmp_path / "packs.csv")
    content = (tmp_path / "packs.csv").read_bytes()
    if chance.random() < 0.3:
        content = gzip.compress(content)
    lines = chance.sample(
        [*ROW_LINES, *WHOLE_LINES, "draw first 5", "columns ticket", "draw rows 3 to 9"], chance.randint(1, 3)
    )
    words = [word for line in lines for word in ("-l", line)]
    whole = yardcut("cut", "packs.csv", *words, "--store", cwd=tmp_path)
    with pipe_of(tmp_path, content, chance) as (pipe, _):
        piped = yardcut("cut", pipe, *words, cwd=tmp_path)
    assert (piped.returncode, piped.stdout) == (whole.returncode, whole.stdout), lines


def test_no_more_is_taken_than_the_first_rows_need(tmp_path: Path) -> None:
    content = b"ticket,boards\n" + b"".join(b"%07d,%d\n" % (row, row % 90) for row in range(300_000))
    with pipe_of(tmp_path, content, random.Random(1)) as (pipe, taken):
        done = yardcut("cut", pipe, "-l", "draw first 4", cwd=tmp_path)
        assert done.stdout.splitlines()[-1] == "0000003,3"
        assert "reading stopped after" in done.stderr
        assert taken[0] < len(content) // 2


@pytest.mark.long
def test_a_pipe_without_an_end_gives_its_first_rows(tmp_path: Path) -> None:
    with subprocess.Popen(["yes", "7,oak"], stdout=subprocess.PIPE) as endless:
        done = subprocess.run(
            [*COMMAND, "-l", "draw first 2"],
            stdin=endless.stdout,
            capture_output=True,
            text=True,
            timeout=60,
            check=False,
        )
        endless.kill()
    assert done.stdout == "column_1,column_2\n7,oak\n7,oak\n"
    assert done.returncode == 0
    assert not list((tmp_path / "cache" / "yardcut").glob("piped-*"))


@pytest.mark.long
@pytest.mark.few(1)
@pytest.mark.parametrize("lines", [["keep b > 1"], ["draw first 2"], ["order a DESC"]])
def test_nothing_of_a_pipe_is_left(tmp_path: Path, lines: list[str]) -> None:
    words = [word for line in lines for word in ("-l", line)]
    done = subprocess.run([*COMMAND, *words], input="a,b\nx,1\ny,2\nz,3\n", capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    cache = tmp_path / "cache" / "yardcut"
    left = [path.name for path in [*cache.glob("piped-*"), *(cache / "stores").glob("*")]]
    assert not left


@pytest.mark.few(1)
@pytest.mark.parametrize("command", ["cut", "gauge"])
def test_standard_input_is_read_by_one(command: str) -> None:
    words = ["-l", "draw first 2"] if command == "cut" else []
    done = subprocess.run(
        [*COMMAND[:-2], command, "-", "-", *words], input="a,b\nx,1\n", capture_output=True, text=True, check=False
    )
    assert_sentence(done, 1, "standard input gives its bytes once; name it once")


@pytest.mark.parametrize("line", ["draw first 2000", "keep ticket > '0'"])
def test_what_breaks_off_is_said(tmp_path: Path, line: str) -> None:
    chance = random.Random(2)
    source(chance, tmp_path / "packs.csv")
    content = gzip.compress((tmp_path / "packs.csv").read_bytes())
    with pipe_of(tmp_path, content[: len(content) * 2 // 3], chance) as (pipe, _):
        assert_sentence(yardcut("cut", pipe, "-l", line, cwd=tmp_path), 1, "is not a whole gz file")


def test_a_pipe_that_gives_nothing_is_said(tmp_path: Path) -> None:
    with pipe_of(tmp_path, b"", random.Random(1)) as (pipe, _):
        assert_sentence(yardcut("cut", pipe, "-l", "draw first 2", cwd=tmp_path), 1, "nothing came from pipe")


def test_a_full_disk_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    class Full:
        """A file on a disk that takes so much and no more."""

        def __init__(self) -> None:
            self.left = 20_000

        def write(self, piece: memoryview) -> int:
            self.left -= len(piece)
            if self.left < 0:
                raise OSError(28, "No space left on device")
            return len(piece)

        def __enter__(self) -> Full:
            return self

        def __exit__(self, *given: object) -> None:
            pass

    def opened(path: Path, *given: object, **named: object) -> Full:
        path.write_bytes(b"a,b\n" + b"1,2\n" * 4_999)  # what got there
        return Full()

    monkeypatch.setattr(growing_files, "open", opened, raising=False)
    with pipe_of(tmp_path, b"a,b\n" + b"1,2\n" * 100_000, random.Random(1)) as (pipe, _):
        done = yardcut("cut", pipe, "-l", "keep a > 0", cwd=tmp_path)
    assert_sentence(done, 1, "cannot be kept", "No space left on device")

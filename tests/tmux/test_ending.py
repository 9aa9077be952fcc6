"""Told to end, at any moment from the first byte on, the app leaves the terminal as it was, and keeps the list."""

from __future__ import annotations

import os
import pty
import select
import signal
import struct
import subprocess
import sys
import termios
import time
from fcntl import ioctl
from pathlib import Path

import pytest

from thoroughness import some

ON_OFF = [
    (b"\x1b[?1049h", b"\x1b[?1049l"),
    (b"\x1b[?1000h", b"\x1b[?1000l"),
    (b"\x1b[?25l", b"\x1b[?25h"),
    (b"\x1b[?2004h", b"\x1b[?2004l"),
]
MOMENTS = [2.5, 0.35, 0.1, 0.6, 0.8, 1.0, 1.3, 0.2, 0.02]


def told_to_end(folder: Path, number: int, wait_seconds: float) -> tuple[int, bytes, bool]:
    """Return the exit code, all that was written to the terminal, and whether its settings are what they were."""
    ours, theirs = pty.openpty()
    ioctl(ours, termios.TIOCSWINSZ, struct.pack("HHHH", 40, 120, 0, 0))
    before = termios.tcgetattr(theirs)
    process = subprocess.Popen([sys.executable, "-m", "yardcut", "a.csv"], cwd=folder, stdin=theirs, stdout=theirs, stderr=theirs,
                               env={**os.environ, "TERM": "xterm-256color"}, start_new_session=True)  # fmt: skip
    written, told, end = b"", False, time.monotonic() + 30
    began = time.monotonic()
    while time.monotonic() < end:
        if not told and time.monotonic() - began >= wait_seconds:
            process.send_signal(number)
            told = True
        if select.select([ours], [], [], 0.02)[0]:
            written += os.read(ours, 1 << 16)
        elif process.poll() is not None:
            break
    after = termios.tcgetattr(theirs)
    os.close(theirs)
    os.close(ours)
    return process.wait(), written, before[:4] == after[:4]


@pytest.mark.few(2)
@pytest.mark.parametrize("wait_seconds", some(MOMENTS, 2))
@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP])
def test_the_terminal_is_as_it_was(tmp_path: Path, number: int, wait_seconds: float) -> None:
    (tmp_path / "a.csv").write_text("n,w\n1,a\n2,b\n")
    code, written, as_before = told_to_end(tmp_path, number, wait_seconds)
    assert code in (130, -number), written[-400:]
    assert as_before or code == -number
    for on, off in ON_OFF:
        if on in written:
            assert written.rfind(off) > written.rfind(on), (on, written[-300:])
            assert code == 130
    assert b"Traceback" not in written


@pytest.mark.long
@pytest.mark.parametrize("wait_seconds", some([2.5, 0.6, 1.0], 1))
@pytest.mark.parametrize("ignored", [False, True])
def test_nothing_goes_on_where_the_terminal_is_gone(tmp_path: Path, wait_seconds: float, ignored: bool) -> None:
    """Its window is closed; the hang-up is told by a signal, or by the terminal alone."""
    (tmp_path / "a.csv").write_text("n,w\n1,a\n2,b\n")
    ours, theirs = pty.openpty()
    process = subprocess.Popen(
        [sys.executable, "-m", "yardcut", "a.csv"],
        cwd=tmp_path, stdin=theirs, stdout=theirs, stderr=theirs, start_new_session=True,
        env={**os.environ, "TERM": "xterm-256color"},
        preexec_fn=(lambda: signal.signal(signal.SIGHUP, signal.SIG_IGN)) if ignored else (lambda: ioctl(0, termios.TIOCSCTTY, 0)),
    )  # fmt: skip
    os.close(theirs)
    end = time.monotonic() + wait_seconds
    while time.monotonic() < end:
        if select.select([ours], [], [], 0.02)[0]:
            os.read(ours, 1 << 16)
    os.close(ours)
    try:
        process.wait(20)
    finally:
        process.kill()


ENDLESS = """
from yardcut.cli.main import main
from yardcut.tui.finder.finder import FinderCard
def _show(self):
    print("deaf", file=open("deaf", "w"))
    while True:
        pass
FinderCard.on_mount = _show
import sys
sys.argv = ["yardcut", "a.csv"]
main()
"""


@pytest.mark.long  # it takes a processor for ten seconds
def test_what_has_no_end_goes_on_no_longer_than_the_terminal(tmp_path: Path) -> None:
    """A loop without an end is a fault; that it would go on for good where nobody can see it would be another."""
    (tmp_path / "a.csv").write_text("n,w\n1,a\n2,b\n")
    ours, theirs = pty.openpty()
    ioctl(ours, termios.TIOCSWINSZ, struct.pack("HHHH", 40, 120, 0, 0))
    process = subprocess.Popen([sys.executable, "-c", ENDLESS], cwd=tmp_path, stdin=theirs, stdout=theirs, stderr=theirs,
                               env={**os.environ, "TERM": "xterm-256color"}, start_new_session=True)  # fmt: skip
    os.close(theirs)
    end = time.monotonic() + 30
    while not (tmp_path / "deaf").exists():
        assert time.monotonic() < end
        if select.select([ours], [], [], 0.2)[0]:
            os.read(ours, 1 << 16)
        else:
            os.write(ours, b"?")
    os.close(ours)
    try:
        assert process.wait(30) == 128 + signal.SIGHUP
    finally:
        process.kill()


@pytest.mark.long
def test_a_command_that_is_told_to_end_leaves_nothing(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n,w\n" + "".join(f"{n},{n * 7919 % 1000003}\n" for n in range(600_000)))
    whole = "\n".join(
        ["n,w", *sorted((tmp_path / "a.csv").read_text().split("\n")[1:-1], key=lambda row: int(row.split(",")[1])), ""]
    )
    for wait_seconds in (0.4, 0.8, 1.2):
        process = subprocess.Popen(
            [sys.executable, "-m", "yardcut", "cut", "a.csv", "-l", "order w", "--out", "o.csv", "-q"],
            cwd=tmp_path,
            stderr=subprocess.PIPE,
        )
        time.sleep(wait_seconds)
        process.terminate()
        _, said = process.communicate(timeout=30)
        if (tmp_path / "o.csv").exists():
            assert (tmp_path / "o.csv").read_text() == whole
            (tmp_path / "o.csv").unlink()
            continue
        assert process.returncode in (130, -signal.SIGTERM), said
        assert b"Traceback" not in said
        if process.returncode == 130:
            assert {path.name for path in tmp_path.iterdir()} == {"a.csv"}


SWALLOWS = """
import signal, os, sys
from yardcut.cli import ending, main
class Meta:
    def __set_name__(self, owner, name):
        os.kill(os.getpid(), signal.SIGTERM)
class Dropped:
    def __del__(self):
        os.kill(os.getpid(), signal.SIGTERM)
def held_up(name):
    if {how!r} == "error":
        type("Any", (), {{"x": Meta()}})
    else:
        Dropped()
real = main._Commands.get_command
main._Commands.get_command = lambda self, ctx, name: (held_up(name), real(self, ctx, name))[1]
sys.argv = ["yardcut", *sys.argv[1:]]
main.main()
"""


@pytest.mark.parametrize("how", ["error", "dropped"])
def test_what_holds_the_word_to_end_up_does_not_lose_it(tmp_path: Path, how: str) -> None:
    (tmp_path / "a.csv").write_text("n,w\n1,a\n2,b\n")
    done = subprocess.run(
        [sys.executable, "-c", SWALLOWS.format(how=how), "check", "a.cut"],
        cwd=tmp_path, capture_output=True, text=True, timeout=60, check=False,
    )  # fmt: skip
    assert done.returncode == 130, done.stderr
    assert "fault" not in done.stderr

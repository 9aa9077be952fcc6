"""The real interface in a real terminal: tmux runs it, types at it, and reads the screen."""

from __future__ import annotations

import os
import shlex
import signal
import subprocess
import sys
import termios
import time
from collections.abc import Iterator
from pathlib import Path

WAIT_SECONDS = 30.0
_POLL_SECONDS = 0.05


def _looks(seconds: float) -> Iterator[None]:
    """Yield as often as one may look in some seconds.

    Counted and not timed: where others take the processor, the program under test does not go on either.
    """
    for _ in range(round(seconds / _POLL_SECONDS)):
        yield
        time.sleep(_POLL_SECONDS)


class Terminal:
    """One program in one tmux session of its own server."""

    def __init__(
        self, folder: Path, columns: int, rows: int, words: list[str], pipe: str = "", **environment: str
    ) -> None:
        self._socket = str(folder / "tmux-socket")
        self._folder = folder
        config = folder / "tmux.conf"
        config.write_text(
            "set -g status off\nset -g default-terminal tmux-256color\nset -sg escape-time 10\nset -g history-limit 0\n"
        )
        self._status = folder / "exit-status"
        program = " ".join(map(shlex.quote, [sys.executable, "-m", "yardcut", *words]))
        settings = " ".join(f"{name}={shlex.quote(value)}" for name, value in environment.items())
        command = f"{pipe} {settings} {program}; echo $? > {shlex.quote(str(self._status))}; sleep 600"
        self._environment = {**os.environ, "LANG": "C.UTF-8", "COLORTERM": "truecolor"}
        for name in ("COLUMNS", "LINES", "TMUX", "NO_COLOR"):
            self._environment.pop(name, None)
        self.tmux(
            "-f", str(config), "new-session", "-d", "-x", str(columns), "-y", str(rows), "-c", str(folder), command
        )

    def tmux(self, *words: str) -> str:
        """Call tmux on this terminal's own server."""
        done = subprocess.run(
            ["tmux", "-S", self._socket, *words], env=self._environment, capture_output=True, text=True, check=False
        )
        assert done.returncode == 0, done.stderr
        return done.stdout

    def screen(self, *, styled: bool = False) -> str:
        """Return what is on the screen, with escape sequences for styles if wanted."""
        return self.tmux("capture-pane", "-p", *(["-e"] if styled else []))

    def until(self, *texts: str, gone: bool = False, seconds: float = WAIT_SECONDS) -> str:
        """Wait until all texts are on the screen, or none is; return the screen."""
        screen = ""
        for _ in _looks(seconds):
            screen = self.screen()
            if all((text in screen) is not gone for text in texts):
                return screen
        raise AssertionError(f"{'still' if gone else 'never'} on the screen: {texts}\n{screen}")

    def taken(self) -> None:
        """Wait until the program has the terminal: before that ctrl+s and its like are the terminal's own."""
        name = self.tmux("display-message", "-p", "#{pane_tty}").strip()
        terminal = os.open(name, os.O_RDONLY | os.O_NOCTTY | os.O_NONBLOCK)
        try:
            for _ in _looks(WAIT_SECONDS):
                if not termios.tcgetattr(terminal)[0] & termios.IXON:
                    return
        finally:
            os.close(terminal)
        raise AssertionError("the program never took the terminal")

    def keys(self, *keys: str) -> None:
        """Press keys by their tmux names, as fast as a quick typist."""
        for key in keys:
            self.tmux("send-keys", key)
            time.sleep(0.03)

    def type(self, text: str) -> None:
        """Type a text literally."""
        self.tmux("send-keys", "-l", text)

    def paste(self, text: str) -> None:
        """Paste a text, as a terminal does: in brackets where the program asks for that."""
        self.tmux("set-buffer", "--", text)
        self.tmux("paste-buffer", "-p")

    def line(self, text: str, *seen: str) -> None:
        """Write a line at the prompt, wait for what it would do, and enter it."""
        self.keys("w")
        self.until("cut ▸")
        self.type(text)
        self.until(*(seen or ("(as line",)))
        self.keys("Enter")
        self.until("cut ▸", gone=True)

    def status(self, seconds: float = WAIT_SECONDS) -> int:
        """Wait until the program ended and return its exit status."""
        for _ in _looks(seconds):
            if self.ended():
                return int(self._status.read_text())
        raise AssertionError(f"the program did not end\n{self.screen()}")

    def ended(self) -> bool:
        """Tell whether the program ended."""
        return self._status.exists() and bool(self._status.read_text().strip())

    def kill(self) -> None:
        """Kill the program, as a system that is out of memory does."""
        for child in self._programs():
            os.kill(child, signal.SIGKILL)

    def _programs(self) -> list[int]:
        asked = ["tmux", "-S", self._socket, "display-message", "-p", "#{pane_pid}"]
        shell = subprocess.run(asked, capture_output=True, text=True, check=False).stdout.strip() or "0"
        children = Path(f"/proc/{shell}/task/{shell}/children")
        return [int(child) for child in children.read_text().split()] if children.exists() else []

    def close(self) -> None:
        """End the server, and see the program end, whose terminal is gone with it."""
        left = self._programs()
        subprocess.run(["tmux", "-S", self._socket, "kill-server"], capture_output=True, check=False)
        end = time.monotonic() + 20
        while left := [child for child in left if _is_there(child)]:
            if time.monotonic() > end:
                for child in left:
                    os.kill(child, signal.SIGKILL)
                raise AssertionError("the program goes on although its terminal is gone")
            time.sleep(0.02)


def _is_there(number: int) -> bool:
    try:
        return Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False

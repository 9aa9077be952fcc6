from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from terminal import Terminal

Start = Callable[..., Terminal]


@pytest.fixture
def start(tmp_path: Path, yard: Path) -> Iterator[Start]:
    """Return a function that starts the app in a folder with a copy of the 2031 file."""
    if shutil.which("tmux") is None:
        pytest.fail("these tests need tmux; make test says how to install it")
    shutil.copy(yard / "yard_2031.csv", tmp_path / "yard_2031.csv")
    running: list[Terminal] = []

    def begin(*words: str, columns: int = 160, rows: int = 47, **environment: str) -> Terminal:
        folder = tmp_path / f"terminal-{len(running)}"
        folder.mkdir()
        (folder / "yard_2031.csv").symlink_to(tmp_path / "yard_2031.csv")
        terminal = Terminal(folder, columns, rows, list(words or ("../yard_2031.csv",)), **environment)
        running.append(terminal)
        return terminal

    yield begin
    for terminal in running:
        terminal.close()

"""Copying: what there is to copy, what goes to the terminal and to the system's clipboard, and what is too much."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from tui.driving import Driven, drive


@pytest.fixture
def table(tmp_path: Path) -> Path:
    path = tmp_path / "a.csv"
    path.write_text("n,w\n" + "".join(f"{n},{'ab'[n % 2]}\n" for n in range(1_000)))
    return path


def with_program(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Put a clipboard program there, as a desktop has one."""
    (folder / "bin").mkdir()
    program = folder / "bin" / "wl-copy"
    program.write_text(f"#!/bin/sh\ncat > {folder / 'clipboard'}\n")
    program.chmod(0o755)
    monkeypatch.setenv("WAYLAND_DISPLAY", "wayland-0")
    monkeypatch.setenv("PATH", f"{folder / 'bin'}:{os.environ['PATH']}")
    return folder / "clipboard"


def test_everything_there_is_is_copied(table: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    clipboard = with_program(tmp_path, monkeypatch)
    copied: list[str] = []

    async def steps(app: Driven) -> None:
        monkeypatch.setattr(app.app, "copy_to_clipboard", copied.append)
        await app.until("1,000 rows")
        await app.line("keep n < 4", "would leave 4")
        for down, said in enumerate(("copied 0", "copied 4 values of n", "copied 4 rows of 2 columns", "copied keep n < 4",
                                     "copied the list of 1 line", "copied the cut explained")):  # fmt: skip
            await app.press("Y")
            await app.until("copy to the clipboard", "the cut explained")
            await app.press(*["down"] * down, "enter")
            await app.until(said)
            assert "where the terminal" not in app.screen()
            assert clipboard.read_text() == copied[-1]

    drive(table, steps)
    assert copied[:4] == ["0", "0\n1\n2\n3", "n\tw\n0\ta\n1\tb\n2\ta\n3\tb\n", "keep n < 4"]
    assert copied[4].startswith("yardcut 1\n\nsource")
    assert "1. Of 1,000 rows 4 are kept: those where n is below 4." in copied[5]


def test_a_size_that_a_terminal_does_not_take_is_said(table: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("yardcut.tui.clipboard.MOST_CHARACTERS", 100)
    monkeypatch.setattr("yardcut.tui.clipboard._PROGRAMS", ())

    async def steps(app: Driven) -> None:
        monkeypatch.setattr(app.app, "copy_to_clipboard", lambda text: pytest.fail("it is too long"))
        await app.until("1,000 rows")
        await app.press("Y", "down", "enter")
        await app.until("that is too much for the clipboard of a terminal: 3,889 characters")

    drive(table, steps)


def test_a_program_that_hangs_or_fails_does_not_stop_anything(
    table: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with_program(tmp_path, monkeypatch)
    (tmp_path / "bin" / "wl-copy").write_text("#!/bin/sh\nsleep 30\n")
    monkeypatch.setattr("yardcut.tui.clipboard._PATIENCE_SECONDS", 0.3)

    async def steps(app: Driven) -> None:
        await app.until("1,000 rows")
        await app.press("a")
        await app.until("copied 0   (where the terminal lets programs copy)")

    drive(table, steps)

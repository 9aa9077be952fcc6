"""The page of help lists the commands without loading them, in their own words."""

from __future__ import annotations

from pathlib import Path

import click
import pytest

from commands import yardcut, yardcut_process
from yardcut.cli.main import _LAZY, _short_help, cli


@pytest.mark.parametrize("name", list(_LAZY))
@pytest.mark.parametrize("room", [30, 45, 66, 120])
def test_each_command_is_said_in_its_own_words(name: str, room: int) -> None:
    command = cli.get_command(click.Context(cli), name)
    assert command is not None
    assert _short_help(name, room) == command.get_short_help_str(room)


def test_help_is_there_without_loading_a_command(tmp_path: Path) -> None:
    page = yardcut("--help", cwd=tmp_path).stdout
    assert all(f"  {name}  " in page for name in _LAZY)
    loaded = yardcut_process("--help", cwd=tmp_path, PYTHONPROFILEIMPORTTIME="1").stderr
    assert "click" in loaded
    assert "yardcut.cli.commands." not in loaded
    assert "platformdirs" not in loaded

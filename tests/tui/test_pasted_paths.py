"""A path as terminals paste it: bare, in quotes, with its blanks escaped, as a file URI. Any other text is none."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.tui.main.prompting.opening_another import pasted_path


@pytest.mark.parametrize("name", ["packs.csv", "my packs.csv", "it's.csv", "木材 (1).csv", 'a "b".csv'])
def test_a_path_that_is_there(tmp_path: Path, name: str) -> None:
    path = tmp_path / name
    path.write_text("a\n1\n")
    quoted = "'" + str(path).replace("'", "'\\''") + "'"
    escaped = "".join(f"\\{char}" if char in " '()\"" else char for char in str(path))
    for pasted in (str(path), f"{path}\n", f"  {path} ", quoted, escaped, path.as_uri()):
        assert pasted_path(pasted) == str(path), pasted


@pytest.mark.parametrize(
    "text",
    ["", "\n", "oak\nash", "/nowhere/packs.csv", "'", "\\", "file://", "x" * 9000, "a\0b", "/", "~nobody/x", "\ud800"],
)
def test_what_is_no_path_of_a_file(text: str) -> None:
    assert pasted_path(text) is None

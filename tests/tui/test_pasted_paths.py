"""A path as terminals paste it: bare, in quotes, with its blanks escaped, as a file URI. Any other text is none."""

from __future__ import annotations

from pathlib import Path

import pytest
from textual import events

from tui.driving import Driven, drive
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


@pytest.mark.long
def test_a_pasted_path_is_asked_about_once_and_nothing_is_put_behind_it(tmp_path: Path) -> None:
    """Where lines are, the question has the path, and not what was pasted, whatever is around it."""
    (tmp_path / "a.csv").write_text("n\n1\n2\n")
    (tmp_path / "its own.csv").write_text("n\n1\n")

    async def steps(app: Driven) -> None:
        await app.until("2 rows × 1 column")
        await app.line("keep n > 1", "would leave 1")
        for pasted in (
            f"'{tmp_path / 'its own.csv'}'",
            str(tmp_path / "its own.csv").replace(" ", "\\ "),
            (tmp_path / "its own.csv").as_uri(),
        ):
            app.app.dispatcher.take(events.Paste(pasted))  # type: ignore[attr-defined]
            await app.until("open ▸", "opens its own.csv instead of this source")
            for _ in range(5):
                await app.pause(0.05)
                assert "there is no" not in app.screen()
            prompt = app.app.screen.stage.prompt  # type: ignore[attr-defined]
            assert prompt.text == str(tmp_path / "its own.csv")
            await app.press("escape")
            await app.until("open ▸", gone=True)

    drive(tmp_path / "a.csv", steps)

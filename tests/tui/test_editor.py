"""What an editor may do to a line: save another encoding, nothing, or not be there."""

from __future__ import annotations

import contextlib
from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.errors import YardcutError
from yardcut.tui.editor import edit_text

EDITORS = {
    "printf 'keep a = \\377' >": "saved no UTF-8",
    "false": "ended with 1",
    "no-such-editor --wait": "cannot be started",
    "'unclosed": "is no command",
    "rm": "cannot be started",
}


@pytest.mark.few(2)
@pytest.mark.parametrize("editor", EDITORS)
def test_the_line_is_as_it_was_and_why_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, editor: str) -> None:
    if editor.endswith(">"):
        script = tmp_path / "editor.sh"
        script.write_text(f'#!/bin/sh\n{editor} "$1"\n')
        script.chmod(0o755)
        monkeypatch.setenv("EDITOR", str(script))
    else:
        monkeypatch.setenv("EDITOR", editor)
    monkeypatch.delenv("VISUAL", raising=False)
    monkeypatch.setattr("textual.app.App.suspend", lambda app: contextlib.nullcontext())
    with pytest.raises(YardcutError):
        edit_text("draw first 3")
    path = tmp_path / "packs.csv"
    write_packs(path, 30, 5)

    async def steps(app: Driven) -> None:
        await app.until("30 rows", "distinct")
        await app.press("w")
        await app.type("draw first 3")
        await app.until("(as line 1")
        await app.press("f6")
        await app.until(EDITORS[editor], "draw first 3")
        await app.settled()
        assert EDITORS[editor] in app.screen()  # the counts of the line do not take its place
        await app.press("enter")
        await app.until("3 rows left")

    drive(path, steps, size=(300, 40))


def test_what_was_saved_goes_on_as_the_line(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    script = tmp_path / "editor.sh"
    script.write_text("#!/bin/sh\nprintf '\\357\\273\\277draw first 4\\n' > \"$1\"\n")
    script.chmod(0o755)
    monkeypatch.setenv("VISUAL", str(script))
    assert edit_text("draw first 3") == "draw first 4"

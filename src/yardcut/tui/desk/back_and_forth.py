"""Taking edits back and doing them again, with what is said of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yardcut.tui.desk.desk import Desk


def said_of_step(desk: Desk, *, again: bool) -> str:
    """Take the last edit back, or do it again; returns what to say of it."""
    if desk.edits.redo() if again else desk.edits.undo():
        return "did it again" if again else "took the last edit back"
    return f"there is nothing to {'do again' if again else 'take back'}"

"""The header: what is open, which cut, whether it is saved, and at the right what is being worked on."""

from __future__ import annotations

from dataclasses import dataclass

from rich.cells import cell_len
from textual.content import Content
from textual.widgets import Static

from yardcut.tui.text import clean, fit


@dataclass(frozen=True, slots=True)
class HeaderState:
    """What the header says; ``offcut`` names the line whose removed rows are shown."""

    source: str = ""
    size: str = ""
    cut: str = ""
    saved: str = ""
    offcut: str = ""
    work: str = ""


class Header(Static):
    """One line on top of the main screen."""

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._state = HeaderState()

    def show(self, state: HeaderState) -> None:
        """Say something else."""
        if state != self._state:
            self._state = state
            self._draw()

    def on_resize(self) -> None:
        """Fit the line to the width."""
        self._draw()

    def _draw(self) -> None:
        state = self._state
        width = self.size.width
        right = clean(state.offcut or state.work)
        parts = [
            (" ▟█▙ ", "$plank"),
            ("YARD CUT  ", "bold $accent"),
            (fit(clean(state.source), min(40, cell_len(clean(state.source)))) + "  ", "bold"),
            (state.size + "   ", "$dim"),
            (clean(state.cut) + " ", "bold"),
            (state.saved, "$dim"),
        ]
        used = sum(cell_len(text) for text, _ in parts)
        room = width - 1 - len(right)
        if used > room:
            parts = parts[:3] + parts[4:] if used - len(state.size) - 3 <= room else parts[:3]
            used = sum(cell_len(text) for text, _ in parts)
        parts.append((" " * max(1, room - used), ""))
        parts.append((right, "$saw bold" if state.offcut else "$would"))
        self.update(Content.assemble(*parts))

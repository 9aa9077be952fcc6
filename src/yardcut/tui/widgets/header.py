"""The header: what is open, which cut, whether it is saved, and at the right what is being worked on."""

from __future__ import annotations

from rich.cells import cell_len
from textual.content import Content
from textual.geometry import Size
from textual.widgets import Static

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.sizes import is_too_small
from yardcut.tui.text import clean, fit


@dataclass(frozen=True, slots=True)
class HeaderState:
    """What the header says; ``offcut`` names the line whose removed rows are shown, ``left`` the rows of the slice."""

    source: str = ""
    size: str = ""
    cut: str = ""
    saved: str = ""
    offcut: str = ""
    work: str = ""
    left: str = ""


_GIVEN_UP = ("product", "size", "cut", "saved")
"""What a narrow terminal has no room for, the least wanted first."""


class Header(Static):
    """One line on top of the main screen."""

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._state = HeaderState()
        self._too_small = ""

    def show(self, state: HeaderState) -> None:
        """Say something else."""
        if state != self._state:
            self._state = state
            self._draw()

    def show_room(self, terminal: Size) -> None:
        """Say so where the terminal is too small for anything else."""
        text = f"{terminal.width}×{terminal.height} is too small" if is_too_small(terminal) else ""
        if text != self._too_small:
            self._too_small = text
            self._draw()

    def on_resize(self) -> None:
        """Fit the line to the width."""
        self._draw()

    def _draw(self) -> None:
        if self._too_small:
            self.update(Content(self._too_small))
            return
        state = self._state
        width = self.size.width
        right = clean(state.offcut or state.work)
        source = clean(state.source)
        parts = {
            "mark": (" ▟█▙ ", "$plank"),
            "product": ("YARD CUT  ", "bold $accent"),
            "source": (fit(source, min(40, cell_len(source))) + "  ", "bold"),
            "size": (state.size + "   ", "$dim"),
            "cut": (clean(state.cut) if state.cut else "", "bold"),
            "left": (" · " + state.left if state.left else "", ""),
            "saved": (" · " + state.saved if state.saved else "", "$dim"),
        }
        room = width - 1 - cell_len(right)
        for part in _GIVEN_UP:
            if sum(cell_len(text) for text, _ in parts.values()) <= room:
                break
            if part != "size" or state.left:  # one of the two counts is always there
                del parts[part]
        used = sum(cell_len(text) for text, _ in parts.values())
        shown = [*parts.values(), (" " * max(1, room - used), "")]
        shown.append((right, "$saw bold" if state.offcut else "$would"))
        self.update(Content.assemble(*shown))

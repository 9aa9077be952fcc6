"""The text field of the prompt. Loaded after the first paint: a text field takes its time to load."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import ClassVar

from rich.text import Text
from textual import events
from textual.binding import Binding, BindingType
from textual.widgets import TextArea


class LineArea(TextArea, inherit_bindings=False):
    """The text field; Enter, Tab, arrows and F keys belong to the prompt.

    Its own keys are acted on the moment they come in, as all others are, and letters come through :meth:`take_text`:
    nothing that is typed ahead overtakes anything.
    """

    BINDINGS: ClassVar[list[BindingType]] = [
        replace(binding, priority=True) for binding in TextArea.BINDINGS if isinstance(binding, Binding)
    ]

    def __init__(self, is_wanted: Callable[[], bool]) -> None:
        super().__init__(soft_wrap=True, compact=True, highlight_cursor_line=False, tab_behavior="focus")
        self.error: tuple[int, int] | None = None
        self._is_wanted = is_wanted

    def take_text(self, text: str) -> None:
        """Put typed text in at the cursor, in place of what is selected."""
        self.replace(text, *sorted(self.selection), maintain_selection_offset=False)

    async def _on_hide(self, event: events.Hide) -> None:  # type: ignore[override] # the base classes disagree
        # News of an earlier prompt's end may come after the next one has opened; it must not take the focus then.
        if self._is_wanted():
            event.prevent_default()

    def mark_error(self, place: tuple[int, int] | None) -> None:
        """Underline the place of an error, given as offsets into the text."""
        if place != self.error:
            self.error = place
            self._line_cache.clear()
            self.refresh()

    def get_line(self, line_index: int) -> Text:
        """Return a line with the error's place marked."""
        line = super().get_line(line_index)
        if self.error is not None:
            start = sum(len(self.document.get_line(index)) + 1 for index in range(line_index))
            first, last = self.error[0] - start, max(self.error[1], self.error[0] + 1) - start
            if last > 0 and first <= len(line):
                line.stylize("underline reverse", max(0, first), min(len(line), last))
        return line

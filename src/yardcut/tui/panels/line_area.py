"""The text field of the prompt. Loaded after the first paint: a text field takes its time to load."""

from __future__ import annotations

from rich.text import Text
from textual import events
from textual.widgets import TextArea

from yardcut.tui.keymap import KEYS
from yardcut.tui.panels.prompt import PromptPanel

_OWN_KEYS = {key: entry.action for entry in KEYS if entry.focus == "prompt" for key in entry.keys}


class LineArea(TextArea):
    """The text field; Enter, Tab, arrows and F keys belong to the prompt."""

    def __init__(self) -> None:
        super().__init__(soft_wrap=True, compact=True, highlight_cursor_line=False, tab_behavior="focus")
        self.error: tuple[int, int] | None = None

    @property
    def panel(self) -> PromptPanel:
        """The prompt it stands in."""
        return next(node for node in self.ancestors if isinstance(node, PromptPanel))

    async def _on_key(self, event: events.Key) -> None:
        action = _OWN_KEYS.get(event.key)
        if not self.panel.active:
            action = None
            self.app.post_message(events.Key(event.key, event.character))  # typed ahead: it belongs to what is next
        elif action is None:
            await super()._on_key(event)
            return
        event.stop()
        event.prevent_default()
        if action is not None:
            await self.panel.run_action(action)

    async def _on_hide(self, event: events.Hide) -> None:  # type: ignore[override] # the base classes disagree
        # News of an earlier prompt's end may come after the next one has opened; it must not take the focus then.
        if self.panel.active:
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

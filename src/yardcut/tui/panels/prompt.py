"""The prompt: a line of the cut language with completion, its form, and what it would leave."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Horizontal, Vertical
from textual.content import Content
from textual.message import Message
from textual.widgets import Static

from yardcut.core.language.syntax.measures import MOST_TYPED_CHARACTERS
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.text import clean, clean_lines, fit

if TYPE_CHECKING:
    from textual.widget import Widget
    from textual.widgets import TextArea

    from yardcut.tui.panels.line_area import LineArea

_MOST_OPTIONS, _FEWEST_OPTIONS, _SHARE_OF_HEIGHT = 7, 3, 6
_MOST_BREAKS = 1_000


@dataclass(frozen=True, slots=True)
class PromptState:
    """What stands around the line: ``lead`` before it; ``said`` below with the name of its style; the ``form``."""

    lead: str = "cut ▸"
    said: str = ""
    style: str = "$dim"
    form: str = ""
    error: tuple[int, int] | None = None


class PromptPanel(Vertical):
    """Completions, the line, what it would do, and its form. What its keys do is the mode's to decide."""

    class Changed(Message):
        """The text was edited."""

        def __init__(self, text: str) -> None:
            super().__init__()
            self.text = text

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._options: list[tuple[str, str]] = []
        self._option_start = 0
        self._picked = 0
        self._options_for: str | None = None
        self._is_listed, self._is_marked = True, False
        self.when_ready: Callable[[], None] = lambda: None
        self.opened_from: Widget | None = None
        self.active = False
        self._area: LineArea | None = None
        self._state = PromptState()

    def compose(self) -> ComposeResult:
        """Lay out the parts."""
        yield Static(id="completions")
        with Horizontal(id="prompt-row"):
            yield Static("", id="prompt-lead")
        yield Static(id="prompt-said")
        yield Static(id="prompt-form")

    def on_mount(self) -> None:
        """Load the text field when the first paint is over."""
        self.call_after_refresh(self._add_area)

    async def _add_area(self) -> None:
        if self._area is None:
            from yardcut.tui.panels.line_area import LineArea

            area = LineArea(lambda: self.active)
            await self.query_one("#prompt-row").mount(area)
            self._area = area
            self.when_ready()

    @property
    def is_ready(self) -> bool:
        """True once the text field is loaded."""
        return self._area is not None

    @property
    def area(self) -> LineArea:
        """The text field, once it is loaded."""
        assert self._area is not None
        return self._area

    @property
    def text(self) -> str:
        """The text as it stands."""
        return self.area.text

    def open(self, text: str, *, replaceable: bool = False) -> None:
        """Begin to write, with some text there already; a replaceable one gives way to what is typed."""
        if not self.active:
            self.opened_from = self.screen.focused
        self.active = True
        self.add_class("active")
        self.set_text(text)
        if replaceable:
            self.area.select_all()
        self.screen.set_focus(self.area)

    def close(self) -> None:
        """Put the line away."""
        self.active = False
        self.remove_class("active")
        self.set_options("", 0, [])
        if self._area is not None:
            self._area.mark_error(None)

    def set_text(self, text: str, place: int | None = None) -> None:
        """Replace the text; the cursor goes to a place in it, or to its end."""
        self.area.load_text(text)
        if place is None:
            self.area.move_cursor(self.area.document.end)
        else:
            self.area.move_cursor((text.count("\n", 0, place), place - (text.rfind("\n", 0, place) + 1)))

    def show(self, state: PromptState) -> None:
        """Say what the line would do."""
        if state == self._state:
            return
        self._state = state
        self.query_one("#prompt-lead", Static).update(Content.styled(state.lead + " ", "bold $accent"))
        self.query_one("#prompt-said", Static).update(Content.styled(clean_lines(state.said), state.style))
        self.query_one("#prompt-form", Static).update(Content.styled(clean(state.form), "$dim"))
        if self._area is not None:
            self._area.mark_error(state.error)

    def take_text(self, text: str) -> None:
        """Put typed text into the line, unless it becomes longer than any line may be."""
        if len(self.text) + len(text) > MOST_TYPED_CHARACTERS or text.count("\n") > _MOST_BREAKS:
            self.show(replace(self._state, said="this is more than one line can hold; nothing was put in"))
            return
        self.area.take_text(text)

    # completions

    def text_before_cursor(self) -> str:
        """Return the text up to the cursor."""
        row, column = self.area.cursor_location
        lines = self.area.text.split("\n")
        return "\n".join([*lines[:row], lines[row][:column]])

    def set_options(
        self, before: str, start: int, options: list[tuple[str, str]], *, is_asked_for: bool = True
    ) -> None:
        """Offer completions (text, detail) of the text ``before`` the cursor, each replacing it from ``start`` on.

        Those that are not asked for, behind a line that could end there, are shown when one of them is marked.
        """
        self._options, self._option_start, self._picked = options, start, 0
        self._options_for, self._is_listed, self._is_marked = before, is_asked_for, False
        self._draw_options()

    def _draw_options(self) -> None:
        box = self.query_one("#completions", Static)
        box.display = bool(self._options) and self._is_listed
        if not self._options:
            return
        most = max(_FEWEST_OPTIONS, min(_MOST_OPTIONS, self.screen.size.height // _SHARE_OF_HEIGHT))
        first = max(0, min(self._picked - most // 2, len(self._options) - most))
        shown = self._options[first : first + most]
        size = min(36, max(len(clean(text)) for text, _ in shown) + 2)
        parts: list[str | tuple[str, str]] = []
        for place, (text, detail) in enumerate(shown, first):
            marked = place == self._picked
            parts.append(("▸ " if marked else "  ", "bold $accent"))
            parts.append((fit(clean(text), size), "bold reverse" if marked else "bold"))
            more = f"   {place + 1} of {len(self._options)}" if marked and len(self._options) > most else ""
            parts.append((fit(f"  {clean(detail)}{more}", max(10, self.size.width - size - 6)) + "\n", "$dim"))
        box.update(Content.assemble(*parts).rstrip())

    def pick(self, by: int) -> None:
        """Mark another completion, or move through a text of several lines."""
        if self._options and (self._is_listed or (by > 0 and "\n" not in self.text)):
            if self._is_listed:
                self._picked = max(0, min(self._picked + by, len(self._options) - 1))
            self._is_listed = self._is_marked = True
            self._draw_options()
        elif by < 0:
            self.area.action_cursor_up()
        else:
            self.area.action_cursor_down()

    def has_options_for(self, before: str) -> bool:
        """Tell whether the completions shown are those of a text before the cursor."""
        return before == self._options_for

    def complete(self, *, of_nothing: bool = False) -> None:
        """Put the marked completion in, where something of it is typed or it was marked by hand."""
        before = self.text_before_cursor()
        is_begun = self._option_start < len(before)
        if not self._options or not (is_begun or self._is_marked or of_nothing):
            return
        text, _ = self._options[self._picked]
        row, column = self.area.cursor_location
        start = column - (len(before) - self._option_start)
        self.area.replace(text, (row, max(0, start)), (row, column))

    def on_text_area_changed(self, event: TextArea.Changed) -> None:
        """Pass the news on."""
        event.stop()
        if self.active:
            self.post_message(self.Changed(self.text))

"""The main screen: puts panels together and routes. What it does is done by the parts beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual import events, on
from textual.app import ComposeResult
from textual.containers import Horizontal, Vertical
from textual.screen import Screen

from yardcut.core.errors import StoreDamagedError, YardcutError
from yardcut.tui.keys.dispatcher import Calls, Dispatcher
from yardcut.tui.keys.focus import Focus, Need
from yardcut.tui.main.modes import Mode
from yardcut.tui.main.parts import Parts
from yardcut.tui.main.shown import REST
from yardcut.tui.panels.gauge import Gauge
from yardcut.tui.panels.list_panel import ListPanel
from yardcut.tui.panels.prompt import PromptPanel, PromptState
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.widgets.grid.grid import Grid
from yardcut.tui.widgets.header import Header
from yardcut.tui.workers import Jobs

if TYPE_CHECKING:
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.opening import Opening

_NARROW_CELLS = 110


class MainScreen(Screen[None]):
    """The panels. ``desk`` is there once the table is open; ``mode`` is there while the prompt is in use."""

    def __init__(self, opening: Opening, dispatcher: Dispatcher) -> None:
        super().__init__(classes="show-grid")  # a class that changes later styles every widget anew
        self.opening = opening
        self.desk: Desk | None = None
        self.mode: Mode | None = None
        self.dispatcher = dispatcher
        self.parts = Parts(self)
        self.header, self.list_panel = Header(id="header"), ListPanel(id="list")
        self.grid, self.gauge = Grid(id="grid"), Gauge(id="gauge")
        self.prompt, self.footer = PromptPanel(id="prompt"), Footer(id="footer")

    def compose(self) -> ComposeResult:
        """Lay out the panels."""
        yield self.header
        with Horizontal(id="middle"):
            yield self.list_panel
            with Vertical(id="right"):
                yield self.grid
                yield self.gauge
        yield self.prompt
        yield self.footer

    def on_mount(self) -> None:
        """Show the first rows at once, and open the source behind them."""
        self.jobs = Jobs(self.app)
        self.prompt.when_ready = self.dispatcher.release
        self.grid.focus()
        self.prompt.show(REST)
        self.parts.start()

    def on_unmount(self) -> None:
        """Stop all work when the app ends."""
        self.jobs.stop_all()

    def on_resize(self) -> None:
        """On a narrow terminal list and table take turns."""
        self.turn_class("narrow", self.size.width < _NARROW_CELLS)

    def turn_class(self, name: str, on: bool) -> None:
        """Give or take a class; only a change may cost the restyling of every widget."""
        if self.has_class(name) is not on:
            self.set_class(on, name)

    # where keys go

    @property
    def is_ready(self) -> bool:
        """False until all panels and the text field are there."""
        return self.prompt.is_ready

    @property
    def focus_now(self) -> Focus:
        """The focus of now."""
        if self.mode is not None:
            return self.mode.focus
        return Focus.LIST if self.focused is self.list_panel else Focus.GRID

    @property
    def calls(self) -> Calls:
        """What carries out the actions of now."""
        return self.parts.calls if self.mode is None else {**self.parts.calls, **self.mode.calls}

    @property
    def takes_text(self) -> bool:
        """True while letters are text."""
        return self.mode is not None

    def take_text(self, text: str) -> bool:
        """Put typed text into the prompt."""
        self.prompt.take_text(text)
        return True

    def unmet(self, need: Need) -> str | None:
        """Say what is missing for a need, or nothing when it is met."""
        return self.parts.unmet(need)

    def waits_for(self, need: Need) -> bool:
        """Tell whether an unmet need will be met by itself in a moment."""
        return self.parts.waits_for(need)

    def hand_on(self, event: events.Key) -> None:
        """Give a key that is no action to the widget that has the focus."""
        self._forward_event(event)

    # what the panels tell

    @on(Footer.Pressed)
    def _pressed(self, event: Footer.Pressed) -> None:
        self.dispatcher.press(event.action)

    @on(Grid.Moved)
    def _moved(self) -> None:
        self.parts.looking.look()

    @on(Grid.Waiting)
    def _columns_wanted(self, event: Grid.Waiting) -> None:
        self.parts.reading.read_columns(event.columns)

    @on(ListPanel.Selected)
    def _selected(self, event: ListPanel.Selected) -> None:
        if self.desk is not None:
            self.desk.select(event.index)

    @on(PromptPanel.Changed)
    def _text_changed(self, event: PromptPanel.Changed) -> None:
        if self.mode is not None:
            self.mode.text_changed(event.text)

    def on_descendant_focus(self) -> None:
        """Show the keys of the focus of now."""
        self.show_focus()

    def show_focus(self) -> None:
        """Show the keys of the focus of now, and on a narrow terminal the panel that has it."""
        focus = self.focus_now
        self.footer.show_focus(focus)
        if focus.is_panel:
            self.turn_class("show-list", focus is Focus.LIST)
            self.turn_class("show-grid", focus is Focus.GRID)

    # saying something in the prompt's place

    def say(self, text: str, style: str = "$would") -> None:
        """Say something where the prompt is."""
        self.prompt.show(PromptState(said=text, style=style))

    def say_error(self, error: YardcutError) -> None:
        """Say what went wrong; where only the cache is damaged, the source itself is well and is read again."""
        if not isinstance(error, StoreDamagedError) or not self.parts.reading.damaged():
            self.say(str(error), "$warning")

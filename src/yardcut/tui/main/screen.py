"""The main screen: lays out the panels, and is where keys go. What it does is done by the parts beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual import events, on
from textual.app import ComposeResult
from textual.containers import Horizontal, Vertical
from textual.screen import Screen

from yardcut.tui.keys.dispatcher import Calls, Dispatcher
from yardcut.tui.keys.editing import edit_now
from yardcut.tui.keys.focus import Focus, Need
from yardcut.tui.keys.keymap import keymap
from yardcut.tui.main.parts import Parts
from yardcut.tui.main.shown import rest
from yardcut.tui.main.stage import Stage
from yardcut.tui.panels.list_panel import ListPanel
from yardcut.tui.panels.prompt import PromptPanel
from yardcut.tui.sizes import Fitting
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.widgets.grid.grid import Grid

if TYPE_CHECKING:
    from yardcut.tui.opened_with import Opening


class MainScreen(Screen[None]):
    """The panels, and what they tell handed to the parts."""

    takes_keys = True
    AUTO_FOCUS = ""  # nothing takes the focus unasked

    def __init__(self, opening: Opening, dispatcher: Dispatcher) -> None:
        super().__init__(classes="show-grid")  # a class that changes later styles every widget anew
        self.stage = Stage(self, opening, dispatcher)
        self.parts = Parts(self.stage)
        self._fitting = Fitting(self)

    def compose(self) -> ComposeResult:
        """Lay out the panels."""
        stage = self.stage
        yield stage.header
        with Horizontal(id="middle"):
            yield stage.list_panel
            with Vertical(id="right"):
                yield stage.grid
                yield stage.gauge
        yield stage.prompt
        yield stage.footer

    def on_mount(self) -> None:
        """Show the first rows at once, and open the source behind them."""
        self.stage.begin()
        self.set_focus(self.stage.grid)
        self.stage.prompt.show(rest())
        self.parts.start()

    def on_unmount(self) -> None:
        """Stop all work when the app ends."""
        self.stage.jobs.stop_all()
        self.parts.end()

    def on_resize(self) -> None:
        """Leave away what there is no room for; on a narrow terminal list and table take turns."""
        self._fitting.show()
        self.stage.header.show_room(self.size)

    # where keys go

    @property
    def is_ready(self) -> bool:
        """False until all panels and the text field are there, and while a card is being fetched."""
        return self.stage.prompt.is_ready and not self.stage.is_fetching

    @property
    def focus_now(self) -> Focus:
        """The focus of now."""
        return self.stage.focus_now

    @property
    def calls(self) -> Calls:
        """What carries out the actions of now."""
        mode = self.stage.mode
        return self.parts.calls if mode is None else {**self.parts.calls, **mode.calls}

    @property
    def takes_text(self) -> bool:
        """True while letters are text."""
        return self.stage.mode is not None

    def take_text(self, text: str) -> bool:
        """Put typed text into the prompt; where it is closed, only the path of a source is understood."""
        is_pasted = len(text) > 1
        if self.stage.mode is None:
            if is_pasted:
                self.parts.opening.take_pasted(text)  # it asks with the path, and what was pasted is not put behind it
        elif not (is_pasted and self.parts.pasting.take(text)):
            self.stage.prompt.take_text(text)
        return True

    def edit(self, key: str) -> bool:
        """Carry out an editing key of the prompt, at once."""
        return self.stage.mode is not None and edit_now(self.stage.prompt.area, key)

    def unmet(self, need: Need) -> str | None:
        """Say what is missing for a need, or nothing when it is met."""
        return self.parts.unmet(need)

    def waits_for(self, need: Need) -> bool:
        """Tell whether an unmet need will be met by itself in a moment."""
        return self.parts.waits_for(need)

    def say(self, text: str, style: str = "$would") -> None:
        """Say something where the prompt is."""
        self.stage.say(text, style)

    def hand_on(self, event: events.Key) -> None:
        """Give a key that is no action to the widget that has the focus."""
        self._forward_event(event)

    # what the panels tell

    @on(Footer.Pressed)
    def _pressed(self, event: Footer.Pressed) -> None:
        self.stage.dispatcher.press(event.action)

    @on(Grid.Moved)
    def _moved(self) -> None:
        self.parts.looking.look()

    @on(Grid.HeadClicked)
    def _head_clicked(self) -> None:
        if self.stage.mode is None:
            self.stage.focus(self.stage.grid)
            self.stage.dispatcher.press(keymap().action("column-card"))

    @on(Grid.Waiting)
    def _columns_wanted(self, event: Grid.Waiting) -> None:
        self.parts.reading.read_columns(event.columns, event.rows)

    @on(ListPanel.Selected)
    def _selected(self, event: ListPanel.Selected) -> None:
        if self.stage.desk is not None:
            self.stage.desk.select(event.index)

    @on(PromptPanel.Changed)
    def _text_changed(self, event: PromptPanel.Changed) -> None:
        if self.stage.mode is not None:
            self.stage.mode.text_changed(event.text)

    def on_descendant_focus(self) -> None:
        """Show the keys of the focus of now."""
        self.stage.show_focus()

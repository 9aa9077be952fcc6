"""What the parts of the main screen share: its panels, its jobs, and what is open."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from textual.app import App
from textual.screen import Screen
from textual.widget import Widget

from yardcut.core.errors import StoreDamagedError, YardcutError
from yardcut.tui.keys.dispatcher import Dispatcher
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.prompting.modes import Mode
from yardcut.tui.panels.gauge import Gauge
from yardcut.tui.panels.list_panel import ListPanel
from yardcut.tui.panels.prompt import PromptPanel, PromptState
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.widgets.grid.grid import Grid
from yardcut.tui.widgets.header import Header
from yardcut.tui.workers import Job, Jobs, Work

if TYPE_CHECKING:
    from yardcut.core.cutlist.model import Cut
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.column_looks import Looks
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.trials import Trial
    from yardcut.tui.opened_with import Opening

_Found = TypeVar("_Found")
_KEYS_WAIT_SECONDS = 1.5


class Stage:
    """Made by the screen, handed to every part.

    ``table`` is what is open, ``desk`` is there once the list is too, with it ``looks``; ``mode`` while the prompt is
    in use. ``when_damaged`` is asked to put a damaged cache right; ``when_tried`` hears what a line being written would
    do, and tells what it would do to all rows while these still come.
    """

    def __init__(self, screen: Screen[None], opening: Opening, dispatcher: Dispatcher) -> None:
        self._screen = screen
        self.opening = opening
        self.dispatcher = dispatcher
        self.table: Table | None = None
        self.desk: Desk | None = None
        self.looks: Looks | None = None
        self.mode: Mode | None = None
        self._fetching_until = 0.0
        self.said_at_start = self._said = ""
        self.lines_written: list[str] = []
        """The lines that were entered, and put away unentered, the newest last."""
        self.row_left: int | None = None
        """The row of the source that the cursor stood on before an order or a jump."""
        self.slice_written: tuple[Cut, str] | None = None
        """The cut whose slice was written last, and at what time."""
        self.noted = ""
        """What the header says of how work is done, behind what is saved."""
        self.when_damaged: Callable[[], bool] = lambda: False
        self.when_tried: Callable[[Trial, Callable[[str], None]], None] = lambda trial, tell: None
        self.header, self.list_panel = Header(id="header"), ListPanel(id="list")
        self.grid, self.gauge = Grid(id="grid"), Gauge(id="gauge")
        self.prompt, self.footer = PromptPanel(id="prompt"), Footer(id="footer")

    def begin(self) -> None:
        """The panels are there."""
        self.jobs = Jobs(self.app)
        self.prompt.when_ready = self.dispatcher.release

    @property
    def app(self) -> App[Any]:
        """The app."""
        return self._screen.app

    def fetch_for_card(
        self, job: Job, work: Work[_Found], open_card: Callable[[_Found], None], failed: Callable[[YardcutError], None]
    ) -> None:
        """Do work whose result opens a card: keys typed meanwhile are for the card, unless it takes long."""
        self._fetching_until = time.monotonic() + _KEYS_WAIT_SECONDS

        def there(call: Callable[[Any], None], value: Any) -> None:
            self._fetching_until = 0.0
            call(value)

        self.jobs.start(job, work, lambda found: there(open_card, found), lambda error: there(failed, error))

    def write(
        self, work: Work[_Found], done: Callable[[_Found], None], failed: Callable[[YardcutError], None]
    ) -> None:  # fmt: skip
        """Write a file, unless another is being written. What is said at the end is what is on the disk then."""
        if self.jobs.is_running(Job.SAVE):
            self.say(f"something is being written already; {key_of('stop')} stops it", "$warning")
            return
        stopped = lambda: self.say("stopped: nothing was written", "$warning")  # noqa: E731
        self.jobs.start(Job.SAVE, work, done, failed, stopped)

    @property
    def is_fetching(self) -> bool:
        """True while keys wait for a card."""
        return time.monotonic() < self._fetching_until

    def every(self, seconds: float, call: Callable[[], None]) -> None:
        """Do something again and again."""
        self._screen.set_interval(seconds, call)

    def after_paint(self, call: Callable[[], None]) -> None:
        """Do something when the screen has been painted."""
        self._screen.call_after_refresh(self._screen.call_after_refresh, call)

    # focus

    @property
    def focus_now(self) -> Focus:
        """The focus of now."""
        if self.mode is not None:
            return self.mode.focus
        return Focus.LIST if self._screen.focused is self.list_panel else Focus.GRID

    def focus(self, panel: Widget) -> None:
        """Give the focus to a panel, at once: what is typed next is for it."""
        self._screen.set_focus(panel)
        self.show_focus()

    def show_focus(self) -> None:
        """Show the keys of the focus of now, and on a narrow terminal the panel that has it."""
        focus = self.focus_now
        self.footer.show_focus(focus, None if self.mode is None else frozenset(self.mode.calls))
        if focus.is_panel:
            self.turn_class("show-list", focus is Focus.LIST)
            self.turn_class("show-grid", focus is Focus.GRID)

    def turn_class(self, name: str, on: bool) -> None:
        """Give or take a class; only a change may cost the restyling of every widget."""
        if self._screen.has_class(name) is not on:
            self._screen.set_class(on, name)

    # saying something in the prompt's place

    def say(self, text: str, style: str = "$would") -> None:
        """Say something where the prompt is."""
        self._said = text
        self.prompt.show(PromptState(said=text, style=style))

    def leave_row(self) -> None:
        """Keep the row under the cursor, to go back to."""
        cell = self.grid.cursor_cell()
        self.row_left = self.row_left if cell is None else cell[1]

    def say_more(self, text: str) -> None:
        """Say something behind what was said last, while no line is being written."""
        if self.mode is None:
            self.say("\n".join(filter(None, [self._said, text])))

    def say_error(self, error: YardcutError) -> None:
        """Say what went wrong; where only the cache is damaged, the source itself is well and is read again."""
        if not isinstance(error, StoreDamagedError) or not self.when_damaged():
            self.say(str(error), "$warning")

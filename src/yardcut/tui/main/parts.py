"""The parts that stand beside the main screen, and what they need."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from yardcut.tui.keys.focus import Need
from yardcut.tui.main.asking import Asking, Question
from yardcut.tui.main.counting import Counting
from yardcut.tui.main.hands_cards import CardHands
from yardcut.tui.main.hands_cell import CellHands
from yardcut.tui.main.hands_list import ListHands
from yardcut.tui.main.looking import Looking
from yardcut.tui.main.reading import Reading
from yardcut.tui.main.saving import Saving
from yardcut.tui.main.showing import Showing
from yardcut.tui.main.shown import REST
from yardcut.tui.widgets.grid.model import PreviewSource

if TYPE_CHECKING:
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.modes import Mode
    from yardcut.tui.main.screen import MainScreen

_YOUNG_SECONDS = 3.0


class Parts:
    """Each part does one thing and holds what belongs to it; here they are made, introduced, and asked."""

    def __init__(self, screen: MainScreen) -> None:
        self._screen = screen
        self._began = time.monotonic()
        self.reading = Reading(screen)
        self.counting = Counting(screen)
        self.showing = Showing(screen)
        self.looking = Looking(screen)
        self.saving = Saving(screen)
        self._hands = (ListHands(screen), CellHands(screen), CardHands(screen))

    def start(self) -> None:
        """Begin, when the panels are there."""
        preview = self._screen.opening.preview
        if preview is not None:
            kinds = [kind.value for kind in preview.kinds]
            self._screen.grid.show(PreviewSource(preview.names, kinds, preview.rows))
        self.showing.show_unopened()
        self._screen.set_interval(0.1, self._tick)
        self.reading.start()

    def _tick(self) -> None:
        self.showing.show_work()
        self._screen.dispatcher.let_go()

    def desk_is_there(self, desk: Desk) -> None:
        """The table is open: everybody listens to the desk from now on."""
        self._screen.desk = desk
        for part in (self.reading, self.counting, self.showing, self.looking):
            desk.listen(part.changed)
            part.changed(desk.now, desk.now)
        if self._screen.mode is not None:
            self._screen.mode.text_changed(self._screen.prompt.text)
        self._screen.dispatcher.release()

    @cached_property
    def calls(self) -> Calls:
        """What carries out the actions of the table, the list, and anywhere."""
        found: dict[str, Callable[[], object]] = {
            "stop": self._back,
            "save": self.saving.save_slice,
            "save-list": self.saving.save_list,
        }
        for hands in self._hands:
            found |= hands.calls
        return found

    def _back(self) -> None:
        """Go one step back: from an offcut to the rows, else stop what is under way."""
        if not (self.showing.leave_offcut() or self.reading.stop() or self.counting.stop() or self.saving.stop()):
            self._screen.prompt.show(REST)

    # needs

    def unmet(self, need: Need) -> str | None:
        """Say what is missing for a need."""
        screen = self._screen
        if need is Need.NOTHING:
            return None
        if need is Need.TRIED:
            is_tried = getattr(screen.mode, "is_tried", True)
            return None if is_tried else "the line is still being tried"
        if screen.desk is None:
            return "the file is still being read"
        if need is Need.LINE and screen.desk.now.selected < 0:
            return "that is the source: select a line of the list"
        if need is Need.CELL and screen.grid.cursor_cell() is None:
            return "there is no cell here"
        return None

    def waits_for(self, need: Need) -> bool:
        """Tell whether an unmet need will be met by itself in a moment."""
        if need is Need.TRIED:
            return True
        is_young = time.monotonic() - self._began < _YOUNG_SECONDS
        return self._screen.desk is None and (is_young or self.reading.table is not None)

    # modes

    def open_mode(self, mode: Mode, text: str, *, replaceable: bool = False) -> None:
        """Use the prompt for something."""
        screen = self._screen
        if screen.mode is not None:
            screen.mode.close()
        screen.mode = mode
        screen.prompt.open(text, replaceable=replaceable)
        screen.show_focus()
        mode.text_changed(text)

    def close_mode(self, said: bool = False) -> None:
        """Put the prompt away; the focus goes back to the panel where it was opened."""
        screen = self._screen
        if screen.mode is None:
            return
        screen.mode.close()
        screen.mode = None
        screen.prompt.close()
        if not said:
            screen.prompt.show(REST)
        screen.set_focus(screen.prompt.opened_from or screen.grid)
        screen.show_focus()

    def ask(self, question: Question) -> None:
        """Ask for a line of text in the prompt's place."""
        self.open_mode(Asking(self._screen, question), question.text, replaceable=bool(question.text))

    def write(self, text: str, editing: int | None = None) -> None:
        """Open the prompt on a line."""
        from yardcut.tui.main.writing import Writing

        self.open_mode(Writing(self._screen, editing), text)

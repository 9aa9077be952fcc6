"""The parts of the main screen, introduced to each other, and what they need."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from yardcut.tui.keys.focus import Need
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.counting import Counting
from yardcut.tui.main.counting_all import CountingAll
from yardcut.tui.main.doing import Doing
from yardcut.tui.main.hands.hands_cards import CardHands
from yardcut.tui.main.hands.hands_cell import CellHands
from yardcut.tui.main.hands.hands_column import ColumnHands
from yardcut.tui.main.hands.hands_compare import CompareHands
from yardcut.tui.main.hands.hands_copy import CopyHands
from yardcut.tui.main.hands.hands_cuts import CutsHands
from yardcut.tui.main.hands.hands_dials import DialHands
from yardcut.tui.main.hands.hands_draw import DrawHands
from yardcut.tui.main.hands.hands_finder import FinderHands
from yardcut.tui.main.hands.hands_list import ListHands
from yardcut.tui.main.hands.hands_look import LookHands
from yardcut.tui.main.hands.hands_offcut import OffcutHands
from yardcut.tui.main.hands.hands_picture import PictureHands
from yardcut.tui.main.hands.hands_rack import RackHands
from yardcut.tui.main.hands.hands_second import SecondHands
from yardcut.tui.main.hands.hands_tree import TreeHands
from yardcut.tui.main.hands.hands_values import ValueHands
from yardcut.tui.main.looking import Looking
from yardcut.tui.main.prompting.finding_texts import FindHands
from yardcut.tui.main.prompting.opening_another import OpeningHands
from yardcut.tui.main.prompting.pasting import Pasting
from yardcut.tui.main.prompting.prompting import Prompting
from yardcut.tui.main.reading_source import Reading
from yardcut.tui.main.saving.autosaving import Keeping
from yardcut.tui.main.saving.explaining import Explaining
from yardcut.tui.main.saving.saving_files import Saving
from yardcut.tui.main.saving.slices_to_save import is_known_what_is_saved
from yardcut.tui.main.showing import Showing
from yardcut.tui.main.shown import rest
from yardcut.tui.so_far import share_said
from yardcut.tui.widgets.grid.grid_source import PreviewSource
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.modes import Mode
    from yardcut.tui.main.stage import Stage

_YOUNG_TICKS = 60


class Parts:
    """Each part does one thing and holds what belongs to it."""

    _troubled: Mode | None

    def __init__(self, stage: Stage) -> None:
        self._stage, self._showing = stage, Showing(stage)
        self._ticks, self._troubled = 0, None
        self.looking = Looking(stage, self._showing)
        self._counting = Counting(stage, self._showing, self.looking)
        self.reading = Reading(stage, self._showing, self._desk_is_there)
        self._of_all = CountingAll(stage, self._showing, self.reading.growing)
        self._prompting = Prompting(stage, self._showing)
        self.pasting = Pasting(stage)
        self._saving = Saving(stage, self._prompting)
        self.keeping, self.opening = Keeping(stage), OpeningHands(stage, self._prompting, self._saving)
        racking, doing = RackHands(stage, self._prompting), Doing(stage, self._prompting)
        dialing = DialHands(stage, self._prompting)
        drawing = DrawHands(stage, self._prompting, doing, dialing)
        treeing = TreeHands(stage, drawing.open, dialing)
        picturing = PictureHands(stage, self._prompting, doing, drawing.nudge_selected, dialing.turn_above)
        look, second = LookHands(stage, doing), SecondHands(stage, self._prompting, doing)
        self._listeners = (racking, treeing, drawing, look, dialing)
        self._hands = (
            self.keeping,
            ListHands(stage, self._prompting),
            CopyHands(stage),
            CellHands(stage, self._prompting, doing),
            racking,
            treeing,
            drawing,
            dialing,
            picturing,
            look,
            OffcutHands(stage, doing, second.bring),
            second,
            FindHands(stage, self._prompting, doing),
            ColumnHands(stage, self._prompting, doing),
            ValueHands(stage, self._prompting, doing),
            CutsHands(stage, self._prompting, CompareHands(stage, self._prompting, picturing.show)),
            FinderHands(stage, self._prompting),
            self.opening,
            Explaining(stage, self._prompting),
            CardHands(stage, self._prompting, self._saving, self.reading.read_anew),
        )

    def start(self) -> None:
        """Begin, when the panels are there."""
        preview = self._stage.opening.preview
        if preview is not None:
            kinds = [kind.value for kind in preview.kinds]
            self._stage.grid.show(PreviewSource(preview.names, kinds, preview.rows))
        self._showing.show_unopened()
        self._stage.every(0.1, self._tick)
        self.reading.start()

    def end(self) -> None:
        """The app is left."""
        if not self._stage.app.return_code:
            self.keeping.end()

    def _tick(self) -> None:
        self._ticks += 1
        self._showing.show_work()
        self.reading.growing.tick()
        if self._stage.desk is None or self._stage.mode is None:  # a line that is being tried may take its time
            self._stage.dispatcher.let_go()
        self._stage.dispatcher.release()  # whatever it was that came to be ready

    def _desk_is_there(self, desk: Desk) -> None:
        """The table is open: everybody listens to the desk from now on."""
        self._stage.desk = desk
        for part in (
            self.reading,
            self._counting,
            self._showing,
            self._of_all,
            self.looking,
            self._prompting,
            self.keeping,
            *self._listeners,
        ):
            desk.listen(part.changed)
            part.changed(desk.now, desk.now)
        self._prompting.go_on()
        self.keeping.look()
        self._stage.dispatcher.release()

    @cached_property
    def calls(self) -> Calls:
        """What carries out the actions of the table, the list, and anywhere."""
        found: dict[str, Callable[[], object]] = {
            "stop": self._back,
            "save": self._saving.save_slice,
            "save-list": self._saving.save_list,
        }
        for hands in self._hands:
            found |= hands.calls
        return found

    def _back(self) -> None:
        """Go one step back: from an offcut to the rows, else stop what is under way."""
        if not (self._showing.leave_offcut() or self.reading.stop() or self._counting.stop() or self._saving.stop()):
            self._stage.prompt.show(rest())

    def step_back_from_trouble(self) -> None:
        """Go one step back after an error: away from a card, or out of a prompt that failed before."""
        from yardcut.tui.cards.card import Card

        app = self._stage.app
        if len(app.screen_stack) > 1:
            if isinstance(app.screen, Card):
                app.screen.end_work()
            app.pop_screen()
        elif self._stage.mode is not None:
            if self._stage.mode is self._troubled:
                self._prompting.drop()
            else:
                self._troubled = self._stage.mode

    # needs

    def unmet(self, need: Need) -> str | None:
        """Say what is missing for a need."""
        stage = self._stage
        if need is Need.NOTHING:
            return None
        if need is Need.TRIED:
            is_tried = stage.mode is None or stage.mode.is_tried
            return None if is_tried else "the line is still being tried"
        if stage.desk is None:
            return "the source is still being read"
        table = stage.desk.now.table
        if need in (Need.WHOLE, Need.COUNTED) and table.share_read < 1:
            if not self.reading.growing.is_coming:
                return f"the source was not read to its end: {key_of('again')} reads it again"
            read = f"{share_said(table)} is" if share_said(table) else f"{table.rows:,} rows are"
            return f"that waits until all of it is read ({read}); {key_of('stop')} forgets it"
        if need is Need.COUNTED and not is_known_what_is_saved(stage.desk.now):
            return "the rows are still being counted"
        if need is Need.LINE and stage.desk.now.selected < 0:
            return "that is the source: select a line of the list"
        if need is Need.COLUMN and stage.grid.cursor_column is None:
            return "there is no column here"
        if need is Need.CELL and stage.grid.cursor_cell() is None:
            return "there is no cell here"
        return None

    def waits_for(self, need: Need) -> bool:
        """Tell whether an unmet need will be met by itself in a moment."""
        if need is Need.TRIED:
            return True
        if need is Need.COUNTED and self._stage.desk is not None:
            if self._stage.desk.now.table.share_read < 1:
                return False  # that may take minutes: it is put off
            return self._stage.jobs.is_running(Job.RESULTS)
        is_young = self._ticks < _YOUNG_TICKS
        return self._stage.desk is None and (is_young or self._stage.table is not None)

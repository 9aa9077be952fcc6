"""The list is kept in the state directory at every edit, and one that an earlier app left behind is offered."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.errors import Mend, TargetError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.state import state_folder
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import plural, when
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.cutlist.kept_lists import Found, Keeper, KeptList
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.stage import Stage
    from yardcut.tui.workers import Work


class Keeping:
    """Writes in a thread; the newest state wins."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self._keeper: Keeper | None = None
        self._number = 0
        self._is_edited = False
        self._taken: Found | None = None
        self._was_told = False

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "kept": self._show,
        }

    def changed(self, before: Moment, now: Moment) -> None:
        """Keep the list when it is another one, from the first edit on."""
        edited = now.cut_list is not before.cut_list or now.list_path != before.list_path
        if now is before or not (edited or (now.cut_index != before.cut_index and self._is_edited)):
            return
        from yardcut.core.cutlist.kept_lists import Keeper, KeptList, forget

        self._keeper = keeper = self._keeper or Keeper()
        self._is_edited = True
        self._number += 1
        number, taken = self._number, self._taken
        state = KeptList(now.cut_list, now.cut_index, now.spec.base, now.list_path)

        def work(token: CancelToken, progress: Progress) -> None:
            try:
                keeper.keep(number, state)
            except OSError as error:
                raise TargetError(
                    f"the list is not kept against a crash: {state_folder()} cannot be written: {error.strerror}",
                    mend=Mend("save it with F4"),
                ) from error
            if taken is not None:
                forget(taken)

        self._stage.jobs.start(Job.KEEP, work, lambda _: None, self._not_kept)

    def _not_kept(self, error: Exception) -> None:
        if not self._was_told:
            self._was_told = True
            self._stage.say(str(error), "$warning")

    def end(self) -> None:
        """The user leaves."""
        desk = self._stage.desk
        if self._keeper is not None and desk is not None:
            self._keeper.end(unsaved=not desk.now.is_saved and bool(desk.now.cut.lines))

    # what was kept before

    def look(self) -> None:
        """Look for a list of this source that an app which ended by itself left behind, and say so."""
        self._stage.jobs.start(Job.KEPT, self._finding(), self._tell)

    def _finding(self) -> Work[list[Found]]:
        from yardcut.core.cutlist.kept_lists import KeptList, found_for, found_lists

        assert self._stage.desk is not None
        now = self._stage.desk.now
        own = KeptList(now.cut_list, now.cut_index, now.spec.base, now.list_path)

        def work(token: CancelToken, progress: Progress) -> list[Found]:
            return found_for(own.sources, own.path, found_lists())

        return work

    def _tell(self, found: list[Found]) -> None:
        offered = [one for one in found if not one.was_left]
        if offered and not self._is_edited and self._stage.mode is None:
            newest = offered[0]
            lines = plural(len(newest.states[0].lines), "line")
            self._stage.say(
                f"Yard Cut ended {when(newest.edited)} before a list of {lines} was saved; "
                f"{key_of('kept')} takes it up",
                "$warning",
            )

    def _show(self) -> None:
        """Show the lists of this source that were not saved."""
        self._stage.fetch_for_card(Job.KEPT, self._finding(), self._shown, self._stage.say_error)

    def _shown(self, found: list[Found]) -> None:
        from yardcut.core.cutlist.kept_lists import forget
        from yardcut.tui.cards.files.kept import KeptCard

        if not found:
            self._stage.say("no unsaved list of this source was kept")
            return
        self._stage.app.push_screen(KeptCard(found, forget), self._take_up)

    def _take_up(self, chosen: tuple[Found, KeptList] | None) -> None:
        desk = self._stage.desk
        if chosen is None or desk is None:
            return
        from yardcut.core.cutlist.file import relocated

        self._taken, state = chosen
        desk.edits.take_list(relocated(state.cut_list, state.base, desk.now.spec.base), state.cut_index)
        self._stage.say(
            f"the list as it was kept, {plural(len(state.lines), 'line')}; {key_of('undo')} goes back to the one before"
        )

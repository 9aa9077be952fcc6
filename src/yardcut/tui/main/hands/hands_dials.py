"""Dials: turning them, choosing what they hold, making and taking them out. Each is an edit of the list."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.desk.back_and_forth import said_of_step
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.keys.keymap import key_of

if TYPE_CHECKING:
    from collections.abc import Callable

    from yardcut.core.language.meaning.dials_put_in import DialSetting
    from yardcut.core.run.looking.values_for_dials import Offered
    from yardcut.tui.cards.lines.dials import DialsCard
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_BEGIN = "dial "


class DialHands:
    """Opens the cards, and does what is chosen there. Several turns of one dial in a row are one edit."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting
        self._card: DialsCard | None = None
        self._series = object()
        self._turned = ""

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "dials": self.open,
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def turn_above(self, index: int) -> Callable[[int], str] | None:
        """Return what turns the dial of the last line down to an index that uses one; ``None`` where none does."""
        from yardcut.core.run.looking.values_for_dials import uses_dial

        now = self._desk.now
        for line in reversed(now.cut.lines[: index + 1]):
            dial = next((each for each in now.cut_list.dials if uses_dial(line, each.name)), None)
            if dial is not None:
                self._series = object()
                name = dial.name
                return lambda by: self._turn(self._desk.now.cut_list.dial(name), by)
        return None

    def turn_named(self, name: str, by: int) -> str:
        """Turn the dial that stands in the place of a line's number; several turns in a row are one edit."""
        if self._turned != name:
            self._turned, self._series = name, object()
        return self._turn(self._desk.now.cut_list.dial(name), by)

    def put(self, index: int, text: str, dials: tuple[DialSetting, ...]) -> str:
        """Put dials in a line; returns what to say."""
        from yardcut.core.cutlist.edited_cuts import with_dials_in_line

        now = self._desk.now
        try:
            made_of = with_dials_in_line(now.cut_list, now.cut_index, index, text, dials)
            self._desk.edits.become(made_of, to=index)
        except ListError as error:
            return str(error)
        made = " and ".join(f":{dial.name} of {dial.said()}" for dial in dials)
        return f"made {made}   ({key_of('dials')} turns it, {key_of('undo')} takes it back)"

    def make_of_number(self, index: int) -> str:
        """Make a dial of the number of a line; returns what to say."""
        from yardcut.core.language.turning.dials_made import number_dial

        now = self._desk.now
        if not 0 <= index < len(now.cut.lines):
            return "that is the source: select a line of the list"
        try:
            made = number_dial(now.cut.lines[index].text, [dial.name for dial in now.cut_list.dials])
        except ListError as error:
            return error.message
        return self.put(index, made.text, (made.dial,))

    def open(self) -> None:
        """Show the dials."""
        from yardcut.tui.cards.lines.dials import DialEdits, DialsCard

        self._series = object()
        self._card = DialsCard(DialEdits(self._turn, self._empty, self._delete, self._step, self._make))
        self._card.show(self._desk.now)
        self._stage.app.push_screen(self._card, self._closed)

    def changed(self, before: Moment, now: Moment) -> None:
        """Show what is so now."""
        if self._card is not None:
            self._card.show(now)

    def _closed(self, deed: Deed | None) -> None:
        self._card = None
        if deed is None:
            return
        if deed.own == "new dial":
            self._prompting.write(_BEGIN)
            return
        try:
            dial = self._desk.now.cut_list.dial(deed.line)
        except ListError:
            return
        if deed.own == "write the dial" or dial.low is not None or dial.is_column:
            from yardcut.core.language.syntax.dial_lines import dial_text

            self._prompting.write(dial_text(dial))
        else:
            self._choose(dial)

    def _choose(self, dial: DialSetting) -> None:
        """Show the values the dial can be given, counted where its line stands."""
        from yardcut.core.language.meaning.dials_put_in import held_text
        from yardcut.core.run.looking.values_for_dials import column_offered, offered_values
        from yardcut.tui.cards.lines.dial_values import DialValuesCard

        now = self._desk.now
        if column_offered(dial, now.cut) is None:
            from yardcut.core.language.syntax.dial_lines import dial_text

            self._prompting.write(dial_text(dial))
            return
        held = tuple(held_text(replace(dial, values=(value,))) or "" for value in dial.values)

        def count(token: CancelToken, progress: Progress) -> Offered:
            return offered_values(
                dial.name, now.cut_list, now.cut_index, now.executor, token, progress, seed=now.seed, unused_too=True
            )  # fmt: skip

        def chosen(texts: tuple[str, ...] | None) -> None:
            if texts is not None:
                self._hold(dial, texts)
            self.open()

        self._stage.app.push_screen(DialValuesCard(dial.name, held, count), chosen)

    def _hold(self, dial: DialSetting, texts: tuple[str, ...]) -> None:
        from yardcut.core.language.syntax.dial_lines import with_texts

        try:
            held = with_texts(dial, texts)
        except ListError as error:
            self._stage.say_error(error)
            return
        if held != dial:
            self._desk.edits.set_dial(held)
            self._stage.say(f":{dial.name} holds {held.said()}   ({key_of('undo')} takes it back)")

    # edits

    def _turn(self, dial: DialSetting, by: int) -> str:
        """Turn a dial by steps; returns what to say."""
        from yardcut.core.language.syntax.dial_lines import nudged

        turned = self._next_value(dial, by) or nudged(dial, by)
        if turned == dial:
            return f":{dial.name} goes no further" if dial.values else f":{dial.name} is empty: Enter chooses a value"
        self._desk.edits.set_dial(turned, series=(self._series, dial.name))
        return f":{dial.name} = {turned.said()}"

    def _next_value(self, dial: DialSetting, by: int) -> DialSetting | None:
        """Return a dial of one column with the next column of its kind; ``None`` for any other dial."""
        from yardcut.core.language import syntax_trees as t

        if not dial.is_column or not isinstance(dial.values[0], t.Name):
            return None
        columns = self._desk.now.scope_at(-1).shown
        here = next((column for column in columns if column.name == dial.values[0].name), None)
        if here is None:
            return dial
        alike = [column.name for column in columns if column.kind is here.kind]
        place = (alike.index(here.name) + by) % len(alike)
        return replace(dial, values=(t.Name(alike[place]),))

    def _empty(self, dial: DialSetting) -> str:
        if not dial.values:
            return f":{dial.name} is empty already"
        self._desk.edits.set_dial(replace(dial, values=()))
        return f":{dial.name} is empty: what uses it is left out"

    def _make(self) -> str:
        return self.make_of_number(self._desk.now.selected)

    def _delete(self, dial: DialSetting) -> str:
        self._desk.edits.delete_dial(dial.name)
        return f"took :{dial.name} out   ({key_of('undo')} puts it back)"

    def _step(self, again: bool) -> str:
        """Take the last edit back, or do it again; returns what to say."""
        return said_of_step(self._desk, again=again)

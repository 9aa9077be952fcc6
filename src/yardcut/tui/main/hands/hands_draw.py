"""The draw of a line: its card, its number nudged, the rows it leaves out as a cut of their own."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.tui.desk.back_and_forth import said_of_step
from yardcut.tui.keys.keymap import key_of

if TYPE_CHECKING:
    from yardcut.core.cutlist.model import Cut
    from yardcut.core.language.syntax_trees import Statement
    from yardcut.tui.cards.lines.draw import DrawCard
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.hands.hands_dials import DialHands
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_BEGIN = "draw random 100"
_DIAL_STEPS = 5
"""A dial in the place of the number goes so many steps where a number goes a tenth."""


class DrawHands:
    """The card of a draw while it is open shows every moment as it comes."""

    def __init__(self, stage: Stage, prompting: Prompting, doing: Doing, dials: DialHands) -> None:
        self._stage = stage
        self._prompting = prompting
        self._doing = doing
        self._dials = dials
        self._card: DrawCard | None = None
        self._index = -1
        self._was = ""
        self._series = object()
        doing.own["draw the rest"] = self._rest_as_cut
        doing.own["write the draw"] = lambda: prompting.write(self._text, editing=self._index)

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "draw": self.open,
            "number-more": lambda: self._stage.say(self.nudge_selected(1)),
            "number-less": lambda: self._stage.say(self.nudge_selected(-1)),
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    @property
    def _text(self) -> str:
        return self._desk.now.lines[self._index].line.text

    def _drawn(self, index: int) -> Statement | None:
        """Return the statement of a line that draws."""
        from yardcut.core.language.verbs.draw_parts import Draw

        lines = self._desk.now.lines
        statement = lines[index].statement if 0 <= index < len(lines) else None
        return statement if statement is not None and isinstance(statement.body, Draw) else None

    def open(self) -> None:
        """Show the draw of the selected line, or begin to write one."""
        from yardcut.tui.cards.lines.draw import DrawCard, DrawEdits

        now = self._desk.now
        if self._drawn(now.selected) is None:
            self._prompting.write(_BEGIN)
            return
        self._index, self._series = now.selected, object()
        self._was = self._text
        self._card = DrawCard(DrawEdits(self._nudge, self._next_seed, self._make_dial, self._step))
        self._card.show(now)
        self._stage.app.push_screen(self._card, self._closed)

    def changed(self, before: Moment, now: Moment) -> None:
        """Show what is so now."""
        if self._card is not None:
            self._card.show(now)

    def _closed(self, deed: object) -> None:
        from yardcut.tui.desk.offering.deeds import Deed

        self._card = None
        if isinstance(deed, Deed):
            self._doing.done(deed)
        elif self._drawn(self._index) is not None and self._text != self._was:
            self._stage.say(f"the card left {self._text}; {key_of('undo')} gives back {self._was}")

    # edits

    def nudge_selected(self, steps: int) -> str:
        """Move the first number of the selected line; returns what to say."""
        self._index = self._desk.now.selected
        if self._index < 0:
            return "that is the source: select a line of the list"
        return self._nudge(steps, False)

    def _nudge(self, steps: int, by_tenths: bool) -> str:
        """Move the number of the line, or turn the dial in its place; several nudges in a row are one edit."""
        from yardcut.core.language.lines import first_dial
        from yardcut.core.language.turning.number_steps import large_step, number_moved

        text = self._text
        here, dial = number_moved(text, 0), first_dial(text)
        if dial is not None and (here is None or dial[1] < here[1]):
            return self._dials.turn_named(dial[0], steps * _DIAL_STEPS if by_tenths else steps)
        if here is None:
            return "there is no number in this line"
        number = text[here[1] : here[2]]
        moved = number_moved(text, steps * large_step(number) if by_tenths else steps)
        assert moved is not None
        return self._rewrite(moved[0], f"{moved[0][moved[1] : moved[2]]}")

    def _next_seed(self) -> str:
        """Draw again with the next seed."""
        from yardcut.core.language.lines import statement_text

        statement = self._drawn(self._index)
        if statement is None or getattr(statement.body, "seed", None) is None:
            return "this draw goes by no chance, and has no seed"
        seed = statement.body.seed + 1  # type: ignore[attr-defined] # it is a draw
        body = replace(statement.body, seed=seed)  # type: ignore[call-arg] # as above
        return self._rewrite(statement_text(replace(statement, body=body)), f"drawn again with seed {seed}")

    def _make_dial(self) -> str:
        return self._dials.make_of_number(self._index)

    def _rewrite(self, text: str, said: str) -> str:
        desk = self._desk
        if text == self._text:
            return said
        try:
            desk.edits.rewrite(self._index, text, series=(self._series, self._index))
        except ListError as error:
            return str(error)
        return said

    def _step(self, again: bool) -> str:
        """Take the last edit back, or do it again; returns what to say."""
        return said_of_step(self._desk, again=again)

    # the rows left out

    def _rest_as_cut(self) -> None:
        """Add a copy of the cut whose draw takes what this one leaves out, without lines that save.

        A draw that named no seed gets it written in both: another one next month would not leave them apart.
        """
        from yardcut.core.cutlist.edited_cuts import with_copy
        from yardcut.core.language.lines import statement_text, with_seed

        now, statement = self._desk.now, self._drawn(self._index)
        if statement is None:
            return
        seeded = with_seed(statement, now.seed)
        body = replace(seeded.body, remainder=not seeded.body.remainder)  # type: ignore[call-arg, attr-defined]
        rest = statement_text(replace(seeded, body=body))
        cut_list, place = now.cut_list, now.cut_index + 1
        if seeded != statement:
            cut_list = cut_list.with_cut(now.cut_index, _with_text(now.cut, self._index, statement_text(seeded)))
        cut_list = with_copy(cut_list, now.cut_index)
        cut = _with_text(cut_list.cuts[place], self._index, rest)
        for at in reversed(range(len(now.lines))):
            other = now.lines[at].statement
            if other is not None and other.verb == "save":
                cut = cut.deleted(at)
        name = cut_list.free_cut_name(f"{now.cut.name or 'slice'} rest")
        self._desk.edits.take_list(cut_list.with_cut(place, replace(cut, name=name)), place)
        self._stage.say(
            f"the cut {name} takes the rows the other leaves out: no row is drawn in both   "
            f"({key_of('undo')} takes it back)"
        )


def _with_text(cut: Cut, index: int, text: str) -> Cut:
    return cut.with_line(index, replace(cut.lines[index], text=text))

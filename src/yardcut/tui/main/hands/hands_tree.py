"""The parts of a line: the tree of a condition and the rows a part of it takes, the keys of an order."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.desk.back_and_forth import said_of_step
from yardcut.tui.text import plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.table.rowset import RowSet
    from yardcut.tui.cards.lines.order import OrderCard
    from yardcut.tui.cards.lines.part_edits import PartEdits
    from yardcut.tui.cards.lines.tally import TallyCard
    from yardcut.tui.cards.lines.tree import TreeCard
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.desk.offering.deeds import Deed
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.hands.hands_dials import DialHands
    from yardcut.tui.main.stage import Stage


class TreeHands:
    """The card of a line's parts shows, while it is open, every moment as it comes."""

    def __init__(self, stage: Stage, open_draw: Callable[[], None], dials: DialHands) -> None:
        self._stage = stage
        self._dials = dials
        self._open_draw = open_draw
        self._card: TreeCard | OrderCard | TallyCard | None = None

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "tree": self._open,
            "tally": self._tally,
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def _open(self) -> None:
        from yardcut.core.language.verbs.draw_parts import Draw
        from yardcut.core.language.verbs.filter_parts import Drop, Keep
        from yardcut.core.language.verbs.order import Order
        from yardcut.core.language.verbs.tally import Tally
        from yardcut.tui.cards.lines.order import OrderCard
        from yardcut.tui.cards.lines.tree import TreeCard

        now = self._desk.now
        statement = now.lines[now.selected].statement
        if statement is not None and isinstance(statement.body, Draw):
            self._open_draw()
            return
        if statement is not None and isinstance(statement.body, Order):
            self._card = OrderCard(self._edits)
            self._card.show(now)
            self._stage.app.push_screen(self._card, self._closed)
            return
        if statement is not None and isinstance(statement.body, Tally):
            self._show_tally()
            return
        if statement is None or not isinstance(statement.body, Keep | Drop):
            self._stage.say("only keep, drop, order, draw and tally have parts to look at")
            return
        self._card = TreeCard(self._edits)
        self._card.show(now)
        self._stage.app.push_screen(self._card, self._closed)

    def _tally(self) -> None:
        """Put the rows of the selected line together by the column under the cursor."""
        from yardcut.core.language.helping.tally_parts import first_tally

        column = self._stage.grid.cursor_column
        assert column is not None
        try:
            self._desk.edits.enter(first_tally(column.name), self._desk.now.selected)
        except ListError as error:
            self._stage.say_error(error)
            return
        self._show_tally()

    def _show_tally(self) -> None:
        from yardcut.tui.cards.lines.tally import TallyCard

        self._card = TallyCard(self._edits)
        self._card.show(self._desk.now)
        self._stage.app.push_screen(self._card, self._closed)

    @property
    def _edits(self) -> PartEdits:
        from yardcut.tui.cards.lines.part_edits import PartEdits

        return PartEdits(self._rewrite, self._dials.put, self._step)

    def _rewrite(self, index: int, text: str) -> str:
        try:
            self._desk.edits.rewrite(index, text)
        except ListError as error:
            return str(error)
        return text

    def _step(self, again: bool) -> str:
        """Take the last edit back, or do it again; returns what to say."""
        return said_of_step(self._desk, again=again)

    def changed(self, before: Moment, now: Moment) -> None:
        """Show what is so now."""
        if self._card is not None:
            self._card.show(now)

    def _closed(self, deed: Deed | None) -> None:
        self._card = None
        if deed is not None and deed.instead_of is not None:
            self._show_part(deed.instead_of, int(deed.line))

    def _show_part(self, index: int, place: int) -> None:
        """Show the rows that a part of a line's condition alone takes."""
        from yardcut.core.language.helping.condition_tree import walk
        from yardcut.core.language.syntax.printing import expression_text
        from yardcut.core.run.explaining.tree_counts import condition_of, rows_of_part

        now = self._desk.now
        result = now.result_at(index)
        root = None if result is None else condition_of(result)
        if result is None or root is None:
            return
        path, node = list(walk(root))[place]

        def work(token: CancelToken, progress: Progress) -> RowSet:
            return rows_of_part(result, now.executor, path, token)

        def shown(rows: RowSet) -> None:
            if self._desk.now.result_at(index) is result:
                said = f"gone because of {expression_text(node)} alone: {plural(rows.count, 'row')}"
                self._desk.look_at_part(index, result.before.with_rows(rows), said)

        self._stage.jobs.start(Job.TREE, work, shown, self._stage.say_error)

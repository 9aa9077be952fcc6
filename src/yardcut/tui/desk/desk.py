"""The desk: it owns the session, and it alone says what is so now."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.language.seeds import chosen_seed
from yardcut.core.run.explaining.pattern_matches import Matches
from yardcut.core.session import Session
from yardcut.tui.desk.moment import Moment, PartRows
from yardcut.tui.desk.moments import bound, with_results, with_wrong
from yardcut.tui.desk.view import View

if TYPE_CHECKING:
    from yardcut.core.errors import ListError
    from yardcut.core.expressions.frame import Frame
    from yardcut.core.run.executing.executor import Executor
    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.run.explaining.behind_figures import Behind
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.core.table.stored_table import Table

Listener = Callable[[Moment, Moment], None]


def counts_before(before: Moment, after: Moment) -> dict[int, int]:
    """Return how many rows the lines of a moment left in the one before, by their index now.

    A line that nobody touched is known again wherever it has gone; one written anew by where it stands.
    """
    if before.table is not after.table or before.cut.name != after.cut.name:
        return {}
    counts = [result.rows.count for result in before.results]
    places = {id(line): place for place, line in enumerate(before.cut.lines)}
    is_rewritten = len(before.cut.lines) == len(after.cut.lines)
    found: dict[int, int] = {}
    for index, line in enumerate(after.cut.lines):
        place = places.get(id(line), index if is_rewritten else None)
        if place is not None and place < len(counts):
            found[index] = counts[place]
    return found


class Desk:
    """Lives on the event loop. Every change gives a new :class:`Moment`, handed to who listens with the one before."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._listeners: list[Listener] = []
        self._seed = chosen_seed()
        self._met: dict[str, Matches] = {}
        assert session.table is not None
        self._now = self._moment(selected=len(session.cut.lines) - 1)
        self.edits = session.edits
        """Where the list changes."""
        self.edits.told = self._edited

    @property
    def now(self) -> Moment:
        """What is so now."""
        return self._now

    def listen(self, call: Listener) -> None:
        """Be told of every change, with the moment before and that of now."""
        self._listeners.append(call)

    def _moment(self, selected: int) -> Moment:
        session = self._session
        assert session.table is not None
        assert session.executor is not None
        unbound = Moment(
            session.table, session.executor, session.spec, session.cut_list, session.cut_index, self._seed,
            session.list_path, session.is_saved, selected=selected,
        )  # fmt: skip
        return bound(unbound, self.patterns_met())

    def patterns_met(self) -> Matches:
        """Return what the patterns of the cut met when its list was last run."""
        session = self._session
        if session.list_path is None:
            return {}
        name = session.cut.name
        if name not in self._met:
            from yardcut.core.unattended import patterns_last_time

            self._met[name] = patterns_last_time(session, session.cut)
        return self._met[name]

    def _become(self, moment: Moment) -> None:
        before, self._now = self._now, moment
        for call in tuple(self._listeners):
            call(before, moment)

    def _edited(self, selected: int | None = None) -> None:
        before = self._now
        after = self._moment(before.selected if selected is None else selected)
        self._become(replace(after, was=counts_before(before, after)))

    # the table

    def grow(self, moment: Moment) -> None:
        """Go on with more rows of the same source, counted already; what is looked at stays, but for rows of a part."""
        now = self._now
        self._session.use_all(moment.table, moment.executor)
        view = View.ROWS if now.view is View.PART else now.view
        known = replace(moment, spec=now.spec, cut_list=now.cut_list, list_path=now.list_path, is_saved=now.is_saved)
        self._become(replace(known, selected=min(now.selected, len(moment.lines) - 1), view=view))

    def executor_of(self, table: Table, spec: SourceSpec | None = None) -> Executor:
        """Return what runs the list over a table of the source, or of another."""
        return self._session.executor_of(table, spec)

    def use(self, table: Table) -> None:
        """Go on with another table: the source was read again."""
        self._session.use(table)
        self._edited()

    def bind_again(self) -> None:
        """Bind the lines anew: a second table is read now, or is another than it was."""
        self._edited()

    def take_back_source(self, spec: SourceSpec) -> None:
        """Take the last edit back if it is the one that asked for another source."""
        if self._session.spec == spec:
            self.edits.undo()

    # the list

    @property
    def is_list_another(self) -> bool:
        """True when the list's file holds something else by now than was read or saved here."""
        return self._session.is_list_another

    def save_list(self, path: Path, *, over: bool = False) -> bool:
        """Write the list to a file; tells whether the source's path was rewritten. Raises ``TargetError``."""
        moved = self._session.save_list(path, replace=over)
        session, now = self._session, self._now
        self._become(replace(now, spec=session.spec, cut_list=session.cut_list, list_path=path, is_saved=True))
        return moved

    # looking

    def select(self, index: int) -> None:
        """Select a line (-1: the source)."""
        index = max(-1, min(index, len(self._now.lines) - 1))
        self._become(replace(self._now, selected=index, view=View.ROWS, part=None))

    def look_at(self, view: View) -> None:
        """Look at other rows of the selected line."""
        self._become(replace(self._now, view=view, part=None))

    def look_at_part(self, index: int, frame: Frame, said: str) -> None:
        """Look at the rows that a part of a line's condition alone takes."""
        self._become(replace(self._now, selected=index, view=View.PART, part=PartRows(frame, said)))

    def look_at_compared(self, frame: Frame, said: str, mark: str) -> None:
        """Look at rows that a comparison of cuts gave; ``mark`` tells them from any others."""
        self._become(replace(self._now, view=View.PART, part=PartRows(frame, said, mark)))

    def look_at_behind(self, frame: Frame, said: str, mark: str, behind: Behind) -> None:
        """Look at the rows that a figure was put together from."""
        self._become(replace(self._now, view=View.PART, part=PartRows(frame, said, mark, behind)))

    def found_wrong(self, index: int, error: ListError) -> None:
        """Take it that a line makes no sense with the rows that reach it, though it does with their columns."""
        self._become(with_wrong(self._now, index, error))

    def counted(self, results: Sequence[LineResult]) -> None:
        """Take the results of the first lines, and of the look lines behind them, as far as they are there."""
        self._become(with_results(self._now, results))

"""The desk: it owns the session, and it alone says what is so now."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.cutlist.file import relocated
from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.syntax.look_lines import look_body
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.explaining.pattern_matches import Matches, with_differences
from yardcut.core.session import Session, chosen_seed
from yardcut.tui.desk.moment import Moment, PartRows
from yardcut.tui.desk.view import View

if TYPE_CHECKING:
    from yardcut.core.cutlist.kept import KeptList
    from yardcut.core.cutlist.model import Cut, CutList
    from yardcut.core.errors import ListError
    from yardcut.core.expressions.frame import Frame
    from yardcut.core.language.meaning.dials_put_in import DialSetting
    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.sources.spec import SourceSpec, SubLine
    from yardcut.core.table.table import Table

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
        above = session.cuts_above(session.cut)
        cut = session.cut
        looks = tuple(replace(line, text=look_body(line.text).strip()) for line in cut.looks)
        both = replace(cut, lines=(*cut.lines, *looks), looks=())
        dials = session.cut_list.dials
        bound = bind_cut(both, session.table, default_seed=self._seed, earlier=above, dials=dials)
        lines = tuple(with_differences(bound[: len(cut.lines)], source_scope(session.table), self._patterns_met()))
        return Moment(
            session.table, session.executor, session.spec, session.cut_list, session.cut_index, self._seed,
            session.list_path, session.is_saved, lines, selected=max(-1, min(selected, len(lines) - 1)),
            looks=tuple(bound[len(cut.lines) :]),
        )  # fmt: skip

    def _patterns_met(self) -> Matches:
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

    def _edited(self, selected: int) -> None:
        before = self._now
        after = self._moment(selected)
        self._become(replace(after, was=counts_before(before, after)))

    # the table

    def use(self, table: Table) -> None:
        """Go on with another table: the source was read again."""
        self._session.use(table)
        self._edited(self._now.selected)

    def take_back_source(self, spec: SourceSpec) -> None:
        """Take the last edit back if it is the one that asked for another source."""
        if self._session.spec == spec:
            self.undo()

    # the list

    def enter(self, text: str, selected: int, seed: int | None = None, *, instead_of_looks: str = "") -> int:
        """Put a new line behind the one selected and return its index; look lines of a verb may go with it.

        Raises ``ListError``.
        """
        index = self._session.enter(text, selected, seed, instead_of_looks=instead_of_looks)
        self._edited(index)
        return index

    def rewrite(self, index: int, text: str, seed: int | None = None, series: Hashable = None) -> None:
        """Give a line another text; several of one ``series`` are one edit. Raises ``ListError``."""
        self._session.rewrite(index, text, seed, series)
        self._edited(index)

    def add_source_line(self, line: SubLine) -> None:
        """Put a sub-line below the source, which is then to be read again."""
        self._session.become(self._session.cut_list.with_source_line(line), self._session.cut_index)
        self._edited(self._now.selected)

    def set_dial(self, dial: DialSetting, series: Hashable = None) -> None:
        """Let a dial hold something else, or have one more; several changes of one ``series`` are one edit."""
        self._change_list(self._session.cut_list.with_dial(dial), series)

    def delete_dial(self, name: str) -> None:
        """Take a dial out; lines that use it are wrong then."""
        self._change_list(self._session.cut_list.without_dial(name))

    def change_cut(self, cut: Cut) -> None:
        """Go on with another state of the cut worked on."""
        cuts = self._session.cut_list
        self._change_list(cuts.with_cut(self._session.cut_index, cut))

    def _change_list(self, cut_list: CutList, series: Hashable = None) -> None:
        self._session.become(cut_list, self._session.cut_index, series)
        self._edited(self._now.selected)

    def take_up(self, kept: KeptList) -> None:
        """Go on with a list that was kept, as one edit."""
        self.take_list(relocated(kept.cut_list, kept.base, self._now.spec.base), kept.cut_index)

    def switch_line(self) -> None:
        """Switch the selected line off, or on again."""
        self._session.switch_line(self._now.selected)
        self._edited(self._now.selected)

    def delete_line(self) -> None:
        """Take the selected line out."""
        self._session.delete_line(self._now.selected)
        self._edited(self._now.selected)

    def move_line(self, by: int) -> None:
        """Move the selected line up (-1) or down (1)."""
        self._edited(self._session.move_line(self._now.selected, by))

    def undo(self) -> bool:
        """Take the last edit back; tells whether there was one."""
        done = self._session.undo()
        self._edited(self._now.selected)
        return done

    def redo(self) -> bool:
        """Do an edit again; tells whether there was one."""
        done = self._session.redo()
        self._edited(self._now.selected)
        return done

    def step(self, *, again: bool) -> str:
        """Take the last edit back, or do it again; returns what to say of it."""
        if self.redo() if again else self.undo():
            return "did it again" if again else "took the last edit back"
        return f"there is nothing to {'do again' if again else 'take back'}"

    def take_list(self, cut_list: CutList, cut_index: int) -> None:
        """Go on with another state of the list, as one edit, on the last line of one of its cuts."""
        self._session.become(cut_list, cut_index)
        self._edited(len(self._session.cut.lines) - 1)

    def turn_cut(self, by: int) -> bool:
        """Work on the next or previous cut; tells whether there is another."""
        if len(self._session.cut_list.cuts) == 1:
            return False
        self._session.switch_cut(self._session.cut_index + by)
        self._edited(len(self._session.cut.lines) - 1)
        return True

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

    def look(self, text: str) -> None:
        """Order or narrow what is seen, and nothing else. Raises ``ListError``."""
        self._session.look(text)
        self._edited(len(self._session.cut.lines) - 1)

    def look_no_more(self, *, as_lines: bool = False) -> bool:
        """Take the look lines away, or make them lines of the cut; tells whether there were any."""
        if not self._session.cut.looks:
            return False
        self._session.look_no_more(as_lines=as_lines)
        self._edited(len(self._session.cut.lines) - 1)
        return True

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

    def found_wrong(self, index: int, error: ListError) -> None:
        """Take it that a line makes no sense with the rows that reach it, though it does with their columns."""
        lines = list(self._now.lines)
        lines[index] = replace(lines[index], bound=None, error=error)
        self._become(replace(self._now, lines=tuple(lines), results=self._now.results[:index], looked=None))

    def counted(self, results: Sequence[LineResult]) -> None:
        """Take the results of the first lines, and of the look lines behind them, as far as they are there."""
        own, more = results[: len(self._now.lines)], results[len(self._now.lines) :]
        self._become(replace(self._now, results=tuple(own), looked=more[-1] if more else None))

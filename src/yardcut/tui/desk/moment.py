"""All that is so at one moment. Whatever runs in a thread gets a moment, never the desk."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field, replace
from pathlib import Path

from yardcut.core.cutlist.model import Cut, CutList
from yardcut.core.cutlist.second_paths import second_files
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import Frame, source_fingerprint, source_frame
from yardcut.core.language.meaning.fixed import Earlier
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.outgoing import A_SECOND_TABLE, Protected
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine, earlier_cuts, first_scope
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.further_sources import FurtherSources, further_of
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.behind_figures import Behind
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.tui.desk.view import View


@dataclass(frozen=True, slots=True, eq=False)
class PartRows:
    """Rows that a part of the selected line's condition alone takes, and what is said of them.

    With a ``mark`` they are those of a comparison of cuts, or ``behind`` a figure, told by it from all others, and no
    line took them.
    """

    frame: Frame
    said: str
    mark: str = ""
    behind: Behind | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Moment:
    """A table, a list and what is known of it.

    ``lines`` are the lines of the cut worked on, bound: known as soon as the list is, but for those that are bound when
    the rows are known; ``asked`` are all as they were before that. ``results`` are those of its
    first lines, as far as they have been worked out. ``selected`` is a line's index, -1 the source. ``executor`` works
    out more of the same table; ``seed`` is that of lines that go by chance and name none; ``part`` are the rows looked
    at while those of a part are. ``looks`` are the look lines, and ``looked`` what they leave, once it is known.
    ``was`` tells how many rows lines left before the last edit, by their index now.
    """

    table: Table
    executor: Executor
    spec: SourceSpec
    cut_list: CutList
    cut_index: int
    seed: int
    list_path: Path | None = None
    is_saved: bool = True
    lines: tuple[BoundLine, ...] = ()
    asked: tuple[BoundLine, ...] = ()
    results: tuple[LineResult, ...] = ()
    selected: int = -1
    view: View = View.ROWS
    part: PartRows | None = None
    looks: tuple[BoundLine, ...] = ()
    looked: LineResult | None = None
    was: Mapping[int, int] = field(default_factory=dict)

    @property
    def cut(self) -> Cut:
        """The cut worked on."""
        return self.cut_list.cuts[self.cut_index]

    @property
    def further(self) -> FurtherSources:
        """The second tables that the cut worked on can name: files, further sources, the cuts above."""
        names = tuple(cut.name for cut in self.cut_list.cuts[: self.cut_index])
        return replace(further_of(self.cut_list), earlier=self.earlier, cuts=names)

    @property
    def protected(self) -> Protected:
        """The files that nothing is written over: the sources, and the list where it has a file."""
        found = Protected.of(self.spec.paths_there(), self.list_path)
        return found.more(second_files(self.cut_list), A_SECOND_TABLE)

    @property
    def wrong(self) -> tuple[int, ListError] | None:
        """The first line that is wrong, and what is wrong with it."""
        for index, line in enumerate(self.lines):
            if line.error is not None:
                return index, line.error
        return None

    @property
    def is_counted(self) -> bool:
        """True when every line has its result, as far as there will be one."""
        wrong = self.wrong
        return len(self.results) == (len(self.lines) if wrong is None else wrong[0])

    @property
    def is_looking(self) -> bool:
        """True when the look lines are at work."""
        return bool(self.looks) and self.selected == len(self.lines) - 1 and self.view is View.ROWS

    def scope_at(self, selected: int) -> Scope:
        """Return the columns as of a line; binding alone knows them, results are not waited for."""
        result = self.result_at(selected)
        if result is not None:  # with the values of all rows put in their places
            return result.line.scope
        return (
            self.lines[selected].scope if selected >= 0 else first_scope(self.table, self.cut_list.dials, self.further)
        )

    def scope_for_work(self, selected: int) -> Scope:
        """Return the columns as of a line for who binds a line in a thread: second tables are read there."""
        return replace(self.scope_at(selected), further=self.further)

    @property
    def earlier(self) -> Earlier:
        """What gives the cuts above, bound."""
        cuts, dials = self.cut_list.cuts[: self.cut_index], self.cut_list.dials
        return earlier_cuts(cuts, self.table, default_seed=self.seed, dials=dials, further=further_of(self.cut_list))

    def result_at(self, selected: int) -> LineResult | None:
        """Return the result of a line, if it is there."""
        return self.results[selected] if 0 <= selected < len(self.results) else None

    def frame_at(self, selected: int) -> Frame | None:
        """Return the rows and columns as of a line; ``None`` while they are not known."""
        if selected < 0:
            return source_frame(self.table)
        result = self.result_at(selected)
        return None if result is None else result.frame

    def fingerprint_at(self, selected: int) -> str:
        """Return what tells the rows as of a line from any others; only for a line whose frame is known."""
        return source_fingerprint(self.table) if selected < 0 else self.results[selected].fingerprint

"""What is compared: two cuts of the open source, or one cut on it and on another one; and what is seen of both."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.desk.pictures import small_print

if TYPE_CHECKING:
    from pathlib import Path

    from yardcut.core.pictures.bar_data import Bars
    from yardcut.core.progress import CancelToken, Progress
    from yardcut.core.run.executing.executor import Executor
    from yardcut.core.run.looking.two_sides import Side
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.moment import Moment

    ExecutorOf = Callable[[Table, SourceSpec], Executor]

_FIRST_ROWS = 200


@dataclass(frozen=True, slots=True)
class Pair:
    """Two sides by name, and how they are worked out. Of one source rows can be told apart, of two only lines."""

    names: tuple[str, str]
    is_one_source: bool
    sides: Callable[[CancelToken, Progress], tuple[Side, Side]]


@dataclass(frozen=True, slots=True)
class FirstRows:
    """The first rows of a side, in its own order: where each stands in its source, and its cells."""

    places: tuple[int, ...]
    cells: tuple[tuple[str | None, ...], ...]


def two_cuts(now: Moment, other: int) -> Pair:
    """Return the cut worked on and another one of the list."""
    from yardcut.core.run.looking.two_sides import side_of

    one, two = (now.cut_list.cuts[index].name or "cut" for index in (now.cut_index, other))

    def sides(token: CancelToken, progress: Progress) -> tuple[Side, Side]:
        found = [
            side_of(name, now.cut_list, index, now.executor, token, seed=now.seed)
            for name, index in ((one, now.cut_index), (two, other))
        ]
        return found[0], found[1]

    return Pair((one, two), True, sides)


def on_another_source(now: Moment, index: int, path: Path, executor_of: ExecutorOf) -> Pair:
    """Return a cut on the open source and on a file read with the same sub-lines."""
    from yardcut.core.run.looking.two_sides import side_of
    from yardcut.core.sources.opening_sources import open_table
    from yardcut.core.sources.spec import SourceSpec

    names = now.spec.label, path.name if path.name != now.spec.label else str(path)

    def sides(token: CancelToken, progress: Progress) -> tuple[Side, Side]:
        spec = SourceSpec((str(path),), now.cut_list.source_lines)
        executors = now.executor, executor_of(open_table(spec, token, progress), spec)
        found = [
            side_of(name, now.cut_list, index, executor, token, seed=now.seed)
            for name, executor in zip(names, executors, strict=True)
        ]
        return found[0], found[1]

    return Pair(names, False, sides)


def first_rows(side: Side, names: list[str], token: CancelToken) -> FirstRows:
    """Read the first rows of a side in some of its columns."""
    from yardcut.core.expressions.evaluating import evaluate
    from yardcut.core.language.meaning.bound_parts import columns_of
    from yardcut.core.table.window import Scatter

    frame = side.frame
    ids = frame.rows.ids(0, min(_FIRST_ROWS, frame.rows.count))
    columns = [next(column for column in frame.columns if column.name == name) for name in names]
    texts = []
    for column in columns:
        token.check()
        side.runner.table.load(columns_of(column.value), token)
        texts.append(evaluate(column.value, Scatter(frame.table, ids)).texts())
    return FirstRows(tuple(int(place) + 1 for place in frame.table.source_ids(ids)), tuple(zip(*texts, strict=True)))


@dataclass
class BesideSubject:
    """The picture of a column on both sides."""

    moment: Moment
    here: Side
    there: Side
    place: int = 0
    choosing: str = ""
    without: tuple[str, ...] = ("picture-more", "picture-fewer")
    kind: str = ""
    kinds: tuple[str, ...] = ()

    def bars(self, token: CancelToken) -> Bars:
        """Draw the shares of the column's values on both."""
        from yardcut.core.run.looking.pictured_beside import beside_bars

        names = self.names()
        if not names:
            raise ListError("no column is on both sides")
        found = beside_bars(self.here, self.there, names[self.place], token)
        return replace(found, small_print=small_print(self.moment))

    def nudged(self, steps: int) -> str:
        """Nothing of it has a number."""
        return "only a top or bottom has a number to nudge"

    def names(self) -> list[str]:
        """Return the columns on both sides."""
        from yardcut.core.run.looking.two_sides import shared_columns

        return [column.name for column, _ in shared_columns(self.here, self.there)]

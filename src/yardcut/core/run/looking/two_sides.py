"""Cuts beside each other: two of one source, row by row, or one on two sources, line by line; and their columns."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np

from yardcut.core.cutlist.model import CutList
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame, source_frame
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.profile.distances import distance
from yardcut.core.profile.summary import Summary, summarise
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine, bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.further_sources import further_of
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.likely_renamed import likely_pairs
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.window import Scatter


@dataclass(frozen=True, slots=True, eq=False)
class Side:
    """A cut on a source: its lines as they are bound there, the results of those that are right, who goes over rows."""

    name: str
    lines: tuple[BoundLine, ...]
    results: tuple[LineResult, ...]
    over_source: Runner

    @property
    def frame(self) -> Frame:
        """What the cut leaves, up to a line that is wrong there."""
        return self.results[-1].frame if self.results else source_frame(self.over_source.table)

    @property
    def runner(self) -> Runner:
        """What goes over the rows of :attr:`frame`."""
        return self.over_source.over(self.frame.table)


@dataclass(frozen=True, slots=True, eq=False)
class Compared:
    """What two cuts leave of one source: ``here`` is the first one's frame, ``there`` the second one's.

    Rows are told apart by where they stand in the source; each set is in the order its own cut gives it.
    """

    here: Frame
    there: Frame
    both: RowSet
    only_here: RowSet
    only_there: RowSet


@dataclass(frozen=True, slots=True)
class LineBeside:
    """A line of one cut (the source has number 0): the rows it leaves of each of two sources.

    ``None`` where it is wrong, or stands below one that is; ``wrong`` says why.
    """

    number: int
    text: str
    here: int | None
    there: int | None
    wrong: str = ""
    is_off: bool = False


@dataclass(frozen=True, slots=True)
class ColumnFigures:
    """A column summed up on both sides, ``None`` where one lacks it; ``renamed`` is its likely name there.

    :attr:`distance` is between 0 and 1.
    """

    name: str
    here: Summary | None
    there: Summary | None
    renamed: str = ""

    @property
    def distance(self) -> float:
        """How far the values lie apart, as :mod:`yardcut.core.profile.distances` has it; 1 for a column of one side."""
        return 1.0 if self.here is None or self.there is None else distance(self.here, self.there)


def side_of(
    name: str, cut_list: CutList, index: int, executor: Executor, token: CancelToken,
    *, seed: int, today: int | None = None, progress: Progress | None = None,
) -> Side:  # fmt: skip
    """Run a cut on a source. Raises ``ListError`` for what only the rows show to be wrong, and ``StoppedError``."""
    lines = bind_cut(
        cut_list.cuts[index], executor.runner.table,
        default_seed=seed, today=today, earlier=cut_list.cuts[:index], dials=cut_list.dials,
        further=further_of(cut_list),
    )  # fmt: skip
    results = executor.run_bound(lines, token, progress, looked_at=False)
    return Side(name, tuple(lines), tuple(results), executor.runner)


def lines_beside(here: Side, there: Side) -> list[LineBeside]:
    """Return the source and the lines of one cut with the rows they leave of each of two sources."""
    found = [LineBeside(0, "source", here.over_source.table.rows, there.over_source.table.rows)]
    for place, line in enumerate(here.lines):
        counts = [each.results[place].rows.count if place < len(each.results) else None for each in (here, there)]
        error = next((each.lines[place].error for each in (here, there) if each.lines[place].error is not None), None)
        wrong = "" if error is None or line.off else error.message
        found.append(LineBeside(place + 1, line.line.text.strip(), counts[0], counts[1], wrong, line.off))
    return found


def compared(here: Side, there: Side) -> Compared:
    """Compare the rows two cuts leave of one table. O(rows of the table) in bits.

    Each copy of a row that was drawn several times is a row of its cut.
    """
    one, other = here.frame, there.frame
    ours, theirs = _those_of(one, other), _those_of(other, one)
    return Compared(one, other, one.rows.only(theirs), one.rows.without(theirs), other.rows.without(ours))


def _those_of(frame: Frame, other: Frame) -> Array:
    """Return one bit for each row of the other's table: set where the row of the source it is stands in ``frame``."""
    if frame.table is other.table:
        return frame.rows.member_bits()
    if not (frame.table.leads_to_source and other.table.leads_to_source):
        return _alike(frame, other)
    here = bit.of_ids(frame.table.source_ids(frame.rows.ids(0, frame.rows.count)), frame.table.source.rows)
    return bit.pack(bit.at(here, other.table.source_ids(np.arange(other.table.rows))))


def _alike(frame: Frame, other: Frame) -> Array:
    """Return one bit for each row of the other's table: set where it is told as a row of ``frame`` is.

    What was put together has no place in the source: it is told by the columns both show that hold no numbers, or by
    all they share.
    """
    theirs = {column.name: column for column in other.columns}
    shared = [column for column in frame.columns if column.name in theirs]
    told = [column for column in shared if not column.kind.is_numeric and not theirs[column.name].kind.is_numeric]
    names = [column.name for column in told or shared]
    seen = set(_keys_of(frame, names))
    found = np.zeros(other.table.rows, np.bool_)
    ids = other.rows.ids(0, other.rows.count)
    found[ids] = [key in seen for key in _keys_of(other, names)]
    return bit.pack(found)


def _keys_of(frame: Frame, names: list[str]) -> list[tuple[str | None, ...]]:
    if not names:
        return [()] * frame.rows.count
    by_name = {column.name: column for column in frame.columns}
    window = Scatter(frame.table, frame.rows.ids(0, frame.rows.count))
    return list(zip(*(evaluate(by_name[name].value, window).texts() for name in names), strict=True))


def shared_columns(here: Side, there: Side) -> list[tuple[ShownColumn, ShownColumn]]:
    """Return the columns that both sides show by the same name, in the order of the first one."""
    others = {column.name: column for column in there.frame.columns}
    return [(column, others[column.name]) for column in here.frame.columns if column.name in others]


def looked_at(side: Side) -> list[str]:
    """Return the names of the columns that the lines work by, those of the last line first."""
    found: dict[str, None] = {}
    for result in reversed(side.results):
        bound, columns = result.line.bound, result.before.table.columns
        if bound is not None and bound.body.computes:
            found.update(dict.fromkeys(columns[number].name for number in sorted(columns_read(bound.body))))
    return list(found)


def paired_columns(here: Side, there: Side) -> list[tuple[ShownColumn | None, ShownColumn | None]]:
    """Return all columns, each beside the one of its name, or beside the one it is likely called there.

    Those of both sides come first, in the order of the first; ``None`` stands where a side has none.
    """
    shared = shared_columns(here, there)
    known = {column.name for column, _ in shared}
    ours, theirs = ([column for column in side.frame.columns if column.name not in known] for side in (here, there))
    renamed = likely_pairs([(each.name, each.kind) for each in theirs], [(each.name, each.kind) for each in ours])
    new_names = {old: new for new, old in renamed.items()}
    by_name = {column.name: column for column in theirs}
    pairs: list[tuple[ShownColumn | None, ShownColumn | None]] = [*shared]
    pairs += [(column, by_name.get(new_names.get(column.name, ""))) for column in ours]
    pairs += [(None, column) for column in theirs if column.name not in renamed]
    return pairs


def figures(
    here: Side, there: Side, token: CancelToken, tell: Callable[[list[ColumnFigures]], None]
) -> list[ColumnFigures]:
    """Sum up all columns of both sides; each is told as it is known. Raises ``StoppedError``."""
    done: list[ColumnFigures] = []
    for one, other in paired_columns(here, there):
        token.check()
        both = [
            None if column is None else summarise(column, side.frame.rows, side.runner, token)
            for column, side in ((one, here), (other, there))
        ]
        named = one or other
        assert named is not None
        renamed = other.name if other is not None and other.name != named.name else ""
        done.append(ColumnFigures(named.name, both[0], both[1], renamed))
        tell(list(done))
    return done


def by_distance(so_far: Iterable[ColumnFigures]) -> list[ColumnFigures]:
    """Return the columns whose values differ most first, those of one side and those renamed before them."""
    return sorted(so_far, key=lambda each: (not each.renamed and None not in (each.here, each.there), -each.distance))

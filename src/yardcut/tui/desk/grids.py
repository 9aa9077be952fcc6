"""What a grid shows of a moment: pages of a frame, the marks of a trial, the reasons of an offcut, the heads' marks."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from yardcut.core.expressions.frame import Frame, source_fingerprint, source_frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import named_in
from yardcut.core.table import bits as bit
from yardcut.core.table.stored_table import Table
from yardcut.tui.desk.figured_rows import Rows
from yardcut.tui.desk.view import View
from yardcut.tui.so_far import labelled
from yardcut.tui.widgets.grid.grid_source import GridColumn, GridPage, Mark

if TYPE_CHECKING:
    from yardcut.core.run.executing.bound_lines import BoundLine
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.desk.moment import Moment


class FrameSource:
    """The rows of a frame, perhaps marked by what a line would take, perhaps with reasons as an offcut has them.

    ``rows`` are those that figures beside the grid must be about, ``above`` those before the line that left them,
    ``label`` says of which line they are.
    """

    def __init__(
        self,
        rows: Rows,
        columns: Sequence[GridColumn],
        label: str,
        *,
        above: Rows | None = None,
        marked_by: LineResult | None = None,
        offcut_of: LineResult | None = None,
    ) -> None:
        self.columns = columns
        self.rows = rows
        self.above = above
        self.label = labelled(label, rows.frame.table.source)
        self.source_rows = rows.frame.table.source.rows
        self.tallied: LineResult | None = None
        """The tally whose rows these are, as it leaves them."""
        self.leads_to_source = rows.frame.table.leads_to_source
        self._frame = rows.frame
        self._marked_by = marked_by
        self._kept = marked_by.members.member_bits() if marked_by is not None else None
        self.has_reasons = offcut_of is not None
        self._reason = _reasons_of(offcut_of) if offcut_of is not None else None

    @property
    def row_count(self) -> int:
        """How many rows there are."""
        return self._frame.rows.count

    def page(self, first: int, end: int, columns: Sequence[int]) -> GridPage:
        """Read some rows of some columns."""
        page = self._frame.page(first, end, columns)
        marks = self._marks(page.row_ids) if self._kept is not None else ()
        reasons = [self._reason(row_id) for row_id in page.row_ids] if self._reason is not None else ()
        numbers = self._frame.table.source_ids(np.array(page.row_ids, dtype=np.int64)) + 1
        return GridPage(numbers.tolist(), page.cells, marks, reasons, page.waiting)

    def _marks(self, row_ids: Sequence[int]) -> list[Mark]:
        assert self._kept is not None
        assert self._marked_by is not None
        ids = np.array(row_ids, dtype=np.int64)
        kept = bit.at(self._kept, ids)
        unknown = self._marked_by.unknown
        for_want = bit.at(unknown, ids) if unknown is not None else np.zeros(len(ids), dtype=np.bool_)
        return [
            Mark.STAYS if stays else Mark.UNKNOWN if empty else Mark.GOES
            for stays, empty in zip(kept.tolist(), for_want.tolist(), strict=True)
        ]

    def position_of(self, source_row: int) -> int:
        """Return the position of a row by its number in the source (from 1), or of the next one there is."""
        return self._frame.rows.position(self._frame.table.id_of(max(0, min(source_row - 1, self.source_rows - 1))))


def _reasons_of(result: LineResult) -> Callable[[int], str]:
    from yardcut.core.run.explaining.row_reasons import reason

    return lru_cache(maxsize=4096)(lambda row_id: reason(result, row_id))


def whole_source(table: Table) -> FrameSource:
    """Return all of a table as it was read. Needs nothing of the list."""
    frame = source_frame(table)
    return FrameSource(Rows(frame, source_fingerprint(table)), grid_columns(frame.columns, ()), "the source")


def moment_source(moment: Moment) -> FrameSource | None:
    """Return the rows looked at; ``None`` while they are not known."""
    selected = moment.selected
    frame = moment.frame_at(selected)
    if frame is None:
        return None
    looked = moment.looked if moment.is_looking else None
    if looked is not None:
        columns = grid_columns(frame.columns, (*moment.lines, *moment.looks))
        label = f"as of line {selected + 1}, as looked at" if selected >= 0 else "the source, as looked at"
        rows = Rows(looked.frame, looked.fingerprint)
        return FrameSource(rows, columns, label, above=Rows(frame, moment.fingerprint_at(selected)))
    if moment.part is not None and moment.part.mark:
        columns = grid_columns(moment.part.frame.columns, ())
        return FrameSource(Rows(moment.part.frame, moment.part.mark), columns, moment.part.said)
    if selected < 0:
        return whole_source(moment.table)
    result = moment.results[selected]
    above = Rows(result.before, result.before_fingerprint)
    if moment.view is View.OFFCUT:
        rows = Rows(result.offcut, f"offcut {result.before_fingerprint} {result.fingerprint}")
        columns = grid_columns(result.before.columns, moment.lines[:selected])
        return FrameSource(rows, columns, f"offcut of line {selected + 1}", above=above, offcut_of=result)
    if moment.view is View.BEFORE:
        columns = grid_columns(result.before.columns, moment.lines[:selected])
        return FrameSource(above, columns, f"before line {selected + 1}", above=above)
    if moment.part is not None:
        rows = Rows(moment.part.frame, f"part {result.fingerprint} {moment.part.said}")
        columns = grid_columns(result.before.columns, moment.lines[:selected])
        return FrameSource(rows, columns, f"rows of a part of line {selected + 1}", above=above, offcut_of=result)
    beside = used_but_left_out(result)
    columns = grid_columns((*frame.columns, *beside), moment.lines[: selected + 1])
    for place in range(len(frame.columns), len(columns)):
        columns[place] = replace(columns[place], left_out=True)
    rows = Rows(replace(frame, columns=(*frame.columns, *beside)), result.fingerprint)
    known = None if result.starts_anew else above
    found = FrameSource(rows, columns, f"as of line {selected + 1}", above=known)
    found.tallied = result if result.starts_anew else None
    return found


def used_but_left_out(result: LineResult) -> tuple[b.ShownColumn, ...]:
    """Return the columns a line works with by their values that are not shown as it leaves the table."""
    bound = result.line.bound
    if bound is None:
        return ()
    values = [*bound.body.restricts(), *(key.named for key in bound.body.arranges() or ())]
    named = {name for value in values for name in named_in(value)}
    shown = {column.value for column in result.frame.columns}
    return tuple(column for column in result.line.scope.known if column.value in named and column.value not in shown)


def trial_source(moment: Moment, result: LineResult, index: int, *, marked: bool) -> FrameSource:
    """Return the rows a line being written works on, marked by what it would take, or the rows it would leave."""
    columns = grid_columns(result.shown, (*moment.lines[:index], result.line))
    if marked and not result.starts_anew:
        frame = Frame(result.before.table, result.before.rows, result.shown)
        above = "the source" if index == 0 else f"as of line {index}"
        return FrameSource(Rows(frame, result.before_fingerprint), columns, above, marked_by=result)
    rows = Rows(result.frame, result.fingerprint)
    above_rows = None if result.starts_anew else Rows(result.before, result.before_fingerprint)
    return FrameSource(rows, columns, f"as line {index + 1} would leave it", above=above_rows)


def grid_columns(columns: Sequence[b.ShownColumn], lines: Sequence[BoundLine]) -> list[GridColumn]:
    """Return the heads of some columns as lines leave them: sorted by which keys, restricted by which conditions."""
    sorts: dict[b.BoundValue, tuple[int, bool]] = {}
    restricted: set[b.BoundValue] = set()
    is_computed = bool(lines) and not lines[-1].scope.leads_to_source
    for line in lines:
        if line.bound is None:
            continue
        if line.bound.body.starts_anew:
            restricted, sorts = set(), {}
        restricted |= set(line.bound.body.restricts())
        keys = line.bound.body.arranges()
        if keys is not None:
            sorts = {}
            for place, key in enumerate(keys, 1):
                sorts.setdefault(key.named, (place, key.descending))
    marked = sorts.keys() | restricted
    heads = []
    for column in columns:
        head = _plain_head(column, is_computed)
        if column.value in marked:
            sort, descending = sorts.get(column.value, (0, False))
            head = replace(head, sort=sort, descending=descending, restricted=column.value in restricted)
        heads.append(head)
    return heads


@lru_cache(maxsize=1 << 15)
def _plain_head(column: b.ShownColumn, is_computed: bool) -> GridColumn:
    is_made = is_computed or not isinstance(column.id, int)
    return GridColumn(column.name, column.kind.value, column.number, column.id, is_computed=is_made)

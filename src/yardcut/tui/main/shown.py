"""From a moment to what the panels say: pure functions."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.tui.desk.view import View
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.panels.gauge import GaugeState
from yardcut.tui.panels.list_state import ListState
from yardcut.tui.panels.prompt import PromptState
from yardcut.tui.so_far import share_said, so_far_said
from yardcut.tui.text import glance, plural
from yardcut.tui.widgets.header import HeaderState

if TYPE_CHECKING:
    from collections.abc import Mapping

    from yardcut.core.cutlist.model import Cut
    from yardcut.core.profile.summary import Summary
    from yardcut.core.run.explaining.tree_counts import Branch
    from yardcut.core.run.hinting.hint import Hint
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.widgets.grid.grid_source import GridColumn


def rest() -> PromptState:
    """Return what the prompt shows while it is closed: some keys to begin with."""
    first = [
        ("write", "writes a line"), ("keep-value", "keeps this value"), ("cell-card", "cuts by it"),
        ("values", "values"), ("why", "why so few"), ("help", "finds what to do"),
    ]  # fmt: skip
    return PromptState(said=" · ".join(f"{key_of(name)} {does}" for name, does in first), style="$faint")


def size_of(table: Table) -> str:
    """Say how large a table is, as far as it is there."""
    if table.share_read < 1:
        rows = ", ".join(filter(None, [f"so far {table.rows:,} rows", share_said(table)]))
        return f"{rows} × {plural(len(table.columns), 'column')}"
    return f"{plural(table.rows, 'row')} × {plural(len(table.columns), 'column')}"


def list_state(
    moment: Moment, tree: tuple[Branch, ...], unanswered: tuple[str, ...], hints: Mapping[int, tuple[Hint, ...]]
) -> ListState:
    """Return what the list says."""
    return ListState(
        moment.lines,
        moment.results,
        moment.spec.label,
        moment.table.rows,
        moment.selected,
        tree,
        unanswered,
        moment.looks,
        moment.is_looking,
        moment.was,
        hints,
        tuple((dial.name, dial.said()) for dial in moment.cut_list.dials),
        so_far_said(moment.table),
    )


def header_state(moment: Moment, work: str, written: tuple[Cut, str] | None = None) -> HeaderState:
    """Return what the header says; ``written`` is the cut whose slice was written last, and when."""
    cuts = len(moment.cut_list.cuts)
    which = f" ({moment.cut_index + 1} of {cuts})" if cuts > 1 else ""
    offcut = ""
    result = moment.result_at(moment.selected)
    if moment.view is View.OFFCUT and result is not None:
        offcut = f"offcut of line {moment.selected + 1}: {plural(result.taken, 'row')} · {key_of('offcut')} goes back"
    if moment.view is View.BEFORE:
        offcut = f"before line {moment.selected + 1} · {key_of('offcut')} goes back"
    if moment.part is not None:
        offcut = f"{glance(moment.part.said)} · {key_of('stop')} goes back"
    frame = moment.frame_at(len(moment.lines) - 1) if moment.lines else None
    left = "" if frame is None else f"{plural(frame.rows.count, 'row')} left"
    left += " so far" if left and moment.table.share_read < 1 else ""
    name = (moment.cut.name or "cut") + which
    return HeaderState(moment.spec.label, size_of(moment.table), name, _saved(moment, written), offcut, work, left)


def _saved(moment: Moment, written: tuple[Cut, str] | None) -> str:
    """Say of the list whether it is saved, and of the slice when it was written, while the cut is as it was then."""
    slice_ = f"slice written at {written[1]}, " if written is not None and written[0] == moment.cut else ""
    if moment.list_path is not None:
        return f"{slice_}list saved" if moment.is_saved else f"{slice_}list changed since saved"
    return f"{slice_}list not saved" if moment.cut.lines else ""


def gauge_state(
    column: GridColumn, label: str, value: str | None, now: Summary | None, before: Summary | None
) -> GaugeState:
    """Return what the gauge says of a column; without a summary it is being worked out."""
    return GaugeState(column.name, column.about, label, now, before, value)

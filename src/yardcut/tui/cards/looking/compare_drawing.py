"""Two sides as lines of styled text: their counts, the figures of their columns, their first rows."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from textual.content import Content

from yardcut.core.run.looking.two_sides import by_distance
from yardcut.tui.text import MISSING, clean, fit, glance, plural
from yardcut.tui.widgets.bar_cells import SOLID

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary
    from yardcut.core.run.looking.two_sides import ColumnFigures, LineBeside
    from yardcut.core.table.rowset import RowSet
    from yardcut.tui.desk.beside import FirstRows

_NAME_CELLS, _SIDE_CELLS, _BAR_CELLS, _SET_CELLS, _LINE_CELLS = 20, 38, 30, 40, 46
_COUNT_CELLS, _SHARE_CELLS, _NUMBER_CELLS = 13, 7, 4
_CELL_CELLS, _PLACE_CELLS, _APART_CELLS = 11, 10, 6


def set_line(said: str, rows: RowSet, largest: int, width: int) -> Content:
    """Draw how many rows are in a set of both, or of one side."""
    room = min(_SET_CELLS, max(8, width - _COUNT_CELLS - 9))
    longest = max(0, min(_BAR_CELLS, width - room - _COUNT_CELLS - 1))
    bar = SOLID * max(1 if rows.count else 0, round(longest * rows.count / largest))
    return Content.assemble((fit(said, room), "bold"), (f"{rows.count:>{_COUNT_CELLS},} ", "$count"), (bar, "$plank"))


def line_beside(line: LineBeside, source: LineBeside, width: int) -> Content:
    """Draw a line with the rows it leaves on both sides, and what share of each source that is."""
    number = f"{line.number:>{_NUMBER_CELLS - 1}} " if line.number else " " * _NUMBER_CELLS
    room = min(_LINE_CELLS, max(8, width - _NUMBER_CELLS - 2 * (_COUNT_CELLS + _SHARE_CELLS)))
    runs = [(number, "$dim"), (fit(glance(line.text), room), "$dim" if line.is_off else "bold")]
    for count, rows in ((line.here, source.here), (line.there, source.there)):
        share = "" if count is None or not rows else f"{100 * count / rows:.1f}%"
        shown = "─" if count is None else f"{count:,}"
        runs += [(shown.rjust(_COUNT_CELLS), "$count"), (share.rjust(_SHARE_CELLS), "$dim")]
    if line.wrong:
        runs.append((f"  {glance(line.wrong)}", "$warning"))
    return Content.assemble(*runs)


def figures_drawn(names: tuple[str, str], so_far: Sequence[ColumnFigures], width: int) -> Content:
    """Draw the figures of all columns, those that differ most first and brighter, with how far they lie apart."""
    room = min(_NAME_CELLS, max(8, width // 4))
    side = min(_SIDE_CELLS, max(8, (width - room - _APART_CELLS - 2) // 2))
    head = ("apart".rjust(_APART_CELLS), "$dim"), ("  " + fit(clean(names[0]), side), "bold")
    lines = [Content.assemble((fit("column", room), "$dim"), *head, ("  " + clean(names[1]), "bold"))]
    for each in by_distance(so_far):
        here, there = _said(each.here), _said(each.there)
        if each.renamed:
            there = f"as {clean(each.renamed)}: {there}"
        apart = f"{100 * each.distance:.0f}%" if None not in (each.here, each.there) else "─"
        style = "$dim" if here == there else "$count"
        name = (fit(clean(each.name), room), "bold"), (apart.rjust(_APART_CELLS), style)
        lines.append(Content.assemble(*name, ("  " + fit(here, side), style), ("  " + fit(there, side), style)))
    return Content("\n").join(lines)


def rows_drawn(names: tuple[str, str], columns: Sequence[str], sides: Sequence[FirstRows], width: int) -> Content:
    """Draw the first rows of both sides beside each other, each in its own order."""
    half = max(_PLACE_CELLS + _CELL_CELLS, (width - 3) // 2)
    shown = max(1, (half - _PLACE_CELLS) // (_CELL_CELLS + 1))
    heads = [fit(clean(name), half) for name in names]
    below = fit("row".rjust(_PLACE_CELLS - 1) + " " + _cells(columns[:shown]), half)
    lines = [
        Content.assemble((heads[0], "bold"), "   ", (heads[1], "bold")),
        Content.assemble((below, "$dim"), "   ", (below, "$dim")),
    ]
    for place in range(max(len(side.places) for side in sides)):
        halves = [
            (f"{side.places[place]:>{_PLACE_CELLS - 1},} " + _cells(side.cells[place][:shown]))
            if place < len(side.places) and side.cells
            else ""
            for side in sides
        ]
        lines.append(Content.assemble(fit(halves[0], half), ("   ", ""), fit(halves[1], half)))
    return Content("\n").join(lines)


def _cells(texts: Sequence[str | None]) -> str:
    return " ".join(fit(MISSING if text is None else glance(text), _CELL_CELLS) for text in texts)


def _said(summary: Summary | None) -> str:
    """Sum a column up in a few words."""
    if summary is None:
        return "no such column"
    about = "about " if summary.estimated else ""
    missing = f", {summary.missing:,} missing" if summary.missing else ""
    if not summary.present:
        return f"no value in {plural(summary.rows, 'row')}"
    if summary.average is not None:
        return f"avg {summary.average}, {glance(summary.least or '')} to {glance(summary.most or '')}{missing}"
    if summary.commonest:
        text, count = summary.commonest[0]
        share = f"{100 * count / summary.present:.0f}%"
        return f"{about}{plural(summary.distinct, 'value')}, {glance(text)} {share}{missing}"
    return f"{glance(summary.least or '')} to {glance(summary.most or '')}{missing}"

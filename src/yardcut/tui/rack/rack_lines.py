"""Drawing the rack, line by line."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from textual.content import Content

from yardcut.core.language.meaning.bound import Made
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.rack.rack_rows import RackRow
from yardcut.tui.text import MISSING, clean, fit, glance
from yardcut.tui.widgets.bar_cells import heights, merged

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary

_WIDE, _MIDDLE = 132, 100
_SHAPE_CELLS = 10


@dataclass(frozen=True, slots=True)
class Widths:
    """The cells of the parts of a row; 0 leaves a part away."""

    name: int
    new_name: int
    distinct: int
    shape: int

    @classmethod
    def for_room(cls, width: int) -> Widths:
        """Return what a line of some cells has room for."""
        if width >= _WIDE:
            return cls(24, 18, 9, _SHAPE_CELLS)
        return cls(20, 14, 8, 0) if width >= _MIDDLE else cls(18, 12, 0, 0)


@dataclass(frozen=True, slots=True)
class Seen:
    """What is known of a row: whether it is meant by what was typed, its figures, and sample values."""

    lit: bool
    held: bool
    under_cursor: bool
    summary: Summary | None
    values: Sequence[str | None] | None
    would: str = ""


def head(width: int) -> Content:
    """Return the line above the rows."""
    widths = Widths.for_room(width)
    parts = [f"   {'':>5} {'column':<{widths.name}} {'new name':<{widths.new_name}} {'kind':<9} {'missing':>8}"]
    parts += [f" {'distinct':>{widths.distinct}}"] * bool(widths.distinct)
    parts += [f"  {'':<{widths.shape}}"] * bool(widths.shape)
    return Content.styled("".join(parts) + "  values", "$dim")


def divider(count: int, width: int) -> Content:
    """Return the line between the columns in the cut and the others."""
    said = f" {count:,} left out of the cut " if count != 1 else " 1 left out of the cut "
    return Content.styled(f"──{said}".ljust(max(0, width), "─")[: max(0, width)], "$dim")


def row_line(row: RackRow, seen: Seen, width: int) -> Content:
    """Return one row."""
    widths = Widths.for_room(width)
    base = "" if row.in_cut else "$dim"
    mark = ("▸" if seen.under_cursor else " ") + ("»" if seen.lit else " ") + ("‖" if seen.held else " ")
    name = fit(clean(row.column.name), widths.name)
    name_style = "bold $accent" if seen.lit else "bold" if row.in_cut else "$dim"
    new, new_style = _new_name(row, seen, widths.new_name)
    parts: list[tuple[str, str]] = [
        (mark, "bold $accent"), (f"{'#' + str(row.number):>5} ", "$dim"), (name, name_style), (" ", ""),
        (new, new_style), (f" {row.column.kind.value:<9}", base), (_missing(seen.summary), "$none"),
    ]  # fmt: skip
    used = len(mark) + 6 + widths.name + 1 + widths.new_name + 10 + 9
    if widths.distinct:
        parts.append((f" {_distinct(seen.summary):>{widths.distinct}}", base))
        used += widths.distinct + 1
    if widths.shape:
        parts += [("  ", ""), (fit(_shape(seen.summary), widths.shape), "$plank")]
        used += widths.shape + 2
    room = max(0, width - used - 2)
    parts += [("  ", ""), (fit(_values(seen.values), room), base)]
    line = Content.assemble(*parts)
    return line.stylize("on $band") if seen.under_cursor else line


def _new_name(row: RackRow, seen: Seen, width: int) -> tuple[str, str]:
    if seen.would:
        return fit(f"→ {clean(seen.would)}", width), "$would"
    if row.new_name:
        return fit(clean(row.new_name), width), "bold"
    if row.off is not None:
        return fit("switched off", width), "$dim strike"
    made = "made" if isinstance(row.column.value, Made) else ""
    return fit(f"by {clean(row.by)}" if row.by else made, width), "$dim"


def _missing(summary: Summary | None) -> str:
    if summary is None:
        return f"{'…':>9}"
    if not summary.missing:
        return f"{'none':>9}"
    share = 100 * summary.missing / max(1, summary.rows)
    # what rounds to nothing or to all is neither
    said = "<0.1%" if share < 0.05 else ">99.9%" if share >= 99.95 and summary.present else f"{share:.1f}%"
    return f"{said:>9}"


def _distinct(summary: Summary | None) -> str:
    if summary is None:
        return "…"
    return f"{'≈' if summary.estimated else ''}{summary.distinct:,}"


def _shape(summary: Summary | None) -> str:
    if summary is None:
        return ""
    counts = summary.bins or tuple(count for _, count in summary.commonest)
    if summary.kind.value == "text" and summary.commonest and summary.commonest[0][1] == 1:
        return ""  # every value stands once
    return heights(merged(counts, _SHAPE_CELLS)) if counts else ""


def _values(values: Sequence[str | None] | None) -> str:
    if values is None:
        return "…"
    return " · ".join(MISSING if value is None else glance(value) for value in values)

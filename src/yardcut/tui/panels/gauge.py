"""The gauge: the strip under the grid that tells about the column under the cursor."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.cells import cell_len
from textual.content import Content
from textual.widgets import Static

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.number_marks import marks, shown_value
from yardcut.tui.text import fit, glance, plural
from yardcut.tui.widgets.bar_cells import heights, merged
from yardcut.tui.widgets.distribution import about, heap_said, histogram, scale_line

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary

_SHAPE_CELLS = 48
_BESIDE_CELLS, _ROOM_BESIDE, _LONG_CELLS = 76, 140, 24


@dataclass(frozen=True, slots=True)
class GaugeState:
    """A column's name, kind and number; its summary once it is known; the value under the cursor in full.

    ``waiting`` is said in place of figures that are not there, ``reason`` why the row under the cursor is gone.
    """

    name: str = ""
    about: str = ""
    as_of: str = ""
    now: Summary | None = None
    before: Summary | None = None
    value: str | None = None
    waiting: str = "counting …"
    reason: str = ""


class Gauge(Static):
    """Five lines about one column, over the rows as of the selected line."""

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._state = GaugeState()

    def show(self, state: GaugeState) -> None:
        """Tell about another column."""
        if state != self._state:
            self._state = state
            self.update(self._content())

    def on_resize(self) -> None:
        """Fit the lines to the width."""
        self.update(self._content())

    def _content(self) -> Content:
        """Write the lines; where there is room, the distribution stands beside them, with its scale."""
        state, width = self._state, max(20, self.size.width - 2)
        if not state.name:
            return Content("")
        head = Content.assemble((glance(state.name), "bold"), (f"  {state.about}", "$dim"))
        now = state.now
        if now is None:
            return head + Content.styled(f"   {state.waiting}", "$would")
        head += Content.styled(f"  {state.as_of}", "$dim")
        is_beside = bool(now.bins) and width >= _ROOM_BESIDE
        room = width - _BESIDE_CELLS if is_beside else width
        lines = [head, Content.assemble(*_counts(now)), Content.styled(fit(_figures(now), room), "")]
        compared = "" if state.before is None else _compared(now, state.before)
        if now.kind.value in ("text", "boolean"):
            lines.append(Content.styled(fit(_commonest(now), room), "$dim"))
        elif is_beside:
            lines.append(Content.styled(fit(compared, room), "$dim"))
        else:
            shape = heights(merged(now.bins, _SHAPE_CELLS)) if now.bins else ""
            lines.append(Content.assemble((shape, "$plank"), (f"   {compared}" if compared else "", "$dim")))
        lines.append(self._last_line(now, room))
        return Content("\n").join(_beside(lines, now, room) if is_beside else lines)

    def _last_line(self, now: Summary, room: int) -> Content:
        state = self._state
        if state.reason:
            return Content.assemble(("why  ", "$dim"), (fit(glance(state.reason), room - 5), "$saw"))
        if quarters := _quarters(now):
            return Content(fit(quarters, room))
        if state.value is not None and cell_len(glance(state.value)) > _LONG_CELLS:
            return Content.assemble(("in full  ", "$dim"), fit(glance(state.value), room - 9))
        return Content("")


def _beside(lines: list[Content], now: Summary, room: int) -> list[Content]:
    """Put the distribution right of the lines."""
    cells = max(1, _SHAPE_CELLS // len(now.bins))
    drawn = [*histogram(now.bins, len(lines) - 1, cells=cells), scale_line(now, len(now.bins) * cells)]
    return [
        line.truncate(room, ellipsis=True, pad=True) + "  " + right for line, right in zip(lines, drawn, strict=True)
    ]


def _counts(now: Summary) -> list[tuple[str, str]]:
    parts = [(plural(now.present, "value"), "")]
    share = f" ({now.missing / now.rows:.1%})" if now.rows else ""
    parts.append((f" · {now.missing:,} missing{share}", "$none" if now.missing else "$dim"))
    parts.append((f" · {about(now)}{now.distinct:,} distinct", ""))
    if now.set_aside:
        texts = ", ".join(f"{glance(text)} ×{count}" for text, count in now.set_aside_texts[:4])
        parts.append((f" · {now.set_aside:,} set aside in the source: {texts}", "$warning"))
    return parts


def _figures(now: Summary) -> str:
    if now.kind.value == "text":  # least and most would read as how often
        named = [("first in order", now.least), ("last", now.most)]
    else:
        named = [("least", now.least), ("average", now.average), ("most", now.most)]
    said = [f"{name} {shown_value(now.kind, value)}" for name, value in named if value is not None]
    if now.kind.value != "text" and now.total is not None:
        said.append(f"sum {marks().grouped(now.total)}")
    return " · ".join(said)


def _quarters(now: Summary) -> str:
    named = [("quarter", now.lower_quartile), ("middle", now.median), ("three quarters", now.upper_quartile)]
    said = [f"{name} {about(now)}{shown_value(now.kind, value)}" for name, value in named if value is not None]
    return " · ".join([*said, heap_said(now)] if said and now.heap else said)


def _commonest(now: Summary) -> str:
    if now.commonest and now.commonest[0][1] == 1 and now.kind.value == "text":
        return "every value stands once"
    return " · ".join(f"{glance(text) or 'empty text'} {count:,}" for text, count in now.commonest)


def _compared(now: Summary, before: Summary) -> str:
    if before.average is not None and now.average is not None:
        return f"the line above has an average of {marks().shown(before.average)} over {before.present:,}"
    return f"the line above has {plural(before.present, 'value')}, {about(before)}{before.distinct:,} distinct"

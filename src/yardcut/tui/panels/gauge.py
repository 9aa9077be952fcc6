"""The gauge: the strip under the grid that tells about the column under the cursor."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from rich.cells import cell_len
from textual.content import Content
from textual.widgets import Static

from yardcut.tui.number_marks import marks
from yardcut.tui.text import fit, glance, plural
from yardcut.tui.widgets.bar_cells import heights, merged

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary

_SHAPE_CELLS = 48


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
        state, width = self._state, max(20, self.size.width - 2)
        parts: list[str | tuple[str, str]] = []
        if not state.name:
            return Content("")
        parts += [(glance(state.name), "bold"), (f"  {state.about}", "$dim")]
        if state.now is None:
            parts.append((f"   {state.waiting}", "$would"))
            return Content.assemble(*parts)
        now = state.now
        parts.append((f"  {state.as_of}", "$dim"))
        parts.append("\n")
        parts += _counts(now)
        parts.append("\n")
        parts.append((fit(_figures(now), width), ""))
        parts.append("\n")
        shape = heights(merged(now.bins, _SHAPE_CELLS)) if now.bins else ""
        if now.kind.value == "text" or now.kind.value == "boolean":
            parts.append((fit(_commonest(now), width), "$dim"))
        else:
            parts.append((shape, "$plank"))
            if state.before is not None:
                parts.append((f"   {_compared(now, state.before)}", "$dim"))
        parts.append("\n")
        quarters = _quarters(now)
        if state.reason:
            parts += [("why  ", "$dim"), (fit(glance(state.reason), width - 5), "$saw")]
        elif quarters:
            parts.append((fit(quarters, width), ""))
        elif state.value is not None and cell_len(glance(state.value)) > 24:
            parts += [("in full  ", "$dim"), (fit(glance(state.value), width - 9), "")]
        return Content.assemble(*parts)


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
    said = [f"{name} {_number(now, value)}" for name, value in named if value is not None]
    if now.kind.value != "text" and now.total is not None:
        said.append(f"sum {marks().grouped(now.total)}")
    return " · ".join(said)


def _number(now: Summary, value: str) -> str:
    return marks().shown(value) if now.kind.is_numeric else glance(value)


def _quarters(now: Summary) -> str:
    named = [("quarter", now.lower_quartile), ("middle", now.median), ("three quarters", now.upper_quartile)]
    return " · ".join(f"{name} {about(now)}{_number(now, value)}" for name, value in named if value is not None)


def about(summary: Summary) -> str:
    """Return what stands before an estimate."""
    return "about " if summary.estimated else ""


def _commonest(now: Summary) -> str:
    if now.commonest and now.commonest[0][1] == 1 and now.kind.value == "text":
        return "every value stands once"
    return " · ".join(f"{glance(text) or 'empty text'} {count:,}" for text, count in now.commonest)


def _compared(now: Summary, before: Summary) -> str:
    if before.average is not None and now.average is not None:
        return f"the line above has an average of {marks().shown(before.average)} over {before.present:,}"
    return f"the line above has {plural(before.present, 'value')}, {about(before)}{before.distinct:,} distinct"

"""The profile of every column on one page, filled in as it becomes known."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit, number_in
from yardcut.tui.widgets.bar_cells import heights, merged
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary
    from yardcut.tui.desk.column_looks import Looks
    from yardcut.tui.desk.figured_rows import Rows

_PAGE_LINES = 60
_NAME_CELLS, _COUNT_CELLS, _VALUE_CELLS, _SHAPE_CELLS = 18, 9, 10, 12


class ProfileCard(Card[int | None]):
    """Returns the place of the column chosen, to go there."""

    FOCUS = Focus.PROFILE

    def __init__(self, rows: Rows, label: str, looks: Looks) -> None:
        super().__init__()
        self._rows = rows
        self._label = label
        self._looks = looks
        self._shown = rows.frame.columns
        self._summaries: dict[int, Summary] = {}
        self._top = self._first_unknown = 0

    def compose(self) -> ComposeResult:
        """Lay out the page."""
        with Vertical(classes="card", id="profile-card") as card:
            card.border_title = f"all columns, {self._label}"
            yield Static(Content.styled(_HEAD, "$dim"), id="profile-head")
            yield OptionList(*(self._line(place) for place in range(len(self._shown))))
        yield self.footer()

    def on_mount(self) -> None:
        """Work the columns out behind the page, those that are on it first."""
        options = self.query_one(OptionList)
        self.set_focus(options)
        self.watch(options, "scroll_y", self._scrolled)

        def work(token: CancelToken, progress: Progress) -> None:
            known: set[int] = set()
            while (place := self._next(known)) is not None:
                token.check()
                known.add(place)
                found = (place, self._looks.summary(self._rows, self._shown[place], token, progress))
                self.jobs.tell(token, self._summarised, found)

        self.jobs.start(Job.PROFILE, work)

    def _scrolled(self, top: float) -> None:
        self._top = int(top)

    def _next(self, known: set[int]) -> int | None:
        """Return the column to be worked out next: one that is on the page now, else the first that is not known."""
        top = self._top
        on_page = range(top, min(top + _PAGE_LINES, len(self._shown)))
        place = next((place for place in on_page if place not in known), None)
        while place is None and self._first_unknown < len(self._shown):
            if self._first_unknown not in known:
                return self._first_unknown
            self._first_unknown += 1
        return place

    def _summarised(self, found: tuple[int, Summary]) -> None:
        place, summary = found
        self._summaries[place] = summary
        self.query_one(OptionList).replace_option_prompt_at_index(place, self._line(place))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"profile-away": self.put_away, "profile-go": self._go, **choice_calls(self.query_one(OptionList))}

    def _go(self) -> None:
        self.dismiss(self.query_one(OptionList).highlighted)

    def _line(self, place: int) -> Content:
        column = self._shown[place]
        name = fit(clean(column.name), _NAME_CELLS)
        summary = self._summaries.get(place)
        if summary is None:
            return Content.assemble((name, "bold"), (f" {column.kind.value:<10}…", "$dim"))
        counts = (summary.present, summary.missing, summary.distinct)
        values: tuple[str | None, ...] = (
            summary.least, summary.lower_quartile, summary.median, summary.upper_quartile, summary.most, summary.average
        )  # fmt: skip
        written = [f"{count:,}" for count in counts]
        if summary.estimated:
            written[-1] = "≈" + written[-1]
        cells = [f"{summary.kind.value:<10}", *(f"{count:>{_COUNT_CELLS}}" for count in written)]
        if summary.kind.value in ("text", "boolean"):
            tail = ", ".join(f"{clean(text) or 'empty'} {times:,}" for text, times in summary.commonest[:4])
            if summary.commonest and summary.commonest[0][1] == 1 and summary.kind.value == "text":
                tail = "every value stands once"
            cells.append(fit(tail, len(values) * (_VALUE_CELLS + 1) - 1))
        else:
            if summary.kind.value in ("timestamp", "instant"):  # the day is what there is room for
                values = tuple(text and text[:_VALUE_CELLS] for text in values)
            cells += [fit(number_in(clean(text or ""), _VALUE_CELLS), _VALUE_CELLS, right=True) for text in values]
        shape = heights(merged(summary.bins, _SHAPE_CELLS)) if summary.bins else ""
        return Content.assemble((name, "bold"), " ", (" ".join(cells), ""), "  ", (shape, "$plank"))

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Go to the column chosen."""
        self.dismiss(event.option_index)


_HEAD = " ".join(
    [
        f"{'column':<{_NAME_CELLS}}",
        f"{'kind':<10}",
        *(f"{word:>{_COUNT_CELLS}}" for word in ("values", "missing", "distinct")),
        *(f"{word:>{_VALUE_CELLS}}" for word in ("least", "quarter", "middle", "3 quarters", "most", "average")),
    ]
)

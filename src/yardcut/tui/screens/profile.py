"""The profile of every column on one page, filled in as it becomes known."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.content import Content
from textual.screen import ModalScreen
from textual.widgets import OptionList, Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.text import clean, fit
from yardcut.tui.widgets.bars import heights, merged
from yardcut.tui.workers import Workers

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary
    from yardcut.tui.bench import Bench

_NAME_CELLS, _COUNT_CELLS, _VALUE_CELLS, _SHAPE_CELLS = 18, 9, 10, 12


class ProfileScreen(ModalScreen[int | None]):
    """Returns the place of the column chosen, to go there."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape,ctrl+g,q,p", "put_away", "put away", show=False)]

    def __init__(self, bench: Bench, selected: int) -> None:
        super().__init__()
        self._bench = bench
        self._selected = selected
        self._shown = bench.scope_at(selected).shown
        self._summaries: dict[int, Summary] = {}

    def compose(self) -> ComposeResult:
        """Lay out the page."""
        with Vertical(classes="card", id="profile-card") as card:
            as_of = "the source" if self._selected < 0 else f"as of line {self._selected + 1}"
            card.border_title = f"all columns, {as_of}"
            yield Static(Content.styled(_HEAD, "$dim"), id="profile-head")
            yield OptionList(*(self._line(place) for place in range(len(self._shown))))
            yield Static(Content("↑ ↓   Enter go to the column   Esc put away"), classes="keys")

    def on_mount(self) -> None:
        """Work the columns out one after the other, behind the page."""
        self.query_one(OptionList).focus()
        self._tasks = Workers(self.app)
        self._next(0)

    def on_unmount(self) -> None:
        """Stop what is still under way."""
        self._tasks.stop_all()

    def _next(self, place: int) -> None:
        if place == len(self._shown):
            return
        number = self._shown[place].number - 1

        def work(token: CancelToken, progress: Progress) -> Summary:
            return self._bench.summary_alone(number, self._selected, token)

        def done(summary: Summary) -> None:
            self._summaries[place] = summary
            self.query_one(OptionList).replace_option_prompt_at_index(place, self._line(place))
            self._next(place + 1)

        self._tasks.start("profile", work, done)

    def _line(self, place: int) -> Content:
        column = self._shown[place]
        name = fit(clean(column.name), _NAME_CELLS)
        summary = self._summaries.get(place)
        if summary is None:
            return Content.assemble((name, "bold"), (f" {column.kind.value:<10}…", "$dim"))
        counts = (summary.present, summary.missing, summary.distinct)
        values = (
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
            cells += [fit(clean(text or ""), _VALUE_CELLS, right=True) for text in values]
        shape = heights(merged(summary.bins, _SHAPE_CELLS)) if summary.bins else ""
        return Content.assemble((name, "bold"), " ", (" ".join(cells), ""), "  ", (shape, "$plank"))

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Go to the column chosen."""
        self.dismiss(event.option_index)

    def action_put_away(self) -> None:
        """Close the page."""
        self.dismiss(None)


_HEAD = " ".join(
    [
        f"{'column':<{_NAME_CELLS}}",
        f"{'kind':<10}",
        *(f"{word:>{_COUNT_CELLS}}" for word in ("values", "missing", "distinct")),
        *(f"{word:>{_VALUE_CELLS}}" for word in ("least", "quarter", "middle", "3 quarters", "most", "average")),
    ]
)

"""The column card: what is known of a column, and all that can be done with it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.desk.offering.cell_lines import line_about
from yardcut.tui.desk.offering.column_deeds import ColumnChoice
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.names import key_text
from yardcut.tui.text import clean, fit, glance, plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.core.profile.summary import Summary
    from yardcut.tui.desk.column_looks import Looks
    from yardcut.tui.desk.figured_rows import Rows

_SAYS_CELLS = 38
_COMMONEST = 6


class ColumnCard(Card[Deed | None]):
    """Returns what is to be done."""

    FOCUS = Focus.COLUMN

    def __init__(
        self, rows: Rows, column: ShownColumn, label: str, looks: Looks, deeds: Sequence[ColumnChoice], *,
        can_cut: bool,
    ) -> None:  # fmt: skip
        super().__init__()
        self._rows, self._column, self._label, self._looks = rows, column, label, looks
        self._deeds, self._can_cut = list(deeds), can_cut

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="column-card") as card:
            card.border_title = f"{clean(self._column.name)}, {self._column.kind} {self._column.number}, {self._label}"
            yield Static("…", id="column-figures")
            yield OptionList(*(self._line(deed, "…" if deed.finds else "") for deed in self._deeds))
        yield self.footer()

    def on_mount(self) -> None:
        """Work the figures out behind the card."""
        self.set_focus(self.query_one(OptionList))

        def work(token: CancelToken, progress: Progress) -> None:
            found = self._looks.summary(self._rows, self._column, token, progress)
            self.jobs.tell(token, self._summarised, found)
            for place, deed in enumerate(self._deeds):
                if deed.finds is not None:
                    token.check()
                    self.jobs.tell(token, self._found, (place, deed.finds()))

        self.jobs.start(Job.PROFILE, work)

    def _summarised(self, summary: Summary) -> None:
        figures = [f"{summary.present:,} values", f"{summary.missing:,} missing"]
        figures.append(f"{'≈' if summary.estimated else ''}{summary.distinct:,} distinct")
        lines = [" · ".join(figures)]
        if summary.least is not None and summary.median is not None:
            lines.append(
                f"least {glance(summary.least)}   middle {glance(summary.median)}   most {glance(summary.most or '')}"
            )
        common = [f"{glance(text) or 'empty'} {count:,}" for text, count in summary.commonest[:_COMMONEST]]
        if common and summary.commonest[0][1] > 1:
            lines.append("commonest  " + " · ".join(common))
        self.query_one("#column-figures", Static).update(Content("\n".join(lines)))

        self._offer_values(summary)

    def _offer_values(self, summary: Summary) -> None:
        """Offer to keep or drop the rows with one of the commonest values, with how many these are."""
        if not self._can_cut or summary.estimated or (summary.commonest and summary.commonest[0][1] == 1):
            return
        for text, count in summary.commonest[:_COMMONEST]:
            for verb in ("keep", "drop"):
                line = line_about(verb, self._column.name, self._column.kind.value, text)
                deed = ColumnChoice(f"{verb} the {plural(count, 'row')} with {glance(text) or 'an empty text'}", line)
                self._deeds.append(deed)
                self.query_one(OptionList).add_option(self._line(deed))

    def _found(self, found: tuple[int, str]) -> None:
        place, said = found
        self.query_one(OptionList).replace_option_prompt_at_index(place, self._line(self._deeds[place], said))

    def _line(self, deed: ColumnChoice, said: str = "") -> Content:
        shown = said or (clean(" ".join(deed.line.split())) if deed.line else "")
        if deed.key:
            shown = f"{key_text(deed.key)} in the table"
        return Content.assemble((fit(deed.says, _SAYS_CELLS), "bold"), (shown, "$dim"))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"column-away": self.put_away, "column-do": self._do, **choice_calls(self.query_one(OptionList))}

    def _do(self) -> None:
        place = self.query_one(OptionList).highlighted
        self.dismiss(None if place is None else self._deeds[place].deed)

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Do what was clicked."""
        self.dismiss(self._deeds[event.option_index].deed)

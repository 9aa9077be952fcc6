"""The rows a line removed, by reason."""

from __future__ import annotations

from collections.abc import Sequence

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList

from yardcut.core.run.explaining.reason_groups import ReasonGroup
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import fit, glance
from yardcut.tui.widgets.bar_cells import SAW

_SAYS_CELLS, _COUNT_CELLS, _BAR_CELLS = 66, 13, 18


class ReasonsCard(Card[ReasonGroup | None]):
    """Returns the group whose rows are to be seen."""

    FOCUS = Focus.REASONS

    def __init__(self, title: str, groups: Sequence[ReasonGroup]) -> None:
        super().__init__()
        self._title, self._groups = title, groups
        self._list = OptionList(*map(self._line, groups))

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="reasons-card") as card:
            card.border_title = self._title
            yield self._list
        yield self.footer()

    def on_mount(self) -> None:
        """Mark the largest group."""
        self._list.highlighted = 0
        self.set_focus(self._list)

    def _line(self, group: ReasonGroup) -> Content:
        largest = max(each.rows.count for each in self._groups)
        bar = SAW * max(1, round(group.rows.count / largest * _BAR_CELLS))
        return Content.assemble(
            (fit(glance(group.says), _SAYS_CELLS), "bold"),
            (f"{group.rows.count:>{_COUNT_CELLS},} ", "$count"),
            (bar, "$saw"),
        )

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"reasons-away": self.put_away, "reasons-see": self._see, **choice_calls(self._list)}

    def _see(self) -> None:
        self.dismiss(self._groups[self._list.highlighted or 0])

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """See the rows of the group that was clicked."""
        self.dismiss(self._groups[event.option_index])

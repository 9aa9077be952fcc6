"""Why so few rows are left: what each part of the line takes, and what would let more through."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.loosening import Loosening, loosenings
from yardcut.core.run.tree_counts import Branch, branches
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.desk.deeds import TAKE_OUT, Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.panels.list_entries import GROUPS
from yardcut.tui.text import clean, fit, glance, plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.results import LineResult
    from yardcut.tui.desk.moment import Moment

_SAYS_CELLS, _COUNT_CELLS = 86, 14
_MOST_PARTS = 8


class WhyCard(Card[Deed | None]):
    """Returns the line as the choice has it."""

    FOCUS = Focus.WHY

    def __init__(self, moment: Moment, result: LineResult, index: int) -> None:
        super().__init__()
        self._moment, self._result, self._index = moment, result, index
        self._ways: list[Loosening] = []
        self._parts, self._said, self._list = Static("…", id="why-parts"), Static("", id="why-said"), OptionList()

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        result = self._result
        with Vertical(classes="card", id="why-card") as card:
            card.border_title = f"line {self._index + 1} leaves {result.rows.count:,} of {result.before.rows.count:,}"
            yield self._parts
            yield self._said
            yield self._list
            yield Static(Content("↑ ↓   Enter change the line so   Esc put away"), classes="keys")

    def on_mount(self) -> None:
        """Work it out behind the card; each way is told as it is found."""
        self._list.focus()
        self._say("looking for what would let more rows through …")

        def work(token: CancelToken, progress: Progress) -> None:
            self.jobs.tell(token, self._told, branches(self._result, self._moment.executor, token))
            for way in loosenings(self._result, self._moment.executor, token):
                self.jobs.tell(token, self._found, way)

        self.jobs.start(Job.PROFILE, work, lambda _: self._done(), lambda error: self._say(str(error)))

    def _told(self, found: list[Branch]) -> None:
        parts = [branch for branch in found if branch.text not in GROUPS and not branch.is_off]
        lines = []
        for branch in parts[:_MOST_PARTS]:
            passes = "…" if branch.passes is None else plural(branch.passes, "row")
            unknown = f", no answer for {branch.unknown:,}" if branch.unknown else ""
            lines.append(f"{fit(glance(branch.text), 60).rstrip()}: alone true of {passes}{unknown}")
        if len(parts) > _MOST_PARTS:
            lines.append(f"… and {len(parts) - _MOST_PARTS} more")
        self._parts.update(Content("\n".join(lines)))

    def _found(self, way: Loosening) -> None:
        self._ways.append(way)
        shown = Content.assemble(
            (fit(clean(way.says), _SAYS_CELLS), "bold"), (f"leaves {way.leaves:,}".rjust(_COUNT_CELLS), "$count")
        )
        self._list.add_option(shown)
        if len(self._ways) == 1:
            self._list.highlighted = 0

    def _done(self) -> None:
        taken = "nothing this line could say would leave more rows" if not self._ways else ""
        self._say(taken or "what would let more rows through:")

    def _say(self, text: str) -> None:
        self._said.update(Content.styled(clean(text), "$dim"))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"why-away": self.put_away, "why-do": self._do, **choice_calls(self._list)}

    def _do(self) -> None:
        place = self._list.highlighted
        if place is not None and place < len(self._ways):
            way = self._ways[place]
            self.dismiss(Deed(way.text, self._index) if way.text else Deed(own=TAKE_OUT))

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Do what was clicked."""
        self._do()

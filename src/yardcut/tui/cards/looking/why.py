"""What would let more rows through a line, or a certain one: other forms of it, each with the rows it leaves."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.explaining.loosening import Loosening
from yardcut.core.run.explaining.tree_counts import Branch
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.desk.offering.deeds import TAKE_OUT, Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.panels.list_entries import GROUPS
from yardcut.tui.text import clean, fit, glance, plural, wrap
from yardcut.tui.workers import Job

_SAYS_CELLS, _COUNT_CELLS = 86, 14
_MOST_PARTS, _MOST_LINES = 8, 3


Find = Callable[[CancelToken], Iterator[Loosening]]


class WhyCard(Card[Deed | None]):
    """Returns the line as the choice has it.

    ``find`` yields other forms of the line as they are found, ``parts`` gives the tree of its condition.
    """

    FOCUS = Focus.WHY

    def __init__(self, title: str, index: int, find: Find, parts: Callable[[CancelToken], list[Branch]] | None) -> None:
        super().__init__()
        self._title, self._index, self._find, self._find_parts = title, index, find, parts
        self._ways: list[Loosening] = []
        self._parts, self._said, self._list = (
            Static("…" if parts else "", id="why-parts"),
            Static("", id="why-said"),
            OptionList(),
        )

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="why-card") as card:
            card.border_title = self._title
            yield self._parts
            yield self._said
            yield self._list
        yield self.footer()

    def on_mount(self) -> None:
        """Work it out behind the card; each way is told as it is found."""
        self.set_focus(self._list)
        self._say("looking …")

        def work(token: CancelToken, progress: Progress) -> None:
            if self._find_parts is not None:
                self.jobs.tell(token, self._told, self._find_parts(token))
            for way in self._find(token):
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
        cells = self.text_cells(_SAYS_CELLS, _COUNT_CELLS)
        first, *more = wrap(clean(way.says), cells)
        shown = Content.assemble(
            (fit(first, cells), "bold"), (f"leaves {way.leaves:,}".rjust(_COUNT_CELLS), "$count"),
            *((f"\n{line}", "bold") for line in more[:_MOST_LINES]),
        )  # fmt: skip
        self._list.add_option(shown)
        if len(self._ways) == 1:
            self._list.highlighted = 0

    def _done(self) -> None:
        taken = "nothing is found to offer" if not self._ways else ""
        self._say(taken or "the line could say:")

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

"""What cards of a line's parts share: the line they follow, the list of its parts, the field in which one is written.

What a part is, and what its keys do, is each card's own.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widget import Widget
from textual.widgets import OptionList, Static

from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.cards.lines.followed_line import FollowedLine
from yardcut.tui.cards.lines.part_edits import PartEdits
from yardcut.tui.cards.lines.part_field import PartField
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.text import clean
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.tui.cards.card import Card
    from yardcut.tui.desk.moment import Moment

Place = TypeVar("Place")
"""Where in a line a part stands."""


class PartsPage(Generic[Place]):
    """The page of a card that lists the parts of one line; ``writing`` is where one of them is being written."""

    def __init__(self, card: Card[Any], name: str, edits: PartEdits, *bodies: type) -> None:
        self._card, self._edits, self._name = card, edits, name
        self.followed = FollowedLine(*bodies)
        self.widget = Vertical(classes="card", id=f"{name}-card")
        self.list, self._said = OptionList(), Static("", id=f"{name}-said")
        self.field = PartField(card, self.list, f"{name}-field")
        self.writing: Place | None = None

    def compose(self, *above: Widget) -> ComposeResult:
        """Lay out the card, its own widgets above the list."""
        with self.widget:
            yield from above
            yield self.list
            yield self.field.input
            yield self._said
        yield self._card.footer()

    def follow(self, moment: Moment) -> bool:
        """Take the line as it is now, and put the card away where it is gone; tells whether it is there."""
        there = self.followed.follow(moment)
        if not there and self._card.is_mounted:
            self._card.put_away()
        return there

    @property
    def is_free(self) -> bool:
        """True when the line reads as before: the cursor stays where it was moved to, whatever comes."""
        return not self.followed.is_rewritten

    def list_parts(self, title: str, lines: Sequence[Content], marked: int) -> None:
        """Show the parts, one of them marked."""
        self.widget.border_title = f"line {self.followed.index + 1}: {title}"
        self.list.clear_options()
        self.list.add_options(lines)
        if lines:
            self.list.highlighted = max(0, min(marked, len(lines) - 1))

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below the parts."""
        self._said.update(Content.styled(clean(text), style))

    def calls(self) -> Calls:
        """What carries out the actions that every such card has."""
        return {
            f"{self._name}-away": self._away,
            f"{self._name}-undo": lambda: self.say(self._edits.step(False)),
            f"{self._name}-redo": lambda: self.say(self._edits.step(True)),
            **choice_calls(self.list),
        }

    def write(self, place: Place, text: str, said: str) -> None:
        """Have a part written at a place, beginning with a text."""
        self.writing = place
        self.field.begin(text)
        self.say(said, "$dim")

    def stop_writing(self) -> None:
        """Take the field away, and what is being tried of it."""
        self._card.jobs.stop(Job.TRY)
        self.writing = None
        self.field.end()

    def _away(self) -> None:
        if self.writing is None:
            self._card.put_away()
        else:
            self.stop_writing()
            self.say("")

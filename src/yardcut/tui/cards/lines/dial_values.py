"""The values a dial can be given, each with the rows its line would leave: one is taken, or several are ticked."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Input, OptionList, Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls, place_again
from yardcut.tui.cards.lines.part_field import PartField
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit, glance, plural
from yardcut.tui.widgets.bar_cells import SOLID
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.looking.values_for_dials import Offered

_VALUE_CELLS, _BAR_CELLS, _MOST_SHOWN = 40, 30, 2_000


class DialValuesCard(Card[tuple[str, ...] | None]):
    """Returns the values chosen; none empties the dial."""

    FOCUS = Focus.DIAL_VALUES

    def __init__(self, name: str, held: tuple[str, ...], count: Callable[[CancelToken, Progress], Offered]) -> None:
        super().__init__()
        self._dial_name, self._count = name, count
        self._ticked = dict.fromkeys(held)
        self._is_changed = False
        self._offered: Offered | None = None
        self._found: list[tuple[str, int]] = []
        self._listed_part = ""
        self._list = OptionList()
        self._field = PartField(self, self._list, "dial-find")
        self._said = Static("counting …", id="dial-values-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="dial-values-card") as card:
            card.border_title = f":{clean(self._dial_name)}"
            yield self._field.input
            yield self._list
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Count the values, behind the card."""
        self.set_focus(self._list)
        self.jobs.start(Job.PROFILE, self._count, self._counted, lambda error: self.say(str(error), "$warning"))

    def _counted(self, offered: Offered) -> None:
        self._offered = offered
        self._draw()

    def _draw(self) -> None:
        if self._offered is None:
            return
        stays, before = self._field.text == self._listed_part, [text for text, _ in self._found]
        self._listed_part = self._field.text
        wanted = self._listed_part.casefold()
        values = self._offered.values
        listed = dict(values.values)
        gone = [(text, 0) for text in self._ticked if text not in listed]
        self._found = [pair for pair in (*gone, *values.values) if wanted in pair[0].casefold()][:_MOST_SHOWN]
        largest = max((count for _, count in self._found), default=1) or 1
        place = self._list.highlighted or 0
        self._list.clear_options()
        self._list.add_options([self._line(text, count, largest) for text, count in self._found])
        if self._found:
            self._list.highlighted = place_again(before, place, [text for text, _ in self._found]) if stays else 0
        more = "" if values.is_whole else ", the commonest of them"
        ticked = f"{len(self._ticked)} ticked" if self._ticked else "nothing ticked: no restriction"
        rows = plural(values.rows, "row")
        self.say(
            f"{values.distinct:,} values of {self._offered.column}{more}; {self._whose(rows)}   {ticked}",
            "$dim",
        )

    def _whose(self, rows: str) -> str:
        """Say of which rows the values are."""
        assert self._offered is not None
        if self._offered.line is None:
            return f"no line uses it yet: of the {rows} the cut leaves"
        return f"line {self._offered.line + 1} leaves {rows} without the dial"

    def _line(self, text: str, count: int, largest: int) -> Content:
        bar = SOLID * max(1 if count else 0, round(_BAR_CELLS * count / largest))
        tick = "● " if text in self._ticked else "○ "
        return Content.assemble(
            (tick, "$accent"), fit(glance(text), _VALUE_CELLS), (f"{count:>13,} ", "$count"), (bar, "$plank")
        )

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below."""
        self._said.update(Content.styled(clean(text), style))

    def on_input_changed(self, event: Input.Changed) -> None:
        """Find values by a part of them."""
        self._typed()

    def _typed(self) -> None:
        """List what is typed: once, though the next key may come before the field's own news."""
        if self._field.text != self._listed_part:
            self._draw()

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Take the value that was clicked."""
        self._take()

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        self._typed()  # whatever the key does is about what is typed now
        return {
            "dial-values-away": self._away,
            "dial-values-tick": self._tick,
            "dial-values-only": self._take,
            "dial-values-find": lambda: self._field.begin(self._field.text),
            "dial-values-none": self._none,
            **choice_calls(self._list),
        }

    @property
    def _marked(self) -> str | None:
        place = self._list.highlighted
        return self._found[place][0] if place is not None and place < len(self._found) else None

    def _away(self) -> None:
        if self._field.input.display:
            self._field.input.value = ""
            self._field.end()
            self._draw()
        else:
            self.put_away()

    def _tick(self) -> None:
        value = self._marked
        if value is None:
            return
        self._is_changed = True
        if value in self._ticked:
            del self._ticked[value]
        else:
            self._ticked[value] = None
        self._draw()

    def _none(self) -> None:
        self._ticked, self._is_changed = {}, True
        self._draw()

    def _take(self) -> None:
        if self._field.input.display and self.focused is self._field.input:
            self.set_focus(self._list)
        elif self._is_changed or self._marked is None:
            self.dismiss(tuple(self._ticked))
        else:
            self.dismiss((self._marked,))

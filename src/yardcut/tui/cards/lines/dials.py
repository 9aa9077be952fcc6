"""The dials of the list: turned here, while the counts of the lines follow beside."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean, fit, glance, plural

if TYPE_CHECKING:
    from yardcut.core.language.meaning.dials_put_in import DialSetting
    from yardcut.tui.desk.moment import Moment

_NAME_CELLS, _HELD_CELLS, _MOST_LINES = 16, 40, 8


@dataclass(frozen=True, slots=True)
class DialEdits:
    """What the card may ask of the list, ``make`` a dial of the selected line's number; each returns what to say."""

    turn: Callable[[DialSetting, int], str]
    empty: Callable[[DialSetting], str]
    delete: Callable[[DialSetting], str]
    step: Callable[[bool], str]
    make: Callable[[], str]


class DialsCard(Card[Deed | None]):
    """Shows the dials as they are at every moment, and the lines that use the marked one with what they leave."""

    FOCUS = Focus.DIALS

    def __init__(self, edits: DialEdits) -> None:
        super().__init__()
        self._edits = edits
        self._moment: Moment | None = None
        self._list = OptionList()
        self._lines, self._said = Static("", id="dials-lines"), Static("", id="dials-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="dials-card") as card:
            card.border_title = "dials"
            yield self._list
            yield self._lines
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Show the dials."""
        self.set_focus(self._list)
        self._draw()

    def show(self, moment: Moment) -> None:
        """Show the dials as they are now; the counts of lines come as soon as they are known."""
        self._say_so_far()
        self._moment = moment
        if self.is_mounted:
            self._draw()

    @property
    def _dials(self) -> tuple[DialSetting, ...]:
        return self._moment.cut_list.dials if self._moment is not None else ()

    @property
    def marked(self) -> DialSetting | None:
        """The dial that is marked."""
        place = self._list.highlighted
        return self._dials[place] if place is not None and place < len(self._dials) else None

    def _draw(self) -> None:
        place = self._list.highlighted or 0
        self._list.clear_options()
        self._list.add_options([_line(dial) for dial in self._dials])
        if self._dials:
            self._list.highlighted = min(place, len(self._dials) - 1)
        else:
            self.say(
                f"no dial yet: {key_of('dials-new')} begins one, such as  dial best = 12 from 4 to 40, used as :best"
            )
        self._draw_lines()

    def _draw_lines(self) -> None:
        from yardcut.core.run.looking.values_for_dials import uses_dial

        moment, dial = self._moment, self.marked
        if moment is None or dial is None:
            self._lines.update("")
            return
        parts: list[Content] = []
        for index, line in enumerate(moment.cut.lines):
            if not uses_dial(line, dial.name):
                continue
            result, bound = moment.result_at(index), moment.lines[index]
            left = "…" if result is None else plural(result.rows.count, "row")
            if bound.off:
                left = "off"
            elif bound.error is not None:
                left = clean(bound.error.message)
            parts.append(
                Content.assemble(
                    (f"{index + 1:>3} ", "$dim"),
                    fit(glance(line.text), 60),
                    ("  " + left, "$warning" if bound.error else "$count"),
                )
            )
        said = parts[:_MOST_LINES] or [Content.styled(f"no line uses it yet: write :{clean(dial.name)} in one", "$dim")]
        self._lines.update(Content("\n") + Content("\n").join(said))

    def on_option_list_option_highlighted(self, event: OptionList.OptionHighlighted) -> None:
        """Show the lines that use it."""
        self._draw_lines()

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Choose the values of the dial that was clicked."""
        self._values()

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below."""
        self._said.update(Content.styled(clean(text), style))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "dials-away": self.put_away,
            "dials-more": lambda: self._on_marked(lambda dial: self._edits.turn(dial, 1)),
            "dials-less": lambda: self._on_marked(lambda dial: self._edits.turn(dial, -1)),
            "dials-values": self._values,
            "dials-write": lambda: self._leave_for("write the dial"),
            "dials-make": self._make,
            "dials-new": lambda: self.dismiss(Deed(own="new dial")),
            "dials-empty": lambda: self._on_marked(self._edits.empty),
            "dials-delete": lambda: self._on_marked(self._edits.delete),
            "dials-undo": lambda: self.say(self._edits.step(False)),
            "dials-redo": lambda: self.say(self._edits.step(True)),
            **choice_calls(self._list),
        }

    def _on_marked(self, edit: Callable[[DialSetting], str]) -> None:
        if self.marked is not None:
            self.say(edit(self.marked))

    def _make(self) -> None:
        """Make a dial of the number of the selected line, and mark it."""
        before = len(self._dials)
        said = self._edits.make()
        if len(self._dials) > before:
            self._list.highlighted = len(self._dials) - 1
        self.say(said)

    def _values(self) -> None:
        self._leave_for("values of the dial")

    def _leave_for(self, what: str) -> None:
        if self.marked is not None:
            self.dismiss(Deed(self.marked.name, own=what))


def _line(dial: DialSetting) -> Content:
    held = dial.said()
    about = ""
    if dial.low is not None:
        about = f"from {dial.low} to {dial.high}" + (f" by {dial.step}" if dial.step is not None else "")
    elif dial.offered is not None:
        from yardcut.core.language.syntax.printing import expression_text

        about = f"from the values of {expression_text(dial.offered)}"
    elif dial.is_column:
        about = "a column"
    return Content.assemble(
        (fit(f":{clean(dial.name)}", _NAME_CELLS), "bold"),
        (fit(clean(held), _HELD_CELLS), "$none" if held == "empty" else "$count"), (f"  {clean(about)}", "$dim"),
    )  # fmt: skip

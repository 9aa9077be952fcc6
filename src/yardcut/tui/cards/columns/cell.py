"""The cut card: the likely conditions about a cell, each with the rows it would leave."""

from __future__ import annotations

from dataclasses import field
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.desk.offering.alternatives import filter_selected, line_with
from yardcut.tui.desk.offering.cell_conditions import LikelyCondition, likely_conditions
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.desk.offering.offers import Offer, count_offers
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import MISSING, clean, fit, glance, plural
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.core.run.explaining.behind_figures import Behind
    from yardcut.tui.desk.moment import Moment

_SAYS_CELLS, _TEXT_CELLS, _COUNT_CELLS, _TITLE_CELLS = 35, 42, 13, 60
_LEAST_TEXT_CELLS = 16


@dataclass(slots=True)
class _Choice:
    """One condition on the card, with the counts known of it by the deed they are of."""

    condition: LikelyCondition
    is_strict: bool = False
    behind: Behind | None = None
    left: dict[str, int] = field(default_factory=dict)

    @property
    def text(self) -> str:
        return self.condition.strict if self.is_strict else self.condition.text

    @property
    def says(self) -> str:
        return self.condition.says_strict if self.is_strict else self.condition.says


class CellCard(Card[Deed | None]):
    """Returns the line that was chosen; of a figure that was put together the first shows the rows behind it."""

    FOCUS = Focus.CELL

    def __init__(
        self, moment: Moment, column: ShownColumn, text: str | None, label: str, behind: Behind | None
    ) -> None:
        super().__init__()
        self._moment, self._column, self._label, self._text = moment, column, label, text
        self._choices = [_Choice(each) for each in likely_conditions(column.name, column.kind, text)]
        if behind is not None:
            figure = LikelyCondition("the rows behind this figure", behind.line.removeprefix("keep "))
            self._choices.insert(0, _Choice(figure, behind=behind))
        self._index = moment.cut.place_for(moment.selected, "keep")
        self._is_offcut = moment.view.is_gone
        deeds = [] if self._is_offcut else ["keep", "drop"]
        self._deeds = [*deeds, "or"] if filter_selected(moment) is not None else deeds
        self._standing: int | None = None

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="cell-card") as card:
            value = MISSING if self._text is None else glance(self._text)
            card.border_title = f"{fit(f'{clean(self._column.name)} is {value}', _TITLE_CELLS).rstrip()}, {self._label}"
            yield Static(Content.styled(self._head(), "$dim"), id="cell-head")
            yield OptionList(*map(self._line, self._choices))
            yield Static("", id="cell-said")
        yield self._footer()

    def _head(self) -> str:
        words = {"keep": "keep leaves", "drop": "drop leaves", "or": self._or_words()}
        return " " * sum(self._cells) + "".join(f"{words[deed]:>{_COUNT_CELLS}}" for deed in self._deeds)

    @property
    def _cells(self) -> tuple[int, int]:
        """The cells of what a condition says, and of its text, which gives way first."""
        counts = _COUNT_CELLS * len(self._deeds)
        text = self.text_cells(_TEXT_CELLS, _SAYS_CELLS + counts, 0)
        return (_SAYS_CELLS, text) if text >= _LEAST_TEXT_CELLS else (self.text_cells(_SAYS_CELLS, counts), 0)

    def _or_words(self) -> str:
        return f"or in line {self._moment.selected + 1}"

    def _footer(self) -> Footer:
        without = [f"cell-{deed}" for deed in ("keep", "drop", "or") if deed not in self._deeds]
        if not any(each.condition.strict for each in self._choices):
            without.append("cell-strict")
        return self.footer(without, {"cell-or": f"add to line {self._moment.selected + 1}"})

    def on_mount(self) -> None:
        """Count behind the card."""
        self.query_one(OptionList).highlighted = 0
        self.set_focus(self.query_one(OptionList))
        self._count()

    def _offers(self) -> list[Offer]:
        return [
            Offer((place, choice.is_strict, deed), self._place_of(choice, deed), line)
            for place, choice in enumerate(self._choices)
            for deed in (self._deeds if choice.behind is None else ["keep"])
            if (line := self._line_of(choice.text, deed)) is not None
        ]

    def _place_of(self, choice: _Choice, deed: str) -> int:
        if choice.behind is not None:
            return choice.behind.tally
        return self._moment.selected if deed == "or" else self._index

    def _count(self) -> None:
        def work(token: CancelToken, progress: Progress) -> None:
            tell = lambda key, left: self.jobs.tell(token, self._counted, (key, left))  # noqa: E731
            count_offers(self._moment, self._offers(), tell, token, progress)

        self.jobs.start(Job.PROFILE, work, failed=lambda error: self._say(str(error)))

    def _counted(self, found: tuple[tuple[int, bool, str], int]) -> None:
        (place, is_strict, deed), left = found
        choice = self._choices[place]
        if choice.is_strict is is_strict:
            choice.left[deed] = left
            self.query_one(OptionList).replace_option_prompt_at_index(place, self._line(choice))
            self._say_bound()

    def _line_of(self, condition: str, deed: str) -> str | None:
        return line_with(self._moment, condition) if deed == "or" else f"{deed} {condition}"

    def _line(self, choice: _Choice) -> Content:
        says, text = self._cells
        unknown = "" if choice.behind is not None else "…"
        counts = (f"{choice.left[deed]:,}" if deed in choice.left else unknown for deed in self._deeds)
        return Content.assemble(
            (fit(choice.says, says), "bold"),
            (fit(glance(choice.text), text - 1) + " " if text else "", "$dim"),
            ("".join(f"{count:>{_COUNT_CELLS}}" for count in counts), "$count"),
        )

    def _say_bound(self) -> None:
        """Say how many rows stand exactly on the bound, once that is known."""
        place = self.query_one(OptionList).highlighted
        same = next((each for each in self._choices if each.condition.says == "this very value"), None)
        if place is None or same is None or not self._choices[place].condition.strict:
            self._say("")
        elif "keep" in same.left:
            standing = plural(same.left["keep"], "row")
            counts = "do not count" if self._choices[place].is_strict else "count too"
            self._say(
                f"{standing} of exactly {glance(self._text or '')}: they {counts}; {key_of('cell-strict')} changes that"
            )

    def _say(self, text: str) -> None:
        self.query_one("#cell-said", Static).update(Content.styled(clean(text), "$dim"))

    def on_option_list_option_highlighted(self, event: OptionList.OptionHighlighted) -> None:
        """Say what there is to say of the marked condition."""
        self._say_bound()

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "cell-away": self.put_away,
            "cell-keep": lambda: self._do(self._deeds[0]) if self._deeds else None,
            "cell-drop": lambda: self._do("drop"),
            "cell-or": lambda: self._do("or"),
            "cell-strict": self._turn_bound,
            "cell-write": self._write,
            "cell-values": lambda: self.dismiss(Deed(own="values")),
            **choice_calls(self.query_one(OptionList)),
        }

    @property
    def _marked(self) -> _Choice:
        return self._choices[self.query_one(OptionList).highlighted or 0]

    def _do(self, deed: str) -> None:
        if deed not in self._deeds:
            why = "these rows are off already" if self._is_offcut else "the selected line is no keep or drop"
            self._say(why)
            return
        if self._marked.behind is not None:
            self.dismiss(Deed(own="behind"))
            return
        line = self._line_of(self._marked.text, deed)
        if line is not None:
            self.dismiss(Deed(line, self._moment.selected if deed == "or" else None))

    def _write(self) -> None:
        self.dismiss(Deed(f"keep {self._marked.text}", begins=True))

    def _turn_bound(self) -> None:
        choice = self._marked
        if not choice.condition.strict:
            self._say("this condition has no bound")
            return
        choice.is_strict, choice.left = not choice.is_strict, {}
        place = self._choices.index(choice)
        self.query_one(OptionList).replace_option_prompt_at_index(place, self._line(choice))
        self._say_bound()
        self._count()

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Keep by what was clicked."""
        if self._deeds:
            self._do(self._deeds[0])

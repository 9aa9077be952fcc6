"""Two sides beside each other: rows in both and in one alone, or the lines of one cut on two sources; columns, rows."""

from __future__ import annotations

from collections.abc import Sequence

from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.errors import YardcutError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.looking.two_sides import (
    ColumnFigures,
    Compared,
    LineBeside,
    Side,
    compared,
    figures,
    lines_beside,
    looked_at,
    shared_columns,
)
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls, scroll_calls
from yardcut.tui.cards.looking.compare_drawing import figures_drawn, line_beside, rows_drawn, set_line
from yardcut.tui.desk.beside import FirstRows, Pair, first_rows
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean
from yardcut.tui.workers import Job

_ROWS_COLUMNS = 12
_MOST_CELLS, _FRAME_CELLS = 122, 8
_LOOK_SECONDS = 0.2


@dataclass(frozen=True, slots=True, eq=False)
class ComparedAnswer:
    """What is to be seen: ``both``, ``here`` or ``there`` of the rows, the ``line`` of a place, or a ``picture``."""

    what: str
    found: Compared | None = None
    line: int = 0
    sides: tuple[Side, Side] | None = None


class CompareCard(Card[ComparedAnswer | None]):
    """Works the two sides out and shows them as they become known."""

    FOCUS = Focus.COMPARE

    def __init__(self, pair: Pair) -> None:
        super().__init__()
        self._pair = pair
        self._found: Compared | None = None
        self._sides: tuple[Side, Side] | None = None
        self._lines: list[LineBeside] = []
        self._columns: list[str] = []
        self._figures: Sequence[ColumnFigures] = ()
        self._rows: list[FirstRows] = []
        self._shows_rows = self._is_behind = False
        self._wrong = ""
        self._list = OptionList()
        self._lower, self._said = Static("", id="compare-figures"), Static("…", id="compare-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="compare-card") as card:
            card.border_title = Content(f"{clean(self._pair.names[0])} beside {clean(self._pair.names[1])}")
            yield self._list
            yield self._said
            with VerticalScroll(can_focus=False):
                yield self._lower
            see = {} if self._pair.is_one_source else {"compare-see": "go to the line"}
        yield self.footer(said=see)

    def on_mount(self) -> None:
        """Count, behind the card."""
        self.set_focus(self._list)

        def work(token: CancelToken, progress: Progress) -> None:
            here, there = self._pair.sides(token, progress)
            names = [column.name for column, _ in shared_columns(here, there)]
            found = compared(here, there) if self._pair.is_one_source else None
            lines = [] if self._pair.is_one_source else lines_beside(here, there)
            self.jobs.tell(token, lambda sides: self._counted(sides, found, lines), (here, there))
            telling = [*names[:1], *(name for name in looked_at(here) if name in names[1:])]
            telling = list(dict.fromkeys([*telling, *names]))[:_ROWS_COLUMNS]
            rows = [first_rows(side, telling, token) for side in (here, there)]
            self.jobs.tell(token, lambda first: self._take_rows(telling, first), rows)
            figures(here, there, token, lambda so_far: self.jobs.tell(token, self._take_figures, so_far))

        self.jobs.start(Job.PROFILE, work, failed=self._failed)
        self.set_interval(_LOOK_SECONDS, self._keep_up)

    def _failed(self, error: YardcutError) -> None:
        self._wrong = str(error)
        self.say(self._wrong, "$warning")

    def _say_why_not(self) -> None:
        """Say why there is nothing to be seen."""
        self.say(self._wrong or "it is still being counted", "$warning" if self._wrong else "$would")

    def on_resize(self) -> None:
        """Draw what is known to the new width."""
        super().on_resize()
        if self._sides is not None:
            self._draw_counts()
            self._draw()

    @property
    def _width(self) -> int:
        return max(40, min(_MOST_CELLS, self.size.width * 98 // 100) - _FRAME_CELLS)

    def _keep_up(self) -> None:
        """Draw what came since the last look: there may be thousands of columns."""
        if self._is_behind:
            self._draw()
        if self._sides is None and (under_way := self.jobs.under_way()):
            self.say(under_way, "$dim")

    def _counted(self, sides: tuple[Side, Side], found: Compared | None, lines: list[LineBeside]) -> None:
        self._sides, self._found, self._lines = sides, found, lines
        self._draw_counts()
        if found is None:
            wrong = any(line.wrong for line in lines)
            self.say("a line is wrong there: what stands below it has no count" if wrong else
                     f"rows left in {self._pair.names[0]}, and in {self._pair.names[1]}",
                     "$warning" if wrong else "$dim")  # fmt: skip
            return
        same = not found.only_here.count and not found.only_there.count
        self.say(
            "the same rows; each in its own order"
            if same
            else f"{key_of('compare-see')} shows the marked rows in the table",
            "$dim",
        )

    def _draw_counts(self) -> None:
        place, found = self._list.highlighted, self._found
        self._list.clear_options()
        if found is None:
            self._list.add_options([line_beside(line, self._lines[0], self._width) for line in self._lines])
            self._list.highlighted = len(self._lines) - 1 if place is None else place
            return
        here, there = self._pair.names
        rows = [(found.both, "in both"), (found.only_here, f"only in {here}"), (found.only_there, f"only in {there}")]
        largest = max(1, *(each.count for each, _ in rows))
        self._list.add_options([set_line(said, each, largest, self._width) for each, said in rows])
        self._list.highlighted = place or 0

    def _take_rows(self, columns: list[str], rows: list[FirstRows]) -> None:
        self._columns, self._rows = columns, rows
        self._draw()

    def _take_figures(self, so_far: Sequence[ColumnFigures]) -> None:
        self._figures, self._is_behind = so_far, True

    def _draw(self) -> None:
        """Show the columns' figures, or the first rows of both."""
        self._is_behind = False
        if self._shows_rows and self._rows:
            self._lower.update(rows_drawn(self._pair.names, self._columns, self._rows, self._width))
        else:
            self._lower.update(figures_drawn(self._pair.names, self._figures, self._width))

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below the counts."""
        self._said.update(Content.styled(clean(text), style))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        scroll = scroll_calls("compare", self.query_one(VerticalScroll))
        return {
            "compare-away": self.put_away,
            "compare-see": self._see,
            "compare-turn": self._turn,
            "compare-picture": self._picture,
            **choice_calls(self._list),
            "compare-page-up": scroll["compare-page-up"],
            "compare-page-down": scroll["compare-page-down"],
        }

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """See what was clicked."""
        self._see()

    def _see(self) -> None:
        place = self._list.highlighted
        if self._sides is None or place is None:
            self._say_why_not()
        elif self._found is not None:
            self.dismiss(ComparedAnswer(("both", "here", "there")[place], self._found))
        else:
            self.dismiss(ComparedAnswer("line", line=self._lines[place].number - 1))

    def _turn(self) -> None:
        self._shows_rows = not self._shows_rows
        self._draw()

    def _picture(self) -> None:
        if self._sides is None:
            self._say_why_not()
        else:
            self.dismiss(ComparedAnswer("picture", sides=self._sides))

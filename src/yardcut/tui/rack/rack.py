"""The rack: a page of its own. It shows what the list says, and every change is one of the list at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import Enum
from typing import TYPE_CHECKING

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Input, Static

from yardcut.core.errors import ListError
from yardcut.core.language.column_finding import FORMS, Figures, Found, Places, find_columns
from yardcut.core.language.column_lists import ColumnList
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.cards.card import Card
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.rack.changing import Changing
from yardcut.tui.rack.drawing import Seen, head
from yardcut.tui.rack.naming import Naming
from yardcut.tui.rack.rack_list import RackList
from yardcut.tui.rack.rows import SORTS, rack_rows
from yardcut.tui.rack.samples import SampleRows, Samples
from yardcut.tui.text import clean
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.language.bound import ShownColumn
    from yardcut.core.language.tree import ColumnItem
    from yardcut.core.profile.summary import Summary
    from yardcut.tui.desk.looks import Looks
    from yardcut.tui.desk.rows import Rows

MAKE = "make "
"""What the rack returns to have a column made."""
_KEYS = "space take or leave  / find  t l o matches  , ; move  r rename  s sort  ? keys  Esc"


class Finding(Enum):
    """How what is typed goes with what was found before."""

    ANEW = "in place of"
    ADDS = "beside"
    NARROWS = "among"


class RackCard(Card[str | None]):
    """Returns a line to be written, or nothing. ``edit`` changes what the list says; it may raise ``ListError``."""

    FOCUS = Focus.RACK

    def __init__(
        self, wanted: ColumnList, about: int | None, looks: Looks, edit: Callable[[ColumnList], None],
        step: Callable[[bool], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self.wanted = wanted
        self._looks = looks
        self._step = step
        self._about = about
        self._found = Found()
        self._found_text = ""
        self._columns_of: ColumnList | None = None
        self._all_columns: tuple[ShownColumn, ...] = ()
        self._before: frozenset[int] = frozenset()
        self._how = Finding.ANEW
        self._except: set[int] = set()
        self._sort = SORTS[0]
        self._samples: SampleRows | None = None
        self._values: Samples = {}
        self._summaries: dict[int, Summary] = {}
        self.list = RackList(self._seen)
        # held here, since news may come before the parts are there and when they are gone
        self._card = Vertical(classes="card", id="rack-card")
        self._card.border_title = "rack"
        self.find_field = Input(placeholder=f"/  find by {FORMS}", id="rack-find", select_on_focus=False)
        self.name_field = Input(id="rack-name", select_on_focus=False)
        self._found_line, self._head, self._said_line = (
            Static(id="rack-found"),
            Static(id="rack-head"),
            Static(id="rack-said"),
        )
        self.changing = Changing(self, edit)
        self.naming = Naming(self)
        self._grid_row = 0

    def compose(self) -> ComposeResult:
        """Lay out the page."""
        with self._card:
            yield self.find_field
            yield self._found_line
            yield self._head
            yield self.list
            yield self.name_field
            yield self._said_line
            yield Static(Content(_KEYS), classes="keys")

    def on_mount(self) -> None:
        """Show the columns; figures and values come behind."""
        self.set_focus(self.list)
        self._show_rows(self._about)

    def on_resize(self) -> None:
        """Leave away what there is no room for."""
        super().on_resize()
        self.after_refresh(lambda: self._head.update(head(self.list.size.width)))

    # what it shows

    def show(self, wanted: ColumnList, rows: Rows | None, position: int) -> None:
        """Show what the list says now, and values of the rows that pass now; ``None`` while they are being counted."""
        self.wanted = wanted
        about = self.list.row.number if self.list.row is not None else self._about
        self._grid_row = position
        if rows is None:
            self.jobs.stop(Job.PROFILE)
            self.jobs.stop(Job.SAMPLES)
            self._samples, self._values, self._summaries = None, {}, {}
        elif self._samples is None or self._samples.rows.fingerprint != rows.fingerprint or self._is_other(wanted):
            kept = position if self._samples is None else self._samples.position
            self._samples = SampleRows(rows, self._columns(), kept)
            self._summaries = {}
            self._read_samples()
            self._summarise()
        if self.is_mounted:
            self._show_rows(about)

    def _is_other(self, wanted: ColumnList) -> bool:
        assert self._samples is not None
        return self._samples.rows.frame.columns != self._columns()

    def _columns(self) -> Sequence[ShownColumn]:
        """Return all columns under the names they have above the list's line."""
        if self._columns_of is not self.wanted:
            self._columns_of = self.wanted
            self._all_columns = tuple(row.column for row in rack_rows(self.wanted, SORTS[0], {}))
        return self._all_columns

    def _show_rows(self, about: int | None = None) -> None:
        missing = {number: summary.missing for number, summary in self._summaries.items()}
        rows = rack_rows(self.wanted, self._sort, missing)
        place = next((place for place, row in enumerate(rows) if row.number == about), self.list.cursor)
        self.list.show(rows, place)
        self._title()
        self._show_found()

    def _title(self) -> None:
        chosen, rest = len(self.wanted.chosen), len(self.wanted.rest)
        sort = "" if self._sort == SORTS[0] else f" · sorted by {self._sort}"
        rows = " · " + (self._samples.label() if self._samples is not None else "the rows are being counted")
        self._card.border_title = f"rack: {chosen:,} of {chosen + rest:,} columns in the cut{sort}{rows}"

    def _seen(self, place: int) -> Seen:
        number = self.list.rows[place].number
        is_cursor = place == self.list.cursor
        return Seen(
            number in self.lit, number == self.changing.held, is_cursor, self._summaries.get(number),
            self._values.get(number), self.naming.would.get(number, ""),
        )  # fmt: skip

    # values and figures

    def _on_screen(self) -> list[int]:
        return [self.list.rows[place].number for place in self.list.places_on_screen()]

    def _read_samples(self) -> None:
        samples, first = self._samples, self._on_screen()
        if samples is None:
            return

        def work(token: CancelToken, progress: Progress) -> None:
            for values in samples.read(first, token):
                self.jobs.tell(token, self._sampled, values)

        self.jobs.start(Job.SAMPLES, work, lambda _: self._find())

    def _sampled(self, values: Samples) -> None:
        self._values |= values
        self.list.refresh()

    def _summarise(self) -> None:
        """Work figures out, always of the rows on screen first."""
        samples = self._samples
        if samples is None:
            return
        columns = {column.number: column for column in samples.rows.frame.columns}

        def work(token: CancelToken, progress: Progress) -> None:
            waiting = dict(columns)
            while waiting:
                token.check()
                number = next((number for number in self._on_screen() if number in waiting), next(iter(waiting)))
                found = self._looks.summary(samples.rows, waiting.pop(number), token, progress)
                self.jobs.tell(token, self._summarised, (number, found))

        self.jobs.start(Job.PROFILE, work)

    def _summarised(self, found: tuple[int, Summary]) -> None:
        self._summaries[found[0]] = found[1]
        self.list.refresh()

    # finding

    @property
    def lit(self) -> frozenset[int]:
        """The numbers of the columns meant by what was typed, those taken out again apart."""
        found = self._found.lit
        if self._how is Finding.ADDS:
            found |= self._before
        elif self._how is Finding.NARROWS and self._find_text:
            found &= self._before
        elif self._how is Finding.NARROWS:
            found = self._before
        return found - self._except

    @property
    def _find_text(self) -> str:
        return self.find_field.value.strip()

    def _begin_find(self, how: Finding) -> None:
        """Go into the field, to find anew, or to add to what was found, or narrow it."""
        field = self.find_field
        self._before, self._how = (frozenset() if how is Finding.ANEW else self.lit), how
        field.value = ""
        self.set_focus(field)
        self._show_found()

    @property
    def items(self) -> tuple[ColumnItem, ...]:
        """The items of the language that mean no more than what is lit."""
        return self._found.items if self._how is Finding.ANEW and self._found.named else ()

    @on(Input.Changed, "#rack-find")
    def _typed(self) -> None:
        """Find anew what is typed; at once, and once, where the next key comes before the field's own news."""
        if self._find_text == self._found_text:
            return
        self._except = set()
        self._find()
        if self.lit:
            self._next_match(0)

    @on(Input.Changed, "#rack-name")
    def _named(self, event: Input.Changed) -> None:
        if self.naming.is_on:
            self.naming.typed(event.value)

    def _find(self) -> None:
        text = self._found_text = self._find_text
        columns = self._columns()
        names = {chosen.column.number: chosen.column.name for chosen in self.wanted.chosen}
        places = Places(
            self.wanted.scope, columns, names, lambda number: self._values.get(number, ()),
            lambda number: self._figures(number),
        )  # fmt: skip
        try:
            self._found = find_columns(text, places)
        except ListError as error:
            self._found = Found()
            self._say_found(error.message, "$warning")
        else:
            self._show_found()
        self.list.refresh()

    def _figures(self, number: int) -> Figures | None:
        summary = self._summaries.get(number)
        return None if summary is None else Figures(summary.rows, summary.missing, summary.distinct)

    def _show_found(self) -> None:
        found, lit = self._found, self.lit
        if not self._find_text and not lit:
            self._say_found("", "$dim")
            return
        said = f"{len(found.named):,} {'matches' if len(found.named) == 1 else 'match'} by name"
        if found.valued:
            said += (
                f", {len(found.valued):,} {'by a value' if not found.named else 'more have it in a value on screen'}"
            )
        if self._how is not Finding.ANEW:
            said += f", {self._how.value} {len(self._before):,} found before: {len(lit):,}"
        if self._except:
            said += f", {len(self._except):,} of them left aside"
        if found.unknown:
            said += f"; {found.unknown:,} columns are not counted yet"
        inside = sum(row.number in lit for row in self.list.rows[: self.list.in_cut])
        then = "t takes them, l leaves them out, o takes only them, e leaves one aside"
        said += f"   ({inside:,} in the cut)   {'Enter, then ' if self.find_field.has_focus else ''}{then}"
        self._say_found(said, "$would" if lit else "$warning")

    def _say_found(self, text: str, style: str) -> None:
        self._found_line.update(Content.styled(clean(text), style))

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below the rows."""
        self._said_line.update(Content.styled(clean(text), style))

    # keys

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        self._typed()
        rack, samples = self.list, self._samples
        return {
            "rack-away": self._away,
            "rack-enter": self._enter,
            "rack-find": lambda: self._begin_find(Finding.ANEW),
            "rack-find-more": lambda: self._begin_find(Finding.ADDS),
            "rack-find-among": lambda: self._begin_find(Finding.NARROWS),
            "rack-up": lambda: rack.move(-1),
            "rack-down": self._down,
            "rack-page-up": lambda: rack.page(-1),
            "rack-page-down": lambda: rack.page(1),
            "rack-first": lambda: rack.go_to(0),
            "rack-last": lambda: rack.go_to(len(rack.rows) - 1),
            "rack-next-match": lambda: self._next_match(1),
            "rack-previous-match": lambda: self._next_match(-1),
            "rack-except": self._leave_aside,
            "rack-sort": self._turn_sort,
            "rack-rows": lambda: self._look_at(lambda: samples.step(1) if samples else None),
            "rack-any-row": lambda: self._look_at(lambda: samples.anywhere() if samples else None),
            "rack-grid-row": lambda: self._look_at(self._to_grid_row),
            "rack-make": lambda: self.dismiss(MAKE),
            "rack-undo": lambda: self._step(False),
            "rack-redo": lambda: self._step(True),
            **self.changing.calls,
            **self.naming.calls,
        }

    def _away(self) -> None:
        """Go one step back: out of a field, of a column that is held, of what was found; else put the rack away."""
        find = self.find_field
        if self.naming.stop() or self.changing.let_go():
            return
        if self.takes_text:
            self.set_focus(self.list)
        elif find.value or self._before:
            self._before, self._how = frozenset(), Finding.ANEW
            find.value = ""
            self._find()
        else:
            self.dismiss(None)

    def _enter(self) -> None:
        if self.naming.enter():
            return
        if self.takes_text:
            self.set_focus(self.list)
            self._show_found()
        else:
            self.changing.toggle()

    def _down(self) -> None:
        if self.takes_text and not self.naming.is_on:
            self.set_focus(self.list)
        else:
            self.list.move(1)

    @on(RackList.Chosen)
    def _clicked(self) -> None:
        self.changing.toggle()

    def _next_match(self, by: int) -> None:
        lit = self.lit
        places = [place for place, row in enumerate(self.list.rows) if row.number in lit]
        if not places:
            return
        after = [place for place in places if place >= self.list.cursor + (by > 0)]
        before = [place for place in places if place < self.list.cursor]
        self.list.go_to((before or places)[-1] if by < 0 else (after or places)[0])

    def _leave_aside(self) -> None:
        """Leave one match aside, or take it back among them."""
        row = self.list.row
        if row is None or row.number not in self.lit | self._except:
            self.say("this column is no match of what was typed", "$dim")
            return
        self._except ^= {row.number}
        self._show_found()
        self._next_match(1)

    def _turn_sort(self) -> None:
        self._sort = SORTS[(SORTS.index(self._sort) + 1) % len(SORTS)]
        self._show_rows(self.list.row.number if self.list.row else None)
        self.say(f"shown by {self._sort}; the cut keeps its order" if self._sort != SORTS[0] else "the cut's order")

    @property
    def is_sorted(self) -> bool:
        """True while the rows stand in another order than the cut's."""
        return self._sort != SORTS[0]

    def _look_at(self, go: Callable[[], None]) -> None:
        if self._samples is None:
            self.say("the rows are still being counted", "$dim")
            return
        go()
        self._read_samples()
        self._title()

    def _to_grid_row(self) -> None:
        if self._samples is not None:
            self._samples.position = max(0, min(self._grid_row, self._samples.count - 1))

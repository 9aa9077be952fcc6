"""A tally put together: its groups and measures, added, turned, moved and taken out; the table follows."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.errors import ListError
from yardcut.core.language.helping.tally_parts import (
    column_of,
    group_from,
    group_turned,
    measure_from,
    measure_turned,
)  # fmt: skip
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.printing import name_text, side_text
from yardcut.core.language.verbs.tally import Tally, TallyItem, measure_name
from yardcut.core.values.kinds import Kind
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.lines.part_edits import PartEdits
from yardcut.tui.cards.lines.parts_page import PartsPage
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean, fit, glance, plural

if TYPE_CHECKING:
    from yardcut.tui.desk.moment import Moment

_GROUP, _ALONG, _MEASURE = "a row for each", "columns along", "measure"
_ROLE, _VALUE, _BESIDE = 16, 52, 50


class TallyCard(Card[None]):
    """Shows the parts of one tally as they are at every moment; each edit is one of the list at once."""

    FOCUS = Focus.TALLY

    def __init__(self, edits: PartEdits) -> None:
        super().__init__()
        self._edits = edits
        self._page = PartsPage[tuple[str, int]](self, "tally", edits, Tally)
        self._followed = self._page.followed
        self._wanted = 0
        self._comes_to = Static("", id="tally-words")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        yield from self._page.compose(self._comes_to)

    def on_mount(self) -> None:
        """Show the parts."""
        self.set_focus(self._page.list)
        self._show()

    # what it shows

    @property
    def _tally(self) -> Tally:
        body = self._followed.statement.body if self._followed.statement is not None else None
        assert isinstance(body, Tally)
        return body

    def _parts(self) -> list[tuple[str, TallyItem]]:
        """Return the parts in the order in which they are listed."""
        tally = self._tally
        along = [] if tally.along is None else [(_ALONG, TallyItem(tally.along))]
        return [*((_GROUP, item) for item in tally.per), *along, *((_MEASURE, item) for item in tally.measures)]

    def show(self, moment: Moment) -> None:
        """Show the line as it is now."""
        self._say_so_far()
        if self._page.follow(moment) and self.is_mounted:
            if self._page.is_free:
                self._wanted = self._page.list.highlighted or 0
            self._show()

    def _show(self) -> None:
        moment = self._followed.moment
        if moment is None:
            return
        index = self._followed.index
        line, result = moment.lines[index], moment.result_at(index)
        said: list[tuple[str, str]] = [("…\n", "$dim")]
        if line.error is not None:
            said = [(f"{clean(str(line.error))}\n", "$warning")]
        elif result is not None and result.line.statement == self._followed.statement:
            size = f"{plural(result.rows.count, 'row')} × {plural(len(result.shown), 'column')}"
            said = [(f"comes to {size}\n", "bold"), *((f"{clean(note)}\n", "$dim") for note in result.notes)]
        self._comes_to.update(Content.assemble(*said))
        self._page.list_parts("tally", [self._line(role, item) for role, item in self._parts()], self._wanted)

    def _line(self, role: str, item: TallyItem) -> Content:
        usual = measure_name(item.value) if role == _MEASURE else None
        named = item.name or usual
        return Content.assemble(
            (f" {role:<{_ROLE}}", "$dim" if role == _MEASURE else "$accent"),
            (fit(glance(side_text(item.value)), max(18, min(_VALUE, self.size.width - _BESIDE))), "bold"),
            (f"  as {glance(named)}" if named and role != _ALONG else "", "$count"),
        )

    def say(self, text: str, style: str = "$would") -> None:
        """Say something below the parts."""
        self._page.say(text, style)

    # editing

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "tally-turn": self._turn,
            "tally-measure": lambda: self._write(_MEASURE, len(self._tally.measures), ""),
            "tally-group": lambda: self._write(_GROUP, len(self._tally.per), ""),
            "tally-along": self._along,
            "tally-write": self._enter,
            "tally-up": lambda: self._move(-1),
            "tally-down": lambda: self._move(1),
            "tally-out": self._take_out,
            **self._page.calls(),
        }

    @property
    def _marked(self) -> tuple[str, int, TallyItem]:
        """The marked part: what it is, its place among its like, and itself."""
        parts = self._parts()
        at = min(self._page.list.highlighted or 0, len(parts) - 1)
        role, item = parts[at]
        return role, sum(each == role for each, _ in parts[:at]), item

    def _become(self, tally: Tally, role: str, place: int) -> None:
        """Have the line say another tally, one part of it marked."""
        statement = self._followed.statement
        assert statement is not None
        before = {_GROUP: 0, _ALONG: len(tally.per), _MEASURE: len(tally.per) + (tally.along is not None)}
        self._wanted = before[role] + place
        self.say(self._edits.rewrite(self._followed.index, statement_text(replace(statement, body=tally))))

    def _with(self, role: str, place: int, items: tuple[TallyItem, ...], over: int = 1) -> Tally:
        """Return the tally with other parts in the place of ``over`` of them."""
        tally = self._tally
        if role == _ALONG:
            return replace(tally, along=items[0].value if items else None, sequence=())
        known = tally.per if role == _GROUP else tally.measures
        changed = (*known[:place], *items, *known[place + over :])
        return replace(tally, per=changed) if role == _GROUP else replace(tally, measures=changed)

    def _turn(self) -> None:
        role, place, item = self._marked
        kind = self._kind(item)
        if role == _MEASURE:
            turned = measure_turned(item, kind)
        else:
            turned = item if kind is None else group_turned(item, kind)
        if turned == item:
            self.say(f"there is no other way for it here: {key_of('tally-write')} writes it anew", "$dim")
        else:
            self._become(self._with(role, place, (turned,)), role, place)

    def _kind(self, item: TallyItem) -> Kind | None:
        """Return the kind of the column that a part names, among those that reach the line."""
        moment, named = self._followed.moment, column_of(item)
        if moment is None or named is None:
            return None
        column = moment.scope_at(self._followed.index - 1).find(named.name)
        return None if column is None else column.kind

    def _along(self) -> None:
        """Make columns of a group's values, or rows again."""
        role, place, item = self._marked
        if role == _MEASURE:
            self.say("mark a group: its values become columns", "$warning")
        elif role == _ALONG:
            back = replace(self._tally, along=None, sequence=(), per=(*self._tally.per, group_back(item)))
            self._become(back, _GROUP, len(self._tally.per))
        else:
            left = self._with(_GROUP, place, ())
            more = () if left.along is None else (group_back(TallyItem(left.along)),)
            self._become(replace(left, along=item.value, sequence=(), per=(*left.per, *more)), _ALONG, 0)

    def _move(self, by: int) -> None:
        role, place, _ = self._marked
        known = list(self._tally.per if role == _GROUP else self._tally.measures)
        if role != _ALONG and 0 <= place + by < len(known):
            known.insert(place + by, known.pop(place))
            self._become(self._with(role, 0, tuple(known), len(known)), role, place + by)

    def _take_out(self) -> None:
        role, place, _ = self._marked
        if role == _MEASURE and len(self._tally.measures) == 1:
            self.say("a tally has a measure: Del on the list takes the line out", "$warning")
            return
        self._become(self._with(role, place, ()), role, max(0, place - 1))

    # writing a part

    def _write(self, role: str, place: int, text: str) -> None:
        example = "volume_m3, or SUM(volume_m3) FILTER (WHERE sold_on IS NULL) AS unsold"
        if role != _MEASURE:
            example = "species, or EXTRACT(MONTH FROM felled_on) AS month"
        self._page.write((role, place), text, f"{key_of('tally-write')} puts it in its place: {example}")

    def _enter(self) -> None:
        """Write the marked part anew, or put in its place what is written."""
        if self._page.writing is None:
            role, place, item = self._marked
            named = "" if item.name is None else f" AS {name_text(item.name)}"
            self._write(role, place, side_text(item.value) + named)
            return
        (role, place), text = self._page.writing, self._page.field.text
        if not text:
            self._page.stop_writing()
            return
        try:
            item = self._measure(text) if role == _MEASURE else group_from(text)
        except ListError as error:
            self.say(str(error), "$warning")
            return
        self._page.stop_writing()
        self._become(self._with(role, place, (item,)), role, place)

    def _measure(self, text: str) -> TallyItem:
        item = measure_from(text, None)
        return measure_from(text, self._kind(item))

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Write anew what was clicked."""
        self._enter()


def group_back(item: TallyItem) -> TallyItem:
    """Return what columns stood along as a group of rows; one that is no column gets a name."""
    from yardcut.core.language import syntax_trees as t

    return item if isinstance(item.value, t.Name) else replace(item, name="along")

"""Finding columns on the rack: what is typed, what it means, and what was found before."""

from __future__ import annotations

from enum import Enum
from typing import TYPE_CHECKING

from textual.content import Content
from textual.widgets import Input, Static

from yardcut.core.errors import ListError
from yardcut.core.language.helping.column_finding import FORMS, Found, Places, find_columns
from yardcut.core.language.helping.column_lists import is_pattern
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean

if TYPE_CHECKING:
    from yardcut.core.language.syntax_trees import ColumnItem
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.rack.knowing import Knowing
    from yardcut.tui.rack.rack_page import RackPage


def _then() -> str:
    take, leave, only, aside = map(key_of, ("rack-take", "rack-leave", "rack-only", "rack-except"))
    return f"{take} takes them, {leave} leaves them out, {only} takes only them, {aside} leaves one aside"


class _How(Enum):
    """How what is typed goes with what was found before."""

    ANEW = "in place of"
    ADDS = "beside"
    NARROWS = "among"


class Searching:
    """The field, the line below it, and the columns that are lit."""

    def __init__(self, rack: RackPage, knowing: Knowing) -> None:
        self._rack = rack
        self._knowing = knowing
        # held here, since news may come before they are on screen and when they are gone
        self.field = Input(placeholder=f"/  find by {FORMS}", id="rack-find", select_on_focus=False)
        self.line = Static(id="rack-found")
        self._found = Found()
        self._typed = ""
        self._before: frozenset[int] = frozenset()
        self._how = _How.ANEW
        self._aside: frozenset[int] = frozenset()

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "rack-find": lambda: self._begin(_How.ANEW),
            "rack-find-more": lambda: self._begin(_How.ADDS),
            "rack-find-among": lambda: self._begin(_How.NARROWS),
            "rack-next-match": lambda: self._go(1),
            "rack-previous-match": lambda: self._go(-1),
            "rack-except": self._leave_aside,
        }

    @property
    def _text(self) -> str:
        return self.field.value.strip()

    @property
    def lit(self) -> frozenset[int]:
        """The numbers of the columns meant, those left aside apart."""
        found = self._found.lit
        if self._how is _How.ADDS:
            found |= self._before
        elif self._how is _How.NARROWS:
            found = found & self._before if self._text else self._before
        return found - self._aside

    @property
    def patterns(self) -> list[ColumnItem]:
        """The patterns among what was typed; none where the columns found are more than these."""
        is_whole = self._how is _How.ANEW and bool(self._found.named)
        return [item for item in self._found.items if is_pattern(item)] if is_whole else []

    @property
    def waits_for_figures(self) -> bool:
        """True while columns are not counted yet of which that would have to be known."""
        return self._found.unknown > 0

    # typing

    def _begin(self, how: _How) -> None:
        """Go into the field, to find anew, to add to what was found, or to narrow it."""
        before = frozenset[int]() if how is _How.ANEW else self.lit
        self._start(before, how)
        self._rack.set_focus(self.field)
        self.show()

    def _start(self, before: frozenset[int], how: _How) -> None:
        self._before, self._how, self._aside = before, how, frozenset()
        self.field.value = self._typed = ""
        self.find()

    def clear(self) -> bool:
        """Forget what was found; tells whether there was anything."""
        was = bool(self.field.value or self._before)
        if was:
            self._start(frozenset(), _How.ANEW)
        return was

    def typed(self) -> None:
        """Find anew what is typed, and go there: once, though the next key may come before the field's own news.

        News of values and figures finds again what is typed by then, and goes nowhere.
        """
        if self._text != self._typed:
            self._typed, self._aside = self._text, frozenset()
            self.find()
            if self.lit:
                self._go(0)

    def find(self) -> None:
        """Find what is typed among the columns, their values and figures as they are known now."""
        text, rack = self._text, self._rack
        names = {chosen.column.number: chosen.column.name for chosen in rack.wanted.chosen}
        values, figures = self._knowing.values, self._knowing.figures
        places = Places(rack.wanted.scope, rack.columns(), names, lambda number: values.get(number, ()), figures)
        try:
            self._found = find_columns(text, places)
        except ListError as error:
            self._found = Found()
            self._say(error.message, "$warning")
        else:
            self.show()
        rack.list.refresh()

    # telling

    def show(self) -> None:
        """Say what was found, and what can be done with it."""
        found, lit, rack = self._found, self.lit, self._rack
        if not self._text and not lit:
            self._say("", "$dim")
            return
        meant = found.named or found.valued
        said = f"{len(meant):,} {'matches' if len(meant) == 1 else 'match'}"
        if found.valued:
            more = f", {len(found.valued):,} more have it in a value here"
            said += more if found.named else " by a value here"
        if self._how is not _How.ANEW:
            said += f", {self._how.value} {len(self._before):,} found before: {len(lit):,}"
        if self._aside:
            said += f", {len(self._aside):,} of them left aside"
        if found.unknown:
            said += f"; {found.unknown:,} columns are not counted yet"
        inside = sum(row.number in lit for row in rack.list.rows[: rack.list.in_cut])
        first = f"{key_of('rack-enter')}, then " if self.field.has_focus else ""
        said += f"   ({inside:,} in the cut)   {first}{_then()}"
        self._say(said, "$would" if lit else "$warning")

    def _say(self, text: str, style: str) -> None:
        self.line.update(Content.styled(clean(text), style))

    # going through what was found

    def _go(self, by: int) -> None:
        """Go to the next match, the one before, or with 0 the first from here on."""
        lit, rows = self.lit, self._rack.list
        places = [place for place, row in enumerate(rows.rows) if row.number in lit]
        if not places:
            return
        after = [place for place in places if place >= rows.cursor + (by > 0)]
        before = [place for place in places if place < rows.cursor]
        rows.go_to((before or places)[-1] if by < 0 else (after or places)[0])

    def _leave_aside(self) -> None:
        """Leave one match aside, or take it back among them."""
        row = self._rack.list.row
        if row is None or row.number not in self.lit | self._aside:
            self._rack.say("this column is no match of what was typed", "$dim")
            return
        self._aside ^= {row.number}
        self.show()
        self._go(1)

"""Renaming on the rack: one column in place, or many by a rule, seen before it is done."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual.widgets import Input

from yardcut.core.errors import ListError
from yardcut.core.language.helping.new_names import RULES, name_trouble, renamed_by_rule
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.rack.changing import Changing
    from yardcut.tui.rack.rack_page import RackPage
    from yardcut.tui.rack.searching import Searching


class Naming:
    """While a name or a rule is typed, ``would`` has the names it would give, by number."""

    def __init__(self, rack: RackPage, searching: Searching, changing: Changing) -> None:
        self._rack = rack
        self._searching, self._changing = searching, changing
        self.field = Input(id="rack-name", select_on_focus=False)
        self._number: int | None = None
        self._by_rule = False
        self._mended = ""
        self.would: dict[int, str] = {}

    @property
    def is_on(self) -> bool:
        """True while a name or a rule is typed."""
        return self._by_rule or self._number is not None

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "rack-rename": self._begin_one,
            "rack-rename-many": self._begin_rule,
            "rack-mend": self._mend,
        }

    def _open(self, text: str, placeholder: str) -> None:
        field = self.field
        field.value, field.placeholder = text, placeholder
        field.display = True
        self._rack.set_focus(field)
        field.action_end()

    def _begin_one(self) -> None:
        row = self._rack.list.row
        if row is None or not row.in_cut:
            self._rack.say(
                f"a column that is not in the cut has no name there: {key_of('rack-toggle')} takes it", "$dim"
            )
            return
        self._number = row.number
        self._open(row.new_name or row.column.name, "the new name")
        self.typed()

    def _begin_rule(self) -> None:
        self._by_rule = True
        self._open("", RULES)
        self.typed()

    def _names(self) -> dict[int, str]:
        return {chosen.column.number: chosen.column.name for chosen in self._rack.wanted.chosen}

    def typed(self) -> None:
        """Show what the text as it stands would do."""
        if not self.is_on:
            return
        text, names = self.field.value, self._names()
        if self._number is not None:
            self.would = {self._number: text} if text != names.get(self._number) else {}
            others = [name for number, name in names.items() if number != self._number]
            trouble = name_trouble(text, others)
            self._mended = trouble.mended if trouble is not None else ""
            if trouble is None:
                self._rack.say(
                    f"{key_of('rack-enter')} takes the name, {key_of('rack-away')} leaves it"
                    if self.would
                    else "this is its name now"
                )
            else:
                self._rack.say(f"{trouble.says}; {key_of('rack-mend')} writes  {trouble.mended}", "$warning")
        elif self._by_rule:
            self._show_rule(text, names)
        self._rack.list.refresh()

    def _show_rule(self, text: str, names: dict[int, str]) -> None:
        rack = self._rack
        lit = self._searching.lit
        meant = {number: name for number, name in names.items() if not lit or number in lit}
        self.would, self._mended = {}, ""
        try:
            found = renamed_by_rule(text, meant)
        except ListError as error:
            rack.say(error.message, "$warning" if text.strip() else "$dim")
            return
        self.would = {number: name for number, name in found.items() if name != names[number]}
        every = {**names, **self.would}
        troubles = [
            trouble
            for number, name in self.would.items()
            if (trouble := name_trouble(name, [other for at, other in every.items() if at != number])) is not None
        ]
        which = "those found" if lit else "all in the cut"
        if troubles:
            rack.say(f"{troubles[0].says}: this rule cannot be taken as it is", "$warning")
            self._mended = " "
        else:
            rack.say(
                f"would rename {plural(len(self.would), 'column')} of {which}; {key_of('rack-enter')} does it", "$would"
            )

    def _mend(self) -> None:
        if self._number is not None and self._mended:
            self.field.value = self._mended
            self.field.action_end()

    def enter(self) -> bool:
        """Take the names as they are shown; tells whether any were being typed."""
        if not self.is_on:
            return False
        self.typed()  # the key may come before the field's own news
        if not self._mended:
            wanted, would = self._rack.wanted, self.would
            if not would or self._changing.want(
                lambda: wanted.renamed(would), f"renamed {plural(len(would), 'column')}"
            ):
                self.stop()
        return True

    def stop(self) -> bool:
        """Put the field away; tells whether it was there."""
        was = self.is_on
        self._number, self._by_rule, self.would, self._mended = None, False, {}, ""
        if was:
            self.field.display = False
            self._rack.set_focus(self._rack.list)
            self._rack.list.refresh()
        return was

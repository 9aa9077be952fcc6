"""What the keys of the rack change: which columns are in the cut, and where they stand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.language.helping.column_lists import ColumnList, is_pattern
from yardcut.core.language.syntax.printing import item_text
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.rack.rack_page import RackPage
    from yardcut.tui.rack.searching import Searching


class Changing:
    """Each change is handed to ``edit`` as the list that is wanted. ``held`` is a column picked up to be moved."""

    def __init__(self, rack: RackPage, searching: Searching, edit: Callable[[ColumnList], None]) -> None:
        self._rack = rack
        self._searching = searching
        self._edit = edit
        self.held: int | None = None

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "rack-toggle": self.toggle,
            "rack-take": lambda: self._with_lit("take"),
            "rack-leave": lambda: self._with_lit("leave"),
            "rack-only": lambda: self._with_lit("only"),
            "rack-move-up": lambda: self._move(-1),
            "rack-move-down": lambda: self._move(1),
            "rack-top": lambda: self._move_to(0),
            "rack-bottom": lambda: self._move_to(self._rack.list.in_cut - 1),
            "rack-hold": self._hold,
            "rack-off": self._off,
            "rack-pin": lambda: self._pin(whole=False),
            "rack-pin-all": lambda: self._pin(whole=True),
        }

    def want(self, work: Callable[[], ColumnList], said: str) -> bool:
        """Have the list say something else; tell why where it cannot."""
        rack = self._rack
        before = rack.wanted
        try:
            wanted = work()
            if wanted.body != before.body:
                self._edit(wanted)
        except ListError as error:
            rack.say(f"{error.message}{'; ' + error.mend.says if error.mend else ''}", "$warning")
            return False
        rack.say(said + _pinned_by(before, wanted))
        return True

    def toggle(self) -> None:
        """Take the column under the cursor into the cut, or leave it out; the cursor goes on to the next one."""
        rack = self._rack
        row, place = rack.list.row, rack.list.cursor
        if row is None:
            return
        after = rack.list.rows[place + 1].number if place + 1 < len(rack.list.rows) else None
        wanted, name = rack.wanted, row.new_name or row.column.name
        if row.in_cut:
            done = self.want(lambda: wanted.left_out([row.number]), f"left out {name}")
        elif row.off is not None:
            off = row.off
            done = self.want(lambda: wanted.switched_on(off), f"switched on {item_text(off.item)}")
        else:
            done = self.want(lambda: wanted.taken([row.number]), f"took {name}")
        found = next((at for at, each in enumerate(rack.list.rows) if each.number == after), None)
        if done and found is not None:
            rack.list.go_to(found)

    def _with_lit(self, what: str) -> None:
        rack = self._rack
        numbers, items = self._in_sequence(self._searching.lit), self._searching.patterns
        if not numbers:
            rack.say(f"nothing is found to be taken: {key_of('rack-find')} finds columns", "$dim")
            return
        wanted, columns = rack.wanted, plural(len(numbers), "column")
        if what == "take":
            self.want(lambda: wanted.taken(numbers, items), f"took {columns}")
        elif what == "leave":
            self.want(lambda: wanted.left_out(numbers), f"left out {columns}")
        else:
            self.want(lambda: wanted.only(numbers, items), f"the cut has these {columns} only")

    def _in_sequence(self, numbers: frozenset[int]) -> Sequence[int]:
        return [row.number for row in self._rack.list.rows if row.number in numbers]

    # moving

    def _move(self, by: int) -> None:
        self._move_to(self._rack.list.cursor + by)

    def _move_to(self, place: int, number: int | None = None) -> None:
        rack = self._rack
        row = rack.list.row
        if rack.is_sorted:
            rack.say(
                f"the rows stand in another order than the cut's: {key_of('rack-sort')} goes back to it", "$warning"
            )
        elif row is None or (number is None and not row.in_cut):
            rack.say(f"this column is not in the cut: {key_of('rack-toggle')} takes it", "$dim")
        elif 0 <= place < rack.list.in_cut:
            wanted, moved = rack.wanted, number or row.number
            if self.want(lambda: wanted.moved(moved, place), f"column {place + 1} of the cut"):
                rack.list.go_to(next(at for at, each in enumerate(rack.list.rows) if each.number == moved))

    def _hold(self) -> None:
        """Pick the column up, or put the one that is held below this one; onto itself: at the very top."""
        rack, row = self._rack, self._rack.list.row
        if row is None or not row.in_cut:
            rack.say("only columns in the cut have a place there", "$dim")
            return
        if self.held is None:
            self.held = row.number
            rack.say(
                f"{row.column.name} is held: {key_of('rack-hold')} puts it below another column, "
                f"{key_of('rack-away')} lets it go"
            )
            rack.list.refresh()
            return
        held, self.held = self.held, None
        at = next((place for place, each in enumerate(rack.list.rows) if each.number == held), None)
        if at is not None and at < rack.list.in_cut:
            self._move_to(rack.list.cursor + (at > rack.list.cursor), held)
        rack.list.refresh()

    def let_go(self) -> bool:
        """Let go of a column that is held; tells whether there was one."""
        was, self.held = self.held, None
        self._rack.list.refresh()
        return was is not None

    # items

    def _off(self) -> None:
        rack, row = self._rack, self._rack.list.row
        if row is None:
            return
        wanted = rack.wanted
        if row.off is not None:
            off = row.off
            self.want(lambda: wanted.switched_on(off), f"switched on {item_text(off.item)}")
        elif row.in_cut:
            by = f", which came by {row.by}: it is left out" if row.by else ""
            self.want(lambda: wanted.switched_off(row.number), f"switched off {row.column.name}{by}")
        else:
            rack.say("this column is not in the cut", "$dim")

    def _pin(self, *, whole: bool) -> None:
        rack, row = self._rack, self._rack.list.row
        wanted = rack.wanted
        if not whole and (row is None or not row.by):
            rack.say(f"this column is there by its name already; {key_of('rack-pin-all')} pins all patterns", "$dim")
        elif whole:
            self.want(lambda: wanted.pinned(), "all patterns are the names they meet now")
        elif row is not None:
            self.want(lambda: wanted.pinned(row.number), f"{row.by} is the names it meets now")


def _pinned_by(before: ColumnList, wanted: ColumnList) -> str:
    """Say which patterns had to become names for a change."""
    patterns = [item_text(item) for item in before.body.items if is_pattern(item)]
    left = {item_text(item) for item in wanted.body.items}
    gone = [pattern for pattern in patterns if pattern not in left]
    return f" · {', '.join(gone)} became names" if gone else ""

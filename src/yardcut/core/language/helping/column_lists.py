"""Changing a column list: what is wanted, said with as much of the old list as still says it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.chosen_columns import choose, columns_of_item
from yardcut.core.language.meaning.scope import Lookup, Scope
from yardcut.core.language.syntax.printing import item_text
from yardcut.core.language.verbs.columns import Columns
from yardcut.core.quick_dataclasses import dataclass

EVERYTHING = Columns((t.AllColumns(),))
"""The list that stands for no list at all."""


def _check_some(columns: Sequence[object]) -> None:
    if not columns:
        raise ListError("no column would be left: a cut has at least one", mend=Mend("take another one first"))


@dataclass(frozen=True, slots=True)
class Chosen:
    """A column of the result, the name it has above the line, and the item of the list it came by."""

    column: ShownColumn
    name_above: str
    item: t.ColumnItem

    @property
    def new_name(self) -> str | None:
        """The name the list gives it, if it gives one."""
        return None if self.column.name == self.name_above else self.column.name


class ColumnList:
    """A column list beside the columns it meets. Never changes: each edit returns the list that says it.

    Columns are meant by their numbers, as :class:`Scope` has them.
    """

    def __init__(self, scope: Scope, body: Columns = EVERYTHING) -> None:
        self.scope, self.body = scope, body
        self._above = {column.number: column.name for column in (*reversed(scope.known), *reversed(scope.shown))}
        self.chosen = self._chosen()

    def _chosen(self) -> tuple[Chosen, ...]:
        lookup = Lookup(self.scope, "")
        found = choose(self.body.items, self.body.without, lookup)
        by: dict[tuple[int, str], t.ColumnItem] = {}
        for item in self.body.items:
            for column in columns_of_item(item, lookup):
                by.setdefault((column.number, column.name), item)
        return tuple(Chosen(column, self._above[column.number], by[column.number, column.name]) for column in found)

    @property
    def rest(self) -> tuple[ShownColumn, ...]:
        """The columns that can be named and are not in the result, in the order of their numbers."""
        there = {chosen.column.number for chosen in self.chosen}
        shown = {column.number: column for column in self.scope.shown}
        return tuple(shown.get(column.number, column) for column in self.scope.known if column.number not in there)

    @property
    def off_items(self) -> tuple[t.OffItem, ...]:
        """The items that are switched off."""
        return tuple(item for item in self.body.items if isinstance(item, t.OffItem))

    # edits

    def taken(self, numbers: Sequence[int], items: Sequence[t.ColumnItem] = ()) -> ColumnList:
        """Return the list with more columns; by ``items`` of the language where these mean no others.

        Those that a pattern would give but for being left out stand at their place in it again, the others at the end.
        Raises ``ListError`` where two would have one name.
        """
        back = self._taken_back(set(numbers) - {chosen.column.number for chosen in self.chosen})
        there = {chosen.column.number for chosen in back.chosen}
        fresh = [column for column in back.rest if column.number in set(numbers) - there]
        return back.saying([*back._target(), *fresh], items if fresh else ())

    def _taken_back(self, numbers: set[int]) -> ColumnList:
        """Return the list that leaves out no more than what is not among some columns."""
        lookup, without = Lookup(self.scope, ""), list[t.ColumnItem]()
        for item in self.body.without:
            columns = columns_of_item(item, lookup)
            if not numbers & {column.number for column in columns}:
                without.append(item)
            else:
                without += [self._above_named(column) for column in columns if column.number not in numbers]
        return ColumnList(self.scope, replace(self.body, without=tuple(without)))

    def left_out(self, numbers: Sequence[int]) -> ColumnList:
        """Return the list without some columns; at least one must stay."""
        gone = set(numbers)
        return self.saying([column for column in self._target() if column.number not in gone])

    def only(self, numbers: Sequence[int], items: Sequence[t.ColumnItem] = ()) -> ColumnList:
        """Return the list of some columns alone, in their present order, those that are new behind.

        By ``items`` of the language, in place of those of now, where these mean no others.
        """
        wanted = set(numbers)
        target = [column for column in (*self._target(), *self.rest) if column.number in wanted]
        if not items:
            return self._in_names(target)
        return ColumnList(self.scope, Columns((*items, *self.off_items))).saying(target)

    def moved(self, number: int, place: int) -> ColumnList:
        """Return the list with one column at another place of the result, from 0."""
        target = self._target()
        at = next(index for index, column in enumerate(target) if column.number == number)
        column = target.pop(at)
        target.insert(max(0, min(place, len(target))), column)
        return self.saying(target)

    def renamed(self, names: dict[int, str]) -> ColumnList:
        """Return the list with other names for some columns, by number; the name above the line ends a renaming."""
        return self.saying([replace(column, name=names.get(column.number, column.name)) for column in self._target()])

    def pinned(self, number: int | None = None) -> ColumnList:
        """Return the list with patterns replaced by the names they meet now: that of a column, or all of them."""
        chosen = next((each for each in self.chosen if each.column.number == number), None)
        items: list[t.ColumnItem] = []
        for item in self.body.items:
            if isinstance(item, t.OneColumn | t.OffItem) or (chosen is not None and item is not chosen.item):
                items.append(item)
            else:
                items += [self._named(each.column) for each in self.chosen if each.item is item]
        return ColumnList(self.scope, self._without_idle(Columns(tuple(items), self.body.without)))

    def switched_off(self, number: int) -> ColumnList:
        """Return the list with the item of one column switched off; a column by a pattern is left out instead."""
        chosen = next(each for each in self.chosen if each.column.number == number)
        if not isinstance(chosen.item, t.OneColumn):
            return self.left_out([number])
        _check_some([each for each in self.chosen if each is not chosen])
        items = tuple(t.OffItem(item) if item is chosen.item else item for item in self.body.items)
        return ColumnList(self.scope, replace(self.body, items=items))

    def switched_on(self, item: t.OffItem) -> ColumnList:
        """Return the list with an item switched on again."""
        items = tuple(each.item if isinstance(each, t.OffItem) and each is item else each for each in self.body.items)
        return ColumnList(self.scope, replace(self.body, items=items))

    # saying it

    def saying(self, target: Sequence[ShownColumn], more: Sequence[t.ColumnItem] = ()) -> ColumnList:
        """Return the list that gives some columns, in order and under their names; patterns stay where they can.

        ``more`` are patterns to be tried besides those of the list. Raises ``ListError`` where none would be left.
        """
        _check_some(target)
        items: list[t.ColumnItem] = []
        without: dict[int, t.ColumnItem] = {}
        lookup = Lookup(self.scope, "")
        names = {column.number: column.name for column in reversed(target)}
        waiting = [(item, columns_of_item(item, lookup)) for item in (*self.body.items, *more) if _is_many(item)]
        placed: set[int] = set()
        at = 0
        while at < len(target):
            found = next((each for each in waiting if _fits(each[1], target, at, names, placed)), None)
            if found is None:
                items.append(self._named(target[at]))
                placed.add(target[at].number)
                at += 1
                continue
            waiting.remove(found)
            here = {column.number for column in found[1] if column.number in names and column.number not in placed}
            for column in found[1]:
                if column.number not in names or (column.number in here and names[column.number] != column.name):
                    without[column.number] = self._above_named(column)
            here -= without.keys()
            items.append(found[0])
            placed |= here
            at += len(here)
        body = Columns((*items, *self.off_items), tuple(without.values()))
        return self._checked(body, target) or self._in_names(target)

    def _in_names(self, target: Sequence[ShownColumn]) -> ColumnList:
        _check_some(target)
        return ColumnList(self.scope, Columns((*map(self._named, target), *self.off_items)))

    def _checked(self, body: Columns, target: Sequence[ShownColumn]) -> ColumnList | None:
        found = ColumnList(self.scope, body)
        given = [(chosen.column.number, chosen.column.name) for chosen in found.chosen]
        return found if given == [(column.number, column.name) for column in target] else None

    def _without_idle(self, body: Columns) -> Columns:
        """Leave out what is left out of nothing."""
        lookup = Lookup(self.scope, "")
        given = {column.number for item in body.items if _is_many(item) for column in columns_of_item(item, lookup)}
        kept = tuple(item for item in body.without
                     if given & {column.number for column in columns_of_item(item, lookup)})  # fmt: skip
        return replace(body, without=kept)

    def _target(self) -> list[ShownColumn]:
        return [chosen.column for chosen in self.chosen]

    def _named(self, column: ShownColumn) -> t.OneColumn:
        """Return the item of one column, under its name above the line where that means it."""
        above = self._above[column.number]
        return replace(self._above_named(column), new_name=None if column.name == above else column.name)

    def _above_named(self, column: ShownColumn) -> t.OneColumn:
        above = self._above[column.number]
        meant = self.scope.find(above)
        sure = meant is not None and meant.number == column.number
        return t.OneColumn(t.Name(above) if sure else t.ColumnNumber(column.number))


def _fits(
    columns: Sequence[ShownColumn], target: Sequence[ShownColumn], at: int, names: dict[int, str], placed: set[int]
) -> bool:
    """Tell whether what an item of many columns would give here is just what comes next.

    ``names`` are those wanted, by number; at most as many may have to be left out of the item as stay.
    """
    first = next((each for each in columns if names.get(each.number) == each.name and each.number not in placed), None)
    if first is None or first.number != target[at].number:
        return False
    plain = [each for each in columns if names.get(each.number) == each.name and each.number not in placed]
    gone = sum(each.number not in names for each in columns)
    found = [(each.number, each.name) for each in plain]
    return gone <= len(plain) and found == [(each.number, each.name) for each in target[at : at + len(plain)]]


def _is_many(item: t.ColumnItem) -> bool:
    """Tell items that are kept as they are written: those that may give other columns another time."""
    if isinstance(item, t.OneColumn):
        return isinstance(item.column, t.Dial)
    return not isinstance(item, t.OffItem)


def is_pattern(item: t.ColumnItem) -> bool:
    """Tell whether an item may meet other columns next time."""
    return _is_many(item) and not isinstance(item, t.AllColumns)


def item_name(item: t.ColumnItem) -> str:
    """Return how an item of many columns is written, "" for a column by its name."""
    return item_text(item) if is_pattern(item) else ""

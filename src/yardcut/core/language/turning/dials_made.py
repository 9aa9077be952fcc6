"""Dials made of what stands in a line: its number, the values of a condition, the column of an order's key."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.language.syntax.dial_lines import dial_text, parse_dial
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.turning.number_steps import number_moved
from yardcut.core.quick_dataclasses import dataclass

_HELD = (t.Number, t.Text, t.Moment, t.Truth)
_COLUMNS = (t.Name, t.ColumnNumber)


@dataclass(frozen=True, slots=True)
class MadeOfLine:
    """A line with a dial in the place of what it held."""

    text: str
    dial: DialSetting


def number_dial(text: str, taken: Collection[str]) -> MadeOfLine:
    """Make a dial of the number of a line that the keys of numbers move. Raises ``ListError`` where none can stand.

    >>> number_dial("draw top 12 by volume", ()).text
    'draw top :rows by volume'
    """
    found = number_moved(text, 0)
    if found is None:
        raise ListError("there is no number in this line")
    _, start, end = found
    name = _free("rows" if text.split()[0].lower() == "draw" else "number", taken)
    written = f"{text[:start]}:{name}{text[end:]}"
    parse_statement(written)
    return MadeOfLine(written, parse_dial(f"dial {name} = {text[start:end]}"))


def part_dials(node: t.Expression, taken: Collection[str]) -> tuple[t.Expression, tuple[DialSetting, ...]]:
    """Make dials of the values that a piece of a condition compares with, named after its column.

    Raises ``ListError`` for a piece that compares with none.
    """
    inner = node.condition if isinstance(node, t.Off) else node
    made = _of_piece(inner, taken)
    if made is None:
        raise ListError("a dial is made of a value: mark a piece that compares with one")
    found, dials = made
    return (replace(node, condition=found) if isinstance(node, t.Off) else found), dials


def key_dial(key: t.SortKey, taken: Collection[str]) -> tuple[t.SortKey, DialSetting]:
    """Make a dial of the column of an order's key. Raises ``ListError`` for a key that is worked out."""
    if not isinstance(key.value, _COLUMNS):
        raise ListError("a dial is made of a column, and this key is worked out of columns")
    name = _free("key", taken)
    return replace(key, value=t.Dial(name)), DialSetting(name, (key.value,))


def _of_piece(node: t.Expression, taken: Collection[str]) -> tuple[t.Expression, tuple[DialSetting, ...]] | None:
    match node:
        case t.Comparison(_, left, right) if _is_held(right):
            dial = _dial(left, (right,), taken)
            return replace(node, right=t.Dial(dial.name)), (dial,)
        case t.Comparison(_, left, right) if _is_held(left):
            dial = _dial(right, (left,), taken)
            return replace(node, left=t.Dial(dial.name)), (dial,)
        case t.In(value, items) if all(map(_is_held, items)):
            dial = _dial(value, items, taken)
            return replace(node, items=(t.Dial(dial.name),)), (dial,)
        case t.Like(value, pattern) if _is_held(pattern):
            dial = _dial(value, (pattern,), taken)
            return replace(node, pattern=t.Dial(dial.name)), (replace(dial, offered=None),)
        case t.TextTest(_, value, part) if _is_held(part):
            dial = _dial(value, (part,), taken)
            return replace(node, part=t.Dial(dial.name)), (replace(dial, offered=None),)
        case t.Between(value, low, high) if _is_held(low) and _is_held(high):
            first = _dial(value, (low,), taken, "_from")
            last = _dial(value, (high,), (*taken, first.name), "_to")
            return replace(node, low=t.Dial(first.name), high=t.Dial(last.name)), (first, last)
    return None


def _is_held(node: t.Expression) -> bool:
    return isinstance(node.value if isinstance(node, t.Negated) else node, _HELD)


def _dial(
    beside: t.Expression, values: tuple[t.Expression, ...], taken: Collection[str], ending: str = ""
) -> DialSetting:
    """Return a dial that is called after the column beside it, and offers that column's values for texts."""
    called = beside.name if isinstance(beside, t.Name) else "value"
    offered = beside if isinstance(beside, _COLUMNS) and all(isinstance(each, t.Text) for each in values) else None
    return DialSetting(_free(called + ending, taken), values, offered=offered)


def _free(wanted: str, taken: Collection[str]) -> str:
    """Return a name no dial has yet, of the letters that a dial's name may have."""
    plain = re.sub(r"\W+", "_", wanted).strip("_") or "value"
    try:
        parse_dial(dial_text(DialSetting(plain)))
    except ListError:
        plain = "value"
    names = (plain if number == 1 else f"{plain}_{number}" for number in range(1, len(taken) + 2))
    return next(name for name in names if name not in taken)

"""The dials of a list: reading their lines, and writing them again."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from functools import lru_cache
from typing import Any

from lark import Token, Transformer

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.language.syntax.building_values import VALUE_RULES
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.syntax.refusing import read, refused

WORD = "dial"
FORM = "dial name = value, … [from 4 to 40 [step 2] | from column species]"
EXAMPLE = "dial best = 12 from 4 to 40"


def is_dial_line(text: str) -> bool:
    """Tell whether a text being written is a dial rather than a line of a cut."""
    words = text.split(None, 1)
    return bool(words) and words[0].lower() == WORD


@lru_cache(maxsize=512)
def parse_dial(text: str) -> DialSetting:
    """Read one dial. Raises ``ListError`` with offsets into ``text``."""
    found: DialSetting = read(
        text, _Builder().transform, lambda error: refused(text, error, "in a dial", EXAMPLE), name="dial", start="dial"
    )
    _check(found, text)
    return found


class _Builder(Transformer[Token, Any]):
    """From the grammar's tree to a dial; a method is named after its rule."""

    def column(self, items: list[Token]) -> Any:
        return VALUE_RULES["column"](_span(items), items)

    def constant(self, items: list[Token]) -> Any:
        if items[-1].type == "NUMBER":
            number = t.Number(str(items[-1]), span=_span(items))
            return t.Negated(number, span=_span(items)) if len(items) > 1 else number
        rule = "text" if items[0].type == "TEXT" else "literal"
        return VALUE_RULES[rule](_span(items), items)

    def signed(self, items: list[Token]) -> Decimal:
        return Decimal("".join(items))

    def offer(self, items: list[Any]) -> dict[str, Any]:
        if isinstance(items[0], t.Expression):
            return {"offered": items[0]}
        return {"low": items[0], "high": items[1], "step": Decimal(items[2]) if len(items) > 2 else None}

    def dial(self, items: list[Any]) -> DialSetting:
        offer = items[-1] if isinstance(items[-1], dict) else {}
        values = tuple(item for item in items if isinstance(item, t.Expression))
        return DialSetting(str(items[0]), values, **offer)


def _span(items: list[Token]) -> t.Span:
    return (items[0].start_pos or 0, items[-1].end_pos or 0)


def _check(dial: DialSetting, text: str) -> None:
    """Raise ``ListError`` for values of several kinds, and for ends that are no ends."""
    kinds = {_what(value) for value in dial.values}
    if len(kinds) > 1:
        raise ListError(f"a dial holds values of one kind, not {' and '.join(sorted(kinds))}", end=len(text))
    if dial.low is not None and dial.high is not None:
        if dial.low > dial.high:
            raise ListError(f"from {dial.low} to {dial.high} runs from high to low", end=len(text))
        if dial.step == 0:
            raise ListError("a step of 0 moves nothing", end=len(text))
        if kinds - {"numbers"}:
            raise ListError("a dial from one number to another holds a number", end=len(text))


def _what(value: t.Expression) -> str:
    inner = value.value if isinstance(value, t.Negated) else value
    names = {t.Number: "numbers", t.Text: "texts", t.Moment: "days", t.Truth: "truths"}
    return names.get(type(inner), "columns")


def dial_text(dial: DialSetting) -> str:
    """Write a dial as it would be typed."""
    column = "column " if dial.is_column else ""
    said = f"dial {dial.name} ={' ' if dial.values else ''}{column}{', '.join(map(expression_text, dial.values))}"
    if dial.offered is not None:
        return f"{said} from column {expression_text(dial.offered)}"
    if dial.low is not None:
        return f"{said} from {dial.low} to {dial.high}" + (f" step {dial.step}" if dial.step is not None else "")
    return said


def with_texts(dial: DialSetting, texts: tuple[str, ...]) -> DialSetting:
    """Return a dial that holds what some texts say, as a command line gives them; ``""`` empties it.

    A text is read as the kind the dial has, a column where it holds one; a dial of no kind holds the text, which is
    read as what it is compared with. Raises ``ListError``.
    """
    wanted = [text for text in texts if text]
    return replace(dial, values=tuple(_value(dial, text) for text in wanted))


def _value(dial: DialSetting, text: str) -> t.Expression:
    what = "numbers" if dial.low is not None else _what(dial.values[0]) if dial.values else "texts"
    if what == "columns":
        return t.Name(text)
    if what == "texts":
        return t.Text(text)
    kind = dial.values[0].kind.upper() if dial.values and isinstance(dial.values[0], t.Moment) else ""
    quoted = text.replace("'", "''")
    written = f"{kind} '{quoted}'" if kind else text
    try:
        (value,) = parse_dial(f"dial {dial.name} = {written}").values
    except (ListError, ValueError):
        raise ListError(f"the dial {dial.name} holds {what}, and {text} is none") from None
    if _what(value) != what:
        raise ListError(f"the dial {dial.name} holds {what}, and {text} is none")
    return value


def nudged(dial: DialSetting, by: int) -> DialSetting:
    """Return a dial of one number with it moved by some steps, no further than its ends; others as they are."""
    if len(dial.values) != 1 or _what(dial.values[0]) != "numbers":
        return dial
    written = expression_text(dial.values[0])
    places = len(written.partition(".")[2])
    step = dial.step if dial.step is not None else Decimal(1).scaleb(-places)
    number = Decimal(written) + by * step
    if dial.low is not None and dial.high is not None:
        number = max(dial.low, min(dial.high, number))
    digits = t.Number(f"{abs(number):f}")
    return replace(dial, values=(t.Negated(digits) if number < 0 else digits,))

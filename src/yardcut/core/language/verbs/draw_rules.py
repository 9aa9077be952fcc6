"""What each form of a draw takes, and what the grammar cannot see of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from lark import Token

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import tree as t
from yardcut.core.language.limits import check_count


@dataclass(frozen=True, slots=True)
class Amount(t.Node):
    """How many rows: a count, or a percentage written exactly."""

    written: str
    percent: bool = False


CLAUSES: dict[str, tuple[str, ...]] = {
    "first": ("per",),
    "last": ("per",),
    "every": ("per",),
    "rows": ("per",),
    "top": ("keys", "per", "with_ties"),
    "bottom": ("keys", "per", "with_ties"),
    "random": ("per", "seed"),
    "chance": ("seed",),
}


def token_span(token: Token) -> t.Span:
    """Return the offsets of a token."""
    return (token.start_pos or 0, token.end_pos or 0)


def whole(token: Token) -> int:
    """Read a whole number. Raises ``ListError``."""
    if not str(token).isdigit():
        start, end = token_span(token)
        raise ListError(f"a whole number stands here, not {token}", start=start, end=end)
    return int(token)


def place_of_row(token: Token) -> int:
    """Read the number of a row, from 1. Raises ``ListError``."""
    check_count(token, *token_span(token))
    return whole(token)


def whole_amount(token: Token) -> Amount:
    """Read a whole number of rows. Raises ``ListError``."""
    return Amount(str(place_of_row(token)), span=token_span(token))


def check_amount(fields: dict[str, Any]) -> None:
    """Raise ``ListError`` when the number of a draw makes no sense."""
    amount: Amount = fields["amount"]
    start, end = amount.span
    form = fields["form"]
    check_count(amount.written, start, end)
    if form in ("every", "rows") or fields.get("one_in"):
        if int(amount.written) < 1 or fields.get("start", 1) < 1:
            raise ListError("rows are counted from 1", start=start, end=end)
        if form == "rows" and fields["end"] < fields["start"]:
            raise ListError(f"rows {fields['start']} to {fields['end']} runs backwards and takes nothing",
                            start=start, end=end)  # fmt: skip
        return
    if form != "chance" and not amount.percent and not amount.written.isdigit():
        raise ListError(f"a number of rows is whole, not {amount.written}", start=start, end=end)
    number = t.Number(amount.written).value
    if amount.percent and number > 100:
        raise ListError("no more than 100 percent can be drawn", start=start, end=end)
    if form == "chance" and not amount.percent and number > 1:
        raise ListError("a chance lies between 0 and 1", start=start, end=end, mend=Mend("write 10 percent, or 0.1"))


def check_ranked(form: str, fields: dict[str, Any], span: t.Span) -> None:
    """Raise ``ListError`` when a top or bottom lacks what to rank by, or says twice which end comes first."""
    if "keys" not in fields:
        raise ListError(f"draw {form} needs what to rank by: draw {form} 12 by price_per_m3",
                        start=span[0], end=span[1])  # fmt: skip
    first: t.SortKey = fields["keys"][0]
    if first.descending or first.nulls_first:
        raise ListError(
            f"{form} already says which end comes first: the first key takes no DESC and no NULLS",
            start=first.span[0], end=first.span[1],
        )  # fmt: skip

"""``draw``: some of the rows, by place, by value or by chance."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from lark import Token

from yardcut.core.errors import ListError
from yardcut.core.language import bound as b
from yardcut.core.language import tree as t
from yardcut.core.language.binding import Binder
from yardcut.core.language.building_expressions import not_yet
from yardcut.core.language.printing import keys_text, side_text
from yardcut.core.language.scope import Scope
from yardcut.core.language.verbs.draw_rules import (
    CLAUSES,
    Amount,
    check_amount,
    check_ranked,
    place_of_row,
    token_span,
    whole,
    whole_amount,
)
from yardcut.core.language.verbs.verb import Effect, Rule, Verb

_BY_CHANCE = ("random", "chance")


@dataclass(frozen=True, slots=True)
class Draw(t.Body):
    """Takes some rows.

    ``form`` is first, last, top, bottom, random, every, rows or chance. For ``every``, ``amount`` is the step and
    ``start`` the first position; for ``rows`` they are the first and ``end`` the last position; for ``chance``
    ``amount`` is a probability (a percentage, or ``1 in n`` as ``one_in``).
    """

    form: str
    amount: Amount
    keys: tuple[t.SortKey, ...] = ()
    per: tuple[t.Expression, ...] = ()
    with_ties: bool = False
    seed: int | None = None
    start: int = 1
    end: int = 0
    one_in: bool = False
    remainder: bool = False

    @property
    def word(self) -> str:
        """The verb."""
        return "draw"


@dataclass(frozen=True, slots=True)
class BoundDraw(b.BoundBody):
    """A draw line: its tree with keys and groups bound."""

    draw: Draw
    keys: tuple[b.Key, ...]
    groups: tuple[b.BoundValue, ...]

    def arranges(self) -> tuple[b.Key, ...] | None:
        """Return the keys a top or bottom puts its rows in order by, the best first; group by group, by none."""
        if not self.keys or self.draw.remainder:
            return None
        if self.groups:
            return ()
        return (replace(self.keys[0], descending=self.draw.form == "top"), *self.keys[1:])


# building


def _amount(span: t.Span, items: list[Any]) -> Amount:
    return Amount(str(items[0]), percent=len(items) > 1, span=span)


def _every(span: t.Span, items: list[Any]) -> dict[str, Any]:
    start = place_of_row(items[2]) if len(items) > 2 else 1
    return {"form": "every", "amount": whole_amount(items[1]), "start": start}


def _rows(span: t.Span, items: list[Any]) -> dict[str, Any]:
    return {
        "form": "rows",
        "amount": whole_amount(items[1]),
        "start": place_of_row(items[1]),
        "end": place_of_row(items[2]),
    }


def _chance(span: t.Span, items: list[Any]) -> dict[str, Any]:
    percent = any(item.type == "PERCENT_WORD" for item in items)
    if len(items) > 2 and not percent:
        if items[1] != "1":
            start, end = token_span(items[1])
            raise ListError("a chance is written 1 in 10, 10 percent, or 0.1", start=start, end=end)
        return {"form": "chance", "amount": whole_amount(items[2]), "one_in": True}
    return {"form": "chance", "amount": Amount(str(items[1]), percent, span=token_span(items[1]))}


def _later(span: t.Span, items: list[Any]) -> Any:
    raise not_yet(items[-1])


def _draw(span: t.Span, items: list[Any]) -> Draw:
    fields: dict[str, Any] = dict(items[1])
    form = fields["form"]
    allowed = CLAUSES[form]
    for item in items[2:]:
        if isinstance(item, Token):
            fields["remainder"] = True
            continue
        name, value = item
        word = {"keys": "by", "with_ties": "ties"}.get(name, name)
        if name in fields:
            raise ListError(f"{word} stands twice in this draw", start=span[0], end=span[1])
        if name not in allowed:
            takes = ", ".join({"keys": "by", "with_ties": "with ties"}.get(a, a) for a in allowed) or "no clause"
            raise ListError(f"draw {form} takes {takes}, not {word}", start=span[0], end=span[1])
        fields[name] = value
    if "keys" in allowed:
        check_ranked(form, fields, span)
    check_amount(fields)
    return Draw(**fields, span=span)


_RULES: dict[str, Rule] = {
    "amount": _amount,
    "counted": lambda span, items: {"form": items[0].lower(), "amount": items[1]},
    "every": _every,
    "rows": _rows,
    "chance": _chance,
    "later_draw": _later,
    "later_clause": _later,
    "by": lambda span, items: ("keys", items[0]),
    "per": lambda span, items: ("per", tuple(items)),
    "ties": lambda span, items: ("with_ties", items[0].type == "WITH"),
    "seed": lambda span, items: ("seed", whole(items[0])),
    "draw": _draw,
}


def _text(draw: Draw) -> str:
    amount = draw.amount.written + (" percent" if draw.amount.percent else "")
    words = [draw.form]
    match draw.form:
        case "every":
            words += [amount] + ([f"from {draw.start}"] if draw.start != 1 else [])
        case "rows":
            words += [f"{draw.start} to {draw.end}"]
        case "chance":
            words += [f"1 in {amount}" if draw.one_in else amount]
        case _:
            words += [amount]
    if draw.keys:
        words.append(f"by {keys_text(draw.keys)}")
    if draw.per:
        words.append("per " + ", ".join(side_text(value) for value in draw.per))
    if draw.with_ties:
        words.append("with ties")
    if draw.seed is not None:
        words.append(f"seed {draw.seed}")
    if draw.remainder:
        words.append("remainder")
    return " ".join(words)


def _bind(draw: Draw, binder: Binder) -> tuple[BoundDraw, Scope]:
    if draw.form in _BY_CHANCE and draw.seed is None:
        raise ListError("a draw by chance needs a seed here", start=draw.span[0], end=draw.span[1])
    groups = tuple(binder.value(value) for value in draw.per)
    return BoundDraw(draw, binder.keys(draw.keys), groups), binder.scope


def _seeded(draw: Draw, seed: int) -> Draw:
    return replace(draw, seed=seed) if draw.form in _BY_CHANCE and draw.seed is None else draw


DRAW = Verb(
    "draw",
    "draw first | last | top | bottom | random | every | rows | chance … [per group]",
    "takes some of the rows",
    "draw top 10 by price_per_m3 per species with ties",
    Effect.REMOVES,
    _RULES,
    _text,
    _bind,
    seeded=_seeded,
    forms={
        "first": "draw first 100 [percent] [per species]",
        "last": "draw last 5 percent [per species]",
        "top": "draw top 12 by price_per_m3 [, grade] [per species] [with ties]",
        "bottom": "draw bottom 3 by moisture_pct [per bay] [with ties]",
        "random": "draw random 500 [percent] [per species] [seed 7]",
        "every": "draw every 10 [from 3] [per species]",
        "rows": "draw rows 101 to 200",
        "chance": "draw chance 0.1 [seed 7], or chance 10 percent, or chance 1 in 10",
    },
)

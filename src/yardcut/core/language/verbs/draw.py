"""``draw``: some of the rows, by place, by value or by chance."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from lark import Token

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.binds import is_constant
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.building_expressions import Rule
from yardcut.core.language.syntax.printing import expression_text, keys_text, side_text
from yardcut.core.language.verbs.draw_parts import Amount, BoundDraw, Draw, NamedShare, Share, Strata
from yardcut.core.language.verbs.draw_rules import (
    CLAUSE_WORDS,
    CLAUSES,
    check,
    place_of_row,
    token_span,
    whole,
    whole_amount,
)
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.values.kinds import Kind

# building


def _amount(span: t.Span, items: list[Any]) -> Amount:
    return Amount(str(items[0]), percent=len(items) > 1, span=span)


def _every(span: t.Span, items: list[Any]) -> dict[str, Any]:
    start = place_of_row(items[2]) if len(items) > 2 else 1
    return {"form": "every", "amount": whole_amount(items[1]), "start": start, "places": _places(start=items[2:])}


def _places(**tokens: list[Token]) -> tuple[tuple[str, str], ...]:
    """Return which numbers a dial gives."""
    return tuple((name, found[0][1:]) for name, found in tokens.items() if found and found[0].type == "DIAL")


def _rows(span: t.Span, items: list[Any]) -> dict[str, Any]:
    return {
        "form": "rows",
        "amount": whole_amount(items[1]),
        "start": place_of_row(items[1]),
        "end": place_of_row(items[2]),
        "places": _places(start=items[1:2], end=items[2:]),
    }


def _chance(span: t.Span, items: list[Any]) -> dict[str, Any]:
    percent = any(item.type == "PERCENT_WORD" for item in items)
    if len(items) > 2 and not percent:
        if items[1] != "1":
            start, end = token_span(items[1])
            raise ListError("a chance is written 1 in 10, 10 percent, or 0.1", start=start, end=end)
        return {"form": "chance", "amount": whole_amount(items[2]), "one_in": True}
    return {"form": "chance", "amount": Amount(str(items[1]), percent, span=token_span(items[1]))}


def _stratified(span: t.Span, items: list[Any]) -> dict[str, Any]:
    if len(items) < 2:
        return {"form": "stratified"}
    return {"form": "stratified", "amount": Amount(str(items[1]), span=token_span(items[1]))}


def _part(span: t.Span, items: list[Any]) -> dict[str, Any]:
    numbers = [item for item in items[1:] if item.type in ("NUMBER", "DIAL")]
    split = tuple(Amount(str(item), True, span=token_span(item)) for item in numbers[1:])
    return {"form": "part", "amount": whole_amount(numbers[0]), "split": split}


def _allocation(span: t.Span, items: list[Any]) -> tuple[str, Strata]:
    word = items[0]
    if word.type == "NUMBER":
        return "strata", Strata("at least", place_of_row(word), span=span)
    return "strata", Strata("equal" if word.type == "EQUAL" else "proportional", span=span)


def _sizes(span: t.Span, items: list[Any]) -> tuple[str, Strata]:
    how = "sizes" if items[0].type == "SIZES" else "shares"
    return "strata", Strata(how, shares=tuple(items[1:]), span=span)  # type: ignore[arg-type] # one of two words


def _stratum(span: t.Span, items: list[Any]) -> tuple[t.Expression, ...]:
    for item in items:
        if not isinstance(item, Token | t.Dial) and not is_constant(item):
            raise ListError(
                "a group is named by its value, such as 'oak' or NULL", start=item.span[0], end=item.span[1]
            )
    return () if isinstance(items[0], Token) else tuple(items)


def _draw(span: t.Span, items: list[Any]) -> Draw:
    fields: dict[str, Any] = dict(items[1])
    form = fields["form"]
    allowed = CLAUSES[form]
    for item in items[2:]:
        if isinstance(item, Token):
            fields["remainder"] = True
            continue
        name, value = item
        word = {"with_ties": "ties"}.get(name) or CLAUSE_WORDS.get(name, name)
        if name in fields:
            raise ListError(f"{word} stands twice in this draw", start=span[0], end=span[1])
        if name not in allowed:
            takes = ", ".join(CLAUSE_WORDS.get(each, each) for each in allowed) or "no clause"
            raise ListError(f"draw {form} takes {takes}, not {word}", start=span[0], end=span[1])
        if isinstance(value, str):  # a dial's name
            fields["places"] = (*fields.get("places", ()), (name, value))
        fields[name] = None if isinstance(value, str) else value
    drawn = Draw(**fields, span=span)
    check(drawn)
    return drawn


_RULES: dict[str, Rule] = {
    "amount": _amount,
    "counted": lambda span, items: {"form": items[0].lower(), "amount": items[1]},
    "every": _every,
    "rows": _rows,
    "chance": _chance,
    "reach": lambda span, items: {"form": "from", "reach": tuple(items[1:])},
    "stratified": _stratified,
    "part": _part,
    "by": lambda span, items: ("keys", items[0]),
    "per": lambda span, items: ("per", tuple(items)),
    "ties": lambda span, items: ("with_ties", items[0].type == "WITH"),
    "seed": lambda span, items: ("seed", items[0][1:] if items[0].type == "DIAL" else whole(items[0])),
    "weighted": lambda span, items: ("weight", items[0]),
    "replacement": lambda span, items: ("with_replacement", True),
    "allocation": _allocation,
    "sizes": _sizes,
    "size": lambda span, items: Share(items[0], items[1], span=span),
    "stratum": _stratum,
    "draw": _draw,
}


# writing


def _text(draw: Draw) -> str:
    amount, named = _amount_text(draw.amount), {place: f":{name}" for place, name in draw.places}
    start, end = named.get("start", draw.start), named.get("end", draw.end)
    words = [draw.form]
    match draw.form:
        case "every":
            words += [amount] + ([f"from {start}"] if start != 1 else [])
        case "rows":
            words += [f"{start} to {end}"]
        case "chance":
            words += [f"1 in {amount}" if draw.one_in else amount]
        case "from":
            words += [" to ".join(map(expression_text, draw.reach))]
        case "part":
            words += [f"{amount} of {', '.join(each.written for each in draw.split)} percent"]
        case _ if amount:
            words += [amount]
    if draw.keys:
        words.append(f"by {keys_text(draw.keys)}")
    if draw.weight is not None:
        words.append(f"weighted by {side_text(draw.weight)}")
    if draw.per:
        words.append("per " + ", ".join(side_text(value) for value in draw.per))
    if draw.strata is not None:
        words.append(_strata_text(draw.strata))
    if draw.with_ties:
        words.append("with ties")
    if draw.with_replacement:
        words.append("with replacement")
    if draw.seed is not None or "seed" in named:
        words.append(f"seed {named.get('seed', draw.seed)}")
    if draw.remainder:
        words.append("remainder")
    return " ".join(words)


def _amount_text(amount: Amount) -> str:
    return amount.written + (" percent" if amount.percent else "")


def _strata_text(strata: Strata) -> str:
    if strata.how == "at least":
        return f"at least {strata.least} each"
    if not strata.shares:
        return strata.how
    return f"{strata.how} {', '.join(f'{_key_text(each)} {_amount_text(each.amount)}' for each in strata.shares)}"


def _key_text(share: Share) -> str:
    if not share.key:
        return "others"
    values = ", ".join(map(side_text, share.key))
    return f"({values})" if len(share.key) > 1 else values


# binding


def _bind(draw: Draw, binder: Binder) -> tuple[BoundDraw, Scope]:
    if draw.is_by_chance and draw.seed is None:
        raise ListError("a draw by chance needs a seed here", start=draw.span[0], end=draw.span[1])
    groups = tuple(binder.value(value) for value in draw.per)
    shares = () if draw.strata is None else tuple(_named_share(binder, draw, each) for each in draw.strata.shares)
    weight = None if draw.weight is None else binder.value(draw.weight)
    if draw.weight is not None and weight is not None and not weight.kind.is_numeric:
        raise binder.error(draw.weight, f"a weight is a number, and {expression_text(draw.weight)} is none")
    reach = tuple(binder.condition(each) for each in draw.reach)
    return BoundDraw(draw, binder.keys(draw.keys), groups, weight, shares, reach), binder.scope


def _named_share(binder: Binder, draw: Draw, share: Share) -> NamedShare:
    """Return a share with the key its group has. Raises ``ListError`` for values its groups cannot have."""
    key = tuple(_group_value(binder, value, named) for value, named in zip(draw.per, share.key, strict=False))
    return NamedShare(key if share.key else None, share.amount, share.span, _key_text(share))


def _group_value(binder: Binder, value: t.Expression, named: t.Expression) -> object:
    if isinstance(named, t.Truth) and named.value is None:
        return None
    group, constant = binder.pair(value, named)
    assert isinstance(constant, b.Constant)
    return float(constant.value) if group.kind is Kind.NUMBER else constant.value


def _seeded(draw: Draw, seed: int) -> Draw:
    is_wanted = draw.is_by_chance and draw.seed is None and "seed" not in dict(draw.places)
    return replace(draw, seed=seed) if is_wanted else draw


DRAW = Verb(
    "draw",
    "draw first | last | top | bottom | random | stratified | every | rows | from | part | chance … [per group]",
    "takes some of the rows",
    "draw top 10 by price_per_m3 per species with ties",
    Effect.REMOVES,
    _RULES,
    _text,
    _bind,
    seeded=_seeded,
    forms=lambda: {
        "first": "draw first 100 [percent] [per species]",
        "last": "draw last 5 percent [per species]",
        "top": "draw top 12 by price_per_m3 [, grade] [per species] [with ties]",
        "bottom": "draw bottom 3 by moisture_pct [per bay] [with ties]",
        "random": "draw random 500 [percent] [per species] [weighted by volume_m3] [with replacement] [seed 7]",
        "stratified": "draw stratified 500 per species [equal | at least 5 each | sizes 'oak' 300, others 20]",
        "every": "draw every 10 [from 3] [per species]",
        "rows": "draw rows 101 to 200",
        "from": "draw from ticket = '00417-29' to ticket = '00512-29'",
        "part": "draw part 1 of 60, 20, 20 percent [per species] [seed 7]",
        "chance": "draw chance 0.1 [seed 7], or chance 10 percent, or chance 1 in 10",
    },
)

"""From the grammar's parse tree to the trees of the language."""

from __future__ import annotations

import re
from typing import Any, Literal

from lark import Token, Transformer, Tree, v_args

from yardcut.core.errors import ListError, Mend, NotYetError
from yardcut.core.language import tree as t
from yardcut.core.values.temporal import parse_date, parse_timestamp

_ESCAPES = re.compile(r"\\(\\|\+[0-9a-fA-F]{6}|[0-9a-fA-F]{4})")

LATER_WORDS = {
    "FUNCTION": "functions",
    "DIAL": "dials",
    "CASE": "CASE",
    "CURRENT_DATE": "CURRENT_DATE",
    "AGGREGATE_OF": "sums over several columns of a row",
    "ANY_OF": "ANY OF and ALL OF",
    "INTERVAL": "intervals of time",
    "NUMBER_AWARE": "number-aware order",
    "IN_SEQUENCE": "order in a sequence of one's own",
    "STRATIFIED": "stratified draws",
    "PART": "draws of a part of a split",
    "FROM_WORD": "draws from one row to another",
    "WEIGHTED": "weighted draws",
    "REPLACEMENT": "draws with replacement",
}
"""Terminals of forms this version does not have, and what they are called."""


def unquote(token: str) -> str:
    """Return the text between quotes, doubled quotes and ``U&`` escapes resolved."""
    escaped = token[:2].upper() == "U&"
    inner = token[2:] if escaped else token
    mark = inner[0]
    inner = inner[1:-1].replace(mark * 2, mark)
    if not escaped:
        return inner
    return _ESCAPES.sub(lambda match: _unescape(match.group(1)), inner)


def _unescape(code: str) -> str:
    return "\\" if code == "\\" else chr(int(code.lstrip("+"), 16))


def not_yet(token: Token) -> NotYetError:
    """Return the error for a form this version does not have."""
    what = LATER_WORDS.get(token.type, str(token))
    start = token.start_pos or 0
    return NotYetError(
        f"this version does not have {what} yet", start=start, end=start + len(token),
        mend=Mend("write the line without it"),
    )  # fmt: skip


def _span(meta: Any) -> t.Span:
    return (0, 0) if meta.empty else (meta.start_pos, meta.end_pos)


def _covering(first: t.Node, last: t.Node) -> t.Span:
    return (first.span[0], last.span[1])


_Items = list[Any]


@v_args(meta=True)
class Builder(Transformer[Token, Any]):
    """Builds the trees of :mod:`yardcut.core.language.tree` from the bottom up."""

    def statement(self, meta: Any, items: _Items) -> t.Statement:
        return t.Statement(items[-1], off=len(items) > 1, span=_span(meta))

    def keep(self, meta: Any, items: _Items) -> t.Keep:
        return t.Keep(items[-1], span=_span(meta))

    def drop(self, meta: Any, items: _Items) -> t.Drop:
        return t.Drop(items[-1], span=_span(meta))

    # conditions

    def disjunction(self, meta: Any, items: _Items) -> t.Expression:
        return items[0] if len(items) == 1 else t.Or(tuple(items), span=_span(meta))

    def conjunction(self, meta: Any, items: _Items) -> t.Expression:
        return items[0] if len(items) == 1 else t.And(tuple(items), span=_span(meta))

    def negation(self, meta: Any, items: _Items) -> t.Expression:
        return items[0] if len(items) == 1 else t.Not(items[1], span=_span(meta))

    def truth(self, meta: Any, items: _Items) -> t.Expression:
        found, negated = items[0], False
        for item in items[1:]:
            kind = item.type
            if kind == "NOT":
                negated = True
            elif kind in ("IS", "_IS"):
                negated = False
            elif kind == "NULL":
                found = t.IsNull(found, negated, span=(found.span[0], item.end_pos))
            else:
                truth = {"TRUE": True, "FALSE": False}.get(kind)
                found = t.IsTruth(found, truth, negated, span=(found.span[0], item.end_pos))
        return found

    def comparison(self, meta: Any, items: _Items) -> t.Expression:
        if len(items) == 1:
            return items[0]
        value, (make, span_end) = items
        return make(value, (value.span[0], span_end))

    def compare(self, meta: Any, items: _Items) -> Any:
        operator = "<>" if items[0] == "!=" else str(items[0])
        ignoring = items[-1] is True
        right = items[1]
        return (
            lambda left, span: t.Comparison(operator, left, right, ignoring, span=span)
        ), meta.end_pos  # fmt: skip

    def between(self, meta: Any, items: _Items) -> Any:
        words = {item.type for item in items if isinstance(item, Token)}
        low, high = (item for item in items if isinstance(item, t.Expression))
        return (
            lambda value, span: t.Between(value, low, high, "SYMMETRIC" in words, "NOT" in words, span=span)
        ), meta.end_pos

    def _test(self, items: _Items) -> tuple[bool, bool, list[Any]]:
        negated = isinstance(items[0], Token) and items[0].type == "NOT"
        ignoring = items[-1] is True
        return negated, ignoring, [item for item in items if isinstance(item, t.Expression)]

    def in_list(self, meta: Any, items: _Items) -> Any:
        negated, ignoring, values = self._test(items)
        return (lambda value, span: t.In(value, tuple(values), negated, ignoring, span=span)), meta.end_pos

    def like(self, meta: Any, items: _Items) -> Any:
        negated, ignoring, texts = self._test(items)
        escape = texts[1] if len(texts) > 1 else None
        return (lambda value, span: t.Like(value, texts[0], escape, negated, ignoring, span=span)), meta.end_pos

    def like_regex(self, meta: Any, items: _Items) -> Any:
        negated, _, texts = self._test(items)
        flags = texts[1].value if len(texts) > 1 else ""
        return (lambda value, span: t.LikeRegex(value, texts[0], flags, negated, span=span)), meta.end_pos

    def text_test(self, meta: Any, items: _Items) -> Any:
        negated, ignoring, texts = self._test(items)
        word = next(item for item in items if isinstance(item, Token) and item.type != "NOT").upper()
        test = word if word == "CONTAINS" else f"{word} WITH"
        return (lambda value, span: t.TextTest(test, value, texts[0], negated, ignoring, span=span)), meta.end_pos

    def ignoring(self, meta: Any, items: _Items) -> Literal[True]:
        return True

    # values

    def _chain(self, items: _Items) -> t.Expression:
        found: t.Expression = items[0]
        for operator, right in zip(items[1::2], items[2::2], strict=True):
            found = t.Arithmetic(str(operator), found, right, span=_covering(found, right))
        return found

    def value(self, meta: Any, items: _Items) -> t.Expression:
        return self._chain(items)

    def product(self, meta: Any, items: _Items) -> t.Expression:
        return self._chain(items)

    def sign(self, meta: Any, items: _Items) -> t.Expression:
        found: t.Expression = items[-1]
        for sign in reversed(items[:-1]):
            if sign == "-":
                found = t.Negated(found, span=(sign.start_pos, found.span[1]))
        return found

    def brackets(self, meta: Any, items: _Items) -> t.Expression:
        return items[0]

    def off_piece(self, meta: Any, items: _Items) -> t.Off:
        return t.Off(items[1], span=_span(meta))

    def literal(self, meta: Any, items: _Items) -> t.Expression:
        token, span = items[0], _span(meta)
        if token.type == "SOURCE_ROW":
            return t.SourceRow(span=span)
        if token.type in ("TRUE", "FALSE", "NULL"):
            return t.Truth({"TRUE": True, "FALSE": False}.get(token.type), span=span)
        text = unquote(items[1])
        is_date = token.type == "DATE"
        try:
            value = parse_date(text) if is_date else parse_timestamp(text)
        except ValueError:
            raise ListError(f"there is no day or time {text}", start=span[0], end=span[1]) from None
        if value is None:
            form = "'2031-03-01'" if is_date else "'2031-03-01 14:00:00'"
            raise ListError(f"{token.upper()} takes the form {form}", start=span[0], end=span[1])
        return t.Moment(is_date, value, span=span)

    def number(self, meta: Any, items: _Items) -> t.Number:
        return t.Number(str(items[0]), span=_span(meta))

    def text(self, meta: Any, items: _Items) -> t.Text:
        return t.Text(unquote(items[0]), span=_span(meta))

    def column(self, meta: Any, items: _Items) -> t.Expression:
        token, span = items[0], _span(meta)
        if token.type == "HASH":
            return t.ColumnNumber(int(token[1:]), span=span)
        if token.type == "QUOTED":
            return t.Name(unquote(token), quoted=True, span=span)
        return t.Name(str(token), span=span)

    def later(self, meta: Any, items: _Items) -> t.Expression:
        raise not_yet(items[0])

    # order

    def sort_keys(self, meta: Any, items: _Items) -> tuple[t.SortKey, ...]:
        return tuple(items)

    def sort_key(self, meta: Any, items: _Items) -> t.SortKey:
        value = next(item for item in items if isinstance(item, t.Expression))
        words = {item.type for item in items if isinstance(item, Token)}
        return t.SortKey(value, "DESC" in words, "FIRST" in words, "OFF_KEY" in words, span=_span(meta))

    def later_key(self, meta: Any, items: _Items) -> Any:
        if items[0].type in LATER_WORDS:
            raise not_yet(items[0])
        raise NotYetError(
            "this version does not order ignoring case yet", start=meta.start_pos, end=meta.end_pos
        )

    def order(self, meta: Any, items: _Items) -> t.Order:
        rest = items[1:]
        if isinstance(rest[0], tuple):
            return t.Order(rest[0], span=_span(meta))
        seed = rest[1][1] if len(rest) > 1 else None
        return t.Order((), rest[0].type == "AT_RANDOM", seed, span=_span(meta))

    # draw

    def amount(self, meta: Any, items: _Items) -> t.Amount:
        return t.Amount(str(items[0]), percent=len(items) > 1, span=_span(meta))

    def counted(self, meta: Any, items: _Items) -> dict[str, Any]:
        return {"form": items[0].lower(), "amount": items[1]}

    def every(self, meta: Any, items: _Items) -> dict[str, Any]:
        start = _whole(items[2]) if len(items) > 2 else 1
        return {"form": "every", "amount": _amount(items[1]), "start": start}

    def rows(self, meta: Any, items: _Items) -> dict[str, Any]:
        return {"form": "rows", "amount": _amount(items[1]), "start": _whole(items[1]), "end": _whole(items[2])}

    def chance(self, meta: Any, items: _Items) -> dict[str, Any]:
        percent = any(item.type == "PERCENT_WORD" for item in items)
        if len(items) > 2 and not percent:
            if items[1] != "1":
                raise ListError("a chance is written 1 in 10, 10 percent, or 0.1",
                                start=items[1].start_pos, end=items[1].end_pos)  # fmt: skip
            return {"form": "chance", "amount": _amount(items[2]), "one_in": True}
        return {"form": "chance", "amount": t.Amount(str(items[1]), percent, span=_token_span(items[1]))}

    def later_draw(self, meta: Any, items: _Items) -> Any:
        raise not_yet(items[0])

    def later_clause(self, meta: Any, items: _Items) -> Any:
        raise not_yet(items[-1])

    def by(self, meta: Any, items: _Items) -> tuple[str, Any]:
        return "keys", items[0]

    def per(self, meta: Any, items: _Items) -> tuple[str, Any]:
        return "per", tuple(items)

    def ties(self, meta: Any, items: _Items) -> tuple[str, Any]:
        return "with_ties", items[0].type == "WITH"

    def seed(self, meta: Any, items: _Items) -> tuple[str, Any]:
        return "seed", _whole(items[0])

    def draw(self, meta: Any, items: _Items) -> t.Draw:
        fields: dict[str, Any] = dict(items[1])
        form = fields["form"]
        allowed = _CLAUSES[form]
        for item in items[2:]:
            if isinstance(item, Token):
                fields["remainder"] = True
                continue
            name, value = item
            word = {"keys": "by", "with_ties": "ties"}.get(name, name)
            if name in fields:
                raise ListError(f"{word} stands twice in this draw", start=meta.start_pos, end=meta.end_pos)
            if name not in allowed:
                takes = ", ".join({"keys": "by", "with_ties": "with ties"}.get(a, a) for a in allowed) or "no clause"
                raise ListError(f"draw {form} takes {takes}, not {word}", start=meta.start_pos, end=meta.end_pos)
            fields[name] = value
        if "keys" in allowed:
            _check_ranked(form, fields, meta)
        _check_amount(fields)
        return t.Draw(**fields, span=_span(meta))

    # columns

    def one_column(self, meta: Any, items: _Items) -> t.OneColumn:
        new_name = None
        if len(items) > 1:
            new_name = unquote(items[1]) if items[1].type == "QUOTED" else str(items[1])
        return t.OneColumn(items[0], new_name, span=_span(meta))

    def range(self, meta: Any, items: _Items) -> t.ColumnRange:
        return t.ColumnRange(items[0], items[1], span=_span(meta))

    def pattern(self, meta: Any, items: _Items) -> t.ColumnPattern:
        return t.ColumnPattern(str(items[0]), span=_span(meta))

    def regex(self, meta: Any, items: _Items) -> t.ColumnRegex:
        return t.ColumnRegex(items[0][1:-1].replace("\\/", "/"), span=_span(meta))

    def of_kind(self, meta: Any, items: _Items) -> t.ColumnsOfKind:
        return t.ColumnsOfKind(items[0].lower(), span=_span(meta))

    def all(self, meta: Any, items: _Items) -> t.AllColumns:
        return t.AllColumns(span=_span(meta))

    def off_item(self, meta: Any, items: _Items) -> t.OffItem:
        return t.OffItem(items[1], span=_span(meta))

    def column_list(self, meta: Any, items: _Items) -> tuple[t.ColumnItem, ...]:
        return tuple(items)

    def columns(self, meta: Any, items: _Items) -> t.Columns:
        return t.Columns(items[1], items[2] if len(items) > 2 else (), span=_span(meta))

    # save

    def save(self, meta: Any, items: _Items) -> t.Save:
        names = [str(item).lower() for item in items[2:] if item.type == "NAME"]
        replace = any(item.type == "REPLACE" for item in items[2:])
        return t.Save(unquote(items[1]), names[0] if names else None, replace, span=_span(meta))


_CLAUSES: dict[str, tuple[str, ...]] = {
    "first": ("per",),
    "last": ("per",),
    "every": ("per",),
    "rows": ("per",),
    "top": ("keys", "per", "with_ties"),
    "bottom": ("keys", "per", "with_ties"),
    "random": ("per", "seed"),
    "chance": ("seed",),
}


def _token_span(token: Token) -> t.Span:
    return (token.start_pos or 0, token.end_pos or 0)


def _whole(token: Token) -> int:
    if not str(token).isdigit():
        start, end = _token_span(token)
        raise ListError(f"a whole number stands here, not {token}", start=start, end=end)
    return int(token)


def _amount(token: Token) -> t.Amount:
    return t.Amount(str(_whole(token)), span=_token_span(token))


def _check_amount(fields: dict[str, Any]) -> None:
    amount: t.Amount = fields["amount"]
    start, end = amount.span
    form = fields["form"]
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


def _check_ranked(form: str, fields: dict[str, Any], meta: Any) -> None:
    if "keys" not in fields:
        raise ListError(f"draw {form} needs what to rank by: draw {form} 12 by price_per_m3",
                        start=meta.start_pos, end=meta.end_pos)  # fmt: skip
    first: t.SortKey = fields["keys"][0]
    if first.descending or first.nulls_first:
        raise ListError(
            f"{form} already says which end comes first: the first key takes no DESC and no NULLS",
            start=first.span[0], end=first.span[1],
        )  # fmt: skip


def build(parsed: Tree[Token]) -> t.Statement:
    """Build a statement's tree. Raises ``ListError`` for what the grammar cannot see."""
    result: t.Statement = Builder().transform(parsed)
    return result

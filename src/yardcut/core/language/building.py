"""From the grammar's parse tree to the trees of the language; a method is named after its rule."""

from __future__ import annotations

from typing import Any

from lark import Token, Tree, v_args

from yardcut.core.errors import ListError, NotYetError
from yardcut.core.language import tree as t
from yardcut.core.language.building_expressions import LATER_WORDS, ExpressionBuilder, Items, not_yet, span_of, unquote
from yardcut.core.language.draw_rules import CLAUSES, check_amount, check_ranked, token_span, whole, whole_amount


@v_args(meta=True)
class Builder(ExpressionBuilder):
    """Builds the trees of :mod:`yardcut.core.language.tree` from the bottom up."""

    def statement(self, meta: Any, items: Items) -> t.Statement:
        return t.Statement(items[-1], off=len(items) > 1, span=span_of(meta))

    def keep(self, meta: Any, items: Items) -> t.Keep:
        return t.Keep(items[-1], span=span_of(meta))

    def drop(self, meta: Any, items: Items) -> t.Drop:
        return t.Drop(items[-1], span=span_of(meta))

    # order

    def sort_keys(self, meta: Any, items: Items) -> tuple[t.SortKey, ...]:
        return tuple(items)

    def sort_key(self, meta: Any, items: Items) -> t.SortKey:
        value = next(item for item in items if isinstance(item, t.Expression))
        words = {item.type for item in items if isinstance(item, Token)}
        off = "OFF_KEY" in words
        if isinstance(value, t.Off):
            value, off = value.condition, True
        return t.SortKey(value, "DESC" in words, "FIRST" in words, off, span=span_of(meta))

    def later_key(self, meta: Any, items: Items) -> Any:
        if items[0].type in LATER_WORDS:
            raise not_yet(items[0])
        raise NotYetError("this version does not order ignoring case yet", start=meta.start_pos, end=meta.end_pos)

    def order(self, meta: Any, items: Items) -> t.Order:
        rest = items[1:]
        if isinstance(rest[0], tuple):
            return t.Order(rest[0], span=span_of(meta))
        seed = rest[1][1] if len(rest) > 1 else None
        return t.Order((), rest[0].type == "AT_RANDOM", seed, span=span_of(meta))

    # draw

    def amount(self, meta: Any, items: Items) -> t.Amount:
        return t.Amount(str(items[0]), percent=len(items) > 1, span=span_of(meta))

    def counted(self, meta: Any, items: Items) -> dict[str, Any]:
        return {"form": items[0].lower(), "amount": items[1]}

    def every(self, meta: Any, items: Items) -> dict[str, Any]:
        start = whole(items[2]) if len(items) > 2 else 1
        return {"form": "every", "amount": whole_amount(items[1]), "start": start}

    def rows(self, meta: Any, items: Items) -> dict[str, Any]:
        return {"form": "rows", "amount": whole_amount(items[1]), "start": whole(items[1]), "end": whole(items[2])}

    def chance(self, meta: Any, items: Items) -> dict[str, Any]:
        percent = any(item.type == "PERCENT_WORD" for item in items)
        if len(items) > 2 and not percent:
            if items[1] != "1":
                raise ListError("a chance is written 1 in 10, 10 percent, or 0.1",
                                start=items[1].start_pos, end=items[1].end_pos)  # fmt: skip
            return {"form": "chance", "amount": whole_amount(items[2]), "one_in": True}
        return {"form": "chance", "amount": t.Amount(str(items[1]), percent, span=token_span(items[1]))}

    def later_draw(self, meta: Any, items: Items) -> Any:
        raise not_yet(items[0])

    def later_clause(self, meta: Any, items: Items) -> Any:
        raise not_yet(items[-1])

    def by(self, meta: Any, items: Items) -> tuple[str, Any]:
        return "keys", items[0]

    def per(self, meta: Any, items: Items) -> tuple[str, Any]:
        return "per", tuple(items)

    def ties(self, meta: Any, items: Items) -> tuple[str, Any]:
        return "with_ties", items[0].type == "WITH"

    def seed(self, meta: Any, items: Items) -> tuple[str, Any]:
        return "seed", whole(items[0])

    def draw(self, meta: Any, items: Items) -> t.Draw:
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
                raise ListError(f"{word} stands twice in this draw", start=meta.start_pos, end=meta.end_pos)
            if name not in allowed:
                takes = ", ".join({"keys": "by", "with_ties": "with ties"}.get(a, a) for a in allowed) or "no clause"
                raise ListError(f"draw {form} takes {takes}, not {word}", start=meta.start_pos, end=meta.end_pos)
            fields[name] = value
        if "keys" in allowed:
            check_ranked(form, fields, meta)
        check_amount(fields)
        return t.Draw(**fields, span=span_of(meta))

    # columns

    def one_column(self, meta: Any, items: Items) -> t.OneColumn:
        new_name = None
        if len(items) > 1:
            new_name = unquote(items[1]) if items[1].type == "QUOTED" else str(items[1])
        return t.OneColumn(items[0], new_name, span=span_of(meta))

    def range(self, meta: Any, items: Items) -> t.ColumnRange:
        return t.ColumnRange(items[0], items[1], span=span_of(meta))

    def pattern(self, meta: Any, items: Items) -> t.ColumnPattern:
        return t.ColumnPattern(str(items[0]), span=span_of(meta))

    def regex(self, meta: Any, items: Items) -> t.ColumnRegex:
        return t.ColumnRegex(items[0][1:-1].replace("\\/", "/"), span=span_of(meta))

    def of_kind(self, meta: Any, items: Items) -> t.ColumnsOfKind:
        return t.ColumnsOfKind(items[0].lower(), span=span_of(meta))

    def all(self, meta: Any, items: Items) -> t.AllColumns:
        return t.AllColumns(span=span_of(meta))

    def off_item(self, meta: Any, items: Items) -> t.OffItem:
        return t.OffItem(items[1], span=span_of(meta))

    def column_list(self, meta: Any, items: Items) -> tuple[t.ColumnItem, ...]:
        return tuple(items)

    def columns(self, meta: Any, items: Items) -> t.Columns:
        return t.Columns(items[1], items[2] if len(items) > 2 else (), span=span_of(meta))

    # save

    def save(self, meta: Any, items: Items) -> t.Save:
        names = [str(item).lower() for item in items[2:] if item.type == "NAME"]
        replace = any(item.type == "REPLACE" for item in items[2:])
        return t.Save(unquote(items[1]), names[0] if names else None, replace, span=span_of(meta))


def build(parsed: Tree[Token]) -> t.Statement:
    """Build a statement's tree. Raises ``ListError`` for what the grammar cannot see."""
    result: t.Statement = Builder().transform(parsed)
    return result

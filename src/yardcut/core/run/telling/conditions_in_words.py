"""A condition as somebody says it who has not learnt the language."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.second_tree import InSecond
from yardcut.core.language.syntax.printing import expression_text, second_text

_TESTS = {"CONTAINS": ("contains", "does not contain"), "STARTS WITH": ("begins with", "does not begin with"),
          "ENDS WITH": ("ends with", "does not end with")}  # fmt: skip
_COMPARED = {"=": "is", "<>": "is not", "<": "is below", "<=": "is at most", ">": "is above", ">=": "is at least"}
_IN_TIME = {"<": "is before", "<=": "is not after", ">": "is after", ">=": "is not before"}
_TURNED = (t.Between, t.In, InSecond, t.Like, t.LikeRegex, t.TextTest, t.IsNull, t.Distinct)
_CAPITALS = ", whatever the capitals"


def in_words(node: t.Expression) -> str:
    """Say a condition; pieces that are switched off are left out, "" where all of it is.

    Values keep their own form: what is computed, and texts in quotes.
    """
    match node:
        case t.Off():
            return ""
        case t.And(items):
            return _joined(items, " and ", t.Or)
        case t.Or(items):
            return _joined(items, " or ", t.And)
        case t.Not(condition) if isinstance(condition, _TURNED):
            return _piece(replace(condition, negated=not condition.negated))
        case t.Not(condition):
            said = in_words(condition)
            return f"it is not so that {_bracketed(said, condition)}" if said else ""
        case t.IsTruth(condition, truth, negated):
            said = in_words(condition)
            word = "unknown" if truth is None else "so" if truth else "false"
            return f"it is {'not ' if negated else ''}{word} that {_bracketed(said, condition)}" if said else ""
    return _piece(node)


def _piece(node: t.Expression) -> str:
    match node:
        case t.Comparison(operator, left, right, ignoring):
            words = _IN_TIME if isinstance(right, t.Moment | t.CurrentDate) and operator in _IN_TIME else _COMPARED
            return f"{_value(left)} {words[operator]} {_value(right)}{_CAPITALS * ignoring}"
        case t.Between(value, low, high, symmetric, negated):
            between = "does not lie between" if negated else "lies between"
            ends = " (whichever is the larger)" if symmetric else ""
            return f"{_value(value)} {between} {_value(low)} and {_value(high)}{ends}"
        case t.In(value, items, negated, ignoring):
            verb = (
                ("is not" if len(items) == 1 else "is none of")
                if negated
                else ("is" if len(items) == 1 else "is one of")
            )
            return f"{_value(value)} {verb} {_listed(items)}{_CAPITALS * ignoring}"
        case InSecond(values, second):
            where = f"{', '.join(map(_value, values))} {'does not stand' if node.negated else 'stands'} in"
            return f"{where} {second_text(second)}{_CAPITALS * node.ignoring_case}"
        case t.Like(value, pattern, _, negated, ignoring):
            looks = "does not look like" if negated else "looks like"
            return f"{_value(value)} {looks} {_value(pattern)}{_CAPITALS * ignoring}"
        case t.LikeRegex(value, pattern, flags, negated):
            verb = "does not match" if negated else "matches"
            return f"{_value(value)} {verb} the pattern {_value(pattern)}{_CAPITALS * ('i' in flags)}"
        case t.TextTest(test, value, part, negated, ignoring):
            return f"{_value(value)} {_TESTS[test][negated]} {_value(part)}{_CAPITALS * ignoring}"
        case t.IsNull(value, negated):
            return f"{_value(value)} has {'a' if negated else 'no'} value"
        case t.Distinct(left, right, negated):
            return f"{_value(left)} and {_value(right)} are {'the same' if negated else 'different'}"
        case t.Name() | t.ColumnNumber():
            return f"{_value(node)} is true"
    return expression_text(node)


def _value(node: t.Expression) -> str:
    match node:
        case t.Quantified(every):
            columns = expression_text(node).partition("(")[2].removesuffix(")")
            return f"{'each' if every else 'any'} of {columns}"
        case t.Moment() | t.Text():
            return (
                expression_text(node).partition("'")[2].removesuffix("'")
                if isinstance(node, t.Moment)
                else expression_text(node)
            )
        case t.CurrentDate():
            return "the day of the run"
    return expression_text(node)


def _listed(items: Sequence[t.Expression]) -> str:
    said = [_value(item) for item in items]
    if len(said) > _MOST_LISTED:
        said = [*said[:_MOST_SHOWN], f"{len(said) - _MOST_SHOWN:,} more"]
    return said[0] if len(said) == 1 else f"{', '.join(said[:-1])} or {said[-1]}"


_MOST_LISTED, _MOST_SHOWN = 12, 8


def _joined(items: Sequence[t.Expression], word: str, other: type[t.Expression]) -> str:
    said = [(item, text) for item in items if (text := in_words(item))]
    if len(said) == 1:
        return said[0][1]
    return word.join(f"({text})" if isinstance(item, other) else text for item, text in said)


def _bracketed(said: str, condition: t.Expression) -> str:
    return f"({said})" if isinstance(condition, t.And | t.Or) else said

"""Building conditions from the grammar's parse tree, bottom up; a method is named after its rule."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any, Literal

from lark import Token, Transformer, v_args

from yardcut.core.errors import ListError, Mend, NotYetError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.second_tree import InSecond, Second

_ESCAPES = re.compile(r"\\(\\|\+[0-9a-fA-F]{6}|[0-9a-fA-F]{4})")

LATER_WORDS = {
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
    start = getattr(token, "start_pos", None) or 0
    try:
        found = _ESCAPES.sub(lambda match: _unescape(match.group(1)), inner)
        # two halves (UTF-16, RFC 2781) one behind the other are one character
        return found.encode("utf-16", "surrogatepass").decode("utf-16")
    except UnicodeDecodeError:
        what = "half a character stands alone here"
    except ValueError:
        what = "there is no character of this number"
    raise ListError(f"{what}; a text holds whole ones", start=start, end=start + len(token))


_LITERAL = re.compile(r"'(?:[^'\n]|'')*'|(-)?(\d+(?:\.\d+)?)")


def _literals(token: Token) -> list[t.Expression]:
    """Return the texts and numbers of a long list, each with its place."""
    first = token.start_pos or 0
    found: list[t.Expression] = []
    for match in _LITERAL.finditer(token):
        span = (first + match.start(), first + match.end())
        if match[2] is None:
            found.append(t.Text(match[0][1:-1].replace("''", "'"), span=span))
            continue
        number = t.Number(match[2], span=(first + match.start(2), span[1]))
        found.append(t.Negated(number, span=span) if match[1] else number)
    return found


def name_in(token: Token) -> str:
    """Return the name that a token is, with or without quotes."""
    return unquote(token) if token.type == "QUOTED" else str(token)


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


def span_of(meta: Any) -> t.Span:
    """Return the offsets of a rule's text."""
    return (0, 0) if meta.empty else (meta.start_pos, meta.end_pos)


Rule = Callable[[t.Span, list[Any]], Any]
"""Builds what a rule of the grammar stands for, from the place of its text and from its parts."""
Items = list[Any]


@v_args(meta=True)
class Builder(Transformer[Token, Any]):
    """Builds conditions; other rules of the grammar by the functions it is given, named after them."""

    def __init__(self, rules: Mapping[str, Callable[[t.Span, Items], Any]]) -> None:
        super().__init__()
        self._rules = rules

    def __default__(self, data: str, children: Items, meta: Any) -> Any:
        return self._rules[data](span_of(meta), children)

    def disjunction(self, meta: Any, items: Items) -> Any:
        return items[0] if len(items) == 1 else t.Or(tuple(items), span=span_of(meta))

    def conjunction(self, meta: Any, items: Items) -> Any:
        return items[0] if len(items) == 1 else t.And(tuple(items), span=span_of(meta))

    def negation(self, meta: Any, items: Items) -> Any:
        return items[0] if len(items) == 1 else t.Not(items[1], span=span_of(meta))

    def truth(self, meta: Any, items: Items) -> t.Expression:
        found: t.Expression = items[0]
        negated = False
        for item in items[1:]:
            if isinstance(item, t.Expression):
                found = t.Distinct(found, item, negated, span=(found.span[0], item.span[1]))
                continue
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

    def comparison(self, meta: Any, items: Items) -> Any:
        if len(items) == 1:
            return items[0]
        value, (make, span_end) = items
        return make(value, (value.span[0], span_end))

    def compare(self, meta: Any, items: Items) -> Any:
        operator = "<>" if items[0] == "!=" else str(items[0])
        ignoring = items[-1] is True
        right = items[1]
        return (
            lambda left, span: t.Comparison(operator, left, right, ignoring, span=span)
        ), meta.end_pos  # fmt: skip

    def between(self, meta: Any, items: Items) -> Any:
        words = {item.type for item in items if isinstance(item, Token)}
        low, high = (item for item in items if isinstance(item, t.Expression))
        return (
            lambda value, span: t.Between(value, low, high, "SYMMETRIC" in words, "NOT" in words, span=span)
        ), meta.end_pos

    def _test(self, items: Items) -> tuple[bool, bool, list[Any]]:
        negated = isinstance(items[0], Token) and items[0].type == "NOT"
        ignoring = items[-1] is True
        return negated, ignoring, [item for item in items if isinstance(item, t.Expression)]

    def in_list(self, meta: Any, items: Items) -> Any:
        negated, ignoring, values = self._test(items)
        values = values or _literals(next(item for item in items if item.type == "LITERALS"))
        return (lambda value, span: t.In(value, tuple(values), negated, ignoring, span=span)), meta.end_pos

    def in_second(self, meta: Any, items: Items) -> Any:
        negated, ignoring, columns = self._test(items)
        second = next(item for item in items if isinstance(item, Second))

        def make(value: Any, span: t.Span) -> t.Expression:
            values = value if isinstance(value, tuple) else (value,)
            return InSecond(values, second, tuple(columns), negated, ignoring, span=span)

        return make, meta.end_pos

    def same_row(self, meta: Any, items: Items) -> Any:
        values, (make, span_end) = items
        return make(values, (meta.start_pos, span_end))

    def like(self, meta: Any, items: Items) -> Any:
        negated, ignoring, texts = self._test(items)
        escape = texts[1] if len(texts) > 1 else None
        return (lambda value, span: t.Like(value, texts[0], escape, negated, ignoring, span=span)), meta.end_pos

    def like_regex(self, meta: Any, items: Items) -> Any:
        negated, _, texts = self._test(items)
        flags = texts[1].value if len(texts) > 1 else ""
        return (lambda value, span: t.LikeRegex(value, texts[0], flags, negated, span=span)), meta.end_pos

    def text_test(self, meta: Any, items: Items) -> Any:
        negated, ignoring, texts = self._test(items)
        word = next(item for item in items if isinstance(item, Token) and item.type != "NOT").upper()
        test = word if word == "CONTAINS" else f"{word} WITH"
        return (lambda value, span: t.TextTest(test, value, texts[0], negated, ignoring, span=span)), meta.end_pos

    def ignoring(self, meta: Any, items: Items) -> Literal[True]:
        return True

"""Binding the tests of texts: LIKE, LIKE_REGEX, CONTAINS and their like."""

from __future__ import annotations

from yardcut.core.errors import Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binds import Binds
from yardcut.core.language.meaning.like_patterns import is_whole_pattern
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.values.kinds import Kind, a_kind
from yardcut.core.values.patterns import PatternError, checked

_HOW = {"CONTAINS": "contains", "STARTS WITH": "starts", "ENDS WITH": "ends"}


def like(binder: Binds, node: t.Like) -> b.TextMatch | b.TextPair:
    """Bind LIKE. Raises ``ListError``."""
    escape, pattern = node.escape, node.pattern
    if escape is not None and len(escape.value) != 1:
        raise binder.error(escape, "ESCAPE takes one character")
    option = escape.value if escape else ""
    if isinstance(pattern, t.Text) and not is_whole_pattern(pattern.value, option):
        raise binder.error(pattern, "the pattern ends in the middle of an escape")
    return _of_texts(binder, "like", "LIKE", node.value, pattern, node.ignoring_case, option)


def part_test(binder: Binds, node: t.TextTest) -> b.TextMatch | b.TextPair:
    """Bind CONTAINS, STARTS WITH or ENDS WITH. Raises ``ListError``."""
    return _of_texts(binder, _HOW[node.test], node.test, node.value, node.part, node.ignoring_case)


def regex(binder: Binds, node: t.LikeRegex) -> b.TextMatch:
    """Bind LIKE_REGEX. Raises ``ListError``."""
    pattern, flags = node.pattern, node.flags
    if set(flags) - set("ims"):
        raise binder.error(pattern, "FLAG takes some of i, m and s")
    try:
        checked(pattern.value)
    except PatternError as error:
        raise binder.error(pattern, f"this regular expression cannot be read: {error}") from None
    return b.TextMatch("regex", _text_value(binder, node.value, "LIKE_REGEX"), pattern.value, "i" in flags, flags)


def _of_texts(
    binder: Binds, how: str, test: str, value: t.Expression, part: t.Expression, ignoring: bool, option: str = ""
) -> b.TextMatch | b.TextPair:
    """Bind a test of a text with another one, which is the same for all rows or that of each."""
    bound = _text_value(binder, value, test)
    other = binder.side(part, value)
    if other.kind is not Kind.TEXT:
        text = f"CAST({expression_text(part)} AS text)"
        raise binder.error(
            part, f"{test} takes a text, and {expression_text(part)} is {a_kind(other.kind)}",
            binder.replacing(part, "make it a text", text),
        )  # fmt: skip
    if isinstance(other, b.Constant):
        return b.TextMatch(how, bound, str(other.value), ignoring, option)
    return b.TextPair(how, bound, other, ignoring, option)


def _text_value(binder: Binds, node: t.Expression, test: str) -> b.BoundValue:
    value = binder.value(node)
    if value.kind is not Kind.TEXT:
        raise binder.error(
            node, f"{test} is for texts, and {expression_text(node)} is {a_kind(value.kind)}",
            Mend("compare it with = < > or BETWEEN"),
        )  # fmt: skip
    return value

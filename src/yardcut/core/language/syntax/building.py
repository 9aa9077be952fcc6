"""From the grammar's parse tree to the trees of the language."""

from __future__ import annotations

from lark import Token, Tree

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.building_expressions import Builder, Items, Rule
from yardcut.core.language.syntax.building_seconds import SECOND_RULES
from yardcut.core.language.syntax.building_values import VALUE_RULES
from yardcut.core.language.verbs.all_verbs import VERBS


def _statement(span: t.Span, items: Items) -> t.Statement:
    return t.Statement(items[-1], off=len(items) > 1, span=span)


_RULES: dict[str, Rule] = {"statement": _statement, **VALUE_RULES, **SECOND_RULES}
for _verb in VERBS.values():
    _RULES |= _verb.rules


def build(parsed: Tree[Token]) -> t.Statement:
    """Build a statement's tree. Raises ``ListError`` for what the grammar cannot see."""
    result: t.Statement = Builder(_RULES).transform(parsed)
    return result

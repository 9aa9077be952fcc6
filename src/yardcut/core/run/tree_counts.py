"""What each part of a line's condition does: the rows it lets pass, those it alone takes, and the unknown ones."""

from __future__ import annotations

from dataclasses import dataclass

from yardcut.core.errors import ListError
from yardcut.core.expressions.answers import Answers
from yardcut.core.expressions.conditions import combine_parts
from yardcut.core.language import bound as b
from yardcut.core.language import tree as t
from yardcut.core.language.condition_tree import Path, children, replaced, walk
from yardcut.core.language.printing import expression_text
from yardcut.core.language.verbs.filter import Drop, Keep
from yardcut.core.progress import CancelToken
from yardcut.core.run.executor import Executor
from yardcut.core.run.results import LineResult
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet

_MOST_COSTED = 64
"""Of a tree with more parts it is not worked out what each alone costs: that is a look at the tree for each part."""


@dataclass(frozen=True, slots=True)
class Branch:
    """One node of a condition's tree, found by its ``path``.

    ``text`` is a piece's own text or "all of", "any of", "not"; ``passes`` counts the rows reaching the line for which
    it is true, ``unknown`` those for which it has no answer for want of a value (``None``: it cannot be bound);
    ``costs`` the rows that would be left beside those that are, if it were not there: less than none where it lets
    rows in (``None``: not worked out). ``is_off`` when it, or what it stands in, is switched off.
    """

    path: Path
    text: str
    passes: int | None
    unknown: int | None
    costs: int | None
    is_off: bool = False

    @property
    def depth(self) -> int:
        """How far down it stands."""
        return len(self.path)


def condition_of(result: LineResult) -> t.Expression | None:
    """Return the condition of a keep or drop line, as it is written; ``None`` for other lines."""
    statement = result.line.statement
    if statement is None or result.line.bound is None or not isinstance(statement.body, Keep | Drop):
        return None
    return statement.body.condition


def branches(result: LineResult, executor: Executor, token: CancelToken) -> list[Branch]:
    """Return the tree of a keep or drop line's condition, top down; empty for other lines."""
    root = condition_of(result)
    if root is None:
        return []
    counting = Counting(result, executor, token)
    nodes = list(walk(root))
    off = [path for path, node in nodes if isinstance(node, t.Off)]
    found: list[Branch] = []
    total = counting.left(root)
    for path, node in nodes:
        is_off = any(path[: len(each)] == each for each in off)
        answers = counting.answers(node.condition if isinstance(node, t.Off) else node)
        passes = None if answers is None else counting.rows_in(answers.true)
        unknown = None if answers is None else counting.unknown(answers)
        costs = None
        if path and not is_off and len(nodes) <= _MOST_COSTED and total is not None:
            rest = counting.left(replaced(root, path, None))
            costs = None if rest is None else rest - total
        found.append(Branch(path, branch_text(node), passes, unknown, costs, is_off))
    return found


def rows_of_part(result: LineResult, executor: Executor, path: Path, token: CancelToken) -> RowSet:
    """Return the rows that would be left beside those that are, if a part of the condition were not there."""
    root = condition_of(result)
    assert root is not None
    counting = Counting(result, executor, token)
    rest = replaced(root, path, None)
    left, now = counting.left_bits(rest), counting.left_bits(root)
    if left is None or now is None:
        return result.before.rows.without(result.before.rows.member_bits())
    return result.before.rows.only(left & ~now)


def branch_text(node: t.Expression) -> str:
    """Return what stands in the tree for a node: a piece's own text, or what a group is."""
    match node:
        case t.And():
            return "all of"
        case t.Or():
            return "any of"
        case t.Not():
            return "not"
        case t.IsTruth(truth=truth, negated=negated):
            word = {True: "true", False: "false", None: "unknown"}[truth]
            return f"is {'not ' if negated else ''}{word}"
        case t.Off(inner):
            return "off" if children(inner) else expression_text(inner)
        case _:
            return expression_text(node)


def value_and_bound(piece: t.Expression) -> tuple[t.Expression | None, tuple[tuple[bool, str], ...]]:
    """Return the value a piece asks about, and its bounds: whether each is an upper one, and the field it stands in."""
    match piece:
        case t.Comparison("<" | "<=", left, _):
            return left, ((True, "right"),)
        case t.Comparison(">" | ">=", left, _):
            return left, ((False, "right"),)
        case t.Comparison(_, left, _):
            return left, ()
        case t.Between(value, negated=False, symmetric=False):
            return value, ((False, "low"), (True, "high"))
        case t.In(value) | t.Like(value) | t.LikeRegex(value) | t.TextTest(value=value):
            return value, ()
        case _:
            return None, ()


class Counting:
    """Counts conditions among the rows that reach one line."""

    def __init__(self, result: LineResult, executor: Executor, token: CancelToken) -> None:
        self._result, self._executor, self._token = result, executor, token
        self._members = result.before.rows.member_bits()
        statement = result.line.statement
        self._drops = statement is not None and isinstance(statement.body, Drop)

    def answers(self, node: t.Expression) -> Answers | None:
        """Return the answers of a condition; ``None`` when all of it is off, or it cannot be bound."""
        self._token.check()
        try:
            bound: b.BoundCondition | None = self._executor.condition(node, self._result, self._token)
        except ListError:
            return None
        if bound is None:
            return None
        return combine_parts(bound, self._executor.pieces.answers(bound, self._token))

    def rows_in(self, bits: Array) -> int:
        """Count those of the rows that are marked."""
        return bit.count(self._members & bits)

    def unknown(self, answers: Answers) -> int:
        """Count the rows without an answer."""
        return 0 if answers.unknown is None else self.rows_in(answers.unknown)

    def left_bits(self, node: t.Expression | None) -> Array | None:
        """Return the rows the line would leave with a condition, or none; ``None`` when that cannot be told."""
        if node is None:
            return self._members
        answers = self.answers(node)
        if answers is None:
            return None
        return self._members & ~answers.true if self._drops else self._members & answers.true

    def left(self, node: t.Expression | None) -> int | None:
        """Return how many rows those are."""
        bits = self.left_bits(node)
        return None if bits is None else bit.count(bits)

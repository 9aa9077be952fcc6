"""What each part of a line's condition does: the rows it lets pass, those it alone takes, and the unknown ones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.expressions.evaluating import combine, combine_parts
from yardcut.core.expressions.testing.answers import Answers, all_of, any_of
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.condition_tree import Path, children, replaced, walk
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import pieces_of
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
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
    is_off = [any(path[: len(each)] == each for each in off) for path, _ in nodes]
    own = [counting.bound(node.condition if isinstance(node, t.Off) else node) for _, node in nodes]
    costed = [
        bool(path) and not gone and len(nodes) <= _MOST_COSTED for (path, _), gone in zip(nodes, is_off, strict=True)
    ]
    rest = [
        counting.bound(replaced(root, path, None)) if wanted else None
        for (path, _), wanted in zip(nodes, costed, strict=True)
    ]
    counts = counting.count_all([*own, *rest], unknown_of=len(own))
    whole = counting.bound(root)
    total = None if whole is None else counting.left_of(counting.count_all([whole])[0])
    found: list[Branch] = []
    for place, (path, node) in enumerate(nodes):
        passes, other = counts[place], counts[len(nodes) + place]
        costs = None
        if costed[place] and total is not None:
            is_all = replaced(root, path, None) is None
            left = result.before.rows.count if is_all else counting.left_of(other)
            costs = None if left is None else left - total
        found.append(
            Branch(
                path, branch_text(node), None if passes is None else passes[0], None if passes is None else passes[1],
                costs, is_off[place],
            )
        )  # fmt: skip
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


def _shared(condition: b.BoundCondition, known: dict[b.BoundCondition, b.BoundCondition]) -> b.BoundCondition:
    """Return a condition of which parts that are equal, within it or within others, are the same objects."""
    match condition:
        case b.AllOf(items) | b.AnyOf(items):
            condition = replace(condition, items=tuple(_shared(item, known) for item in items))
        case b.Inverse(item) | b.AnswerIs(item=item):
            condition = replace(condition, item=_shared(item, known))
    return known.setdefault(condition, condition)


def _combined(condition: b.BoundCondition, answers: dict[b.Piece, Answers], known: dict[int, Answers]) -> Answers:
    """Combine as :func:`combine` does, what the very same conditions give only once."""
    found = known.get(id(condition))
    if found is None:
        match condition:
            case b.AllOf(items):
                found = all_of([_combined(item, answers, known) for item in items])
            case b.AnyOf(items):
                found = any_of([_combined(item, answers, known) for item in items])
            case b.Inverse(item):
                found = _combined(item, answers, known).inverse()
            case _:
                found = combine(condition, answers)
        known[id(condition)] = found
    return found


class Counting:
    """Counts conditions among the rows that reach one line."""

    def __init__(self, result: LineResult, executor: Executor, token: CancelToken) -> None:
        self._result, self._executor, self._token = result, executor, token
        self._pieces = executor.pieces.over(result.before.table)
        self._members = result.before.rows.member_bits()
        statement = result.line.statement
        self._drops = statement is not None and isinstance(statement.body, Drop)

    def answers(self, node: t.Expression) -> Answers | None:
        """Return the answers of a condition; ``None`` when all of it is off, or it cannot be bound."""
        self._token.check()
        bound = self.bound(node)
        return None if bound is None else combine_parts(bound, self._pieces.answers(bound, self._token))

    def is_at_hand(self, node: t.Expression) -> bool:
        """Tell whether a condition can be answered without reading columns that stand in their own files only."""
        bound = self.bound(node)
        return bound is not None and self._pieces.at_hand(pieces_of(bound))

    def bound(self, node: t.Expression | None) -> b.BoundCondition | None:
        """Bind a condition; ``None`` when all of it is off, it is none, or it cannot be bound."""
        if node is None:
            return None
        try:
            return self._executor.condition(node, self._result, self._token)
        except ListError:
            return None

    def count_all(
        self, conditions: Sequence[b.BoundCondition | None], unknown_of: int = 0
    ) -> list[tuple[int, int] | None]:
        """Count, of the rows that reach the line, those for which each condition is true, and without an answer.

        The latter of the first ``unknown_of`` conditions only. Part by part of the source, what conditions have in
        common worked out once for each: what a part needs stays in the processor's cache.
        """
        known: dict[b.BoundCondition, b.BoundCondition] = {}
        conditions = [None if each is None else _shared(each, known) for each in conditions]
        wanted = tuple(piece for condition in conditions for piece in pieces_of(condition))
        if not wanted:
            return [None] * len(conditions)
        parts = self._pieces.answers(b.AllOf(wanted), self._token)
        true, unknown = [0] * len(conditions), [0] * len(conditions)
        is_all = self._result.before.rows.bits is None
        first = 0
        for answers in parts:
            self._token.check()
            rows = next(iter(answers.values())).rows
            members = bit.window(self._members, first, first + rows)
            first += rows
            combined: dict[int, Answers] = {}
            for place, condition in enumerate(conditions):
                if condition is None:
                    continue
                found = _combined(condition, answers, combined)
                true[place] += bit.count(found.true if is_all else found.true & members)
                if found.unknown is not None and place < unknown_of:
                    unknown[place] += bit.count(found.unknown if is_all else found.unknown & members)
        return [
            None if condition is None else (one, other)
            for condition, one, other in zip(conditions, true, unknown, strict=True)
        ]

    def left_of(self, counts: tuple[int, int] | None) -> int | None:
        """Return how many rows the line would leave, of what is counted of its condition."""
        if counts is None:
            return None
        return self._result.before.rows.count - counts[0] if self._drops else counts[0]

    def rows_in(self, bits: Array) -> int:
        """Count those of the rows that are marked."""
        return bit.count(self._members & bits)

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

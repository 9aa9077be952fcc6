"""What each part of a line's condition does: the rows it lets pass, and what it alone takes away."""

from __future__ import annotations

from dataclasses import dataclass

from yardcut.core.expressions.conditions import combine_parts
from yardcut.core.language import bound as b
from yardcut.core.language.printing import expression_text
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.progress import CancelToken
from yardcut.core.run.pieces import PieceCache
from yardcut.core.run.results import LineResult
from yardcut.core.table import bits as bit


@dataclass(frozen=True, slots=True)
class Branch:
    """One node of a condition's tree.

    ``text`` is a piece's own text or "all of", "any of", "not"; ``passes`` counts the rows reaching the line for which
    it is true; ``costs`` the rows that would be left if it were not there (``None`` below an OR or NOT).
    """

    depth: int
    text: str
    passes: int
    costs: int | None


def branches(result: LineResult, pieces: PieceCache, token: CancelToken) -> list[Branch]:
    """Return the tree of a keep or drop line's condition, top down; empty for other lines."""
    body = result.line.bound.body if result.line.bound else None
    if not isinstance(body, BoundFilter) or body.condition is None:
        return []
    condition = body.condition
    answers = pieces.answers(condition, token)
    members = result.before.rows.member_bits()

    def passes(node: b.BoundCondition) -> int:
        return bit.count(members & combine_parts(node, answers).true)

    found: list[Branch] = []
    total = passes(condition)

    def walk(node: b.BoundCondition, depth: int, costs: int | None) -> None:
        match node:
            case b.Piece():
                text = expression_text(node.source) if node.source is not None else node.text
                found.append(Branch(depth, text, passes(node), costs))
            case b.AllOf(items) | b.AnyOf(items):
                found.append(Branch(depth, "all of" if isinstance(node, b.AllOf) else "any of", passes(node), costs))
                for place, item in enumerate(items):
                    inner = None
                    if isinstance(node, b.AllOf) and depth == 0 and not body.drops:
                        others = items[:place] + items[place + 1 :]
                        rest = others[0] if len(others) == 1 else b.AllOf(others)
                        inner = passes(rest) - total
                    walk(item, depth + 1, inner)
            case b.Inverse(item):
                found.append(Branch(depth, "not", passes(node), costs))
                walk(item, depth + 1, None)
            case b.AnswerIs(item, truth, negated):
                word = {True: "true", False: "false", None: "unknown"}[truth]
                found.append(Branch(depth, f"is {'not ' if negated else ''}{word}", passes(node), costs))
                walk(item, depth + 1, None)

    walk(condition, 0, None)
    return found

"""The rows a line removed, parted by what decided about them."""

from __future__ import annotations

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.filter_parts import Drop
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.tree_counts import Counting, condition_of
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet

_MOST_ITEMS = 10


@dataclass(frozen=True, slots=True, eq=False)
class ReasonGroup:
    """Rows with one reason: what is said of them, and which they are."""

    says: str
    rows: RowSet


def reason_groups(result: LineResult, executor: Executor, token: CancelToken) -> list[ReasonGroup]:
    """Part the offcut of a keep or drop by the parts of its condition that decided, the largest group first.

    Each removed row is in just one group. Of a keep those parts decide that are not true, and it is said where that is
    for want of a value; of a drop those that are true. Other lines have no groups.
    """
    root = condition_of(result)
    if root is None:
        return []
    statement = result.line.statement
    drops = statement is not None and isinstance(statement.body, Drop)
    kind = t.Or if drops else t.And
    items = [item for item in (root.items if isinstance(root, kind) else (root,)) if not isinstance(item, t.Off)]
    if len(items) > _MOST_ITEMS:
        items = [root]
    counting = Counting(result, executor, token)
    groups: list[tuple[tuple[str, ...], Array]] = [((), result.offcut.rows.member_bits())]
    for item in items:
        answers = counting.answers(item)
        if answers is None:
            continue
        text = expression_text(item)
        parts = [("", answers.false if drops else answers.true), (text if drops else f"not {_in_brackets(item)}",
                 answers.true if drops else answers.false)]  # fmt: skip
        if answers.unknown is not None:
            parts.append(("" if drops else f"no answer to {_in_brackets(item)}", answers.unknown))
        groups = [
            ((*said, says) if says else said, some)
            for said, bits in groups
            for says, part in parts
            if bit.count(some := bits & part)
        ]
    found = [ReasonGroup(" · ".join(said), result.offcut.rows.only(bits)) for said, bits in _merged(groups)]
    return sorted(found, key=lambda group: -group.rows.count)


def _merged(groups: list[tuple[tuple[str, ...], Array]]) -> list[tuple[tuple[str, ...], Array]]:
    """Put groups with the same reason together."""
    merged: dict[tuple[str, ...], Array] = {}
    for said, bits in groups:
        merged[said] = merged[said] | bits if said in merged else bits
    return list(merged.items())


def _in_brackets(node: t.Expression) -> str:
    text = expression_text(node)
    return f"({text})" if isinstance(node, t.And | t.Or | t.Not) else text

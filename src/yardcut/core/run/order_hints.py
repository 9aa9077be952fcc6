"""What is to be said of an order once it is carried out: rows that are tied, and keys that never decide."""

from __future__ import annotations

from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.ties import Ties, count_ties
from yardcut.core.run.results import LineResult
from yardcut.core.run.value_hints import Hint


def ties_of(result: LineResult, token: CancelToken) -> Ties | None:
    """Count the ties of an order line; ``None`` for any other line, and one without keys."""
    body = result.line.bound.body if result.line.bound is not None else None
    if not isinstance(body, BoundOrder) or not body.keys:
        return None
    return count_ties(body.keys, result.rows, result.frame.table, token)


def order_hints(result: LineResult, token: CancelToken) -> tuple[Hint, ...]:
    """Say how many rows an order leaves tied, and which of its keys never decide."""
    ties = ties_of(result, token)
    if ties is None:
        return ()
    body = result.line.bound.body if result.line.bound is not None else None
    assert isinstance(body, BoundOrder)
    keys, tied = body.keys, ties.rows[-1]
    on = "the key" if len(keys) == 1 else f"all {len(keys)} keys"
    says = f"{tied:,} rows are still tied, equal on {on}" if tied else f"no two rows are equal on {on}"
    found = [Hint(says, is_note=True)]
    for place in ties.idle:
        why = "rows equal before it are equal in it too" if ties.pairs[place] else "no rows are equal before it"
        found.append(Hint(f"{keys[place].text} never decides: {why}"))
    return tuple(found)

"""What is to be said of an order once it is carried out: rows that are tied, and keys that never decide."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.language.syntax.order_words import calendar_sequence, in_sequence
from yardcut.core.language.syntax.printing import side_text
from yardcut.core.language.verbs.order import BoundOrder, Order
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.grouping.ties import Ties, count_ties
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.values.kinds import Kind

_MOST_NAMES = 40
"""Of a column with more different values none are looked at for names of months and days."""


def ties_of(result: LineResult, token: CancelToken) -> Ties | None:
    """Count the ties of an order line; ``None`` for any other line, and one without keys."""
    body = result.line.bound.body if result.line.bound is not None else None
    if not isinstance(body, BoundOrder) or not body.keys:
        return None
    return count_ties(body.keys, result.rows, result.frame.table, token)


def order_hints(result: LineResult, executor: Executor, token: CancelToken) -> tuple[Hint, ...]:
    """Say how many rows an order leaves tied, which keys never decide, and which the calendar orders otherwise."""
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
    return (*found, *_calendar_hints(result, body, executor, token))


def _calendar_hints(result: LineResult, body: BoundOrder, executor: Executor, token: CancelToken) -> Iterator[Hint]:
    """Offer the sequence of the calendar for months and weekdays written as words."""
    statement, table = result.line.statement, result.before.table
    assert statement is not None
    written = statement.body.keys  # type: ignore[attr-defined] # it is an order
    bound = iter(body.keys)
    for place, key in enumerate(written):
        if key.off:
            continue
        value = next(bound).named
        stored = [table.columns[number] for number in columns_of(value)]
        is_few = bool(stored) and all(each.is_loaded and each.info.storage == "codes" for each in stored)
        if value.kind is not Kind.TEXT or key.sequence or not is_few:
            continue
        found = distinct_values(value, result.before.rows, executor.runner.over(table), token, most=_MOST_NAMES)
        sequence = calendar_sequence(tuple(text for text, _ in found.values)) if found.is_whole else ()
        if sequence:
            keys = (*written[:place], in_sequence(key, sequence), *written[place + 1 :])
            mended = statement_text(replace(statement, body=Order(keys)))
            yield Hint(
                f"{side_text(key.value)} holds months or days of the week, in the order of the alphabet here", mended
            )

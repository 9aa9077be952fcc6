"""What a tally comes to over all its rows: shown below it, and never among its rows, which somebody may add up."""

from __future__ import annotations

from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult

Totals = dict[int, str]
"""Texts by the numbers of a tally's columns, from 0; a column without a value for all rows is not there."""


def has_totals(result: LineResult) -> bool:
    """Tell whether a line is a tally of more than one group."""
    body = result.line.bound.body if result.line.bound is not None else None
    return isinstance(body, BoundTally) and bool(body.groups) and result.rows.count > 1


def tally_totals(result: LineResult, executor: Executor, token: CancelToken) -> Totals:
    """Return the measures of a tally without its groups: worked out of the rows, not of the groups' figures.

    Kept by the executor. Raises ``StoppedError``.
    """
    found: Totals = executor.noted.get_or(_key(result), lambda: _worked_out(result, executor, token))
    return found


def known_totals(result: LineResult, executor: Executor) -> Totals | None:
    """Return them where they were worked out already."""
    found: Totals | None = executor.noted.get(_key(result))
    return found


def _key(result: LineResult) -> tuple[str, str, str]:
    return "totals", result.before_fingerprint, result.fingerprint


def _worked_out(result: LineResult, executor: Executor, token: CancelToken) -> Totals:
    bound = result.line.bound
    assert bound is not None
    assert isinstance(bound.body, BoundTally)
    groups = len(bound.body.groups)
    frame = executor.put_together(bound.body.without_groups(), result, token)
    texts = frame.page(0, 1, range(len(frame.columns))).cells if frame.rows.count else ()
    return {groups + place: cell[0] for place, cell in enumerate(texts) if cell[0] is not None}

"""What a tally comes to over all its rows: shown below it, and never among its rows, which somebody may add up."""

from __future__ import annotations

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult

_MOST_BESIDE = 100_000
"""Rows of a cross-table beside which a total is worked out."""


@dataclass(frozen=True, slots=True)
class Totals:
    """``below`` are texts by the numbers of a tally's columns, from 0; a column without a value for all is not there.

    ``beside`` are the measures of a cross-table over all that stands along it: by name, one text a row, and one for
    all rows.
    """

    below: dict[int, str]
    beside: tuple[tuple[str, tuple[str, ...], str], ...] = ()


def has_totals(result: LineResult) -> bool:
    """Tell whether a line is a tally of more than one group, or a cross-table."""
    body = result.line.bound.body if result.line.bound is not None else None
    if not isinstance(body, BoundTally):
        return False
    return (bool(body.groups) and result.rows.count > 1) or body.along is not None


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
    body, below = bound.body, {}
    if body.groups and result.rows.count > 1:
        texts = _texts(executor.put_together(body.without_groups(), result, token))
        below = {len(body.groups) + place: cells[0] for place, cells in enumerate(texts) if cells and cells[0]}
    if body.along is None or result.rows.count > _MOST_BESIDE:
        return Totals(below)
    flat = body.without_along()
    each = _texts(executor.put_together(flat, result, token))[len(body.groups) :]
    whole = _texts(executor.put_together(flat.without_groups(), result, token))
    names = [column.name for column in flat.measures]
    return Totals(
        below,
        tuple(
            (name, tuple(text or "" for text in cells), (over_all[0] or "") if over_all and body.groups else "")
            for name, cells, over_all in zip(names, each, whole, strict=True)
        ),
    )


def _texts(frame: Frame) -> list[tuple[str | None, ...]]:
    return list(frame.page(0, frame.rows.count, range(len(frame.columns))).cells)

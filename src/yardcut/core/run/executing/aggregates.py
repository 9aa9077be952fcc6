"""The aggregates of the language: how a value of all rows that reach a line is worked out."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from decimal import Decimal
from fractions import Fraction
from typing import Any

import numpy as np

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_known import Flags
from yardcut.core.profile.extremes import ExtremeRound
from yardcut.core.profile.gathering import GatherRound
from yardcut.core.profile.quantiles import quantile
from yardcut.core.profile.sums import SumRound, as_double
from yardcut.core.ranking.grouping.repeating import repeated_rows
from yardcut.core.run.executing.works.work import Tools
from yardcut.core.table import bits as bit
from yardcut.core.values.kinds import Kind

Aggregate = Callable[[b.Whole, Frame, str, Tools], b.BoundValue]
"""Works out a value of the rows of a frame; the text tells the rows that reach the line from all others."""


def _repeated(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    mark = hashlib.blake2b(f"{before}{whole!r}".encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()
    rows = repeated_rows(whole.values, frame.rows, tools.runner, tools.token, tools.progress)
    return Flags(mark, rows, frame.table.fingerprint)


def _count(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    return b.Constant(Kind.INTEGER, _present(whole.values[0], frame, tools))


def _sum(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    return _summed(whole, _exact_sum(whole, frame, tools))


def _average(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    total = _exact_sum(whole, frame, tools)
    return _summed(whole, total and as_double(total / Fraction(_present(whole.values[0], frame, tools))))


def _exact_sum(whole: b.Whole, frame: Frame, tools: Tools) -> Any:
    return tools.runner.run(SumRound(whole.values[0], frame.rows.bits), tools.token, tools.progress)


def _summed(whole: b.Whole, total: Any) -> b.BoundValue:
    if total is None:
        return b.NoValue(whole.kind)
    found = constant_of(whole.kind, total if isinstance(total, int) else as_double(total))
    return b.NoValue(whole.kind, _beyond(whole)) if isinstance(found, b.NoValue) else found


def _beyond(whole: b.Whole) -> str:
    (value,) = whole.values
    named = value.name if isinstance(value, b.ColumnValue | b.Made) else "…"
    most = "64 bits" if value.kind is Kind.INTEGER else "the largest number"
    return f"SUM({named}) is beyond {most}: it has no value"


def _extreme(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    round_ = ExtremeRound(whole.values[0], frame.rows.bits, whole.function == "MAX")
    return constant_of(whole.kind, tools.runner.run(round_, tools.token, tools.progress))


def _quantile(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    assert whole.share is not None
    return quantile_of(whole, frame, tools, Fraction(whole.share))


def quantile_of(whole: b.Whole, frame: Frame, tools: Tools, share: Fraction) -> b.BoundValue:
    """Return the value below which a share of the rows lies."""
    (value,) = whole.values
    values = tools.runner.run(GatherRound(value, frame.rows.bits), tools.token, tools.progress).values
    assert values is not None
    if not len(values):
        return b.NoValue(whole.kind)
    tools.token.check()
    return constant_of(whole.kind, quantile(np.sort(values), share, value.kind))


def _present(value: b.BoundValue, frame: Frame, tools: Tools) -> int:
    there = tools.pieces.combined(b.Piece(b.Absent(value), negated=True), tools.token)
    return bit.count(there.true & frame.rows.member_bits())


def constant_of(kind: Kind, value: Any) -> b.BoundValue:
    """Return a value as a constant; a double as the very decimal it is, and none that is out of range."""
    if value is None or (kind is Kind.INTEGER and not -(2**63) <= value < 2**63):
        return b.NoValue(kind)
    if kind is Kind.NUMBER:
        return b.Constant(kind, Decimal(float(value))) if np.isfinite(float(value)) else b.NoValue(kind)
    return b.Constant(kind, bool(value) if kind is Kind.BOOLEAN else value)


AGGREGATES: dict[str, Aggregate] = {
    "AVG": _average,
    "SUM": _sum,
    "MIN": _extreme,
    "MAX": _extreme,
    "COUNT": _count,
    "QUANTILE": _quantile,
    "REPEATED": _repeated,
}
"""By the names of their signatures."""

"""The summary of one column over some rows, as the gauge shows it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.zones import zone_of
from yardcut.core.language.meaning.bound import BoundValue, ColumnValue, ShownColumn
from yardcut.core.language.meaning.bound_parts import columns_of, unwrapped
from yardcut.core.profile.bar_widths import heaps
from yardcut.core.profile.estimating import SketchRound
from yardcut.core.profile.gathering import Gathered, GatherRound
from yardcut.core.profile.quantiles import quantile
from yardcut.core.profile.sums import SumRound, as_double
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.table.large_arrays import run_starts
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.vectors import CodedVector, NumericVector
from yardcut.core.table.window import Scatter, Span
from yardcut.core.values.formatting import format_rounded, formatter
from yardcut.core.values.kinds import Kind

BINS = 48
EXACT_VALUES = 1 << 25
LEVELS = 64
_COMMONEST = 24
_OFTEN = 10
"""A text that stands in a sample less often than this is not said to be common."""


@dataclass(frozen=True, slots=True)
class Summary:
    """A column over some rows. Values are texts as the grid shows them; ``None`` where there is no value at all.

    ``commonest`` are (text, rows), the most frequent first; ``bins`` counts rows in equal steps from ``least`` to
    ``most`` for kinds with an order other than the alphabet's, and ``levels`` are numbers at even steps through the
    values in that order; ``heap`` is the value with the most (text, rows) among those that heap up in one of the
    ``bins``. With ``estimated`` the number of distinct values is an estimate, and quartiles, ``commonest``,
    ``bins`` and ``heap`` come from a sample.
    """

    name: str
    kind: Kind
    rows: int
    present: int
    distinct: int
    least: str | None = None
    lower_quartile: str | None = None
    median: str | None = None
    upper_quartile: str | None = None
    most: str | None = None
    total: str | None = None
    average: str | None = None
    commonest: tuple[tuple[str, int], ...] = ()
    bins: tuple[int, ...] = ()
    set_aside: int = 0
    set_aside_texts: tuple[tuple[str, int], ...] = ()
    estimated: bool = False
    levels: tuple[float, ...] = ()
    heap: tuple[str, int] | None = None

    @property
    def missing(self) -> int:
        """Rows without a value."""
        return self.rows - self.present


def summarise(column: ShownColumn, rows: RowSet, runner: Runner, token: CancelToken) -> Summary:
    """Summarise a column over a set of rows. O(n log n).

    Distinct counts, quartiles and commonest values are exact up to ``EXACT_VALUES`` rows, and for texts of which few
    recur and booleans always; beyond they are estimates, and marked as such.
    """
    value, table = column.value, runner.table
    table.load(columns_of(value), token)
    plain = unwrapped(value)
    info = table.columns[plain.column].info if isinstance(plain, ColumnValue) else None
    start = Summary(column.name, column.kind, rows.count, 0, 0)
    if isinstance(value, ColumnValue) and info is not None:
        start = replace(start, set_aside=info.set_aside, set_aside_texts=info.set_aside_texts)
    is_coded = isinstance(evaluate(value, Span(table, 0, 0)), CodedVector)
    if rows.count > EXACT_VALUES and not is_coded and column.kind is not Kind.BOOLEAN:
        return _estimated(start, value, rows, runner, token)
    gathered = runner.run(GatherRound(value, rows.bits), token)
    if column.kind is Kind.TEXT:
        return _texts(start, gathered, value, runner)
    assert gathered.values is not None
    values = in_order(gathered.values)
    token.check()
    present = len(values)
    starts = _starts(values, column.kind)
    base = replace(start, present=present, distinct=_distinct(values), bins=_bins(values, starts))
    if not present:
        return base
    write = formatter(column.kind, zone_of(value, table))

    if column.kind is Kind.BOOLEAN:
        yes = int(values.sum())
        pairs = sorted((("true", yes), ("false", present - yes)), key=lambda pair: -pair[1])
        return replace(base, commonest=tuple(pair for pair in pairs if pair[1]))
    quarters = _quarters(values, column.kind, write)
    base = replace(
        base, least=write(values[0].item()), lower_quartile=quarters[0], median=quarters[1], upper_quartile=quarters[2],
        most=write(values[-1].item()), levels=_levels(values), heap=_heap(values, starts, write),
    )  # fmt: skip
    return _with_sum(base, value, rows, runner, token)


def _quarters(ordered: Array, kind: Kind, write: Callable[..., str]) -> list[str]:
    """Write the quartiles of sorted values; between integers there may be a number."""
    found = [quantile(ordered, Fraction(number, 4), kind) for number in (1, 2, 3)]
    return [formatter(Kind.NUMBER)(value) if isinstance(value, float) else write(value) for value in found]


def _with_sum(base: Summary, value: BoundValue, rows: RowSet, runner: Runner, token: CancelToken) -> Summary:
    total = runner.run(SumRound(value, rows.bits), token) if base.kind.is_numeric else None
    if total is None:
        return base
    shown = total if isinstance(total, int) else as_double(total)
    return replace(base, total=formatter(base.kind)(shown), average=format_rounded(as_double(total / base.present)))


def _estimated(start: Summary, value: BoundValue, rows: RowSet, runner: Runner, token: CancelToken) -> Summary:
    sketch = runner.run(SketchRound(value, rows.bits), token)
    sample = evaluate(value, Scatter(runner.table, sketch.rows))
    scale = sketch.present / max(1, len(sketch.rows))
    base = replace(start, present=sketch.present, distinct=sketch.distinct(), estimated=True)
    if not sketch.present:
        return base
    if not isinstance(sample, NumericVector):
        counted = [pair for pair in Counter(sample.texts()).most_common(_COMMONEST) if pair[1] >= _OFTEN]
        return replace(base, commonest=tuple((text or "", round(count * scale)) for text, count in counted))
    values = np.sort(sample.values)
    write = formatter(base.kind, zone_of(value, runner.table))
    quarters = _quarters(values, base.kind, write)
    starts = _starts(values, base.kind)
    heap = _heap(values, starts, write)
    base = replace(
        base, least=write(sketch.least), lower_quartile=quarters[0], median=quarters[1], upper_quartile=quarters[2],
        most=write(sketch.most), bins=tuple(round(count * scale) for count in _bins(values, starts)),
        levels=_levels(values), heap=None if heap is None else (heap[0], round(heap[1] * scale)),
    )  # fmt: skip
    return _with_sum(base, value, rows, runner, token)


def in_order(values: Array) -> Array:
    """Return values sorted; narrow integers, of which there are few different ones, by counting each. O(n)."""
    if values.dtype.kind not in "iu" or values.dtype.itemsize > 2:
        values.sort()
        return values
    least = np.iinfo(values.dtype).min
    counts = np.bincount(values.astype(np.int64) - least)
    return np.repeat(np.arange(least, least + len(counts)).astype(values.dtype), counts)


def _levels(ordered: Array) -> tuple[float, ...]:
    places = np.linspace(0, len(ordered) - 1, min(LEVELS, len(ordered))).round().astype(np.int64)
    return tuple(ordered[places].astype(np.float64).tolist())


def _distinct(ordered: Array) -> int:
    return int(np.count_nonzero(ordered[1:] != ordered[:-1])) + 1 if len(ordered) else 0


def _starts(ordered: Array, kind: Kind) -> Array:
    """Return where equal steps over the range of sorted values start; none where there are no such steps."""
    none = np.empty(0, dtype=np.int64)
    if not len(ordered) or kind is Kind.BOOLEAN:
        return none
    least, most = float(ordered[0]), float(ordered[-1])
    if not np.isfinite(most - least):
        return none
    steps = BINS if most > least else 1
    if kind is not Kind.NUMBER:
        steps = min(steps, int(most - least) + 1)
    edges = least + (most - least + (0 if kind is Kind.NUMBER else 1)) * np.arange(1, steps) / steps
    return np.concatenate(([0], np.searchsorted(ordered, edges))).astype(np.int64)


def _bins(ordered: Array, starts: Array) -> tuple[int, ...]:
    return tuple(np.diff(np.append(starts, len(ordered))).tolist()) if len(starts) else ()


def _heap(ordered: Array, starts: Array, write: Callable[..., str]) -> tuple[str, int] | None:
    """Return the largest heap inside one of the steps."""
    found = max(filter(None, heaps(ordered, starts)), key=lambda heap: heap[1], default=None)
    return None if found is None else (write(found[0]), found[1])


def _texts(start: Summary, gathered: Gathered, value: BoundValue, runner: Runner) -> Summary:
    if gathered.dictionary is not None and gathered.counts is not None:
        pairs = [
            (text, count)
            for text, count in zip(gathered.dictionary.texts, gathered.counts.tolist(), strict=True)
            if count
        ]
        pairs.sort(key=lambda pair: -pair[1])
        texts = [text for text, _ in pairs]
        return replace(
            start, present=int(gathered.counts.sum()), distinct=len(pairs), least=min(texts, default=None),
            most=max(texts, default=None), commonest=tuple(pairs[:_COMMONEST]),
        )  # fmt: skip
    assert gathered.values is not None
    assert gathered.row_ids is not None
    hashes = np.sort(gathered.values)  # sorting values is several times faster than sorting positions
    starts = run_starts(hashes)
    counts = np.diff(np.append(starts, len(hashes)))
    best = _largest(counts, _COMMONEST)
    places = [int(np.argmax(gathered.values == word)) for word in hashes[starts[best]]]
    found = evaluate(value, Scatter(runner.table, gathered.row_ids[places])).texts()
    commonest = tuple((text or "", int(count)) for text, count in zip(found, counts[best], strict=True))
    return replace(start, present=len(hashes), distinct=len(starts), commonest=commonest)


def _largest(counts: Array, most: int) -> Array:
    """Return the places of the largest counts, the largest first."""
    if len(counts) > most:
        edge = np.partition(counts, len(counts) - most)[len(counts) - most]
        above = np.flatnonzero(counts > edge)
        chosen = np.concatenate((above, np.flatnonzero(counts == edge)[: most - len(above)]))
    else:
        chosen = np.arange(len(counts))
    return chosen[np.argsort(-counts[chosen], kind="stable")]

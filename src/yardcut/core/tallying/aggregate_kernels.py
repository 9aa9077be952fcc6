"""What an aggregate comes to in each group: one kernel each, by the names of their signatures."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal
from fractions import Fraction
from typing import Any

import numpy as np

from yardcut.core.language.meaning import bound as b
from yardcut.core.profile.quantiles import quantile
from yardcut.core.profile.sums import as_double, square_root
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.joining_vectors import join_vectors
from yardcut.core.table.large_arrays import zeros
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector, PlainVector, Vector
from yardcut.core.tallying.grouped_rounds import CountRound, ExtremesRound, Moments, MomentsRound
from yardcut.core.tallying.grouped_sums import block_for
from yardcut.core.tallying.row_groups import RowGroups
from yardcut.core.tallying.sorted_groups import GatherByGroupRound, Gathered
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind

_INTEGERS = (-(2**63), 2**63 - 1)
MOST_AT_ONCE = 1 << 24
"""Groups whose sums are added up at once: those of more take several rounds, and no more memory."""


@dataclass(frozen=True, slots=True, eq=False)
class InGroups:
    """One aggregate to be worked out over the ``members`` (one bit a row; ``None``: all) of some groups."""

    aggregate: b.Aggregate
    groups: RowGroups
    members: Array | None
    runner: Runner
    token: CancelToken
    progress: Progress | None = None

    @property
    def value(self) -> b.BoundValue:
        """What is put together."""
        return self.aggregate.values[0]

    def run(self, work: Round[Any, Any]) -> Any:
        """Make a round over the rows."""
        return self.runner.run(work, self.token, self.progress)

    def _ranges(self) -> Iterator[tuple[Array | None, Array, int]]:
        """Yield the members, the numbers of their groups and how many groups there are: of as many groups as there is
        room for at once, one range of groups after the other.
        """
        numbers, groups = self.groups.numbers, len(self.groups)
        if groups <= MOST_AT_ONCE:
            yield self.members, numbers, groups
            return
        shifted = zeros(len(numbers), numbers.dtype)
        for first in range(0, groups, MOST_AT_ONCE):
            end = min(first + MOST_AT_ONCE, groups)
            inside = bit.pack((numbers >= first) & (numbers < end))
            np.subtract(numbers, numbers.dtype.type(first), out=shifted)  # of the others it means nothing
            yield inside if self.members is None else inside & self.members, shifted, end - first

    def counts(self) -> Array:
        """Return how many members of each group have a value (int64)."""
        value = self.aggregate.values[0] if self.aggregate.values else None
        if value is None and self.members is self.groups.rows.bits:
            return self.groups.counts
        found = [self.run(CountRound(value, *some)) for some in self._ranges()]
        return np.concatenate([np.zeros(0, np.int64), *found])

    def moments(self, result: Callable[[Moments], Array], *, squared: bool = False) -> tuple[Array, Array]:
        """Return what is made of the sums of each group, and how many values each has (int64)."""
        block = block_for(int(self.groups.counts.max(initial=0)))
        each = self.groups.counts if self.members is self.groups.rows.bits is None else None
        each = each if len(self.groups) <= MOST_AT_ONCE else None
        found, counts = [], [np.zeros(0, np.int64)]
        for some in self._ranges():
            moments: Moments = self.run(MomentsRound(self.value, *some, squared, block, each))
            found.append(result(moments))
            counts.append(moments.counts)
        return np.concatenate(found) if found else np.zeros(0), np.concatenate(counts)

    def extremes(self, *, largest: bool) -> Array:
        """Return the least or largest value of each group, not of texts; it means nothing where there is none."""
        return np.concatenate([self.run(ExtremesRound(self.value, *some, largest)) for some in self._ranges()])

    def gathered(self) -> Gathered:
        """Return the values beside their groups."""
        found: Gathered = self.run(GatherByGroupRound(self.value, self.members, self.groups.numbers, len(self.groups)))
        return found


_FEW_GROUPS = 1 << 16
"""So many are counted one by one in less time than all values are added up."""


@dataclass(frozen=True, slots=True)
class Measured:
    """A value for each group, and how many rows were left out of it for want of one; ``notes`` tell what has none."""

    vector: Vector
    present: int
    notes: tuple[str, ...] = ()


def _count(work: InGroups) -> Measured:
    counts = work.counts()
    return Measured(NumericVector(Kind.INTEGER, counts), int(counts.sum()))


def _sum(work: InGroups) -> Measured:
    if work.aggregate.kind is Kind.NUMBER:
        return _numbers(work, *work.moments(lambda moments: moments.sums.doubles()))
    low, high = _INTEGERS
    pairs, counts = work.moments(lambda moments: _within(moments.sums.exact(), low, high))
    values, beyond = pairs[:, 0], pairs[:, 1].astype(np.bool_)
    notes = (f"{_named(work)} is beyond 64 bits in {int(beyond.sum()):,} groups: no value",) if beyond.any() else ()
    gone = beyond | (counts == 0)
    return Measured(NumericVector(Kind.INTEGER, values, gone if gone.any() else None), int(counts.sum()), notes)


def _within(exact: Sequence[int | Fraction | float], low: int, high: int) -> Array:
    """Return integers with whether they are beyond the bounds (0 then), side by side (int64)."""
    inside = [total if low <= total <= high else None for total in exact]
    return np.array([(0, 1) if total is None else (total, 0) for total in inside], np.int64).reshape(-1, 2)


def _named(work: InGroups) -> str:
    return work.aggregate.text or work.aggregate.function


def _numbers(work: InGroups, values: Array, counts: Array, least: int = 1) -> Measured:
    """Return doubles as a result; a group of too few values, or whose value is beyond the largest number, has none."""
    odd = ~np.isfinite(values) & (counts >= least)
    notes = (
        (f"{_named(work)} is beyond the largest number in {int(odd.sum()):,} groups: no value",) if odd.any() else ()
    )
    shown = np.where((counts >= least) & ~odd, values, np.nan)
    return Measured(NumericVector(Kind.NUMBER, shown), int(counts.sum()), notes)


def _average(work: InGroups) -> Measured:
    return _numbers(work, *work.moments(lambda moments: moments.sums.doubles(moments.counts)))


def _variances(moments: Moments, then: Callable[[Fraction], Fraction] = lambda exact: exact) -> Array:
    """Return the sample variance of each group, or what is made of it: exact until it is rounded once."""
    assert moments.squares is not None
    assert moments.wide is not None
    found = []
    sums, squares = moments.sums.exact(), moments.squares.exact()
    for number, (total, square, count) in enumerate(zip(sums, squares, moments.counts.tolist(), strict=True)):
        if count < 2 or isinstance(total, float) or isinstance(square, float):
            found.append(math.nan if isinstance(total, float) else 0.0)
            continue
        whole = Fraction(square) + moments.wide.get(number, 0)
        found.append(as_double(then((whole - Fraction(total) ** 2 / count) / (count - 1))))
    return np.array(found, np.float64)


def _variance(work: InGroups) -> Measured:
    return _numbers(work, *work.moments(_variances, squared=True), 2)


def _deviation(work: InGroups) -> Measured:
    return _numbers(work, *work.moments(lambda moments: _variances(moments, square_root), squared=True), 2)


def _extreme(work: InGroups) -> Measured:
    largest, groups = work.aggregate.function == "MAX", len(work.groups)
    if work.value.kind is Kind.TEXT:
        gathered = work.gathered()
        values, ends = gathered.in_groups(groups)
        counts = np.diff(ends)
        at = np.clip(ends[1:] - 1 if largest else ends[:-1], 0, max(0, len(values) - 1))
        codes = np.where(counts > 0, values[at] if len(values) else -1, -1)
        return Measured(CodedVector(codes, Dictionary(gathered.texts)).in_use(), int(counts.sum()))
    return _of_kind(work, work.extremes(largest=largest), work.counts())


def _of_kind(work: InGroups, values: Array, counts: Array) -> Measured:
    """Return values of the aggregate's own kind; a group without one has none."""
    kind = work.aggregate.kind
    if kind is Kind.NUMBER:
        return _numbers(work, values.astype(np.float64), counts)
    gone = counts == 0
    kept = np.where(gone, 0, values).astype(STORAGE_DTYPE[kind])
    return Measured(NumericVector(kind, kept, gone if gone.any() else None, zone=_zone(work)), int(counts.sum()))


def _zone(work: InGroups) -> str:
    from yardcut.core.expressions.zones import zone_of

    return zone_of(work.value, work.runner.table) if work.aggregate.kind is Kind.INSTANT else ""


def _median(work: InGroups) -> Measured:
    return _at_share(work, Fraction(1, 2))


def _quantile(work: InGroups) -> Measured:
    assert work.aggregate.share is not None
    return _at_share(work, Fraction(work.aggregate.share))


def _at_share(work: InGroups, share: Fraction) -> Measured:
    values, ends = work.gathered().in_groups(len(work.groups))
    counts, kind, found = np.diff(ends), work.aggregate.kind, []
    for first, end in zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True):
        found.append(quantile(values[first:end], share, work.value.kind) if end > first else 0)
    dtype = np.float64 if kind is Kind.NUMBER else np.dtype(STORAGE_DTYPE[kind])
    return _of_kind(work, np.array(found, dtype), counts)


def _count_distinct(work: InGroups) -> Measured:
    gathered = work.gathered()
    values, ends = gathered.in_groups(len(work.groups))
    begins = np.ones(len(values), np.bool_)
    begins[1:] = values[1:] != values[:-1]
    begins[ends[:-1][np.diff(ends) > 0]] = True
    if len(work.groups) <= _FEW_GROUPS:
        pairs = zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True)
        counts = np.array([np.count_nonzero(begins[first:end]) for first, end in pairs], np.int64)
    else:
        seen = np.concatenate(([0], np.cumsum(begins)))
        counts = seen[ends[1:]] - seen[ends[:-1]]
    return Measured(NumericVector(Kind.INTEGER, counts), len(values))


KERNELS: dict[str, Callable[[InGroups], Measured]] = {
    "COUNT": _count,
    "COUNT DISTINCT": _count_distinct,
    "SUM": _sum,
    "AVG": _average,
    "MIN": _extreme,
    "MAX": _extreme,
    "MEDIAN": _median,
    "QUANTILE": _quantile,
    "VAR_SAMP": _variance,
    "STDDEV_SAMP": _deviation,
}


def vector_of(kind: Kind, values: Sequence[Any], zone: str = "") -> Vector:
    """Return values of a kind (``None``: missing), as the keys of groups are, as a vector."""
    if kind is Kind.TEXT:
        seen: dict[str, int] = {}
        codes = [-1 if value is None else seen.setdefault(value, len(seen)) for value in values]
        return CodedVector(np.array(codes, np.int64), Dictionary(list(seen)))
    if kind is Kind.NUMBER:
        return NumericVector(kind, np.array([math.nan if value is None else value for value in values], np.float64))
    gone = np.array([value is None for value in values], np.bool_)
    numbers = np.array([0 if value is None else value for value in values], STORAGE_DTYPE[kind])
    return NumericVector(kind, numbers, gone if gone.any() else None, zone=zone)


def with_one_more(vector: Vector, last: Vector | None) -> Vector:
    """Return a vector with one value behind it: that of another vector of one row, or none."""
    if isinstance(vector, CodedVector):
        return CodedVector(np.append(vector.codes.astype(np.int64), -1), vector.dictionary)
    if isinstance(vector, PlainVector):
        last = PlainVector(np.array([0, 1]), np.array([10], np.uint8), np.array([True]))
        return join_vectors([vector, last])
    found = join_vectors([vector, vector_of(vector.kind, [None]) if last is None else last])  # type: ignore[list-item]
    assert isinstance(found, NumericVector)
    return NumericVector(found.kind, found.values, found.missing, zone=vector.zone)


def constant_in(vector: Vector, place: int = 0) -> int | str | Decimal | None:
    """Return the value at a place of a vector as a constant of the language has it; ``None`` where there is none."""
    text = vector.texts()[place]
    if text is None:
        return None
    if isinstance(vector, NumericVector):
        value = vector.values[place].item()
        return Decimal(value) if vector.kind is Kind.NUMBER else int(value)
    return text
